//! Junctions: moved to where their edges point.
//!
//! A pixel in which three inks meet does not say how much of each it holds, so the crossings
//! beside a junction are off. Its edges, from one to a few px away, still point at it:
//!
//! ```text
//!      ╲   ╱
//!       ╲ ╱      ×: least sum of squared distances from the lines through the edges' points
//!        ×
//!        │
//! ```

use kurbo::{Point, Vec2};

use crate::boundary::{Edge, HalfEdge, Junction, OUTSIDE};
use crate::least_squares::{line_through, solve};

/// Points of an edge nearer than this are mixed with the third ink, px …
const FROM_PX: f64 = 1.2;
/// … and for so far beyond them it is taken as straight, px.
const ALONG_PX: f64 = 4.0;
/// A junction is moved no farther than this, px.
const REACH_PX: f64 = 1.1;
/// Lines that meet at less than this do not say where; least sine squared, summed.
const LEAST_SPREAD: f64 = 0.15;

/// Places every junction inside the picture; `edge_width` is the number of mixed pixels across an
/// edge.
pub(super) fn place(edges: &mut [Edge], junctions: &mut [Junction], edge_width: f64) {
    let from = FROM_PX * (edge_width / 2.0).clamp(1.0, 2.0);
    let moved: Vec<Option<Point>> = junctions.iter().map(|j| meeting(edges, j, from)).collect();
    for (junction, to) in junctions.iter_mut().zip(&moved) {
        let Some(to) = *to else { continue };
        junction.point = to;
        for half in &junction.leaving {
            let edge = &mut edges[half.edge];
            let last = edge.points.len() - 1;
            let end = if half.reversed { last } else { 0 };
            edge.points[end] = to;
            // What lies beside the junction counts no more for where the edge is.
            for k in 1..last {
                let i = if half.reversed { last - k } else { k };
                if edge.left.ink == OUTSIDE
                    || edge.right.ink == OUTSIDE
                    || edge.points[i].distance(to) > from
                {
                    break;
                }
                edge.weak[i] = true;
            }
        }
    }
}

/// Where the edges of a junction point, if they agree and it is nearby.
fn meeting(edges: &[Edge], junction: &Junction, from: f64) -> Option<Point> {
    let outer = |half: &HalfEdge| {
        let edge = &edges[half.edge];
        edge.left.ink == OUTSIDE || edge.right.ink == OUTSIDE
    };
    if junction.leaving.iter().any(outer) {
        return None;
    }
    let (mut xx, mut xy, mut yy, mut to) = (0.0, 0.0, 0.0, Vec2::ZERO);
    let mut lines = 0;
    for &half in &junction.leaving {
        let Some((through, normal)) = side(&edges[half.edge], half.reversed, junction.point, from)
        else {
            continue;
        };
        lines += 1;
        let off = normal.dot(through);
        xx += normal.x * normal.x;
        xy += normal.x * normal.y;
        yy += normal.y * normal.y;
        to += normal * off;
    }
    if lines < 2 || xx * yy - xy * xy < LEAST_SPREAD {
        return None;
    }
    let [[x], [y]] = solve([[xx, xy], [xy, yy]], [[to.x], [to.y]])?;
    let point = Point::new(x, y);
    (point.distance(junction.point) <= REACH_PX).then_some(point)
}

/// The line along an edge near its junction: a point of it, and its normal.
fn side(edge: &Edge, reversed: bool, end: Point, from: f64) -> Option<(Vec2, Vec2)> {
    let last = edge.points.len() - 1;
    let near: Vec<Point> = (1..last)
        .map(|k| if reversed { last - k } else { k })
        .take_while(|&i| edge.points[i].distance(end) <= from + ALONG_PX)
        .filter(|&i| !edge.weak[i] && edge.points[i].distance(end) >= from)
        .map(|i| edge.points[i])
        .collect();
    if near.len() < 2 {
        return None;
    }
    let (middle, along) = line_through(&near)?;
    Some((middle.to_vec2(), along.turn_90()))
}
