//! What a check found: kind, place, figure against limit, and what can be done.

use kurbo::Point;

use crate::units::{MM_PER_INCH, Unit};

/// What is wrong.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[allow(missing_docs, reason = "each is told by its title")]
pub enum Kind {
    NothingToCut,
    BitmapOnly,
    TooLarge,
    OffStock,
    Mirrored,
    Open,
    SelfCrossing,
    Crossing,
    Doubled,
    FallsOut,
    Thin,
    Gap,
    SmallPart,
    SmallHole,
    Spike,
    Overlap,
    Hidden,
    OverNoded,
    ManyParts,
    Unregistered,
}

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

/// What a figure measures.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Measure {
    /// A length, mm.
    Mm,
    /// An angle, degrees.
    Degrees,
    /// A number of things.
    Count,
}

impl Measure {
    /// Its symbol.
    #[must_use]
    pub const fn symbol(self) -> &'static str {
        match self {
            Self::Mm => "mm",
            Self::Degrees => "deg",
            Self::Count => "",
        }
    }

    fn told(self, value: f64, unit: Unit) -> String {
        match (self, unit) {
            (Self::Mm, Unit::Mm) => format!("{value:.2} mm"),
            (Self::Mm, Unit::In) => format!("{:.3} in", value / MM_PER_INCH),
            (Self::Degrees, _) => format!("{value:.0}°"),
            (Self::Count, _) => format!("{value:.0}"),
        }
    }
}

/// What can be done about it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[allow(missing_docs, reason = "each is told by its words")]
pub enum Remedy {
    Widen,
    OpenGap,
    CloseGap,
    Drop,
    Grow,
    FillHole,
    GrowHole,
    Round,
    Refit,
    Part,
    Single,
    Close,
    DrawIt,
    MoveInside,
    FitStock,
    AsMaterial,
    Overlap,
    Register,
    Bridge,
}

impl Remedy {
    /// All of them.
    pub const ALL: [Self; 19] = [
        Self::Widen,
        Self::OpenGap,
        Self::CloseGap,
        Self::Drop,
        Self::Grow,
        Self::FillHole,
        Self::GrowHole,
        Self::Round,
        Self::Refit,
        Self::Part,
        Self::Single,
        Self::Close,
        Self::DrawIt,
        Self::MoveInside,
        Self::FitStock,
        Self::AsMaterial,
        Self::Overlap,
        Self::Register,
        Self::Bridge,
    ];

    /// Its word in addresses.
    #[must_use]
    pub const fn slug(self) -> &'static str {
        match self {
            Self::Widen => "widen",
            Self::OpenGap => "open-gap",
            Self::CloseGap => "close-gap",
            Self::Drop => "drop",
            Self::Grow => "grow",
            Self::FillHole => "fill-hole",
            Self::GrowHole => "grow-hole",
            Self::Round => "round",
            Self::Refit => "refit",
            Self::Part => "part",
            Self::Single => "single",
            Self::Close => "close",
            Self::DrawIt => "draw",
            Self::MoveInside => "move-inside",
            Self::FitStock => "fit-stock",
            Self::AsMaterial => "as-material",
            Self::Overlap => "overlap",
            Self::Register => "register",
            Self::Bridge => "bridge",
        }
    }

    /// The remedy of a word.
    #[must_use]
    pub fn from_slug(slug: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|r| r.slug() == slug)
    }

    /// As a button says it.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Widen => "Widen",
            Self::OpenGap => "Open it",
            Self::CloseGap => "Close it",
            Self::Drop => "Drop",
            Self::Grow => "Grow",
            Self::FillHole => "Fill",
            Self::GrowHole => "Grow the hole",
            Self::Round => "Round",
            Self::Refit => "Fewer nodes",
            Self::Part => "Part at crossings",
            Self::Single => "Keep one line",
            Self::Close => "Close",
            Self::DrawIt => "Draw instead of cut",
            Self::MoveInside => "Move inside",
            Self::FitStock => "Fit to the stock",
            Self::AsMaterial => "As the material needs",
            Self::Overlap => "Overlap",
            Self::Register => "Add registration shapes",
            Self::Bridge => "Bridge",
        }
    }
}

