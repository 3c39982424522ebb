//! Uneven light: how it falls off across a scan or a photograph, and the picture without it.
//!
//! ```text
//!   even blocks, joined to areas by small steps        log tone = area's own + surface(u, v)
//!   ┌──────┬───────┐
//!   │ A A A│B B    │   one surface of second degree for all areas: light multiplies what paper
//!   │ A A A│B B   A│   *and* inks send back, so every flat area shows the same fall
//!   └──────┴───────┘
//! ```
//!
//! A low-degree surface cannot follow a drawing, and it is used only where it explains every flat
//! area at once: a drawn gradient does not.

use rayon::prelude::*;

use crate::least_squares::solve;
use crate::picture::Picture;

/// Blocks along the shorter side.
const BLOCKS: usize = 64;
/// Least side of a block, px.
const LEAST_BLOCK: usize = 6;
/// Standard deviation of tone up to which a block is even, 0 to 255, beside the noise.
const EVEN: f64 = 6.0;
/// Step of a channel from one block of an area to the next, at most, beside the noise.
const STEP: f64 = 2.5;
/// Tone below which light says nothing, 0 to 255.
const DARK: f64 = 24.0;
/// Fewest blocks of an area.
const LEAST_AREA: usize = 10;
/// Least share of all blocks that must lie in areas.
const LEAST_SHARE: f64 = 0.25;
/// Fall of light that is left alone, as a part.
pub(super) const LEAST_FALL: f64 = 0.03;
/// Terms of the surface.
const TERMS: usize = 5;

/// A picture with its light levelled.
pub(super) struct Levelled {
    /// The picture.
    pub picture: Picture,
    /// How much darker the darkest place was lit than the brightest, 0 to 1.
    pub fall: f64,
}

struct Blocks {
    across: usize,
    down: usize,
    /// Part of the picture that whole blocks cover, across and down.
    covered: (f64, f64),
    side: usize,
    /// Mean of the three channels, and each of them.
    tone: Vec<f64>,
    mean: Vec<[f64; 3]>,
    even: Vec<bool>,
}

/// Levels the light when it is uneven and the picture shows how; else `None`.
pub(super) fn level(picture: &Picture, noise: f64) -> Option<Levelled> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    if w.min(h) < 8 * LEAST_BLOCK || picture.pixels().iter().step_by(61).any(|p| p[3] < 255) {
        return None;
    }
    let blocks = measure(picture, noise);
    let areas = areas(&blocks, noise);
    let in_areas: usize = areas.iter().map(Vec::len).sum();
    if (in_areas as f64) < LEAST_SHARE * blocks.tone.len() as f64 {
        return None;
    }
    let (surface, off) = surface(&blocks, &areas)?;
    let log_light = areas.iter().flatten().map(|&at| {
        let (u, v) = blocks.centre(at);
        value(&surface, u, v)
    });
    let (least, most) = log_light.fold((f64::INFINITY, f64::NEG_INFINITY), |(l, m), t| {
        (t.min(l), t.max(m))
    });
    let fall = 1.0 - (least - most).exp();
    if !(LEAST_FALL..=0.8).contains(&fall) || off > (0.06 * fall).max(0.01) {
        return None;
    }
    let mut pixels = picture.pixels().to_vec();
    pixels.par_chunks_mut(w).enumerate().for_each(|(y, row)| {
        let v = (y as f64 + 0.5) / h as f64 - 0.5;
        for (x, p) in row.iter_mut().enumerate() {
            let u = (x as f64 + 0.5) / w as f64 - 0.5;
            let gain = (most - value(&surface, u, v).clamp(least - 0.1, most)).exp();
            for c in &mut p[..3] {
                *c = (f64::from(*c) * gain).round().min(255.0) as u8;
            }
        }
    });
    let picture = Picture::new(picture.width(), picture.height(), pixels).ok()?;
    Some(Levelled { picture, fall })
}

