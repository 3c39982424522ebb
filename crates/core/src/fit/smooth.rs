//! Smoothing: the wobble of a noisy edge taken out before curves are fitted.
//!
//! Every point is moved to the parabola that fits its surroundings best, so bends keep their
//! radius (a running mean would shrink them). Each place takes the widest surroundings that the
//! parabola still explains to within the edge's own wobble, so small round shapes keep their form.
//! The wobble is measured first: for each pair of inks the typical distance of a boundary point
//! from the parabola through its near surroundings.
//! Sources: Savitzky & Golay 1964, "Smoothing and differentiation of data by simplified least
//! squares procedures" (Anal. Chem. 36(8) 1627–1639); the choice of width after Lepski 1991.

use kurbo::{Point, Vec2};

use crate::fit::track::Track;
use crate::least_squares::solve;

/// Widths tried, as parts of the greatest.
const WIDTHS: [f64; 5] = [0.25, 0.36, 0.5, 0.7, 1.0];
/// A wider parabola may leave this much more than the wobble.
const EXPLAINED: f64 = 1.25;
/// A closed edge is at least this many times as long as its widest surroundings.
const ROUND: f64 = 7.0;
/// A track of so many points shows its wobble by a part of them.
const MANY: usize = 90;
/// Wobble below this is not worth smoothing, px.
pub(super) const LEAST_WOBBLE_PX: f64 = 0.035;

/// A parabola around a point: its place there, and what it leaves.
struct Local {
    at: Point,
    /// Root mean square distance of the points from it.
    off: f64,
}

impl Track<'_> {
    /// The parabola around point `i`, weighted towards it; `None` with too few points.
    fn parabola(&self, i: usize, half: f64) -> Option<Local> {
        // Sums of w·uᵏ for k up to 4, and of w·uᵏ·p.
        let (mut m, mut mp) = ([0.0; 5], [Vec2::ZERO; 3]);
        let mut count = 0;
        let origin = self.points[i];
        let (mut left, mut right) = (0.0f64, 0.0f64);
        self.around(i, half, |s, p| {
            let u = s / half;
            let d = p - origin;
            let mut power = weight(u);
            for (k, sum) in m.iter_mut().enumerate() {
                *sum += power;
                if k < 3 {
                    mp[k] += d * power;
                }
                power *= u;
            }
            (left, right) = (left.min(u), right.max(u));
            count += 1;
        });
        // One-sided surroundings would guess, unless they end at the track's own end.
        let (before, after) = if self.closed {
            (f64::INFINITY, f64::INFINITY)
        } else {
            (
                self.length[i] / half,
                (self.total() - self.length[i]) / half,
            )
        };
        if count < 6 || left > -0.3f64.min(before - 1e-9) || right < 0.3f64.min(after - 1e-9) {
            return None;
        }
        let c = solve(
            [[m[0], m[1], m[2]], [m[1], m[2], m[3]], [m[2], m[3], m[4]]],
            mp.map(|p| [p.x, p.y]),
        )?
        .map(|[x, y]| Vec2::new(x, y));
        let (mut square, mut weights) = (0.0, 0.0);
        self.around(i, half, |s, p| {
            let u = s / half;
            let told = c[0] + c[1] * u + c[2] * u * u;
            let tangent = c[1] + c[2] * (2.0 * u);
            // Only what lies across the edge: along it points may lie anywhere.
            let across = (p - origin - told).cross(tangent) / tangent.hypot().max(1e-12);
            square += weight(u) * across * across;
            weights += weight(u);
        });
        // Three of the points' freedoms went into the parabola.
        let freedom = (f64::from(count) - 3.0) / f64::from(count);
        Some(Local {
            at: origin + c[0],
            off: (square / weights / freedom).sqrt(),
        })
    }

    /// Distances of points from the parabolas through their surroundings, `half` to each side; of a
    /// long track every third point is looked at.
    pub(super) fn wobbles(&self, half: f64) -> Vec<f64> {
        let step = if self.points.len() < MANY { 1 } else { 3 };
        let looked = (0..self.points.len()).step_by(step);
        let parabolas = looked.filter_map(|i| self.parabola(i, half));
        parabolas.map(|local| local.off).collect()
    }

    /// The points smoothed over surroundings of at most `greatest` to each side; `wobble` is that
    /// of the edge. Ends of an open track stay.
    pub(super) fn smoothed(&self, greatest: f64, wobble: f64) -> Vec<Point> {
        let n = self.points.len();
        let greatest = if self.closed {
            greatest.min(self.total() / ROUND)
        } else {
            greatest
        };
        (0..n)
            .map(|i| {
                let mut best = self.points[i];
                if !self.closed && (i == 0 || i == n - 1) {
                    return best;
                }
                for part in WIDTHS {
                    match self.parabola(i, part * greatest) {
                        Some(local) if local.off <= EXPLAINED * wobble => best = local.at,
                        Some(_) => break,
                        None => {}
                    }
                }
                best
            })
            .collect()
    }
}

/// Weight of a point at a part of the way to the border of the surroundings.
fn weight(u: f64) -> f64 {
    1.0 - 0.9 * u * u
}

/// The middle one of the wobbles found; nought without any.
pub(super) fn typical(mut wobbles: Vec<f64>) -> f64 {
    if wobbles.is_empty() {
        return 0.0;
    }
    let middle = wobbles.len() / 2;
    *wobbles.select_nth_unstable_by(middle, f64::total_cmp).1
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A circle with points off by turns, as noise of one pixel's wavelength.
    fn rough(r: f64, off: f64) -> Vec<Point> {
        let n = (std::f64::consts::TAU * r) as usize;
        (0..n)
            .map(|i| {
                let angle = i as f64 / n as f64 * std::f64::consts::TAU;
                let r = r + if i % 3 == 0 { off } else { -off / 2.0 };
                Point::ORIGIN + Vec2::from_angle(angle) * r
            })
            .collect()
    }

    #[test]
    fn wobble_goes_and_the_radius_stays() {
        for r in [6.0, 20.0, 100.0] {
            let points = rough(r, 0.2);
            let track = Track::new(&points, true);
            let wobble = typical(track.wobbles(6.0));
            assert!((0.08..0.3).contains(&wobble), "{wobble}");
            for p in track.smoothed(6.0, wobble) {
                let off = (p.to_vec2().hypot() - r).abs();
                assert!(off < 0.12, "radius {r}: {off}");
            }
        }
    }
}
