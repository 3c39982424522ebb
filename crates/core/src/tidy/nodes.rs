//! Nodes: one path changed node by node and segment by segment.
//!
//! Segment `n` of a path goes from node `n` to the next. A node is smooth where the directions of
//! its two segments agree; that is seen from the path itself and stored nowhere.

use kurbo::simplify::SimplifyBezPath;
use kurbo::{Affine, BezPath, CubicBez, Line, Point, Vec2};
use serde::{Deserialize, Serialize};

use crate::fit;
use crate::overlay;
use crate::segment::{Arc, Segment};
use crate::tidy::arrange::outward;
use crate::tidy::drawing::{Drawing, Item, ItemId, Kind, Path};
use crate::tidy::opened::{self, NO_NODE, from_node};
use crate::tidy::parts;
use crate::tidy::path_data::{NOWHERE, goes_somewhere};
use crate::tidy::pick::EditError;

/// What of a handle stays while it is moved.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Handle {
    /// Nothing.
    #[default]
    Free,
    /// Its direction.
    Angle,
    /// Its length.
    Length,
}

/// A change of one path.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "do", rename_all = "kebab-case")]
#[allow(missing_docs, reason = "each variant tells of its fields")]
pub enum NodeEdit {
    /// A node on a segment, at its parameter.
    Insert { segment: usize, t: f64 },
    /// Moves nodes, with their handles.
    Move { nodes: Vec<usize>, by: [f64; 2] },
    /// Moves the handle before or after a node. Of a smooth node the other one turns with it,
    /// unless it is moved `alone`.
    Handle {
        node: usize,
        after: bool,
        to: [f64; 2],
        keep: Handle,
        alone: bool,
    },
    /// Takes nodes out; what is left of the curve is fitted anew.
    Delete { nodes: Vec<usize> },
    /// Makes the curve run smoothly through nodes.
    Smooth { nodes: Vec<usize> },
    /// Makes nodes corners: their handles point at their neighbours.
    Corner { nodes: Vec<usize> },
    /// Makes a segment straight.
    Straighten { segment: usize },
    /// Makes a segment an arc of a circle.
    ToArc { segment: usize },
    /// Takes a segment out: the path is open there.
    DeleteSegment { segment: usize },
    /// Opens a path at a node.
    Break { node: usize },
    /// Closes an open path.
    Close,
    /// Walks a line the other way.
    Reverse,
    /// Makes the curve run smoothly through every node.
    MakeSmooth,
}

/// Directions that differ by less are one, radians.
const SMOOTH: f64 = 0.02;
/// An arc of more than this is parted before it becomes a cubic, radians.
const WIDE: f64 = 2.2;

const NO_SEGMENT: EditError = EditError::Node("this segment is no longer there; pick it again");

/// Changes a path of an item.
pub(super) fn change(
    d: &mut Drawing,
    id: ItemId,
    path: usize,
    change: &NodeEdit,
) -> Result<Vec<ItemId>, EditError> {
    let item = d
        .items
        .iter_mut()
        .find(|i| i.id == id)
        .ok_or(EditError::Gone)?;
    let old = item.paths.get(path).ok_or(EditError::Gone)?;
    match change {
        NodeEdit::Close => return parts::close(d, id),
        NodeEdit::DeleteSegment { segment } => {
            let pieces = opened::without(old, *segment).ok_or(NO_SEGMENT)?;
            return opened::put(d, id, path, pieces);
        }
        NodeEdit::Break { node } => {
            let pieces = opened::broken(old, *node)?;
            return opened::put(d, id, path, pieces);
        }
        _ => {}
    }
    if *change == NodeEdit::Reverse && item.kind == Kind::Shape {
        return Err(EditError::Node(
            "an outline runs the way its shape needs; only lines are reversed",
        ));
    }
    let new = changed(old, change)?;
    match new {
        Some(new) => item.paths[path] = new,
        // The last nodes of a hole, or of all.
        None if path > 0 => {
            item.paths.remove(path);
        }
        None => {
            d.items.retain(|i| i.id != id);
            return Ok(Vec::new());
        }
    }
    item.text = None;
    if item.kind == Kind::Shape {
        sound(item)?;
    }
    Ok(vec![id])
}

/// Whether a change is about nodes alone, so that it can be done on several paths at once.
pub(super) const fn is_of_nodes(change: &NodeEdit) -> bool {
    matches!(
        change,
        NodeEdit::Move { .. }
            | NodeEdit::Delete { .. }
            | NodeEdit::Smooth { .. }
            | NodeEdit::Corner { .. }
    )
}

