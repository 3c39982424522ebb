//! Several inks at a finer scale: the same as [`crate::fine::phase`], with a cover for each ink.
//!
//! ```text
//!   covers of all inks, adding up to 1 ──► mixed colours in each pixel, blurred ──► against the picture
//! ```
//!
//! Near an edge only the inks that were found around it have a cover, so half way from red to white
//! never becomes pink. Each step goes down the energy and back to the nearest covers that add up to 1
//! (Duchi et al. 2008, "Efficient projections onto the ℓ1-ball", ICML). What is seen counts against
//! the contrast of the inks around, so a faint edge is placed as well as a strong one.
//!
//! In: three planes of the picture's values, first covers so many times as fine, the inks in the same
//! values. Out: [`Covers`].

use rayon::prelude::*;

use crate::fine::phase::SEAM;
use crate::fine::plane::Plane;
use crate::stop::{Stop, Stopped};

/// A colour in the values that are compared.
pub(crate) type Value = [f32; 3];

/// Rounds of descent.
const ROUNDS: usize = 36;
/// Rounds before which the inks are looked at again.
const REFIT: [usize; 2] = [12, 24];
/// How much an ink is held to what it was, against what its pixels say, and sweeps to find it.
const HELD_TO: f64 = 0.1;
const SWEEPS: usize = 30;
/// How far an ink may be moved at once, in the values that are compared.
const MOST_MOVED: f32 = 24.0;
/// Softness tried to begin with, and steps in which it is sought after, px.
const SPREADS: usize = 14;
const SPREAD_STEP: f64 = 0.15;
/// The seam of a cover is soft itself: the blur that is left is so much of what wholly flat covers need.
const SOFTER: f64 = 0.85;
/// Pixels around a place whose inks may have a cover there.
const AROUND: usize = 2;
/// An ink of which a step holds more than this is there.
const HELD: f32 = 0.25;
/// Inks closer than this are told apart by this much, in the values that are compared.
const LEAST_CONTRAST: f32 = 12.0;

/// What a fine step holds to begin with: a part of one ink, the rest of another.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Cover {
    /// One ink.
    pub ink: u8,
    /// The other; may be the same.
    pub other: u8,
    /// Part of the first, 0 to 1.
    pub part: f32,
}

impl Cover {
    /// All of one ink.
    pub(crate) fn whole(ink: u8) -> Self {
        Self {
            ink,
            other: ink,
            part: 1.0,
        }
    }
}

/// How much of every ink there is at every fine step.
pub(crate) struct Covers {
    /// Number of inks.
    pub inks: usize,
    /// Part of every ink, 0 to 1, by `step · inks + ink`.
    pub parts: Vec<f32>,
    /// What the covers leave unexplained where inks meet, root mean square, as a part of the
    /// inks' contrast.
    pub rough: f64,
}

/// A picture and its inks.
pub(crate) struct Mixture {
    /// The picture's values.
    pub seen: [Plane; 3],
    /// The inks in the same values.
    pub inks: Vec<Value>,
    /// Fine steps in a pixel.
    pub scale: usize,
    /// Weight of the seam.
    pub seam: f32,
    /// Standard deviation of what makes chroma softer than luma, px.
    pub chroma_spread: f64,
}

/// What may be where: for every pixel the inks around it, as bits, and what their contrast weighs.
struct Around {
    inks: Vec<u32>,
    weight: Vec<f32>,
}

impl Mixture {
    /// The softness of a plane: of luma, or of chroma.
    fn spread_of(&self, plane: usize, spread: f64) -> f64 {
        if plane == 0 {
            spread
        } else {
            spread.hypot(self.chroma_spread)
        }
    }

    fn size(&self) -> (usize, usize) {
        (self.seen[0].width, self.seen[0].height)
    }

