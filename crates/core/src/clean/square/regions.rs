//! Rough quadrilaterals: regions of a picture that are as good as bounded by four straight sides.
//!
//! ```text
//!   every threshold of lightness and colour ─► connected regions ─► convex hull ─► its four sides
//!                                                                  ░░░▒▒▓▓  what stays over many thresholds counts most
//! ```
//!
//! Regions over all thresholds: Matas, Chum, Urban & Pajdla 2002, "Robust wide baseline stereo from maximally stable
//! extremal regions" (BMVC), from which the idea is taken that what changes little is a thing. The hull loses the side
//! whose loss adds the least area until four are left.

use kurbo::Point;
use rayon::prelude::*;

use crate::clean::square::{Quad, clockwise};
use crate::fine::box_means;
use crate::picture::Picture;
use crate::polyline::hull;

/// Pixels of the copy that is looked at.
const ENOUGH: u64 = 120_000;
/// Thresholds of each channel.
const THRESHOLDS: usize = 20;
/// Least area of a region, as a part of the picture's.
const LEAST: f64 = 0.012;
/// How much larger four sides may be than the hull they stand around.
const AROUND: f64 = 1.07;
/// Quadrilaterals with corners so near are one, as a part of the picture's diagonal.
const ALIKE: f64 = 0.02;

/// A rough quadrilateral, px of the picture.
#[derive(Clone, Copy, Debug)]
pub(super) struct Rough {
    /// Its corners.
    pub corners: Quad,
    /// In how many thresholds it was there.
    pub votes: usize,
    /// How far a corner may be off, px.
    pub reach: f64,
}

/// All rough quadrilaterals, those that are there in most thresholds first.
pub(super) fn regions(picture: &Picture) -> Vec<Rough> {
    let small = picture.reduced(ENOUGH);
    let (w, h) = (small.width() as usize, small.height() as usize);
    let scale = f64::from(picture.width()) / w as f64;
    let diagonal = (w as f64).hypot(h as f64);
    let channels = channels(&small);
    let thresholds: Vec<(usize, u8, bool)> = channels
        .iter()
        .enumerate()
        .flat_map(|(n, values)| {
            levels(values)
                .into_iter()
                .flat_map(move |level| [(n, level, true), (n, level, false)])
        })
        .collect();
    let found: Vec<Vec<Quad>> = thresholds
        .par_iter()
        .map(|&(n, level, above)| {
            let values = &channels[n];
            let inside: Vec<bool> = values.iter().map(|&v| (v > level) == above).collect();
            connected(&inside, w, h)
                .iter()
                .filter_map(|hull| four_sides(hull))
                .collect()
        })
        .collect();
    let mut all: Vec<Rough> = Vec::new();
    for corners in found.into_iter().flatten() {
        let near =
            |r: &&mut Rough| (0..4).all(|n| (r.corners[n] - corners[n]).hypot() < ALIKE * diagonal);
        match all.iter_mut().find(near) {
            Some(known) => {
                // The mean of all so far: one threshold's stray corner does not matter.
                known.votes += 1;
                for (mean, corner) in known.corners.iter_mut().zip(corners) {
                    *mean += (corner - *mean) / known.votes as f64;
                }
            }
            None => all.push(Rough {
                corners,
                votes: 1,
                reach: 0.0,
            }),
        }
    }
    for rough in &mut all {
        rough.corners = rough.corners.map(|p| Point::new(p.x * scale, p.y * scale));
        rough.reach = 0.6 * ALIKE * diagonal * scale;
    }
    all.sort_by_key(|r| std::cmp::Reverse(r.votes));
    all
}

/// Lightness, the same against what lies around, and two differences of colour; 0 to 255.
fn channels(picture: &Picture) -> Vec<Vec<u8>> {
    let pixels = picture.pixels();
    let tone = |p: &[u8; 4]| {
        (f32::from(p[0]) * 0.3 + f32::from(p[1]) * 0.6 + f32::from(p[2]) * 0.1).round() as u8
    };
    let luma: Vec<u8> = pixels.iter().map(tone).collect();
    let byte = |v: f32| v.round().clamp(0.0, 255.0) as u8;
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let around = box_means(|i| f64::from(luma[i]), (w, h), w.max(h) / 5);
    let levelled = luma
        .iter()
        .zip(&around)
        .map(|(&v, &m)| byte(f32::from(v) / m.max(1.0) * 128.0));
    let red = pixels
        .iter()
        .map(|p| byte(128.0 + (f32::from(p[0]) - f32::from(p[1]))));
    let blue = pixels
        .iter()
        .map(|p| byte(128.0 + f32::from(p[2]) - (f32::from(p[0]) + f32::from(p[1])) / 2.0));
    vec![
        luma.clone(),
        levelled.collect(),
        red.collect(),
        blue.collect(),
    ]
}

