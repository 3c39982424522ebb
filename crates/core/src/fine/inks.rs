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
//! values. Out: [`Covers`]. Only pixels with several inks around them are worked on, in stretches of a
//! row around which they are the same.

use std::ops::Range;

use rayon::prelude::*;

use crate::fine::plane::Plane;
use crate::fine::seam::{SEAM, Stretch};
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
    /// Fine steps across.
    pub width: usize,
    /// Part of every ink, 0 to 1: every row of steps holds a line for each ink.
    pub lines: Vec<f32>,
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
    /// For each row of pixels the stretches with the same inks around them, more than one.
    open: Vec<Vec<Open>>,
}

/// A stretch of a row of pixels with several inks around it.
struct Open {
    pixels: Range<usize>,
    inks: Vec<usize>,
}

/// Covers on their way down: what they are, and where they are heading.
struct Descent {
    now: Vec<f32>,
    ahead: Vec<f32>,
    /// Where they will be heading after this round.
    next: Vec<f32>,
    /// The colours of every pixel where they are heading.
    mixed: [Plane; 3],
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
        let around = self.around(begin);
        let now = self.lines(begin, &around, |c| c.part);
        // Wholly one ink or the other: the blur is not to be in the covers already.
        let whole = self.lines(begin, &around, |c| if c.part < 0.5 { 0.0 } else { 1.0 });
        // Followed any further, the spread would take wrong labels for blur.
        let spread = SOFTER * self.spread(&self.mixed(&self.areas(&whole)), &around);
        drop(whole);
        let mut descent = Descent {
            ahead: now.clone(),
            next: now.clone(),
            mixed: self.mixed(&self.areas(&now)),
            now,
        };
        for round in 0..ROUNDS {
            stop.check()?;
            if REFIT.contains(&round) {
                self.refit(&self.areas(&descent.now), spread);
                descent.mixed = self.mixed(&self.areas(&descent.ahead));
            }
            let off = self.difference(&descent.mixed, &around, spread);
            // That of the next round.
            let momentum = (round + 1) as f32 / (round + 4) as f32;
            self.descend(&mut descent, &off, &around, momentum);
        }
        let mixed = self.mixed(&self.areas(&descent.now));
        Ok(Covers {
            rough: self.far(&mixed, &around, spread),
            inks: self.inks.len(),
            width: self.size().0 * self.scale,
            lines: descent.now,
        })
    }

    /// Covers to begin with; a step holds only inks that may be there.
    fn lines(
        &self,
        begin: &[Cover],
        around: &Around,
        part: impl Fn(&Cover) -> f32 + Sync,
    ) -> Vec<f32> {
        let ((w, _), s, n) = (self.size(), self.scale, self.inks.len());
        let width = w * s;
        let mut lines = vec![0.0f32; begin.len() * n];
        let rows = lines.par_chunks_mut(width * n).zip(begin.par_chunks(width));
        rows.enumerate().for_each(|(y, (lines, begin))| {
            let inks = &around.inks[y / s * w..][..w];
            for (x, c) in begin.iter().enumerate() {
                let [own, other] = [c.ink, c.other].map(|k| inks[x / s] >> (k & 31) & 1 == 1);
                let part = match (own, other) {
                    (true, true) => part(c),
                    (own, _) => f32::from(u8::from(own)),
                };
                // Both may be the same.
                lines[usize::from(c.other) * width + x] = 1.0 - part;
                lines[usize::from(c.ink) * width + x] += part;
            }
        });
        lines
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
        let open = inks.par_chunks(w).map(|row| self.open(row)).collect();
        Around { inks, weight, open }
    }

    /// The stretches of a row of pixels with several inks around them.
    fn open(&self, row: &[u32]) -> Vec<Open> {
        let mut from = 0;
        let alike = row.chunk_by(|a, b| a == b).map(|alike| {
            from += alike.len();
            (alike[0], from - alike.len()..from)
        });
        let several = alike.filter(|(bits, _)| bits.count_ones() > 1);
        several
            .map(|(bits, pixels)| Open {
                pixels,
                inks: (0..self.inks.len())
                    .filter(|k| bits >> k & 1 == 1)
                    .collect(),
            })
            .collect()
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
    fn areas(&self, lines: &[f32]) -> Vec<Plane> {
        let ((w, h), s, n) = (self.size(), self.scale, self.inks.len());
        let part = 1.0 / (s * s) as f32;
        let of = |ink: usize| {
            let mut area = Plane::filled(w, h, 0.0);
            let rows = area.values.par_chunks_mut(w);
            rows.zip(lines.par_chunks(w * s * s * n))
                .for_each(|(area, lines)| {
                    for line in lines.chunks_exact(w * s).skip(ink).step_by(n) {
                        add_areas(area, line, s, part);
                    }
                });
            area
        };
        (0..n).map(of).collect()
    }

    /// The colour of every pixel, with edges as sharp as they are.
    fn mixed(&self, areas: &[Plane]) -> [Plane; 3] {
        let (w, h) = self.size();
        std::array::from_fn(|c| {
            let mut mixed = Plane::filled(w, h, 0.0);
            for (area, ink) in areas.iter().zip(&self.inks) {
                for (to, a) in mixed.values.iter_mut().zip(&area.values) {
                    *to += a * ink[c];
                }
            }
            mixed
        })
    }

    /// What the picture would look like.
    fn painted(&self, mixed: &[Plane; 3], spread: f64) -> [Plane; 3] {
        std::array::from_fn(|c| mixed[c].blurred(self.spread_of(c, spread)))
    }

    /// The spread of some with which what is painted comes nearest to what is seen.
    fn spread(&self, mixed: &[Plane; 3], around: &Around) -> f64 {
        let tried = (0..SPREADS).map(|k| SPREAD_STEP * k as f64);
        let found = tried.map(|spread| (self.far(mixed, around, spread), spread));
        let best = found.min_by(|a, b| a.0.total_cmp(&b.0));
        best.map_or(0.0, |b| b.1)
    }

    /// How far what is painted lies from what is seen where inks meet, root mean square, as a part of
    /// their contrast.
    fn far(&self, mixed: &[Plane; 3], around: &Around, spread: f64) -> f64 {
        let painted = self.painted(mixed, spread);
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
    fn refit(&mut self, areas: &[Plane], spread: f64) {
        let n = self.inks.len();
        for c in 0..3 {
            let spread = self.spread_of(c, spread);
            let planes: Vec<Plane> = areas.iter().map(|area| area.blurred(spread)).collect();
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
    fn difference(&self, mixed: &[Plane; 3], around: &Around, spread: f64) -> [Plane; 3] {
        let mut painted = self.painted(mixed, spread);
        for (painted, seen) in painted.iter_mut().zip(&self.seen) {
            let pairs = painted.values.iter_mut().zip(&seen.values);
            for ((p, s), weight) in pairs.zip(&around.weight) {
                *p = (*p - s) * weight;
            }
        }
        std::array::from_fn(|c| painted[c].blurred(self.spread_of(c, spread)))
    }

    /// One step down for every cover, and back to covers that add up to 1.
    fn descend(&self, descent: &mut Descent, off: &[Plane; 3], around: &Around, momentum: f32) {
        let ((w, _), s, n) = (self.size(), self.scale, self.inks.len());
        let [luma, blue, red] = &mut descent.mixed;
        let mixed = luma
            .values
            .par_chunks_mut(w)
            .zip(blue.values.par_chunks_mut(w))
            .zip(red.values.par_chunks_mut(w));
        let row = w * s * s * n;
        let ahead = &descent.ahead;
        descent
            .now
            .par_chunks_mut(row)
            .zip(descent.next.par_chunks_mut(row))
            .zip(mixed)
            .zip(&around.open)
            .enumerate()
            .for_each(|(y, (((now, next), ((luma, blue), red)), open))| {
                let mut row = Row {
                    y,
                    ahead,
                    now,
                    next,
                    mixed: [luma, blue, red],
                };
                let mut room = Room::default();
                for open in open {
                    self.descend_stretch(&mut row, open, off, momentum, &mut room);
                }
            });
        std::mem::swap(&mut descent.ahead, &mut descent.next);
    }

    /// The same for one stretch.
    fn descend_stretch(
        &self,
        row: &mut Row,
        open: &Open,
        off: &[Plane; 3],
        momentum: f32,
        room: &mut Room,
    ) {
        let ((w, h), s, n) = (self.size(), self.scale, self.inks.len());
        let width = w * s;
        let steps = open.pixels.start * s..open.pixels.end * s;
        room.clear(open.inks.len(), open.pixels.len(), s);
        for (pulls, &k) in room.pulls.iter_mut().zip(&open.inks) {
            let ink = &self.inks[k];
            for x in open.pixels.clone() {
                let at = row.y * w + x;
                let pull: f32 = off.iter().zip(ink).map(|(off, v)| off.values[at] * v).sum();
                pulls.extend(std::iter::repeat_n(2.0 * pull, s));
            }
        }
        let step = 1.0 / (1.5 + self.seam * (8.0 * SEAM + 2.0 / SEAM));
        let part = 1.0 / (s * s) as f32;
        for inner in 0..s {
            let fine = row.y * s + inner;
            let line = |y: usize, k: usize| &row.ahead[(y * n + k) * width..][..width];
            for ((values, pull), &k) in room.values.iter_mut().zip(&room.pulls).zip(&open.inks) {
                let stretch = Stretch {
                    own: line(fine, k),
                    above: line(fine.saturating_sub(1), k),
                    below: line((fine + 1).min(h * s - 1), k),
                    steps: steps.clone(),
                    pull,
                };
                stretch.descend(step, self.seam, values);
            }
            project(&mut room.values, &mut room.less);
            for ((values, areas), &k) in room.values.iter().zip(&mut room.areas).zip(&open.inks) {
                let at = (inner * n + k) * width;
                let (now, next) = (
                    &mut row.now[at..][steps.clone()],
                    &mut row.next[at..][steps.clone()],
                );
                for ((now, next), value) in now.iter_mut().zip(next.iter_mut()).zip(values) {
                    *next = value + momentum * (value - *now);
                    *now = *value;
                }
                add_areas(areas, next, s, part);
            }
        }
        for (c, mixed) in row.mixed.iter_mut().enumerate() {
            let mixed = &mut mixed[open.pixels.clone()];
            mixed.fill(0.0);
            for (areas, &k) in room.areas.iter().zip(&open.inks) {
                for (to, a) in mixed.iter_mut().zip(areas) {
                    *to += a * self.inks[k][c];
                }
            }
        }
    }
}

/// A row of pixels on its way down.
struct Row<'a> {
    y: usize,
    ahead: &'a [f32],
    now: &'a mut [f32],
    next: &'a mut [f32],
    mixed: [&'a mut [f32]; 3],
}

/// Room to work in, by the inks of a stretch.
#[derive(Default)]
struct Room {
    /// What pulls at a step, and what a step becomes.
    pulls: Vec<Vec<f32>>,
    values: Vec<Vec<f32>>,
    /// The area in every pixel.
    areas: Vec<Vec<f32>>,
    /// How much less all become to add up to 1.
    less: Vec<f32>,
}

impl Room {
    fn clear(&mut self, inks: usize, pixels: usize, scale: usize) {
        for all in [&mut self.pulls, &mut self.values, &mut self.areas] {
            all.resize_with(inks, Vec::new);
            all.iter_mut().for_each(Vec::clear);
        }
        for values in &mut self.values {
            values.resize(pixels * scale, 0.0);
        }
        for areas in &mut self.areas {
            areas.resize(pixels, 0.0);
        }
    }
}

/// Adds to the areas of pixels what a line holds of each.
fn add_areas(areas: &mut [f32], line: &[f32], scale: usize, part: f32) {
    for (area, steps) in areas.iter_mut().zip(line.chunks_exact(scale)) {
        *area += steps.iter().sum::<f32>() * part;
    }
}

/// Moves the values of several inks at each step to the nearest ones that are not negative and add up
/// to 1 (Michelot 1986, "A finite algorithm for finding the projection of a point onto the canonical
/// simplex of Rⁿ", J. Optim. Theory Appl. 50(1) 195–200).
fn project(values: &mut [Vec<f32>], less: &mut Vec<f32>) {
    if let [a, b] = values {
        for (a, b) in a.iter_mut().zip(b) {
            let part = (0.5 * (*a - *b + 1.0)).clamp(0.0, 1.0);
            (*a, *b) = (part, 1.0 - part);
        }
        return;
    }
    less.clear();
    less.resize(values.first().map_or(0, Vec::len), f32::NEG_INFINITY);
    // Those that would become negative drop out: at most all but one.
    const AT_ONCE: usize = 32;
    for from in (0..less.len()).step_by(AT_ONCE) {
        let to = (from + AT_ONCE).min(less.len());
        let less = &mut less[from..to];
        for _ in 0..values.len() {
            let (mut sums, mut counts) = ([0.0f32; AT_ONCE], [0.0f32; AT_ONCE]);
            for own in values.iter() {
                let sums = sums.iter_mut().zip(&mut counts);
                for ((v, less), (sum, count)) in own[from..to].iter().zip(&*less).zip(sums) {
                    let there = f32::from(u8::from(v >= less));
                    *sum += there * v;
                    *count += there;
                }
            }
            for ((less, sum), count) in less.iter_mut().zip(sums).zip(counts) {
                *less = (sum - 1.0) / count;
            }
        }
        for own in values.iter_mut() {
            for (v, less) in own[from..to].iter_mut().zip(&*less) {
                *v = (*v - less).max(0.0);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn covers_are_moved_to_the_nearest_that_add_up_to_one() {
        let mut less = Vec::new();
        let mut three = [vec![0.9, 2.0], vec![0.5, 0.0], vec![-0.3, -1.0]];
        project(&mut three, &mut less);
        for (found, wanted) in three.iter().zip([[0.7, 1.0], [0.3, 0.0], [0.0, 0.0]]) {
            let off = found.iter().zip(wanted).map(|(f, w)| (f - w).abs());
            assert!(off.fold(0.0, f32::max) < 1e-6, "{three:?}");
        }
        let mut two = [vec![2.0], vec![0.1]];
        project(&mut two, &mut less);
        assert!((two[0][0] - 1.0).abs() < 1e-6 && two[1][0].abs() < 1e-6);
    }
}
