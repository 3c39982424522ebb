//! The middle of a drawn line, to a part of a pixel: half way between its two outlines.
//!
//! ```text
//!   ───────────×──────────   From each point of the skeleton a ray goes to both sides, across the
//!         ·  · ┊ · middle    line; half way between where they meet the outline is the middle, and
//!   ───────────×──────────   from one to the other is the width of the line there.
//! ```
//!
//! Around a meeting of lines the outline says nothing of one line alone, so points there are left
//! out.

use kurbo::{Point, Vec2};

use crate::centre::graph::{Branch, Ridge};
use crate::centre::outline::Outline;
use crate::fit::track::Track;

/// A point on the middle of a drawn line, px, and the width of the line there, px.
#[derive(Clone, Copy, Debug)]
pub(super) struct Middle {
    pub at: Point,
    pub width: f64,
}

/// The middle is looked for again along the better direction, so many times in all.
const ROUNDS: usize = 2;
/// The direction of a line is taken over so many px to each side at least.
const ARM_PX: f64 = 2.0;
/// A width says nothing from so many times what the skeleton knows of it, and px more.
const WIDER: f64 = 1.6;
const WIDER_PX: f64 = 1.5;
/// Points of a branch nearer to a node than this part of its reach are left out …
const NODE: f64 = 1.1;
/// … and up to this part while the line is this much wider than it typically is.
const NODE_AT_MOST: f64 = 6.0;
const SWELLS: f64 = 1.04;
const SWELLS_PX: f64 = 0.25;

/// The direction at a running length of a track, of length 1.
fn direction(track: &Track<'_>, s: f64, arm: f64) -> Option<Vec2> {
    let ends = |t: f64| {
        if track.closed {
            t
        } else {
            t.clamp(0.0, track.total())
        }
    };
    let along = track.at(ends(s + arm))? - track.at(ends(s - arm))?;
    (along.hypot() > 1e-9).then(|| along.normalize())
}

/// The points of a branch on the middle of its line, in order; where they cannot be told, none.
pub(super) fn middles(branch: &Branch, nodes: &[Ridge], outline: &Outline) -> Vec<Middle> {
    let mut ridges = branch.points.clone();
    let mut found: Vec<Middle> = Vec::new();
    for _ in 0..ROUNDS {
        let points: Vec<Point> = ridges.iter().map(|r| r.at).collect();
        if points.len() < 2 {
            break;
        }
        let track = Track::new(&points, branch.closed);
        let met: Vec<(Middle, f64)> = ridges
            .iter()
            .zip(&track.length)
            .filter_map(|(ridge, &s)| {
                let across = direction(&track, s, ridge.radius.max(ARM_PX))?.turn_90();
                let most = 2.0 * ridge.radius * WIDER + WIDER_PX;
                let left = outline.hit(ridge.at, across, most)?.away;
                let right = outline.hit(ridge.at, -across, most)?.away;
                let at = ridge.at + across * ((left - right) / 2.0);
                let width = left + right;
                (width <= most).then_some((Middle { at, width }, ridge.radius))
            })
            .collect();
        found = met.iter().map(|m| m.0).collect();
        ridges = met
            .into_iter()
            .map(|(middle, radius)| Ridge {
                at: middle.at,
                radius,
            })
            .collect();
    }
    clear_of_nodes(branch, nodes, found)
}

/// Leaves out what lies in the reach of a node at either end; at least one point stays.
fn clear_of_nodes(branch: &Branch, nodes: &[Ridge], mut middles: Vec<Middle>) -> Vec<Middle> {
    let typical = median(middles.iter().map(|m| m.width).collect());
    for (end, node) in branch.nodes.iter().enumerate() {
        let Some(node) = node.map(|n| nodes[n]) else {
            continue;
        };
        let near = |m: &Middle| {
            let away = m.at.distance(node.at);
            away < NODE * node.radius
                || (away < NODE_AT_MOST * node.radius && m.width > SWELLS * typical + SWELLS_PX)
        };
        if end == 0 {
            let first = middles.iter().position(|m| !near(m));
            middles.drain(..first.unwrap_or(middles.len().saturating_sub(1)));
        } else {
            let last = middles.iter().rposition(|m| !near(m));
            middles.truncate(last.map_or(1, |n| n + 1));
        }
    }
    if middles.is_empty() {
        let ridge = branch.points[branch.points.len() / 2];
        middles.push(Middle {
            at: ridge.at,
            width: 2.0 * ridge.radius,
        });
    }
    middles
}

/// The middle one of some figures; nought without any.
pub(super) fn median(mut figures: Vec<f64>) -> f64 {
    if figures.is_empty() {
        return 0.0;
    }
    let middle = figures.len() / 2;
    *figures.select_nth_unstable_by(middle, f64::total_cmp).1
}