/// Thresholds: half of them between as many pixels each, half as far apart each.
fn levels(values: &[u8]) -> Vec<u8> {
    let mut sorted = values.to_vec();
    sorted.sort_unstable();
    let part = |t: f64| sorted[((sorted.len() - 1) as f64 * t) as usize];
    let (least, most) = (f64::from(part(0.005)), f64::from(part(0.995)));
    let half = THRESHOLDS / 2;
    let mut levels: Vec<u8> = (1..=half)
        .flat_map(|k| {
            let t = k as f64 / (half + 1) as f64;
            [part(t), (least + (most - least) * t) as u8]
        })
        .collect();
    levels.sort_unstable();
    levels.dedup();
    levels
}

/// Convex hulls of the connected regions that are large enough and do not touch the picture's sides.
fn connected(inside: &[bool], w: usize, h: usize) -> Vec<Vec<Point>> {
    let mut seen = vec![false; inside.len()];
    let mut waiting = Vec::new();
    let mut hulls = Vec::new();
    let least = (LEAST * inside.len() as f64) as usize;
    for start in 0..inside.len() {
        if seen[start] || !inside[start] {
            continue;
        }
        seen[start] = true;
        waiting.push(start);
        let (mut count, mut touches) = (0, false);
        let mut rows: Vec<(usize, usize)> = vec![(usize::MAX, 0); h];
        while let Some(i) = waiting.pop() {
            let (x, y) = (i % w, i / w);
            count += 1;
            touches |= x == 0 || y == 0 || x + 1 == w || y + 1 == h;
            rows[y] = (rows[y].0.min(x), rows[y].1.max(x + 1));
            let next = [
                (x > 0).then(|| i - 1),
                (x + 1 < w).then(|| i + 1),
                (y > 0).then(|| i - w),
                (y + 1 < h).then(|| i + w),
            ];
            for k in next.into_iter().flatten() {
                if inside[k] && !seen[k] {
                    seen[k] = true;
                    waiting.push(k);
                }
            }
        }
        if touches {
            continue;
        }
        let ends = rows.iter().enumerate().filter(|(_, r)| r.0 < r.1);
        let points = ends.flat_map(|(y, &(from, to))| {
            [(from, y), (to, y), (from, y + 1), (to, y + 1)]
                .map(|(x, y)| Point::new(x as f64, y as f64))
        });
        let hull = hull(points.collect());
        // A thin frame counts by what it stands around.
        if count * 40 > least && area(&hull) > least as f64 {
            hulls.push(hull);
        }
    }
    hulls
}

fn area(ring: &[Point]) -> f64 {
    let next = ring.iter().cycle().skip(1);
    let twice: f64 = ring
        .iter()
        .zip(next)
        .map(|(a, b)| a.to_vec2().cross(b.to_vec2()))
        .sum();
    twice.abs() / 2.0
}

/// The four sides that stand around a hull, where they are hardly larger than it.
fn four_sides(hull: &[Point]) -> Option<Quad> {
    let mut ring = hull.to_vec();
    let whole = area(&ring);
    while ring.len() > 4 {
        let n = ring.len();
        // Side k goes from k to k + 1; without it its neighbours meet beyond it.
        let lost = |k: usize| -> Option<(f64, Point)> {
            let [a, b, c, d] = [n - 1, 0, 1, 2].map(|by| ring[(k + by) % n]);
            let (u, v) = (b - a, c - d);
            let across = u.cross(v);
            let t = (c - b).cross(v) / across;
            let s = (c - b).cross(u) / across;
            let meets = across.abs() > 1e-9 && t >= 0.0 && s >= 0.0;
            let p = b + u * t;
            meets.then(|| ((c - b).cross(p - b).abs() / 2.0, p))
        };
        let (k, (_, p)) = (0..n)
            .filter_map(|k| Some((k, lost(k)?)))
            .min_by(|a, b| a.1.0.total_cmp(&b.1.0))?;
        ring[k] = p;
        ring.remove((k + 1) % n);
    }
    let corners: Quad = ring.try_into().ok()?;
    (area(&corners) < AROUND * whole).then(|| clockwise(corners))
}
