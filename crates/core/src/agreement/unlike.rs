//! Unlike: places whose colour is not that of the ink they were given to, so that an ink was not found.
//!
//! ```text
//!   white ground, gold letters that were taken for white:   seen − white · area, added up over a
//!                                                           letter, is gold − white
//! ```
//!
//! Each ink is painted with the one colour it is told to have, as soft as the picture. Blur and
//! coarsely stored chroma move colour from pixel to pixel and keep its sum, so what differs is averaged
//! over whole connected places.

use crate::agreement::mask::Mask;
use crate::fine::Plane;
use crate::inks::{Solid, colour_of, difference, place_of_ink};
use crate::shapes::Design;

/// A place this far off the colour of its ink reads as another ink, CIEDE2000; about 1 is just noticeable.
const ANOTHER: f64 = 14.0;
/// Pixels of a place that is looked at.
const LEAST_PX: usize = 24;
/// Part of a place that its ink covers at least.
const HELD: f32 = 0.5;

/// Places of another colour than their ink's.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(super) struct Unlike {
    /// How many.
    pub parts: usize,
    /// Pixels of all of them.
    pub px: usize,
}

impl Unlike {
    /// Looks at a picture as soft as that, whose covers are those of the inks that have shapes, in their
    /// order. Nothing is told where light was levelled: there no ink has one colour.
    pub(super) fn of(
        seen: &[Plane; 3],
        covers: &[Plane],
        spread: f64,
        mask: &Mask,
        (solid, design): (&Solid, &Design),
    ) -> Self {
        let ground = mask.ink.iter().zip(&mask.ground).find(|g| *g.1);
        let ground = ground.map(|g| usize::from(*g.0));
        let (Some(ground), None, None) = (ground, solid.levelled, &solid.cast) else {
            return Self::default();
        };
        // Inks that were added by hand come after those that were found.
        let colours = design
            .inks
            .iter()
            .map(|ink| place_of_ink(ink.colour, false));
        let colours: Vec<_> = colours.collect();
        if ground >= colours.len() {
            return Self::default();
        }
        let inks: Vec<usize> = (0..colours.len())
            .filter(|&k| design.inks[k].shapes > 0)
            .collect();
        // What was merged has several colours on purpose.
        let merged = |k: usize| {
            let mut into = design.inks.iter().filter_map(|ink| ink.part_of);
            into.any(|into| usize::from(into.0) == k)
        };
        let looked_at = |k: usize| {
            let ink = design.inks.get(k);
            ink.is_some_and(|ink| !ink.clear && ink.part_of.is_none()) && !merged(k)
        };
        let soft = |spread: f64| -> Vec<Plane> {
            covers.iter().map(|cover| cover.blurred(spread)).collect()
        };
        let luma = soft(spread);
        let chroma = soft(spread.hypot(solid.chroma_spread()));
        // How far a pixel is off what was painted there.
        let off = |i: usize, c: usize| {
            let parts = if c == 0 { &luma } else { &chroma };
            let under = colours[ground][c];
            let over = parts.iter().zip(&inks);
            let over = over.map(|(part, &k)| part.values[i] * (colours[k][c] - under));
            seen[c].values[i] - under - over.sum::<f32>()
        };
        let held = |place: &[usize], n: usize| -> f32 {
            place.iter().map(|&i| covers[n].values[i]).sum::<f32>()
        };
        let mut found = Self::default();
        for place in connected(&mask.ink, seen[0].width) {
            let (ink, px) = (usize::from(mask.ink[place[0]]), place.len() as f32);
            if place.len() < LEAST_PX || mask.dropped[place[0]] || !looked_at(ink) {
                continue;
            }
            // What was taken out or moved away is lost there, not of another colour.
            let px_held = match inks.iter().position(|&k| k == ink) {
                Some(n) => held(&place, n),
                None => px - (0..covers.len()).map(|n| held(&place, n)).sum::<f32>(),
            };
            if px_held < HELD * px {
                continue;
            }
            let mut there = colours[ink];
            for (c, v) in there.iter_mut().take(seen.len()).enumerate() {
                *v += place.iter().map(|&i| off(i, c)).sum::<f32>() / px;
            }
            if difference(colour_of(there), design.inks[ink].colour) > ANOTHER {
                found.parts += 1;
                found.px += place.len();
            }
        }
        found
    }
}

/// The pixels of every connected place of one ink.
fn connected(inks: &[u8], width: usize) -> Vec<Vec<usize>> {
    let mut passed = vec![false; inks.len()];
    let mut places = Vec::new();
    for start in 0..inks.len() {
        if std::mem::replace(&mut passed[start], true) {
            continue;
        }
        let (mut place, mut next) = (vec![start], 0);
        while let Some(&i) = place.get(next) {
            next += 1;
            let sides = [
                (i % width > 0).then(|| i - 1),
                ((i + 1) % width > 0).then_some(i + 1),
                i.checked_sub(width),
                Some(i + width),
            ];
            for j in sides.into_iter().flatten() {
                if inks.get(j) == Some(&inks[i]) && !std::mem::replace(&mut passed[j], true) {
                    place.push(j);
                }
            }
        }
        places.push(place);
    }
    places
}
