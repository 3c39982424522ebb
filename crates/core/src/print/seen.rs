//! Registration marks found in a picture, to a part of a pixel.
//!
//! ```text
//!   a row of pixels  ──▁▁▔▔▁▁▁▁▔▔▁▁──   runs in the right proportion: perhaps a mark
//!                        ╲ │ ╱
//!   from its middle      ─ ● ─          every ray meets the same edges, in the right proportion, around one middle:
//!                        ╱ │ ╲          a mark
//! ```
//!
//! Rows are scanned for proportions as readers of matrix codes do for their finder patterns (ISO/IEC 18004:2015, 12);
//! dark and light are told by the mean around (Bradley & Roth 2007, "Adaptive thresholding using the integral image").
//! The middle is where opposite rays meet their edges equally far, which holds for an ellipse too.

use std::f64::consts::TAU;

use kurbo::{Point, Vec2};

use super::marks::MarkChoice;
use crate::picture::Picture;

/// What a mark is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MarkKind {
    /// The first of a page.
    First,
    /// Another of a page.
    Other,
    /// The first of a machine's bed.
    BedFirst,
    /// Another of the bed.
    Bed,
}

/// A mark that was found.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SeenMark {
    /// Its middle, px.
    pub at: Point,
    /// Which it is.
    pub kind: MarkKind,
    /// From its middle to its outer edge on average, px.
    pub radius: f64,
    /// How far its middle may be off, px: the standard error of its edges.
    pub off: f64,
}

/// Radii of the edges as parts of the outermost, from the middle outwards, and whether the middle is dark.
struct Pattern {
    kind: MarkKind,
    radii: Vec<f64>,
    dark: bool,
}

/// Rings of the marks of a bed, from the middle outwards, as parts of the outermost.
pub(super) const BED_FIRST: [f64; 5] = [0.2, 0.4, 0.6, 0.8, 1.0];
pub(super) const BED: [f64; 4] = [0.25, 0.5, 0.75, 1.0];

/// Rays from a middle.
const RAYS: usize = 48;
/// Rays that have to meet all edges, as a part.
const MET: f64 = 0.95;
/// A run in a row may be so much longer or shorter than the proportion says.
const RUN: f64 = 0.6;
/// An edge may lie so far from its proportion, as a part of the outer radius.
const PROPORTION: f64 = 0.12;
/// Middles of edges may lie apart by this, and edges beside their ellipse by that, as parts of the outer radius.
const APART: f64 = 0.1;
const ROUND: f64 = 0.05;
/// Around a mark it is light up to so many times its radius; else it is the inner part of another mark.
const QUIET: f64 = 1.65;
/// The smallest mark that is looked at, px across.
const LEAST: f64 = 9.0;
/// Pixels of the copy that is scanned; middles are found in the picture itself.
const SCANNED: u64 = 12_000_000;
/// Dark is what is so much darker than the mean around it, as a part: beside much white the white between two rings is
/// hardly lighter than that, beside much dark it is by far.
const DARKER: [f32; 3] = [0.85, 0.68, 0.5];
/// Edges lie where it is so much lighter than the darkest, as a part of what the lightest is: blur fills thin rings, black
/// or white.
const LEVELS: [f32; 3] = [0.5, 0.38, 0.62];
/// A middle is never better known than this, px: uneven light and what a camera's own sharpening does to edges.
const KNOWN: f64 = 0.05;

/// All marks in a picture, from the top left.
#[must_use]
pub fn seen(picture: &Picture, marks: &MarkChoice) -> Vec<SeenMark> {
    let small = picture.reduced(SCANNED);
    let scale = f64::from(picture.width()) / f64::from(small.width());
    let (rough, fine) = (Grey::of(&small), Grey::of(picture));
    let patterns = patterns(marks);
    let mut found: Vec<SeenMark> = Vec::new();
    let around = rough.around();
    let candidates = DARKER
        .iter()
        .flat_map(|part| rough.candidates(&rough.dark(&around, *part), &patterns));
    for (pattern, at, radius) in candidates {
        let at = Point::new((at.x + 0.5) * scale - 0.5, (at.y + 0.5) * scale - 0.5);
        let known = |m: &SeenMark| m.at.distance(at) < 0.5 * m.radius;
        if found.iter().any(known) {
            continue;
        }
        let mut levels = LEVELS.iter();
        let mark = levels.find_map(|&l| fine.mark(&patterns[pattern], at, radius * scale, l));
        let is_new = |m: &SeenMark| found.iter().all(|k| k.at.distance(m.at) >= k.radius);
        found.extend(mark.filter(is_new));
    }
    found.sort_by(|a, b| {
        (a.at.y, a.at.x)
            .partial_cmp(&(b.at.y, b.at.x))
            .unwrap_or(std::cmp::Ordering::Equal)
    });
    // Pixels' middles are at halves.
    found.iter_mut().for_each(|m| m.at += Vec2::new(0.5, 0.5));
    found
}

