//! Sheets and cards whose size everybody knows, to lie in a photograph.

/// A sheet or a card of known size.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Paper {
    /// ISO 216 A5.
    A5,
    /// ISO 216 A4.
    A4,
    /// ISO 216 A3.
    A3,
    /// ANSI/ASME Y14.1 A.
    Letter,
    /// ANSI/ASME Y14.1 B.
    Tabloid,
    /// A bank card: ISO/IEC 7810 ID-1.
    Card,
}

impl Paper {
    /// All of them.
    pub const ALL: [Self; 6] = [
        Self::A5,
        Self::A4,
        Self::A3,
        Self::Letter,
        Self::Tabloid,
        Self::Card,
    ];

    /// What it is called.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::A5 => "A5",
            Self::A4 => "A4",
            Self::A3 => "A3",
            Self::Letter => "Letter",
            Self::Tabloid => "Tabloid",
            Self::Card => "Bank card",
        }
    }

    /// Its shorter and its longer side, mm.
    #[must_use]
    pub const fn sides(self) -> [f64; 2] {
        match self {
            Self::A5 => [148.0, 210.0],
            Self::A4 => [210.0, 297.0],
            Self::A3 => [297.0, 420.0],
            Self::Letter => [215.9, 279.4],
            Self::Tabloid => [279.4, 431.8],
            Self::Card => [53.98, 85.6],
        }
    }

    /// The one that is called so, in capitals or not.
    #[must_use]
    pub fn called(word: &str) -> Option<Self> {
        let word = word.trim();
        let mut all = Self::ALL.into_iter();
        all.find(|p| {
            p.word().eq_ignore_ascii_case(word)
                || (*p == Self::Card && word.eq_ignore_ascii_case("card"))
        })
    }
}