/// Turns rings the way they have to run, and refuses those that cross.
pub(super) fn sound(item: &mut Item) -> Result<(), EditError> {
    for (n, path) in item.paths.iter_mut().enumerate() {
        *path = outward(path.clone(), n == 0);
    }
    let rings = item.rings();
    match overlay::fault(&rings.iter().collect::<Vec<_>>()) {
        Some(p) => Err(EditError::Crosses { x: p.x, y: p.y }),
        None => Ok(()),
    }
}

pub(super) fn changed(old: &Path, change: &NodeEdit) -> Result<Option<Path>, EditError> {
    let mut path = old.clone();
    match change {
        NodeEdit::Insert { segment, t } => {
            let segment_here = *path.segments.get(*segment).ok_or(NO_SEGMENT)?;
            if !(1e-6..=1.0 - 1e-6).contains(t) {
                return Err(EditError::Node("there is a node here already"));
            }
            let both = [segment_here.part(0.0, *t), segment_here.part(*t, 1.0)];
            path.segments.splice(*segment..=*segment, both);
            path.strayed.insert(*segment, path.strayed[*segment]);
        }
        NodeEdit::Move { nodes, by } => {
            let by = Vec2::new(by[0], by[1]);
            if !(by.x.is_finite() && by.y.is_finite() && by.hypot() < 1e5) {
                return Err(EditError::Node("this is too far away"));
            }
            let count = path.nodes();
            if nodes.iter().any(|&n| n >= count) {
                return Err(NO_NODE);
            }
            let moves = |n: usize| nodes.contains(&(n % count));
            for (n, segment) in path.segments.iter_mut().enumerate() {
                let (start, end) = (segment.start(), segment.end());
                *segment = match (moves(n), moves(n + 1)) {
                    (false, false) => continue,
                    (true, true) => segment.moved(Affine::translate(by)).remove(0),
                    (true, false) => segment.between(start + by, end),
                    (false, true) => segment.between(start, end + by),
                };
                path.strayed[n] = 0.0;
            }
        }
        NodeEdit::Handle {
            node,
            after,
            to,
            keep,
            alone,
        } => {
            handle(
                &mut path,
                *node,
                *after,
                Point::new(to[0], to[1]),
                (*keep, *alone),
            )?;
        }
        NodeEdit::Delete { nodes } => return without_nodes(&path, nodes),
        NodeEdit::Smooth { nodes } => {
            for &n in nodes {
                smooth(&mut path, n)?;
            }
        }
        NodeEdit::Corner { nodes } => {
            for &n in nodes {
                corner(&mut path, n)?;
            }
        }
        NodeEdit::Straighten { segment } => {
            let changed_one = path.segments.get_mut(*segment).ok_or(NO_SEGMENT)?;
            *changed_one = Segment::Line(Line::new(changed_one.start(), changed_one.end()));
        }
        NodeEdit::ToArc { segment } => {
            let changed_one = path.segments.get_mut(*segment).ok_or(NO_SEGMENT)?;
            *changed_one = arc_of(changed_one)?;
        }
        NodeEdit::Reverse => path = path.reversed(),
        NodeEdit::MakeSmooth => {
            for n in 0..path.nodes() {
                smooth(&mut path, n)?;
            }
        }
        NodeEdit::DeleteSegment { .. } | NodeEdit::Break { .. } | NodeEdit::Close => {}
    }
    if path.closed && path.segments.len() < 2 || !path.segments.iter().all(goes_somewhere) {
        return Err(EditError::Node(
            "nodes would lie on each other; take one out instead",
        ));
    }
    Ok(Some(path))
}

/// The segments before and after a node; an open path has but one at its ends.
fn beside(path: &Path, node: usize) -> Result<(Option<usize>, Option<usize>), EditError> {
    let n = path.segments.len();
    if node >= path.nodes() {
        return Err(NO_NODE);
    }
    let before = match node {
        0 => path.closed.then_some(n - 1),
        _ => Some(node - 1),
    };
    Ok((before, (node < n).then_some(node)))
}