fn patterns(marks: &MarkChoice) -> Vec<Pattern> {
    let part = |lines: f64| (marks.size - lines * marks.line) / marks.size;
    vec![
        Pattern {
            kind: MarkKind::BedFirst,
            radii: BED_FIRST.to_vec(),
            dark: true,
        },
        Pattern {
            kind: MarkKind::Bed,
            radii: BED.to_vec(),
            dark: false,
        },
        Pattern {
            kind: MarkKind::Other,
            radii: vec![part(4.0), part(2.0), 1.0],
            dark: true,
        },
        Pattern {
            kind: MarkKind::First,
            radii: vec![part(4.0), 1.0],
            dark: false,
        },
    ]
}

impl Pattern {
    /// Lengths of the runs that a row through the middle meets, as parts of the whole width.
    fn runs(&self) -> Vec<f64> {
        let inner = std::iter::once(0.0).chain(self.radii.iter().copied());
        let rings: Vec<f64> = self
            .radii
            .iter()
            .zip(inner)
            .map(|(o, i)| (o - i) / 2.0)
            .collect();
        let outside = rings.iter().skip(1).rev().copied();
        let mut all: Vec<f64> = outside.collect();
        all.push(2.0 * rings[0]);
        all.extend(rings.iter().skip(1));
        all
    }
}

/// Lightness, rows from the top.
struct Grey {
    w: usize,
    h: usize,
    light: Vec<f32>,
}

/// A run of one row: where it begins, and whether it is dark.
type Run = (usize, bool);

impl Grey {
    fn of(picture: &Picture) -> Self {
        let tone = |p: &[u8; 4]| {
            let lit = f32::from(p[0]) * 0.3 + f32::from(p[1]) * 0.6 + f32::from(p[2]) * 0.1;
            // What is clear shows white paper.
            255.0 + (lit - 255.0) * f32::from(p[3]) / 255.0
        };
        Self {
            w: picture.width() as usize,
            h: picture.height() as usize,
            light: picture.pixels().iter().map(tone).collect(),
        }
    }

    /// The mean of the box around every pixel, by sums of all above and to the left.
    fn around(&self) -> Vec<f32> {
        let (w, h) = (self.w, self.h);
        let r = (w.max(h) / 24).max(16);
        let mut sums = vec![0.0_f64; (w + 1) * (h + 1)];
        for y in 0..h {
            let mut row = 0.0;
            for x in 0..w {
                row += f64::from(self.light[y * w + x]);
                sums[(y + 1) * (w + 1) + x + 1] = sums[y * (w + 1) + x + 1] + row;
            }
        }
        let mean = |i: usize| {
            let (x, y) = (i % w, i / w);
            let (x0, x1) = (x.saturating_sub(r), (x + r + 1).min(w));
            let (y0, y1) = (y.saturating_sub(r), (y + r + 1).min(h));
            let at = |x: usize, y: usize| sums[y * (w + 1) + x];
            let sum = at(x1, y1) + at(x0, y0) - at(x0, y1) - at(x1, y0);
            (sum / ((x1 - x0) * (y1 - y0)) as f64) as f32
        };
        (0..w * h).map(mean).collect()
    }

    /// Pixels that are darker than such a part of what lies around them.
    fn dark(&self, around: &[f32], part: f32) -> Vec<bool> {
        let pairs = self.light.iter().zip(around);
        pairs.map(|(v, mean)| *v < part * mean).collect()
    }

