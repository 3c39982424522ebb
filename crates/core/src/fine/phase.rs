//! Phase: which parts of a picture are ink, finer than its pixels, by painting them again.
//!
//! ```text
//!   cover u, so many times as fine      what it would look like       what is seen
//!   ░░▓▓▓▓░░  each 0 or 1 but for  ──►  area in each pixel, blurred ──►  compared: the difference
//!   ░░▓▓▓▓░░  a thin seam               by the picture's softness        moves the seam
//! ```
//!
//! Sought is the cover that explains the picture, is ink or ground nearly everywhere, and has no
//! more seam than it needs: the least of
//!
//!   Σ (blur(area u) − seen / amount)² + λ Σ (ε/2 |∇u|² + 2/ε u² (1 − u)²)
//!
//! So a stroke narrower than the blur, whose pixels never come near full ink, gets the width that
//! its coverage adds up to. The *amount* (how much darker full ink is than the ground) and the
//! *spread* (the picture's softness) are found on the way, from the same comparison: strokes that
//! are taken for too light come out too wide for their own profile.
//!
//! In: a plane of what is seen, 0 at the ground. Out: [`Solved`], `scale` times as fine.
//! Only places near edges are worked on, and not those that have come to rest. Deterministic: rows are independent of each other.
//! Sources: Modica & Mortola 1977 (the seam's energy), Nesterov 1983 (the momentum); the model of
//! a pixel's area as in Trujillo-Pino et al. 2013.

use rayon::prelude::*;

use crate::fine::plane::Plane;
use crate::fine::rest::{LONGEST, Still};
use crate::fine::seam::{SEAM, Stretch, add_areas};
use crate::stop::{Stop, Stopped};

/// Rounds of descent.
pub(super) const ROUNDS: usize = 48;
/// Rounds at which a part of what is still unexplained is added to what is sought, in a picture softer
/// than this, px: the seam's price narrows thin strokes, and this takes it back (Osher et al. 2005, "An
/// iterative regularization method", Multiscale Model. Simul. 4(2) 460–489).
const ADD_BACK: [usize; 2] = [20, 32];
const ADDED: f32 = 0.5;
const SOFT: f64 = 0.3;
/// Every so many rounds amount and spread are looked at again.
const LOOK: usize = 4;
/// Steps in which the spread is sought, px, and the range it lies in.
const SPREAD_STEP: f64 = 0.12;
const SPREADS: std::ops::RangeInclusive<f64> = 0.0..=3.0;
/// The amount goes on by this much more than a round asks for: it follows slowly.
const FURTHER: f64 = 1.6;
/// A pixel that differs by less than this from its surroundings lies in a flat place, beside the grain.
const FLAT: f32 = 0.04;
/// Pixels around an edge that are worked on.
const AROUND: usize = 2;

/// What is known before.
#[derive(Clone, Copy, Debug)]
pub(super) struct Given {
    /// Fine steps in a pixel.
    pub scale: usize,
    /// How much full ink differs from the ground, to begin with.
    pub amount: f64,
    /// Whether it is sought on the way.
    pub free: bool,
    /// The most it can.
    pub most: f64,
    /// Standard deviation of the picture's softness, px, to begin with.
    pub spread: f64,
    /// Grain, on the scale of what is seen.
    pub grain: f64,
    /// Rounds of descent.
    pub rounds: usize,
    /// Weight of the seam.
    pub seam: f32,
    /// Blur within which differences are averaged before they count, px: for pictures whose pixels
    /// were rounded to one tone or the other.
    pub rounded: f64,
}

/// The cover found.
pub(super) struct Solved {
    /// Part of ink, 0 to 1, `scale` times as fine as what was seen.
    pub cover: Plane,
    /// How much full ink differs from the ground.
    pub amount: f64,
    /// Standard deviation of the picture's softness, px.
    pub spread: f64,
    /// What the cover leaves unexplained at edges, root mean square, as a part of the amount.
    pub rough: f64,
    /// What is left of the energy, for comparison with other starts on the same picture.
    pub energy: f64,
}

/// Places that are worked on: for each row of pixels the stretches of it.
struct Work {
    stretches: Vec<Vec<(usize, usize)>>,
    /// For every stretch the rounds in which nothing changed.
    still: Vec<Vec<Still>>,
}

