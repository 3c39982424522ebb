//! Mask: where inks or a shadow were dropped on purpose, so that nothing is held against the picture
//! there, and where the ground is seen.

use crate::inks::Solid;
use crate::shapes::Design;

/// Pixels around a dropped ink that its soft edge reaches.
const AROUND: usize = 2;

/// What is known of every pixel before anything is compared.
pub(super) struct Mask {
    /// Whether a shadow, or an ink other than the ground, was dropped in or beside it.
    pub dropped: Vec<bool>,
    /// Whether it was taken for the ground; everywhere where nothing was.
    pub ground: Vec<bool>,
    /// Number of its ink.
    pub ink: Vec<u8>,
}

impl Mask {
    /// For a picture of this size.
    pub(super) fn of(solid: &Solid, design: &Design, (width, height): (u32, u32)) -> Self {
        let (w, h) = (width as usize, height as usize);
        let off = |k: &usize| {
            let ink = design.inks.get(*k);
            ink.is_some_and(|ink| ink.letter.is_none() && ink.part_of.is_none())
        };
        let inks = (0..solid.inks.len()).filter(off);
        let ground = inks.max_by_key(|&k| (solid.inks[k].border_px, std::cmp::Reverse(k)));
        let others: Vec<bool> = (0..solid.inks.len())
            .map(|k| off(&k) && Some(k) != ground)
            .collect();
        let (across, down) = (solid.width as usize, solid.height as usize);
        let mut mask = Self {
            dropped: vec![false; w * h],
            ground: vec![false; w * h],
            ink: vec![0; w * h],
        };
        let shaded = |x: usize, y: usize| {
            solid.cast.as_ref().is_some_and(|cast| {
                let high = cast.shaded.len() / cast.width.max(1);
                let (x, y) = (x * cast.width / w, y * high / h);
                cast.shaded[y * cast.width + x]
            })
        };
        for y in 0..h {
            for x in 0..w {
                let at = (2 * y + 1) * down / (2 * h) * across + (2 * x + 1) * across / (2 * w);
                mask.ink[y * w + x] = solid.labels[at];
                let label = usize::from(solid.labels[at]);
                mask.ground[y * w + x] = ground.is_none_or(|ground| label == ground);
                if others.get(label) == Some(&true) || shaded(x, y) {
                    for row in y.saturating_sub(AROUND)..(y + AROUND + 1).min(h) {
                        let columns = x.saturating_sub(AROUND)..(x + AROUND + 1).min(w);
                        mask.dropped[row * w + columns.start..row * w + columns.end].fill(true);
                    }
                }
            }
        }
        mask
    }
}
