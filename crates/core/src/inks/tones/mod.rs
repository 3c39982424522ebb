//! Tones: a picture with gradients as a few flat tones, each of which can be cut.
//!
//! ```text
//!   picture ──► tones, evened out ──► levels ──┬─ darker than the first  ─┐ each opened and closed by what the
//!                                              ├─ darker than the second ─┤ material allows, small parts out
//!                                              └─ …                       ┘ ──► flat greys, edges blurred
//! ```
//!
//! What is darker than a level lies within what is darker than a lighter one, and stays so: every step between keeps
//! one set within another. So a layer for each tone can be laid on the one before it.
//!
//! In: a [`Picture`] and what is [`Asked`]. Out: labels and a grey picture whose blurred edges place the outlines. The
//! grid is as fine as the narrowest stroke needs, not as the photograph happens to be.

mod even;
mod levels;
mod mask;
mod parts;

use std::sync::Arc;

use rayon::prelude::*;
use serde::Serialize;

pub(in crate::inks) use even::evened;
pub use levels::Levels;
use mask::Mask;

use crate::fine::Plane;
use crate::inks::flat::Colour;
use crate::inks::mixes::{Mixes, Values};
use crate::inks::{EdgeField, Ink, InkReason, Rgb, Solid, label, luma, noise_sigma, softness};
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

/// Steps of the grid across the narrowest stroke.
const ACROSS: f64 = 7.0;
/// Fewest and most places of the grid, and how many for each pixel of the picture.
const LEAST_PLACES: f64 = 250_000.0;
const MOST_PLACES: f64 = 3_000_000.0;
const PER_PIXEL: f64 = 2.0;
/// Strokes are made so much wider than the least, and so many steps more, for what the curves may take away.
const WIDER: f64 = 1.06;
const MARGIN: f64 = 1.0;
/// How many strokes' widths to each side tones are calmed over before they are parted, and what is flat, levels.
const CALMED: f64 = 1.2;
const FLAT: f64 = 6.0;
/// The same for each grey level of grain.
const FLAT_GRAIN: f64 = 2.5;
/// Farthest, places of the grid.
const FARTHEST: f64 = 24.0;
/// How often strokes and gaps are mended in turn: mending one may narrow the other.
const ROUNDS: usize = 5;
/// By which edges are blurred, steps.
const EDGE: f64 = 1.2;
/// Bands between two edges narrower than this are none, strokes' widths.
const SLIVER: f64 = 0.5;
/// Grey of the lightest tone and of the darkest.
const GREYS: [f64; 2] = [236.0, 28.0];

/// The grey that stands for a tone, counted from the lightest: equally far apart, so that it is the same ink however
/// the levels are moved.
#[must_use]
pub fn grey(tone: usize, of: usize) -> Rgb {
    let t = tone as f64 / (of.max(2) - 1) as f64;
    let v = GREYS[0] + (GREYS[1] - GREYS[0]) * t;
    Rgb([v.round() as u8; 3])
}

/// Parts a picture into tones.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(super) fn part(picture: &Picture, asked: &Asked, stop: &Stop) -> Result<Solid, Stopped> {
    let (width, height) = grid(picture, asked);
    let (tone, cover) = seen(picture, width, height);
    stop.check()?;
    let evened = evened(&tone, &cover, asked.even);
    let percents = levels::found(&evened, &cover, asked);
    stop.check()?;
    let step = 1.0 / width as f64;
    let reach = (CALMED * asked.stroke / step).min(FARTHEST) as usize;
    let flat = FLAT.max(FLAT_GRAIN * noise_sigma(picture));
    let calm = evened.guided(&evened, reach, flat as f32);
    let nested = nested(&calm, &cover, &percents, asked);
    stop.check()?;
    let depth = depths(&nested);
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
    let solid = painted(&depth, (width, height), nested.len(), reason).of(picture_px);
    Ok(Solid {
        histogram: Some(Box::new(levels::histogram(&evened, &cover))),
        ..solid
    })
}