impl Blocks {
    /// Middle of a block, −½ to ½ across and down the picture.
    fn centre(&self, at: usize) -> (f64, f64) {
        let part = |i: usize, n: usize, covered: f64| (i as f64 + 0.5) / n as f64 * covered - 0.5;
        (
            part(at % self.across, self.across, self.covered.0),
            part(at / self.across, self.down, self.covered.1),
        )
    }
}

fn measure(picture: &Picture, noise: f64) -> Blocks {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let side = (w.min(h) / BLOCKS).max(LEAST_BLOCK);
    let (across, down) = (w / side, h / side);
    let pixels = picture.pixels();
    let step = (side / 8).max(1);
    let measured: Vec<([f64; 3], bool)> = (0..across * down)
        .into_par_iter()
        .map(|at| {
            let (x0, y0) = (at % across * side, at / across * side);
            let (mut sum, mut square, mut n) = ([0.0; 3], 0.0, 0.0);
            for y in (y0..y0 + side).step_by(step) {
                for p in pixels[y * w + x0..y * w + x0 + side].iter().step_by(step) {
                    let tone: f64 = p[..3].iter().map(|&v| f64::from(v)).sum::<f64>() / 3.0;
                    square += tone * tone;
                    n += 1.0;
                    for (s, &v) in sum.iter_mut().zip(p) {
                        *s += f64::from(v);
                    }
                }
            }
            let mean = sum.map(|s| s / n);
            let tone = mean.iter().sum::<f64>() / 3.0;
            let deviation = (square / n - tone * tone).max(0.0).sqrt();
            (mean, deviation <= EVEN + noise && tone > DARK)
        })
        .collect();
    let (mean, even): (Vec<[f64; 3]>, _) = measured.into_iter().unzip();
    let covered = |n: usize, all: usize| (n * side) as f64 / all as f64;
    Blocks {
        across,
        down,
        covered: (covered(across, w), covered(down, h)),
        side,
        tone: mean.iter().map(|m| m.iter().sum::<f64>() / 3.0).collect(),
        mean,
        even,
    }
}

/// Sets of even blocks that hang together with small steps.
fn areas(blocks: &Blocks, noise: f64) -> Vec<Vec<usize>> {
    let (across, down) = (blocks.across, blocks.down);
    let step = STEP + 4.0 * noise / blocks.side as f64;
    let mut seen = vec![false; blocks.tone.len()];
    let mut areas = Vec::new();
    for start in 0..blocks.tone.len() {
        if seen[start] || !blocks.even[start] {
            continue;
        }
        let mut found = vec![start];
        seen[start] = true;
        let mut next = 0;
        while let Some(&at) = found.get(next) {
            next += 1;
            let (x, y) = (at % across, at / across);
            let around = [
                (x > 0).then(|| at - 1),
                (x + 1 < across).then(|| at + 1),
                (y > 0).then(|| at - across),
                (y + 1 < down).then(|| at + across),
            ];
            for to in around.into_iter().flatten() {
                let channels = blocks.mean[at].iter().zip(blocks.mean[to]);
                let near = channels.into_iter().all(|(a, b)| (a - b).abs() <= step);
                if !seen[to] && blocks.even[to] && near {
                    seen[to] = true;
                    found.push(to);
                }
            }
        }
        if found.len() >= LEAST_AREA {
            areas.push(found);
        }
    }
    areas
}

fn terms(u: f64, v: f64) -> [f64; TERMS] {
    [u, v, u * u, u * v, v * v]
}

fn value(surface: &[f64; TERMS], u: f64, v: f64) -> f64 {
    terms(u, v).iter().zip(surface).map(|(t, s)| t * s).sum()
}

