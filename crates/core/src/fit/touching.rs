//! Touching corners: two corners that meet in one place, as in a chequer, restored to one point.
//!
//! ```text
//!   ▔▔▔▔╲▏                ▔▔▔▔▏
//!       ▕╲▁▁▁▁   ──►          ▕▁▁▁▁      each corner is restored for itself, a hair beyond the other
//! ```
//!
//! Where straight pieces cross beside a corner of each, both corners move to the point between
//! them. Nothing else of either edge changes.

use kurbo::Point;

use crate::fit::FittedEdge;
use crate::fit::crossings::Crossing;
use crate::segment::Segment;

/// Corners this near to the place where their edges cross are meant to be one, px.
const NEAR_PX: f64 = 1.0;

/// A corner between two straight pieces: the piece that ends in it, and the one that begins.
#[derive(Clone, Copy, PartialEq)]
struct Corner {
    edge: usize,
    ends: usize,
    begins: usize,
    at: Point,
}

/// Moves corners whose edges cross beside them to the point between them, and says whether there were
/// any; `px` is the side of a pixel, mm.
pub(super) fn joined(edges: &mut [FittedEdge], crossings: &[Crossing], px: f64) -> bool {
    let mut any = false;
    for crossing in crossings {
        let [a, b] = crossing.edges;
        let near = |edge: usize| corners(edge, &edges[edge], crossing.at, NEAR_PX * px);
        let (first, second) = (near(a), near(b));
        let Some(&one) = first.first() else {
            continue;
        };
        let Some(&other) = second.iter().find(|&&c| c != one) else {
            continue;
        };
        let to = one.at.midpoint(other.at);
        for corner in [one, other] {
            corner.moved(&mut edges[corner.edge], to);
        }
        any = true;
    }
    any
}

/// The corners of an edge near a place, the nearest first.
fn corners(edge: usize, fitted: &FittedEdge, place: Point, within: f64) -> Vec<Corner> {
    let all = &fitted.segments;
    let closed = matches!((all.first(), all.last()), (Some(f), Some(l)) if f.start() == l.end());
    let mut found: Vec<Corner> = (0..all.len())
        .filter_map(|ends| {
            let begins = match ends + 1 {
                next if next < all.len() => next,
                _ if closed => 0,
                _ => return None,
            };
            let straight = [ends, begins].map(|n| matches!(all[n], Segment::Line(_)));
            let at = all[ends].end();
            (straight == [true; 2] && ends != begins && at.distance(place) <= within).then_some(
                Corner {
                    edge,
                    ends,
                    begins,
                    at,
                },
            )
        })
        .collect();
    found.sort_by(|a, b| a.at.distance(place).total_cmp(&b.at.distance(place)));
    found
}

impl Corner {
    fn moved(self, edge: &mut FittedEdge, to: Point) {
        if let Segment::Line(line) = &mut edge.segments[self.ends] {
            line.p1 = to;
        }
        if let Segment::Line(line) = &mut edge.segments[self.begins] {
            line.p0 = to;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::fit::crossings;
    use kurbo::Line;

    fn square(x: f64, y: f64, side: f64) -> FittedEdge {
        let corners = [(x, y), (x + side, y), (x + side, y + side), (x, y + side)];
        let corners = corners.map(Point::from);
        let line = |n: usize| Segment::Line(Line::new(corners[n], corners[(n + 1) % 4]));
        FittedEdge {
            segments: (0..4).map(line).collect(),
            ..FittedEdge::default()
        }
    }

    #[test]
    fn corners_that_cross_by_a_hair_become_one_and_others_stay() {
        let mut edges = [square(0.0, 0.0, 20.0), square(19.9, 19.8, 20.0)];
        let found = crossings::all(&edges, 1.0);
        assert!(!found.is_empty());
        for crossing in &found {
            assert!(crossing.at.distance(Point::new(19.95, 19.9)) < 0.2);
        }
        assert!(joined(&mut edges, &found, 1.0));
        assert!(crossings::all(&edges, 1.0).is_empty());
        let corner = |n: usize, k: usize| edges[n].segments[k].end();
        assert_eq!(corner(0, 1), corner(1, 3));
        assert_eq!(corner(0, 0), Point::new(20.0, 0.0));
        assert_eq!(corner(1, 1), Point::new(39.9, 39.8));
    }
}