/// A cover on its way down: what it is, and where it is heading.
struct Descent {
    now: Plane,
    ahead: Plane,
    /// Where it will be heading after this round.
    next: Plane,
    /// The area of ink in each pixel where it is heading.
    area: Plane,
}

/// Finds the cover that explains `seen`.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(super) fn solve(seen: &Plane, given: Given, stop: &Stop) -> Result<Solved, Stopped> {
    let Given { scale: s, .. } = given;
    let mut work = Work::of(seen, given);
    let (mut amount, mut spread) = (given.amount, given.spread);
    let begin = |v: f32| (v / amount as f32).clamp(0.0, 1.0);
    let mut now = seen.enlarged(s).map(begin);
    work.settle(&mut now, seen, s, amount as f32);
    let mut descent = Descent {
        area: now.binned(s),
        ahead: now.clone(),
        next: now.clone(),
        now,
    };
    let mut target = seen.clone();
    let step = 1.0 / (1.0 + given.seam * (8.0 * SEAM + 2.0 / SEAM));
    for round in 0..given.rounds {
        if round % LOOK == 0 {
            stop.check()?;
        }
        let mut painted = descent.area.blurred(spread);
        if round % LOOK == LOOK - 1 {
            (spread, painted) = sharper(&descent.area, painted, seen, amount, spread);
            if given.free {
                amount = fuller(&painted, seen, amount, given.most);
            }
        }
        if ADD_BACK.contains(&round) && spread > SOFT {
            for ((t, s), p) in target
                .values
                .iter_mut()
                .zip(&seen.values)
                .zip(&painted.values)
            {
                *t += ADDED * (s - p * amount as f32);
            }
        }
        let off = difference(&painted, &target, amount as f32, given.rounded);
        let off = off.blurred(spread);
        // That of the next round.
        let momentum = (round + 1) as f32 / (round + 4) as f32;
        work.descend(&mut descent, &off, (step, given.seam), momentum, s);
    }
    let now = descent.now;
    let painted = now.binned(s).blurred(spread);
    let energy = energy(&now, &painted, seen, amount, f64::from(given.seam), s);
    Ok(Solved {
        cover: now,
        amount,
        spread,
        rough: work.rough(&painted, seen, amount),
        energy,
    })
}

/// What a cover costs: how far it is from explaining what is seen, and its seam.
fn energy(now: &Plane, painted: &Plane, seen: &Plane, amount: f64, seam: f64, s: usize) -> f64 {
    let pairs = painted.values.iter().zip(&seen.values);
    let far: f64 = pairs
        .map(|(&p, &v)| (f64::from(p) - f64::from(v) / amount).powi(2))
        .sum();
    let mut length = 0.0;
    for y in 0..now.height {
        let row = now.row(y);
        let below = now.row((y + 1).min(now.height - 1));
        for (x, &u) in row.iter().enumerate() {
            let right = row[(x + 1).min(now.width - 1)];
            let rise = (right - u).powi(2) + (below[x] - u).powi(2);
            let well = (u * (1.0 - u)).powi(2);
            length += f64::from(SEAM / 2.0 * rise + 2.0 / SEAM * well);
        }
    }
    far / 2.0 + seam * length / (s * s) as f64
}

/// Part of full ink from which a pixel is full.
const FULL: f32 = 0.85;
/// Strokes are thin where less than this part of the ink lies a pixel or more inside them.
const INSIDE: f64 = 0.6;

/// Whether most of the ink lies in strokes of a few pixels.
pub(super) fn is_thin(seen: &Plane, amount: f64) -> bool {
    let (w, h) = (seen.width, seen.height);
    let full = FULL * amount as f32;
    let (mut inside, mut all) = (0.0, 0.0);
    for y in 1..h.saturating_sub(1) {
        let rows = [seen.row(y - 1), seen.row(y), seen.row(y + 1)];
        for x in 1..w.saturating_sub(1) {
            all += f64::from(rows[1][x].max(0.0)) / amount;
            let whole = rows
                .iter()
                .all(|r| r[x - 1..=x + 1].iter().all(|&v| v > full));
            inside += f64::from(u8::from(whole));
        }
    }
    inside < INSIDE * all
}

/// Parts of full ink between which a pixel is a mix, the least share of edges that have one, and
/// the fewest different mixes of a soft edge.
const MIXED: std::ops::Range<f32> = 0.15..0.85;
const LEAST_MIXED: f64 = 0.1;
const FEWEST_MIXES: usize = 6;

