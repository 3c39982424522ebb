//! The canvas: the picture to be labelled, and its pixels that lie in no flat place.

use std::sync::Arc;

use rayon::prelude::*;

use crate::inks::mixes::{Tint, Values, distance_sq, mix, place};
use crate::picture::Picture;

/// Not labelled yet.
pub(super) const OPEN: u8 = 255;

/// The picture to be labelled.
pub(super) struct Canvas<'a> {
    /// Premultiplied pixels.
    pub pixels: &'a [[u8; 4]],
    /// The same as luma and chroma, where the file stores those.
    pub stored: Option<&'a [[u8; 4]]>,
    /// Width, px.
    pub width: usize,
    /// Height, px.
    pub height: usize,
}

impl<'a> Canvas<'a> {
    /// An opaque picture, with what its file stores.
    pub(super) fn of(picture: &'a Picture, stored: Option<&'a Arc<Vec<[u8; 4]>>>) -> Self {
        Self {
            pixels: picture.pixels(),
            stored: stored.map(|s| s.as_slice()),
            width: picture.width() as usize,
            height: picture.height() as usize,
        }
    }

    /// The place of a pixel.
    pub(super) fn place(&self, i: usize) -> Tint {
        match self.stored {
            Some(stored) => Values::Stored.place(stored[i]),
            None => place(self.pixels[i]),
        }
    }
}

/// How far a pixel looks for labelled neighbours, px.
const REACH: usize = 3;
/// The same where flat places scatter by so much, 0 to 255, and it finds only one ink so near:
/// compression leaves a wide rim that is not flat.
const SCATTERED: f32 = 0.4;
const FAR_REACH: usize = 8;

/// Rows that are looked at for the width of edges.
const EDGE_ROWS: usize = 300;
/// Widest edge that is told from a part of its own, px.
const WIDEST: usize = 16;

/// Typical width of what is not flat from one ink to another, px: more than a few where the picture
/// was blurred or enlarged.
fn edge_px(labels: &[u8], width: usize) -> usize {
    let mut counts = [0u32; WIDEST + 1];
    let step = (labels.len() / width / EDGE_ROWS).max(1);
    for row in labels.chunks(width).step_by(step) {
        let mut last = None;
        for (x, &l) in row.iter().enumerate() {
            if l == OPEN {
                continue;
            }
            if let Some((from, ink)) = last.replace((x, l))
                && ink != l
                && x - from - 1 <= WIDEST
            {
                counts[x - from - 1] += 1;
            }
        }
    }
    // Edges along the row look wide: the lower third tells.
    let (all, mut seen) = (counts.iter().sum::<u32>(), 0);
    let third = counts.iter().position(|&n| {
        seen += n;
        seen * 3 >= all
    });
    third.unwrap_or(0)
}

/// Pixels that are not in flat places, in reading order, with the inks seeded around each.
pub(super) struct Open {
    /// Index of every such pixel.
    pub pixels: Vec<u32>,
    /// Inks labelled within [`REACH`] of it, as bits.
    pub sides: Vec<u32>,
    /// Where every row begins in the two lists, and where the last ends.
    rows: Vec<usize>,
    width: usize,
}

impl Open {
    /// The inks seeded around each of `pixels`, farther away where flat places scatter.
    pub(super) fn new(canvas: &Canvas<'_>, labels: &[u8], pixels: Vec<u32>, scatter: f32) -> Self {
        let (width, height) = (canvas.width, canvas.height);
        let seeded = |i: u32, reach: usize| {
            let (x, y) = (i as usize % width, i as usize / width);
            let (left, right) = (x.saturating_sub(reach), (x + reach + 1).min(width));
            let mut mask = 0u64;
            for yy in y.saturating_sub(reach)..(y + reach + 1).min(height) {
                for &l in &labels[yy * width + left..yy * width + right] {
                    mask |= 1 << (l & 63);
                }
            }
            // The bit of what is still open lies beyond those of the inks.
            mask as u32
        };
        let far = if scatter > SCATTERED {
            FAR_REACH
        } else {
            edge_px(labels, width).min(FAR_REACH)
        };
        // Where hardly anything is flat there is no rim, but noise.
        let rims = far > REACH && 2 * pixels.len() < labels.len();
        let sides = pixels
            .par_iter()
            .map(|&i| {
                let near = seeded(i, REACH);
                if rims && near.count_ones() == 1 {
                    seeded(i, far)
                } else {
                    near
                }
            })
            .collect();
        let rows = (0..=height)
            .map(|y| pixels.partition_point(|&i| (i as usize) < y * width))
            .collect();
        Self {
            pixels,
            sides,
            rows,
            width,
        }
    }

    /// Whether an ink may have a pixel.
    pub(super) fn allows(&self, pixel: u32, ink: u8) -> bool {
        let y = pixel as usize / self.width;
        let row = self.rows[y]..self.rows[y + 1];
        self.pixels[row.clone()]
            .binary_search(&pixel)
            .is_ok_and(|n| {
                let sides = self.sides[row.start + n];
                sides == 0 || sides & bit(ink) != 0
            })
    }
}

/// The bit of an ink; there are at most 32.
pub(super) fn bit(ink: u8) -> u32 {
    1 << (ink & 31)
}

/// The inks whose bits are set.
pub(super) fn inks_of(mask: u32) -> impl Iterator<Item = u8> + Clone {
    (0..32).filter(move |&i| mask & bit(i) != 0)
}

/// Squared distance of a colour from the nearest mix of the inks whose bits are set.
pub(super) fn unexplained_sq(p: Tint, inks: &[Tint], around: u32) -> f32 {
    let mut best = f32::INFINITY;
    if around.count_ones() == 1 {
        return inks_of(around).fold(best, |_, i| distance_sq(p, inks[usize::from(i)]));
    }
    for i in inks_of(around) {
        // Only the inks after this one.
        for j in inks_of(around & !(bit(i) | (bit(i) - 1))) {
            best = best.min(mix(p, inks[usize::from(i)], inks[usize::from(j)]).1);
        }
    }
    best
}
