//! Parts: shapes taken apart into rings, rings put together again, ends joined.

use kurbo::{Line, Point, Rect, Shape as _};
use rstar::RTree;
use rstar::primitives::{GeomWithData, Rectangle};

use crate::overlay;
use crate::segment::Segment;
use crate::shapes::Ring;
use crate::tidy::arrange::outward;
use crate::tidy::drawing::{Drawing, ItemId, Kind, Path};
use crate::tidy::path_data::NOWHERE;
use crate::tidy::pick::EditError;

/// Every ring becomes a shape of its own, where its shape lay.
pub(super) fn split(d: &mut Drawing, ids: &[ItemId]) -> Vec<ItemId> {
    let mut made = Vec::new();
    let old = std::mem::take(&mut d.items);
    for mut item in old {
        if !ids.contains(&item.id) {
            d.items.push(item);
            continue;
        }
        let holes = item.paths.split_off(1.min(item.paths.len()));
        made.push(item.id);
        let ink = item.ink;
        item.text = None;
        d.items.push(item);
        for hole in holes {
            made.push(d.add(ink, Kind::Shape, vec![outward(hole, true)]));
        }
    }
    made
}

/// Boxes of rings with their number, to find those around a place.
type Boxes = RTree<GeomWithData<Rectangle<[f64; 2]>, usize>>;

fn boxes(bounds: &[Rect]) -> Boxes {
    let one = |(n, b): (usize, &Rect)| {
        let sides = Rectangle::from_corners([b.x0, b.y0], [b.x1, b.y1]);
        GeomWithData::new(sides, n)
    };
    RTree::bulk_load(bounds.iter().enumerate().map(one).collect())
}

/// Whether there are more than `most` pairs of rings of which one lies in the other's box: to nest
/// them takes as long.
#[must_use]
pub fn stacked(paths: &[Path], most: usize) -> bool {
    let rings = paths.iter().filter_map(Path::ring);
    let bounds: Vec<Rect> = rings.map(|r| r.bounds()).collect();
    let boxes = boxes(&bounds);
    let mut left = most + bounds.len();
    bounds.iter().any(|b| {
        let centre = [b.center().x, b.center().y];
        let around = boxes.locate_all_at_point(centre).take(left + 1).count();
        let more = around > left;
        left = left.saturating_sub(around);
        more
    })
}

/// Parameters at which a ring is asked where it lies: none at which drawn things meet by design, such
/// as a half.
const PROBES: [f64; 3] = [0.414_213_562, 0.618_033_989, 0.271_828_183];

/// Places of a ring that lie on no other one, far from each other.
fn probes(ring: &Ring) -> [Point; 3] {
    let segments = ring.segments();
    let n = segments.len();
    let at = |k: usize| segments[k * n / PROBES.len()].eval(PROBES[k]);
    [at(0), at(1), at(2)]
}

/// Rings sorted into shapes by how they lie in each other: the first of each is the outer ring.
/// Rings must not cross.
#[must_use]
pub fn nested(paths: Vec<Path>) -> Vec<Vec<Path>> {
    let rings: Vec<(Ring, f64)> = paths
        .iter()
        .filter_map(Path::ring)
        .map(|r| (r.clone(), r.signed_area().abs()))
        .collect();
    let bez: Vec<_> = rings.iter().map(|(r, _)| r.path()).collect();
    let bounds: Vec<Rect> = rings.iter().map(|(r, _)| r.bounds()).collect();
    let boxes = boxes(&bounds);
    let around: Vec<Vec<usize>> = (0..rings.len())
        .map(|a| {
            let places = probes(&rings[a].0);
            let centre = [bounds[a].center().x, bounds[a].center().y];
            let near = boxes.locate_all_at_point(centre).map(|b| b.data);
            let inside = |&b: &usize| {
                let around = places.iter().filter(|p| bez[b].winding(**p) != 0).count();
                rings[b].1 > rings[a].1 && 2 * around > places.len()
            };
            let mut found: Vec<usize> = near.filter(inside).collect();
            found.sort_unstable();
            found
        })
        .collect();
    let mut shapes: Vec<(usize, Vec<Path>)> = Vec::new();
    for (n, path) in paths.iter().enumerate() {
        if around[n].len().is_multiple_of(2) {
            shapes.push((n, vec![outward(path.clone(), true)]));
        }
    }
    for (n, path) in paths.into_iter().enumerate() {
        if !around[n].len().is_multiple_of(2) {
            // The smallest ring around it is the one it is a hole of.
            let around_it = around[n]
                .iter()
                .min_by(|&&a, &&b| rings[a].1.total_cmp(&rings[b].1));
            let known = around_it.and_then(|n| shapes.binary_search_by_key(n, |s| s.0).ok());
            if let Some(shape) = known {
                shapes[shape].1.push(outward(path, false));
            }
        }
    }
    shapes.into_iter().map(|(_, shape)| shape).collect()
}

