//! Crossings: where between two neighbouring pixels one ink ends, to a fraction of a pixel.
//!
//! ```text
//!    … 1.0   1.0   0.3   0.0 …     coverage along the row, of the ink on the left
//!              p  │  q             the edge lies Σ (coverage right of the wall) = 0.3 px right of
//!                 ├──┤             the wall, less Σ (1 − coverage) left of it
//! ```
//!
//! A pixel's coverage is an *area*, so areas place the edge: for a straight edge that the row
//! crosses, the sum over the row is exact whatever its slope, and for any symmetrical blur, where
//! the point at which interpolated coverage passes one half errs by up to 0.09 px. Each side
//! looks [`REACH`](crate::boundary::blocks::REACH) pixels far, and no farther than half way to where its ink ends: the two edges of
//! a thin line share its middle pixel, so its width is kept. An edge that runs nearly along the
//! link is not placed by it; such a crossing is marked weak and counts only for how edges connect.
//! Where a tone passes a given threshold, the crossing is interpolated instead.

use kurbo::Point;

use crate::boundary::OUTSIDE;
use crate::boundary::blocks::Block;
use crate::inks::{EdgeField, Mixes};

/// A crossing keeps this distance from the pixel centres, so that no two crossings coincide.
const MARGIN: f32 = 0.02;
/// Least change of coverage along the link, against that across it, for the link to place the edge.
const ALONG: f32 = 0.45;
/// A part of a third ink in a pixel that makes it useless for placing the edge of two others.
const LEAST_THIRD: f32 = 0.1;
/// Least difference of the two sides' tones for local levels to be used, 0 to 255.
const LEAST_STEP: f32 = 20.0;

/// A link between two neighbouring pixels with different inks, padded coordinates.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Link {
    pub left: (u32, u32),
    pub right: (u32, u32),
}

/// Where a boundary crosses a link.
#[derive(Clone, Copy, Debug)]
pub(super) struct Crossing {
    /// The place, px.
    pub point: Point,
    /// Whether the link says little about where the edge is.
    pub weak: bool,
    /// Whether a third ink has a part in the pixels that place it.
    pub mixed: bool,
}

/// Steps from a pixel along a row or column.
#[derive(Clone, Copy)]
struct Ray {
    x: i64,
    y: i64,
    dx: i64,
    dy: i64,
}

impl Ray {
    fn at(&self, k: i64) -> (i64, i64) {
        (self.x + k * self.dx, self.y + k * self.dy)
    }
}

impl Block<'_> {
    /// Where the boundary crosses a link.
    pub(super) fn crossing(&self, link: Link) -> Crossing {
        let [p, q] = [link.left, link.right].map(|(x, y)| (i64::from(x), i64::from(y)));
        let centre = |(x, y): (i64, i64)| Point::new(x as f64 - 0.5, y as f64 - 0.5);
        let (i, j) = (self.label_at(p), self.label_at(q));
        if i == OUTSIDE || j == OUTSIDE {
            return Crossing {
                point: centre(p).midpoint(centre(q)),
                weak: false,
                mixed: false,
            };
        }
        let (dx, dy) = (q.0 - p.0, q.1 - p.1);
        let from_p = Ray {
            x: p.0,
            y: p.1,
            dx: -dx,
            dy: -dy,
        };
        let from_q = Ray {
            x: q.0,
            y: q.1,
            dx,
            dy,
        };
        let (n_p, n_q) = (self.run(from_p, i), self.run(from_q, j));
        let (t, weak, mixed) = match self.parts((from_p, n_p), (from_q, n_q)) {
            Parts::Iso(t) => (t, false, false),
            Parts::Of(part) => {
                let weak = self.is_weak(&part, p, q, (dx, dy));
                let mixed = [(from_p, n_p), (from_q, n_q)].iter().any(|&(ray, n)| {
                    (0..(n / 2 + 1).min(self.reach()) as i64)
                        .any(|k| part.of_third(self.clamped(ray.at(k))) > LEAST_THIRD)
                });
                let lacking = half_way(n_p, self.reach(), |k| {
                    1.0 - part.at(self.clamped(from_p.at(k)))
                });
                let beyond = half_way(n_q, self.reach(), |k| part.at(self.clamped(from_q.at(k))));
                (0.5 + beyond - lacking, weak, mixed)
            }
        };
        let t = f64::from(t.clamp(MARGIN, 1.0 - MARGIN));
        Crossing {
            point: centre(p).lerp(centre(q), t),
            weak,
            mixed,
        }
    }

    /// How many pixels from here on have an ink, as far as it matters.
    fn run(&self, ray: Ray, ink: u8) -> usize {
        (0..2 * self.reach() as i64)
            .take_while(|&k| self.label_at(ray.at(k)) == ink)
            .count()
    }

    /// The coverage of the ink on the left of the link, as a function of a pixel's index; or the
    /// crossing itself where a threshold decides.
    fn parts(&self, p: (Ray, usize), q: (Ray, usize)) -> Parts<'_> {
        let (i, j) = (self.label_at(p.0.at(0)), self.label_at(q.0.at(0)));
        match self.field() {
            EdgeField::Colours { pixels, mixes } => Parts::Of(match self.third(p, q, [i, j]) {
                Some(k) => Part::Beside {
                    mix: Mix {
                        pixels,
                        mixes,
                        i,
                        j,
                    },
                    k,
                    labels: self.labels(),
                },
                None => Part::Of(Mix {
                    pixels,
                    mixes,
                    i,
                    j,
                }),
            }),
            EdgeField::Tone {
                tone,
                threshold,
                levels,
            } => {
                let tone_at = |(x, y)| f32::from(tone[self.clamped((x, y))]);
                let (v, w) = (tone_at(p.0.at(0)), tone_at(q.0.at(0)));
                let iso = || {
                    let fall = v - w;
                    Parts::Iso(if fall.abs() > 1e-6 {
                        (v - threshold) / fall
                    } else {
                        0.5
                    })
                };
                let Some([dark, light]) = *levels else {
                    return iso();
                };
                // The tone of this very part where it is wide enough to show it: the last pixel of
                // it is mixed already.
                let level = |(ray, n): (Ray, usize), here: f32| {
                    if n > self.reach() + 1 {
                        tone_at(ray.at(self.reach() as i64))
                    } else if here < *threshold {
                        dark
                    } else {
                        light
                    }
                };
                let (a, b) = (level(p, v), level(q, w));
                if (a - b).abs() < LEAST_STEP || (a < *threshold) == (b < *threshold) {
                    return iso();
                }
                Parts::Of(Part::Tone { tone, a, b })
            }
        }
    }

    /// An ink beside the pixels of a link's rays that is neither of its two: pixels there hold it too.
    fn third(&self, (p, n): (Ray, usize), (q, m): (Ray, usize), pair: [u8; 2]) -> Option<u8> {
        let looked = |n: usize| (n / 2 + 1).min(self.reach()) as i64;
        let beside = |ray: Ray, k: i64| {
            let (x, y) = ray.at(k);
            [0, 1, -1].map(|side| (x + side * ray.dy, y + side * ray.dx))
        };
        let rays = [(p, looked(n)), (q, looked(m))];
        // Nearest to the link first.
        let places = (0..=self.reach() as i64)
            .flat_map(|k| {
                rays.iter()
                    .filter(move |(_, most)| k <= *most)
                    .map(move |(ray, _)| (*ray, k))
            })
            .flat_map(|(ray, k)| beside(ray, k));
        let mut labels = places.map(|at| self.label_at(at));
        labels.find(|l| *l != OUTSIDE && !pair.contains(l))
    }

    /// Whether coverage changes much more across the link than along it.
    fn is_weak(&self, part: &Part<'_>, p: (i64, i64), q: (i64, i64), (dx, dy): (i64, i64)) -> bool {
        let c = |(x, y): (i64, i64), k: i64| part.at(self.clamped((x + k * dy, y + k * dx)));
        let [a, b, d] = [-1, 0, 1].map(|k| (c(p, k), c(q, k)));
        let along = ((a.0 - a.1) + 2.0 * (b.0 - b.1) + (d.0 - d.1)) / 4.0;
        let across = ((d.0 + d.1) - (a.0 + a.1)) / 4.0;
        along < ALONG * across.abs()
    }
}

