//! Reach: the line, the arc or the cubic that goes farthest along the points from a joint on.
//!
//! Each kind is tried for stretches twice as long as the one before until it no longer holds, then
//! for lengths between. Straight lines and arcs are held more closely and taken where a cubic does
//! not reach much farther, since they say more: a straight stroke is to be straight.

use std::ops::Range;

use kurbo::{Line, Point};

use crate::fit::circle;
use crate::fit::cubic::{self, Directions};
use crate::fit::guide::{Guide, Piece};
use crate::segment::Segment;

/// A line is worth taking when it reaches this part of the way that a cubic does, and this far, px.
const LINE_WORTH: f64 = 0.6;
const LINE_PX: f64 = 6.0;
/// The same for an arc.
const ARC_WORTH: f64 = 0.85;
const ARC_PX: f64 = 4.0;
/// Least and greatest angle of an arc, radians.
const ARC_SWEEP: Range<f64> = 0.35..3.5;
/// Points that an arc runs along at least.
const ARC_POINTS: usize = 5;
/// Points that the first piece tried runs along.
const FIRST_LENGTH: usize = 12;
/// Points that are left at least for the piece after a cubic: fewer say little of its direction.
const LEAST_REST: usize = 10;
/// How good a cubic must be, as a part of the tolerance, to be looked at no more: while lengths
/// are tried, and in the end.
const WHILE_TRYING: f64 = 0.9;
const IN_THE_END: f64 = 0.3;

/// The piece to take from a point on, up to another point.
pub(super) fn farthest(guide: Guide<'_>, from: usize, to: usize) -> Piece {
    let most = to - from;
    let line = longest(from, most, |s| line(guide, s));
    let arc = longest(from, most, |s| arc(guide, s));
    let curve = longest(from, most, |s| {
        fitted(guide, s, Directions::default(), WHILE_TRYING)
    });
    let reach = |piece: &Option<Piece>| {
        let end = piece.as_ref().map_or(from, |p| p.stretch.end);
        guide.points[end].distance(guide.points[from])
    };
    let (line_reach, arc_reach) = (reach(&line), reach(&arc));
    let far = reach(&curve).max(arc_reach).max(line_reach);
    let px = guide.limits.px;
    match (line, arc) {
        (Some(line), _) if line_reach >= (LINE_WORTH * far).max(LINE_PX * px) => {
            trimmed(guide, line)
        }
        (_, Some(arc)) if arc_reach >= (ARC_WORTH * far).max(ARC_PX * px) && bends(&arc) => arc,
        // A step from one point to the next always holds.
        _ => curve.map_or_else(|| step(guide, from), |c| with_room(guide, c, to)),
    }
}

/// The line or the arc to take from a point on, up to another point: the one that goes farther.
pub(super) fn line_or_arc(guide: Guide<'_>, from: usize, to: usize) -> Piece {
    let line = longest(from, to - from, |s| line(guide, s));
    let arc = longest(from, to - from, |s| arc(guide, s));
    let end = |piece: &Option<Piece>| piece.as_ref().map_or(from, |p| p.stretch.end);
    let found = if end(&arc) > end(&line) { arc } else { line };
    found.unwrap_or_else(|| step(guide, from))
}

/// The longest stretch of at most `most` steps from a point on for which `fit` holds: as many fits
/// as its length has binary digits.
pub(super) fn longest(
    from: usize,
    most: usize,
    fit: impl Fn(Range<usize>) -> Option<Piece>,
) -> Option<Piece> {
    let (mut holds, mut fails) = (1, most + 1);
    let mut best = None;
    let mut length = FIRST_LENGTH.min(most);
    while holds < length && length < fails {
        match fit(from..from + length) {
            Some(found) => (holds, best) = (length, Some(found)),
            None => fails = length,
        }
        length = if fails > most {
            (2 * length).min(most)
        } else {
            (holds + fails) / 2
        };
    }
    best
}

/// A straight step from one point to the next.
pub(super) fn step(guide: Guide<'_>, from: usize) -> Piece {
    let stretch = from..from + 1;
    let (points, [start, end]) = guide.own(&stretch);
    let off = [start.distance(points[0]), end.distance(points[1])];
    Piece {
        segment: Segment::Line(Line::new(start, end)),
        off: off.map(|d| d as f32).to_vec(),
        stretch,
    }
}

