//! Thin parts: lines and dots so narrow that no pixel of theirs lies in a flat place.
//!
//! An edge pixel is a mix of the inks around it. A pixel that no such mix explains belongs to
//! something thin between them: it becomes a seed of the ink that explains it. Where no ink does,
//! the picture has an ink that is nowhere flat, and its colour is taken from the middles of those
//! thin parts, where it is least mixed.

use rayon::prelude::*;

use crate::inks::Rgb;
use crate::inks::label::{Canvas, Open, bit, inks_of, unexplained_sq};
use crate::inks::mixes::{Place, distance_sq, mix, place};

/// A colour this far from every mix of the inks around is not explained by them, 0 to 255.
const OFF: f32 = 40.0;
/// A thin part's pixel lies at most this far beside the mixes of its own ink.
const BESIDE: f32 = 24.0;
/// Pixels that a new ink must explain, and their least share of the picture.
const LEAST_PIXELS: usize = 24;
const LEAST_SHARE: f64 = 0.0004;

/// An ink that the thin parts show and that is not among `inks`.
pub(super) fn missed_ink(canvas: &Canvas<'_>, open: &Open, inks: &[Place]) -> Option<Rgb> {
    // How far every unexplained pixel lies from the mixes of *all* inks with those around it.
    let mut off: Vec<(f32, u32)> = open
        .pixels
        .par_iter()
        .zip(&open.sides)
        .filter_map(|(&i, &around)| {
            let p = place(canvas.pixels[i as usize]);
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
    let own = place([middle[0], middle[1], middle[2], 255]);
    let like = top
        .iter()
        .filter(|&&(_, i)| distance_sq(place(colour(i)), own) < OFF * OFF)
        .count();
    // Ringing and stray noise scatter; an ink does not.
    (like * 2 > top.len()).then_some(Rgb(middle))
}

/// A pixel that the inks around do not explain, and how much of which ink it may hold.
struct Thin {
    pixel: u32,
    parts: Vec<(u8, f32)>,
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
    inks: &[Place],
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
            let p = place(canvas.pixels[pixel as usize]);
            if around == 0 || unexplained_sq(p, inks, around) < off * off {
                return None;
            }
            let mut parts = Vec::new();
            for (k, &ink) in (0..).zip(inks) {
                let mixes = inks_of(around).map(|a| mix(p, ink, inks[usize::from(a)]));
                let held = mixes.filter(|m| m.1 < BESIDE * BESIDE).map(|m| m.0);
                let most = held.fold(0.0, f32::max);
                if around & bit(k) == 0 && most > LEAST_PART {
                    parts.push((k, most));
                }
            }
            parts
                .iter()
                .any(|p| p.1 >= 0.5)
                .then_some(Thin { pixel, parts })
        })
        .collect();
    for group in connected(canvas.width, &found) {
        if group.len() < least {
            continue;
        }
        // The ink that explains most of the pixels; of two on one line of mixes the nearer one.
        let mut score = vec![(0u32, 0.0f32); inks.len()];
        for &(k, part) in group.iter().flat_map(|&n| &found[n].parts) {
            let own = &mut score[usize::from(k)];
            *own = (own.0 + 1, own.1 + part);
        }
        let better = |&a: &usize, &b: &usize| {
            let (x, y) = (score[a], score[b]);
            x.0.cmp(&y.0).then(x.1.total_cmp(&y.1)).then(b.cmp(&a))
        };
        let best = (0..inks.len()).max_by(better).unwrap_or(0) as u8;
        for &n in &group {
            // What holds little of the ink is the soft edge of the thin part, not the part.
            if found[n]
                .parts
                .iter()
                .any(|&(k, part)| k == best && part >= 0.5)
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
