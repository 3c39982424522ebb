//! Tones: a picture with gradients as a few flat tones, each of which can be cut.
//!
//! ```text
//!   picture ──► tones, evened out ──► levels ──┬─ darker than the first  ─┐ each opened and closed by what the
//!                                              ├─ darker than the second ─┤ material allows, small parts out
//!                                              └─ …                       ┘ ──► flat greys, edges blurred
//! ```
//!
//! What is darker than a level lies within what is darker than a lighter one, and is kept so. So a layer for each tone
//! can be laid on the one before it.
//!
//! In: a [`Picture`] and what is [`Asked`]. Out: labels and a grey picture whose blurred edges place the outlines. The
//! grid is as fine as the narrowest stroke needs, not as the photograph happens to be.

mod even;
mod levels;
mod mask;
mod nested;
mod painted;
mod parts;

use rayon::prelude::*;
use serde::Serialize;

pub(in crate::inks) use even::evened;
pub use levels::Levels;
pub use painted::grey;

use crate::fine::Plane;
use crate::inks::{InkReason, Solid, luma, noise_sigma};
use crate::picture::Picture;
use crate::stop::{Stop, Stopped};

/// What is asked of the tones of one picture; lengths as parts of its width.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Asked {
    /// How many tones there shall be; with one it is the silhouette, whatever its tones.
    pub count: usize,
    /// Where one tone ends.
    pub levels: Levels,
    /// How much local contrast is evened out, 0 to 1.
    pub even: f64,
    /// Narrowest stroke of what is darker than a level.
    pub stroke: f64,
    /// Narrowest gap in it.
    pub gap: f64,
    /// Smallest part of it, across.
    pub part: f64,
    /// Smallest hole in it, across.
    pub hole: f64,
    /// Whether every tone by itself is as wide as a stroke, since they are laid side by side.
    pub side_by_side: bool,
}

/// So many pixels for each place of the grid are looked at, at most.
const FINER: usize = 6;
/// The same of a draft.
const FINER_DRAFT: usize = 2;
/// Steps of the grid across the narrowest stroke.
const ACROSS: f64 = 7.0;
/// Fewest and most places of the grid, and how many for each pixel of the picture.
const LEAST_PLACES: f64 = 250_000.0;
const MOST_PLACES: f64 = 3_000_000.0;
const PER_PIXEL: f64 = 2.0;
/// The same of a draft.
const ACROSS_DRAFT: f64 = 4.0;
const LEAST_DRAFT: f64 = 100_000.0;
const MOST_DRAFT: f64 = 220_000.0;
/// How many strokes' widths to each side tones are calmed over before they are parted, and what is flat, levels.
const CALMED: f64 = 1.2;
const FLAT: f64 = 6.0;
/// The same for each grey level of grain.
const FLAT_GRAIN: f64 = 2.5;
/// Farthest, places of the grid.
const FARTHEST: f64 = 24.0;

/// Parts a picture into tones; a draft on a coarser grid.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(super) fn part(
    picture: &Picture,
    (asked, draft): (&Asked, bool),
    stop: &Stop,
) -> Result<Solid, Stopped> {
    let (width, height) = grid(picture, asked, draft);
    let (tone, cover) = seen(picture, (width, height), draft);
    stop.check()?;
    let evened = evened(&tone, &cover, asked.even);
    let percents = levels::found(&evened, &cover, asked);
    stop.check()?;
    let step = 1.0 / width as f64;
    let reach = (CALMED * asked.stroke / step).min(FARTHEST) as usize;
    let flat = FLAT.max(FLAT_GRAIN * noise_sigma(picture));
    let calm = evened.guided(&evened, reach, flat as f32);
    let nested = nested::nested(&calm, &cover, &percents, asked);
    stop.check()?;
    let depth = nested::depths(&nested);
    let whole = cover.values.iter().all(|&c| c >= 0.5);
    let reason = if asked.count == 1 {
        InkReason::Silhouette { whole }
    } else {
        InkReason::Tones {
            how: asked.levels.clone(),
            kept: kept(&depth, &evened, &cover, &percents),
            percents,
        }
    };
    let picture_px = (picture.width(), picture.height());
    let solid = painted::painted(&depth, (width, height), nested.len(), reason).of(picture_px);
    Ok(Solid {
        histogram: Some(Box::new(levels::histogram(&evened, &cover))),
        ..solid
    })
}

/// Share of what is not clear that lies in the tone it has by itself.
fn kept(depth: &[u8], tone: &Plane, cover: &Plane, percents: &[f64]) -> f64 {
    let levels: Vec<f32> = percents.iter().map(|p| (p * 2.55) as f32).collect();
    let own = |v: f32| 1 + levels.iter().filter(|&&level| v < level).count();
    let there = (0..depth.len())
        .into_par_iter()
        .filter(|&i| cover.values[i] >= 0.5);
    let count = there.clone().count();
    let right = there.filter(|&i| usize::from(depth[i]) == own(tone.values[i]));
    right.count() as f64 / count.max(1) as f64
}

/// As many places as the narrowest stroke needs, in the picture's proportions.
fn grid(picture: &Picture, asked: &Asked, draft: bool) -> (usize, usize) {
    let (w, h) = (f64::from(picture.width()), f64::from(picture.height()));
    let stroke = asked.stroke.max(1e-4);
    let (across, least, most) = if draft {
        (ACROSS_DRAFT, LEAST_DRAFT, MOST_DRAFT)
    } else {
        (ACROSS, LEAST_PLACES, MOST_PLACES)
    };
    let wanted = (across / stroke).powi(2) * h / w;
    let most = (PER_PIXEL * w * h).clamp(least, most);
    let places = wanted.clamp(least, most);
    let k = (places / (w * h)).sqrt();
    let side = |px: f64| ((px * k).round() as usize).max(1);
    (side(w), side(h))
}

/// Tones and how much of each place is not clear, 0 to 1, on a grid; of a draft from fewer pixels.
pub(super) fn seen(
    picture: &Picture,
    (width, height): (usize, usize),
    draft: bool,
) -> (Plane, Plane) {
    // What is far finer than the grid is reduced first: a plane of 100 megapixels would be 400 MB.
    let finer = if draft { FINER_DRAFT } else { FINER };
    let picture = &picture.reduced((finer * width * height) as u64);
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let plane = |value: fn(&[u8; 4]) -> f32| Plane {
        width: w,
        height: h,
        values: picture.pixels().par_iter().map(value).collect(),
    };
    let solid = picture.pixels().par_iter().all(|p| p[3] == 255);
    // Clear places are white here, so that tones beside them are mixed with the lightest.
    let tone = plane(|&p| f32::from(luma::luma(p))).resized(width, height);
    let cover = if solid {
        Plane::filled(width, height, 1.0)
    } else {
        plane(|p| f32::from(p[3]) / 255.0).resized(width, height)
    };
    (tone, cover)
}
