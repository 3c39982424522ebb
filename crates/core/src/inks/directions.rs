//! Directions: where the colours of strokes point from the ground they lie on.
//!
//! A pixel that no mix of the solid inks around it explains belongs to a stroke. The farthest of such
//! colours on a ground give a direction, and what lies along it goes with it. Compression spreads the
//! chroma of a stroke and rings beside it, and keeps the sums of both, so all that is around the pixels
//! of a direction is added up beside it. Own method.

use rayon::prelude::*;

use crate::inks::canvas::{Canvas, OPEN, bit, unexplained_sq};
use crate::inks::mixes::{Tint, distance_sq};

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
/// What is around a compressed stroke adds up to a colour this near to the way to its ink, where it
/// ends, 0 to 255.
const IN_ALL: f32 = 10.0;
/// Part of its pixels around which there is only ground.
const ALONE: f64 = 0.95;
/// How far compression spreads the chroma of a stroke, px.
const SPREAD: usize = 2;
/// What rings beside strokes goes this part of their way at most.
const RINGS: f32 = 0.3;
/// Directions whose cosine is below this point at each other.
pub(super) const OPPOSED: f32 = -0.8;

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
pub(super) struct Direction {
    /// Number of the ground.
    pub ground: usize,
    /// Where they point, of length 1.
    pub along: Tint,
    /// Where all that is around its pixels points, added up.
    pub in_all: Tint,
    /// Whether nothing but their ground is around them, so that nothing is missing in what adds up.
    pub alone: bool,
    /// How far its colours go.
    pub end: f32,
    /// How many pixels show it.
    pixels: usize,
}

impl Direction {
    /// Whether all that is around its pixels points past an ink that lies so far off its ground.
    pub(super) fn passes(&self, to: Tint) -> bool {
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

impl Ground<'_> {
    /// The place of a pixel, its chroma counted as it is worth.
    pub(super) fn seen(&self, canvas: &Canvas<'_>, i: usize) -> Tint {
        let [y, b, r, a] = canvas.place(i);
        [y, self.chroma * b, self.chroma * r, a]
    }

    /// Takes back what noise and blur made flat half way between inks: it is no place of one.
    pub(super) fn unseed(&mut self) {
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
    pub(super) fn unseed_for(&mut self, inks: &[Tint]) -> bool {
        let (solid, found) = inks.split_at(self.solid.len());
        let strokes = |i: usize| {
            let seed = self.seeds[i];
            let p = self.seen(self.large, i);
            let far = || distance_sq(p, solid[usize::from(seed)]);
            seed != OPEN && found.iter().any(|&ink| distance_sq(p, ink) < far())
        };
        let open: Vec<usize> = (0..self.seeds.len())
            .into_par_iter()
            .filter(|&i| strokes(i))
            .collect();
        open.iter().for_each(|&i| self.seeds[i] = OPEN);
        !open.is_empty()
    }

    pub(super) fn off(&self) -> f32 {
        OFF + OFF_GRAIN * self.grain
    }

    /// The solid inks around every pixel, as bits, and which of them is there most.
    pub(super) fn near(&self) -> Vec<(u32, usize)> {
        let (w, h, s) = (self.canvas.width, self.canvas.height, self.scale);
        let n = self.solid.len();
        let near: Vec<Vec<u16>> = (0..w * h)
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
                            for (c, other) in count.iter_mut().zip(&near[y * w + x]) {
                                *c += u32::from(*other);
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
    pub(super) fn directions(&self, near: &[(u32, usize)]) -> Vec<Direction> {
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
            let on_ground = unexplained.iter().copied().filter(|u| u.ground == ground);
            let mut left: Vec<Unexplained> = on_ground.filter(|u| length(u.off) > off).collect();
            for _ in 0..MOST_DIRECTIONS {
                if left.len() < least {
                    break;
                }
                let along = farthest(left.iter().map(|u| u.off).collect());
                let lies = |u: &Unexplained| {
                    let t = dot(u.off, along);
                    t > ALONG * length(u.off) || (t > 0.0 && beside(u.off, along) < BESIDE)
                };
                let (members, others): (Vec<_>, Vec<_>) = left.into_iter().partition(lies);
                let mut reach: Vec<f32> = members.iter().map(|u| dot(u.off, along)).collect();
                left = others;
                if members.len() < least {
                    continue;
                }
                let at = ((reach.len() - 1) as f64 * END) as usize;
                let end = *reach.select_nth_unstable_by(at, f32::total_cmp).1;
                let alone = members
                    .iter()
                    .filter(|u| near[u.pixel].0 == bit(ground as u8));
                found.push(Direction {
                    ground,
                    along,
                    alone: alone.count() as f64 > ALONE * members.len() as f64,
                    in_all: if self.compressed {
                        self.in_all(near, ground, &members)
                    } else {
                        along
                    },
                    end,
                    pixels: members.len(),
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
    fn in_all(&self, near: &[(u32, usize)], ground: usize, alike: &[Unexplained]) -> Tint {
        let (w, h) = (self.canvas.width, self.canvas.height);
        let mut around = vec![false; w * h];
        for pixel in alike.iter().map(|u| u.pixel) {
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
}

pub(super) fn minus(a: Tint, b: Tint) -> Tint {
    std::array::from_fn(|c| a[c] - b[c])
}

pub(super) fn dot(a: Tint, b: Tint) -> f32 {
    a.iter().zip(b).map(|(a, b)| a * b).sum()
}

fn length(d: Tint) -> f32 {
    dot(d, d).sqrt()
}

/// How far a colour lies from a line through nought.
pub(super) fn beside(d: Tint, along: Tint) -> f32 {
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
    let long = length(d).max(1e-6);
    d.map(|v| v / long)
}
