//! The four sides of a quadrilateral, found to a part of a pixel along the artwork's own edges.
//!
//! ```text
//!      outside
//!   ┄┄┄┄│┄┄┄│┄┄┄│┄┄┄   rough side, looked across at many places
//!   ────●───●───●───   where the colour changes most: a line through most of them is the side
//!      inside
//! ```
//!
//! The line is the one that most places agree on (Fischler & Bolles 1981, "Random sample consensus", with pairs in a fixed
//! order instead of random ones), then the total least-squares line through these. Where sides are bent alike, the lens is
//! what makes all four straight.

use kurbo::{Point, Vec2};

use crate::clean::square::{Quad, Seen};
use crate::least_squares::line_through;
use crate::lens::Lens;
use crate::picture::Picture;

/// Places at which a side is looked across.
const PLACES: usize = 128;
/// Part of a side beside each corner that is left out: corners are round, worn and bent up.
const BESIDE: f64 = 0.06;
/// What lies within so many px of a line is on it, in the last round.
const ON: f64 = 1.2;
/// Least change of colour, 0 to 255, that is an edge.
const LEAST_EDGE: f64 = 5.0;
/// Most that a lens moves the corners of a picture, percent, and the steps in which it is sought.
const LENS_MOST: f64 = 16.0;
/// A lens is told when it is so many times what it may be off.
const LENS_SURE: f64 = 4.0;
/// Below so many percent nothing is seen of it.
const LENS_LEAST: f64 = 0.1;

/// The sides near to a rough quadrilateral, at most `reach` px away, with the lens that makes all four straight. `None` where
/// a side has no edge.
pub(super) fn sides(picture: &Picture, rough: Quad, reach: f64) -> Option<Seen> {
    const ROUNDS: usize = 4;
    let size = (picture.width(), picture.height());
    let mut known = 0.0;
    let mut corners = rough;
    let mut reach = reach.max(6.0);
    let mut found = None;
    for round in 0..ROUNDS {
        let model = Lens::new(size, known);
        let looked: Vec<Looked> = (0..4)
            .map(|n| looked(picture, &model, [corners[n], corners[(n + 1) % 4]], reach))
            .collect::<Option<_>>()?;
        if round + 1 < ROUNDS {
            let curves: Vec<Vec<Point>> = looked.iter().map(|s| s.along_curve(reach)).collect();
            known = bend(&curves, size);
        }
        let model = Lens::new(size, known);
        let on = if round < 2 {
            (reach / 12.0).max(2.0 * ON)
        } else {
            ON
        };
        let lines: Vec<OnLine> = looked
            .iter()
            .map(|s| s.on_line(&model, on))
            .collect::<Option<_>>()?;
        let meet = |n: usize| crossing(lines[(n + 3) % 4].line, lines[n].line);
        let straight = [meet(0)?, meet(1)?, meet(2)?, meet(3)?];
        corners = straight.map(|p| model.bent(p));
        found = Some(Seen {
            corners,
            off: lines.iter().map(|l| l.off).fold(0.0, f64::max),
            support: lines.iter().map(|l| l.share).fold(1.0, f64::min),
            lens: known,
        });
        reach = (reach / 3.0).max(6.0);
    }
    found
}

/// The places along four sides where there is an edge, at most `reach` px away; of each side those that lie on the one line
/// that most agree on, as the lens shows it. `None` where a side has no edge.
pub(super) fn edges(picture: &Picture, seen: &Seen, reach: f64) -> Option<[Vec<Point>; 4]> {
    let lens = Lens::new((picture.width(), picture.height()), seen.lens);
    let side = |n: usize| {
        let ends = [seen.corners[n], seen.corners[(n + 1) % 4]];
        looked(picture, &lens, ends, reach).map(|found| found.along_curve(reach))
    };
    Some([side(0)?, side(1)?, side(2)?, side(3)?])
}

/// Where edges were seen across one side, px of the picture, those with no edge left out.
struct Looked(Vec<Point>);

