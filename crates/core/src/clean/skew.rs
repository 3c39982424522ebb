//! Skew: by how much a scan lies askew, found from its own edges.
//!
//! ```text
//!   edge points projected on a line:   askew  ▂▃▄▅▄▃▂     straight  ▁█▁▁▁█▁
//! ```
//!
//! Straight edges that run along the sides fall on few places of the projection, so the sum of the
//! squared counts is greatest when the picture is straight. Horizontals and verticals both count.
//! Source: Postl 1986, "Detection of linear oblique structures and skew scan in digitized
//! documents" (Proc. 8th ICPR, 687–689); the squared counts as in Baird 1987, "The skew angle of
//! printed documents".

use kurbo::Point;

use crate::clean::Ground;
use crate::picture::Picture;

/// Greatest skew looked for, degrees.
const MOST: f64 = 20.0;
/// Steps of the search, degrees.
const STEPS: [f64; 3] = [0.5, 0.1, 0.02];
/// Pixels of the copy that is looked at.
const ENOUGH: u64 = 600_000;
/// How much greater than typical the sum must be at the angle found.
const CLEAR_PEAK: f64 = 1.3;
/// Fewest points that say anything.
const FEWEST: usize = 60;
/// How far a pixel must be off the ground to be drawn.
const DRAWN: u8 = 50;

/// The turn that makes a picture straight, degrees clockwise; `None` where nothing in it says.
#[must_use]
pub fn skew(picture: &Picture) -> Option<f64> {
    let small = picture.reduced(ENOUGH);
    let points = edge_points(&small);
    if points.len() < FEWEST {
        return None;
    }
    let reach = f64::from(small.width()).hypot(f64::from(small.height()));
    let mut counts = vec![0.0f64; 2 * reach as usize + 8];
    let mut sum = |degrees: f64| {
        let (sin, cos) = degrees.to_radians().sin_cos();
        let mut along = |u: f64, v: f64| {
            counts.fill(0.0);
            let middle = (counts.len() / 2) as f64;
            for p in &points {
                // Shared between two places, so that the sum has no steps.
                let at = p.x * u + p.y * v + middle;
                let (low, part) = (at as usize, at.fract());
                counts[low] += 1.0 - part;
                counts[low + 1] += part;
            }
            counts.iter().map(|c| c * c).sum::<f64>()
        };
        // The picture turned clockwise: its rows, then its columns.
        along(sin, cos).max(along(cos, -sin))
    };
    let coarse: Vec<(f64, f64)> = (0..=(2.0 * MOST / STEPS[0]) as usize)
        .map(|n| -MOST + n as f64 * STEPS[0])
        .map(|a| (a, sum(a)))
        .collect();
    let mut sums: Vec<f64> = coarse.iter().map(|c| c.1).collect();
    sums.sort_by(f64::total_cmp);
    let typical = sums[sums.len() / 2];
    let greatest = |all: &[(f64, f64)]| {
        let best = all
            .iter()
            .max_by(|a, b| a.1.total_cmp(&b.1).then(b.0.abs().total_cmp(&a.0.abs())));
        best.copied()
    };
    let (mut angle, peak) = greatest(&coarse)?;
    if peak < CLEAR_PEAK * typical || angle.abs() > MOST - STEPS[0] {
        return None;
    }
    for pair in STEPS.windows(2) {
        let n = (pair[0] / pair[1]).round() as i32;
        let fine: Vec<(f64, f64)> = (-n..=n)
            .map(|k| angle + f64::from(k) * pair[1])
            .map(|a| (a, sum(a)))
            .collect();
        angle = greatest(&fine)?.0;
    }
    Some((angle * 100.0).round() / 100.0)
}

/// Places half way between drawn pixels and their neighbours that are not, from the middle.
fn edge_points(picture: &Picture) -> Vec<Point> {
    let ground = Ground::of(picture);
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let drawn: Vec<bool> = picture
        .pixels()
        .iter()
        .enumerate()
        .map(|(i, &p)| ground.off(p, i % w, i / w) > DRAWN)
        .collect();
    let middle = Point::new(w as f64 / 2.0, h as f64 / 2.0);
    let mut points = Vec::new();
    for y in 0..h {
        for x in 0..w {
            let i = y * w + x;
            if x + 1 < w && drawn[i] != drawn[i + 1] {
                points.push(Point::new(x as f64 + 1.0, y as f64 + 0.5));
            }
            if y + 1 < h && drawn[i] != drawn[i + w] {
                points.push(Point::new(x as f64 + 0.5, y as f64 + 1.0));
            }
        }
    }
    points.iter().map(|p| (*p - middle).to_point()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Bars of a sign, turned clockwise.
    fn bars(degrees: f64) -> Picture {
        let (sin, cos) = (-degrees).to_radians().sin_cos();
        let pixels = (0..400 * 300)
            .map(|i| {
                let (x, y) = ((i % 400) as f64 - 199.5, (i / 400) as f64 - 149.5);
                let (u, v) = (x * cos - y * sin, x * sin + y * cos);
                let bar =
                    u.abs() < 120.0 && (v.abs() < 90.0) && (v + 200.0).rem_euclid(30.0) < 14.0;
                if bar { [30, 30, 30, 255] } else { [255; 4] }
            })
            .collect();
        Picture::new(400, 300, pixels).unwrap()
    }

    #[test]
    fn a_known_skew_is_found_within_a_tenth_of_a_degree() {
        for degrees in [-11.0, -1.3, 0.0, 2.7, 8.0] {
            let found = skew(&bars(degrees)).unwrap();
            assert!((found + degrees).abs() < 0.1, "{degrees}: {found}");
        }
    }

    #[test]
    fn a_disc_has_no_skew() {
        let pixels = (0..200 * 200)
            .map(|i| {
                let r = ((i % 200) as f64 - 99.5).hypot((i / 200) as f64 - 99.5);
                if r < 70.0 { [0, 0, 0, 255] } else { [255; 4] }
            })
            .collect();
        assert_eq!(skew(&Picture::new(200, 200, pixels).unwrap()), None);
    }
}
