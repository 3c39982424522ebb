//! Follow: the way along the artwork's own edges from one place to another.
//!
//! In: the curves of every edge of the artwork, two places near them. Out: the shortest way along
//! edges, over the junctions where they meet. So what was missed is traced by a few clicks, as
//! exactly as the rest.

use std::cmp::Reverse;
use std::collections::{BTreeMap, BinaryHeap};

use kurbo::Point;

use crate::fit::FittedEdge;
use crate::segment::Segment;

/// Ends that are nearer than this are one junction, mm.
const SAME: f64 = 1e-6;

/// A place on an edge.
#[derive(Clone, Copy, Debug)]
struct On {
    edge: usize,
    segment: usize,
    t: f64,
}

type Key = (i64, i64);

fn key(p: Point) -> Key {
    ((p.x / SAME).round() as i64, (p.y / SAME).round() as i64)
}

/// The way from one place to another along edges no farther than `reach` mm from both; `None`
/// where no edge is near, or none leads there.
#[must_use]
pub fn follow(edges: &[FittedEdge], from: Point, to: Point, reach: f64) -> Option<Vec<Segment>> {
    let (a, b) = (nearest(edges, from, reach)?, nearest(edges, to, reach)?);
    let way = if a.edge == b.edge {
        along_one(&edges[a.edge], a, b)
    } else {
        over_junctions(edges, a, b)?
    };
    (!way.is_empty()).then_some(way)
}

fn nearest(edges: &[FittedEdge], p: Point, reach: f64) -> Option<On> {
    let mut best: Option<(f64, On)> = None;
    for (edge, fitted) in edges.iter().enumerate() {
        for (segment, curve) in fitted.segments.iter().enumerate() {
            let within = best.map_or(reach, |(off, _)| off);
            if !curve.bounds().inflate(within, within).contains(p) {
                continue;
            }
            let t = curve.nearest_parameter(p);
            let off = curve.eval(t).distance(p);
            if off <= within {
                best = Some((off, On { edge, segment, t }));
            }
        }
    }
    best.map(|(_, on)| on)
}

fn length(way: &[Segment]) -> f64 {
    way.iter().map(Segment::length).sum()
}

fn reversed(way: &[Segment]) -> Vec<Segment> {
    way.iter().rev().map(Segment::reverse).collect()
}

fn closed(edge: &FittedEdge) -> bool {
    let ends = edge.segments.first().zip(edge.segments.last());
    ends.is_some_and(|(a, b)| a.start().distance(b.end()) < SAME)
}

/// The stretch between two places of one edge, the first before the second.
fn stretch(edge: &FittedEdge, a: (usize, f64), b: (usize, f64)) -> Vec<Segment> {
    let mut way = Vec::new();
    for (n, segment) in edge.segments.iter().enumerate().take(b.0 + 1).skip(a.0) {
        let from = if n == a.0 { a.1 } else { 0.0 };
        let to = if n == b.0 { b.1 } else { 1.0 };
        if to - from > 1e-9 {
            way.push(segment.part(from, to));
        }
    }
    way
}

fn along_one(edge: &FittedEdge, a: On, b: On) -> Vec<Segment> {
    let (pa, pb) = ((a.segment, a.t), (b.segment, b.t));
    let forward = pa <= pb;
    let (first, second) = if forward { (pa, pb) } else { (pb, pa) };
    let inside = stretch(edge, first, second);
    let inside = if forward { inside } else { reversed(&inside) };
    if !closed(edge) {
        return inside;
    }
    // The other way round a closed edge.
    let mut around = stretch(edge, second, (edge.segments.len() - 1, 1.0));
    around.extend(stretch(edge, (0, 0.0), first));
    let around = if forward { reversed(&around) } else { around };
    if length(&around) < length(&inside) {
        around
    } else {
        inside
    }
}

/// A distance that can be ordered.
#[derive(PartialEq, PartialOrd)]
struct Far(f64);

impl Eq for Far {}

#[allow(clippy::derive_ord_xor_partial_ord, reason = "lengths are never NaN")]
impl Ord for Far {
    fn cmp(&self, other: &Self) -> std::cmp::Ordering {
        self.0.total_cmp(&other.0)
    }
}

