//! Crossings of fitted edges: what must never be, found so that it can be mended.
//!
//! Curves are laid out in short straight steps, the steps sorted into square cells, and steps that
//! share a cell are compared. Steps that share an end are neighbours, not crossings.

use std::collections::BTreeMap;

use kurbo::{Point, Rect};
use rayon::prelude::*;

use crate::fit::FittedEdge;

/// Side of a cell, px.
const CELL_PX: f64 = 4.0;
/// Curves are laid out to within this, px.
const FLAT_PX: f64 = 0.02;

struct Chord {
    edge: u32,
    a: Point,
    b: Point,
}

/// A place where edges cross or touch.
#[derive(Clone, Copy, Debug)]
pub(super) struct Crossing {
    /// The numbers of both edges, which may be one.
    pub edges: [usize; 2],
    /// The place, mm.
    pub at: Point,
}

/// The places by number of the edge.
pub(super) fn by_edge(crossings: &[Crossing]) -> BTreeMap<usize, Vec<Point>> {
    let mut by_edge: BTreeMap<usize, Vec<Point>> = BTreeMap::new();
    for &Crossing { edges, at } in crossings {
        for edge in edges {
            by_edge.entry(edge).or_default().push(at);
        }
    }
    by_edge
}

/// Every place where edges cross or touch themselves or another, in an order that depends on nothing
/// but them; `px` is the side of a pixel, mm.
pub(super) fn all(edges: &[FittedEdge], px: f64) -> Vec<Crossing> {
    let steps: Vec<Chord> = edges
        .par_iter()
        .enumerate()
        .flat_map_iter(|(n, edge)| steps_of(n as u32, edge, px))
        .collect();
    let side = CELL_PX * px;
    let mut cells: Vec<(i32, i32, u32)> = steps
        .par_iter()
        .enumerate()
        .flat_map_iter(|(n, step)| {
            let step_box = Rect::from_points(step.a, step.b);
            let cell = |v: f64| (v / side).floor() as i32;
            let (x0, x1) = (cell(step_box.x0), cell(step_box.x1));
            (cell(step_box.y0)..=cell(step_box.y1))
                .flat_map(move |y| (x0..=x1).map(move |x| (y, x, n as u32)))
        })
        .collect();
    cells.par_sort_unstable();
    let groups: Vec<&[(i32, i32, u32)]> = cells
        .chunk_by(|a, b| (a.0, a.1) == (b.0, b.1))
        .filter(|g| g.len() > 1)
        .collect();
    groups
        .par_iter()
        .flat_map_iter(|group| {
            let mut found = Vec::new();
            for (n, &(.., i)) in group.iter().enumerate() {
                for &(.., j) in &group[n + 1..] {
                    let (s, t) = (&steps[i as usize], &steps[j as usize]);
                    if meet(s, t) {
                        found.push(Crossing {
                            edges: [s.edge as usize, t.edge as usize],
                            at: place(s, t),
                        });
                    }
                }
            }
            found
        })
        .collect()
}

/// Where two steps that meet do so.
fn place(s: &Chord, t: &Chord) -> Point {
    let (u, v) = (s.b - s.a, t.b - t.a);
    let across = u.cross(v);
    if across.abs() < 1e-18 {
        // On one line: the middle of the two ends that lie nearest to each other.
        let ends = [(s.a, t.a), (s.a, t.b), (s.b, t.a), (s.b, t.b)];
        let near = |p: &(Point, Point), q: &(Point, Point)| {
            p.0.distance_squared(p.1)
                .total_cmp(&q.0.distance_squared(q.1))
        };
        let nearest = ends.into_iter().min_by(near);
        return nearest.map_or(s.a, |(p, q)| p.midpoint(q));
    }
    s.a + u * ((t.a - s.a).cross(v) / across).clamp(0.0, 1.0)
}

fn steps_of(edge: u32, fitted: &FittedEdge, px: f64) -> Vec<Chord> {
    let Some(first) = fitted.segments.first() else {
        return Vec::new();
    };
    let mut points = vec![first.start()];
    for segment in &fitted.segments {
        segment.flatten(FLAT_PX * px, &mut points);
    }
    points.dedup();
    // Ends that nearly meet are one point in the ring.
    points
        .windows(2)
        .map(|p| Chord {
            edge,
            a: p[0],
            b: p[1],
        })
        .collect()
}

/// Whether two steps without a common end cross or touch.
fn meet(s: &Chord, t: &Chord) -> bool {
    let near = |p: Point, q: Point| p.distance_squared(q) < 1e-18;
    if near(s.a, t.a) || near(s.a, t.b) || near(s.b, t.a) || near(s.b, t.b) {
        return false;
    }
    let side = |p: Point, q: Point, r: Point| (q - p).cross(r - p);
    let (d1, d2) = (side(s.a, s.b, t.a), side(s.a, s.b, t.b));
    let (d3, d4) = (side(t.a, t.b, s.a), side(t.a, t.b, s.b));
    if d1 == 0.0 && d2 == 0.0 {
        // On one line: they meet where their boxes do.
        let (a, b) = (Rect::from_points(s.a, s.b), Rect::from_points(t.a, t.b));
        return a.x0 <= b.x1 && b.x0 <= a.x1 && a.y0 <= b.y1 && b.y0 <= a.y1;
    }
    d1 * d2 <= 0.0 && d3 * d4 <= 0.0
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::segment::Segment;
    use kurbo::{CubicBez, Line};

    fn edge(segments: Vec<Segment>) -> FittedEdge {
        FittedEdge {
            segments,
            ..FittedEdge::default()
        }
    }

    fn line(a: (f64, f64), b: (f64, f64)) -> Segment {
        Segment::Line(Line::new(a, b))
    }

    #[test]
    fn edges_that_cross_are_found_and_neighbours_are_not() {
        let zig = edge(vec![
            line((0.0, 0.0), (10.0, 0.0)),
            line((10.0, 0.0), (10.0, 9.0)),
        ]);
        let through = edge(vec![line((5.0, -3.0), (5.0, 30.0))]);
        let beside = edge(vec![line((0.0, 0.0), (-8.0, 4.0))]);
        let found = by_edge(&all(&[zig, beside, through], 1.0));
        assert_eq!(found.into_keys().collect::<Vec<_>>(), [0, 2]);
    }

    #[test]
    fn a_curve_with_a_loop_crosses_itself() {
        let looped = CubicBez::new((0.0, 0.0), (30.0, 20.0), (-20.0, 20.0), (10.0, 0.0));
        assert_eq!(
            by_edge(&all(&[edge(vec![Segment::Cubic(looped)])], 1.0)).len(),
            1
        );
        let plain = CubicBez::new((0.0, 0.0), (3.0, 5.0), (7.0, 5.0), (10.0, 0.0));
        assert!(all(&[edge(vec![Segment::Cubic(plain)])], 1.0).is_empty());
    }
}
