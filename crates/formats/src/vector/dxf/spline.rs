//! B-splines as cubics: span by span, exact up to degree 3 without weights, else within a tolerance;
//! and the curve through given points.
//!
//! ```text
//!   knots, control points ─blossom─► Bézier points of a span ─┬─ degree ≤ 3, one weight ─► cubic
//!                                                             └─ else halved until a cubic fits
//! ```
//!
//! Source: Ramshaw 1989, "Blossoms are polar forms" (Computer Aided Geometric Design 6(4)); de Boor
//! 1972, "On calculating with B-splines"; Piegl & Tiller 1997, "The NURBS Book", 9.2, for the curve
//! through points.

use inky_core::segment::Segment;
use kurbo::{CubicBez, Line, Point, QuadBez, Vec2};

/// A B-spline; weights are all 1 where it has none.
pub(super) struct Spline {
    degree: usize,
    knots: Vec<f64>,
    /// Control points times their weight, and the weight.
    control: Vec<[f64; 3]>,
    even: bool,
}

/// Greatest degree.
const DEGREE: usize = 25;
/// A cubic may run so many times the tolerance behind or ahead of what it stands for.
const LAG: f64 = 20.0;
/// A span is halved so often at most.
const HALVINGS: u32 = 10;

impl Spline {
    /// `None` for knots that do not fit.
    pub(super) fn new(
        degree: usize,
        knots: Vec<f64>,
        control: &[Point],
        weights: &[f64],
    ) -> Option<Self> {
        let n = control.len();
        let rising = knots.windows(2).all(|w| w[0] <= w[1]) && knots.iter().all(|k| k.is_finite());
        if !(1..=DEGREE).contains(&degree)
            || n <= degree
            || knots.len() != n + degree + 1
            || !rising
        {
            return None;
        }
        if knots[n] <= knots[degree] {
            return None;
        }
        let weight = |i: usize| weights.get(i).copied().filter(|w| *w > 0.0).unwrap_or(1.0);
        let weighed = |(i, p): (usize, &Point)| [p.x * weight(i), p.y * weight(i), weight(i)];
        let first = weight(0);
        Some(Self {
            degree,
            even: (0..n).all(|i| (weight(i) - first).abs() < 1e-9 * first),
            control: control.iter().enumerate().map(weighed).collect(),
            knots,
        })
    }

    /// Its curves, within `tolerance` where a cubic is not exact.
    pub(super) fn curves(&self, tolerance: f64) -> Vec<Segment> {
        let spans = self.degree..self.control.len();
        let mut segments = Vec::new();
        for span in spans.filter(|&k| self.knots[k] < self.knots[k + 1]) {
            let (from, to) = (self.knots[span], self.knots[span + 1]);
            if self.even && self.degree <= 3 {
                segments.push(self.exact(span, from, to));
            } else {
                self.halved(span, (from, to), tolerance, HALVINGS, &mut segments);
            }
        }
        segments
    }

    fn exact(&self, span: usize, from: f64, to: f64) -> Segment {
        let p = |late: usize| {
            let arguments: Vec<f64> = (0..self.degree)
                .map(|n| if n < late { to } else { from })
                .collect();
            place(self.blossom(span, &arguments).1)
        };
        match self.degree {
            1 => Segment::Line(Line::new(p(0), p(1))),
            2 => Segment::Cubic(QuadBez::new(p(0), p(1), p(2)).raise()),
            _ => Segment::Cubic(CubicBez::new(p(0), p(1), p(2), p(3))),
        }
    }

    /// De Boor's recursion with an argument of its own for every step; the two points before the
    /// last step too.
    fn blossom(&self, span: usize, arguments: &[f64]) -> ([[f64; 3]; 2], [f64; 3]) {
        let p = self.degree;
        let mut d: Vec<[f64; 3]> = self.control[span - p..=span].to_vec();
        let mut before = [d[0]; 2];
        for r in 1..=p {
            if r == p {
                before = [d[p - 1], d[p]];
            }
            for j in (r..=p).rev() {
                let i = j + span - p;
                let width = self.knots[i + p + 1 - r] - self.knots[i];
                let part = (arguments[r - 1] - self.knots[i]) / width;
                let from = d[j - 1];
                for (to, from) in d[j].iter_mut().zip(from) {
                    *to = from + (*to - from) * part;
                }
            }
        }
        (before, d[p])
    }

    /// The place and the derivative at a parameter of a span.
    fn at(&self, span: usize, u: f64) -> (Point, Vec2) {
        let (before, last) = self.blossom(span, &vec![u; self.degree]);
        let width = self.knots[span + 1] - self.knots[span];
        let slope = |c: usize| self.degree as f64 * (before[1][c] - before[0][c]) / width;
        let p = place(last);
        let along = Vec2::new(slope(0), slope(1)) - p.to_vec2() * slope(2);
        (p, along / last[2])
    }