    /// Places whose row and column have runs in proportion: pattern, middle, outer radius, px.
    fn candidates(&self, dark: &[bool], patterns: &[Pattern]) -> Vec<(usize, Point, f64)> {
        let mut found = Vec::new();
        for y in 0..self.h {
            let row = &dark[y * self.w..(y + 1) * self.w];
            let mut runs: Vec<Run> = vec![(0, row[0])];
            for x in 1..self.w {
                if row[x] != row[x - 1] {
                    runs.push((x, row[x]));
                }
            }
            runs.push((self.w, false));
            for (n, pattern) in patterns.iter().enumerate() {
                let parts = pattern.runs();
                for at in 1..runs.len().saturating_sub(parts.len()) {
                    let wide = (runs[at + parts.len()].0 - runs[at].0) as f64;
                    if !runs[at].1
                        || wide < LEAST
                        || !in_proportion(&runs[at..=at + parts.len()], &parts)
                    {
                        continue;
                    }
                    let x = runs[at].0 as f64 + wide / 2.0 - 0.5;
                    if let Some((y, tall)) = self.column(dark, x as usize, y, &parts) {
                        found.push((n, Point::new(x, y), wide.max(tall) / 2.0));
                    }
                }
            }
        }
        found
    }

    /// The runs above and below a place in the midst of a pattern: their middle and height where they are in proportion.
    fn column(&self, dark: &[bool], x: usize, y: usize, parts: &[f64]) -> Option<(f64, f64)> {
        let half = parts.len().div_ceil(2);
        let at = |y: usize| dark[y * self.w + x];
        let (mut runs, mut top) = (Vec::new(), y);
        for n in 0..half {
            while top > 0 && at(top - 1) == at(y) ^ (n % 2 == 1) {
                top -= 1;
            }
            if top == 0 {
                return None;
            }
            runs.push((top, at(top)));
        }
        runs.reverse();
        let mut end = y;
        for n in 0..half {
            while end < self.h && at(end) == at(y) ^ (n % 2 == 1) {
                end += 1;
            }
            if end == self.h {
                return None;
            }
            runs.push((end, at(end)));
        }
        let tall = (end - runs[0].0) as f64;
        let fits = runs.len() == parts.len() + 1 && tall >= LEAST && in_proportion(&runs, parts);
        fits.then(|| (runs[0].0 as f64 + tall / 2.0 - 0.5, tall))
    }

    /// Between pixels; `None` outside.
    fn at(&self, p: Point) -> Option<f32> {
        let (x, y) = (p.x.floor(), p.y.floor());
        if x < 0.0 || y < 0.0 || x + 1.0 >= self.w as f64 || y + 1.0 >= self.h as f64 {
            return None;
        }
        let (fx, fy) = ((p.x - x) as f32, (p.y - y) as f32);
        let i = y as usize * self.w + x as usize;
        let row = |i: usize| self.light[i] + (self.light[i + 1] - self.light[i]) * fx;
        Some(row(i) + (row(i + self.w) - row(i)) * fy)
    }

    /// A mark around a place, where every ray from it meets the pattern's edges.
    fn mark(&self, pattern: &Pattern, near: Point, radius: f64, level: f32) -> Option<SeenMark> {
        let mut middle = near;
        let mut edges = self.edges(pattern, middle, radius, level)?;
        for _ in 0..6 {
            let by = shift(&edges);
            middle += by;
            edges = self.edges(pattern, middle, radius, level)?;
            if by.hypot() < 1e-3 {
                break;
            }
        }
        let outer = edges.last()?;
        let mean = |edge: &[f64]| edge.iter().sum::<f64>() / edge.len() as f64;
        let size = mean(outer);
        let in_place = edges.iter().zip(&pattern.radii).all(|(edge, part)| {
            (mean(edge) / size - part).abs() < PROPORTION
                && of_edge(edge).hypot() < APART * size
                && beside(edge) < ROUND * size
        });
        let error = edges.iter().map(|e| beside(e)).sum::<f64>() / edges.len() as f64;
        in_place.then(|| SeenMark {
            at: middle,
            kind: pattern.kind,
            radius: size,
            off: KNOWN.hypot(error / ((RAYS * edges.len()) as f64 / 2.0).sqrt()),
        })
    }

