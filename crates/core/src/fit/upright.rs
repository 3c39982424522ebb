//! Upright: sides that are horizontal or vertical but for a hair, made exactly so.
//!
//! ```text
//!   ×───────────────×      Both corners of the side take its level, the middle one of its points;
//!        0.03 px           what joins it there moves along. Junctions stay.
//! ```
//!
//! A corner moves by no more than a part of the tolerance, and the side is taken as it was where its
//! points lie too far from the level.

use kurbo::Point;

use crate::fit::corners::Run;
use crate::fit::guide::Limits;

/// Sides shorter than this say little about their direction, px.
const LEAST_PX: f64 = 6.0;
/// Ends of a side differ by no more than this part of the tolerance.
const HAIR: f64 = 0.5;

/// A coordinate of a point.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Axis {
    X,
    Y,
}

impl Axis {
    fn of(self, p: Point) -> f64 {
        match self {
            Self::X => p.x,
            Self::Y => p.y,
        }
    }

    fn set(self, p: &mut Point, to: f64) {
        match self {
            Self::X => p.x = to,
            Self::Y => p.y = to,
        }
    }
}

/// Levels the sides among the runs of an edge, which follow one another; of a closed one the last
/// leads to the first.
pub(super) fn level(runs: &mut [Run], closed: bool, limits: Limits) {
    if runs.iter().any(|run| run.smooth_loop) {
        return;
    }
    let count = runs.len();
    let mut levelled: Vec<Option<Axis>> = vec![None; count];
    for n in 0..count {
        let pinned = [!closed && n == 0, !closed && n + 1 == count];
        let Some((axis, to)) = side(&runs[n], pinned, limits) else {
            continue;
        };
        let (before, after) = ((n + count - 1) % count, (n + 1) % count);
        // Two sides in one line would pull their corner to and fro.
        if [before, after]
            .iter()
            .any(|&k| k != n && levelled[k] == Some(axis))
        {
            continue;
        }
        levelled[n] = Some(axis);
        let points = runs[n].points.as_mut_slice();
        let neighbour = |runs: &mut [Run], k: usize, pinned: bool, last: bool| {
            let points = runs[k].points.as_mut_slice();
            let corner = if last {
                points.last_mut()
            } else {
                points.first_mut()
            };
            if let Some(corner) = corner.filter(|_| !pinned) {
                axis.set(corner, to);
            }
        };
        if let [first, .., last] = points {
            axis.set(first, to);
            axis.set(last, to);
        }
        neighbour(runs, before, pinned[0], true);
        neighbour(runs, after, pinned[1], false);
    }
}

/// The coordinate that is the same all along a side, and its value.
fn side(run: &Run, pinned: [bool; 2], limits: Limits) -> Option<(Axis, f64)> {
    let [first, inner @ .., last] = run.points.as_slice() else {
        return None;
    };
    if first.distance(*last) < LEAST_PX * limits.px {
        return None;
    }
    let axis = [Axis::X, Axis::Y]
        .into_iter()
        .find(|axis| (axis.of(*first) - axis.of(*last)).abs() <= HAIR * limits.tolerance)?;
    let to = match pinned {
        [true, true] => return None,
        [true, false] => axis.of(*first),
        [false, true] => axis.of(*last),
        [false, false] => {
            let mut all: Vec<f64> = inner.iter().map(|p| axis.of(*p)).collect();
            all.sort_unstable_by(f64::total_cmp);
            *all.get(all.len() / 2)?
        }
    };
    let near = |p: &Point, most: f64| (axis.of(*p) - to).abs() <= most;
    let moved = [first, last]
        .iter()
        .all(|p| near(p, HAIR * limits.tolerance));
    let straight = inner.iter().all(|p| near(p, limits.strict()));
    (moved && straight).then_some((axis, to))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn run(points: &[(f64, f64)]) -> Run {
        let mut all = Vec::new();
        for pair in points.windows(2) {
            let (a, b) = (Point::from(pair[0]), Point::from(pair[1]));
            all.extend((0..20).map(|n| a.lerp(b, f64::from(n) / 20.0)));
        }
        all.extend(points.last().map(|&p| Point::from(p)));
        Run {
            points: all,
            smooth_loop: false,
        }
    }

    const LIMITS: Limits = Limits {
        tolerance: 0.2,
        wobble: 0.0,
        px: 1.0,
    };

    #[test]
    fn a_square_that_leans_by_a_hair_stands_upright_and_stays_closed() {
        let corners = [(0.0, 0.0), (40.0, 0.06), (40.04, 40.0), (0.03, 39.97)];
        let mut runs: Vec<Run> = (0..4)
            .map(|n| run(&[corners[n], corners[(n + 1) % 4]]))
            .collect();
        level(&mut runs, true, LIMITS);
        for n in 0..4 {
            let [first, last] = [runs[n].points[0], runs[n].points[20]];
            assert_eq!(last, runs[(n + 1) % 4].points[0]);
            let off = (first.x - last.x).abs().min((first.y - last.y).abs());
            assert!(off < 1e-12, "side {n}");
        }
    }

    #[test]
    fn a_slanting_side_and_junctions_stay() {
        let slanting = run(&[(0.0, 0.0), (40.0, 0.4)]);
        let mut runs = vec![slanting.clone()];
        level(&mut runs, false, LIMITS);
        assert_eq!(runs[0].points, slanting.points);
        let mut runs = vec![
            run(&[(0.0, 0.0), (40.0, 0.06)]),
            run(&[(40.0, 0.06), (40.0, 9.0)]),
        ];
        level(&mut runs, false, LIMITS);
        assert_eq!(runs[0].points[0], Point::ORIGIN);
        assert_eq!(runs[0].points[20], Point::new(40.0, 0.0));
        assert_eq!(runs[1].points[0], runs[0].points[20]);
    }
}
