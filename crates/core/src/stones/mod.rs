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

use kurbo::Point;
use serde::{Deserialize, Serialize};

pub use along::along;
pub use fill::{Pattern, fill};

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
            within("a stone", *size, &(0.5..=50.0), "mm")?;
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
