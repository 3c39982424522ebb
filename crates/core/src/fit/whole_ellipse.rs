//! Whole ellipses: closed edges that are elliptical, as four quarters along their axes.
//!
//! ```text
//!         ·  a  ·
//!      ·     │     ·      the conic  x² − y² : A, xy : B, x : D, y : E, 1 : F, with the
//!     · b ───┼───   ·     coefficients of x² and y² summing to one, by least squares
//!      ·     │     ·
//!         ·     ·
//! ```
//!
//! A quarter of an ellipse as one cubic errs by 2.7 · 10⁻⁴ of its radius (the usual handle of
//! 0.5522847), which is counted: every point is measured against the cubics themselves.
//! Source: the constraint is that of Bookstein 1979, "Fitting conic sections to scattered data"
//! (CGIP 9(1) 56–71), in its linear form.

use kurbo::{Affine, CubicBez, Point, Vec2};

use crate::fit::FittedEdge;
use crate::fit::guide::Limits;
use crate::fit::pieces::FEW_POINTS;
use crate::least_squares::solve;
use crate::segment::Segment;

/// Handle of a quarter of a circle, as a part of its radius.
const HANDLE: f64 = 0.552_284_749_8;
/// Axes at most this many times as long as each other: flatter ones are better told by their sides.
const FLATTEST: f64 = 8.0;
/// Part of the tolerance within which an ellipse lies, root mean square.
const ROUND: f64 = 0.35;
/// Axes that lean by less than this part of the tolerance at their ends stand upright.
const UPRIGHT: f64 = 0.5;

/// The edge (its first point not repeated) as an ellipse, if it is one.
pub(super) fn find(points: &[Point], limits: Limits) -> Option<FittedEdge> {
    if points.len() < 4 * FEW_POINTS {
        return None;
    }
    let quarters = quarters(points, limits)?;
    let mut strayed = [0.0f32; 4];
    let mut square = 0.0;
    let mut deviation = Vec::with_capacity(points.len());
    for &p in points {
        let mut best = (f64::INFINITY, 0);
        for (n, quarter) in quarters.iter().enumerate() {
            let off = quarter.distance(p, 0.01 * limits.tolerance);
            if off < best.0 {
                best = (off, n);
            }
        }
        let (off, n) = best;
        if off > limits.tolerance {
            return None;
        }
        square += off * off;
        strayed[n] = strayed[n].max(off as f32);
        deviation.push(off as f32);
    }
    let most = (ROUND * limits.tolerance).max(limits.wobble);
    ((square / points.len() as f64).sqrt() <= most).then(|| FittedEdge {
        segments: quarters.to_vec(),
        deviation,
        strayed: strayed.to_vec(),
    })
}

/// Four cubics from axis to axis, in the direction of the points.
fn quarters(points: &[Point], limits: Limits) -> Option<[Segment; 4]> {
    let (centre, [mut a, mut b]) = axes(points)?;
    let (long, short) = (a.hypot().max(b.hypot()), a.hypot().min(b.hypot()));
    if !(short > 2.0 * limits.px && long <= FLATTEST * short) {
        return None;
    }
    // Nearly upright axes stand upright.
    for upright in [Vec2::new(1.0, 0.0), Vec2::new(0.0, 1.0)] {
        if a.cross(upright).abs() <= UPRIGHT * limits.tolerance {
            a = upright * a.dot(upright).signum() * a.hypot();
            b = a.turn_90().normalize() * b.hypot();
        }
    }
    let next = points[1..].iter().chain(&points[..1]);
    let turn = points.iter().zip(next);
    let area: f64 = turn.map(|(p, q)| p.to_vec2().cross(q.to_vec2())).sum();
    if a.cross(b) * area < 0.0 {
        b = -b;
    }
    let unit = Affine::new([a.x, a.y, b.x, b.y, centre.x, centre.y]);
    let quarter = CubicBez::new((1.0, 0.0), (1.0, HANDLE), (HANDLE, 1.0), (0.0, 1.0));
    let turned = |n: u32| {
        let (cos, sin) = [(1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0)][n as usize];
        Segment::Cubic(unit * Affine::new([cos, sin, -sin, cos, 0.0, 0.0]) * quarter)
    };
    Some([turned(0), turned(1), turned(2), turned(3)])
}