impl Kind {
    /// All of them.
    pub const ALL: [Self; 20] = [
        Self::NothingToCut,
        Self::BitmapOnly,
        Self::TooLarge,
        Self::OffStock,
        Self::Mirrored,
        Self::Open,
        Self::SelfCrossing,
        Self::Crossing,
        Self::Doubled,
        Self::FallsOut,
        Self::Thin,
        Self::Gap,
        Self::SmallPart,
        Self::SmallHole,
        Self::Spike,
        Self::Overlap,
        Self::Hidden,
        Self::OverNoded,
        Self::ManyParts,
        Self::Unregistered,
    ];

    /// Its word for scripts.
    #[must_use]
    pub const fn slug(self) -> &'static str {
        match self {
            Self::NothingToCut => "nothing-to-cut",
            Self::BitmapOnly => "bitmap-only",
            Self::TooLarge => "too-large",
            Self::OffStock => "off-stock",
            Self::Mirrored => "mirrored",
            Self::Open => "open",
            Self::SelfCrossing => "self-crossing",
            Self::Crossing => "crossing",
            Self::Doubled => "doubled",
            Self::FallsOut => "falls-out",
            Self::Thin => "thin",
            Self::Gap => "gap",
            Self::SmallPart => "small-part",
            Self::SmallHole => "small-hole",
            Self::Spike => "spike",
            Self::Overlap => "overlap",
            Self::Hidden => "hidden",
            Self::OverNoded => "over-noded",
            Self::ManyParts => "many-parts",
            Self::Unregistered => "unregistered",
        }
    }

    /// The kind of a word.
    #[must_use]
    pub fn from_slug(slug: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|k| k.slug() == slug)
    }

    /// As the list says it.
    #[must_use]
    pub const fn title(self) -> &'static str {
        match self {
            Self::NothingToCut => "Nothing to cut",
            Self::BitmapOnly => "Only a picture",
            Self::TooLarge => "Larger than the stock",
            Self::OffStock => "Outside what can be cut",
            Self::Mirrored => "Mirrored the wrong way",
            Self::Open => "Open line",
            Self::SelfCrossing => "Crosses itself",
            Self::Crossing => "Crosses another line",
            Self::Doubled => "Doubled line",
            Self::FallsOut => "Falls out",
            Self::Thin => "Thin stroke",
            Self::Gap => "Narrow gap",
            Self::SmallPart => "Small part",
            Self::SmallHole => "Small hole",
            Self::Spike => "Spike",
            Self::Overlap => "No overlap",
            Self::Hidden => "Hidden under a layer",
            Self::OverNoded => "Too many nodes",
            Self::ManyParts => "Many parts to weed",
            Self::Unregistered => "No registration shapes",
        }
    }

    /// Why it matters.
    #[must_use]
    pub const fn why(self) -> &'static str {
        match self {
            Self::NothingToCut => "the machine would have nothing to do",
            Self::BitmapOnly => "a picture has no lines to cut: trace it first",
            Self::TooLarge => "it does not fit between the margins",
            Self::OffStock => "the tool would run off the stock",
            Self::Mirrored => "it would read backwards when applied",
            Self::Open => "the part stays attached where the line is open",
            Self::SelfCrossing | Self::Crossing => "the piece between the lines comes loose",
            Self::Doubled => "cutting twice tears film and burns wood",
            Self::FallsOut => "nothing holds it to the sheet",
            Self::Thin => "it tears or burns away",
            Self::Gap => "what lies between is too narrow to weed",
            Self::SmallPart => "it lifts off or gets lost",
            Self::SmallHole => "what is inside does not come out cleanly",
            Self::Spike => "the tip lifts off the backing",
            Self::Overlap => "the ground shows between two layers that shift a little",
            Self::Hidden => "it is covered, so it need not be cut",
            Self::OverNoded => "the machine slows down and stutters",
            Self::ManyParts => "weeding takes long",
            Self::Unregistered => "layers have to be laid over each other by eye",
        }
    }

    /// How bad it is.
    #[must_use]
    pub const fn severity(self) -> Severity {
        match self {
            Self::NothingToCut
            | Self::BitmapOnly
            | Self::TooLarge
            | Self::OffStock
            | Self::Mirrored
            | Self::Open
            | Self::SelfCrossing
            | Self::Crossing => Severity::Stop,
            Self::Doubled
            | Self::FallsOut
            | Self::Thin
            | Self::Gap
            | Self::SmallPart
            | Self::SmallHole
            | Self::Spike
            | Self::Overlap => Severity::Warn,
            Self::Hidden | Self::OverNoded | Self::ManyParts | Self::Unregistered => Severity::Note,
        }
    }

    /// What can be done, the most likely first.
    #[must_use]
    pub const fn remedies(self) -> &'static [Remedy] {
        match self {
            Self::NothingToCut | Self::BitmapOnly | Self::ManyParts => &[],
            Self::TooLarge => &[Remedy::FitStock],
            Self::OffStock => &[Remedy::MoveInside],
            Self::Mirrored => &[Remedy::AsMaterial],
            Self::Open => &[Remedy::Close, Remedy::DrawIt],
            Self::SelfCrossing | Self::Crossing => &[Remedy::Part],
            Self::Doubled => &[Remedy::Single],
            Self::FallsOut => &[Remedy::Bridge, Remedy::FillHole],
            Self::Thin => &[Remedy::Widen],
            Self::Gap => &[Remedy::OpenGap, Remedy::CloseGap],
            Self::SmallPart => &[Remedy::Drop, Remedy::Grow],
            Self::SmallHole => &[Remedy::FillHole, Remedy::GrowHole],
            Self::Spike => &[Remedy::Round],
            Self::Overlap => &[Remedy::Overlap],
            Self::Hidden => &[Remedy::Drop],
            Self::OverNoded => &[Remedy::Refit],
            Self::Unregistered => &[Remedy::Register],
        }
    }
}

