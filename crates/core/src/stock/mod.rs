//! Stock: the roll, sheet or offcut that is cut, and what is left of it.
//!
//! ```text
//!   roll  ┌─────────────── length ──…      across: width; along: length, nought where unknown
//!   width │ margin ┌ usable ─────…
//! ```

pub mod shaped;

use kurbo::Rect;
use serde::{Deserialize, Serialize};

use crate::limits::{OutOfRange, within};
pub use shaped::Shaped;

/// What a piece of stock is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum StockKind {
    /// Wound up; its length may be unknown.
    #[default]
    Roll,
    /// A whole sheet.
    Sheet,
    /// What an earlier job left.
    Offcut,
}

impl StockKind {
    /// As people say it.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Roll => "roll",
            Self::Sheet => "sheet",
            Self::Offcut => "offcut",
        }
    }
}

/// A roll, a sheet or an offcut, mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Stock {
    /// What it is called; its measures where it has no name.
    #[serde(default)]
    pub name: String,
    /// What it is.
    pub kind: StockKind,
    /// Across, mm.
    pub width: f64,
    /// Along, mm; nought for a roll of unknown length.
    #[serde(default)]
    pub length: f64,
    /// Along every side that cannot be cut, mm.
    #[serde(default)]
    pub margin: f64,
    /// Its true outline where it is no rectangle; it fills the box of width and length.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shape: Option<Shaped>,
}

/// What is left when a design was cut.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Left {
    /// Length of the stock that is used, its margins counted, mm.
    pub used_length: f64,
    /// Length that is left, mm; `None` where the stock's own is unknown.
    pub length: Option<f64>,
    /// Usable area beside and below the design on the length that is used, mm².
    pub beside: f64,
    /// Usable area left in all, mm²; `None` where the length is unknown.
    pub area: Option<f64>,
}

/// Length that a roll of unknown length is taken to have where a figure is needed, mm.
const LONG: f64 = 20_000.0;

/// The longest side of a piece that is no rectangle, mm.
const LONGEST: f64 = 5000.0;
/// An outline ends so near to the sides of its box, mm.
const NEAR: f64 = 0.1;

impl Stock {
    /// # Errors
    /// The first figure that cannot be.
    pub fn check(&self) -> Result<(), OutOfRange> {
        within("a width of stock", self.width, &(1.0..=20_000.0), "mm")?;
        within("a length of stock", self.length, &(0.0..=200_000.0), "mm")?;
        within("a margin of stock", self.margin, &(0.0..=500.0), "mm")?;
        let Some(shape) = &self.shape else {
            return Ok(());
        };
        shape.check()?;
        // It fills its box, and is no longer than any table: where parts may lie is looked at cell by cell.
        let b = shape.bounds();
        let fills = |side: f64| side - NEAR..=side + NEAR;
        for (side, end) in [(self.width, b.x1), (self.length, b.y1)] {
            within("a side of an odd piece", side, &(1.0..=LONGEST), "mm")?;
            within("an outline's end", end, &fills(side), "mm")?;
        }
        for begin in [b.x0, b.y0] {
            within("an outline's beginning", begin, &fills(0.0), "mm")?;
        }
        Ok(())
    }

    /// The length along which it can be cut, mm.
    #[must_use]
    pub fn reach(&self) -> f64 {
        if self.length > 0.0 { self.length } else { LONG }
    }

    /// The part of it that can be cut, from its own corner, mm. Empty where margins leave nothing.
    #[must_use]
    pub fn usable(&self) -> Rect {
        let m = self.margin;
        Rect::new(m, m, (self.width - m).max(m), (self.reach() - m).max(m))
    }

    /// Whether something so wide and high fits, as it lies.
    #[must_use]
    pub fn holds(&self, width: f64, height: f64) -> bool {
        let usable = self.usable();
        width <= usable.width() + 1e-6 && height <= usable.height() + 1e-6
    }

    /// The greatest scale at which something so wide and high fits with `margin` around it.
    #[must_use]
    pub fn scale_to_fit(&self, width: f64, height: f64, margin: f64) -> Option<f64> {
        let usable = self.usable();
        let room = (
            usable.width() - 2.0 * margin,
            usable.height() - 2.0 * margin,
        );
        let scale = (room.0 / width).min(room.1 / height);
        (scale.is_finite() && scale > 0.0 && room.0 > 0.0 && room.1 > 0.0).then_some(scale)
    }

    /// What is left when a box of it was used.
    #[must_use]
    pub fn left(&self, used: Rect) -> Left {
        let usable = self.usable();
        let used_length = (used.y1 + self.margin).clamp(0.0, self.reach());
        let known = self.length > 0.0;
        if let Some(shape) = &self.shape {
            // A free shape is taken whole, and what is left of it is another one.
            return Left {
                used_length: self.length,
                length: None,
                beside: (shape.area() - used.area()).max(0.0),
                area: None,
            };
        }
        let along = (used.y1 - usable.y0).clamp(0.0, usable.height());
        let inside = used.intersect(usable).area();
        Left {
            used_length,
            length: known.then(|| (self.length - used_length).max(0.0)),
            beside: (usable.width() * along - inside).max(0.0),
            area: known.then(|| (usable.area() - inside).max(0.0)),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_left_of_a_sheet_is_what_was_not_used() {
        let sheet = Stock {
            name: String::new(),
            kind: StockKind::Sheet,
            width: 300.0,
            length: 200.0,
            margin: 10.0,
            shape: None,
        };
        assert!(sheet.holds(280.0, 180.0) && !sheet.holds(280.1, 180.0));
        let left = sheet.left(Rect::new(10.0, 10.0, 110.0, 60.0));
        assert!((left.used_length - 70.0).abs() < 1e-9);
        assert_eq!(left.length, Some(130.0));
        // 280 × 180 less 100 × 50; on the 50 mm that are used, 180 × 50.
        assert_eq!(left.area, Some(280.0 * 180.0 - 5000.0));
        assert!((left.beside - 9000.0).abs() < 1e-9);
        assert_eq!(sheet.scale_to_fit(140.0, 60.0, 0.0), Some(2.0));
        assert_eq!(sheet.scale_to_fit(140.0, 60.0, 200.0), None);
    }

    #[test]
    fn an_outline_fills_the_box_of_its_piece() {
        let plate = |width: f64, length: f64| Stock {
            name: String::new(),
            kind: StockKind::Offcut,
            width,
            length,
            margin: 5.0,
            shape: Some(Shaped {
                outer: vec![
                    [0.0, 0.0],
                    [width.min(300.0), 0.0],
                    [0.0, length.min(200.0)],
                ],
                holes: Vec::new(),
                picture: None,
            }),
        };
        assert!(plate(300.0, 200.0).check().is_ok());
        assert!(plate(400.0, 200.0).check().is_err(), "it ends earlier");
        assert!(plate(300.0, 0.0).check().is_err(), "no length");
        assert!(plate(300.0, 100_000.0).check().is_err(), "far too long");
    }
}