/// Centre and half axes of the ellipse through points, by least squares.
fn axes(points: &[Point]) -> Option<(Point, [Vec2; 2])> {
    let n = points.len() as f64;
    let middle = points.iter().map(|p| p.to_vec2()).sum::<Vec2>() / n;
    let scale = points
        .iter()
        .map(|p| (p.to_vec2() - middle).hypot())
        .sum::<f64>()
        / n;
    // A (x² − y²) + B x y + D x + E y + F = −y², about the middle and of size one.
    let (mut rows, mut right) = ([[0.0; 5]; 5], [[0.0]; 5]);
    for p in points {
        let v = (p.to_vec2() - middle) / scale;
        let terms = [v.x * v.x - v.y * v.y, v.x * v.y, v.x, v.y, 1.0];
        for (i, row) in rows.iter_mut().enumerate() {
            for (cell, term) in row.iter_mut().zip(terms) {
                *cell += terms[i] * term;
            }
            right[i][0] -= terms[i] * v.y * v.y;
        }
    }
    let [a, b, d, e, f] = solve(rows, right)?.map(|[v]| v);
    let c = 1.0 - a;
    let [[x], [y]] = solve([[2.0 * a, b], [b, 2.0 * c]], [[-d], [-e]])?;
    let level = -(a * x * x + b * x * y + c * y * y + d * x + e * y + f);
    let angle = 0.5 * b.atan2(a - c);
    let (u, v) = (Vec2::from_angle(angle), Vec2::from_angle(angle).turn_90());
    let radius = |w: Vec2| {
        let along = a * w.x * w.x + b * w.x * w.y + c * w.y * w.y;
        let square = level / along;
        (square.is_finite() && square > 0.0).then(|| square.sqrt() * scale)
    };
    let centre = (middle + Vec2::new(x, y) * scale).to_point();
    Some((centre, [u * radius(u)?, v * radius(v)?]))
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::f64::consts::TAU;

    const LIMITS: Limits = Limits {
        tolerance: 0.2,
        wobble: 0.0,
        px: 1.0,
    };

    fn points(a: f64, b: f64, lean: f64) -> Vec<Point> {
        let turn = Affine::translate((31.0, 22.0)) * Affine::rotate(lean);
        (0..300)
            .map(|i| {
                let (sin, cos) = (TAU * f64::from(i) / 300.0).sin_cos();
                turn * Point::new(a * cos, b * sin)
            })
            .collect()
    }

    #[test]
    fn an_ellipse_is_four_quarters_with_its_area() {
        for (a, b, lean) in [(40.0, 25.0, 0.0), (60.0, 20.0, 0.7), (18.0, 30.0, 2.0)] {
            let edge = find(&points(a, b, lean), LIMITS).unwrap();
            assert_eq!(edge.segments.len(), 4);
            let area: f64 = edge.segments.iter().map(Segment::signed_area).sum();
            let truth = std::f64::consts::PI * a * b;
            assert!((area / truth - 1.0).abs() < 1e-3, "{area} of {truth}");
        }
    }

    /// Perimeter by the complete elliptic integral: Abramowitz & Stegun 1964, table 17.1, E for
    /// m = 0.75 is 1.21105603, so with half axes 2 and 1 (× 20) it is 4 · 40 · 1.21105603.
    #[test]
    fn its_perimeter_is_that_of_the_tables() {
        let edge = find(&points(40.0, 20.0, 0.3), LIMITS).unwrap();
        let length: f64 = edge.segments.iter().map(Segment::length).sum();
        let truth = 4.0 * 40.0 * 1.211_056_03;
        assert!((length / truth - 1.0).abs() < 5e-4, "{length} of {truth}");
    }

    #[test]
    fn what_is_no_ellipse_is_left_alone_and_nearly_upright_ones_stand() {
        let egg: Vec<Point> = points(40.0, 25.0, 0.0)
            .into_iter()
            .map(|p| Point::new(p.x, p.y + 0.004 * (p.x - 31.0).powi(2)))
            .collect();
        assert!(find(&egg, LIMITS).is_none());
        let edge = find(&points(40.0, 25.0, 0.001), LIMITS).unwrap();
        let (start, end) = (edge.segments[0].start(), edge.segments[2].start());
        let lean = (start.x - end.x).abs().min((start.y - end.y).abs());
        assert!(lean < 1e-9, "{start:?} {end:?}");
    }
}
