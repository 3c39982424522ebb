//! Opened: outlines that are cut open at a node or lose a segment become lines.

use crate::tidy::drawing::{Drawing, ItemId, Kind, Path};
use crate::tidy::parts;
use crate::tidy::pick::EditError;

pub(super) const NO_NODE: EditError =
    EditError::Node("this node is no longer there; pick it again");

/// Starts a closed path at another node.
pub(super) fn from_node(path: &Path, node: usize) -> Path {
    let mut path = path.clone();
    path.segments.rotate_left(node);
    path.strayed.rotate_left(node);
    path
}

/// A path without one of its segments; `None` without such a segment.
pub(super) fn without(path: &Path, segment: usize) -> Option<Vec<Path>> {
    let n = path.segments.len();
    if segment >= n {
        return None;
    }
    if path.closed {
        let mut open = from_node(path, (segment + 1) % n);
        open.segments.pop();
        open.strayed.pop();
        open.closed = false;
        return Some(vec![open]);
    }
    Some(cut(path, segment, segment + 1))
}

/// A path opened at a node.
pub(super) fn broken(path: &Path, node: usize) -> Result<Vec<Path>, EditError> {
    if node >= path.nodes() {
        return Err(NO_NODE);
    }
    if path.closed {
        let mut open = from_node(path, node);
        open.closed = false;
        return Ok(vec![open]);
    }
    if node == 0 || node == path.segments.len() {
        return Err(EditError::Node("this is an end already"));
    }
    Ok(cut(path, node, node))
}

/// The parts of an open path before one segment and from another one on.
fn cut(path: &Path, to: usize, from: usize) -> Vec<Path> {
    let part = |range: std::ops::Range<usize>| Path {
        segments: path.segments[range.clone()].to_vec(),
        strayed: path.strayed[range].to_vec(),
        closed: false,
    };
    let both = [part(0..to), part(from..path.segments.len())];
    both.into_iter()
        .filter(|p| !p.segments.is_empty())
        .collect()
}

/// Width of the pen of an outline that was opened, mm.
const PEN: f64 = 0.25;

/// Puts open lines in the place of a path; the other rings of its shape become shapes.
pub(super) fn put(
    d: &mut Drawing,
    id: ItemId,
    path: usize,
    pieces: Vec<Path>,
) -> Result<Vec<ItemId>, EditError> {
    let item = d
        .items
        .iter_mut()
        .find(|i| i.id == id)
        .ok_or(EditError::Gone)?;
    let (ink, group) = (item.ink, item.group);
    let pen = match item.kind {
        Kind::Line { pen } => pen,
        Kind::Shape => PEN,
    };
    item.text = None;
    item.paths.remove(path);
    let rest = std::mem::take(&mut item.paths);
    let kind = item.kind;
    d.items.retain(|i| i.id != id);
    let mut made = Vec::new();
    for piece in pieces {
        made.push(d.add(ink, Kind::Line { pen }, vec![piece]));
    }
    if kind == Kind::Shape {
        // Holes of a hole that was opened still belong to their shape.
        let shapes = if path > 0 {
            vec![rest]
        } else {
            parts::nested(rest)
        };
        for paths in shapes.into_iter().filter(|p| !p.is_empty()) {
            d.add(ink, Kind::Shape, paths);
        }
    }
    for item in d.picked(&made) {
        item.group = group;
    }
    Ok(made)
}
