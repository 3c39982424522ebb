//! Strokes: inks that are nowhere flat, found by where their grounds point, and first labels.
//!
//! ```text
//!     ground ●──·──·─·──► ◌ ◄──·──·──● another ground     colours of a thin stroke lie on the way from
//!                         the stroke's own colour          its ground to its own, and may end before
//! ```
//!
//! Flat places tell the solid inks. A pixel that no mix of the solid inks around it explains belongs
//! to a stroke too thin to be flat. On each ground the colours of such pixels point in a direction: at a solid
//! ink from elsewhere in the picture, at the place where two grounds' directions meet, or, failing
//! both, as far as they go. Own method.

use rayon::prelude::*;

use crate::fine::Cover;
use crate::inks::canvas::{Canvas, OPEN, bit, inks_of, unexplained_sq};
use crate::inks::mixes::{Tint, distance_sq, mix};

/// A colour this far from every mix of the solid inks around is not explained by them, 0 to 255,
/// and more for each level of grain.
const OFF: f32 = 26.0;
const OFF_GRAIN: f32 = 3.0;
/// Pixels around a place whose solid inks may be mixed in it; doubled until there is one.
const AROUND: usize = 3;
/// Colours within this angle (its cosine) of a direction lie along it, or this near to it.
const ALONG: f32 = 0.94;
const BESIDE: f32 = 16.0;
/// Part of the farthest colours that give a direction, and the part within which it ends.
const FARTHEST: f64 = 0.15;
const END: f64 = 0.96;
/// Pixels that a stroke's ink has at least, and their least share of the picture.
const LEAST_PIXELS: usize = 16;
const LEAST_SHARE: f64 = 0.0008;
/// Directions that one ground may have.
const MOST_DIRECTIONS: usize = 4;
/// A direction points at a colour that it passes this near, 0 to 255, or this part of the way.
const POINTS_AT: f32 = 20.0;
const POINTS_PART: f32 = 0.13;
/// The same where nothing spoilt the colours: then they lie on their way exactly.
const EXACTLY_AT: f32 = 10.0;
const EXACTLY_PART: f32 = 0.06;
/// What is around a compressed stroke adds up to a colour this near to the way to its ink, where it
/// ends, 0 to 255.
const IN_ALL: f32 = 10.0;
/// Part of its pixels around which there is only ground.
const ALONE: f64 = 0.95;
/// How far compression spreads the chroma of a stroke, px.
const SPREAD: usize = 2;
/// What rings beside strokes goes this part of their way at most.
const RINGS: f32 = 0.3;
/// Two directions meet where they pass each other this near, this many times as far as they go.
const MEET: f32 = 30.0;
const BEYOND: std::ops::Range<f32> = 0.9..2.2;
/// Directions whose cosine is below this point at each other.
const OPPOSED: f32 = -0.8;
/// What it costs at most that a known ink lies beyond a direction's end.
const KNOWN: f32 = 8.0;
/// A direction that passes a known ink nearer than this points straight at it, 0 to 255.
const STRAIGHT: f32 = 6.0;
/// What another ink costs.
const ANOTHER: f32 = 2.0;
/// A colour may lie so many times as far as any pixel shows for nothing, and costs so much beyond.
const FREELY: f32 = 1.1;
const FARTHER: f32 = 30.0;
/// A known ink nearer to the ground than this part of a direction's end is not what it points at.
const REACHES: f32 = 0.85;
/// The same where compression rings beyond an ink, beside an edge of it.
const REACHES_ROUGHLY: f32 = 0.75;
/// Steps in which the place where two directions meet is sought, as parts of their ends.
const MEET_STEPS: usize = 13;
const MEET_STEP: f32 = 0.1;
/// Part of what counts as unexplained, squared, up to which a fine step is left to the solid inks.
const SURELY_SOLID: f32 = 0.2;
/// Colours closer than this are one ink, 0 to 255.
const SAME: f32 = 30.0;
const EXACTLY_SAME: f32 = 12.0;
/// Inks of a picture at most: covers are told apart by bits.
const MOST_INKS: usize = 30;

