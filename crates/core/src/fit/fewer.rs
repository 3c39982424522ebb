//! Fewer: joints that smooth pieces turn out not to need are taken out again.
//!
//! ```text
//!   ·───·──·──────·   two pieces become one, three become two, wherever the tolerance allows it
//!   ·──────·──────·   along the directions of what joins them outside
//! ```
//!
//! The farthest-reaching pieces know nothing of the joints to come, and dividing what did not join
//! smoothly leaves short pieces. The shortest are tried first; long straight lines and arcs stay,
//! since they say more than a cubic does.

use std::ops::Range;

use kurbo::Vec2;

use crate::fit::cubic::Directions;
use crate::fit::guide::{Guide, Piece};
use crate::fit::joints;
use crate::fit::reach;

/// A line or an arc that makes up this part of what it would be merged into stays.
const KEPT_PART: f64 = 0.4;
/// Where along three pieces the joint of the two that replace them is tried, as parts.
const SPLITS: [f64; 5] = [0.5, 0.4, 0.6, 0.3, 0.7];
/// Stretches of fewer steps than this cannot be split well.
const LEAST_SPLIT: usize = 4;

/// The pieces with as few joints as hold.
pub(super) fn fewer(guide: Guide<'_>, mut pieces: Vec<Piece>) -> Vec<Piece> {
    // Joint n lies between pieces n and n + 1; only those beside a change are tried again.
    let mut open = vec![true; pieces.len()];
    // An edge of many thousand pieces is worked through bit by bit, or it would take for ever.
    let mut from = 0;
    loop {
        let to = (from + WINDOW).min(pieces.len());
        let Some(n) = shortest(&pieces, &open, from..to) else {
            if to == pieces.len() {
                break;
            }
            from = to - 1;
            continue;
        };
        open[n] = false;
        let found = merged(guide, &pieces, n).or_else(|| shared(guide, &pieces, n));
        if let Some((range, with)) = found {
            open.splice(range.clone(), vec![true; with.len()]);
            pieces.splice(range.clone(), with);
            open[range.start.saturating_sub(3)..range.start].fill(true);
        }
    }
    straightened(guide, pieces)
}

/// Pieces with those cubics as lines that are straight, and that their neighbours can go on from.
fn straightened(guide: Guide<'_>, mut pieces: Vec<Piece>) -> Vec<Piece> {
    for n in 0..pieces.len() {
        if !pieces[n].is_cubic() {
            continue;
        }
        let Some(line) = reach::line(guide, pieces[n].stretch.clone())
            .filter(|line| line.segment.length() >= LEAST_LINE_PX * guide.limits.px)
        else {
            continue;
        };
        let (from, to) = (n.saturating_sub(1), (n + 2).min(pieces.len()));
        let row: Option<Vec<Piece>> = (from..to)
            .map(|m| match m {
                _ if m == n => Some(line.clone()),
                _ => beside(guide, &pieces, m, n, &line),
            })
            .collect();
        if let Some(row) = row {
            pieces.splice(from..to, row);
        }
    }
    pieces
}

/// Piece `m` beside piece `n`, which becomes a line: fitted again along that line where the two
/// went smoothly into each other; `None` where that does not hold.
fn beside(guide: Guide<'_>, pieces: &[Piece], m: usize, n: usize, line: &Piece) -> Option<Piece> {
    let piece = &pieces[m];
    let (a, b) = if m < n { (m, n) } else { (n, m) };
    let smooth = joints::cosine(&pieces[a], &pieces[b]).is_some_and(|(.., cos)| cos > SMOOTH_COS);
    if !smooth {
        return Some(piece.clone());
    }
    if !piece.is_cubic() {
        return None;
    }
    let mut directions = outside(guide, pieces, &(m..m + 1));
    let along = Some(line.segment.tangent(false).normalize());
    if m < n {
        directions.end = along;
    } else {
        directions.start = along;
    }
    reach::cubic(guide, piece.stretch.clone(), directions)
}

/// A cubic becomes a line from this length on, px.
const LEAST_LINE_PX: f64 = 12.0;

/// Pieces among which the shortest are looked for.
const WINDOW: usize = 128;

