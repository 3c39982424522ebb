//! Joints: pieces made to go smoothly into each other.
//!
//! Every joint gets a direction, that of its line or arc, else one between those of its two
//! cubics, and the cubics are fitted again along it. Where one does not hold then, other
//! directions are tried; where a curve cannot come into a line smoothly, they meet at a slight
//! corner, for then the drawing has one.

use std::ops::Range;

use kurbo::Vec2;

use crate::fit::cubic::Directions;
use crate::fit::guide::{Guide, Piece};
use crate::fit::reach;
use crate::segment::Segment;

/// Directions that differ by more than this at a joint are a corner that was missed, as a cosine.
const KINK_COS: f64 = 0.9;
/// The same where one of the two is a line (10°).
const LINE_KINK_COS: f64 = 0.985;
/// An arc whose neighbour goes on in another direction than this is drawn as a cubic (3°).
const ARC_KINK_COS: f64 = 0.9986;
/// Points on each side that tell in which direction a joint is passed.
const PASSING: usize = 5;
/// Points up to which a cubic's length counts for its say in a direction.
const HEARD: usize = 40;
/// Stretches shorter than this are not divided.
const SHORT: usize = 8;

/// Neighbouring cubics with their joints moved so that each is about as long as the next, `more`
/// of them than there were, where that holds; and arcs that fit badly to their neighbours as cubics.
pub(super) fn evened(guide: Guide<'_>, pieces: &[Piece], more: usize) -> Vec<Piece> {
    let mut out: Vec<Piece> = Vec::new();
    for group in pieces.chunk_by(|a, b| a.is_cubic() && b.is_cubic()) {
        let (start, count) = (group[0].stretch.start, group.len() + more);
        let length = group[group.len() - 1].stretch.end - start;
        let cut = |n: usize| start + length * n / count;
        let even: Option<Vec<Piece>> = (0..count)
            .map(|n| reach::cubic(guide, cut(n)..cut(n + 1), Directions::default()))
            .collect();
        match even {
            Some(even) if group[0].is_cubic() => out.extend(even),
            _ => out.extend_from_slice(group),
        }
    }
    without_odd_arcs(guide, out)
}

/// Pieces with those arcs as cubics that would have to meet their neighbours at an angle.
fn without_odd_arcs(guide: Guide<'_>, mut pieces: Vec<Piece>) -> Vec<Piece> {
    let count = pieces.len();
    let kinked = |a: &Piece, b: &Piece| {
        cosine(a, b).is_some_and(|(.., cos)| (KINK_COS..ARC_KINK_COS).contains(&cos))
    };
    let odd: Vec<bool> = (0..count)
        .map(|n| {
            let before = (guide.closed || n > 0).then(|| (n + count - 1) % count);
            let after = (guide.closed || n + 1 < count).then(|| (n + 1) % count);
            matches!(pieces[n].segment, Segment::Arc(_))
                && (before.is_some_and(|m| kinked(&pieces[m], &pieces[n]))
                    || after.is_some_and(|m| kinked(&pieces[n], &pieces[m])))
        })
        .collect();
    for (piece, _) in pieces.iter_mut().zip(odd).filter(|(_, odd)| *odd) {
        if let Some(cubic) = reach::cubic(guide, piece.stretch.clone(), Directions::default()) {
            *piece = cubic;
        }
    }
    pieces
}

/// The directions of two pieces where they meet, and the cosine between them.
pub(super) fn cosine(before: &Piece, after: &Piece) -> Option<(Vec2, Vec2, f64)> {
    let unit = |v: Vec2| (v.hypot2() > 0.0).then(|| v.normalize());
    let a = unit(before.segment.tangent(true))?;
    let b = unit(after.segment.tangent(false))?;
    Some((a, b, a.dot(b)))
}

/// The direction at the joint of two pieces; `None` where they form a corner.
fn direction(before: &Piece, after: &Piece) -> Option<Vec2> {
    let (a, b, cos) = cosine(before, after)?;
    let line = before.is_line() || after.is_line();
    // A line does not give way: where a curve leaves it at an angle there is a corner.
    if cos < if line { LINE_KINK_COS } else { KINK_COS } {
        return None;
    }
    // A single step says nothing of the direction.
    let is_step = |p: &Piece| p.is_line() && p.stretch.len() <= 2;
    if is_step(before) || is_step(after) {
        return None;
    }
    match (before.is_cubic(), after.is_cubic()) {
        (false, true) => Some(a),
        (true, false) => Some(b),
        // The longer of two cubics knows its direction better.
        _ => {
            let say = |p: &Piece| p.stretch.len().min(HEARD) as f64;
            Some((a * say(before) + b * say(after)).normalize())
        }
    }
}

/// The direction in which the points themselves pass a joint.
fn passing(guide: Guide<'_>, at: usize) -> Option<Vec2> {
    let last = guide.last();
    let reach = PASSING.min(last / 3);
    let (before, after) = if guide.closed && at == 0 {
        (last - reach, reach)
    } else {
        (at.checked_sub(reach)?, at + reach)
    };
    let way = *guide.joints.get(after)? - guide.joints[before];
    (way.hypot2() > 0.0).then(|| way.normalize())
}