    /// Finds the covers that explain the picture, beginning with these, one for every fine
    /// step.
    ///
    /// # Errors
    /// [`Stopped`] when `stop` was set.
    pub(crate) fn solve(mut self, begin: &[Cover], stop: &Stop) -> Result<Covers, Stopped> {
        let (w, _) = self.size();
        let (s, n) = (self.scale, self.inks.len());
        let around = self.around(begin);
        let mut now = vec![0.0f32; begin.len() * n];
        for (parts, c) in now.chunks_exact_mut(n).zip(begin) {
            parts[usize::from(c.other)] = 1.0 - c.part;
            parts[usize::from(c.ink)] += c.part;
        }
        let mut before = now.clone();
        let mut ahead = now.clone();
        let mut areas = vec![0.0f32; begin.len() / (s * s) * n];
        // Wholly one ink or the other: the blur is not to be in the covers already.
        for (parts, c) in ahead.chunks_exact_mut(n).zip(begin) {
            parts.fill(0.0);
            parts[usize::from(if c.part < 0.5 { c.other } else { c.ink })] = 1.0;
        }
        self.areas(&ahead, &mut areas);
        // Followed any further, the spread would take wrong labels for blur.
        let spread = SOFTER * self.spread(&areas, &around, 0.0, SPREADS);
        let step = 1.0 / (1.5 + self.seam * (8.0 * SEAM + 2.0 / SEAM));
        for round in 0..ROUNDS {
            stop.check()?;
            if REFIT.contains(&round) {
                self.areas(&now, &mut areas);
                self.refit(&areas, spread);
            }
            let momentum = round as f32 / (round as f32 + 3.0);
            let row = w * s * s * n;
            ahead
                .par_chunks_mut(row)
                .zip(now.par_chunks(row).zip(before.par_chunks(row)))
                .for_each(|(ahead, (now, before))| {
                    for ((a, n), b) in ahead.iter_mut().zip(now).zip(before) {
                        *a = n + momentum * (n - b);
                    }
                });
            self.areas(&ahead, &mut areas);
            let off = self.difference(&areas, &around, spread);
            self.descend(&ahead, &off, &around, step, &mut before);
            std::mem::swap(&mut now, &mut before);
        }
        self.areas(&now, &mut areas);
        Ok(Covers {
            rough: self.far(&areas, &around, spread),
            inks: n,
            parts: now,
        })
    }

    /// The inks around every pixel.
    fn around(&self, begin: &[Cover]) -> Around {
        let ((w, h), s) = (self.size(), self.scale);
        let own: Vec<u32> = (0..w * h)
            .into_par_iter()
            .map(|i| {
                let (x, y) = (i % w * s, i / w * s);
                let rows = y..y + s;
                rows.flat_map(|y| &begin[y * w * s + x..y * w * s + x + s])
                    .fold(0, |bits, c| {
                        let held = |ink: u8, part: f32| u32::from(part > HELD) << (ink & 31);
                        bits | held(c.ink, c.part) | held(c.other, 1.0 - c.part)
                    })
            })
            .collect();
        let inks: Vec<u32> = (0..w * h)
            .into_par_iter()
            .map(|i| {
                let (x, y) = (i % w, i / w);
                let columns = x.saturating_sub(AROUND)..(x + AROUND + 1).min(w);
                let rows = y.saturating_sub(AROUND)..(y + AROUND + 1).min(h);
                rows.flat_map(|y| &own[y * w + columns.start..y * w + columns.end])
                    .fold(0, |bits, own| bits | own)
            })
            .collect();
        let weight = inks.par_iter().map(|&bits| self.weight(bits)).collect();
        Around { inks, weight }
    }

    /// One over the squared contrast of the inks whose bits are set.
    fn weight(&self, bits: u32) -> f32 {
        let own: Vec<usize> = (0..self.inks.len())
            .filter(|k| bits >> k & 1 == 1)
            .collect();
        let mut most = LEAST_CONTRAST * LEAST_CONTRAST;
        for (n, &a) in own.iter().enumerate() {
            for &b in &own[n + 1..] {
                let pairs = self.inks[a].iter().zip(&self.inks[b]);
                most = most.max(pairs.map(|(a, b)| (a - b) * (a - b)).sum());
            }
        }
        1.0 / most
    }

