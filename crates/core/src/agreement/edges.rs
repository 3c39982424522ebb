//! Edges: how far the picture says that outlines should lie elsewhere, and where it cannot tell.
//!
//! ```text
//!      painted ───╲                 seen − painted
//!      seen    ────╲──     shift =  ──────────────     along the outline's normal
//!                   ╲╲               slope of painted
//! ```
//!
//! Where the picture is lighter or darker on an outline than the painted one, its own half-level
//! place lies to one side, by the difference over the slope there. A soft or faint edge has a small
//! slope, and grain then moves its place further: that is what stays uncertain.

use kurbo::Point;
use rayon::prelude::*;

use crate::agreement::painted::Painted;
use crate::fine::Plane;

/// Outlines are asked at steps of this length at most, px.
const STEP: f64 = 0.5;
/// Beyond this a difference is no shift of the edge but ink that is missing or too much, px.
const FAR: f64 = 1.5;
/// Least slope of an edge, 0 to 255 per px: below lies no edge that could be placed.
const LEAST_SLOPE: f64 = 6.0;

/// What the picture says of one piece of outline.
#[derive(Clone, Copy, Debug)]
pub(super) struct Piece {
    /// Its length, px.
    pub length: f64,
    /// How far its edge lies off, px.
    pub shift: f64,
    /// How far grain may move it, px.
    pub uncertain: f64,
}

impl Piece {
    /// The area that lies on the wrong side, or may do so, px².
    pub(super) fn area(&self) -> f64 {
        self.length * self.shift.hypot(self.uncertain)
    }
}

/// Asks the picture along closed rings, px; `grain` is its standard deviation, 0 to 255.
pub(super) fn along(
    rings: &[Vec<Point>],
    seen: &[Plane; 3],
    painted: &Painted,
    grain: f64,
) -> Vec<Piece> {
    let of = |ring: &Vec<Point>| -> Vec<Piece> {
        let steps = (0..ring.len()).map(|n| (ring[n], ring[(n + 1) % ring.len()]));
        steps
            .flat_map(|(a, b)| pieces(a, b, seen, painted, grain))
            .collect()
    };
    rings.par_iter().flat_map_iter(of).collect()
}

/// The pieces of one straight step of a ring.
fn pieces<'a>(
    a: Point,
    b: Point,
    seen: &'a [Plane; 3],
    painted: &'a Painted,
    grain: f64,
) -> impl Iterator<Item = Piece> + 'a {
    let length = a.distance(b);
    let count = (length / STEP).ceil() as usize;
    let normal = (b - a).turn_90() / length.max(1e-12);
    (0..count).map(move |n| {
        let at = a.lerp(b, (n as f64 + 0.5) / count as f64);
        let (inside, outside) = (at - normal * 0.5, at + normal * 0.5);
        let (mut slope, mut differs) = (0.0, 0.0);
        for (seen, painted) in seen.iter().zip(&painted.channels) {
            let rise = painted.at_point(outside) - painted.at_point(inside);
            slope += rise * rise;
            differs += rise * (seen.at_point(at) - painted.at_point(at));
        }
        let slope = slope.sqrt().max(LEAST_SLOPE);
        Piece {
            length: length / count as f64,
            shift: (differs.abs() / (slope * slope)).min(FAR),
            uncertain: (grain / slope).min(FAR),
        }
    })
}
