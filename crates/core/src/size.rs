//! The finished size of a piece.

use serde::{Deserialize, Serialize};

use crate::units::{MM_PER_INCH, Mm};

/// The finished size of the whole artwork, mm.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Size {
    /// Width, mm.
    pub width: Mm,
    /// Height, mm.
    pub height: Mm,
    /// Whether the proportion of the artwork is kept when one side changes.
    pub locked: bool,
}

impl Size {
    /// The size at `ppi` pixels per inch, proportion kept.
    #[must_use]
    pub fn at_ppi(width_px: u32, height_px: u32, ppi: f64) -> Self {
        let mm_per_px = MM_PER_INCH / ppi;
        Self {
            width: Mm::new(f64::from(width_px) * mm_per_px),
            height: Mm::new(f64::from(height_px) * mm_per_px),
            locked: true,
        }
    }

    /// This size with another width; the height follows from the pixels while locked.
    #[must_use]
    pub fn with_width(self, width: Mm, width_px: u32, height_px: u32) -> Self {
        let height = Mm::new(width.get() * f64::from(height_px) / f64::from(width_px));
        Self {
            width,
            height: if self.locked { height } else { self.height },
            ..self
        }
    }

    /// This size with another height; the width follows from the pixels while locked.
    #[must_use]
    pub fn with_height(self, height: Mm, width_px: u32, height_px: u32) -> Self {
        let width = Mm::new(height.get() * f64::from(width_px) / f64::from(height_px));
        Self {
            height,
            width: if self.locked { width } else { self.width },
            ..self
        }
    }

    /// This size as many times as large, both sides alike.
    #[must_use]
    pub fn times(self, by: f64) -> Self {
        Self {
            width: Mm::new(self.width.get() * by),
            height: Mm::new(self.height.get() * by),
            ..self
        }
    }

    /// Millimetres in one pixel across and down.
    #[must_use]
    pub fn mm_per_px(&self, width_px: u32, height_px: u32) -> (f64, f64) {
        (
            self.width.get() / f64::from(width_px),
            self.height.get() / f64::from(height_px),
        )
    }
}