    /// How far each ray has to each edge, edge by edge, px; `None` where too few rays meet them all.
    fn edges(
        &self,
        pattern: &Pattern,
        middle: Point,
        radius: f64,
        level: f32,
    ) -> Option<Vec<Vec<f64>>> {
        const STEP: f64 = 0.25;
        let steps = (1.8 * radius / STEP).ceil() as usize + 8;
        let mut rays: Vec<Option<Vec<f64>>> = Vec::with_capacity(RAYS);
        for n in 0..RAYS {
            let way = Vec2::from_angle(n as f64 / RAYS as f64 * TAU);
            // As far as the picture goes.
            let profile: Vec<f32> = (0..steps)
                .map_while(|k| self.at(middle + way * (k as f64 * STEP)))
                .collect();
            let met = crossings(&profile, pattern, level);
            rays.push(met.map(|all| all.iter().map(|v| v * STEP).collect()));
        }
        let met = rays.iter().flatten().count();
        if (met as f64) < MET * RAYS as f64 {
            return None;
        }
        // A ray that missed has what its neighbours have on average.
        let edges = pattern.radii.len();
        let filled = |k: usize| {
            (0..RAYS)
                .map(|n| {
                    let near = |step: usize| {
                        (1..RAYS).find_map(|d| rays[(n + step * d) % RAYS].as_ref().map(|r| r[k]))
                    };
                    match &rays[n] {
                        Some(ray) => ray[k],
                        None => near(1)
                            .zip(near(RAYS - 1))
                            .map_or(radius, |(a, b)| (a + b) / 2.0),
                    }
                })
                .collect()
        };
        Some((0..edges).map(filled).collect())
    }
}

/// Whether runs, and where they end, are as long as parts of the whole say.
fn in_proportion(runs: &[Run], parts: &[f64]) -> bool {
    let wide = (runs[parts.len()].0 - runs[0].0) as f64;
    parts.iter().enumerate().all(|(n, part)| {
        let long = (runs[n + 1].0 - runs[n].0) as f64;
        // Blur takes a pixel from a run, or gives it.
        (long - part * wide).abs() <= (RUN * part * wide).max(1.0) + 0.5
    })
}

/// Where a profile from the middle outwards turns from dark to light and back, as the pattern has it, in steps.
fn crossings(profile: &[f32], pattern: &Pattern, level: f32) -> Option<Vec<f64>> {
    let (least, most) = profile
        .iter()
        .fold((f32::MAX, f32::MIN), |(a, b), &v| (a.min(v), b.max(v)));
    if most - least < 24.0 {
        return None;
    }
    let level = least + (most - least) * level;
    let mut dark = pattern.dark;
    if profile.is_empty() || (profile[0] < level) != dark {
        return None;
    }
    let mut found = Vec::with_capacity(pattern.radii.len());
    for (n, pair) in profile.windows(2).enumerate() {
        if (pair[1] < level) == dark {
            continue;
        }
        found.push(n as f64 + f64::from((level - pair[0]) / (pair[1] - pair[0])));
        dark = !dark;
        if found.len() == pattern.radii.len() {
            let quiet = (found[found.len() - 1] * QUIET) as usize;
            let around = &profile[n + 1..quiet.clamp(n + 1, profile.len())];
            return around.iter().all(|v| *v >= level).then_some(found);
        }
    }
    None
}

/// How far the middle of an edge lies from where its rays begin, px.
fn of_edge(edge: &[f64]) -> Vec2 {
    let sum = edge.iter().enumerate().fold(Vec2::ZERO, |sum, (n, r)| {
        sum + Vec2::from_angle(n as f64 / edge.len() as f64 * TAU) * *r
    });
    sum * (2.0 / edge.len() as f64)
}

/// The same of all edges, the outer ones counting more.
fn shift(edges: &[Vec<f64>]) -> Vec2 {
    let weight = |edge: &Vec<f64>| edge.iter().sum::<f64>();
    let all: f64 = edges.iter().map(weight).sum();
    edges.iter().fold(Vec2::ZERO, |sum, edge| {
        sum + of_edge(edge) * (weight(edge) / all)
    })
}

/// How far an edge lies beside an ellipse around its middle: the root mean square of what is left of its radii without
/// their mean and their second and fourth waves, px.
fn beside(edge: &[f64]) -> f64 {
    let n = edge.len() as f64;
    let mut left = edge.to_vec();
    for wave in [0.0, 1.0, 2.0, 4.0] {
        let angle = |k: usize| wave * k as f64 / n * TAU;
        let part = |f: fn(f64) -> f64| {
            let scale = if wave == 0.0 { 1.0 } else { 2.0 };
            edge.iter()
                .enumerate()
                .map(|(k, r)| r * f(angle(k)))
                .sum::<f64>()
                * scale
                / n
        };
        let (cos, sin) = (part(f64::cos), part(f64::sin));
        for (k, r) in left.iter_mut().enumerate() {
            *r -= cos * angle(k).cos() + sin * angle(k).sin();
        }
    }
    (left.iter().map(|r| r * r).sum::<f64>() / n).sqrt()
}