/// Directions that a joint of two cubics may have, the likeliest first.
pub(super) fn ways(guide: Guide<'_>, before: &Piece, after: &Piece) -> Vec<Vec2> {
    let Some((a, b, _)) = cosine(before, after) else {
        return Vec::new();
    };
    let between = [0.5, 0.0, 1.0, 0.25, 0.75, -0.5, 1.5].map(|t| a.lerp(b, t).normalize());
    let passing = passing(guide, after.stretch.start);
    passing.into_iter().chain(between).collect()
}

/// Pieces on the way to smooth joints.
struct Joining<'a> {
    guide: Guide<'a>,
    pieces: &'a [Piece],
    /// Direction at the start of every piece; `None` at a corner.
    at: Vec<Option<Vec2>>,
    /// Every cubic fitted along its directions, if it holds so.
    found: Vec<Option<Piece>>,
}

impl Joining<'_> {
    fn directions(&self, n: usize) -> Directions {
        let next = if n + 1 < self.pieces.len() {
            self.at[n + 1]
        } else if self.guide.closed {
            self.at[0]
        } else {
            None
        };
        Directions {
            start: self.at[n],
            end: next,
        }
    }

    fn fitted(&self, n: usize) -> Option<Piece> {
        let piece = &self.pieces[n];
        piece
            .is_cubic()
            .then(|| reach::cubic(self.guide, piece.stretch.clone(), self.directions(n)))
            .flatten()
    }

    /// Whether a piece needs no more.
    fn holds(&self, n: usize) -> bool {
        !self.pieces[n].is_cubic() || self.found[n].is_some()
    }

    /// Gives a joint another direction if more of its two pieces hold with it.
    fn try_way(&mut self, joint: usize, way: Option<Vec2>) {
        let sides = self.sides(joint);
        let before = sides.map(|n| self.found[n].clone());
        let old = std::mem::replace(&mut self.at[joint], way);
        let holding = |joining: &Self| sides.iter().filter(|&&n| joining.holds(n)).count();
        let held = holding(self);
        for n in sides {
            self.found[n] = self.fitted(n);
        }
        if holding(self) <= held {
            self.at[joint] = old;
            for (n, piece) in sides.into_iter().zip(before) {
                self.found[n] = piece;
            }
        }
    }

    /// The pieces before and after a joint.
    fn sides(&self, joint: usize) -> [usize; 2] {
        let count = self.pieces.len();
        [(joint + count - 1) % count, joint]
    }

    /// Tries other directions at a joint while one of its pieces does not hold.
    fn mend(&mut self, joint: usize) {
        let pieces = self.pieces;
        let [before, after] = self.sides(joint).map(|n| &pieces[n]);
        let ways: Vec<Option<Vec2>> = match (before.is_cubic(), after.is_cubic()) {
            (true, true) => ways(self.guide, before, after)
                .into_iter()
                .map(Some)
                .collect(),
            _ if before.is_line() || after.is_line() => vec![None],
            _ => Vec::new(),
        };
        for way in ways {
            if self.at[joint].is_none() || self.sides(joint).iter().all(|&n| self.holds(n)) {
                return;
            }
            self.try_way(joint, way);
        }
    }
}

/// The pieces with smooth joints.
pub(super) fn joined(guide: Guide<'_>, pieces: &[Piece]) -> Vec<Piece> {
    let count = pieces.len();
    let at = (0..count)
        .map(|n| {
            let inner = guide.closed || n > 0;
            inner.then(|| direction(&pieces[(n + count - 1) % count], &pieces[n]))
        })
        .map(Option::flatten)
        .collect();
    let mut joining = Joining {
        guide,
        pieces,
        at,
        found: vec![None; count],
    };
    joining.found = (0..count).map(|n| joining.fitted(n)).collect();
    for joint in 0..count {
        joining.mend(joint);
    }
    let mut out = Vec::with_capacity(count);
    for (n, piece) in pieces.iter().enumerate() {
        match joining.found[n].take() {
            Some(found) => out.push(found),
            None if piece.is_cubic() => {
                divided(
                    guide,
                    piece.stretch.clone(),
                    joining.directions(n),
                    &mut out,
                );
            }
            None => out.push(piece.clone()),
        }
    }
    out
}

/// A cubic along given directions; where none holds, two, and so on.
fn divided(guide: Guide<'_>, stretch: Range<usize>, directions: Directions, out: &mut Vec<Piece>) {
    let cubic = |directions| reach::cubic(guide, stretch.clone(), directions);
    if let Some(piece) = cubic(directions) {
        return out.push(piece);
    }
    let Directions { start, end } = directions;
    if stretch.len() < SHORT {
        // Too short to be divided: it may meet one neighbour at an angle, or both.
        let looser = [(start, None), (None, end), (None, None)];
        let held = looser
            .into_iter()
            .find_map(|(start, end)| cubic(Directions { start, end }));
        return match held {
            Some(piece) => out.push(piece),
            None => out.extend(stretch.map(|i| reach::step(guide, i))),
        };
    }
    let middle = stretch.start + stretch.len() / 2;
    let way = passing(guide, middle);
    divided(
        guide,
        stretch.start..middle,
        Directions { start, end: way },
        out,
    );
    divided(
        guide,
        middle..stretch.end,
        Directions { start: way, end },
        out,
    );
}
