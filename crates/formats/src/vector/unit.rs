//! Units that a file's figures may be in.

use std::fmt;
use std::str::FromStr;

/// A unit of length of a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FileUnit {
    /// Millimetres.
    Mm,
    /// Centimetres.
    Cm,
    /// Metres.
    M,
    /// Inches.
    In,
    /// Feet.
    Ft,
    /// Points, 72 to the inch.
    Pt,
    /// Pixels of CSS, 96 to the inch.
    Px,
}

/// No unit of a file.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("'{0}' is no unit of a file; use mm, cm, m, in, ft, pt or px")]
pub struct NoUnit(String);

impl FileUnit {
    /// All of them.
    pub const ALL: [Self; 7] = [
        Self::Mm,
        Self::Cm,
        Self::M,
        Self::In,
        Self::Ft,
        Self::Pt,
        Self::Px,
    ];

    /// How many mm one of this unit is.
    #[must_use]
    pub const fn in_mm(self) -> f64 {
        match self {
            Self::Mm => 1.0,
            Self::Cm => 10.0,
            Self::M => 1000.0,
            Self::In => 25.4,
            Self::Ft => 304.8,
            Self::Pt => 25.4 / 72.0,
            Self::Px => 25.4 / 96.0,
        }
    }

    /// The short name written behind a figure.
    #[must_use]
    pub const fn symbol(self) -> &'static str {
        match self {
            Self::Mm => "mm",
            Self::Cm => "cm",
            Self::M => "m",
            Self::In => "in",
            Self::Ft => "ft",
            Self::Pt => "pt",
            Self::Px => "px",
        }
    }
}

impl fmt::Display for FileUnit {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.symbol())
    }
}

impl FromStr for FileUnit {
    type Err = NoUnit;

    fn from_str(text: &str) -> Result<Self, NoUnit> {
        let asked = text.trim().to_lowercase();
        let known = Self::ALL.into_iter().find(|unit| unit.symbol() == asked);
        known.ok_or_else(|| NoUnit(text.to_owned()))
    }
}
