//! Parallels: straight sides of one edge that lie in one direction but for a hair, made exactly so.
//!
//! ```text
//!     ╱──────────╲        Sides of a group take the direction that is the mean of theirs, by
//!    ╱            ╲       length. A corner of two straight sides moves to where their lines meet,
//!   ╱──────────────╲      a corner with a curve to the nearest point of the side's line.
//! ```
//!
//! A corner moves by no more than a part of the tolerance; junctions stay, and with them the sides
//! that end there. What stands upright already stays so. Own method.

use kurbo::{Point, Vec2};

use crate::fit::corners::Run;
use crate::fit::guide::Limits;
use crate::least_squares::line_through;

/// Sides shorter than this say little about their direction, px.
const LEAST_PX: f64 = 10.0;
/// Ends of a side move by no more than this part of the tolerance.
const HAIR: f64 = 0.5;
/// Points beside each corner that do not count for a side's direction.
const ROUNDED: usize = 4;
/// Sides meet in a corner from this sine on.
const LEAST_SINE: f64 = 0.2;

/// The line of a straight side.
#[derive(Clone, Copy)]
struct Side {
    middle: Point,
    along: Vec2,
    length: f64,
}

/// Aligns the sides among the runs of an edge, which follow one another; of a closed one the last
/// leads to the first.
pub(super) fn align(runs: &mut [Run], closed: bool, limits: Limits) {
    let count = runs.len();
    if count < 2 || runs.iter().any(|run| run.smooth_loop) {
        return;
    }
    let sides: Vec<Option<Side>> = (0..count)
        .map(|n| {
            let pinned = !closed && (n == 0 || n + 1 == count);
            if pinned { None } else { side(&runs[n], limits) }
        })
        .collect();
    let mut aligned = groups(&sides, HAIR * limits.tolerance);
    // A side that would move too far stays as it is, and its corners are found again without it.
    for _ in 0..count {
        let corners: Vec<Option<Point>> = (0..count)
            .map(|n| {
                corner(
                    runs[n].points[0],
                    aligned[(n + count - 1) % count],
                    aligned[n],
                )
            })
            .collect();
        let too_far = (0..count).find(|&n| {
            aligned[n].is_some()
                && [n, (n + 1) % count].iter().any(|&c| {
                    corners[c]
                        .is_none_or(|to| to.distance(runs[c].points[0]) > HAIR * limits.tolerance)
                })
        });
        if let Some(n) = too_far {
            aligned[n] = None;
            continue;
        }
        for (n, to) in corners.into_iter().enumerate() {
            let Some(to) = to else { continue };
            let before = (n + count - 1) % count;
            runs[n].points[0] = to;
            if let Some(last) = runs[before].points.last_mut() {
                *last = to;
            }
        }
        return;
    }
}

/// The line along a run, if it is straight, long enough and not upright already.
fn side(run: &Run, limits: Limits) -> Option<Side> {
    let [first, inner @ .., last] = run.points.as_slice() else {
        return None;
    };
    let chord = *last - *first;
    let length = chord.hypot();
    let upright = chord.x.abs().min(chord.y.abs()) < 1e-12;
    if upright || length < LEAST_PX * limits.px {
        return None;
    }
    // Beside its corners the pixels have rounded the side off.
    let calm = inner.get(ROUNDED..inner.len().saturating_sub(ROUNDED))?;
    let (middle, along) = line_through(calm)?;
    let near = |p: &Point| (*p - middle).cross(along).abs() <= limits.strict();
    run.points.iter().all(near).then_some(Side {
        middle,
        along,
        length,
    })
}

/// Sides that have a parallel, in the direction of their group; all others `None`.
fn groups(sides: &[Option<Side>], hair: f64) -> Vec<Option<Side>> {
    let mut aligned = vec![None; sides.len()];
    let mut order: Vec<(usize, Side)> = (0..)
        .zip(sides)
        .filter_map(|(n, s)| Some((n, (*s)?)))
        .collect();
    // The longest knows its direction best.
    order.sort_by(|a, b| b.1.length.total_cmp(&a.1.length).then(a.0.cmp(&b.0)));
    while let Some(&(_, longest)) = order.first() {
        let lies =
            |side: &Side| (side.along.cross(longest.along) * side.length / 2.0).abs() <= hair;
        let (group, rest): (Vec<_>, Vec<_>) = order.into_iter().partition(|(_, s)| lies(s));
        order = rest;
        if group.len() < 2 {
            continue;
        }
        let same_way = |s: &Side| s.along * s.along.dot(longest.along).signum();
        let sum: Vec2 = group.iter().map(|(_, s)| same_way(s) * s.length).sum();
        let along = sum.normalize();
        for (n, side) in group {
            aligned[n] = Some(Side { along, ..side });
        }
    }
    aligned
}

/// Where a corner between two runs goes; `None` where neither is aligned, or they do not meet.
fn corner(at: Point, before: Option<Side>, after: Option<Side>) -> Option<Point> {
    let nearest = |s: Side| s.middle + s.along * (at - s.middle).dot(s.along);
    match (before, after) {
        (None, None) => None,
        (Some(s), None) | (None, Some(s)) => Some(nearest(s)),
        (Some(s), Some(t)) => {
            let sine = s.along.cross(t.along);
            (sine.abs() >= LEAST_SINE).then(|| {
                let way = (t.middle - s.middle).cross(t.along) / sine;
                s.middle + s.along * way
            })
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const LIMITS: Limits = Limits {
        tolerance: 0.2,
        wobble: 0.0,
        px: 1.0,
    };

    fn polygon(corners: &[(f64, f64)]) -> Vec<Run> {
        let count = corners.len();
        (0..count)
            .map(|n| {
                let (a, b) = (
                    Point::from(corners[n]),
                    Point::from(corners[(n + 1) % count]),
                );
                Run {
                    points: (0..=30).map(|k| a.lerp(b, f64::from(k) / 30.0)).collect(),
                    smooth_loop: false,
                }
            })
            .collect()
    }

    fn direction(run: &Run) -> Vec2 {
        (run.points[30] - run.points[0]).normalize()
    }

    #[test]
    fn a_leaning_bar_gets_parallel_sides_and_stays_closed() {
        let mut runs = polygon(&[(0.0, 0.0), (80.0, 30.0), (74.0, 46.03), (-6.05, 16.0)]);
        align(&mut runs, true, LIMITS);
        for n in 0..4 {
            assert_eq!(runs[n].points[30], runs[(n + 1) % 4].points[0]);
            let lean = direction(&runs[n]).cross(direction(&runs[(n + 2) % 4]));
            assert!(lean.abs() < 1e-9, "side {n} leans by {lean}");
        }
    }

    #[test]
    fn a_wedge_and_an_open_edge_stay() {
        let wedge = polygon(&[(0.0, 0.0), (80.0, 30.0), (74.0, 46.0), (-4.0, 20.0)]);
        let mut runs = wedge.clone();
        align(&mut runs, true, LIMITS);
        for (a, b) in runs.iter().zip(&wedge) {
            assert_eq!(a.points, b.points);
        }
        let mut runs = polygon(&[(0.0, 0.0), (80.0, 30.0), (74.0, 46.03), (-6.05, 16.0)]);
        runs.truncate(3);
        let before = runs.clone();
        align(&mut runs, false, LIMITS);
        for (a, b) in runs.iter().zip(&before) {
            assert_eq!(a.points, b.points);
        }
    }
}
