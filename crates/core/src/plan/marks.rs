//! Marks: by what a path that was pulled by hand is known again when its page has changed.
//!
//! Paths are numbered as they lie on a layer, and a shape that goes renumbers those after it. So a pull
//! also keeps where its path lay and how long it was, and of its layer where that lay and what it was made
//! of. A place is worth something only while the layer lies where it lay: when a shape at its border goes,
//! all that is laid out after it moves up, and another path may come to lie at the old place.

use std::collections::BTreeMap;

use kurbo::Rect;
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
    /// The box around its layer: left, top, right, bottom, mm.
    pub frame: [f64; 4],
    /// A digest of how many segments each path of its layer had.
    pub layer: u64,
}

/// Lines lie where they lay within this, mm.
const NEAR: f64 = 0.02;
/// Its share of the layer is the same within this.
const SAME: f64 = 1e-3;

/// The paths of a page, measured to be known again.
pub(super) struct Marks {
    paths: Vec<(PathKey, Measured)>,
    layers: BTreeMap<usize, LayerMark>,
}

struct Measured {
    bounds: Rect,
    /// mm.
    length: f64,
    segments: usize,
}

struct LayerMark {
    frame: Rect,
    /// Of all of its paths, mm.
    length: f64,
    digest: u64,
}

impl Marks {
    pub(super) fn of(steps: &[PlannedPath]) -> Self {
        let mut paths: Vec<_> = steps.iter().map(|s| (s.key, Measured::of(s))).collect();
        paths.sort_by_key(|(key, _)| *key);
        let mut layers: BTreeMap<usize, LayerMark> = BTreeMap::new();
        for (key, path) in &paths {
            let layer = layers.entry(key.layer).or_insert(LayerMark {
                frame: path.bounds,
                length: 0.0,
                digest: FNV_BASIS,
            });
            layer.frame = layer.frame.union(path.bounds);
            layer.length += path.length;
            layer.digest = (layer.digest ^ path.segments as u64).wrapping_mul(FNV_PRIME);
        }
        Self { paths, layers }
    }

    /// The mark of a path; `None` where there is none of that name.
    pub(super) fn mark(&self, key: PathKey) -> Option<Mark> {
        let (_, path) = self.paths.iter().find(|(k, _)| *k == key)?;
        let layer = self.layers.get(&key.layer)?;
        let frame = layer.frame;
        Some(Mark {
            at: [path.bounds.x0, path.bounds.y0],
            length: path.length,
            share: path.length / layer.length.max(1e-9),
            frame: [frame.x0, frame.y0, frame.x1, frame.y1],
            layer: layer.digest,
        })
    }

    /// Where the path of a mark is now, which was `key` then; `None` where it cannot be told.
    pub(super) fn find(&self, mark: &Mark, key: PathKey) -> Option<PathKey> {
        let stayed = |layer: &LayerMark| {
            let f = layer.frame;
            let now = [f.x0, f.y0, f.x1, f.y1];
            let mut sides = now.iter().zip(&mark.frame);
            sides.all(|(a, b)| (a - b).abs() < NEAR)
        };
        let lies = |path: &Measured| {
            let off = (path.bounds.x0 - mark.at[0]).hypot(path.bounds.y0 - mark.at[1]);
            off < NEAR && (path.length - mark.length).abs() < NEAR
        };
        let there = self
            .paths
            .iter()
            .filter(|(k, path)| lies(path) && self.layers.get(&k.layer).is_some_and(stayed));
        let there: Vec<PathKey> = there.map(|(k, _)| *k).collect();
        match there.as_slice() {
            [found] => return Some(*found),
            // Of doubled lines the number tells which.
            doubled if doubled.contains(&key) => return Some(key),
            _ => {}
        }
        // All of it moved, grew or was mirrored; nothing came or went.
        let now = self.mark(key)?;
        let whole = now.layer == mark.layer && (now.share - mark.share).abs() < SAME;
        whole.then_some(key)
    }
}

impl Measured {
    fn of(step: &PlannedPath) -> Self {
        match &step.course {
            Course::Line(segments) => {
                let boxes = segments.iter().map(Segment::bounds);
                Self {
                    bounds: boxes.reduce(|a, b| a.union(b)).unwrap_or_default(),
                    length: segments.iter().map(Segment::length).sum(),
                    segments: segments.len(),
                }
            }
            Course::Rows(rows) => {
                let spans = || {
                    rows.iter()
                        .flat_map(|row| row.spans.iter().map(|s| (row.y, s)))
                };
                let boxes = spans().map(|(y, s)| Rect::new(s[0], y, s[1], y));
                Self {
                    bounds: boxes.reduce(|a, b| a.union(b)).unwrap_or_default(),
                    length: spans().map(|(_, s)| s[1] - s[0]).sum(),
                    segments: rows.len(),
                }
            }
        }
    }
}

/// FNV-1a (Fowler, Noll, Vo; draft-eastlake-fnv): the same on every machine.
const FNV_BASIS: u64 = 0xcbf2_9ce4_8422_2325;
const FNV_PRIME: u64 = 0x0100_0000_01b3;