/// Solid inks, where they are, and the picture.
pub(super) struct Ground<'a> {
    /// The picture, calmed.
    pub canvas: &'a Canvas<'a>,
    /// The same enlarged.
    pub large: &'a Canvas<'a>,
    /// How many times.
    pub scale: usize,
    /// The solid inks.
    pub solid: &'a [Tint],
    /// Labels of flat places in the picture enlarged; [`OPEN`] elsewhere.
    pub seeds: Vec<u8>,
    /// Grain, 0 to 255.
    pub grain: f32,
    /// What chroma is worth: less where it is stored coarser than luma, so that thin strokes have
    /// little of it. The solid inks are given so.
    pub chroma: f32,
    /// Whether the picture was rounded to a few colours: then one alone says nothing of an ink.
    pub rounded: bool,
    /// Whether nothing spoilt the colours: neither grain nor compression nor a palette.
    pub exact: bool,
    /// Whether compression spoilt them beside edges.
    pub compressed: bool,
}

/// The colours of strokes on one ground.
#[derive(Clone, Copy, Debug)]
struct Direction {
    ground: usize,
    along: Tint,
    /// Where all that is around its pixels points, added up.
    in_all: Tint,
    /// Whether nothing but their ground is around them, so that nothing is missing in what adds up.
    alone: bool,
    /// How far its colours go.
    end: f32,
    pixels: usize,
}

impl Direction {
    /// Whether all that is around its pixels points past an ink that lies so far off its ground.
    fn passes(&self, to: Tint) -> bool {
        let reaches = self.end / dot(to, self.along).max(1.0);
        self.alone && beside(to, self.in_all) * reaches.min(1.0) > IN_ALL
    }

    /// Whether it is what compression rings beside the strokes of another: the other way, and little.
    fn rings_of(&self, other: &Self) -> bool {
        self.ground == other.ground
            && dot(self.along, other.along) < OPPOSED
            && dot(self.along, self.in_all) < 0.0
            && self.end < RINGS * other.end
    }
}

/// A pixel that the solid inks around do not explain, and how far it is off its ground.
#[derive(Clone, Copy)]
struct Unexplained {
    pixel: usize,
    ground: usize,
    off: Tint,
}

/// Inks of strokes, and what every fine step holds to begin with.
pub(super) struct Found {
    /// Inks that are not among the solid ones.
    pub inks: Vec<Tint>,
    /// Of every fine step, the solid inks first.
    pub covers: Vec<Cover>,
}

/// What the strokes of one ground are.
#[derive(Clone, Copy)]
struct Stroke {
    ground: usize,
    ink: usize,
    /// Part of the ink that its pixels show at most.
    shows: f32,
}

