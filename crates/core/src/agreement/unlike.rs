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
use crate::inks::{Rgb, Solid, difference};
use crate::shapes::{Design, DesignInk};

/// A place this far off the colour of its ink reads as another ink, CIEDE2000; about 1 is just noticeable.
const ANOTHER: f64 = 14.0;
/// Pixels of a place that is looked at.
const LEAST_PX: usize = 24;

/// Part of a place that its ink covers at least.
const HELD: f32 = 0.5;

/// Grain beside edges from which chroma was stored coarser than luma, and what that spreads it, px.
const COMPRESSED: f64 = 0.6;
const CHROMA_SPREAD: f64 = 1.0;

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
        solid: &Solid,
        design: &Design,
    ) -> Self {
        if solid.levelled.is_some() || solid.cast.is_some() {
            return Self::default();
        }
        let (w, h) = (seen[0].width, seen[0].height);
        // Inks that were added by hand come after those that were found.
        let colours: Vec<[f32; 3]> = design.inks.iter().map(|ink| place(ink.colour)).collect();
        let with_shapes = (0..design.inks.len()).filter(|&k| design.inks[k].shapes > 0);
        let inks: Vec<usize> = with_shapes.collect();
        let ground = mask.ink.iter().zip(&mask.ground).find(|g| *g.1);
        let ground = ground.map(|g| usize::from(*g.0));
        let Some(ground) = ground.filter(|&ground| ground < colours.len()) else {
            return Self::default();
        };
        // Inks of which others were made a part have several colours on purpose.
        let merged = |k: usize| {
            let into = |ink: &DesignInk| ink.part_of.map(|into| usize::from(into.0));
            let all = design.inks.iter().filter_map(into);
            design
                .inks
                .get(k)
                .is_none_or(|ink| ink.part_of.is_some() || ink.clear)
                || all.into_iter().any(|into| into == k)
        };
        let chroma = if solid.beside > COMPRESSED {
            CHROMA_SPREAD
        } else {
            0.0
        };
        let luma = drawn(covers, &inks, spread);
        let chroma = drawn(covers, &inks, spread.hypot(chroma));
        let off = |i: usize| -> [f32; 3] {
            std::array::from_fn(|c| {
                let parts = if c == 0 { &luma } else { &chroma };
                let under = colours[ground][c];
                let over = parts
                    .iter()
                    .map(|(part, k)| part.values[i] * (colours[*k][c] - under));
                seen[c].values[i] - under - over.sum::<f32>()
            })
        };
        let mut found = Self::default();
        let mut passed = vec![false; w * h];
        for start in 0..w * h {
            if passed[start] {
                continue;
            }
            passed[start] = true;
            let own = mask.ink[start];
            let (mut place, mut next) = (vec![start], 0);
            while let Some(&i) = place.get(next) {
                next += 1;
                let (x, y) = (i % w, i / w);
                let sides = [
                    (x > 0).then(|| i - 1),
                    (x + 1 < w).then_some(i + 1),
                    (y > 0).then(|| i - w),
                    (y + 1 < h).then_some(i + w),
                ];
                for j in sides.into_iter().flatten() {
                    if !passed[j] && mask.ink[j] == own {
                        passed[j] = true;
                        place.push(j);
                    }
                }
            }
            let ink = usize::from(own);
            if place.len() < LEAST_PX || merged(ink) || mask.dropped[start] {
                continue;
            }
            // What was taken out or moved away is lost there, not of another colour.
            let drawn = |n: usize| place.iter().map(|&i| covers[n].values[i]).sum::<f32>();
            let held = match inks.iter().position(|&k| k == ink) {
                Some(n) => drawn(n),
                None => place.len() as f32 - (0..covers.len()).map(drawn).sum::<f32>(),
            };
            if held < HELD * place.len() as f32 {
                continue;
            }
            let sum = place.iter().fold([0.0f32; 3], |sum, &i| {
                let off = off(i);
                std::array::from_fn(|c| sum[c] + off[c])
            });
            let mean = sum.map(|v| v / place.len() as f32);
            let told = design.inks[ink].colour;
            let there: [f32; 3] = std::array::from_fn(|c| colours[ink][c] + mean[c]);
            if difference(colour(there), told) > ANOTHER {
                found.parts += 1;
                found.px += place.len();
            }
        }
        found
    }
}

/// How much of each ink there is at every pixel of a picture so soft.
fn drawn(covers: &[Plane], inks: &[usize], spread: f64) -> Vec<(Plane, usize)> {
    let soft = covers.iter().map(|cover| cover.blurred(spread));
    soft.zip(inks.iter().copied()).collect()
}

/// A colour in luma and halved chroma.
fn place(Rgb(colour): Rgb) -> [f32; 3] {
    let [r, g, b] = colour.map(f32::from);
    let y = 0.299 * r + 0.587 * g + 0.114 * b;
    [y, 0.5 * (b - y) / 1.772, 0.5 * (r - y) / 1.402]
}

/// The colour at a place.
fn colour([y, cb, cr]: [f32; 3]) -> Rgb {
    let (b, r) = (y + 2.0 * 1.772 * cb, y + 2.0 * 1.402 * cr);
    let g = (y - 0.299 * r - 0.114 * b) / 0.587;
    Rgb([r, g, b].map(|v| v.round().clamp(0.0, 255.0) as u8))
}