/// The shortest way from junction to junction (Dijkstra 1959).
fn over_junctions(edges: &[FittedEdge], a: On, b: On) -> Option<Vec<Segment>> {
    let whole = |n: usize| {
        let segments = &edges[n].segments;
        Some((segments.first()?.start(), segments.last()?.end()))
    };
    let mut at: BTreeMap<Key, Vec<usize>> = BTreeMap::new();
    for n in 0..edges.len() {
        if let Some((start, end)) = whole(n) {
            at.entry(key(start)).or_default().push(n);
            at.entry(key(end)).or_default().push(n);
        }
    }
    let lengths: Vec<f64> = edges.iter().map(|e| length(&e.segments)).collect();
    let last = |n: usize| (edges[n].segments.len() - 1, 1.0);
    // From a place to both ends of its edge.
    let leaving = |on: On| -> Option<[(Key, Vec<Segment>); 2]> {
        let (start, end) = whole(on.edge)?;
        let edge = &edges[on.edge];
        let back = reversed(&stretch(edge, (0, 0.0), (on.segment, on.t)));
        Some([
            (key(start), back),
            (key(end), stretch(edge, (on.segment, on.t), last(on.edge))),
        ])
    };
    let (starts, ends) = (leaving(a)?, leaving(b)?);
    let mut best: BTreeMap<Key, (f64, Option<(Key, usize)>)> = BTreeMap::new();
    let mut heap = BinaryHeap::new();
    for (place, way) in &starts {
        let far = length(way);
        if best.get(place).is_none_or(|(f, _)| far < *f) {
            best.insert(*place, (far, None));
            heap.push(Reverse((Far(far), *place)));
        }
    }
    while let Some(Reverse((Far(far), place))) = heap.pop() {
        if best.get(&place).is_some_and(|(f, _)| far > *f) {
            continue;
        }
        for &n in at.get(&place).into_iter().flatten() {
            let Some((start, end)) = whole(n) else {
                continue;
            };
            let other = if key(start) == place {
                key(end)
            } else {
                key(start)
            };
            let next = far + lengths[n];
            if best.get(&other).is_none_or(|(f, _)| next < *f) {
                best.insert(other, (next, Some((place, n))));
                heap.push(Reverse((Far(next), other)));
            }
        }
    }
    let arrival = ends
        .iter()
        .filter_map(|(place, way)| best.get(place).map(|(f, _)| (f + length(way), place, way)))
        .min_by(|x, y| x.0.total_cmp(&y.0))?;
    let mut way = reversed(arrival.2);
    let mut place = *arrival.1;
    let mut back = Vec::new();
    while let Some((_, Some((before, n)))) = best.get(&place) {
        back.push((*before, *n));
        place = *before;
    }
    let mut whole_way = starts
        .iter()
        .find(|(p, _)| *p == place)
        .map(|(_, w)| w.clone())?;
    for (before, n) in back.into_iter().rev() {
        let segments = &edges[n].segments;
        let forward = segments.first().is_some_and(|s| key(s.start()) == before);
        if forward {
            whole_way.extend_from_slice(segments);
        } else {
            whole_way.extend(reversed(segments));
        }
    }
    whole_way.append(&mut way);
    Some(whole_way)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::segment::Arc;
    use kurbo::Line;

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
    fn a_circle_is_followed_the_shorter_way() {
        let half = |p0: (f64, f64), p1: (f64, f64)| {
            Segment::Arc(Arc {
                p0: p0.into(),
                p1: p1.into(),
                bulge: 1.0,
            })
        };
        let circle = [edge(vec![
            half((5.0, 0.0), (-5.0, 0.0)),
            half((-5.0, 0.0), (5.0, 0.0)),
        ])];
        let way = follow(&circle, Point::new(0.1, 5.2), Point::new(0.1, -5.2), 1.0).unwrap();
        assert!((length(&way) - 5.0 * std::f64::consts::PI).abs() < 0.3);
        let short = follow(&circle, Point::new(5.0, 0.5), Point::new(5.0, -0.5), 1.0).unwrap();
        assert!(
            (length(&short) - 1.0).abs() < 0.02,
            "across the start: {}",
            length(&short)
        );
        assert!(follow(&circle, Point::ORIGIN, Point::new(5.0, 0.0), 1.0).is_none());
    }

    #[test]
    fn edges_are_followed_over_the_junctions_where_they_meet() {
        // A ladder: the way from the left foot to the right one goes over the lower rung.
        let map = [
            edge(vec![line((0.0, 0.0), (0.0, 5.0))]),
            edge(vec![line((0.0, 5.0), (0.0, 10.0))]),
            edge(vec![line((4.0, 5.0), (4.0, 0.0))]),
            edge(vec![line((4.0, 10.0), (4.0, 5.0))]),
            edge(vec![line((0.0, 5.0), (4.0, 5.0))]),
            edge(vec![line((0.0, 10.0), (4.0, 10.0))]),
            edge(vec![line((50.0, 0.0), (60.0, 0.0))]),
        ];
        let way = follow(&map, Point::new(0.0, 1.0), Point::new(4.0, 2.0), 0.5).unwrap();
        assert!((length(&way) - 11.0).abs() < 1e-9);
        assert!(
            way.windows(2)
                .all(|w| w[0].end().distance(w[1].start()) < 1e-9)
        );
        assert_eq!(
            (way[0].start(), way[2].end()),
            (Point::new(0.0, 1.0), Point::new(4.0, 2.0))
        );
        assert!(follow(&map, Point::new(0.0, 1.0), Point::new(55.0, 0.0), 0.5).is_none());
    }
}
