//! How long weeding takes: parts, length, the smallest part and the thinnest waste, and in words.

use kurbo::Point;

use super::parts::across;
use super::width::{Side, narrow};
use crate::assembly::{Built, Layer};
use crate::shapes::Shape;

/// What weeding a design comes to.
#[derive(Clone, Debug, PartialEq)]
pub struct Weeding {
    /// Parts that stay.
    pub parts: usize,
    /// Pieces of waste that are picked out of holes.
    pub holes: usize,
    /// Length of all lines, mm.
    pub length: f64,
    /// The smallest part or hole: how large it is across, mm, and where.
    pub smallest: Option<(f64, Point)>,
    /// The thinnest waste, mm, and where; `None` where none is thinner than three times the limit.
    pub thinnest: Option<(f64, Point)>,
    /// Parts and holes under [`FIDDLY`] times the material's smallest part, the smallest first.
    pub small: Vec<(f64, Point)>,
    /// Below what size a part counts as small, mm.
    pub small_under: f64,
    /// In words.
    pub word: &'static str,
}

/// Parts below so many times the smallest part that holds are fiddly.
const FIDDLY: f64 = 1.5;

/// Judges the layers that are weeded: those that are cut of film, or through.
#[must_use]
pub fn weeding(built: &Built) -> Weeding {
    let layers: Vec<&Layer> = built.cut().filter(|l| l.operation.cuts()).collect();
    let shapes = || layers.iter().flat_map(|l| &l.shapes);
    let small_under = layers
        .iter()
        .map(|l| l.material.limits.part * FIDDLY)
        .fold(0.0, f64::max);
    let rings = shapes().flat_map(Shape::rings);
    let mut sizes: Vec<(f64, Point)> = rings.map(|r| (across(r), r.bounds().center())).collect();
    sizes.sort_by(|a, b| a.0.total_cmp(&b.0));
    let thinnest = layers
        .iter()
        .filter_map(|layer| {
            let limits = &layer.material.limits;
            let found = narrow(
                layer.rings(),
                Side::Outside,
                limits.gap * 3.0,
                limits.corner,
            );
            found
                .into_iter()
                .find(|n| !n.tapers)
                .map(|n| (n.width, n.at))
        })
        .min_by(|a, b| a.0.total_cmp(&b.0));
    let parts = shapes().count();
    let small: Vec<(f64, Point)> = sizes
        .iter()
        .copied()
        .take_while(|s| s.0 < small_under)
        .collect();
    let thin = thinnest.is_some_and(|(width, _)| {
        let least = layers.iter().map(|l| l.material.limits.gap);
        width < least.fold(0.0, f64::max)
    });
    let most = layers.iter().map(|l| l.material.limits.parts).min();
    let word = if parts == 0 {
        "nothing to weed"
    } else if small.len() > 5 || thin && small.len() > 1 {
        "fiddly"
    } else if most.is_some_and(|most| parts > most) {
        "long"
    } else if parts > 25 || !small.is_empty() || thin {
        "steady"
    } else {
        "quick"
    };
    Weeding {
        parts,
        holes: shapes().map(|s| s.holes.len()).sum(),
        length: layers.iter().map(|l| l.length()).sum(),
        smallest: sizes.first().copied(),
        thinnest,
        small,
        small_under,
        word,
    }
}