/// How many of the nested masks hold each place: 0 where it is clear.
fn depths(nested: &[Mask]) -> Vec<u8> {
    let Some(first) = nested.first() else {
        return Vec::new();
    };
    let rows = (0..first.height).into_par_iter();
    rows.flat_map_iter(|y| {
        let depth = move |x| nested.iter().filter(|m| m.has(x, y)).count() as u8;
        (0..first.width).map(depth)
    })
    .collect()
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
fn grid(picture: &Picture, asked: &Asked) -> (usize, usize) {
    let (w, h) = (f64::from(picture.width()), f64::from(picture.height()));
    let stroke = asked.stroke.max(1e-4);
    let wanted = (ACROSS / stroke).powi(2) * h / w;
    let most = (PER_PIXEL * w * h).clamp(LEAST_PLACES, MOST_PLACES);
    let places = wanted.clamp(LEAST_PLACES, most);
    let k = (places / (w * h)).sqrt();
    let side = |px: f64| ((px * k).round() as usize).max(1);
    (side(w), side(h))
}

/// Tones and how much of each place is not clear, 0 to 1, on a grid.
pub(super) fn seen(picture: &Picture, width: usize, height: usize) -> (Plane, Plane) {
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

/// What a material allows, in places of the grid.
struct Allowed {
    stroke: f64,
    gap: f64,
    part: f64,
    hole: f64,
}

impl Allowed {
    fn of(asked: &Asked, step: f64) -> Self {
        let disc = |width: f64| (width > 0.0).then(|| WIDER * width / step / 2.0 + MARGIN);
        let across = |part: f64| WIDER * part / step + 2.0 * MARGIN;
        Self {
            stroke: disc(asked.stroke).unwrap_or(0.0),
            gap: disc(asked.gap).unwrap_or(0.0),
            part: across(asked.part),
            hole: across(asked.hole),
        }
    }

    /// A mask as it can be cut: nothing too narrow or too small, and nothing too narrow between.
    fn mended(&self, mask: &Mask) -> Mask {
        let mut mended = parts::without_small(mask, self.part, self.hole);
        mended = mended.opened(self.stroke).closed(self.gap);
        for _ in 0..ROUNDS {
            mended = parts::without_small(&mended.opened(self.stroke), self.part, self.hole);
            // Where mending one narrows the other, the gap is made as wide as it has to be.
            let narrow = mended.closed(self.gap).without(&mended);
            if narrow.is_empty() {
                break;
            }
            mended = mended.without(&narrow.grown(self.gap));
        }
        parts::without_small(&mended.opened(self.stroke), self.part, 0.0)
    }
}

/// What is not clear, then what is darker than each level, every one within the one before.
fn nested(tone: &Plane, cover: &Plane, percents: &[f64], asked: &Asked) -> Vec<Mask> {
    let step = 1.0 / tone.width as f64;
    let allowed = Allowed::of(asked, step);
    let there = |i: usize| cover.values[i] >= 0.5;
    let (width, height) = (tone.width, tone.height);
    let mut all: Vec<Mask> = (0..=percents.len())
        .into_par_iter()
        .map(
            |n| match n.checked_sub(1).map(|n| (percents[n] * 2.55) as f32) {
                None if (0..width * height).all(there) => Mask::of(width, height, |_| true),
                None => allowed.mended(&Mask::of(width, height, there)),
                Some(level) => {
                    let darker = |i| there(i) && tone.values[i] < level;
                    allowed.mended(&Mask::of(width, height, darker))
                }
            },
        )
        .collect();
    let apart = if asked.side_by_side {
        allowed.stroke
    } else {
        SLIVER * allowed.stroke
    };
    for n in 1..all.len() {
        let (lighter, darker) = all.split_at_mut(n);
        let (lighter, darker) = (&lighter[n - 1], &mut darker[0]);
        darker.keep_within(lighter);
        // A band too narrow to be one goes to the darker side, up to the edge of the lighter tone.
        let band = lighter.without(darker).opened(apart);
        *darker = allowed.mended(&lighter.without(&band));
        darker.keep_within(lighter);
    }
    all
}

/// Tones painted flat, with blurred edges.
struct Painted {
    size: (usize, usize),
    labels: Vec<u8>,
    pixels: Vec<[u8; 4]>,
    /// From the lightest; what is clear comes last.
    inks: Vec<Colour>,
    reason: InkReason,
}

/// So many tones, by how many of the masks hold each place.
fn painted(
    depth: &[u8],
    (width, height): (usize, usize),
    count: usize,
    reason: InkReason,
) -> Painted {
    // A silhouette has the darkest of two.
    let colour = |d: usize| {
        if count == 1 {
            grey(1, 2)
        } else {
            grey(d - 1, count)
        }
    };
    let plane = |value: &(dyn Fn(u8) -> f32 + Sync)| {
        let values = depth.par_iter().map(|&d| value(d)).collect();
        let plane = Plane {
            width,
            height,
            values,
        };
        plane.blurred(EDGE).values
    };
    let has_clear = depth.contains(&0);
    let greys = plane(&|d| {
        if d == 0 {
            0.0
        } else {
            f32::from(colour(usize::from(d)).0[0])
        }
    });
    let alpha = if has_clear {
        plane(&|d| if d == 0 { 0.0 } else { 255.0 })
    } else {
        vec![255.0; depth.len()]
    };
    let byte = |v: f32| v.round().clamp(0.0, 255.0) as u8;
    let pixel = |(&grey, &alpha): (&f32, &f32)| [byte(grey), byte(grey), byte(grey), byte(alpha)];
    let pixels = greys.par_iter().zip(&alpha).map(pixel).collect();
    let mut inks: Vec<Colour> = (1..=count).map(|d| (colour(d), false)).collect();
    if has_clear {
        inks.push((Rgb::WHITE, true));
    }
    let label = |&d: &u8| d.checked_sub(1).unwrap_or(count as u8);
    Painted {
        size: (width, height),
        labels: depth.par_iter().map(label).collect(),
        pixels,
        inks,
        reason,
    }
}

impl Painted {
    /// As a solid picture.
    fn of(self, picture_px: (u32, u32)) -> Solid {
        let (width, height) = self.size;
        let mut count = vec![0_usize; self.inks.len()];
        let mut border = vec![0_usize; self.inks.len()];
        for (i, &l) in self.labels.iter().enumerate() {
            let (x, y) = (i % width, i / width);
            count[usize::from(l)] += 1;
            if x == 0 || y == 0 || x + 1 == width || y + 1 == height {
                border[usize::from(l)] += 1;
            }
        }
        let field = EdgeField::Colours {
            pixels: Arc::new(self.pixels),
            mixes: Mixes::new(&label::places(&self.inks), Values::Premultiplied),
        };
        let ink = |(n, &(colour, clear)): (usize, &Colour)| Ink {
            colour,
            clear,
            enclosed: false,
            tone: (!clear).then_some(n as u8),
            share: count[n] as f64 / self.labels.len() as f64,
            border_px: border[n],
        };
        let edges = softness::edges(width, &self.labels, &field);
        let inks = self.inks.iter().enumerate().map(ink).collect();
        Solid {
            softness: edges.share,
            edge_width: edges.width,
            ..Solid::made(self.size, picture_px, self.labels, inks, field, self.reason)
        }
    }
}
