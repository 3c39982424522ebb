//! Thin parts: lines and dots so narrow that no pixel of theirs lies in a flat place.
//!
//! An edge pixel is a mix of the inks around it. A pixel that no such mix explains belongs to
//! something thin between them: it becomes a seed of the ink that explains it. Where no ink does,
//! the picture has an ink that is nowhere flat, and its colour is taken from the middles of those
//! thin parts, where it is least mixed.

use rayon::prelude::*;

use crate::inks::Rgb;
use crate::inks::canvas::{Canvas, Open, bit, inks_of, unexplained_sq};
use crate::inks::mixes::{Tint, distance_sq, mix, place};

/// A colour this far from every mix of the inks around is not explained by them, 0 to 255.
const OFF: f32 = 40.0;
/// A thin part's pixel lies at most this far beside the mixes of its own ink.
const BESIDE: f32 = 24.0;
/// Pixels that a new ink must explain, and their least share of the picture.
const LEAST_PIXELS: usize = 24;
const LEAST_SHARE: f64 = 0.0004;

/// An ink that the thin parts show and that is not among `inks`.
pub(super) fn missed_ink(canvas: &Canvas<'_>, open: &Open, inks: &[Tint]) -> Option<Rgb> {
    // How far every unexplained pixel lies from the mixes of *all* inks with those around it.
    let mut off: Vec<(f32, u32)> = open
        .pixels
        .par_iter()
        .zip(&open.sides)
        .filter_map(|(&i, &around)| {
            let p = canvas.place(i as usize);
            if canvas.pixels[i as usize][3] < 250 || unexplained_sq(p, inks, around) < OFF * OFF {
                return None;
            }
            let any = inks_of(around).flat_map(|a| inks.iter().map(move |&k| (a, k)));
            let best = any
                .map(|(a, k)| mix(p, inks[usize::from(a)], k).1)
                .fold(f32::INFINITY, f32::min);
            (best > OFF * OFF && best.is_finite()).then_some((best.sqrt(), i))
        })
        .collect();
    let least = LEAST_PIXELS.max((LEAST_SHARE * canvas.pixels.len() as f64) as usize);
    if off.len() < least {
        return None;
    }
    // The least mixed quarter, and of these the ones like their middle one.
    off.sort_unstable_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
    let top = &off[..(off.len() / 4).max(LEAST_PIXELS / 4)];
    let colour = |i: u32| canvas.pixels[i as usize];
    let mut middle = [0u8; 3];
    for (c, m) in middle.iter_mut().enumerate() {
        let mut values: Vec<u8> = top.iter().map(|&(_, i)| colour(i)[c]).collect();
        values.sort_unstable();
        *m = values[values.len() / 2];
    }
    let middle_at = place([middle[0], middle[1], middle[2], 255]);
    let like = top
        .iter()
        .filter(|&&(_, i)| distance_sq(canvas.place(i as usize), middle_at) < OFF * OFF)
        .count();
    // Ringing and stray noise scatter; an ink does not.
    (like * 2 > top.len()).then_some(Rgb(middle))
}

/// A pixel that the inks around do not explain, and how much of which ink it may hold.
struct Thin {
    pixel: u32,
    parts: Vec<Part>,
}

/// How much of an ink a pixel may hold.
struct Part {
    ink: u8,
    /// 0 to 1.
    share: f32,
    /// Squared distance from the mix that holds so much.
    beside: f32,
}

/// How an ink would explain a group of thin pixels.
#[derive(Clone, Copy, Default)]
struct Score {
    pixels: u32,
    share: f32,
    beside: f32,
}

impl Score {
    /// Typical distance of the pixels from its mixes.
    fn beside(&self) -> f32 {
        (self.beside / self.pixels.max(1) as f32).sqrt()
    }
}

/// An ink that explains this part of the pixels that the best one explains is looked at too …
const ALMOST: f32 = 0.9;
/// … and explains them as well when it lies no farther beside them than by this, 0 to 255.
const AS_WELL: f32 = 3.0;

