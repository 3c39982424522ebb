//! A comb to find a kerf by: slots of known widths, and the pieces that fall out of them.
//!
//! ```text
//!      2    3     4      5       6         8   mm
//!     ┌┐   ┌─┐   ┌──┐   ┌───┐   ┌────┐   ┌──────┐      A cut of width k down the middle of each line leaves
//!     ││   │ │   │  │   │   │   │    │   │      │      slots k wider than drawn, and pieces k narrower.
//!     └┘   └─┘   └──┘   └───┘   └────┘   └──────┘
//! ```
//!
//! The kerf is fitted to all that was measured by least squares; with one unknown that is the mean of what each figure
//! says of it, and its standard uncertainty that of a mean (JCGM 100:2008, "Guide to the expression of uncertainty in
//! measurement", 4.2.3).

use kurbo::{Point, Rect};

use super::trial::{figures, layer};
use crate::assembly::rectangle;
use crate::cutting::Cutting;
use crate::material::{Material, Operation};
use crate::overlay::Rings;

/// Widths as drawn, mm.
pub const WIDTHS: [f64; 6] = [2.0, 3.0, 4.0, 5.0, 6.0, 8.0];
/// Height of the slots, between them and around them, mm.
const HEIGHT: f64 = 14.0;
const SPACE: f64 = 5.0;
/// Room for the figures above them, mm.
const LABELS: f64 = 6.0;

/// The comb in a material: figures first, then the slots, then the plate around them.
#[must_use]
pub fn comb(material: &Material) -> Cutting {
    let mut words = layer(material, Operation::Score, "Comb figures".to_owned());
    let mut slots = layer(material, Operation::CutThrough, "Comb slots".to_owned());
    let mut plate = layer(material, Operation::CutThrough, "Comb plate".to_owned());
    let alone = |r: Rect| Rings {
        outer: rectangle(r),
        holes: Vec::new(),
    };
    let (mut x, top) = (SPACE, SPACE + LABELS);
    for width in WIDTHS {
        slots
            .shapes
            .push(alone(Rect::new(x, top, x + width, top + HEIGHT)));
        words
            .lines
            .extend(figures(&format!("{width}"), Point::new(x, SPACE)));
        x += width + SPACE;
    }
    let size = [x, top + HEIGHT + SPACE];
    plate
        .shapes
        .push(alone(Rect::new(0.0, 0.0, size[0], size[1])));
    Cutting {
        size,
        layers: vec![words, slots, plate],
    }
}

/// What was measured of one slot, mm; `None` where it was not.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Measured {
    /// Width as drawn.
    pub drawn: f64,
    /// Width of the slot.
    pub slot: Option<f64>,
    /// Width of the piece out of it.
    pub piece: Option<f64>,
}

/// A kerf that was found.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Kerf {
    /// Its width, mm.
    pub value: f64,
    /// Its standard uncertainty, mm.
    pub uncertainty: f64,
    /// Number of figures it was found of.
    pub figures: usize,
}

/// Figures that are needed at least.
pub const FEWEST: usize = 3;

/// The kerf by least squares; `None` of fewer than [`FEWEST`] figures.
#[must_use]
pub fn kerf(measured: &[Measured]) -> Option<Kerf> {
    let each = measured.iter().flat_map(|m| {
        let slot = m.slot.map(|width| width - m.drawn);
        let piece = m.piece.map(|width| m.drawn - width);
        [slot, piece]
    });
    let each: Vec<f64> = each.flatten().collect();
    if each.len() < FEWEST {
        return None;
    }
    let n = each.len() as f64;
    let value = each.iter().sum::<f64>() / n;
    let squares: f64 = each.iter().map(|k| (k - value).powi(2)).sum();
    Some(Kerf {
        value,
        uncertainty: (squares / (n - 1.0) / n).sqrt(),
        figures: each.len(),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// By hand: 0.20, 0.24, 0.16, 0.20 mean 0.20; squares 0.0032, over 3 and over 4, root 0.0163.
    #[test]
    fn a_kerf_is_the_mean_of_what_all_figures_say() {
        let of = |drawn, slot, piece| Measured { drawn, slot, piece };
        let found = kerf(&[
            of(2.0, Some(2.20), Some(1.76)),
            of(3.0, Some(3.16), None),
            of(8.0, None, Some(7.80)),
            of(5.0, None, None),
        ])
        .unwrap();
        assert!((found.value - 0.2).abs() < 1e-9);
        assert!((found.uncertainty - 0.016_33).abs() < 1e-5);
        assert_eq!(found.figures, 4);
        assert_eq!(kerf(&[of(2.0, Some(2.2), Some(1.8))]), None);
    }

    #[test]
    fn the_comb_is_drawn_as_it_says() {
        let material = crate::material::presets()
            .into_iter()
            .find(|m| m.laser.is_some())
            .unwrap();
        let comb = comb(&material);
        let widths: Vec<f64> = comb.layers[1]
            .shapes
            .iter()
            .map(|s| s.outer.bounds().width())
            .collect();
        assert_eq!(widths, WIDTHS);
        let whole = comb.bounds().unwrap();
        assert!((whole.width() - comb.size[0]).abs() < 1e-9 && whole.x0 == 0.0);
        assert!((comb.size[0] - 63.0).abs() < 1e-9);
    }
}