/// Weighted least squares over all areas, each with a level of its own, twice without the blocks
/// that lie far off; with the root mean square of what it does not explain.
fn surface(blocks: &Blocks, areas: &[Vec<usize>]) -> Option<([f64; TERMS], f64)> {
    let mut used: Vec<Vec<usize>> = areas.to_vec();
    let mut found = None;
    for _ in 0..3 {
        let (mut normal, mut right) = ([[0.0; TERMS]; TERMS], [[0.0]; TERMS]);
        for (i, row) in normal.iter_mut().enumerate() {
            // A surface without a fall is the simplest that explains nothing.
            row[i] = 1e-9;
        }
        let samples: Vec<Vec<Sample>> = used.iter().map(|area| centred(blocks, area)).collect();
        for sample in samples.iter().flatten() {
            for ((row, right), a) in normal.iter_mut().zip(&mut right).zip(sample.terms) {
                for (cell, b) in row.iter_mut().zip(sample.terms) {
                    *cell += sample.weight * a * b;
                }
                right[0] += sample.weight * a * sample.log;
            }
        }
        let s = solve(normal, right)?.map(|[s]| s);
        let off = |sample: &Sample| {
            let told: f64 = sample.terms.iter().zip(s).map(|(t, s)| t * s).sum();
            sample.log - told
        };
        let (mut square, mut weight) = (0.0, 0.0);
        for sample in samples.iter().flatten() {
            square += sample.weight * off(sample).powi(2);
            weight += sample.weight;
        }
        let rms = (square / weight).sqrt();
        used = samples
            .iter()
            .map(|area| {
                let near = area
                    .iter()
                    .filter(|s| off(s).abs() * s.weight.sqrt() <= 2.5 * rms.max(0.002));
                near.map(|s| s.block).collect()
            })
            .collect();
        found = Some((s, rms));
    }
    found
}

struct Sample {
    block: usize,
    terms: [f64; TERMS],
    log: f64,
    weight: f64,
}

/// Terms and log tones of an area's blocks less their means.
fn centred(blocks: &Blocks, area: &[usize]) -> Vec<Sample> {
    let mut samples: Vec<Sample> = area
        .iter()
        .map(|&block| {
            let (u, v) = blocks.centre(block);
            let tone = blocks.tone[block];
            Sample {
                block,
                terms: terms(u, v),
                log: tone.ln(),
                // Noise adds to tones, so it counts more in the logarithm of a dark one.
                weight: (tone / 255.0).powi(2),
            }
        })
        .collect();
    let n = samples.len().max(1) as f64;
    let log = samples.iter().map(|s| s.log).sum::<f64>() / n;
    let mean: [f64; TERMS] =
        std::array::from_fn(|k| samples.iter().map(|s| s.terms[k]).sum::<f64>() / n);
    for sample in &mut samples {
        sample.log -= log;
        for (t, m) in sample.terms.iter_mut().zip(mean) {
            *t -= m;
        }
    }
    samples
}

#[cfg(test)]
mod tests {
    use super::*;

    fn lit(width: u32, height: u32, light: impl Fn(f64, f64) -> f64) -> Picture {
        let pixels = (0..height)
            .flat_map(|y| (0..width).map(move |x| (x, y)))
            .map(|(x, y)| {
                let inside = (x as i32 - 100).pow(2) + (y as i32 - 80).pow(2) < 40 * 40;
                let colour = if inside {
                    [160.0, 60.0, 70.0]
                } else {
                    [226.0, 223.0, 216.0]
                };
                let l = light(
                    f64::from(x) / f64::from(width),
                    f64::from(y) / f64::from(height),
                );
                let [r, g, b] = colour.map(|c: f64| (c * l).round() as u8);
                [r, g, b, 255]
            })
            .collect();
        Picture::new(width, height, pixels).unwrap()
    }

    #[test]
    fn a_known_fall_of_light_is_taken_out() {
        let picture = lit(240, 180, |u, v| 1.0 - 0.2 * u - 0.05 * v);
        let levelled = level(&picture, 0.0).unwrap();
        assert!((levelled.fall - 0.25).abs() < 0.03, "{}", levelled.fall);
        let at = |x: usize, y: usize| levelled.picture.pixels()[y * 240 + x];
        for (p, q) in [(at(5, 5), at(230, 170)), (at(80, 80), at(120, 90))] {
            for c in 0..3 {
                assert!(p[c].abs_diff(q[c]) <= 3, "{p:?} {q:?}");
            }
        }
    }

    #[test]
    fn even_paper_is_left_alone() {
        assert!(level(&lit(240, 180, |_, _| 1.0), 0.0).is_none());
    }
}