/// What places a crossing.
enum Parts<'a> {
    /// Already placed, from 0 at the left pixel's centre to 1 at the right one's.
    Iso(f32),
    /// By how much of the ink on the left each pixel holds.
    Of(Part<'a>),
}

/// Two inks in the pixels of a picture.
struct Mix<'a> {
    pixels: &'a [[u8; 4]],
    mixes: &'a Mixes,
    i: u8,
    j: u8,
}

/// How much of the ink on the left of a link a pixel holds.
enum Part<'a> {
    /// Of two inks.
    Of(Mix<'a>),
    /// Of two inks, while it may hold a third, `k`; where it holds hardly anything else its label
    /// tells.
    Beside {
        mix: Mix<'a>,
        k: u8,
        labels: &'a [u8],
    },
    /// Of two tones, `a` on the left and `b` on the right.
    Tone { tone: &'a [u8], a: f32, b: f32 },
}

impl Part<'_> {
    /// For the pixel with this index, 0 to 1.
    fn at(&self, index: usize) -> f32 {
        match self {
            Self::Of(mix) => mix.mixes.part(mix.pixels[index], mix.i, mix.j),
            Self::Beside { mix, k, labels } => {
                let Mix {
                    pixels,
                    mixes,
                    i,
                    j,
                } = *mix;
                let told = mixes.part_beside(pixels[index], i, j, *k);
                told.unwrap_or_else(|| match labels[index] {
                    own if own == i => 1.0,
                    own if own == j => 0.0,
                    _ => mixes.part(pixels[index], i, j),
                })
            }
            Self::Tone { tone, a, b } => ((f32::from(tone[index]) - b) / (a - b)).clamp(0.0, 1.0),
        }
    }

    /// How much of a third ink the pixel with this index holds, 0 to 1.
    fn of_third(&self, index: usize) -> f32 {
        match self {
            Self::Beside { mix, k, .. } => {
                mix.mixes.part_of_third(mix.pixels[index], mix.i, mix.j, *k)
            }
            Self::Of(_) | Self::Tone { .. } => 0.0,
        }
    }
}

/// Sum over the nearer half of `n` pixels, the middle one counted half where `n` is odd.
fn half_way(n: usize, reach: usize, value: impl Fn(i64) -> f32) -> f32 {
    let whole = (n / 2).min(reach);
    let mut sum = (0..whole as i64).map(&value).sum();
    if n % 2 == 1 && whole < reach {
        sum += value(whole as i64) / 2.0;
    }
    sum
}
