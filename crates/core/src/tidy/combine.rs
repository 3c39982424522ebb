//! Combine: what items cover together, less, or both; negatives, fills, offsets and backings.

use kurbo::{Point, Shape as _};
use serde::{Deserialize, Serialize};

use crate::inks::InkId;
use crate::limits::within;
use crate::offset::{self, Join};
use crate::overlay::{self, Keep, Rings};
use crate::shapes::Ring;
use crate::tidy::arrange;
use crate::tidy::drawing::{Drawing, Item, ItemId, Kind, Path};
use crate::tidy::parts;
use crate::tidy::pick::{EditError, Pigment};

/// How the areas of items are put together.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum How {
    /// What any of them covers.
    Unite,
    /// What the first covers and no other does.
    Subtract,
    /// What all of them cover.
    Intersect,
    /// What an odd number of them covers.
    Exclude,
}

/// A line of no width is taken to be as wide as this where its area is asked for, mm.
const HAIR: f64 = 0.05;

/// What an item covers: a shape its area, a line what its pen does.
fn covered(item: &Item) -> Vec<Ring> {
    match item.kind {
        Kind::Shape => item.rings(),
        Kind::Line { pen } => {
            let bodies = item.paths.iter().flat_map(|path| {
                let ring = path.closed.then(|| path.ring()).flatten();
                match ring {
                    Some(ring) => ring_body(&ring, pen.max(HAIR) / 2.0),
                    None => offset::around(&path.segments, pen.max(HAIR) / 2.0, Join::Round),
                }
            });
            bodies.flat_map(Rings::into_all).collect()
        }
    }
}

/// What a pen covers that goes round a ring.
fn ring_body(ring: &Ring, half: f64) -> Vec<Rings> {
    let ring = if ring.signed_area() < 0.0 {
        ring.reversed()
    } else {
        ring.clone()
    };
    let outer = offset::offset(&[&ring], half, Join::Round);
    let inner = offset::offset(&[&ring], -half, Join::Round);
    over(&all(outer), &all(inner), Keep::Difference)
}

fn all(shapes: Vec<Rings>) -> Vec<Ring> {
    shapes.into_iter().flat_map(Rings::into_all).collect()
}

fn over(subjects: &[Ring], clips: &[Ring], keep: Keep) -> Vec<Rings> {
    let (subjects, clips): (Vec<&Ring>, Vec<&Ring>) =
        (subjects.iter().collect(), clips.iter().collect());
    overlay::overlay(&subjects, &clips, keep)
}

fn paths(rings: &Rings) -> Vec<Path> {
    rings.all().map(Path::of).collect()
}

/// Puts shapes in the place of items: where the first of them lay, in its ink.
pub(super) fn put(
    d: &mut Drawing,
    ids: &[ItemId],
    ink: InkId,
    found: &[Rings],
) -> Result<Vec<ItemId>, EditError> {
    if found.is_empty() {
        return Err(EditError::Nothing);
    }
    let at = d
        .items
        .iter()
        .position(|i| ids.contains(&i.id))
        .unwrap_or(d.items.len());
    d.items.retain(|i| !ids.contains(&i.id));
    let above = d.items.split_off(at.min(d.items.len()));
    let made = found
        .iter()
        .map(|r| d.add(ink, Kind::Shape, paths(r)))
        .collect();
    d.items.extend(above);
    Ok(made)
}

/// Areas of items put together; the first keeps its ink.
pub(super) fn boolean(d: &mut Drawing, ids: &[ItemId], how: How) -> Result<Vec<ItemId>, EditError> {
    if ids.len() < 2 {
        return Err(EditError::Pick(
            "pick at least two things: the first keeps its ink",
        ));
    }
    let mut items = ids.iter().filter_map(|&id| d.item(id));
    let first = items.next().ok_or(EditError::Gone)?;
    let (ink, subject) = (first.ink, covered(first));
    let others: Vec<Vec<Ring>> = items.map(covered).collect();
    let found = match how {
        How::Unite => over(&subject, &others.concat(), Keep::Union),
        How::Subtract => over(&subject, &others.concat(), Keep::Difference),
        How::Intersect | How::Exclude => {
            let keep = if how == How::Intersect {
                Keep::Both
            } else {
                Keep::Either
            };
            let mut now = over(&subject, &[], Keep::Union);
            for other in &others {
                now = over(&all(now), other, keep);
            }
            now
        }
    };
    put(d, ids, ink, &found)
}