/// Rings of items become shapes with holes by how they lie in each other.
pub(super) fn combine(d: &mut Drawing, ids: &[ItemId]) -> Result<Vec<ItemId>, EditError> {
    let first = ids
        .first()
        .and_then(|&id| d.item(id))
        .ok_or(EditError::Gone)?;
    let ink = first.ink;
    let shapes = d.items.iter().filter(|i| ids.contains(&i.id));
    if shapes.clone().any(|i| i.kind != Kind::Shape) {
        return Err(EditError::Pick("lines have no inside; close them first"));
    }
    let paths: Vec<Path> = shapes.flat_map(|i| i.paths.iter().cloned()).collect();
    if paths.len() < 2 {
        return Err(EditError::Pick("pick at least two rings to combine"));
    }
    let sorted = nested(paths);
    let rings: Vec<Ring> = sorted.iter().flatten().filter_map(Path::ring).collect();
    if overlay::fault(&rings.iter().collect::<Vec<_>>()).is_some() {
        return Err(EditError::Pick(
            "these outlines cross each other; unite them instead",
        ));
    }
    d.items.retain(|i| !ids.contains(&i.id));
    Ok(sorted
        .into_iter()
        .map(|paths| d.add(ink, Kind::Shape, paths))
        .collect())
}

/// Joins the ends of two lines, or of one with itself; a closed line becomes a shape.
pub(super) fn join_ends(
    d: &mut Drawing,
    [(a, a_end), (b, b_end)]: [(ItemId, bool); 2],
) -> Result<Vec<ItemId>, EditError> {
    let open = |id: ItemId| -> Result<Path, EditError> {
        let item = d.item(id).ok_or(EditError::Gone)?;
        let path = item.paths.first().filter(|p| !p.closed);
        path.cloned()
            .ok_or(EditError::Node("only the ends of open lines can be joined"))
    };
    let (one, two) = (open(a)?, open(b)?);
    if a == b {
        if a_end == b_end {
            return Err(EditError::Node(
                "these are the same end; pick the other one too",
            ));
        }
        return close(d, a);
    }
    // The first is walked to its end, the second from its start.
    let one = if a_end { one } else { one.reversed() };
    let two = if b_end { two.reversed() } else { two };
    let mut path = one;
    bridge(&mut path, two.segments[0].start());
    path.segments.extend(two.segments);
    path.strayed.extend(two.strayed);
    d.items.retain(|i| i.id != b);
    if let Some(item) = d.items.iter_mut().find(|i| i.id == a) {
        item.paths = vec![path];
        item.text = None;
    }
    Ok(vec![a])
}

/// Goes on to a point: by moving the last end there if it is close, else by a line.
pub(super) fn bridge(path: &mut Path, to: Point) {
    let Some(last) = path.segments.last_mut() else {
        return;
    };
    if last.end().distance(to) > NOWHERE {
        let line = Line::new(last.end(), to);
        path.segments.push(Segment::Line(line));
        path.strayed.push(0.0);
    } else {
        *last = last.between(last.start(), to);
    }
}

/// Closes an open line; it becomes a shape.
pub(super) fn close(d: &mut Drawing, id: ItemId) -> Result<Vec<ItemId>, EditError> {
    let item = d
        .items
        .iter_mut()
        .find(|i| i.id == id)
        .ok_or(EditError::Gone)?;
    let path = item.paths.first().filter(|p| !p.closed);
    let mut path = path
        .cloned()
        .ok_or(EditError::Node("it is closed already"))?;
    let start = path.segments[0].start();
    bridge(&mut path, start);
    path.closed = true;
    if path.segments.len() < 2 || path.signed_area().abs() < overlay::SPECK_MM2 {
        return Err(EditError::Node(
            "this line has nothing inside to close around",
        ));
    }
    let path = outward(path, true);
    let ring = path.ring().ok_or(EditError::Nothing)?;
    if let Some(p) = overlay::fault(&[&ring]) {
        return Err(EditError::Crosses { x: p.x, y: p.y });
    }
    item.kind = Kind::Shape;
    item.paths = vec![path];
    Ok(vec![id])
}
