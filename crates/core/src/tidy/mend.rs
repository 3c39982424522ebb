//! Mend: a region added to items or taken from them, as the checks ask for it.

use crate::overlay::{self, Keep, Rings};
use crate::shapes::Ring;
use crate::tidy::combine::put;
use crate::tidy::drawing::{Drawing, ItemId, Kind};
use crate::tidy::path_data::PathData;
use crate::tidy::pick::EditError;

/// What a region does to items.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Patch {
    /// The first takes it from whatever else is there; those of its ink that it reaches join it.
    Claim,
    /// The first covers it too; others of its ink that it reaches join it.
    Cover,
    /// Each loses it.
    Cut,
}

/// Adds a region to the first item, or takes it from all.
pub(super) fn mend(
    d: &mut Drawing,
    ids: &[ItemId],
    region: &[PathData],
    patch: Patch,
) -> Result<Vec<ItemId>, EditError> {
    let mut rings = Vec::new();
    for data in region {
        rings.extend(Ring::new(data.segments()?, Vec::new()));
    }
    let rings: Vec<&Ring> = rings.iter().collect();
    let region: Vec<Ring> = overlay::overlay(&rings, &[], Keep::Union)
        .into_iter()
        .flat_map(Rings::into_all)
        .collect();
    let region: Vec<&Ring> = region.iter().collect();
    match patch {
        Patch::Cut => cut(d, ids, &region),
        Patch::Claim | Patch::Cover => add(d, ids, &region, patch == Patch::Claim),
    }
}

fn cut(d: &mut Drawing, ids: &[ItemId], region: &[&Ring]) -> Result<Vec<ItemId>, EditError> {
    let mut made = Vec::new();
    for &id in ids {
        let item = d.item(id).ok_or(EditError::Gone)?;
        let (ink, rings) = (item.ink, item.rings());
        let rings: Vec<&Ring> = rings.iter().collect();
        let left = overlay::overlay(&rings, region, Keep::Difference);
        if left.is_empty() {
            return Err(EditError::Nothing);
        }
        made.extend(put(d, &[id], ink, &left)?);
    }
    Ok(made)
}

fn add(
    d: &mut Drawing,
    ids: &[ItemId],
    region: &[&Ring],
    claim: bool,
) -> Result<Vec<ItemId>, EditError> {
    let first = ids.first().and_then(|&id| d.item(id));
    let ink = first.ok_or(EditError::Gone)?.ink;
    let around = region
        .iter()
        .map(|r| r.bounds())
        .reduce(|a, b| a.union(b))
        .ok_or(EditError::Nothing)?;
    let reached: Vec<ItemId> = d
        .items
        .iter()
        .filter(|i| i.kind == Kind::Shape && i.bounds().overlaps(around))
        .filter(|i| {
            let rings = i.rings();
            let rings: Vec<&Ring> = rings.iter().collect();
            ids.contains(&i.id) || !overlay::overlay(&rings, region, Keep::Both).is_empty()
        })
        .map(|i| i.id)
        .collect();
    let of = |d: &Drawing, id: ItemId| d.item(id).map(|i| (i.ink, i.rings()));
    if claim {
        for &id in &reached {
            let Some((other, rings)) = of(d, id).filter(|(other, _)| *other != ink) else {
                continue;
            };
            let rings: Vec<&Ring> = rings.iter().collect();
            let left = overlay::overlay(&rings, region, Keep::Difference);
            if left.is_empty() {
                d.items.retain(|i| i.id != id);
            } else {
                put(d, &[id], other, &left)?;
            }
        }
    }
    let same: Vec<ItemId> = reached
        .into_iter()
        .filter(|&id| d.item(id).is_some_and(|i| i.ink == ink))
        .collect();
    let rings: Vec<Ring> = same
        .iter()
        .filter_map(|&id| d.item(id))
        .flat_map(|i| i.rings())
        .collect();
    let rings: Vec<&Ring> = rings.iter().collect();
    let whole = overlay::overlay(&rings, region, Keep::Union);
    put(d, &same, ink, &whole)
}