/// A joint not tried yet, the one between the shortest pieces of a row.
fn shortest(pieces: &[Piece], open: &[bool], row: Range<usize>) -> Option<usize> {
    (row.start..row.end.saturating_sub(1))
        .filter(|&n| open[n])
        .min_by_key(|&n| (pieces[n].stretch.len() + pieces[n + 1].stretch.len(), n))
}

type Change = (Range<usize>, Vec<Piece>);

/// Pieces n and n + 1 as one.
fn merged(guide: Guide<'_>, pieces: &[Piece], n: usize) -> Option<Change> {
    let pair = n..n + 2;
    let stretch = pieces[n].stretch.start..pieces[n + 1].stretch.end;
    let both = &pieces[pair.clone()];
    if both.iter().all(Piece::is_line)
        && let Some(line) = reach::line(guide, stretch.clone())
    {
        return Some((pair, vec![line]));
    }
    if both.iter().any(|p| stays(guide, p, &stretch)) {
        return None;
    }
    let cubic = reach::cubic(guide, stretch, outside(guide, pieces, &pair))?;
    Some((pair, vec![cubic]))
}

/// Pieces n to n + 2 as two.
fn shared(guide: Guide<'_>, pieces: &[Piece], n: usize) -> Option<Change> {
    let three = n..n + 3;
    let pieces_here = pieces.get(three.clone())?;
    let stretch = pieces_here[0].stretch.start..pieces_here[2].stretch.end;
    if stretch.len() < 2 * LEAST_SPLIT || pieces_here.iter().any(|p| stays(guide, p, &stretch)) {
        return None;
    }
    let Directions { start, end } = outside(guide, pieces, &three);
    let two = SPLITS.iter().find_map(|part| {
        let split = (stretch.len() as f64 * part) as usize;
        let middle = stretch.start + split.clamp(LEAST_SPLIT, stretch.len() - LEAST_SPLIT);
        let (first, second) = (stretch.start..middle, middle..stretch.end);
        let free = [
            reach::cubic(guide, first.clone(), Directions { start, end: None })?,
            reach::cubic(guide, second.clone(), Directions { start: None, end })?,
        ];
        let ways = joints::ways(guide, &free[0], &free[1]);
        ways.into_iter().take(WAYS).find_map(|way| {
            let before = Directions {
                start,
                end: Some(way),
            };
            let after = Directions {
                start: Some(way),
                end,
            };
            let first = reach::cubic(guide, first.clone(), before)?;
            Some(vec![first, reach::cubic(guide, second.clone(), after)?])
        })
    })?;
    Some((three, two))
}

/// Directions tried at a new joint.
const WAYS: usize = 3;

/// Whether a piece is a line or an arc that makes up much of a stretch.
fn stays(guide: Guide<'_>, piece: &Piece, stretch: &Range<usize>) -> bool {
    let span = |s: &Range<usize>| guide.joints[s.start].distance(guide.joints[s.end]);
    !piece.is_cubic() && span(&piece.stretch) > KEPT_PART * span(stretch)
}

/// Directions at the ends of a row of pieces: those of their neighbours where they join smoothly.
fn outside(guide: Guide<'_>, pieces: &[Piece], row: &Range<usize>) -> Directions {
    let last = pieces.len() - 1;
    let before = match row.start {
        0 if guide.closed => Some(last),
        0 => None,
        n => Some(n - 1),
    };
    let after = match row.end {
        n if n <= last => Some(n),
        _ if guide.closed => Some(0),
        _ => None,
    };
    let smooth = |a: &Piece, b: &Piece, of: fn(Vec2, Vec2) -> Vec2| {
        let (out, into, cos) = joints::cosine(a, b)?;
        (cos > SMOOTH_COS).then(|| of(out, into))
    };
    Directions {
        start: before.and_then(|m| smooth(&pieces[m], &pieces[row.start], |out, _| out)),
        end: after.and_then(|m| smooth(&pieces[row.end - 1], &pieces[m], |_, into| into)),
    }
}

/// Cosine of the greatest turn at a joint that counts as smooth (1°).
const SMOOTH_COS: f64 = 0.99985;
