//! Refit: paths with fewer pieces within a tolerance, their corners kept.
//!
//! A path is parted at its corners, each part is walked in small steps, and the fit that follows
//! the artwork's edges follows these points. Where the new pieces would cross they are held to
//! half the tolerance, and half again.

use kurbo::Point;
use serde::{Deserialize, Serialize};

use crate::fit;
use crate::overlay;
use crate::segment::Segment;
use crate::tidy::drawing::{Drawing, Item, ItemId, Kind, Path};
use crate::tidy::pick::EditError;

/// What a path is fitted with.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Pieces {
    /// Lines, arcs and cubics.
    Curves,
    /// Lines and arcs only.
    LinesAndArcs,
}

/// What the fit holds to.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Within {
    /// Greatest distance from the old line, mm.
    pub tolerance: f64,
    /// What it is fitted with.
    pub pieces: Pieces,
    /// Turn from which a node is a corner, degrees.
    pub corner: f64,
}

/// What a refit would do.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize)]
pub struct Report {
    /// Nodes before.
    pub before: usize,
    /// Nodes after.
    pub after: usize,
    /// Greatest distance from the old line, mm.
    pub greatest: f64,
}

/// Steps along a part at most.
const MOST_STEPS: f64 = 4000.0;
/// Steps along a part at least.
const LEAST_STEPS: f64 = 24.0;
/// How often crossing pieces are held more closely.
const CLOSER: usize = 3;

/// Fits items anew.
pub(super) fn items(
    d: &mut Drawing,
    ids: &[ItemId],
    within: Within,
) -> Result<Vec<ItemId>, EditError> {
    let mut fewer = false;
    for item in d.picked(ids) {
        let (new, _) = refitted(item, within);
        fewer |= new.nodes() != item.nodes() || new.paths != item.paths;
        *item = new;
    }
    if fewer {
        Ok(ids.to_vec())
    } else {
        Err(EditError::Pick(
            "within this tolerance no fewer pieces are found",
        ))
    }
}

/// What fitting items anew would do.
#[must_use]
pub fn report(d: &Drawing, ids: &[ItemId], within: Within) -> Report {
    let mut report = Report::default();
    for item in d.items.iter().filter(|i| ids.contains(&i.id)) {
        let (new, off) = refitted(item, within);
        report.before += item.nodes();
        report.after += new.nodes();
        report.greatest = report.greatest.max(off);
    }
    report
}

/// An item fitted anew, and how far it lies off the old one at most, mm.
#[must_use]
pub fn refitted(item: &Item, within: Within) -> (Item, f64) {
    let mut held = within;
    for _ in 0..CLOSER {
        let (mut new, mut greatest) = (item.clone(), 0.0_f64);
        for path in &mut new.paths {
            let (fitted, off) = refit(path, held);
            if fitted.segments.len() < path.segments.len() || held.pieces == Pieces::LinesAndArcs {
                *path = fitted;
                greatest = greatest.max(off);
            }
        }
        let rings = new.rings();
        let crosses =
            new.kind == Kind::Shape && overlay::fault(&rings.iter().collect::<Vec<_>>()).is_some();
        if !crosses {
            if new.paths != item.paths {
                new.text = None;
            }
            return (new, greatest);
        }
        held.tolerance /= 2.0;
    }
    (item.clone(), 0.0)
}

fn refit(path: &Path, within: Within) -> (Path, f64) {
    let n = path.segments.len();
    let turn = |i: usize| {
        let (u, v) = (
            path.segments[(i + n - 1) % n].tangent(true),
            path.segments[i].tangent(false),
        );
        u.cross(v).atan2(u.dot(v)).abs().to_degrees()
    };
    let corners: Vec<usize> = (usize::from(!path.closed)..n)
        .filter(|&i| turn(i) > within.corner)
        .collect();
    let strayed = path.strayed.iter().copied().fold(0.0, f32::max);
    let mut new = Path::new(Vec::new(), path.closed);
    let mut greatest = 0.0_f64;
    let mut take = |segments: &[Segment], smooth_loop: bool| {
        let points = walk(segments, within.tolerance);
        let arcs_only = within.pieces == Pieces::LinesAndArcs;
        let edge = fit::again(&points, smooth_loop, within.tolerance, arcs_only);
        greatest = edge
            .deviation
            .iter()
            .fold(greatest, |g, &d| g.max(f64::from(d)));
        new.strayed
            .extend(edge.strayed.iter().map(|off| off + strayed));
        new.segments.extend(edge.segments);
    };
    if path.closed && corners.is_empty() {
        take(&path.segments, true);
    } else {
        let first = if path.closed { corners[0] } else { 0 };
        let mut turned = path.segments.clone();
        turned.rotate_left(first);
        let mut cuts: Vec<usize> = corners
            .iter()
            .map(|c| c - first)
            .filter(|&c| c > 0)
            .collect();
        cuts.push(n);
        let mut from = 0;
        for to in cuts {
            take(&turned[from..to], false);
            from = to;
        }
    }
    (new, greatest)
}

/// Points along segments in even steps, both ends included.
fn walk(segments: &[Segment], tolerance: f64) -> Vec<Point> {
    let length: f64 = segments.iter().map(Segment::length).sum();
    let step = (2.0 * tolerance)
        .max(length / MOST_STEPS)
        .min(length / LEAST_STEPS);
    let mut points = vec![segments[0].start()];
    for segment in segments {
        let steps = (segment.length() / step).ceil().max(1.0) as usize;
        points.extend((1..=steps).map(|n| segment.eval(n as f64 / steps as f64)));
    }
    points
}
