//! Whole circles: closed edges that are round, as two arcs; those of nearly one radius get one.
//!
//! Holes of one drill and dots of one pen are drawn with one radius. Radii that differ by less than
//! a part of the tolerance become their mean, and each circle is measured against its own points.

use kurbo::Point;

use crate::fit::FittedEdge;
use crate::fit::circle::{Circle, taubin};
use crate::fit::guide::Limits;
use crate::fit::pieces::FEW_POINTS;
use crate::segment::{Arc, Segment};

/// Part of the tolerance within which a circle lies, root mean square …
const ROUND: f64 = 0.3;
/// … or so many wobbles.
const ROUND_WOBBLES: f64 = 1.2;
/// Radii are equal that lie within this part of the tolerance.
const EQUAL: f64 = 0.4;

/// The circle that a closed edge (its first point not repeated) is, if it is one.
pub(super) fn find(points: &[Point], limits: Limits) -> Option<Circle> {
    let circle = taubin(points).filter(|_| points.len() >= 2 * FEW_POINTS)?;
    let square: f64 = points.iter().map(|p| away(circle, *p).powi(2)).sum();
    let typical = (square / points.len() as f64).sqrt();
    let most = (ROUND * limits.tolerance).max(ROUND_WOBBLES * limits.wobble);
    (circle.off(points) <= limits.tolerance && typical <= most).then_some(circle)
}

/// Gives circles of nearly the same radius one radius.
pub(super) fn equal(circles: &mut [Option<Circle>], tolerance: f64) {
    let mut order: Vec<usize> = (0..circles.len())
        .filter(|&n| circles[n].is_some())
        .collect();
    let radius = |circles: &[Option<Circle>], n: usize| circles[n].map_or(0.0, |c| c.radius);
    order.sort_by(|&a, &b| {
        radius(circles, a)
            .total_cmp(&radius(circles, b))
            .then(a.cmp(&b))
    });
    let mut from = 0;
    while from < order.len() {
        let least = radius(circles, order[from]);
        let within = |&&n: &&usize| radius(circles, n) - least <= EQUAL * tolerance;
        let count = order[from..].iter().take_while(within).count();
        let group = &order[from..from + count];
        let mean = group.iter().map(|&n| radius(circles, n)).sum::<f64>() / count as f64;
        for &n in group {
            if let Some(circle) = &mut circles[n] {
                circle.radius = mean;
            }
        }
        from += count;
    }
}

/// A circle as two halves, if the points of the edge allow it.
pub(super) fn drawn(points: &[Point], circle: Circle, tolerance: f64) -> Option<FittedEdge> {
    let greatest = circle.off(points);
    if greatest > tolerance {
        return None;
    }
    let out = points[0] - circle.centre;
    let out = out * (circle.radius / out.hypot());
    let (p0, p1) = (circle.centre + out, circle.centre - out);
    let next = points[1..].iter().chain(&points[..1]);
    let area: f64 = points
        .iter()
        .zip(next)
        .map(|(a, b)| a.to_vec2().cross(b.to_vec2()))
        .sum();
    let bulge = area.signum();
    let (there, back) = (
        Arc { p0, p1, bulge },
        Arc {
            p0: p1,
            p1: p0,
            bulge,
        },
    );
    Some(FittedEdge {
        segments: [there, back].map(Segment::Arc).to_vec(),
        deviation: points.iter().map(|p| away(circle, *p) as f32).collect(),
        strayed: vec![greatest as f32; 2],
    })
}

fn away(circle: Circle, p: Point) -> f64 {
    (p.distance(circle.centre) - circle.radius).abs()
}

#[cfg(test)]
mod tests {
    use super::*;
    use kurbo::Vec2;
    use std::f64::consts::TAU;

    const LIMITS: Limits = Limits {
        tolerance: 0.1,
        wobble: 0.0,
        px: 1.0,
    };

    fn points(radius: f64) -> Vec<Point> {
        let at = |i: i32| Vec2::from_angle(TAU * f64::from(i) / 300.0) * radius;
        (0..300).map(|i| Point::new(3.0, 4.0) + at(i)).collect()
    }

    #[test]
    fn a_circle_is_two_arcs() {
        let ring = points(40.0);
        let circle = find(&ring, LIMITS).unwrap();
        let edge = drawn(&ring, circle, LIMITS.tolerance).unwrap();
        assert!(matches!(
            edge.segments.as_slice(),
            [Segment::Arc(_), Segment::Arc(_)]
        ));
        let area: f64 = edge.segments.iter().map(Segment::signed_area).sum();
        assert!((area / (1600.0 * std::f64::consts::PI) - 1.0).abs() < 1e-3);
    }

    #[test]
    fn nearly_equal_radii_become_one_and_others_stay() {
        let mut circles: Vec<_> = [40.0, 10.01, 9.99, 10.0, 12.0]
            .map(|r| find(&points(r), LIMITS))
            .to_vec();
        circles.push(None);
        equal(&mut circles, LIMITS.tolerance);
        let radii: Vec<f64> = circles.iter().flatten().map(|c| c.radius).collect();
        for (found, expected) in radii.iter().zip([40.0, 10.0, 10.0, 10.0, 12.0]) {
            assert!((found - expected).abs() < 1e-6, "{radii:?}");
        }
    }
}