impl Ground<'_> {
    /// Finds the inks of strokes, so many inks at most in all, and what every fine step holds; `None`
    /// where there are no strokes.
    pub(super) fn strokes(mut self, most: usize) -> Option<Found> {
        self.unseed();
        let near = self.near();
        let directions = self.directions(&near);
        let (inks, strokes) = self.resolved(directions, most);
        let near = match self.unseed_for(&inks) {
            true => self.near(),
            false => near,
        };
        (!strokes.is_empty()).then(|| Found {
            covers: self.covers(&near, &inks, &strokes),
            inks: inks[self.solid.len()..].to_vec(),
        })
    }

    /// The place of a pixel, its chroma counted as it is worth.
    fn seen(&self, canvas: &Canvas<'_>, i: usize) -> Tint {
        let [y, b, r, a] = canvas.place(i);
        [y, self.chroma * b, self.chroma * r, a]
    }

    /// Takes back what noise and blur made flat half way between inks: it is no place of one.
    fn unseed(&mut self) {
        let off = self.off();
        let kept: Vec<u8> = self
            .seeds
            .par_iter()
            .enumerate()
            .map(|(i, &l)| {
                let like = |l: u8| {
                    let p = self.seen(self.large, i);
                    distance_sq(p, self.solid[usize::from(l)]) < off * off
                };
                if l != OPEN && like(l) { l } else { OPEN }
            })
            .collect();
        self.seeds = kept;
    }

    /// Takes back what looked flat and is nearer to the ink of a stroke; whether there was any.
    fn unseed_for(&mut self, inks: &[Tint]) -> bool {
        let (solid, found) = inks.split_at(self.solid.len());
        let strokes = |i: usize| {
            let own = self.seeds[i];
            let p = self.seen(self.large, i);
            let far = || distance_sq(p, solid[usize::from(own)]);
            own != OPEN && found.iter().any(|&ink| distance_sq(p, ink) < far())
        };
        let open: Vec<usize> = (0..self.seeds.len())
            .into_par_iter()
            .filter(|&i| strokes(i))
            .collect();
        open.iter().for_each(|&i| self.seeds[i] = OPEN);
        !open.is_empty()
    }

    fn off(&self) -> f32 {
        OFF + OFF_GRAIN * self.grain
    }

    /// The solid inks around every pixel, as bits, and which of them is there most.
    fn near(&self) -> Vec<(u32, usize)> {
        let (w, h, s) = (self.canvas.width, self.canvas.height, self.scale);
        let n = self.solid.len();
        let own: Vec<Vec<u16>> = (0..w * h)
            .into_par_iter()
            .map(|i| {
                let (x, y) = (i % w * s, i / w * s);
                let mut count = vec![0; n];
                for row in y..y + s {
                    let from = row * w * s + x;
                    for &l in self.seeds[from..from + s].iter().filter(|&&l| l != OPEN) {
                        count[usize::from(l)] += 1;
                    }
                }
                count
            })
            .collect();
        (0..w * h)
            .into_par_iter()
            .map(|i| {
                let (x, y) = (i % w, i / w);
                let mut reach = AROUND;
                loop {
                    let mut count = vec![0u32; n];
                    for y in y.saturating_sub(reach)..(y + reach + 1).min(h) {
                        for x in x.saturating_sub(reach)..(x + reach + 1).min(w) {
                            for (c, own) in count.iter_mut().zip(&own[y * w + x]) {
                                *c += u32::from(*own);
                            }
                        }
                    }
                    let bits = (0..n)
                        .filter(|&k| count[k] > 0)
                        .fold(0, |m, k| m | bit(k as u8));
                    if bits != 0 || reach > w.max(h) {
                        let all = count.iter().enumerate();
                        let most = all.max_by_key(|&(k, c)| (c, std::cmp::Reverse(k)));
                        return (bits, most.map_or(0, |m| m.0));
                    }
                    reach *= 2;
                }
            })
            .collect()
    }

    /// Where the colours of strokes point from each ground.
    fn directions(&self, near: &[(u32, usize)]) -> Vec<Direction> {
        let off = self.off();
        let unexplained: Vec<Unexplained> = near
            .par_iter()
            .enumerate()
            .filter_map(|(i, &(bits, ground))| {
                let p = self.seen(self.canvas, i);
                let far = unexplained_sq(p, self.solid, bits) > off * off;
                far.then(|| Unexplained {
                    pixel: i,
                    ground,
                    off: minus(p, self.solid[ground]),
                })
            })
            .collect();
        let least = LEAST_PIXELS.max((LEAST_SHARE * near.len() as f64) as usize);
        let mut found = Vec::new();
        for ground in 0..self.solid.len() {
            let own = unexplained.iter().copied().filter(|u| u.ground == ground);
            let mut left: Vec<Unexplained> = own.filter(|u| length(u.off) > off).collect();
            for _ in 0..MOST_DIRECTIONS {
                if left.len() < least {
                    break;
                }
                let along = farthest(left.iter().map(|u| u.off).collect());
                let lies = |u: &Unexplained| {
                    let t = dot(u.off, along);
                    t > ALONG * length(u.off) || (t > 0.0 && beside(u.off, along) < BESIDE)
                };
                let (own, others): (Vec<_>, Vec<_>) = left.into_iter().partition(lies);
                let mut reach: Vec<f32> = own.iter().map(|u| dot(u.off, along)).collect();
                left = others;
                if own.len() < least {
                    continue;
                }
                let at = ((reach.len() - 1) as f64 * END) as usize;
                let end = *reach.select_nth_unstable_by(at, f32::total_cmp).1;
                let alone = own.iter().filter(|u| near[u.pixel].0 == bit(ground as u8));
                found.push(Direction {
                    ground,
                    along,
                    alone: alone.count() as f64 > ALONE * own.len() as f64,
                    in_all: if self.compressed {
                        self.in_all(near, ground, &own)
                    } else {
                        along
                    },
                    end,
                    pixels: own.len(),
                });
            }
        }
        if self.compressed {
            let all = found.clone();
            found.retain(|d| !all.iter().any(|other| d.rings_of(other)));
        }
        found.sort_by_key(|d| (std::cmp::Reverse(d.pixels), d.ground));
        found
    }

    /// Where the colours of some pixels point, all around them added up: compression spreads the
    /// chroma of a stroke and rings beside it, and keeps the sums of both.
    fn in_all(&self, near: &[(u32, usize)], ground: usize, own: &[Unexplained]) -> Tint {
        let (w, h) = (self.canvas.width, self.canvas.height);
        let mut around = vec![false; w * h];
        for pixel in own.iter().map(|u| u.pixel) {
            let (x, y) = (pixel % w, pixel / w);
            for y in y.saturating_sub(SPREAD)..(y + SPREAD + 1).min(h) {
                let from = y * w + x.saturating_sub(SPREAD);
                around[from..y * w + (x + SPREAD + 1).min(w)].fill(true);
            }
        }
        let alone = |&i: &usize| around[i] && near[i].0 == bit(ground as u8);
        let all = (0..w * h).filter(alone).fold([0.0; 4], |sum: Tint, i| {
            let off = minus(self.seen(self.canvas, i), self.solid[ground]);
            std::array::from_fn(|c| sum[c] + off[c])
        });
        unit(all)
    }

    /// The ink that each direction points at, found one after the other: of the solid ones, those
    /// found before, and where another direction meets it, the one it points at best.
    fn resolved(&self, directions: Vec<Direction>, most: usize) -> (Vec<Tint>, Vec<Stroke>) {
        let mut inks = self.solid.to_vec();
        let mut strokes: Vec<Stroke> = Vec::new();
        for (n, d) in directions.iter().enumerate() {
            let known = (0..inks.len())
                .filter(|&k| k != d.ground)
                .filter_map(|k| Some((self.points_at(d, inks[k])?, k)))
                .min_by(|a, b| a.0.total_cmp(&b.0));
            let others = directions[n + 1..].iter().filter(|o| o.ground != d.ground);
            let meeting = others
                .filter_map(|other| self.meeting(d, other))
                .min_by(|a, b| a.0.total_cmp(&b.0));
            let ink = match (known, meeting) {
                (Some((off, ink)), other) if other.is_none_or(|m| off <= m.0 + ANOTHER) => ink,
                (_, None) if self.rounded => continue,
                (_, other) => {
                    let colour = other.map_or_else(|| self.at(d, d.end), |m| m.1);
                    let apart = if self.exact { EXACTLY_SAME } else { SAME };
                    let same = |&k: &Tint| {
                        distance_sq(k, colour) < apart * apart
                            && !d.passes(minus(k, self.solid[d.ground]))
                    };
                    match inks.iter().position(same) {
                        Some(ink) if ink != d.ground => ink,
                        None if inks.len() < most.min(MOST_INKS) => {
                            inks.push(colour);
                            inks.len() - 1
                        }
                        _ => continue,
                    }
                }
            };
            strokes.push(self.stroke(d, ink, inks[ink]));
        }
        (inks, strokes)
    }

    fn at(&self, d: &Direction, t: f32) -> Tint {
        let along = if self.compressed { d.in_all } else { d.along };
        std::array::from_fn(|c| self.solid[d.ground][c] + t * along[c])
    }

    fn stroke(&self, d: &Direction, ink: usize, place: Tint) -> Stroke {
        let whole = distance_sq(place, self.solid[d.ground]).sqrt();
        Stroke {
            ground: d.ground,
            ink,
            shows: (d.end / whole.max(1.0)).min(1.0),
        }
    }

    /// How badly a direction points at an ink, which may lie beyond its end; `None` where it does not.
    fn points_at(&self, d: &Direction, ink: Tint) -> Option<f32> {
        let to = minus(ink, self.solid[d.ground]);
        let (t, off) = (dot(to, d.along), beside(to, d.along));
        let within = if self.exact {
            EXACTLY_AT.max(EXACTLY_PART * t)
        } else {
            POINTS_AT.max(POINTS_PART * t)
        };
        let reaches = if self.compressed && !d.alone {
            REACHES_ROUGHLY
        } else {
            REACHES
        };
        let points = t > reaches * d.end && off < within && !d.passes(to);
        points.then(|| {
            if off < STRAIGHT {
                0.0
            } else {
                off + beyond(t / d.end).min(KNOWN)
            }
        })
    }

    /// Where two directions pass each other, and how badly; `None` where they do not. They may be
    /// nearly parallel, so the place is sought near where their colours end.
    fn meeting(&self, a: &Direction, b: &Direction) -> Option<(f32, Tint)> {
        // Between two grounds that point at each other lie their mixes.
        if dot(a.along, b.along) < OPPOSED {
            return None;
        }
        let steps = |d: &Direction| {
            let times = (0..=MEET_STEPS).map(|k| BEYOND.start + MEET_STEP * k as f32);
            times
                .map(|times| (times, self.at(d, times * d.end)))
                .collect::<Vec<_>>()
        };
        let (own, others) = (steps(a), steps(b));
        let pairs = own.iter().flat_map(|p| others.iter().map(move |q| (p, q)));
        let best = pairs
            .map(|((s, p), (t, q))| {
                let apart = distance_sq(*p, *q).sqrt();
                let middle: Tint = std::array::from_fn(|c| (p[c] + q[c]) / 2.0);
                (apart / 2.0 + beyond(s.max(*t)), apart, middle)
            })
            .min_by(|a, b| a.0.total_cmp(&b.0))?;
        (best.1 < MEET).then_some((best.0, best.2))
    }

    /// What every fine step holds to begin with.
    fn covers(&self, near: &[(u32, usize)], inks: &[Tint], strokes: &[Stroke]) -> Vec<Cover> {
        let (w, s) = (self.canvas.width, self.scale);
        let off = self.off();
        (0..self.seeds.len())
            .into_par_iter()
            .map(|i| {
                let p = self.seen(self.large, i);
                let seed = self.seeds[i];
                if seed != OPEN {
                    return Cover::whole(seed);
                }
                let (x, y) = (i % (w * s) / s, i / (w * s) / s);
                let bits = near[y * w + x].0;
                let (solid, unexplained) = of_solid(p, inks, bits);
                if unexplained < SURELY_SOLID * off * off {
                    return solid;
                }
                let mut best = (solid, unexplained);
                for stroke in strokes.iter().filter(|t| bits & bit(t.ground as u8) != 0) {
                    let known = stroke.ink < self.solid.len() && bits & bit(stroke.ink as u8) != 0;
                    let (part, beside) = mix(p, inks[stroke.ink], inks[stroke.ground]);
                    if !known && beside < best.1 {
                        let part = (part / stroke.shows).min(1.0);
                        let (ink, other) = (stroke.ink as u8, stroke.ground as u8);
                        best = (Cover { ink, other, part }, beside);
                    }
                }
                best.0
            })
            .collect()
    }
}