/// Cuts items out of everything else that they touch, each keeping its ink.
pub(super) fn cut_out(
    d: &mut Drawing,
    ids: &[ItemId],
    stays: bool,
) -> Result<Vec<ItemId>, EditError> {
    let cutters: Vec<Ring> = ids
        .iter()
        .filter_map(|&id| d.item(id))
        .flat_map(covered)
        .collect();
    let bounds = cutters
        .iter()
        .map(Ring::bounds)
        .reduce(|a, b| a.union(b))
        .unwrap_or_default();
    let mut touched = false;
    let others: Vec<ItemId> = d
        .items
        .iter()
        .map(|i| i.id)
        .filter(|id| !ids.contains(id))
        .collect();
    for id in others {
        let Some(item) = d.item(id).filter(|i| i.kind == Kind::Shape) else {
            continue;
        };
        if !item.bounds().overlaps(bounds) {
            continue;
        }
        let (ink, own, area) = (item.ink, item.rings(), item.area());
        let left = over(&own, &cutters, Keep::Difference);
        let after: f64 = left.iter().map(Rings::area).sum();
        if area - after < overlay::SPECK_MM2 {
            continue;
        }
        touched = true;
        if left.is_empty() {
            d.items.retain(|i| i.id != id);
        } else {
            put(d, &[id], ink, &left)?;
        }
    }
    if !touched {
        return Err(EditError::Pick(
            "there is nothing else here that it could be cut out of",
        ));
    }
    if !stays {
        d.items.retain(|i| !ids.contains(&i.id));
        return Ok(Vec::new());
    }
    Ok(ids.to_vec())
}

/// Gives items an ink of their own and cuts them out of all else that they lie on.
pub(super) fn inlay(
    d: &mut Drawing,
    ids: &[ItemId],
    pigment: Pigment,
) -> Result<Vec<ItemId>, EditError> {
    let ink = d.ink(pigment)?;
    for item in d.picked(ids) {
        item.ink = ink;
    }
    match cut_out(d, ids, true) {
        // What lies in a hole already has its place.
        Err(EditError::Pick(_)) => Ok(ids.to_vec()),
        done => done,
    }
}

/// Everything that items cover, as one.
fn united(d: &Drawing, which: impl Fn(&Item) -> bool) -> Vec<Rings> {
    let rings: Vec<Ring> = d
        .items
        .iter()
        .filter(|i| which(i))
        .flat_map(covered)
        .collect();
    over(&rings, &[], Keep::Union)
}

/// What items leave free inside their outline, instead of them.
pub(super) fn negative(d: &mut Drawing, ids: &[ItemId]) -> Result<Vec<ItemId>, EditError> {
    let ink = ids
        .first()
        .and_then(|&id| d.item(id))
        .ok_or(EditError::Gone)?
        .ink;
    let whole = united(d, |i| ids.contains(&i.id));
    let outlines: Vec<Ring> = whole.iter().map(|r| r.outer.clone()).collect();
    let found = over(&outlines, &all(whole), Keep::Difference);
    if found.is_empty() {
        return Err(EditError::Pick("there is nothing free inside its outline"));
    }
    put(d, ids, ink, &found)
}

/// Fills the empty region around a place, grown by some mm; it comes to lie under all.
pub(super) fn fill(
    d: &mut Drawing,
    at: Point,
    pigment: Pigment,
    grow: f64,
) -> Result<Vec<ItemId>, EditError> {
    within("the growth of a filling", grow, &(-100.0..=100.0), "mm")?;
    let whole = united(d, |_| true);
    let inside = |ring: &Ring| ring.path().winding(at) != 0;
    if whole
        .iter()
        .any(|r| inside(&r.outer) && !r.holes.iter().any(inside))
    {
        return Err(EditError::Pick(
            "there is a shape here already; point at an empty place",
        ));
    }
    let holes = whole.iter().flat_map(|r| &r.holes).filter(|r| inside(r));
    let hole = holes.min_by(|a, b| a.signed_area().abs().total_cmp(&b.signed_area().abs()));
    let hole = hole.ok_or(EditError::Pick(
        "this place is open to the outside; point inside an outline",
    ))?;
    let free = over(&[hole.reversed()], &all(whole.clone()), Keep::Difference);
    let rings: Vec<Ring> = free
        .into_iter()
        .filter(|r| inside(&r.outer))
        .flat_map(Rings::into_all)
        .collect();
    let found = if grow.abs() > 1e-9 {
        offset::offset(&rings.iter().collect::<Vec<_>>(), grow, Join::Round)
    } else {
        over(&rings, &[], Keep::Union)
    };
    if found.is_empty() {
        return Err(EditError::Nothing);
    }
    let ink = d.ink(pigment)?;
    let made = found
        .iter()
        .map(|r| d.add(ink, Kind::Shape, paths(r)))
        .collect::<Vec<_>>();
    Ok(arrange::order(d, &made, arrange::To::Bottom))
}