/// The ink that explains a group: most of its pixels, and best; of several on one line of mixes the
/// nearest one.
fn best(score: &[Score]) -> u8 {
    let most = score.iter().map(|s| s.pixels).max().unwrap_or(0) as f32;
    let enough = |s: &&Score| s.pixels > 0 && s.pixels as f32 >= ALMOST * most;
    let least = score
        .iter()
        .filter(enough)
        .map(Score::beside)
        .fold(f32::MAX, f32::min);
    let mut best = (0, -1.0);
    for (k, points) in (0..).zip(score) {
        let share = points.share / points.pixels.max(1) as f32;
        if enough(&points) && points.beside() <= least + AS_WELL && share > best.1 {
            best = (k, share);
        }
    }
    best.0
}

/// What a thin part must differ by, for each step of scatter of the flat places.
const SCATTERS: f32 = 8.0;
/// Scatter from which a small spot is taken for noise.
const SCATTERED: f32 = 0.7;
/// Pixels that a thin part then has at least.
const LEAST_SPOT: usize = 6;

/// A mix with less of an ink than this says nothing about it.
const LEAST_PART: f32 = 0.3;

/// Gives the pixels of thin parts to their inks; tells whether there were any.
pub(super) fn seed(
    canvas: &Canvas<'_>,
    labels: &mut [u8],
    open: &Open,
    inks: &[Tint],
    scatter: f32,
    noisy: bool,
) -> bool {
    // Compression and noise leave colours that no mix explains, in small spots beside edges.
    let off = OFF + SCATTERS * scatter;
    let least = if noisy || scatter > SCATTERED {
        LEAST_SPOT
    } else {
        1
    };
    let found: Vec<Thin> = open
        .pixels
        .par_iter()
        .zip(&open.sides)
        .filter_map(|(&pixel, &around)| {
            let p = canvas.place(pixel as usize);
            if around == 0 || unexplained_sq(p, inks, around) < off * off {
                return None;
            }
            let mut parts = Vec::new();
            for (k, &ink) in (0..).zip(inks) {
                let mixes = inks_of(around).map(|a| mix(p, ink, inks[usize::from(a)]));
                let held = mixes.filter(|m| m.1 < BESIDE * BESIDE);
                let most = held.max_by(|a, b| a.0.total_cmp(&b.0));
                if let Some((share, beside)) = most
                    && around & bit(k) == 0
                    && share > LEAST_PART
                {
                    parts.push(Part {
                        ink: k,
                        share,
                        beside,
                    });
                }
            }
            parts
                .iter()
                .any(|p| p.share >= 0.5)
                .then_some(Thin { pixel, parts })
        })
        .collect();
    for group in connected(canvas.width, &found) {
        if group.len() < least {
            continue;
        }
        let mut score = vec![Score::default(); inks.len()];
        for part in group.iter().flat_map(|&n| &found[n].parts) {
            let ink_score = &mut score[usize::from(part.ink)];
            ink_score.pixels += 1;
            ink_score.share += part.share;
            ink_score.beside += part.beside;
        }
        let best = best(&score);
        for &n in &group {
            // What holds little of the ink is the soft edge of the thin part, not the part.
            if found[n]
                .parts
                .iter()
                .any(|part| part.ink == best && part.share >= 0.5)
            {
                labels[found[n].pixel as usize] = best;
            }
        }
    }
    !found.is_empty()
}

/// Groups of pixels that touch at a side or a corner; `found` is in reading order.
fn connected(width: usize, found: &[Thin]) -> Vec<Vec<usize>> {
    let at = |i: usize| found.binary_search_by_key(&(i as u32), |f| f.pixel).ok();
    let mut seen = vec![false; found.len()];
    let mut groups = Vec::new();
    for start in 0..found.len() {
        if seen[start] {
            continue;
        }
        seen[start] = true;
        let mut group = vec![start];
        let mut next = 0;
        while let Some(&n) = group.get(next) {
            next += 1;
            let i = found[n].pixel as usize;
            let x = i % width;
            for dy in [-1isize, 0, 1] {
                for dx in [-1isize, 0, 1] {
                    let inside = (dx >= 0 || x > 0) && (dx <= 0 || x + 1 < width);
                    let j = i as isize + dy * width as isize + dx;
                    if let Some(m) = (inside && j >= 0).then(|| at(j as usize)).flatten()
                        && !seen[m]
                    {
                        seen[m] = true;
                        group.push(m);
                    }
                }
            }
        }
        group.sort_unstable();
        groups.push(group);
    }
    groups
}
