//! Straight stretches: found before anything else along a run, so that a straight stroke is straight.
//!
//! ```text
//!     ╭──────────────╮    A cubic that starts in the bend would reach far into the straight part,
//!     │← ── line ── →│    and a line after it would have the rest. So the line comes first, from
//!     ╰              ╯    bend to bend, and curves are fitted to what lies between lines.
//! ```
//!
//! A stretch on which a line holds may still be a piece of a wide bend. The line is made as long as
//! it holds: along a bend its middle then lies off by the whole limit, while along a straight
//! stretch only its very ends leave it. Own method.

use std::ops::Range;

use kurbo::Point;

use crate::fit::guide::{Guide, Limits, Piece};
use crate::fit::reach;
use crate::least_squares::line_through;

/// Shorter stretches are left to the fit, px; and shorter ones than so many times the limit, along
/// which a line holds on wide bends too.
const LEAST_PX: f64 = 14.0;
const LEAST_LIMITS: f64 = 60.0;
/// Middle third of a stretch against its outer thirds: along a bend the difference is 0.44 of the
/// limit, along a straight stretch it stays below this part of it.
const BENT: f64 = 0.15;
/// The ends are drawn back to where they lie within this part of the limit of the middle's line.
const HELD: f64 = 0.3;

/// The straight stretches of a run, in order, as lines.
pub(super) fn lines(guide: Guide<'_>) -> Vec<Piece> {
    let last = guide.last();
    let Limits { px, .. } = guide.limits;
    let least = (LEAST_PX * px).max(LEAST_LIMITS * guide.limits.strict());
    let mut found: Vec<Piece> = Vec::new();
    let mut from = 0;
    while from < last {
        let far = |&end: &usize| guide.joints[from].distance(guide.joints[end]) >= least;
        let Some(end) = (from + 1..=last).find(far) else {
            break;
        };
        let before = found.last().map_or(0, |line| line.stretch.end);
        match straight(guide, before, from..end) {
            Some(line) if line.segment.length() >= least => {
                from = line.stretch.end;
                found.push(line);
            }
            _ => from += ((end - from) / 4).max(1),
        }
    }
    found
}

/// The line of which a stretch is a part, as long as it holds; `None` along a bend.
fn straight(guide: Guide<'_>, before: usize, seed: Range<usize>) -> Option<Piece> {
    reach::line(guide, seed.clone())?;
    let line = reach::longest(seed.start, guide.last() - seed.start, |s| {
        reach::line(guide, s)
    })?;
    let end = line.stretch.end.max(seed.end);
    // Backwards too: the seed may have begun amid the stretch.
    let mut start = seed.start;
    let mut step = (end - start) / 4;
    while step > 0 {
        let back = start.saturating_sub(step).max(before);
        if back < start && reach::line(guide, back..end).is_some() {
            start = back;
        } else {
            step /= 2;
        }
    }
    if bent(guide, start..end) {
        return None;
    }
    reach::line(guide, drawn_back(guide, start..end)?)
}

/// Whether the points of a stretch lie along a bend.
fn bent(guide: Guide<'_>, stretch: Range<usize>) -> bool {
    let (points, [from, to]) = guide.own(&stretch);
    let along = (to - from).normalize();
    let mean = |points: &[Point]| {
        let sum: f64 = points.iter().map(|&p| (p - from).cross(along)).sum();
        sum / points.len().max(1) as f64
    };
    let third = points.len() / 3;
    let (a, rest) = points.split_at(third);
    let (b, c) = rest.split_at(rest.len() - third);
    (mean(b) - (mean(a) + mean(c)) / 2.0).abs() > BENT * guide.limits.strict()
}

/// A stretch without the ends by which it runs into bends.
fn drawn_back(guide: Guide<'_>, stretch: Range<usize>) -> Option<Range<usize>> {
    let Range { mut start, mut end } = stretch;
    let (quarter, last) = ((end - start) / 4, guide.last());
    let (middle, along) = line_through(&guide.points[start + quarter..=end - quarter])?;
    let held = (HELD * guide.limits.strict()).max(guide.limits.wobble);
    let off = |n: usize| (guide.joints[n] - middle).cross(along).abs() > held;
    let (first, least) = (start + quarter, end - quarter);
    while start > 0 && start < first && off(start) {
        start += 1;
    }
    while end < last && end > least && off(end) {
        end -= 1;
    }
    (end > start + 1).then_some(start..end)
}

#[cfg(test)]
mod tests {
    use super::*;

    const LIMITS: Limits = Limits {
        tolerance: 0.2,
        wobble: 0.0,
        px: 1.0,
    };

    fn found(points: &[Point]) -> Vec<Piece> {
        lines(Guide {
            points,
            joints: points,
            parts: &[],
            closed: false,
            limits: LIMITS,
        })
    }

    /// A half circle, a straight side, and a half circle again.
    fn slot(radius: f64, side: f64) -> Vec<Point> {
        let arc = |n: i32| std::f64::consts::PI * f64::from(n) / (3.0 * radius);
        let steps = (3.0 * radius) as i32;
        let left = (0..steps).map(|n| {
            let (sin, cos) = arc(n).sin_cos();
            Point::new(-radius * sin, -radius * cos)
        });
        let straight = (0..side as i32).map(|n| Point::new(f64::from(n), radius));
        let right = (0..steps).map(|n| {
            let (sin, cos) = arc(n).sin_cos();
            Point::new(side + radius * sin, radius * cos)
        });
        left.chain(straight).chain(right).collect()
    }

    #[test]
    fn the_side_of_a_slot_is_one_line_from_bend_to_bend() {
        for (radius, side) in [(20.0, 60.0), (40.0, 200.0), (90.0, 120.0)] {
            let lines = found(&slot(radius, side));
            assert_eq!(lines.len(), 1, "radius {radius}");
            let line = &lines[0].segment;
            assert!((line.length() - side).abs() < 12.0, "{}", line.length());
            assert!((line.start().y - line.end().y).abs() < 0.1);
        }
    }

    #[test]
    fn bends_have_no_straight_stretch() {
        for radius in [15.0, 60.0, 400.0] {
            let points: Vec<Point> = (0..600)
                .map(|n| {
                    let (sin, cos) = (f64::from(n) / 600.0 * 3.0).sin_cos();
                    Point::new(radius * cos, radius * sin)
                })
                .collect();
            assert!(found(&points).is_empty(), "radius {radius}");
        }
    }
}
