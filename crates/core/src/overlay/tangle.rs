//! Tangle: whether rings cross so often that to lay them over each other would take too long.
//!
//! What comes out of an overlay grows with the crossings, and these with the square of the sides: a
//! scribble of some thousand strokes has millions.

use kurbo::Vec2;
use rstar::primitives::{GeomWithData, Rectangle};
use rstar::{AABB, RTree};

use crate::segment::Segment;
use crate::shapes::Ring;

/// Pairs of sides near each other that are looked at for each crossing that is allowed …
const PAIRS: usize = 40;
/// … and for each side, which has neighbours along its ring.
const NEIGHBOURS: usize = 8;

/// Whether the sides of rings, taken as straight, cross more than `most` times, or lie near each
/// other so often that this cannot be told in time.
#[must_use]
pub fn tangled(rings: &[&Ring], most: usize) -> bool {
    let sides: Vec<&Segment> = rings.iter().flat_map(|r| r.segments()).collect();
    if sides.len() < 3 || sides.len().saturating_mul(sides.len()) <= most {
        return false;
    }
    let corners = |s: &Segment| {
        let b = s.bounds();
        ([b.x0, b.y0], [b.x1, b.y1])
    };
    let boxes = sides.iter().enumerate().map(|(n, s)| {
        let (low, high) = corners(s);
        GeomWithData::new(Rectangle::from_corners(low, high), n)
    });
    let boxes = RTree::bulk_load(boxes.collect());
    let enough = most.saturating_mul(PAIRS) + sides.len() * NEIGHBOURS;
    let (mut crossings, mut pairs) = (0, 0);
    for (n, side) in sides.iter().enumerate() {
        let (low, high) = corners(side);
        for near in boxes.locate_in_envelope_intersecting(AABB::from_corners(low, high)) {
            pairs += 1;
            if near.data > n && cross(side, sides[near.data]) {
                crossings += 1;
            }
            if crossings > most || pairs > enough {
                return true;
            }
        }
    }
    false
}

/// Whether the chords of two sides cross between their ends.
fn cross(a: &Segment, b: &Segment) -> bool {
    let apart = |s: &Segment, t: &Segment| {
        let way: Vec2 = s.end() - s.start();
        let side = |p| way.cross(p - s.start());
        side(t.start()) * side(t.end()) < 0.0
    };
    apart(a, b) && apart(b, a)
}

#[cfg(test)]
mod tests {
    use super::*;
    use kurbo::{Line, Point};

    fn ring(corners: impl Iterator<Item = (f64, f64)>) -> Ring {
        let corners: Vec<Point> = corners.map(Point::from).collect();
        let sides = (0..corners.len())
            .map(|n| Segment::Line(Line::new(corners[n], corners[(n + 1) % corners.len()])));
        Ring::new(sides.collect(), Vec::new()).unwrap()
    }

    #[test]
    fn a_scribble_is_tangled_and_a_long_outline_is_not() {
        // Every side of a star polygon {n/k} crosses 2 (k − 1) others.
        let (n, k) = (101_u32, 40);
        let star = ring((0..n).map(|i| {
            let turn = f64::from(i * k % n) / f64::from(n) * std::f64::consts::TAU;
            (turn.cos(), turn.sin())
        }));
        let crossings = (n * (k - 1)) as usize;
        assert!(tangled(&[&star], crossings - 1) && !tangled(&[&star], crossings));
        let round = ring((0..20_000).map(|i| {
            let turn = f64::from(i) / 20_000.0 * std::f64::consts::TAU;
            (turn.cos(), turn.sin())
        }));
        assert!(!tangled(&[&round], 1000));
    }
}
