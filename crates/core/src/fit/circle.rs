//! Circles: the circle through points by least squares, and arcs of it.
//!
//! Source: Taubin 1991, "Estimation of planar curves, surfaces and nonplanar space curves defined
//! by implicit equations" (IEEE Trans. PAMI 13(11) 1115–1138), in the form that needs no start
//! value: Newton's method on its characteristic polynomial.

use kurbo::Point;

use crate::segment::Arc;

/// A circle.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Circle {
    /// Its middle.
    pub centre: Point,
    /// Its radius.
    pub radius: f64,
}

/// Taubin's fit; `None` for fewer than three points or points on a line.
#[must_use]
pub fn taubin(points: &[Point]) -> Option<Circle> {
    let n = points.len() as f64;
    if points.len() < 3 {
        return None;
    }
    let (mx, my) = points
        .iter()
        .fold((0.0, 0.0), |(x, y), p| (x + p.x / n, y + p.y / n));
    let (mut xx, mut yy, mut xy, mut xz, mut yz, mut zz) = (0.0, 0.0, 0.0, 0.0, 0.0, 0.0);
    for p in points {
        let (x, y) = (p.x - mx, p.y - my);
        let z = x * x + y * y;
        xx += x * x / n;
        yy += y * y / n;
        xy += x * y / n;
        xz += x * z / n;
        yz += y * z / n;
        zz += z * z / n;
    }
    let mean_z = xx + yy;
    let cov = xx * yy - xy * xy;
    let var_z = zz - mean_z * mean_z;
    let a3 = 4.0 * mean_z;
    let a2 = -3.0 * mean_z * mean_z - zz;
    let a1 = var_z * mean_z + 4.0 * cov * mean_z - xz * xz - yz * yz;
    let a0 = xz * (xz * yy - yz * xy) + yz * (yz * xx - xz * xy) - var_z * cov;
    let (mut x, mut y) = (0.0, a0);
    for _ in 0..50 {
        let slope = a1 + x * (2.0 * a2 + 3.0 * a3 * x);
        let to = x - y / slope;
        if !to.is_finite() || (to - x).abs() <= 1e-14 * x.abs() {
            break;
        }
        let new = a0 + to * (a1 + to * (a2 + to * a3));
        if new.abs() >= y.abs() {
            break;
        }
        (x, y) = (to, new);
    }
    let determinant = x * x - x * mean_z + cov;
    if determinant.abs() < 1e-18 {
        return None;
    }
    let cx = (xz * (yy - x) - yz * xy) / determinant / 2.0;
    let cy = (yz * (xx - x) - xz * xy) / determinant / 2.0;
    let radius = (cx * cx + cy * cy + mean_z).sqrt();
    let centre = Point::new(cx + mx, cy + my);
    radius.is_finite().then_some(Circle { centre, radius })
}

impl Circle {
    /// How far the farthest of the points lies off.
    pub(super) fn off(&self, points: &[Point]) -> f64 {
        let off = |p: &Point| (p.distance(self.centre) - self.radius).abs();
        points.iter().map(off).fold(0.0, f64::max)
    }

    /// The arc of this radius from one end to the other that runs by the side of `through`.
    pub(super) fn arc(&self, ends: [Point; 2], through: Point) -> Option<Arc> {
        let [p0, p1] = ends;
        let chord = p0.distance(p1);
        if chord <= 1e-9 || chord > 2.0 * self.radius {
            return None;
        }
        let flat = (self.radius * self.radius - chord * chord / 4.0)
            .max(0.0)
            .sqrt();
        let turn = (p1 - p0).cross(through - p0);
        // The middle of the circle on the far side of the chord: less than half of it.
        let from_chord = (through - p0.midpoint(p1)).hypot();
        let small = self.radius - flat;
        let large = self.radius + flat;
        let sagitta = if (from_chord - small).abs() <= (from_chord - large).abs() {
            small
        } else {
            large
        };
        // With y down a positive bulge passes on the side where the cross product is negative.
        let bulge = 2.0 * sagitta / chord * -turn.signum();
        (bulge.abs() > 1e-6).then_some(Arc { p0, p1, bulge })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use kurbo::Vec2;

    #[test]
    fn points_on_a_circle_give_it_back_even_from_a_short_arc() {
        for (r, from, to) in [(10.0, 0.0, 6.2), (50.0, 0.3, 0.9), (400.0, 2.0, 2.3)] {
            let centre = Point::new(31.0, -7.0);
            let points: Vec<Point> = (0..40)
                .map(|i| centre + Vec2::from_angle(from + (to - from) * f64::from(i) / 39.0) * r)
                .collect();
            let circle = taubin(&points).unwrap();
            assert!((circle.radius - r).abs() < 1e-6 * r, "{}", circle.radius);
            assert!(circle.centre.distance(centre) < 1e-6 * r);
            let arc = circle.arc([points[0], points[39]], points[20]);
            if to - from < 3.0 {
                let arc = arc.unwrap();
                assert!(arc.distance(points[20]) < 1e-6 * r);
                assert!((arc.sweep().abs() - (to - from)).abs() < 1e-6);
            }
        }
    }

    #[test]
    fn points_on_a_line_have_no_circle_of_use() {
        let points: Vec<Point> = (0..9).map(|i| Point::new(f64::from(i), 2.0)).collect();
        assert!(taubin(&points).is_none_or(|c| c.radius > 1e6));
    }
}
