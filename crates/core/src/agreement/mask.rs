//! Mask: where inks were dropped on purpose, so that nothing is held against the picture there.

use crate::inks::Solid;
use crate::shapes::Design;

/// Pixels around a dropped ink that its soft edge reaches.
const AROUND: usize = 2;

/// Whether an ink other than the ground was dropped in or beside every pixel of a picture of this size.
pub(super) fn dropped(solid: &Solid, design: &Design, (width, height): (u32, u32)) -> Vec<bool> {
    let (w, h) = (width as usize, height as usize);
    let off = |k: &usize| design.inks.get(*k).is_some_and(|ink| ink.letter.is_none());
    let inks = (0..solid.inks.len()).filter(off);
    let ground = inks
        .clone()
        .max_by_key(|&k| (solid.inks[k].border_px, std::cmp::Reverse(k)));
    let others: Vec<bool> = (0..solid.inks.len())
        .map(|k| off(&k) && Some(k) != ground)
        .collect();
    let mut found = vec![false; w * h];
    if !others.contains(&true) {
        return found;
    }
    let (across, down) = (solid.width as usize, solid.height as usize);
    for y in 0..h {
        for x in 0..w {
            let at = (2 * y + 1) * down / (2 * h) * across + (2 * x + 1) * across / (2 * w);
            let own = others.get(usize::from(solid.labels[at]));
            if own == Some(&true) {
                for row in y.saturating_sub(AROUND)..(y + AROUND + 1).min(h) {
                    let columns = x.saturating_sub(AROUND)..(x + AROUND + 1).min(w);
                    found[row * w + columns.start..row * w + columns.end].fill(true);
                }
            }
        }
    }
    found
}
