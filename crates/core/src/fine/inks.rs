//! Several inks at a finer scale: the same as [`crate::fine::phase`], with a cover for each ink.
//!
//! ```text
//!   covers of all inks, adding up to 1 ──► mixed colours in each pixel, blurred ──► against the picture
//! ```
//!
//! Near an edge only the inks that were found around it have a cover, so half way from red to white
//! never becomes pink. Each step goes down the energy and back to the nearest covers that add up to 1
//! ([`project`]). What is seen counts against the contrast of the inks around, so a faint edge is placed
//! as well as a strong one.
//!
//! In: three planes of the picture's values, first covers so many times as fine, the inks in the same
//! values. Out: [`Covers`]. Worked on are only the stretches of [`crate::fine::open`], and of these not
//! those that have come to rest.

use rayon::prelude::*;

use crate::fine::open::{Cover, Layout, Near, Open, Rows};
use crate::fine::plane::Plane;
use crate::fine::rest::Still;
use crate::fine::seam::{SEAM, Stretch, add_areas};
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
/// Inks closer than this are told apart by this much, in the values that are compared.
const LEAST_CONTRAST: f32 = 12.0;

/// How much of every ink there is at every fine step.
pub(crate) struct Covers {
    layout: Layout,
    rows: Rows,
    /// Fine steps across and down.
    pub size: (usize, usize),
    /// The inks, fitted to what is seen of them.
    pub inks: Vec<Value>,
    /// What the covers leave unexplained where inks meet, root mean square, as a part of the
    /// inks' contrast.
    pub rough: f64,
}

impl Covers {
    /// How much of an ink every step of a row holds, 0 to 1.
    pub(crate) fn line(&self, ink: usize, row: usize) -> Vec<f32> {
        let width = self.size.0;
        let mut line = vec![0.0; width];
        let near = self.layout.first(row, 0);
        self.layout.line(&self.rows, ink, near, 0..width, &mut line);
        line
    }
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

/// Covers on their way down: what they are, and where they are heading.
struct Descent {
    layout: Layout,
    /// What the contrast of the inks around every pixel weighs.
    weight: Vec<f32>,
    now: Rows,
    ahead: Rows,
    /// Where they will be heading after this round.
    next: Rows,
    /// The colours of every pixel where they are heading.
    mixed: [Plane; 3],
    /// For every stretch the rounds in which nothing changed.
    still: Vec<Vec<Still>>,
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
        let (size, s, inks) = (self.size(), self.scale, self.inks.len());
        let layout = Layout::of(begin, size, s, inks);
        let around = layout.around.par_iter();
        let weight: Vec<f32> = around.map(|&bits| self.weight(bits)).collect();
        // Wholly one ink or the other: the blur is not to be in the covers already.
        let whole = layout.covers(begin, |c| if c.part < 0.5 { 0.0 } else { 1.0 });
        let whole = self.mixed(&layout.areas(&whole));
        // Followed any further, the spread would take wrong labels for blur.
        let spread = SOFTER * self.spread(&whole, &layout.around, &weight);
        let now = layout.covers(begin, |c| c.part);
        let mut descent = Descent {
            ahead: now.clone(),
            next: now.clone(),
            mixed: self.mixed(&layout.areas(&now)),
            now,
            still: layout
                .rows
                .iter()
                .map(|row| vec![Still::default(); row.len()])
                .collect(),
            layout,
            weight,
        };
        for round in 0..ROUNDS {
            stop.check()?;
            if REFIT.contains(&round) {
                self.refit(&descent.layout.areas(&descent.now), spread);
                descent.mixed = self.mixed(&descent.layout.areas(&descent.ahead));
            }
            let off = self.difference(&descent.mixed, &descent.weight, spread);
            // That of the next round.
            let momentum = (round + 1) as f32 / (round + 4) as f32;
            self.descend(&mut descent, &off, momentum);
        }
        let Descent {
            layout,
            weight,
            now,
            ..
        } = descent;
        let mixed = self.mixed(&layout.areas(&now));
        Ok(Covers {
            rough: self.far(&mixed, &layout.around, &weight, spread),
            size: (size.0 * s, size.1 * s),
            inks: self.inks,
            rows: now,
            layout,
        })
    }