    /// The area of every ink in every pixel.
    fn areas(&self, covers: &[f32], areas: &mut [f32]) {
        let ((w, _), s, n) = (self.size(), self.scale, self.inks.len());
        let part = 1.0 / (s * s) as f32;
        areas
            .par_chunks_mut(w * n)
            .zip(covers.par_chunks(w * s * s * n))
            .for_each(|(areas, covers)| {
                areas.fill(0.0);
                for row in covers.chunks_exact(w * s * n) {
                    for (area, own) in areas.chunks_exact_mut(n).zip(row.chunks_exact(s * n)) {
                        for parts in own.chunks_exact(n) {
                            for (a, p) in area.iter_mut().zip(parts) {
                                *a += p * part;
                            }
                        }
                    }
                }
            });
    }

    /// What the picture would look like.
    fn painted(&self, areas: &[f32], spread: f64) -> [Plane; 3] {
        let ((width, height), n) = (self.size(), self.inks.len());
        std::array::from_fn(|c| {
            let mix = |parts: &[f32]| {
                parts
                    .iter()
                    .zip(&self.inks)
                    .map(|(p, ink)| p * ink[c])
                    .sum()
            };
            let values = areas.par_chunks_exact(n).map(mix).collect();
            let plane = Plane {
                width,
                height,
                values,
            };
            plane.blurred(self.spread_of(c, spread))
        })
    }

    /// The spread of some from `first` on with which what is painted comes nearest to what is seen.
    fn spread(&self, areas: &[f32], around: &Around, first: f64, count: usize) -> f64 {
        let tried = (0..count).map(|k| first + SPREAD_STEP * k as f64);
        let found: Vec<(f64, f64)> = tried
            .map(|spread| (self.far(areas, around, spread), spread))
            .collect();
        let best = found.into_iter().min_by(|a, b| a.0.total_cmp(&b.0));
        best.map_or(0.0, |b| b.1)
    }

    /// How far what is painted lies from what is seen where inks meet, root mean square, as a part of
    /// their contrast.
    fn far(&self, areas: &[f32], around: &Around, spread: f64) -> f64 {
        let painted = self.painted(areas, spread);
        let (mut sum, mut count) = (0.0, 0u32);
        for (painted, seen) in painted.iter().zip(&self.seen) {
            let pairs = painted.values.iter().zip(&seen.values);
            for ((p, s), (weight, inks)) in pairs.zip(around.weight.iter().zip(&around.inks)) {
                if inks.count_ones() > 1 {
                    sum += f64::from((p - s) * (p - s) * weight);
                    count += 1;
                }
            }
        }
        (3.0 * sum / f64::from(count.max(1))).sqrt()
    }

    /// Inks by least squares over all pixels, held to what they were.
    fn refit(&mut self, areas: &[f32], spread: f64) {
        let ((width, height), n) = (self.size(), self.inks.len());
        for c in 0..3 {
            let planes: Vec<Plane> = (0..n)
                .map(|k| {
                    let values = areas.iter().skip(k).step_by(n).copied().collect();
                    Plane {
                        width,
                        height,
                        values,
                    }
                    .blurred(self.spread_of(c, spread))
                })
                .collect();
            let dot = |a: &[f32], b: &[f32]| -> f64 {
                a.iter().zip(b).map(|(a, b)| f64::from(a * b)).sum()
            };
            let mut normal = vec![0.0; n * n];
            let mut right = vec![0.0; n];
            for i in 0..n {
                for j in 0..n {
                    normal[i * n + j] = dot(&planes[i].values, &planes[j].values);
                }
                right[i] = dot(&planes[i].values, &self.seen[c].values);
            }
            let mut ink: Vec<f64> = self.inks.iter().map(|v| f64::from(v[c])).collect();
            let first = ink.clone();
            for _ in 0..SWEEPS {
                for i in 0..n {
                    let held = HELD_TO * normal[i * n + i].max(1e-6);
                    let rest: f64 = (0..n)
                        .filter(|&j| j != i)
                        .map(|j| normal[i * n + j] * ink[j])
                        .sum();
                    ink[i] =
                        (right[i] - rest + held * first[i]) / (normal[i * n + i] + held).max(1e-6);
                }
            }
            for (to, v) in self.inks.iter_mut().zip(ink) {
                to[c] = (v as f32).clamp(to[c] - MOST_MOVED, to[c] + MOST_MOVED);
            }
        }
    }

