//! Projective maps of the plane: what a camera with a straight lens makes of a flat thing.
//!
//! ```text
//!   ⎡x'·w⎤   ⎡a b c⎤ ⎡x⎤
//!   ⎢y'·w⎥ = ⎢d e f⎥ ⎢y⎥      straight lines stay straight, parallels meet
//!   ⎣  w ⎦   ⎣g h i⎦ ⎣1⎦
//! ```
//!
//! Source: Hartley & Zisserman, "Multiple View Geometry in Computer Vision", 2nd ed., section 4.1 (the direct linear
//! transformation) and 4.4 (points moved to their middle and to a common spread before it).

use std::ops::Mul;

use kurbo::{Affine, Point, Vec2};

use crate::least_squares::{fitted, solve};

/// A projective map, row by row.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Projective([f64; 9]);

/// A determinant below this part of the entries' size cannot be turned round.
const LEAST: f64 = 1e-13;

impl Projective {
    /// Everything stays.
    pub const IDENTITY: Self = Self([1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0]);

    /// Rows of the matrix.
    #[must_use]
    pub fn rows(&self) -> [f64; 9] {
        self.0
    }

    /// The map that takes each first place to its second: exactly for four, by least squares of the distances from the
    /// second places for more. `None` for fewer than four, or where three of four lie on a line.
    #[must_use]
    pub fn through(pairs: &[(Point, Point)]) -> Option<Self> {
        if pairs.len() < 4 {
            return None;
        }
        let from = spread(pairs.iter().map(|p| p.0))?;
        let to = spread(pairs.iter().map(|p| p.1))?;
        let alike: Vec<(Point, Point)> = pairs.iter().map(|&(p, q)| (from * p, to * q)).collect();
        // Normal equations of the eight unknowns; the ninth is 1, since the middle goes to near the middle.
        let (mut a, mut b) = ([[0.0; 8]; 8], [[0.0; 1]; 8]);
        for &(p, q) in &alike {
            let rows = [
                ([p.x, p.y, 1.0, 0.0, 0.0, 0.0, -q.x * p.x, -q.x * p.y], q.x),
                ([0.0, 0.0, 0.0, p.x, p.y, 1.0, -q.y * p.x, -q.y * p.y], q.y),
            ];
            for (row, right) in rows {
                for i in 0..8 {
                    for k in 0..8 {
                        a[i][k] += row[i] * row[k];
                    }
                    b[i][0] += row[i] * right;
                }
            }
        }
        let found = solve(a, b)?;
        let mut h: [f64; 8] = std::array::from_fn(|i| found[i][0]);
        let made = |h: &[f64; 8]| Self([h[0], h[1], h[2], h[3], h[4], h[5], h[6], h[7], 1.0]);
        if pairs.len() > 4 {
            h = fitted(h, |h| {
                let map = made(h);
                let off = alike.iter().map(|&(p, q)| map.at(p) - q);
                off.flat_map(|d| [d.x, d.y]).collect()
            });
        }
        let map = Self::from(to.inverse()) * made(&h) * Self::from(from);
        map.inverse().map(|_| map)
    }

    /// The same as an affine map, where it is one.
    #[must_use]
    pub fn affine(&self) -> Option<Affine> {
        let [a, b, c, d, e, f, g, h, i] = self.0;
        (g == 0.0 && h == 0.0 && (i - 1.0).abs() < f64::EPSILON)
            .then(|| Affine::new([a, d, b, e, c, f]))
    }

    /// Where a place goes; very far away where it goes beyond what a camera sees.
    #[must_use]
    pub fn at(&self, p: Point) -> Point {
        let [a, b, c, d, e, f, ..] = self.0;
        let w = self.depth(p);
        let w = if w.abs() < 1e-12 { 1e-12 } else { w };
        Point::new((a * p.x + b * p.y + c) / w, (d * p.x + e * p.y + f) / w)
    }

