//! Every pixel given to one ink, mixes included.
//!
//! A pixel in a flat place takes the nearest ink. A pixel on an edge is a mix of the two inks *on
//! its two sides*, not of the two nearest in all: half way from red to white looks like pink, and
//! must not become a rim of pink. So its candidates are the inks of the flat pixels around it,
//! and it goes to whichever of the best pair has the greater part in it.

use rayon::prelude::*;

use crate::inks::flat::{Flat, FlatPlaces};
use crate::inks::{EdgeField, InkReason, Rgb};
use crate::picture::Picture;
use crate::stop::{Stop, Stopped};

/// Not labelled yet.
const OPEN: u8 = 255;
/// How far an edge pixel looks for flat neighbours, px.
const REACH: usize = 3;

type Parted = (Vec<u8>, Vec<(Rgb, bool)>, EdgeField, InkReason);

/// Colour times alpha, and alpha: mixes at an edge are straight lines in this space, clear ones too.
fn premultiplied([r, g, b, a]: [u8; 4]) -> [u8; 4] {
    if a == 255 {
        return [r, g, b, a];
    }
    let times = |v: u8| ((u32::from(v) * u32::from(a) + 127) / 255) as u8;
    [times(r), times(g), times(b), a]
}

fn distance_sq(a: [f32; 4], b: [f32; 4]) -> f32 {
    a.iter().zip(b).map(|(x, y)| (x - y) * (x - y)).sum()
}

/// Part of `i` in a mix of inks `i` and `j`, 0 to 1, and the squared distance from their line.
fn mix(p: [f32; 4], i: [f32; 4], j: [f32; 4]) -> (f32, f32) {
    let (mut dot, mut length) = (0.0, 0.0);
    for c in 0..4 {
        dot += (p[c] - j[c]) * (i[c] - j[c]);
        length += (i[c] - j[c]) * (i[c] - j[c]);
    }
    let t = if length > 0.0 {
        (dot / length).clamp(0.0, 1.0)
    } else {
        0.5
    };
    let on_line = std::array::from_fn(|c| j[c] + t * (i[c] - j[c]));
    (t, distance_sq(p, on_line))
}

/// Part of `i` in a mix of inks `i` and `j` on the straight line between them, 0 to 1.
pub(crate) fn part_of(p: [u8; 4], i: [f32; 4], j: [f32; 4]) -> f32 {
    mix(p.map(f32::from), i, j).0
}

/// Labels every pixel of `picture` with one of the `found` colours.
pub(super) fn part(
    picture: &Picture,
    found: Flat,
    asked: Option<usize>,
    noise: f64,
    stop: &Stop,
) -> Result<Parted, Stopped> {
    let pixels: Vec<[u8; 4]> = picture
        .pixels()
        .par_iter()
        .map(|&p| premultiplied(p))
        .collect();
    let inks: Vec<[f32; 4]> = found
        .colours
        .iter()
        .map(|&(Rgb([r, g, b]), clear)| {
            if clear {
                [0.0; 4]
            } else {
                [f32::from(r), f32::from(g), f32::from(b), 255.0]
            }
        })
        .collect();
    stop.check()?;
    let solid = flat_labels(picture, &pixels, &inks, noise);
    stop.check()?;
    let labels = edge_labels(picture, &pixels, &inks, &solid);
    let count = found.colours.len();
    let reason = match asked {
        Some(asked) => InkReason::Asked {
            asked,
            found: count,
        },
        None => InkReason::Flat {
            count,
            share: found.share,
        },
    };
    Ok((
        labels,
        found.colours,
        EdgeField::Colours { pixels, inks },
        reason,
    ))
}

fn nearest(p: [f32; 4], inks: &[[f32; 4]]) -> (u8, f32) {
    let mut best = (0, f32::INFINITY);
    for (i, &ink) in inks.iter().enumerate() {
        let d = distance_sq(p, ink);
        if d < best.1 {
            best = (i as u8, d);
        }
    }
    best
}

/// Labels of pixels whose four neighbours are like them; the others stay [`OPEN`].
fn flat_labels(picture: &Picture, pixels: &[[u8; 4]], inks: &[[f32; 4]], noise: f64) -> Vec<u8> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let flat = FlatPlaces::new(w, h, noise);
    let mut labels = vec![OPEN; w * h];
    labels.par_chunks_mut(w).enumerate().for_each(|(y, row)| {
        for (x, label) in row.iter_mut().enumerate() {
            let p = pixels[y * w + x];
            if flat.is_at(pixels, x, y) {
                *label = nearest(p.map(f32::from), inks).0;
            }
        }
    });
    labels
}

/// Gives the open pixels to the greater part of the best pair of inks around them.
fn edge_labels(picture: &Picture, pixels: &[[u8; 4]], inks: &[[f32; 4]], flat: &[u8]) -> Vec<u8> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    // A mix may lie this far beside the line of its inks (rounding, a little noise), squared.
    const BESIDE_SQ: f32 = 40.0 * 40.0;
    let mut labels = flat.to_vec();
    labels.par_chunks_mut(w).enumerate().for_each(|(y, row)| {
        let mut around: Vec<u8> = Vec::new();
        for (x, label) in row.iter_mut().enumerate() {
            if *label != OPEN {
                continue;
            }
            around.clear();
            for yy in y.saturating_sub(REACH)..(y + REACH + 1).min(h) {
                for &l in &flat[yy * w + x.saturating_sub(REACH)..yy * w + (x + REACH + 1).min(w)] {
                    if l != OPEN && !around.contains(&l) {
                        around.push(l);
                    }
                }
            }
            around.sort_unstable();
            let p = pixels[y * w + x].map(f32::from);
            let (mut best, mut off) = best_of_pairs(p, inks, &around);
            if off > BESIDE_SQ {
                // A thin line of an ink that is nowhere flat: mixed with any ink around it.
                for &i in &around {
                    for j in 0..inks.len() as u8 {
                        let (t, d) = mix(p, inks[usize::from(j)], inks[usize::from(i)]);
                        if d < off {
                            (best, off) = (if t >= 0.5 { j } else { i }, d);
                        }
                    }
                }
            }
            if off > BESIDE_SQ {
                best = nearest(p, inks).0;
            }
            *label = best;
        }
    });
    labels
}

fn best_of_pairs(p: [f32; 4], inks: &[[f32; 4]], around: &[u8]) -> (u8, f32) {
    let mut best = (0, f32::INFINITY);
    if let [only] = around {
        return (*only, distance_sq(p, inks[usize::from(*only)]));
    }
    for (n, &i) in around.iter().enumerate() {
        for &j in &around[n + 1..] {
            let (t, d) = mix(p, inks[usize::from(i)], inks[usize::from(j)]);
            if d < best.1 {
                best = (if t >= 0.5 { i } else { j }, d);
            }
        }
    }
    best
}