/// Something found, at one place.
#[derive(Clone, Debug, PartialEq)]
pub struct Finding {
    /// What is wrong.
    pub kind: Kind,
    /// Number of its layer from the bottom; `None` where it concerns them all.
    pub layer: Option<usize>,
    /// Where, mm.
    pub at: Point,
    /// The figure found.
    pub value: f64,
    /// The limit it breaks.
    pub limit: f64,
    /// What both measure.
    pub measure: Measure,
    /// Where the limit comes from: the name of a material, a stock, or nothing.
    pub source: String,
    /// Places on the edges that it concerns.
    pub touching: Vec<Point>,
    /// Lines along the middle of what is too narrow, or around what it concerns.
    pub extent: Vec<Vec<Point>>,
}

impl Finding {
    /// How bad it is.
    #[must_use]
    pub const fn severity(&self) -> Severity {
        match (self.kind, self.layer) {
            // The others can be cut.
            (Kind::NothingToCut, Some(_)) => Severity::Note,
            _ => self.kind.severity(),
        }
    }

    /// The figure against its limit, in a unit.
    #[must_use]
    pub fn figures(&self, unit: Unit) -> String {
        let value = self.measure.told(self.value, unit);
        let limit = self.measure.told(self.limit, unit);
        let source = &self.source;
        match self.kind {
            Kind::NothingToCut | Kind::BitmapOnly | Kind::Mirrored | Kind::Unregistered => {
                source.clone()
            }
            Kind::Open => format!("{value} between its ends"),
            Kind::SelfCrossing | Kind::Crossing => String::new(),
            Kind::Doubled => format!("over {value}"),
            Kind::FallsOut => format!("{value} across"),
            Kind::Hidden => format!("{value} across"),
            Kind::Overlap => format!("edge to edge over {value}; {source} wants {limit}"),
            Kind::Thin | Kind::SmallPart | Kind::SmallHole | Kind::Gap | Kind::Spike => {
                format!("{value}; {source} needs {limit}")
            }
            Kind::OverNoded => format!("a node every {value}; {source} runs well from {limit}"),
            Kind::ManyParts => format!("{value}; {source} is quick up to {limit}"),
            Kind::TooLarge => format!("{value} where {limit} can be cut of {source}"),
            Kind::OffStock => format!("{value} over the edge of {source}"),
        }
    }

    /// The whole of it as a sentence.
    #[must_use]
    pub fn text(&self, unit: Unit) -> String {
        let figures = self.figures(unit);
        let colon = if figures.is_empty() { "" } else { ": " };
        format!("{}{colon}{figures}; {}", self.kind.title(), self.kind.why())
    }
}