/// A segment as one cubic.
fn cubic_of(segment: &Segment) -> Result<CubicBez, EditError> {
    match *segment {
        Segment::Cubic(c) => Ok(c),
        Segment::Line(l) => {
            let third = (l.p1 - l.p0) / 3.0;
            Ok(CubicBez::new(l.p0, l.p0 + third, l.p1 - third, l.p1))
        }
        Segment::Arc(a) if a.sweep().abs() <= WIDE => {
            let reach = 4.0 / 3.0 * (a.sweep().abs() / 4.0).tan();
            let (u, v) = (a.tangent(0.0) * reach, a.tangent(1.0) * reach);
            Ok(CubicBez::new(a.p0, a.p0 + u, a.p1 - v, a.p1))
        }
        Segment::Arc(_) => Err(EditError::Node(
            "this arc is too wide; insert a node in it first",
        )),
    }
}

fn handle(
    path: &mut Path,
    node: usize,
    after: bool,
    to: Point,
    (keep, alone): (Handle, bool),
) -> Result<(), EditError> {
    if !(to.x.is_finite() && to.y.is_finite() && to.to_vec2().hypot() < 1e5) {
        return Err(EditError::Node("this is too far away"));
    }
    let (in_, out) = beside(path, node)?;
    let (handled, other) = if after { (out, in_) } else { (in_, out) };
    let handled = handled.ok_or(NO_SEGMENT)?;
    let at = path.node(node).ok_or(NO_NODE)?;
    let was_smooth = is_smooth(path, node)?;
    let mut c = cubic_of(&path.segments[handled])?;
    let old = if after { c.p1 - at } else { c.p2 - at };
    let asked = to - at;
    let unit = |v: Vec2| {
        if v.hypot() > NOWHERE {
            v / v.hypot()
        } else {
            Vec2::ZERO
        }
    };
    let new = match keep {
        Handle::Free => asked,
        Handle::Angle => unit(old) * asked.dot(unit(old)).max(0.0),
        Handle::Length => unit(asked) * old.hypot(),
    };
    if after {
        c.p1 = at + new;
    } else {
        c.p2 = at + new;
    }
    path.segments[handled] = Segment::Cubic(c);
    path.strayed[handled] = 0.0;
    if was_smooth
        && !alone
        && let Some(other) = other
    {
        let mut c = cubic_of(&path.segments[other])?;
        let length = (if after { c.p2 - at } else { c.p1 - at }).hypot();
        if after {
            c.p2 = at - unit(new) * length;
        } else {
            c.p1 = at - unit(new) * length;
        }
        path.segments[other] = Segment::Cubic(c);
        path.strayed[other] = 0.0;
    }
    Ok(())
}

fn is_smooth(path: &Path, node: usize) -> Result<bool, EditError> {
    let (Some(a), Some(b)) = beside(path, node)? else {
        return Ok(false);
    };
    let (u, v) = (
        path.segments[a].tangent(true),
        path.segments[b].tangent(false),
    );
    Ok(u.cross(v).atan2(u.dot(v)).abs() < SMOOTH)
}

/// Makes the curve run smoothly through a node: straight sides and arcs that can keep their
/// direction do, else it is that from neighbour to neighbour.
fn smooth(path: &mut Path, node: usize) -> Result<(), EditError> {
    let (before, after) = beside(path, node)?;
    let (Some(a), Some(b)) = (before, after) else {
        return Ok(());
    };
    if is_smooth(path, node)? {
        return Ok(());
    }
    let (one, two) = (path.segments[a], path.segments[b]);
    let curved = |s: &Segment| matches!(s, Segment::Cubic(_));
    let (u, v) = (one.tangent(true), two.tangent(false));
    let across = two.end() - one.start();
    let way = match (curved(&one), curved(&two)) {
        (false, true) => u,
        (true, false) => v,
        _ if across.hypot() > NOWHERE => across,
        _ => u,
    };
    let way = way / way.hypot().max(NOWHERE);
    let keeps = |s: &Segment, tangent: Vec2| {
        !curved(s) && tangent.cross(way).abs() < SMOOTH * tangent.hypot() && tangent.dot(way) > 0.0
    };
    if !keeps(&one, u) {
        let mut c = cubic_of(&one)?;
        c.p2 = c.p3
            - way
                * (c.p3 - c.p2)
                    .hypot()
                    .max(one.start().distance(one.end()) / 3.0 * 0.5);
        path.segments[a] = Segment::Cubic(c);
        path.strayed[a] = 0.0;
    }
    if !keeps(&two, v) {
        let mut c = cubic_of(&two)?;
        c.p1 = c.p0
            + way
                * (c.p1 - c.p0)
                    .hypot()
                    .max(two.start().distance(two.end()) / 3.0 * 0.5);
        path.segments[b] = Segment::Cubic(c);
        path.strayed[b] = 0.0;
    }
    Ok(())
}

