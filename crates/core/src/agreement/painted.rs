//! Painted: the areas of inks painted with their colours, in the light that falls on the picture.
//!
//! ```text
//!   painted = ground · (1 − all inks) + ink · its area + …
//! ```
//!
//! Colours are those with which the painted picture comes nearest to the one that is seen, by least
//! squares in squares of the picture: light falls on inks as it does on paper. A square that holds
//! little of a colour leans on the picture as a whole.

use rayon::prelude::*;

use crate::agreement::mask::Mask;
use crate::fine::Plane;
use crate::inks::{Solid, place_of};
use crate::picture::Picture;

/// Side of the squares in which colours are taken, px.
const SQUARE: usize = 24;
/// A pixel with less ink than this is ground.
const GROUND: f32 = 0.03;
/// Pixels' worth of the whole picture that each square leans on.
const LEAN: f64 = 72.0;
/// Least contrast between ink and ground, 0 to 255: that of an ink nobody can see.
const LEAST_CONTRAST: f32 = 16.0;

/// Luma and chroma of a picture as planes; chroma counts half, as it is stored coarser. What is
/// transparent shows a sheet under it whose grey no ink has.
pub(super) fn channels(picture: &Picture, solid: &Solid) -> [Plane; 3] {
    let (width, height) = (picture.width() as usize, picture.height() as usize);
    let sheet = sheet(solid);
    let value = |[r, g, b, alpha]: [u8; 4], c: usize| {
        let alpha = f32::from(alpha) / 255.0;
        let [r, g, b] = [r, g, b].map(|v| sheet + alpha * (f32::from(v) - sheet));
        place_of([r, g, b, 255.0])[c]
    };
    std::array::from_fn(|c| Plane {
        width,
        height,
        values: picture.pixels().iter().map(|&p| value(p, c)).collect(),
    })
}

/// White, black or grey: that from which the nearest ink lies farthest.
fn sheet(solid: &Solid) -> f32 {
    let nearest = |sheet: u8| -> u32 {
        let inks = solid.inks.iter().filter(|ink| !ink.clear);
        let far = inks.map(|ink| ink.colour.0.map(|v| u32::from(v.abs_diff(sheet)).pow(2)));
        far.map(|d| d.iter().sum()).min().unwrap_or(0)
    };
    let of_all = [128, 0, 255]
        .into_iter()
        .max_by_key(|&sheet| nearest(sheet));
    f32::from(of_all.unwrap_or(255))
}

/// A painted picture.
pub(super) struct Painted {
    /// What would be seen without any ink.
    pub grounds: [Plane; 3],
    /// What the inks make of it.
    pub channels: [Plane; 3],
    /// How far the ink that differs most from its ground does so in the mean, 0 to 255.
    pub contrast: f32,
    /// How soft it is, standard deviation, px.
    pub spread: f64,
}

impl Painted {
    /// Paints areas of inks, one plane each, so soft, to come near to what is seen.
    pub(super) fn new(seen: &[Plane; 3], covers: &[Plane], spread: f64, mask: &Mask) -> Self {
        let covers: Vec<Plane> = covers.iter().map(|c| c.blurred(spread)).collect();
        let count = seen[0].values.len();
        let all: Vec<f32> = (0..count)
            .map(|i| match mask.dropped[i] {
                true => 1.0,
                false => covers.iter().map(|c| c.values[i]).sum::<f32>().min(1.0),
            })
            .collect();
        let is_ground = |i: usize| f32::from(all[i] < GROUND && mask.ground[i]);
        let ground = |c: usize| local(&seen[c], is_ground, |_| 0.0);
        let grounds: [Plane; 3] = std::array::from_fn(ground);
        let mut channels = grounds.clone();
        let mut contrast = LEAST_CONTRAST;
        for cover in &covers {
            // Pixels that hold this ink and ground alone tell its colour.
            let part = |i: usize| match all[i] - cover.values[i] < GROUND {
                true => cover.values[i],
                false => 0.0,
            };
            let mut apart = 0.0;
            for (c, channel) in channels.iter_mut().enumerate() {
                let under = |i: usize| grounds[c].values[i];
                let ink = local(&seen[c], part, under);
                apart += ((ink.sum() - grounds[c].sum()) / count as f64).powi(2);
                channel
                    .values
                    .par_iter_mut()
                    .enumerate()
                    .for_each(|(i, v)| *v += cover.values[i] * (ink.values[i] - under(i)));
            }
            contrast = contrast.max(apart.sqrt() as f32);
        }
        Self {
            grounds,
            channels,
            contrast,
            spread,
        }
    }

    /// How far a colour lies from the ground at a pixel, 0 to 255.
    pub(super) fn above_ground(&self, i: usize, colour: [f32; 3]) -> f32 {
        let far = |c: usize| (colour[c] - self.grounds[c].values[i]).powi(2);
        (far(0) + far(1) + far(2)).sqrt()
    }
}

/// The colour of what covers `part` of each pixel over what lies under it, in squares that lean on
/// the whole picture.
fn local(seen: &Plane, part: impl Fn(usize) -> f32, under: impl Fn(usize) -> f32) -> Plane {
    let (w, h) = (seen.width, seen.height);
    let (across, down) = (w.div_ceil(SQUARE), h.div_ceil(SQUARE));
    let mut sums = vec![(0.0f64, 0.0f64); across * down];
    let mut all = (0.0, 0.0);
    for (i, &v) in seen.values.iter().enumerate() {
        let part = part(i);
        if part <= GROUND {
            continue;
        }
        let paint = f64::from(part * (v - (1.0 - part) * under(i)));
        let square = f64::from(part * part);
        let sum = &mut sums[i / w / SQUARE * across + i % w / SQUARE];
        *sum = (sum.0 + paint, sum.1 + square);
        all = (all.0 + paint, all.1 + square);
    }
    let mean = all.0 / f64::max(all.1, 1e-9);
    let squares = Plane {
        width: across,
        height: down,
        values: sums
            .iter()
            .map(|(sum, n)| ((sum + LEAN * mean) / (n + LEAN)) as f32)
            .collect(),
    };
    squares.blurred(0.6).spread_over(SQUARE, w, h)
}
