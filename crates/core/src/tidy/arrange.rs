//! Arrange: copies, groups, places and order of items.

use kurbo::{Affine, Rect, Vec2};
use serde::{Deserialize, Serialize};

use crate::limits::within;
use crate::segment::Segment;
use crate::tidy::drawing::{Drawing, ItemId, Kind, Path};
use crate::tidy::pick::EditError;

/// A side, or the middle, to which items are brought.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Side {
    /// The left side.
    Left,
    /// Half way from left to right.
    Middle,
    /// The right side.
    Right,
    /// The top.
    Top,
    /// Half way from top to bottom.
    Centre,
    /// The bottom.
    Bottom,
}

/// Where in the order items go.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum To {
    /// On top of all.
    Top,
    /// One up.
    Up,
    /// One down.
    Down,
    /// Under all.
    Bottom,
}

/// Copies on top, moved; those of one group become a group.
pub(super) fn duplicate(
    d: &mut Drawing,
    ids: &[ItemId],
    by: [f64; 2],
) -> Result<Vec<ItemId>, EditError> {
    within("a distance", by[0], &(-1e5..=1e5), "mm")?;
    within("a distance", by[1], &(-1e5..=1e5), "mm")?;
    let copies: Vec<_> = d.picked(ids).map(|i| i.clone()).collect();
    let mut made = Vec::new();
    let first = d.next;
    for copy in copies {
        let id = d.add(copy.ink, copy.kind, copy.paths);
        if let Some(new) = d.items.last_mut() {
            new.text = copy.text;
            // Numbers of groups are those of their first items.
            new.group = copy.group.map(|g| first + g);
        }
        made.push(id);
    }
    Ok(moved(d, &made, Affine::translate(Vec2::new(by[0], by[1]))))
}

/// Makes items one group.
pub(super) fn group(d: &mut Drawing, ids: &[ItemId]) -> Vec<ItemId> {
    let number = ids.iter().copied().min();
    for item in d.picked(ids) {
        item.group = number;
    }
    ids.to_vec()
}

/// Items are by themselves again.
pub(super) fn ungroup(d: &mut Drawing, ids: &[ItemId]) -> Vec<ItemId> {
    for item in d.picked(ids) {
        item.group = None;
    }
    ids.to_vec()
}

/// Moves items and what is known of their lettering.
pub(super) fn moved(d: &mut Drawing, ids: &[ItemId], map: Affine) -> Vec<ItemId> {
    move_paths(d, ids, map);
    let [xx, xy, yx, yy, ..] = map.as_coeffs();
    // Lettering stays lettering while it is only moved or scaled evenly.
    let plain = xy.abs() + yx.abs() < 1e-9 && (xx - yy).abs() < 1e-9 && xx > 0.0;
    let pen_scale = map.determinant().abs().sqrt();
    for item in d.picked(ids) {
        if let Kind::Line { pen } = &mut item.kind {
            *pen *= pen_scale;
        }
        match &mut item.text {
            Some(text) if plain => {
                let at = map * kurbo::Point::new(text.at[0], text.at[1]);
                text.at = [at.x, at.y];
                text.cap_height *= xx;
                text.spacing *= xx;
                text.radius *= xx;
            }
            text => *text = None,
        }
    }
    ids.to_vec()
}

/// Moves the paths of items; what a mirror turned round is turned back.
pub(super) fn move_paths(d: &mut Drawing, ids: &[ItemId], map: Affine) {
    let mirrors = map.determinant() < 0.0;
    for item in d.picked(ids) {
        for path in &mut item.paths {
            let new = path.moved(map);
            let turned = mirrors && item.kind == Kind::Shape;
            *path = if turned { new.reversed() } else { new };
        }
    }
}

fn bounds(d: &Drawing, ids: &[ItemId]) -> Rect {
    let boxes = ids.iter().filter_map(|&id| d.item(id)).map(|i| i.bounds());
    boxes.reduce(|a, b| a.union(b)).unwrap_or_default()
}