/// Whether pixels are one tone or the other, or were rounded to a few tones: edges are steps.
pub(super) fn is_hard(seen: &Plane, amount: f64) -> bool {
    let part = |v: f32| v / amount as f32;
    let (mut mixed, mut mixes) = (0usize, [false; 256]);
    for v in seen.values.iter().filter(|v| MIXED.contains(&part(**v))) {
        mixed += 1;
        mixes[(part(*v) * 255.0) as usize] = true;
    }
    let steps: usize = (0..seen.height)
        .map(|y| {
            let pairs = seen.row(y).windows(2);
            pairs
                .filter(|p| (part(p[0]) > 0.5) != (part(p[1]) > 0.5))
                .count()
        })
        .sum();
    let different = mixes.iter().filter(|m| **m).count();
    (mixed as f64) < LEAST_MIXED * steps as f64 || different < FEWEST_MIXES
}

/// How far what is painted lies from what is seen.
fn difference(painted: &Plane, seen: &Plane, amount: f32, rounded: f64) -> Plane {
    let pairs = painted.values.iter().zip(&seen.values);
    let off = Plane {
        values: pairs.map(|(p, s)| p - s / amount).collect(),
        ..*painted
    };
    if rounded > 0.0 {
        off.blurred(rounded).blurred(rounded)
    } else {
        off
    }
}

/// The amount for which what is painted comes nearest to what is seen, by least squares.
fn fuller(painted: &Plane, seen: &Plane, amount: f64, most: f64) -> f64 {
    let (mut cross, mut square) = (0.0, 0.0);
    for (&p, &s) in painted.values.iter().zip(&seen.values) {
        cross += f64::from(p) * f64::from(s);
        square += f64::from(p) * f64::from(p);
    }
    if square <= 0.0 {
        return amount;
    }
    let wanted = cross / square;
    (amount + FURTHER * (wanted - amount)).clamp(0.2 * most, most)
}

/// The spread beside the one in force with which what is painted comes nearest to what is seen, and
/// what is painted with it.
fn sharper(area: &Plane, painted: Plane, seen: &Plane, amount: f64, spread: f64) -> (f64, Plane) {
    let far = |painted: &Plane| -> f64 {
        let pairs = painted.values.iter().zip(&seen.values);
        pairs
            .map(|(&p, &s)| (f64::from(p) - f64::from(s) / amount).powi(2))
            .sum()
    };
    let mut best = (far(&painted), spread, painted);
    for other in [spread - SPREAD_STEP, spread + SPREAD_STEP] {
        if !SPREADS.contains(&other) {
            continue;
        }
        let painted = area.blurred(other);
        let off = far(&painted);
        if off < best.0 {
            best = (off, other, painted);
        }
    }
    (best.1, best.2)
}

impl Work {
    /// Everything but flat places.
    fn of(seen: &Plane, given: Given) -> Self {
        let (w, h) = (seen.width, seen.height);
        let flat = (FLAT * given.amount as f32).max(4.0 * given.grain as f32);
        let edge: Vec<bool> = (0..w * h)
            .into_par_iter()
            .map(|i| {
                let (x, y) = (i % w, i / w);
                let colour = seen.values[i];
                let right = if x + 1 < w {
                    seen.values[i + 1]
                } else {
                    colour
                };
                let down = if y + 1 < h {
                    seen.values[i + w]
                } else {
                    colour
                };
                let part = colour / given.amount as f32;
                (right - colour).abs() > flat
                    || (down - colour).abs() > flat
                    || (0.25..0.75).contains(&part)
            })
            .collect();
        let stretches = (0..h)
            .into_par_iter()
            .map(|y| {
                let rows = y.saturating_sub(AROUND)..(y + AROUND + 1).min(h);
                let mut near = vec![false; w];
                for row in rows {
                    for x in 0..w {
                        if edge[row * w + x] {
                            near[x.saturating_sub(AROUND)..(x + AROUND + 1).min(w)].fill(true);
                        }
                    }
                }
                let mut found = Vec::new();
                let mut x = 0;
                while x < w {
                    let from = x;
                    while x < w && near[x] {
                        x += 1;
                    }
                    for from in (from..x).step_by(LONGEST) {
                        found.push((from, x.min(from + LONGEST)));
                    }
                    x += 1;
                }
                found
            })
            .collect::<Vec<Vec<_>>>();
        let still = stretches
            .iter()
            .map(|row| vec![Still::default(); row.len()]);
        Self {
            still: still.collect(),
            stretches,
        }
    }

