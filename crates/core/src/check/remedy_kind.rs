//! Kinds of remedies: the one table of what can be done about a finding.

/// What can be done.
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

/// Each with its word in addresses, and as a button says it.
const REMEDIES: [(Remedy, &str, &str); 19] = [
    (Remedy::Widen, "widen", "Widen"),
    (Remedy::OpenGap, "open-gap", "Open it"),
    (Remedy::CloseGap, "close-gap", "Close it"),
    (Remedy::Drop, "drop", "Drop"),
    (Remedy::Grow, "grow", "Grow"),
    (Remedy::FillHole, "fill-hole", "Fill"),
    (Remedy::GrowHole, "grow-hole", "Grow the hole"),
    (Remedy::Round, "round", "Round"),
    (Remedy::Refit, "refit", "Fewer nodes"),
    (Remedy::Part, "part", "Part at crossings"),
    (Remedy::Single, "single", "Keep one line"),
    (Remedy::Close, "close", "Close"),
    (Remedy::DrawIt, "draw", "Draw instead of cut"),
    (Remedy::MoveInside, "move-inside", "Move inside"),
    (Remedy::FitStock, "fit-stock", "Fit to the stock"),
    (Remedy::AsMaterial, "as-material", "As the material needs"),
    (Remedy::Overlap, "overlap", "Overlap"),
    (Remedy::Register, "register", "Add registration shapes"),
    (Remedy::Bridge, "bridge", "Bridge"),
];

impl Remedy {
    /// All of them.
    pub fn all() -> impl Iterator<Item = Self> {
        REMEDIES.iter().map(|row| row.0)
    }

    /// Its word in addresses.
    #[must_use]
    pub const fn slug(self) -> &'static str {
        REMEDIES[self as usize].1
    }

    /// The remedy of a word.
    #[must_use]
    pub fn from_slug(slug: &str) -> Option<Self> {
        Self::all().find(|r| r.slug() == slug)
    }

    /// As a button says it.
    #[must_use]
    pub const fn words(self) -> &'static str {
        REMEDIES[self as usize].2
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_remedy_is_where_its_number_says() {
        for (n, (remedy, slug, _)) in REMEDIES.iter().enumerate() {
            assert_eq!(*remedy as usize, n);
            assert_eq!(Remedy::from_slug(slug), Some(*remedy));
        }
    }
}