/// Grows or shrinks items, each for itself; or lays the result under them as something new.
pub(super) fn offset_items(
    d: &mut Drawing,
    ids: &[ItemId],
    (distance, join): (f64, Join),
    under: Option<Pigment>,
) -> Result<Vec<ItemId>, EditError> {
    within("an offset", distance, &(-500.0..=500.0), "mm")?;
    if distance.abs() < 1e-6 {
        return Err(EditError::Pick("an offset of nought changes nothing"));
    }
    let mut made = Vec::new();
    for &id in ids {
        let item = d.item(id).ok_or(EditError::Gone)?;
        let ink = item.ink;
        let found = match item.kind {
            Kind::Shape => {
                let rings = item.rings();
                offset::offset(&rings.iter().collect::<Vec<_>>(), distance, join)
            }
            Kind::Line { .. } if distance > 0.0 => {
                let paths = item.paths.iter();
                paths
                    .flat_map(|p| offset::around(&p.segments, distance, join))
                    .collect()
            }
            Kind::Line { .. } => Vec::new(),
        };
        match under {
            Some(pigment) => {
                let ink = d.ink(pigment)?;
                made.extend(found.iter().map(|r| d.add(ink, Kind::Shape, paths(r))));
            }
            None if found.is_empty() => d.items.retain(|i| i.id != id),
            None => made.extend(put(d, &[id], ink, &found)?),
        }
    }
    if made.is_empty() {
        return Err(EditError::Nothing);
    }
    if under.is_some() {
        arrange::order(d, &made, arrange::To::Bottom);
    }
    Ok(made)
}

/// A solid shape under everything, with a margin; without `holes` it has none.
pub(super) fn backing(
    d: &mut Drawing,
    (margin, join): (f64, Join),
    holes: bool,
    pigment: Pigment,
) -> Result<Vec<ItemId>, EditError> {
    within("a margin", margin, &(0.0..=500.0), "mm")?;
    let whole = united(d, |_| true);
    let mut grown = if margin > 0.0 {
        let rings = all(whole);
        offset::offset(&rings.iter().collect::<Vec<_>>(), margin, join)
    } else {
        whole
    };
    if !holes {
        let outlines: Vec<Ring> = grown.into_iter().map(|r| r.outer).collect();
        grown = over(&outlines, &[], Keep::Union);
    }
    if grown.is_empty() {
        return Err(EditError::Nothing);
    }
    let ink = d.ink(pigment)?;
    let made = grown
        .iter()
        .map(|r| d.add(ink, Kind::Shape, paths(r)))
        .collect::<Vec<_>>();
    Ok(arrange::order(d, &made, arrange::To::Bottom))
}

/// Closed paths that were drawn or read, as shapes: kept as they are where they are sound, else
/// parted at their crossings.
pub(super) fn drawn(
    d: &mut Drawing,
    ink: InkId,
    drawn: Vec<Path>,
) -> Result<Vec<ItemId>, EditError> {
    let paths: Vec<Path> = drawn
        .into_iter()
        .map(|p| Path { closed: true, ..p })
        .filter(|p| p.segments.len() > 1)
        .collect();
    let sorted = parts::nested(paths);
    let rings: Vec<Ring> = sorted.iter().flatten().filter_map(Path::ring).collect();
    if overlay::fault(&rings.iter().collect::<Vec<_>>()).is_none() && !rings.is_empty() {
        return Ok(sorted
            .into_iter()
            .map(|p| d.add(ink, Kind::Shape, p))
            .collect());
    }
    let found = over(&rings, &[], Keep::Union);
    if found.is_empty() {
        return Err(EditError::Nothing);
    }
    Ok(found
        .iter()
        .map(|r| d.add(ink, Kind::Shape, self::paths(r)))
        .collect())
}