    /// Makes everything beside it wholly ink or wholly ground.
    fn settle(&self, cover: &mut Plane, seen: &Plane, s: usize, amount: f32) {
        let width = cover.width;
        cover
            .values
            .par_chunks_mut(width * s)
            .zip(&self.stretches)
            .enumerate()
            .for_each(|(y, (rows, stretches))| {
                let seen = seen.row(y);
                for row in rows.chunks_mut(width) {
                    let mut from = 0;
                    for &(start, end) in stretches.iter().chain([&(seen.len(), seen.len())]) {
                        for x in from..start {
                            let whole = f32::from(u8::from(seen[x] > 0.5 * amount));
                            row[x * s..(x + 1) * s].fill(whole);
                        }
                        from = end;
                    }
                }
            });
    }

    /// How far what is painted lies from what is seen in these places, root mean square.
    fn rough(&self, painted: &Plane, seen: &Plane, amount: f64) -> f64 {
        let (mut sum, mut count) = (0.0, 0u32);
        for (y, stretches) in self.stretches.iter().enumerate() {
            for &(start, end) in stretches {
                let pairs = painted.row(y)[start..end]
                    .iter()
                    .zip(&seen.row(y)[start..end]);
                for (&p, &s) in pairs {
                    sum += (f64::from(p) - f64::from(s) / amount).powi(2);
                    count += 1;
                }
            }
        }
        (sum / f64::from(count.max(1))).sqrt()
    }

    /// One step down from where the cover is heading.
    fn descend(
        &mut self,
        descent: &mut Descent,
        off: &Plane,
        (step, seam): (f32, f32),
        momentum: f32,
        s: usize,
    ) {
        let (width, height, w) = (descent.now.width, descent.now.height, off.width);
        let now = descent.now.values.par_chunks_mut(width * s);
        let next = descent.next.values.par_chunks_mut(width * s);
        let rows = now.zip(next).zip(descent.area.values.par_chunks_mut(w));
        let places = self.stretches.par_iter().zip(&mut self.still);
        let ahead = &descent.ahead;
        let part = 1.0 / (s * s) as f32;
        rows.zip(places).enumerate().for_each_init(
            || (vec![0.0; width], vec![0.0; width + 2]),
            |(pull, wide), (y, (((now, next), area), (stretches, still)))| {
                for (&(start, end), still) in stretches.iter().zip(still) {
                    if still.rests() {
                        continue;
                    }
                    let steps = start * s..end * s;
                    let pull = &mut pull[..steps.len()];
                    for (pull, off) in pull.chunks_exact_mut(s).zip(&off.row(y)[start..end]) {
                        pull.fill(*off);
                    }
                    let area = &mut area[start..end];
                    area.fill(0.0);
                    let mut changed = false;
                    for inner in 0..s {
                        let row = y * s + inner;
                        let row_here = ahead.row(row);
                        let wide = &mut wide[..steps.len() + 2];
                        // The outermost steps of a row have a neighbour on one side only.
                        wide[0] = row_here[steps.start.saturating_sub(1)];
                        wide[1..=steps.len()].copy_from_slice(&row_here[steps.clone()]);
                        wide[steps.len() + 1] = row_here[steps.end.min(width - 1)];
                        let stretch = Stretch {
                            own: wide,
                            above: &ahead.row(row.saturating_sub(1))[steps.clone()],
                            below: &ahead.row((row + 1).min(height - 1))[steps.clone()],
                            pull,
                        };
                        let now = &mut now[inner * width..][steps.clone()];
                        let next = &mut next[inner * width..][steps.clone()];
                        stretch.descend(step, seam, next);
                        for (now, next) in now.iter_mut().zip(next.iter_mut()) {
                            let value = next.clamp(0.0, 1.0);
                            let change = value - *now;
                            changed |= change != 0.0;
                            *next = value + momentum * change;
                            *now = value;
                        }
                        add_areas(area, next, s, part);
                    }
                    still.after(changed);
                }
            },
        );
        std::mem::swap(&mut descent.ahead, &mut descent.next);
    }
}