/// Makes a node a corner: its handles point at its neighbours.
fn corner(path: &mut Path, node: usize) -> Result<(), EditError> {
    let (before, after) = beside(path, node)?;
    if let Some(a) = before
        && let Segment::Cubic(c) = &mut path.segments[a]
    {
        c.p2 = c.p3 + (c.p0 - c.p3) / 3.0;
    }
    if let Some(b) = after
        && let Segment::Cubic(c) = &mut path.segments[b]
    {
        c.p1 = c.p0 + (c.p3 - c.p0) / 3.0;
    }
    Ok(())
}

/// The arc through both ends of a segment and its middle.
fn arc_of(segment: &Segment) -> Result<Segment, EditError> {
    let (p0, p1) = (segment.start(), segment.end());
    let middle = segment.eval(0.5);
    let chord = p1 - p0;
    let height = chord.cross(middle - p0) / chord.hypot().max(NOWHERE);
    if chord.hypot() < NOWHERE || height.abs() < 1e-6 * chord.hypot() {
        return Err(EditError::Node(
            "this segment is straight; an arc needs a bend",
        ));
    }
    // Through the middle: the sagitta is the bulge times half the chord.
    let bulge = -2.0 * height / chord.hypot();
    Ok(Segment::Arc(Arc { p0, p1, bulge }))
}

/// Takes nodes out and fits one piece in the place of those around each.
fn without_nodes(path: &Path, nodes: &[usize]) -> Result<Option<Path>, EditError> {
    let count = path.nodes();
    if nodes.iter().any(|&n| n >= count) {
        return Err(NO_NODE);
    }
    let stays: Vec<usize> = (0..count).filter(|n| !nodes.contains(n)).collect();
    let least = if path.closed { 2 } else { 2.min(count) };
    if stays.len() < least {
        return Ok(None);
    }
    // From the first node that stays, so that no gap runs over the start.
    let path = if path.closed {
        &from_node(path, stays[0])
    } else {
        path
    };
    let stays: Vec<usize> = stays
        .iter()
        .map(|n| n - stays[0] * usize::from(path.closed))
        .collect();
    let mut new = Path::new(Vec::new(), path.closed);
    let last = if path.closed {
        path.segments.len()
    } else {
        stays[stays.len() - 1]
    };
    for (k, &from) in stays.iter().enumerate() {
        let to = stays.get(k + 1).copied().unwrap_or(last);
        if from >= to {
            continue;
        }
        let between = &path.segments[from..to];
        let piece = match between {
            [one] => *one,
            _ => one_piece(between),
        };
        new.strayed.push(if between.len() == 1 {
            path.strayed[from]
        } else {
            0.0
        });
        new.segments.push(piece);
    }
    Ok(Some(new))
}

/// One piece for several: a line for lines, else the cubic that keeps the directions at both ends.
fn one_piece(segments: &[Segment]) -> Segment {
    let (first, last) = (&segments[0], &segments[segments.len() - 1]);
    let straight = Segment::Line(Line::new(first.start(), last.end()));
    if segments.iter().all(|s| matches!(s, Segment::Line(_))) {
        return straight;
    }
    // Equal area and moment (kurbo); least squares where that finds none.
    let mut path = BezPath::new();
    path.move_to(first.start());
    path.extend(segments.iter().flat_map(Segment::elements));
    let chord = first.start().distance(last.end());
    let source = SimplifyBezPath::new(path);
    if let Some((cubic, _)) = kurbo::fit_to_cubic(&source, 0.0..1.0, 0.5 * chord) {
        return Segment::Cubic(cubic);
    }
    let mut points = vec![first.start()];
    for segment in segments {
        points.extend((1..=16).map(|n| segment.eval(f64::from(n) / 16.0)));
    }
    let found = fit::one_cubic(&points, first.tangent(false), last.tangent(true));
    found.map_or(straight, Segment::Cubic)
}

/// Segments after a change of their path.
pub(super) fn smoothed(
    segments: Vec<Segment>,
    closed: bool,
    change: &NodeEdit,
) -> Result<Vec<Segment>, EditError> {
    let path = changed(&Path::new(segments, closed), change)?;
    Ok(path.map_or_else(Vec::new, |p| p.segments))
}
