//! Ends: a line goes on to where the pen stopped.
//!
//! ```text
//!   ─────────────╮      A round end stops half a width before the outline does: a round pen of
//!   ── middle ──→ )     that width covers the rest. A blunt end stops at the outline itself.
//!   ─────────────╯      Which it is, the width shortly before the outline tells.
//! ```

use kurbo::{Point, Vec2};

use crate::centre::midline::Middle;
use crate::centre::outline::Outline;
use crate::least_squares::line_through;

/// The direction of an end is taken over this many widths, and this many px at least.
const OVER: f64 = 1.5;
const OVER_PX: f64 = 4.0;
/// A greater turn than this between two such stretches is a corner, radians.
const BENDS: f64 = 0.5;
/// Points within so many widths of the last one say little: the line narrows there.
const NARROWS: f64 = 0.6;
/// Widths are taken so far before the outline, as parts of the width …
const LOOKED_AT: [f64; 2] = [0.15, 0.3];
/// … and on average a blunt end keeps at least this part of it; a round end has 0.82.
const BLUNT: f64 = 0.88;

/// Where the last points of a line lead: the last of them, and the direction there, of length 1.
///
/// The direction of the points before tells how the line bends, so a bend goes on.
pub(super) fn heading(middles: &[Middle]) -> Option<(Point, Vec2)> {
    let last = middles.last()?;
    let over = (OVER * last.width).max(OVER_PX);
    let away = |m: &Middle| m.at.distance(last.at);
    let near = middles
        .iter()
        .rposition(|m| away(m) > over)
        .map_or(0, |n| n + 1);
    let before = middles[..near].iter().rposition(|m| away(m) > 2.0 * over);
    let line = |stretch: &[Middle]| {
        let points: Vec<Point> = stretch.iter().map(|m| m.at).collect();
        let (_, along) = line_through(&points)?;
        (points.len() > 1).then_some(along)
    };
    let along = line(&middles[near..])?;
    let bend = line(&middles[before.map_or(0, |n| n + 1)..near])
        .map(|earlier| earlier.cross(along).atan2(earlier.dot(along)))
        .filter(|turn| turn.abs() < BENDS);
    Some((last.at, rotated(along, bend.unwrap_or(0.0) / 2.0)))
}

/// A direction turned by an angle, radians.
fn rotated(v: Vec2, angle: f64) -> Vec2 {
    let (sin, cos) = angle.sin_cos();
    Vec2::new(v.x * cos - v.y * sin, v.x * sin + v.y * cos)
}

/// Takes back what narrows and goes on to the true end. `middles` ends at the free end.
pub(super) fn extend(middles: &mut Vec<Middle>, outline: &Outline) {
    let typical = middles[middles.len() / 2].width;
    let Some(tip) = middles.last().copied() else {
        return;
    };
    let far = |m: &Middle| m.at.distance(tip.at) >= NARROWS * typical;
    let keep = middles.iter().rposition(far).map_or(0, |n| n + 1);
    if keep >= 2 {
        middles.truncate(keep);
    }
    let Some((last, along)) = heading(middles) else {
        return;
    };
    let width = middles[middles.len() - 1].width;
    let Some(hit) = outline.hit(last, along, 4.0 * typical + 6.0) else {
        return;
    };
    let tip = last + along * hit.away;
    let across = along.turn_90();
    let kept = |before: f64| {
        let at = tip - along * (before * width);
        let side = |across| outline.hit(at, across, width).map_or(0.0, |hit| hit.away);
        (side(across) + side(-across)) / width
    };
    let shape = LOOKED_AT.map(kept).iter().sum::<f64>() / LOOKED_AT.len() as f64;
    let back = if shape >= BLUNT { 0.0 } else { width / 2.0 };
    let more = hit.away - back;
    let steps = more.floor() as usize;
    middles.extend((1..=steps).map(|n| Middle {
        at: last + along * (n as f64 * more / (steps + 1) as f64),
        width,
    }));
    if more > 0.0 {
        middles.push(Middle {
            at: last + along * more,
            width,
        });
    }
}
