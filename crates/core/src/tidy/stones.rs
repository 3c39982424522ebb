//! Stones on a drawing: each a circle of its own, all on one layer.

use crate::overlay::Rings;
use crate::segment::Segment;
use crate::shapes::Ring;
use crate::stones::{self, Laid, Stone, StoneChoice, TooMany};
use crate::tidy::drawing::{Drawing, ItemId, Kind, Path};
use crate::tidy::pick::{EditError, Pigment};

/// Sets stones along the picked lines and outlines, or in the picked shapes, which stay.
pub(super) fn set(
    d: &mut Drawing,
    items: &[ItemId],
    (choice, laid): (&StoneChoice, Laid),
    pigment: Pigment,
) -> Result<Vec<ItemId>, EditError> {
    choice.check()?;
    let stones = found(d, items, choice, laid)?;
    if stones.is_empty() {
        return Err(EditError::Pick(match laid {
            Laid::Along => "no stone of this size finds room along it; take a smaller one",
            Laid::In(_) => {
                "no stone of this size finds room in it; pick shapes, or take a smaller stone"
            }
        }));
    }
    let ink = d.ink(pigment)?;
    let circle = |s: &Stone| Ring::circle(s.at, choice.sizes[s.size] / 2.0);
    let circles = stones.iter().filter_map(circle);
    Ok(circles
        .map(|ring| d.add(ink, Kind::Shape, vec![Path::of(&ring)]))
        .collect())
}

fn found(
    d: &Drawing,
    items: &[ItemId],
    choice: &StoneChoice,
    laid: Laid,
) -> Result<Vec<Stone>, TooMany> {
    let items = || items.iter().filter_map(|&id| d.item(id));
    match laid {
        Laid::Along => {
            let lines = items().flat_map(|item| &item.paths);
            let lines: Vec<(&[Segment], bool)> =
                lines.map(|p| (p.segments.as_slice(), p.closed)).collect();
            stones::along(&lines, choice)
        }
        Laid::In(pattern) => {
            let shapes = items().filter(|item| item.kind == Kind::Shape);
            let shapes: Vec<Rings> = shapes
                .filter_map(|item| {
                    let mut rings = item.rings().into_iter();
                    rings.next().map(|outer| Rings {
                        outer,
                        holes: rings.collect(),
                    })
                })
                .collect();
            stones::fill(&shapes, choice, pattern)
        }
    }
}