    /// The third coordinate of where a place goes: it changes its sign at the horizon.
    #[must_use]
    pub fn depth(&self, p: Point) -> f64 {
        let [.., g, h, i] = self.0;
        g * p.x + h * p.y + i
    }

    /// The way back; `None` where all goes to a line.
    #[must_use]
    pub fn inverse(&self) -> Option<Self> {
        let [a, b, c, d, e, f, g, h, i] = self.0;
        let m = [
            e * i - f * h,
            c * h - b * i,
            b * f - c * e,
            f * g - d * i,
            a * i - c * g,
            c * d - a * f,
            d * h - e * g,
            b * g - a * h,
            a * e - b * d,
        ];
        let determinant = a * m[0] + b * m[3] + c * m[6];
        let size: f64 = [[a, b, c], [d, e, f], [g, h, i]]
            .iter()
            .map(|row| row.iter().map(|v| v * v).sum::<f64>().sqrt())
            .product();
        (determinant.is_finite() && determinant.abs() > LEAST * size)
            .then(|| Self(m.map(|v| v / determinant)))
    }
}

impl From<Affine> for Projective {
    fn from(affine: Affine) -> Self {
        let [a, b, c, d, e, f] = affine.as_coeffs();
        Self([a, c, e, b, d, f, 0.0, 0.0, 1.0])
    }
}

/// First the right one, then the left one.
impl Mul for Projective {
    type Output = Self;

    fn mul(self, first: Self) -> Self {
        let of = |row: usize, column: usize| -> f64 {
            (0..3)
                .map(|k| self.0[3 * row + k] * first.0[3 * k + column])
                .sum()
        };
        Self(std::array::from_fn(|n| of(n / 3, n % 3)))
    }
}

/// The map that brings places to their middle and to a mean distance of √2 from it.
fn spread(places: impl Iterator<Item = Point> + Clone) -> Option<Affine> {
    let count = places.clone().count() as f64;
    let middle = places.clone().fold(Vec2::ZERO, |sum, p| sum + p.to_vec2()) / count;
    let mean = places.map(|p| (p.to_vec2() - middle).hypot()).sum::<f64>() / count;
    (mean.is_finite() && mean > 0.0)
        .then(|| Affine::scale(std::f64::consts::SQRT_2 / mean) * Affine::translate(-middle))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn pairs(all: &[[f64; 4]]) -> Vec<(Point, Point)> {
        let pair = |&[a, b, c, d]: &[f64; 4]| (Point::new(a, b), Point::new(c, d));
        all.iter().map(pair).collect()
    }

    #[test]
    fn a_map_is_undone_by_its_inverse_and_four_places_go_where_they_are_sent() {
        let four = pairs(&[
            [0.0, 0.0, 40.0, 55.0],
            [300.0, 0.0, 610.0, 20.0],
            [300.0, 200.0, 700.0, 480.0],
            [0.0, 200.0, 15.0, 390.0],
        ]);
        let map = Projective::through(&four).unwrap();
        for &(p, q) in &four {
            assert!((map.at(p) - q).hypot() < 1e-9);
        }
        let there_and_back = map.inverse().unwrap() * map;
        let p = Point::new(120.0, 33.0);
        assert!((there_and_back.at(p) - p).hypot() < 1e-9);
    }

    #[test]
    fn places_on_a_line_make_no_map() {
        let line = pairs(&[
            [0.0, 0.0, 0.0, 0.0],
            [1.0, 1.0, 1.0, 0.0],
            [2.0, 2.0, 1.0, 1.0],
            [0.0, 5.0, 0.0, 1.0],
        ]);
        assert_eq!(Projective::through(&line), None);
        assert_eq!(Projective::through(&line[..3]), None);
        let same = pairs(&[[3.0, 3.0, 0.0, 0.0]; 4]);
        assert_eq!(Projective::through(&same), None);
    }
}