/// The likeliest mix of solid inks, and the squared distance from it.
fn of_solid(p: Tint, inks: &[Tint], bits: u32) -> (Cover, f32) {
    let mut best = (Cover::whole(0), f32::INFINITY);
    for a in inks_of(bits) {
        let own = distance_sq(p, inks[usize::from(a)]);
        if own < best.1 {
            best = (Cover::whole(a), own);
        }
        for b in inks_of(bits & !(bit(a) | (bit(a) - 1))) {
            let (part, beside) = mix(p, inks[usize::from(a)], inks[usize::from(b)]);
            if beside < best.1 {
                let (ink, other) = (a, b);
                best = (Cover { ink, other, part }, beside);
            }
        }
    }
    best
}

/// What it costs that a colour lies so many times as far as any pixel shows.
fn beyond(times: f32) -> f32 {
    FARTHER * (times - FREELY).max(0.0)
}

fn minus(a: Tint, b: Tint) -> Tint {
    std::array::from_fn(|c| a[c] - b[c])
}

fn dot(a: Tint, b: Tint) -> f32 {
    a.iter().zip(b).map(|(a, b)| a * b).sum()
}

fn length(d: Tint) -> f32 {
    dot(d, d).sqrt()
}

/// How far a colour lies from a line through nought.
fn beside(d: Tint, along: Tint) -> f32 {
    let t = dot(d, along);
    (dot(d, d) - t * t).max(0.0).sqrt()
}

/// The direction in which the farthest of some colours lie.
fn farthest(mut all: Vec<Tint>) -> Tint {
    all.sort_unstable_by(|a, b| length(*b).total_cmp(&length(*a)));
    let count = ((all.len() as f64 * FARTHEST) as usize)
        .max(3)
        .min(all.len());
    let middle: Tint = std::array::from_fn(|c| {
        let mut values: Vec<f32> = all[..count].iter().map(|d| d[c]).collect();
        *values.select_nth_unstable_by(count / 2, f32::total_cmp).1
    });
    unit(middle)
}

fn unit(d: Tint) -> Tint {
    let own = length(d).max(1e-6);
    d.map(|v| v / own)
}
