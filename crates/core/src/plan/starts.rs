//! Starts: where each closed path begins, so that the way to it is short.
//!
//! A path begins at a corner where it has one, since a seam shows least there; else at any node. For
//! a given order the best starts are found exactly, path by path, from the first to the last:
//!
//! ```text
//!   start ──► {a, b, c} ──► {d, e} ──► {f, g, h} ──► end      least sum over one of each
//! ```
//!
//! Source: Bellman 1957, dynamic programming over stages.

use kurbo::Point;

use crate::segment::Segment;

/// A place where a path can begin.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Start {
    /// Number of the segment that comes first.
    pub segment: usize,
    /// Where it begins.
    pub from: Point,
    /// Where the path ends.
    pub to: Point,
}

/// At most so many places are tried of each path.
const MOST: usize = 24;
/// A turn above this is a corner, radians.
const CORNER: f64 = 0.35;

/// The places where a closed path can begin.
pub(super) fn places(segments: &[Segment]) -> Vec<Start> {
    let n = segments.len();
    let turn = |i: usize| {
        let (before, after) = (
            segments[(i + n - 1) % n].tangent(true),
            segments[i].tangent(false),
        );
        before.cross(after).atan2(before.dot(after)).abs()
    };
    let mut found: Vec<usize> = (0..n).filter(|&i| turn(i) > CORNER).collect();
    if found.is_empty() {
        found = (0..n).collect();
    }
    let every = found.len().div_ceil(MOST);
    let start = |&segment: &usize| {
        let at = segments[segment].start();
        Start {
            segment,
            from: at,
            to: at,
        }
    };
    found.iter().step_by(every).map(start).collect()
}

/// For paths in their order the place of each that makes the whole way shortest.
pub(super) fn best(stages: &[&[Start]], start: Point, end: Option<Point>) -> Vec<usize> {
    let mut ways: Vec<Vec<(f64, usize)>> = Vec::with_capacity(stages.len());
    for (n, stage) in stages.iter().enumerate() {
        let reached = |place: &Start| match n.checked_sub(1) {
            None => (start.distance(place.from), 0),
            Some(before) => {
                let sums = stages[before].iter().zip(&ways[before]).enumerate();
                let sums = sums.map(|(k, (b, w))| (w.0 + b.to.distance(place.from), k));
                sums.min_by(|a, b| a.0.total_cmp(&b.0)).unwrap_or_default()
            }
        };
        ways.push(stage.iter().map(reached).collect());
    }
    let mut chosen = vec![0; stages.len()];
    let Some((last, stage)) = ways.last().zip(stages.last()) else {
        return chosen;
    };
    let home = |k: usize| last[k].0 + end.map_or(0.0, |e| stage[k].to.distance(e));
    let mut k = (0..last.len())
        .min_by(|&a, &b| home(a).total_cmp(&home(b)))
        .unwrap_or(0);
    for n in (0..stages.len()).rev() {
        chosen[n] = k;
        k = ways[n].get(k).map_or(0, |w| w.1);
    }
    chosen
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_best_starts_are_those_of_trying_all() {
        let start = |x: f64, y: f64| Start {
            segment: 0,
            from: Point::new(x, y),
            to: Point::new(x, y),
        };
        let stages = [
            vec![start(3.0, 9.0), start(5.0, 1.0), start(0.5, 4.0)],
            vec![start(8.0, 8.0), start(2.0, 2.0)],
            vec![start(9.0, 0.0), start(1.0, 7.0), start(4.0, 4.0)],
        ];
        let (from, end) = (Point::ORIGIN, Some(Point::new(10.0, 10.0)));
        let length = |choice: [usize; 3]| {
            let places = [0, 1, 2].map(|n| stages[n][choice[n]].from);
            let on = places.windows(2).map(|w| w[0].distance(w[1])).sum::<f64>();
            from.distance(places[0]) + on + places[2].distance(Point::new(10.0, 10.0))
        };
        let all = (0..3).flat_map(|a| (0..2).flat_map(move |b| (0..3).map(move |c| [a, b, c])));
        let least = all.map(length).fold(f64::INFINITY, f64::min);
        let refs: Vec<&[Start]> = stages.iter().map(Vec::as_slice).collect();
        let found = best(&refs, from, end);
        assert!((length([found[0], found[1], found[2]]) - least).abs() < 1e-12);
    }
}
