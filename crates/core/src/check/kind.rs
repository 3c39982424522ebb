//! Kinds of findings: the one table of what the checks look for, how bad it is, and what can be done.

use super::remedy_kind::Remedy;

/// How bad it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Severity {
    /// It cannot be cut so.
    Stop,
    /// It can be cut, and will likely disappoint.
    Warn,
    /// Good to know.
    Note,
}

impl Severity {
    /// Its word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Stop => "stop",
            Self::Warn => "warn",
            Self::Note => "note",
        }
    }
}

/// What is wrong.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[allow(missing_docs, reason = "each is told by its row of the table")]
pub enum Kind {
    NothingToCut,
    BitmapOnly,
    TooLarge,
    OffStock,
    OverEdge,
    Mirrored,
    Open,
    SelfCrossing,
    Crossing,
    Doubled,
    FallsOut,
    Thin,
    Gap,
    Web,
    SmallPart,
    SmallHole,
    Spike,
    Overlap,
    Hidden,
    OverNoded,
    ManyParts,
    Unregistered,
}

/// What there is to say of a kind.
struct About {
    kind: Kind,
    /// Its word for scripts and addresses.
    slug: &'static str,
    /// As the list says it.
    title: &'static str,
    /// Why it matters.
    why: &'static str,
    /// Its figure against its limit, and where that comes from.
    told: &'static str,
    severity: Severity,
    /// What can be done, the most likely first.
    remedies: &'static [Remedy],
}

const KINDS: [About; 22] = [
    About {
        kind: Kind::NothingToCut,
        slug: "nothing-to-cut",
        title: "Nothing to cut",
        why: "the machine would have nothing to do",
        told: "{source}",
        severity: Severity::Stop,
        remedies: &[],
    },
    About {
        kind: Kind::BitmapOnly,
        slug: "bitmap-only",
        title: "Only a picture",
        why: "a picture has no lines to cut: trace it first",
        told: "{source}",
        severity: Severity::Stop,
        remedies: &[],
    },
    About {
        kind: Kind::TooLarge,
        slug: "too-large",
        title: "Larger than the stock",
        why: "it does not fit between the margins",
        told: "{value} where {limit} can be cut of {source}",
        severity: Severity::Stop,
        remedies: &[Remedy::FitStock],
    },
    About {
        kind: Kind::OffStock,
        slug: "off-stock",
        title: "Outside what can be cut",
        why: "the tool would run off the stock",
        told: "{value} over the edge of {source}",
        severity: Severity::Stop,
        remedies: &[Remedy::MoveInside],
    },
    About {
        kind: Kind::OverEdge,
        slug: "over-an-edge",
        title: "Over an edge, a hole or a flaw",
        why: "as it lies it would be cut where the stock ends; the Sheet line lays its parts one by one",
        told: "at the place shown on {source}",
        severity: Severity::Warn,
        remedies: &[Remedy::MoveInside, Remedy::FitStock],
    },
    About {
        kind: Kind::Mirrored,
        slug: "mirrored",
        title: "Mirrored the wrong way",
        why: "it would read backwards when applied",
        told: "{source}",
        severity: Severity::Stop,
        remedies: &[Remedy::AsMaterial],
    },
    About {
        kind: Kind::Open,
        slug: "open",
        title: "Open line",
        why: "the part stays attached where the line is open",
        told: "{value} between its ends",
        severity: Severity::Stop,
        remedies: &[Remedy::Close, Remedy::DrawIt],
    },
    About {
        kind: Kind::SelfCrossing,
        slug: "self-crossing",
        title: "Crosses itself",
        why: "the piece between the lines comes loose",
        told: "",
        severity: Severity::Stop,
        remedies: &[Remedy::Part],
    },
    About {
        kind: Kind::Crossing,
        slug: "crossing",
        title: "Crosses another line",
        why: "the piece between the lines comes loose",
        told: "",
        severity: Severity::Stop,
        remedies: &[Remedy::Part],
    },
    About {
        kind: Kind::Doubled,
        slug: "doubled",
        title: "Doubled line",
        why: "cutting twice tears film and burns wood",
        told: "over {value}",
        severity: Severity::Warn,
        remedies: &[Remedy::Single],
    },
    About {
        kind: Kind::FallsOut,
        slug: "falls-out",
        title: "Falls out",
        why: "nothing holds it to the sheet",
        told: "{value} across",
        severity: Severity::Warn,
        remedies: &[Remedy::Bridge, Remedy::FillHole],
    },
    About {
        kind: Kind::Thin,
        slug: "thin",
        title: "Thin stroke",
        why: "it tears or burns away",
        told: "{value}; {source} needs {limit}",
        severity: Severity::Warn,
        remedies: &[Remedy::Widen],
    },
    About {
        kind: Kind::Gap,
        slug: "gap",
        title: "Narrow gap",
        why: "what lies between is too narrow to weed",
        told: "{value}; {source} needs {limit}",
        severity: Severity::Warn,
        remedies: &[Remedy::OpenGap, Remedy::CloseGap],
    },
    About {
        kind: Kind::Web,
        slug: "web",
        title: "Little left between holes",
        why: "the template tears there; set the stones anew with a wider gap, or make the holes less wide",
        told: "{value}; {source} needs {limit}",
        severity: Severity::Warn,
        remedies: &[],
    },
    About {
        kind: Kind::SmallPart,
        slug: "small-part",
        title: "Small part",
        why: "it lifts off or gets lost",
        told: "{value}; {source} needs {limit}",
        severity: Severity::Warn,
        remedies: &[Remedy::Drop, Remedy::Grow],
    },
    About {
        kind: Kind::SmallHole,
        slug: "small-hole",
        title: "Small hole",
        why: "what is inside does not come out cleanly",
        told: "{value}; {source} needs {limit}",
        severity: Severity::Warn,
        remedies: &[Remedy::FillHole, Remedy::GrowHole],
    },
    About {
        kind: Kind::Spike,
        slug: "spike",
        title: "Spike",
        why: "the tip lifts off the backing",
        told: "{value}; {source} needs {limit}",
        severity: Severity::Warn,
        remedies: &[Remedy::Round],
    },
    About {
        kind: Kind::Overlap,
        slug: "overlap",
        title: "No overlap",
        why: "the ground shows between two layers that shift a little",
        told: "edge to edge over {value}; {source} wants {limit}",
        severity: Severity::Warn,
        remedies: &[Remedy::Overlap],
    },
    About {
        kind: Kind::Hidden,
        slug: "hidden",
        title: "Hidden under a layer",
        why: "it is covered, so it need not be cut",
        told: "{value} across",
        severity: Severity::Note,
        remedies: &[Remedy::Drop],
    },
    About {
        kind: Kind::OverNoded,
        slug: "over-noded",
        title: "Too many nodes",
        why: "the machine slows down and stutters",
        told: "a node every {value}; {source} runs well from {limit}",
        severity: Severity::Note,
        remedies: &[Remedy::Refit],
    },
    About {
        kind: Kind::ManyParts,
        slug: "many-parts",
        title: "Many parts to weed",
        why: "weeding takes long",
        told: "{value}; {source} is quick up to {limit}",
        severity: Severity::Note,
        remedies: &[],
    },
    About {
        kind: Kind::Unregistered,
        slug: "unregistered",
        title: "No registration shapes",
        why: "layers have to be laid over each other by eye",
        told: "{source}",
        severity: Severity::Note,
        remedies: &[Remedy::Register],
    },
];