    /// How far what is painted lies from what is seen, blurred back and weighed.
    fn difference(&self, areas: &[f32], around: &Around, spread: f64) -> [Plane; 3] {
        let mut painted = self.painted(areas, spread);
        for (painted, seen) in painted.iter_mut().zip(&self.seen) {
            let pairs = painted.values.iter_mut().zip(&seen.values);
            for ((p, s), weight) in pairs.zip(&around.weight) {
                *p = (*p - s) * weight;
            }
        }
        std::array::from_fn(|c| painted[c].blurred(self.spread_of(c, spread)))
    }

    /// One step down for every cover, and back to covers that add up to 1.
    fn descend(
        &self,
        ahead: &[f32],
        off: &[Plane; 3],
        around: &Around,
        step: f32,
        next: &mut [f32],
    ) {
        let ((w, h), s, n) = (self.size(), self.scale, self.inks.len());
        let (width, seam) = (w * s, self.seam);
        let line = width * n;
        next.par_chunks_mut(line * s)
            .enumerate()
            .for_each(|(y, next)| {
                let mut pulls = [0.0f32; 32];
                let mut own = [(0usize, 0.0f32); 32];
                for x in 0..w {
                    let at = y * w + x;
                    let bits = around.inks[at];
                    if bits.count_ones() < 2 {
                        continue;
                    }
                    let count = (0..n).filter(|k| bits >> k & 1 == 1).fold(0, |m, k| {
                        own[m].0 = k;
                        m + 1
                    });
                    for (to, ink) in pulls.iter_mut().zip(&self.inks) {
                        let pull = off.iter().zip(ink).map(|(off, v)| off.values[at] * v);
                        *to = 2.0 * pull.sum::<f32>();
                    }
                    for row in 0..s {
                        let fine = y * s + row;
                        let here = &ahead[fine * line..(fine + 1) * line];
                        let up = fine.saturating_sub(1) * line;
                        let down = (fine + 1).min(h * s - 1) * line;
                        for column in x * s..(x + 1) * s {
                            let i = column * n;
                            let left = column.saturating_sub(1) * n;
                            let right = (column + 1).min(width - 1) * n;
                            for (k, value) in &mut own[..count] {
                                let u = here[i + *k];
                                let bend = here[left + *k]
                                    + here[right + *k]
                                    + ahead[up + i + *k]
                                    + ahead[down + i + *k]
                                    - 4.0 * u;
                                let well = 4.0 / SEAM * u * (1.0 - u) * (1.0 - 2.0 * u);
                                *value = u - step * (pulls[*k] + seam * (well - SEAM * bend));
                            }
                            let out = &mut next[row * line + i..row * line + i + n];
                            project(&mut own[..count]);
                            for &(k, value) in &own[..count] {
                                out[k] = value;
                            }
                        }
                    }
                }
            });
    }
}

/// Moves values to the nearest ones that are not negative and add up to 1.
fn project(values: &mut [(usize, f32)]) {
    if let [(_, a), (_, b)] = values {
        let part = (0.5 * (*a - *b + 1.0)).clamp(0.0, 1.0);
        (*a, *b) = (part, 1.0 - part);
        return;
    }
    let mut sum: f32 = values.iter().map(|v| v.1).sum();
    let mut count = values.len() as f32;
    // Those that would become negative drop out, until none does.
    let mut out = [false; 32];
    loop {
        let less = (sum - 1.0) / count;
        let mut changed = false;
        for (value, out) in values.iter().zip(&mut out) {
            if !*out && value.1 < less {
                *out = true;
                sum -= value.1;
                count -= 1.0;
                changed = true;
            }
        }
        if !changed || count < 1.0 {
            for (value, out) in values.iter_mut().zip(out) {
                value.1 = if out { 0.0 } else { value.1 - less };
            }
            return;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn covers_are_moved_to_the_nearest_that_add_up_to_one() {
        let mut three = [(0, 0.9), (1, 0.5), (2, -0.3)];
        project(&mut three);
        for (found, wanted) in three.iter().zip([0.7, 0.3, 0.0]) {
            assert!((found.1 - wanted).abs() < 1e-6, "{three:?}");
        }
        let mut two = [(0, 2.0), (1, 0.1)];
        project(&mut two);
        assert!((two[0].1 - 1.0).abs() < 1e-6 && two[1].1.abs() < 1e-6);
    }
}