/// A line through most of what was seen of a side, straightened.
struct OnLine {
    line: (Point, Vec2),
    share: f64,
    off: f64,
}

fn looked(picture: &Picture, lens: &Lens, ends: [Point; 2], reach: f64) -> Option<Looked> {
    let [from, to] = ends.map(|p| lens.straight(p));
    let along = to - from;
    if along.hypot() < 8.0 {
        return None;
    }
    // Clockwise with y down: the inside lies to the right of the way.
    let inwards = Vec2::new(-along.y, along.x).normalize();
    let reach = reach.min(along.hypot() / 4.0);
    let step = (reach / 40.0).clamp(0.5, 2.0);
    let count = (2.0 * reach / step) as usize + 1;
    let profiles: Vec<(Point, Vec2, Vec<[f64; 3]>)> = (0..PLACES)
        .map(|k| {
            let t = BESIDE + (1.0 - 2.0 * BESIDE) * (k as f64 + 0.5) / PLACES as f64;
            let middle = from + along * t;
            let (start, end) = (
                lens.bent(middle - inwards * reach),
                lens.bent(middle + inwards * reach),
            );
            let by = (end - start) / (count - 1) as f64;
            let values = (0..count).map(|i| colour(picture, start + by * i as f64));
            (start, by, values.collect())
        })
        .collect();
    // The change of colour from outside to inside that the side has as a whole, close to it and farther off: a border
    // that is drawn beside an edge has its own.
    let change = |reach: usize| -> Option<[f64; 3]> {
        let middle = count / 2;
        let mut change = [0.0; 3];
        for (.., values) in &profiles {
            for k in 1..=reach {
                for (c, sum) in change.iter_mut().enumerate() {
                    *sum += values[middle + k][c] - values[middle - k][c];
                }
            }
        }
        let size = change.iter().map(|v| v * v).sum::<f64>().sqrt();
        let mean = size / (PLACES * reach) as f64;
        (mean > LEAST_EDGE).then(|| change.map(|v| v / size))
    };
    let half = (count - 1) / 2;
    let mut ways: Vec<[f64; 3]> = [half, half / 3].into_iter().filter_map(change).collect();
    if ways.is_empty() {
        // A drawn line has the same on both sides: its outer edge, whichever way it goes.
        ways = vec![[0.577; 3], [-0.577; 3]];
    }
    let at = |way: [f64; 3]| {
        let places = profiles.iter().filter_map(|(start, by, values)| {
            let tones: Vec<f64> = values
                .iter()
                .map(|v| (0..3).map(|c| v[c] * way[c]).sum())
                .collect();
            let i = steepest(&tones, (1.2 / step).max(reach / step / 14.0))?;
            Some(*start + *by * i)
        });
        Looked(places.collect())
    };
    let all = ways.into_iter().map(at);
    all.max_by_key(|looked| looked.along_curve(reach).len())
}

/// What the lens does, percent, seen in the edge from one place to another, which is straight in truth; `None` where there
/// is no edge at most `reach` px away, nought where it lies straight as far as can be seen.
pub(super) fn along(picture: &Picture, ends: [Point; 2], reach: f64) -> Option<f64> {
    let size = (picture.width(), picture.height());
    let mut known = 0.0;
    for reach in [reach, reach / 2.0, reach / 4.0] {
        let reach = reach.max(6.0);
        let curve = looked(picture, &Lens::new(size, known), ends, reach)?.along_curve(reach);
        if curve.len() < PLACES / 2 {
            return None;
        }
        known = bend(&[curve], size);
    }
    Some(known)
}