impl Kind {
    /// All of them, in the order in which they are listed.
    pub fn all() -> impl Iterator<Item = Self> {
        KINDS.iter().map(|about| about.kind)
    }

    const fn about(self) -> &'static About {
        &KINDS[self as usize]
    }

    /// Its word for scripts.
    #[must_use]
    pub const fn slug(self) -> &'static str {
        self.about().slug
    }

    /// The kind of a word.
    #[must_use]
    pub fn from_slug(slug: &str) -> Option<Self> {
        Self::all().find(|k| k.slug() == slug)
    }

    /// As the list says it.
    #[must_use]
    pub const fn title(self) -> &'static str {
        self.about().title
    }

    /// Why it matters.
    #[must_use]
    pub const fn why(self) -> &'static str {
        self.about().why
    }

    /// How bad it is.
    #[must_use]
    pub const fn severity(self) -> Severity {
        self.about().severity
    }

    /// What can be done, the most likely first.
    #[must_use]
    pub const fn remedies(self) -> &'static [Remedy] {
        self.about().remedies
    }

    /// A figure, its limit and where that comes from, in words.
    pub(super) fn told(self, value: &str, limit: &str, source: &str) -> String {
        let told = self.about().told;
        let told = told.replace("{value}", value).replace("{limit}", limit);
        told.replace("{source}", source)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_kind_is_where_its_number_says() {
        for (n, about) in KINDS.iter().enumerate() {
            assert_eq!(about.kind as usize, n);
            assert_eq!(Kind::from_slug(about.slug), Some(about.kind));
        }
    }
}
