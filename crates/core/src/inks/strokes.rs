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
use crate::inks::canvas::{OPEN, bit, inks_of};
use crate::inks::directions::{Direction, Ground, OPPOSED, beside, dot, minus};
use crate::inks::mixes::{Tint, distance_sq, mix};

/// A direction points at a colour that it passes this near, 0 to 255, or this part of the way.
const POINTS_AT: f32 = 20.0;
const POINTS_PART: f32 = 0.13;
/// The same where nothing spoilt the colours: then they lie on their way exactly.
const EXACTLY_AT: f32 = 10.0;
const EXACTLY_PART: f32 = 0.06;
/// Two directions meet where they pass each other this near, this many times as far as they go.
const MEET: f32 = 30.0;
const BEYOND: std::ops::Range<f32> = 0.9..2.2;
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
        let (to_a, others) = (steps(a), steps(b));
        let pairs = to_a.iter().flat_map(|p| others.iter().map(move |q| (p, q)));
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
        let off_a = distance_sq(p, inks[usize::from(a)]);
        if off_a < best.1 {
            best = (Cover::whole(a), off_a);
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
