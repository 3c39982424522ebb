//! What an artwork is worth as a source of cut paths, measured, each figure with a sentence.
//!
//! ```text
//!   picture + its solid picture ──► Worth ──finished size──► advice, in words
//! ```
//!
//! Sources: noise by Immerkær 1996 (see [`crate::inks::noise_sigma`]); contrast between the medians
//! of Otsu's two classes (Otsu 1979); traces of compression by [`blocks`]; unevenness of paper from
//! the surface that levels it; shadows and gradients by `shading`. Whether a picture is a photograph is a rule of ours.

mod advice;
mod blocks;
mod shading;

use rayon::prelude::*;

use crate::inks::{EdgeField, Enlarged, InkReason, Solid, Tone};
use crate::otsu::between_tones;
use crate::picture::Picture;

pub use advice::{Advice, Verdict};
pub use blocks::blocks;

/// Figures of an artwork that do not depend on its finished size.
#[derive(Clone, Debug, PartialEq)]
pub struct Worth {
    /// Width and height, px.
    pub size_px: (u32, u32),
    /// Flat colours found, the ground counted; 0 where there are no two.
    pub flat_colours: usize,
    /// Part of the pixels that lie on or close to one of them, 0 to 1.
    pub flat_share: f64,
    /// How far the dark and the light tones lie apart, 0 to 1.
    pub contrast: f64,
    /// Standard deviation of the grain, 0 to 255.
    pub noise: f64,
    /// How much steeper steps are across the borders of 8 × 8 px than elsewhere, as a part; 0
    /// where the picture was never compressed in blocks.
    pub blocks: f64,
    /// Quality that the file states by its tables, 1 to 100, where it is a JPEG.
    pub jpeg_quality: Option<f64>,
    /// How much darker the darkest paper is than the brightest, 0 to 1.
    pub unevenness: f64,
    /// Typical number of mixed pixels across an edge, px.
    pub edge_px: f64,
    /// Part of edges that are soft, 0 (hard steps) to 1.
    pub softness: f64,
    /// Part of the borders between inks at which the picture has no edge, 0 to 1: shadows, gradients.
    pub shading: f64,
    /// Whether colours are shown by dots of a few others.
    pub dithered: bool,
    /// How it was blown up before it came, where it was.
    pub enlarged: Option<Enlarged>,
    /// Whether it is a photograph or full of soft gradients.
    pub photograph: bool,
}

/// Pixels looked at for the share on flat colours.
const ENOUGH: usize = 200_000;
/// How far a pixel may lie from a flat colour, in every channel, beside three times the noise.
const CLOSE: f64 = 14.0;
/// With a smaller share than this on flat colours a picture is a photograph.
const LEAST_FLAT: f64 = 0.6;

impl Worth {
    /// Measures a picture; `solid` is what its inks were found to be by themselves.
    #[must_use]
    pub fn of(picture: &Picture, solid: &Solid, jpeg_quality: Option<f64>) -> Self {
        let histogram = Tone::of(picture).histogram;
        let contrast = between_tones(&histogram).map_or(0.0, |(_, dark, light)| {
            f64::from(light.saturating_sub(dark)) / 255.0
        });
        let flat_share = share_on_inks(picture, solid);
        let flat = matches!(solid.reason, InkReason::Flat { .. } | InkReason::TwoTones);
        // Where edges are all there is, hardly a pixel lies on an ink, yet inks explain every one.
        let explained = solid.detail > 1.0 && solid.rough < EXPLAINED;
        let unexplained = solid.inks.len() > 3 && solid.rough > EXPLAINED;
        // Compression leaves grain beside edges and none where nothing is; then its blocks count.
        let blocks = blocks(picture);
        let compressed = !solid.dithered
            && solid.beside > LEAST_BESIDE
            && (solid.noise < LEAST_BESIDE || blocks > LEAST_BLOCKS);
        let shading = shading::shaded(picture, solid);
        let photograph = shading > MOST_SHADING
            || unexplained
            || (solid.inks.len() >= MANY_INKS && solid.noise > TEXTURE)
            || (flat_share < LEAST_FLAT && !explained)
            || solid.scatter > MOST_SCATTER.hypot(solid.noise);
        Self {
            size_px: (picture.width(), picture.height()),
            flat_colours: if flat { solid.inks.len() } else { 0 },
            flat_share,
            contrast,
            noise: solid.noise,
            blocks: if compressed {
                blocks.max(LEAST_BLOCKS)
            } else {
                0.0
            },
            jpeg_quality,
            unevenness: solid.levelled.unwrap_or(0.0),
            edge_px: solid.edge_width,
            shading,
            dithered: solid.dithered,
            enlarged: solid.enlarged,
            softness: solid.softness,
            photograph: !solid.dithered && photograph,
        }
    }
}

/// Grain beside edges from which a picture may have been compressed, 0 to 255.
const LEAST_BESIDE: f64 = 0.6;
/// Least figure of blocks in a picture that was compressed.
const LEAST_BLOCKS: f64 = 0.3;
/// So many inks found in so much grain are texture.
const MANY_INKS: usize = 9;
const TEXTURE: f64 = 5.0;
/// With more of its borders than this without an edge a picture is no flat art.
const MOST_SHADING: f64 = 0.3;
/// Inks that were worked out finer than the pixels explain a picture when they leave less than this
/// part of their contrast where they meet.
const EXPLAINED: f64 = 0.115;
/// How far flat places may lie from their ink in the mean, beside the grain, 0 to 255; where they
/// lie farther they are slices of gradients.
const MOST_SCATTER: f64 = 4.5;

/// Part of the pixels close to the ink they were given; light that falls off and grain are allowed
/// for.
fn share_on_inks(picture: &Picture, solid: &Solid) -> f64 {
    let within = CLOSE + 3.0 * solid.noise + 128.0 * solid.levelled.unwrap_or(0.0);
    let step = (picture.pixels().len() / ENOUGH).max(1) | 1;
    let mono = matches!(solid.field, EdgeField::Tone { .. });
    let pixels: Vec<usize> = (0..picture.pixels().len()).step_by(step).collect();
    let means = means(picture, solid, &pixels);
    let on = pixels.par_iter().filter(|&&i| {
        let (p, label) = (picture.pixels()[i], solid.ink_at(picture, i));
        let ink = &solid.inks[label];
        if ink.clear {
            return p[3] < 128;
        }
        let colour = if mono {
            means[label]
        } else {
            ink.colour.0.map(f64::from)
        };
        (0..3).all(|c| (f64::from(p[c]) - colour[c]).abs() <= within)
    });
    on.count() as f64 / pixels.len().max(1) as f64
}

/// Mean colour of every label among some pixels.
fn means(picture: &Picture, solid: &Solid, pixels: &[usize]) -> Vec<[f64; 3]> {
    let mut sums = vec![([0.0; 3], 0.0); solid.inks.len()];
    for &i in pixels {
        let (sum, count) = &mut sums[solid.ink_at(picture, i)];
        *count += 1.0;
        for (s, &v) in sum.iter_mut().zip(&picture.pixels()[i]) {
            *s += f64::from(v);
        }
    }
    sums.into_iter()
        .map(|(sum, count)| sum.map(|s| s / f64::max(count, 1.0)))
        .collect()
}
