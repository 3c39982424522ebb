//! What a check found: kind, place, figure against limit, and what can be done.

use kurbo::Point;

use super::kind::{Kind, Severity};
use crate::units::{MM_PER_INCH, Unit};

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
        self.kind.told(&value, &limit, &self.source)
    }

    /// The whole of it as a sentence.
    #[must_use]
    pub fn text(&self, unit: Unit) -> String {
        let figures = self.figures(unit);
        let colon = if figures.is_empty() { "" } else { ": " };
        format!("{}{colon}{figures}; {}", self.kind.title(), self.kind.why())
    }
}
