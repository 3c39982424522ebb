//! Boundary points as a curve that `kurbo` can fit: positions, smoothed tangents, moments.
//!
//! The parameter runs from 0 to 1 evenly over the points. Moment integrals come from prefix sums
//! of the exact integrals of each straight step, so any stretch costs the same.

use std::ops::Range;

use kurbo::{CurveFitSample, ParamCurveFit, Point, Vec2};

/// Points on both sides from which a tangent is taken.
const REACH: usize = 3;

/// A run of boundary points with prefix sums.
pub(super) struct Samples {
    points: Vec<Point>,
    tangents: Vec<Vec2>,
    /// Direction of every tangent, radians, unwrapped: it never jumps by a full turn.
    directions: Vec<f64>,
    moments: Vec<[f64; 3]>,
}

impl Samples {
    /// `smooth_loop`: the last point repeats the first, and tangents run on across it.
    pub(super) fn new(points: &[Point], smooth_loop: bool) -> Self {
        let mut moments = vec![[0.0; 3]];
        let mut sum = [0.0; 3];
        for pair in points.windows(2) {
            let step = line_moments(pair[0], pair[1]);
            for (s, m) in sum.iter_mut().zip(step) {
                *s += m;
            }
            moments.push(sum);
        }
        let tangents = tangents(points, smooth_loop);
        let mut directions = Vec::with_capacity(tangents.len());
        let mut direction = tangents[0].atan2();
        for (i, tangent) in tangents.iter().enumerate() {
            let before = tangents[i.saturating_sub(1)];
            direction += before.cross(*tangent).atan2(before.dot(*tangent));
            directions.push(direction);
        }
        Self {
            points: points.to_vec(),
            tangents,
            directions,
            moments,
        }
    }

    /// Direction at a point.
    pub(super) fn tangent(&self, i: usize) -> Vec2 {
        self.tangents[i]
    }

    /// How far the direction swings within a stretch of points, radians.
    pub(super) fn swing(&self, stretch: &Range<usize>) -> f64 {
        let own = &self.directions[stretch.start..=stretch.end];
        let (least, most) = own
            .iter()
            .fold((f64::INFINITY, f64::NEG_INFINITY), |(l, m), &d| {
                (l.min(d), m.max(d))
            });
        most - least
    }

    /// The parameters of a stretch of points.
    pub(super) fn range(&self, stretch: &Range<usize>) -> Range<f64> {
        let last = (self.points.len() - 1) as f64;
        stretch.start as f64 / last..stretch.end as f64 / last
    }

    /// Index and remainder of a parameter.
    fn split(&self, t: f64) -> (usize, f64) {
        let last = self.points.len() - 1;
        let x = t.clamp(0.0, 1.0) * last as f64;
        let i = (x.floor() as usize).min(last - 1);
        (i, x - i as f64)
    }

    fn prefix(&self, t: f64) -> [f64; 3] {
        let (i, u) = self.split(t);
        let part = line_moments(self.points[i], self.points[i].lerp(self.points[i + 1], u));
        std::array::from_fn(|k| self.moments[i][k] + part[k])
    }
}

/// Integrals of y dx, x·y dx and y² dx along a straight step.
fn line_moments(a: Point, b: Point) -> [f64; 3] {
    let dx = b.x - a.x;
    [
        (a.y + b.y) / 2.0 * dx,
        dx * (2.0 * a.x * a.y + a.x * b.y + b.x * a.y + 2.0 * b.x * b.y) / 6.0,
        dx * (a.y * a.y + a.y * b.y + b.y * b.y) / 3.0,
    ]
}

fn tangents(points: &[Point], smooth_loop: bool) -> Vec<Vec2> {
    let n = points.len();
    let last = n - 1;
    (0..n)
        .map(|i| {
            let direction = if smooth_loop {
                // Index `last` is index 0 again.
                let at = |k: isize| points[k.rem_euclid(last as isize) as usize];
                let reach = REACH.min(last / 4).max(1) as isize;
                at(i as isize + reach) - at(i as isize - reach)
            } else {
                let reach = REACH.min(i).min(last - i);
                match reach {
                    0 if i == 0 => end_tangent(points.iter().copied()),
                    0 => -end_tangent(points.iter().rev().copied()),
                    r => points[i + r] - points[i - r],
                }
            };
            if direction.hypot2() > 0.0 {
                direction.normalize()
            } else {
                Vec2::new(1.0, 0.0)
            }
        })
        .collect()
}

/// Tangent at the first point, by the parabola through three points some steps apart.
fn end_tangent(points: impl Iterator<Item = Point>) -> Vec2 {
    let near: Vec<Point> = points.take(2 * REACH + 1).collect();
    let half = (near.len() - 1) / 2;
    if half == 0 {
        return near[near.len() - 1] - near[0];
    }
    (near[half] - near[0]) * 4.0 - (near[2 * half] - near[0])
}

impl ParamCurveFit for Samples {
    fn sample_pt_tangent(&self, t: f64, _sign: f64) -> CurveFitSample {
        let (i, u) = self.split(t);
        let tangent = self.tangents[i].lerp(self.tangents[i + 1], u);
        CurveFitSample {
            p: self.points[i].lerp(self.points[i + 1], u),
            tangent,
        }
    }

    fn sample_pt_deriv(&self, t: f64) -> (Point, Vec2) {
        let (i, u) = self.split(t);
        let step = self.points[i + 1] - self.points[i];
        (
            self.points[i] + step * u,
            step * (self.points.len() - 1) as f64,
        )
    }

    fn moment_integrals(&self, range: Range<f64>) -> (f64, f64, f64) {
        let (a, b) = (self.prefix(range.start), self.prefix(range.end));
        (b[0] - a[0], b[1] - a[1], b[2] - a[2])
    }

    fn break_cusp(&self, _range: Range<f64>) -> Option<f64> {
        None
    }
}
