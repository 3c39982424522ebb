//! Marks: by what a path that was pulled by hand is known again when its page has changed.
//!
//! Paths are numbered as they lie on a layer, and a shape that goes renumbers those after it. So a pull
//! also keeps where its path lay and how long it was, and of the layer as a whole what it was made of.

use serde::{Deserialize, Serialize};

use super::{Course, PathKey, PlannedPath};
use crate::segment::Segment;

/// What a path was like.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Mark {
    /// The upper left corner of the box around it, mm.
    pub at: [f64; 2],
    /// Its length, mm.
    pub length: f64,
    /// The same as a part of all lengths of its layer.
    pub share: f64,
    /// A digest of how many segments each path of its layer had.
    pub layer: u64,
}

/// A path lies where it lay within this, mm.
const NEAR: f64 = 0.02;
/// Its share of the layer is the same within this.
const SAME: f64 = 1e-3;

impl Mark {
    /// The mark of a path among all of a page.
    pub(super) fn of(key: PathKey, steps: &[PlannedPath]) -> Option<Self> {
        let step = steps.iter().find(|s| s.key == key)?;
        let layer = || steps.iter().filter(|s| s.key.layer == key.layer);
        let (at, length) = measure(step);
        let all: f64 = layer().map(|s| measure(s).1).sum();
        let mut counts: Vec<(usize, usize)> = layer().map(|s| (s.key.path, segments(s))).collect();
        counts.sort_unstable();
        Some(Self {
            at,
            length,
            share: length / all.max(1e-9),
            layer: digest(counts.into_iter().map(|(_, n)| n)),
        })
    }

    /// Where the path of this mark is now, which was `key` then; `None` where it cannot be told.
    pub(super) fn find(&self, key: PathKey, steps: &[PlannedPath]) -> Option<PathKey> {
        let lies = |s: &&PlannedPath| {
            let (at, length) = measure(s);
            let off = (at[0] - self.at[0]).hypot(at[1] - self.at[1]);
            off < NEAR && (length - self.length).abs() < NEAR
        };
        let same: Vec<PathKey> = steps.iter().filter(lies).map(|s| s.key).collect();
        match same.as_slice() {
            [found] => return Some(*found),
            // Of doubled lines the number tells which.
            doubled if doubled.contains(&key) => return Some(key),
            _ => {}
        }
        // All of it moved, grew or was mirrored; nothing came or went.
        let now = Self::of(key, steps)?;
        let whole = now.layer == self.layer && (now.share - self.share).abs() < SAME;
        whole.then_some(key)
    }
}

fn line(step: &PlannedPath) -> &[Segment] {
    match &step.course {
        Course::Line(segments) => segments,
        Course::Rows(_) => &[],
    }
}

fn segments(step: &PlannedPath) -> usize {
    match &step.course {
        Course::Line(segments) => segments.len(),
        Course::Rows(rows) => rows.len(),
    }
}

/// The upper left corner of a path's box, and its length, mm.
fn measure(step: &PlannedPath) -> ([f64; 2], f64) {
    if let Course::Rows(rows) = &step.course {
        let spans = || rows.iter().flat_map(|r| &r.spans);
        let left = spans().map(|s| s[0]).fold(f64::INFINITY, f64::min);
        let top = rows.iter().map(|r| r.y).fold(f64::INFINITY, f64::min);
        return ([left, top], spans().map(|s| s[1] - s[0]).sum());
    }
    let boxes = line(step).iter().map(Segment::bounds);
    let corner = boxes.reduce(|a, b| a.union(b)).unwrap_or_default();
    let length = line(step).iter().map(Segment::length).sum();
    ([corner.x0, corner.y0], length)
}

/// FNV-1a over counts (Fowler, Noll, Vo; draft-eastlake-fnv): the same on every machine.
fn digest(counts: impl Iterator<Item = usize>) -> u64 {
    counts.fold(0xcbf2_9ce4_8422_2325, |hash, n| {
        (hash ^ n as u64).wrapping_mul(0x0100_0000_01b3)
    })
}
