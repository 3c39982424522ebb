//! Stones: flat round stones set along lines or filling shapes, no two nearer than their gap.
//!
//! ```text
//!   along    ●  ●  ●  ●     starts, ends and corners kept, the same distance from stone to stone
//!            ●        ●
//!   fill     ● ● ● ● ●      rows, hexagonal, or ring within ring; what is left over takes smaller ones
//!             ● ● ● ●
//! ```
//!
//! Lengths in mm. Sizes of rhinestones by their trade names are from memory.

mod along;
mod apart;
mod fill;
mod list;

use std::ops::RangeInclusive;

use kurbo::Point;
use serde::{Deserialize, Serialize};

pub use along::along;
pub use fill::{Pattern, fill};
pub use list::{Counted, StoneLayer, StoneSize, size_name};

use crate::limits::{OutOfRange, within};
use crate::overlay::Rings;
use crate::shapes::Ring;

/// Sizes by name and how far across, mm (from memory).
pub const SIZES: [(&str, f64); 5] = [
    ("SS6", 2.0),
    ("SS10", 2.8),
    ("SS12", 3.1),
    ("SS16", 3.9),
    ("SS20", 4.7),
];

/// Usual gap, and how much wider than its stone a hole is, mm (common practice, no source): between two holes as much
/// is left as a hole is wider.
pub const USUAL: [f64; 2] = [0.6, 0.3];
/// How far across a stone may be, mm.
const ACROSS_MM: RangeInclusive<f64> = 0.5..=50.0;
/// How much wider a hole may be, mm.
const WIDER_MM: RangeInclusive<f64> = 0.0..=5.0;
/// More stones than this are not set at once.
pub const MOST: usize = 50_000;

/// How stones lie.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Laid {
    /// Along lines and outlines.
    Along,
    /// In shapes.
    In(Pattern),
}

/// More stones than are set.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error(
    "about {0} stones would find room, and no more than {MOST} are set at once; take larger ones or fewer shapes"
)]
pub struct TooMany(pub usize);

/// What stones are set with.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct StoneChoice {
    /// Across each size, mm, in the order in which they are set: the first wherever it fits, the others where it does
    /// not.
    pub sizes: Vec<f64>,
    /// Between any two, mm.
    pub gap: f64,
}

/// A stone.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stone {
    /// Its middle, mm.
    pub at: Point,
    /// Which of the sizes it has.
    pub size: usize,
}

impl StoneChoice {
    /// # Errors
    /// The first figure that cannot be.
    pub fn check(&self) -> Result<(), OutOfRange> {
        let count = self.sizes.len() as f64;
        within("a number of sizes of stones", count, &(1.0..=6.0), "")?;
        for size in &self.sizes {
            within("a stone", *size, &ACROSS_MM, "mm")?;
        }
        within("a gap between stones", self.gap, &(0.0..=100.0), "mm")
    }

    /// How many stones there are of each size.
    #[must_use]
    pub fn counts(&self, stones: &[Stone]) -> Vec<usize> {
        let of = |size: usize| stones.iter().filter(|s| s.size == size).count();
        (0..self.sizes.len()).map(of).collect()
    }

    /// The holes of a template: each stone with `clearance` mm more across.
    #[must_use]
    pub fn holes(&self, stones: &[Stone], clearance: f64) -> Vec<Rings> {
        let hole = |s: &Stone| Ring::circle(s.at, (self.sizes[s.size] + clearance) / 2.0);
        let rings = stones.iter().filter_map(hole);
        rings
            .map(|outer| Rings {
                outer,
                holes: Vec::new(),
            })
            .collect()
    }
}