/// Where tones rise most, as a place among them: the greatest of the derivative of a Gaussian of so many
/// places, refined by the parabola through its neighbours.
fn steepest(tones: &[f64], sigma: f64) -> Option<f64> {
    let half = (3.0 * sigma).ceil() as usize;
    if tones.len() < 2 * half + 3 {
        return None;
    }
    let weights: Vec<f64> = (1..=half)
        .map(|k| k as f64 * (-0.5 * (k as f64 / sigma).powi(2)).exp())
        .collect();
    let norm: f64 = weights.iter().sum();
    let slope = |i: usize| -> f64 {
        let sum = |(k, w): (usize, &f64)| w * (tones[i + k + 1] - tones[i - k - 1]);
        weights.iter().enumerate().map(sum).sum::<f64>() / norm
    };
    let slopes: Vec<f64> = (half..tones.len() - half).map(slope).collect();
    let middle = (slopes.len() - 1) as f64 / 2.0;
    // Of two edges alike the nearer one.
    let value = |i: usize| slopes[i] * (1.0 - 0.4 * ((i as f64 - middle) / middle).powi(2));
    let best = (1..slopes.len() - 1).max_by(|&i, &k| value(i).total_cmp(&value(k)))?;
    if slopes[best] < LEAST_EDGE {
        return None;
    }
    let (a, b, c) = (slopes[best - 1], slopes[best], slopes[best + 1]);
    let curve = a - 2.0 * b + c;
    let part = if curve < 0.0 {
        (0.5 * (a - c) / curve).clamp(-0.5, 0.5)
    } else {
        0.0
    };
    Some(half as f64 + best as f64 + part)
}

/// The colour at a place, between pixels in proportion; the nearest inside beyond the sides.
fn colour(picture: &Picture, at: Point) -> [f64; 3] {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let x = (at.x - 0.5).clamp(0.0, (w - 1) as f64);
    let y = (at.y - 0.5).clamp(0.0, (h - 1) as f64);
    let (x0, y0) = (x as usize, y as usize);
    let (x1, y1) = ((x0 + 1).min(w - 1), (y0 + 1).min(h - 1));
    let (u, v) = (x - x0 as f64, y - y0 as f64);
    let value = |x: usize, y: usize, c: usize| {
        let p = picture.pixels()[y * w + x];
        let alpha = f64::from(p[3]) / 255.0;
        f64::from(p[c]) * alpha + 255.0 * (1.0 - alpha)
    };
    std::array::from_fn(|c| {
        let top = value(x0, y0, c) * (1.0 - u) + value(x1, y0, c) * u;
        let low = value(x0, y1, c) * (1.0 - u) + value(x1, y1, c) * u;
        top * (1.0 - v) + low * v
    })
}

impl Looked {
    /// The line that most places agree on within `on` px.
    fn on_line(&self, lens: &Lens, on: f64) -> Option<OnLine> {
        let at: Vec<Point> = self.0.iter().map(|&p| lens.straight(p)).collect();
        if at.len() < PLACES / 8 {
            return None;
        }
        let off = |(p, along): (Point, Vec2), q: Point| along.cross(q - p).abs();
        let through = |i: usize, k: usize| {
            let along = at[k] - at[i];
            (along.hypot() > 4.0).then(|| (at[i], along.normalize()))
        };
        let n = at.len();
        let pairs = (0..n).flat_map(|i| [n / 2, n / 3].map(|by| (i, (i + by) % n)));
        let lines = pairs.filter_map(|(i, k)| through(i, k));
        let mut line = lines
            .map(|line| (at.iter().filter(|&&q| off(line, q) < on).count(), line))
            .max_by_key(|(count, _)| *count)?
            .1;
        let mut kept: Vec<Point> = Vec::new();
        for _ in 0..4 {
            kept = at.iter().copied().filter(|&q| off(line, q) < on).collect();
            line = line_through(&kept)?;
        }
        let rms =
            (kept.iter().map(|&q| off(line, q).powi(2)).sum::<f64>() / kept.len() as f64).sqrt();
        Some(OnLine {
            line,
            share: kept.len() as f64 / PLACES as f64,
            // At the end of a line of n places its place is known as well as 2 / √n of one; places have something in common.
            off: (4.0 * rms / (kept.len() as f64).sqrt()).max(0.05),
        })
    }