    /// One over the squared contrast of the inks whose bits are set; nothing where there is only one: what
    /// blur carries there from farther away can move no edge.
    fn weight(&self, bits: u32) -> f32 {
        let chosen: Vec<usize> = (0..self.inks.len())
            .filter(|k| bits >> k & 1 == 1)
            .collect();
        if chosen.len() < 2 {
            return 0.0;
        }
        let mut most = LEAST_CONTRAST * LEAST_CONTRAST;
        for (n, &a) in chosen.iter().enumerate() {
            for &b in &chosen[n + 1..] {
                let pairs = self.inks[a].iter().zip(&self.inks[b]);
                most = most.max(pairs.map(|(a, b)| (a - b) * (a - b)).sum());
            }
        }
        1.0 / most
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
    fn spread(&self, mixed: &[Plane; 3], around: &[u32], weight: &[f32]) -> f64 {
        let tried = (0..SPREADS).map(|k| SPREAD_STEP * k as f64);
        let found = tried.map(|spread| (self.far(mixed, around, weight, spread), spread));
        let best = found.min_by(|a, b| a.0.total_cmp(&b.0));
        best.map_or(0.0, |b| b.1)
    }

    /// How far what is painted lies from what is seen where inks meet, root mean square, as a part of
    /// their contrast.
    fn far(&self, mixed: &[Plane; 3], around: &[u32], weight: &[f32], spread: f64) -> f64 {
        let painted = self.painted(mixed, spread);
        let (mut sum, mut count) = (0.0, 0u32);
        for (painted, seen) in painted.iter().zip(&self.seen) {
            let pairs = painted.values.iter().zip(&seen.values);
            for ((p, s), (weight, inks)) in pairs.zip(weight.iter().zip(around)) {
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
            let mut normal = vec![0.0; n * n];
            let mut right = vec![0.0; n];
            for i in 0..n {
                for j in 0..=i {
                    normal[i * n + j] = planes[i].dot(&planes[j]);
                    normal[j * n + i] = normal[i * n + j];
                }
                right[i] = planes[i].dot(&self.seen[c]);
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
    fn difference(&self, mixed: &[Plane; 3], weight: &[f32], spread: f64) -> [Plane; 3] {
        let mut painted = self.painted(mixed, spread);
        for (painted, seen) in painted.iter_mut().zip(&self.seen) {
            let pairs = painted.values.iter_mut().zip(&seen.values);
            for ((p, s), weight) in pairs.zip(weight) {
                *p = (*p - s) * weight;
            }
        }
        std::array::from_fn(|c| painted[c].blurred(self.spread_of(c, spread)))
    }

    /// One step down for every cover, and back to covers that add up to 1.
    fn descend(&self, descent: &mut Descent, off: &[Plane; 3], momentum: f32) {
        let (w, _) = self.size();
        let [luma, blue, red] = &mut descent.mixed;
        let mixed = luma.values.par_chunks_mut(w);
        let mixed = mixed.zip(blue.values.par_chunks_mut(w));
        let mixed = mixed.zip(red.values.par_chunks_mut(w));
        let covers = descent.now.par_iter_mut().zip(&mut descent.next);
        let rows = covers.zip(mixed).zip(&mut descent.still).enumerate();
        let (layout, ahead) = (&descent.layout, &descent.ahead);
        rows.for_each_init(Room::default, |room, (y, row)| {
            let (((now, next), ((luma, blue), red)), still) = row;
            let mut mixed = [luma, blue, red];
            for ((at, open), still) in layout.rows[y].iter().enumerate().zip(still) {
                if still.rests() {
                    continue;
                }
                self.head(layout, ahead, (y, at), off, room);
                let changed = room.go(open, momentum, now, next);
                still.after(changed);
                for (c, mixed) in mixed.iter_mut().enumerate() {
                    let mixed = &mut mixed[open.pixels.clone()];
                    mixed.fill(0.0);
                    for (areas, &k) in room.areas.iter().zip(&open.inks) {
                        for (to, a) in mixed.iter_mut().zip(areas) {
                            *to += a * self.inks[k][c];
                        }
                    }
                }
            }
        });
        std::mem::swap(&mut descent.ahead, &mut descent.next);
    }

    /// What the steps of a stretch become, into `room`.
    fn head(
        &self,
        layout: &Layout,
        ahead: &Rows,
        (y, at): (usize, usize),
        off: &[Plane; 3],
        room: &mut Room,
    ) {
        let ((w, h), s) = (self.size(), self.scale);
        let open = &layout.rows[y][at];
        let steps = &open.steps;
        let (n, last) = (steps.len(), w * s - 1);
        let step = 1.0 / (1.5 + self.seam * (8.0 * SEAM + 2.0 / SEAM));
        room.clear(open.inks.len(), open.pixels.len(), s);
        let up = layout.first((y * s).saturating_sub(1), steps.start);
        let down = layout.first((y * s + s).min(h * s - 1), steps.start);
        for (place, &ink) in open.inks.iter().enumerate() {
            room.pull.clear();
            for x in open.pixels.clone() {
                let pulls = off.iter().zip(&self.inks[ink]);
                let pull: f32 = pulls.map(|(off, v)| off.row(y)[x] * v).sum();
                room.pull.extend(std::iter::repeat_n(2.0 * pull, s));
            }
            let [above, own, below] = &mut room.lines;
            for inner in 0..s {
                own[1..=n].copy_from_slice(&ahead[y][open.part(place, inner)]);
                // The outermost steps of a row have a neighbour on one side only.
                let beside = [
                    (0, steps.start.saturating_sub(1)),
                    (n + 1, steps.end.min(last)),
                ];
                let fine = y * s + inner;
                let first = at.saturating_sub(1);
                for (to, x) in beside {
                    let fine = Near { fine, first };
                    layout.line(ahead, ink, fine, x..x + 1, &mut own[to..=to]);
                }
                if inner == 0 {
                    layout.line(ahead, ink, up, steps.clone(), &mut above[..n]);
                }
                if inner == s - 1 {
                    layout.line(ahead, ink, down, steps.clone(), &mut below[..n]);
                }
                let inside = |inner: usize| &ahead[y][open.part(place, inner)];
                let stretch = Stretch {
                    own,
                    above: if inner == 0 {
                        &above[..n]
                    } else {
                        inside(inner - 1)
                    },
                    below: if inner == s - 1 {
                        &below[..n]
                    } else {
                        inside(inner + 1)
                    },
                    pull: &room.pull,
                };
                stretch.descend(step, self.seam, &mut room.values[place][inner * n..][..n]);
            }
        }
        project(&mut room.values[..open.inks.len()], &mut room.less);
    }
}

/// Room to work in, by the inks of a stretch.
#[derive(Default)]
struct Room {
    /// What every step of the stretch becomes, row by row.
    values: Vec<Vec<f32>>,
    /// The area in every pixel.
    areas: Vec<Vec<f32>>,
    /// What pulls at every step of a row.
    pull: Vec<f32>,
    /// The row above, the row itself with a step on either side, the row below.
    lines: [Vec<f32>; 3],
    /// How much less all become to add up to 1.
    less: Vec<f32>,
}

impl Room {
    fn clear(&mut self, inks: usize, pixels: usize, scale: usize) {
        let resize = |all: &mut Vec<f32>, length| {
            all.clear();
            all.resize(length, 0.0);
        };
        for (all, length) in [
            (&mut self.values, pixels * scale * scale),
            (&mut self.areas, pixels),
        ] {
            all.resize_with(inks, Vec::new);
            all.iter_mut().for_each(|all| resize(all, length));
        }
        let lines = self.lines.iter_mut();
        lines.for_each(|line| resize(line, pixels * scale + 2));
    }

    /// Goes there, and tells where the stretch is heading next; whether anything changed.
    fn go(&mut self, open: &Open, momentum: f32, now: &mut [f32], next: &mut [f32]) -> bool {
        let (n, s) = (open.steps.len(), open.steps.len() / open.pixels.len());
        let part = 1.0 / (s * s) as f32;
        let mut changed = false;
        for (place, (values, areas)) in self.values.iter().zip(&mut self.areas).enumerate() {
            for (inner, values) in values.chunks_exact(n).enumerate() {
                let cover = open.part(place, inner);
                let (now, next) = (&mut now[cover.clone()], &mut next[cover]);
                for ((now, next), value) in now.iter_mut().zip(next.iter_mut()).zip(values) {
                    let change = value - *now;
                    changed |= change != 0.0;
                    *next = value + momentum * change;
                    *now = *value;
                }
                add_areas(areas, next, s, part);
            }
        }
        changed
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
            for value in values.iter() {
                let sums = sums.iter_mut().zip(&mut counts);
                for ((v, less), (sum, count)) in value[from..to].iter().zip(&*less).zip(sums) {
                    let there = f32::from(u8::from(v >= less));
                    *sum += there * v;
                    *count += there;
                }
            }
            for ((less, sum), count) in less.iter_mut().zip(sums).zip(counts) {
                *less = (sum - 1.0) / count;
            }
        }
        for value in values.iter_mut() {
            for (v, less) in value[from..to].iter_mut().zip(&*less) {
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