/// A line along a stretch, held strictly.
pub(super) fn line(guide: Guide<'_>, stretch: Range<usize>) -> Option<Piece> {
    let (_, [start, end]) = guide.own(&stretch);
    let line = Segment::Line(Line::new(start, end));
    measured(guide, stretch, line, guide.limits.strict())
}

/// A line along the whole run, if the tolerance allows it.
pub(super) fn whole_line(guide: Guide<'_>) -> Option<Piece> {
    let stretch = 0..guide.last();
    let (_, [start, end]) = guide.own(&stretch);
    let line = Segment::Line(Line::new(start, end));
    measured(guide, stretch, line, guide.limits.tolerance)
}

/// A line without the ends by which it runs into a bend.
///
/// The farthest-reaching line leaves the straight for a little way; it is measured against its own
/// middle part, and goes back to where it was still on it.
fn trimmed(guide: Guide<'_>, piece: Piece) -> Piece {
    let Range { start, end } = piece.stretch;
    let count = end - start;
    if end == guide.last() || count < 8 {
        return piece;
    }
    let least = end - count / 4;
    let from = guide.joints[start + count / 8];
    let along = (guide.joints[least] - from).normalize();
    let off = |p: Point| (p - from).cross(along).abs();
    let held = (0.3 * guide.limits.strict()).max(guide.limits.wobble);
    let mut to = end;
    while to > least && off(guide.joints[to]) > held {
        to -= 1;
    }
    line(guide, start..to).unwrap_or(piece)
}

/// An arc along a stretch, held strictly; it may still be too flat to be told from a cubic.
fn arc(guide: Guide<'_>, stretch: Range<usize>) -> Option<Piece> {
    let (points, ends) = guide.own(&stretch);
    if points.len() < ARC_POINTS {
        return None;
    }
    let strict = guide.limits.strict();
    let circle = circle::taubin(points).filter(|c| c.off(points) <= strict)?;
    let arc = circle.arc(ends, points[points.len() / 2])?;
    if arc.sweep().abs() > ARC_SWEEP.end {
        return None;
    }
    measured(guide, stretch, Segment::Arc(arc), strict)
}

/// Whether an arc turns enough to be one.
fn bends(piece: &Piece) -> bool {
    matches!(piece.segment, Segment::Arc(arc) if arc.sweep().abs() >= ARC_SWEEP.start)
}

/// A line or an arc with the distances of its points, if none is above `tolerance`.
fn measured(
    guide: Guide<'_>,
    stretch: Range<usize>,
    segment: Segment,
    tolerance: f64,
) -> Option<Piece> {
    let (points, _) = guide.own(&stretch);
    let off: Option<Vec<f32>> = points
        .iter()
        .map(|&p| {
            let d = segment.distance(p, 0.01 * tolerance);
            (d <= tolerance).then_some(d as f32)
        })
        .collect();
    let off = off?;
    guide.held(Piece {
        stretch,
        segment,
        off,
    })
}

/// A cubic that would leave only a stub of the run, drawn back so that two good ones fit.
fn with_room(guide: Guide<'_>, piece: Piece, to: usize) -> Piece {
    let Range { start, end } = piece.stretch;
    let rest = to - end;
    if rest == 0 || rest >= LEAST_REST {
        return piece;
    }
    let half = start..start + (to - start) / 2;
    cubic(guide, half, Directions::default()).unwrap_or(piece)
}

/// A cubic along a stretch, with given directions at its ends or free ones.
pub(super) fn cubic(
    guide: Guide<'_>,
    stretch: Range<usize>,
    directions: Directions,
) -> Option<Piece> {
    fitted(guide, stretch, directions, IN_THE_END)
}

fn fitted(
    guide: Guide<'_>,
    stretch: Range<usize>,
    directions: Directions,
    enough: f64,
) -> Option<Piece> {
    let (points, ends) = guide.own(&stretch);
    let enough = enough * guide.tightest(&stretch);
    let found = cubic::fit(points, ends, directions, guide.limits.tolerance, enough)?;
    guide.held(Piece {
        stretch,
        segment: Segment::Cubic(found.cubic),
        off: found.off,
    })
}