    /// What lies along the parabola that most places agree on, for the lens to be sought in.
    fn along_curve(&self, reach: f64) -> Vec<Point> {
        let (Some(&first), Some(&last)) = (self.0.first(), self.0.last()) else {
            return Vec::new();
        };
        let along = (last - first).normalize();
        let put: Vec<(f64, f64)> = self
            .0
            .iter()
            .map(|&p| (along.dot(p - first), along.cross(p - first)))
            .collect();
        let n = put.len();
        let on = (reach / 20.0).max(ON);
        let curve = |i: usize, j: usize, k: usize| {
            let [(x0, y0), (x1, y1), (x2, y2)] = [put[i], put[j], put[k]];
            let (a, b) = ((y1 - y0) / (x1 - x0), (y2 - y0) / (x2 - x0));
            let c = (b - a) / (x2 - x1);
            move |x: f64| y0 + (a + c * (x - x1)) * (x - x0)
        };
        let count =
            |f: &dyn Fn(f64) -> f64| put.iter().filter(|(x, y)| (f(*x) - y).abs() < on).count();
        let threes = (0..n).map(|i| (i, (i + n / 3) % n, (i + 2 * n / 3) % n));
        let best = threes.max_by_key(|&(i, j, k)| count(&curve(i, j, k)));
        let Some((i, j, k)) = best else {
            return Vec::new();
        };
        let best = curve(i, j, k);
        let near = |(x, y): &(f64, f64)| (best(*x) - y).abs() < on;
        let kept = self.0.iter().zip(&put).filter(|(_, put)| near(put));
        kept.map(|(p, _)| *p).collect()
    }
}

/// What the lens does, percent, so that places of several lines each lie straight; nought where it is not seen for sure.
fn bend(lines: &[Vec<Point>], size: (u32, u32)) -> f64 {
    let count: usize = lines.iter().map(Vec::len).sum();
    let square = |percent: f64| -> f64 {
        let lens = Lens::new(size, percent);
        let of = |line: &Vec<Point>| -> f64 {
            let at: Vec<Point> = line.iter().map(|&p| lens.straight(p)).collect();
            let Some((p, along)) = line_through(&at) else {
                return 0.0;
            };
            at.iter().map(|&q| along.cross(q - p).powi(2)).sum()
        };
        lines.iter().map(of).sum()
    };
    if count < 12 {
        return 0.0;
    }
    // The sum has one lowest place: bracketed, then narrowed by golden sections.
    let mut ends = (-LENS_MOST, LENS_MOST);
    let part = (5f64.sqrt() - 1.0) / 2.0;
    for _ in 0..40 {
        let by = (ends.1 - ends.0) * part;
        let (a, b) = (ends.1 - by, ends.0 + by);
        if square(a) < square(b) {
            ends.1 = b;
        } else {
            ends.0 = a;
        }
    }
    let best = (ends.0 + ends.1) / 2.0;
    let least = square(best);
    // How far it may be off, from how fast the sum grows beside it.
    let step = 0.25;
    let curve = (square(best + step) + square(best - step) - 2.0 * least) / (step * step);
    let variance = least / count.saturating_sub(8).max(1) as f64;
    let off = (2.0 * variance / curve.max(1e-12)).sqrt();
    // Places beside each other have their errors in common.
    if best.abs() < LENS_LEAST || best.abs() < LENS_SURE * 2.0 * off || best.abs() > LENS_MOST - 0.5
    {
        return 0.0;
    }
    (best * 1000.0).round() / 1000.0
}

/// Where two lines cross; `None` where they hardly do.
fn crossing(a: (Point, Vec2), b: (Point, Vec2)) -> Option<Point> {
    let across = a.1.cross(b.1);
    (across.abs() > 0.05).then(|| a.0 + a.1 * ((b.0 - a.0).cross(b.1) / across))
}