    fn halved(
        &self,
        span: usize,
        (from, to): (f64, f64),
        tolerance: f64,
        left: u32,
        segments: &mut Vec<Segment>,
    ) {
        let ((a, along_a), (b, along_b)) = (self.at(span, from), self.at(span, to));
        let third = (to - from) / 3.0;
        let cubic = Segment::Cubic(CubicBez::new(
            a,
            a + along_a * third,
            b - along_b * third,
            b,
        ));
        let fits = [0.25, 0.5, 0.75].iter().all(|&t| {
            // How far beside the curve it runs; along it the two may differ.
            let (p, along) = self.at(span, from + (to - from) * t);
            let off = cubic.eval(t) - p;
            let beside = off.cross(along) / along.hypot().max(1e-12);
            beside.abs() <= tolerance && off.hypot() <= tolerance * LAG
        });
        if fits || left == 0 {
            segments.push(cubic);
            return;
        }
        let middle = f64::midpoint(from, to);
        self.halved(span, (from, middle), tolerance, left - 1, segments);
        self.halved(span, (middle, to), tolerance, left - 1, segments);
    }
}

fn place([x, y, w]: [f64; 3]) -> Point {
    Point::new(x / w, y / w)
}

/// The smooth curve through points: its parameter runs with the chords, its bend is continuous, and
/// nought at an end without a direction.
pub(super) fn through(points: &[Point], directions: [Option<Vec2>; 2]) -> Vec<Segment> {
    let mut points = points.to_vec();
    points.dedup_by(|a, b| a.distance(*b) < 1e-9);
    let n = points.len();
    if n < 2 {
        return Vec::new();
    }
    let steps: Vec<f64> = points.windows(2).map(|w| w[0].distance(w[1])).collect();
    let slope = |i: usize| (points[i + 1] - points[i]) / steps[i];
    // One equation a point for the derivative there; solved from both ends (Thomas).
    let row = |i: usize| -> (f64, f64, f64, Vec2) {
        let given = match i {
            0 => directions[0],
            _ if i == n - 1 => directions[1],
            _ => None,
        };
        match given {
            Some(way) => (0.0, 1.0, 0.0, way / way.hypot()),
            None if i == 0 => (0.0, 2.0, 1.0, slope(0) * 3.0),
            None if i == n - 1 => (1.0, 2.0, 0.0, slope(n - 2) * 3.0),
            None => {
                let (a, b) = (1.0 / steps[i - 1], 1.0 / steps[i]);
                let sum = slope(i - 1) * a + slope(i) * b;
                (a, 2.0 * (a + b), b, sum * 3.0)
            }
        }
    };
    let mut above: Vec<(f64, Vec2)> = Vec::with_capacity(n);
    for i in 0..n {
        let (before, own, after, sum) = row(i);
        let (c, d) = above.last().copied().unwrap_or((0.0, Vec2::ZERO));
        let pivot = own - before * c;
        above.push((after / pivot, (sum - d * before) / pivot));
    }
    let mut ways = vec![Vec2::ZERO; n];
    let mut next = Vec2::ZERO;
    for i in (0..n).rev() {
        next = above[i].1 - next * above[i].0;
        ways[i] = next;
    }
    (0..n - 1)
        .map(|i| {
            let (a, b, third) = (points[i], points[i + 1], steps[i] / 3.0);
            let handles = (a + ways[i] * third, b - ways[i + 1] * third);
            Segment::Cubic(CubicBez::new(a, handles.0, handles.1, b))
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// De Boor's recursion, straight from the definition.
    fn de_boor(degree: usize, knots: &[f64], control: &[Point], u: f64) -> Point {
        let k = (degree..control.len()).rfind(|&k| knots[k] <= u).unwrap();
        let mut d: Vec<Point> = (0..=degree).map(|j| control[j + k - degree]).collect();
        for r in 1..=degree {
            for j in (r..=degree).rev() {
                let i = j + k - degree;
                let part = (u - knots[i]) / (knots[i + degree + 1 - r] - knots[i]);
                d[j] = d[j - 1].lerp(d[j], part);
            }
        }
        d[degree]
    }

    fn control() -> Vec<Point> {
        [
            (0.0, 0.0),
            (2.0, 5.0),
            (6.0, 4.0),
            (8.0, -2.0),
            (12.0, 1.0),
            (13.0, 6.0),
        ]
        .map(Point::from)
        .to_vec()
    }

    #[test]
    fn curves_run_where_the_recursion_says() {
        let control = control();
        for (degree, knots) in [
            (3, vec![0.0, 0.0, 0.0, 0.0, 1.0, 2.5, 4.0, 4.0, 4.0, 4.0]),
            (3, vec![0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0, 9.0]),
            (2, vec![0.0, 0.0, 0.0, 1.0, 2.0, 3.0, 4.0, 4.0, 4.0]),
            (1, vec![0.0, 0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 5.0]),
        ] {
            let spline = Spline::new(degree, knots.clone(), &control, &[]).unwrap();
            let found = spline.curves(1e-3);
            let spans: Vec<(f64, f64)> = knots[degree..=control.len()]
                .windows(2)
                .filter(|w| w[1] > w[0])
                .map(|w| (w[0], w[1]))
                .collect();
            assert_eq!(found.len(), spans.len(), "degree {degree}");
            for (segment, (a, b)) in found.iter().zip(spans) {
                for t in [0.0, 0.25, 0.5, 0.9] {
                    let expected = de_boor(degree, &knots, &control, a + t * (b - a));
                    assert!(
                        segment.eval(t).distance(expected) < 1e-9,
                        "degree {degree} at {t}"
                    );
                }
            }
        }
    }

    #[test]
    fn weights_make_a_circle_and_high_degrees_are_followed() {
        // Piegl & Tiller, 7.5: a full circle of nine points, degree 2.
        let w = 0.5_f64.sqrt();
        let points: Vec<Point> = [
            (1.0, 0.0),
            (1.0, 1.0),
            (0.0, 1.0),
            (-1.0, 1.0),
            (-1.0, 0.0),
            (-1.0, -1.0),
            (0.0, -1.0),
            (1.0, -1.0),
            (1.0, 0.0),
        ]
        .map(|(x, y)| Point::new(x * 100.0, y * 100.0))
        .to_vec();
        let knots = vec![0.0, 0.0, 0.0, 1.0, 1.0, 2.0, 2.0, 3.0, 3.0, 4.0, 4.0, 4.0];
        let weights = [1.0, w, 1.0, w, 1.0, w, 1.0, w, 1.0];
        let found = Spline::new(2, knots, &points, &weights)
            .unwrap()
            .curves(1e-3);
        assert!(found.len() < 64, "{}", found.len());
        for t in (0..=20).map(|n| f64::from(n) / 20.0) {
            for s in &found {
                assert!((s.eval(t).to_vec2().hypot() - 100.0).abs() < 1e-3);
            }
        }
        let knots = [vec![0.0; 6], vec![1.0; 6]].concat();
        let found = Spline::new(5, knots.clone(), &control(), &[])
            .unwrap()
            .curves(1e-4);
        let middle = de_boor(5, &knots, &control(), 0.5);
        let nearest = found
            .iter()
            .map(|s| s.distance(middle, 1e-6))
            .fold(9.0, f64::min);
        assert!(nearest < 1e-3, "{nearest}");
    }

    #[test]
    fn the_curve_through_points_meets_them_and_bends_evenly() {
        let points = control();
        let found = through(&points, [None, None]);
        assert_eq!(found.len(), points.len() - 1);
        let bend = |s: &Segment, end: bool| {
            let Segment::Cubic(c) = s else { unreachable!() };
            let chord = c.p0.distance(c.p3);
            let second = if end {
                c.p1.to_vec2() - c.p2.to_vec2() * 2.0 + c.p3.to_vec2()
            } else {
                c.p0.to_vec2() - c.p1.to_vec2() * 2.0 + c.p2.to_vec2()
            };
            second * 6.0 / (chord * chord)
        };
        for (w, p) in found.windows(2).zip(&points[1..]) {
            assert!(w[0].end() == *p && w[1].start() == *p);
            assert!((bend(&w[0], true) - bend(&w[1], false)).hypot() < 1e-9);
        }
        assert!(bend(&found[0], false).hypot() < 1e-9);
        // A direction that is given is kept.
        let up = through(&points, [Some(Vec2::new(0.0, 9.0)), None]);
        let start = up[0].tangent(false);
        assert!(start.x.abs() < 1e-9 && start.y > 0.0);
        assert!(through(&points[..1], [None, None]).is_empty());
    }

    #[test]
    fn knots_that_do_not_fit_are_refused() {
        let control = vec![Point::ORIGIN; 4];
        let new = |degree, knots: &[f64]| Spline::new(degree, knots.to_vec(), &control, &[]);
        assert!(new(3, &[0.0; 8]).is_none());
        assert!(new(3, &[0.0, 1.0]).is_none());
        assert!(new(5, &[0.0; 10]).is_none());
        assert!(new(3, &[0.0, 0.0, 0.0, 0.0, f64::NAN, 1.0, 1.0, 1.0]).is_none());
    }
}