/// What moves as one: groups whole, other items by themselves.
fn units(d: &Drawing, ids: &[ItemId]) -> Vec<Vec<ItemId>> {
    let mut units: Vec<(Option<u32>, Vec<ItemId>)> = Vec::new();
    for &id in ids {
        let group = d.item(id).and_then(|i| i.group);
        match units.iter_mut().find(|(g, _)| g.is_some() && *g == group) {
            Some((_, own)) => own.push(id),
            None => units.push((group, vec![id])),
        }
    }
    units.into_iter().map(|(_, unit)| unit).collect()
}

/// Brings items, or groups of them, to a side or the middle of them all.
pub(super) fn align(d: &mut Drawing, ids: &[ItemId], side: Side) -> Result<Vec<ItemId>, EditError> {
    let units = units(d, ids);
    if units.len() < 2 {
        return Err(EditError::Pick("pick at least two things to bring in line"));
    }
    let all = bounds(d, ids);
    for unit in units {
        let bounds_here = bounds(d, &unit);
        let by = match side {
            Side::Left => (all.x0 - bounds_here.x0, 0.0),
            Side::Right => (all.x1 - bounds_here.x1, 0.0),
            Side::Middle => (all.center().x - bounds_here.center().x, 0.0),
            Side::Top => (0.0, all.y0 - bounds_here.y0),
            Side::Bottom => (0.0, all.y1 - bounds_here.y1),
            Side::Centre => (0.0, all.center().y - bounds_here.center().y),
        };
        moved(d, &unit, Affine::translate(by));
    }
    Ok(ids.to_vec())
}

/// Makes the gaps between items, or groups of them, equal; the outermost stay.
pub(super) fn distribute(
    d: &mut Drawing,
    ids: &[ItemId],
    across: bool,
) -> Result<Vec<ItemId>, EditError> {
    let mut units: Vec<(Rect, Vec<ItemId>)> = units(d, ids)
        .into_iter()
        .map(|unit| (bounds(d, &unit), unit))
        .collect();
    if units.len() < 3 {
        return Err(EditError::Pick(
            "pick at least three things to even out the gaps between",
        ));
    }
    let span = |r: &Rect| if across { (r.x0, r.x1) } else { (r.y0, r.y1) };
    units.sort_by(|(a, _), (b, _)| {
        let middle = |r: &Rect| span(r).0 + span(r).1;
        middle(a).total_cmp(&middle(b))
    });
    let all = bounds(d, ids);
    let filled: f64 = units.iter().map(|(r, _)| span(r).1 - span(r).0).sum();
    let gap = (span(&all).1 - span(&all).0 - filled) / (units.len() - 1) as f64;
    let mut at = span(&all).0;
    for (bounds, unit) in &units {
        let by = at - span(bounds).0;
        let by = if across { (by, 0.0) } else { (0.0, by) };
        moved(d, unit, Affine::translate(by));
        at += span(bounds).1 - span(bounds).0 + gap;
    }
    Ok(ids.to_vec())
}

/// Brings items up or down in the order in which they lie.
pub(super) fn order(d: &mut Drawing, ids: &[ItemId], to: To) -> Vec<ItemId> {
    let picked = |id: ItemId| ids.contains(&id);
    match to {
        // Sorting is stable: the others keep their order.
        To::Top => d.items.sort_by_key(|i| picked(i.id)),
        To::Bottom => d.items.sort_by_key(|i| !picked(i.id)),
        To::Up => {
            for n in (0..d.items.len().saturating_sub(1)).rev() {
                if picked(d.items[n].id) && !picked(d.items[n + 1].id) {
                    d.items.swap(n, n + 1);
                }
            }
        }
        To::Down => {
            for n in 1..d.items.len() {
                if picked(d.items[n].id) && !picked(d.items[n - 1].id) {
                    d.items.swap(n, n - 1);
                }
            }
        }
    }
    ids.to_vec()
}

/// A path of another walk.
pub(super) fn outward(path: Path, positive: bool) -> Path {
    let turned = path.segments.iter().map(Segment::signed_area).sum::<f64>() < 0.0;
    if turned == positive {
        path.reversed()
    } else {
        path
    }
}
