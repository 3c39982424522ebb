//! Small sums that several stages share: linear equations, and the line through points.

use kurbo::{Point, Vec2};

/// A pivot smaller than this does not determine its unknown.
const LEAST_PIVOT: f64 = 1e-12;

/// Solves `N` linear equations for `M` right sides at once, by Gauss elimination with row
/// exchange; `None` when they do not determine a solution.
pub(crate) fn solve<const N: usize, const M: usize>(
    mut a: [[f64; N]; N],
    mut b: [[f64; M]; N],
) -> Option<[[f64; M]; N]> {
    for i in 0..N {
        let pivot = (i..N).max_by(|&p, &q| a[p][i].abs().total_cmp(&a[q][i].abs()))?;
        if a[pivot][i].abs() < LEAST_PIVOT {
            return None;
        }
        a.swap(i, pivot);
        b.swap(i, pivot);
        for k in (0..N).filter(|&k| k != i) {
            let factor = a[k][i] / a[i][i];
            let (row, right) = (a[i], b[i]);
            for (cell, from) in a[k].iter_mut().zip(row) {
                *cell -= factor * from;
            }
            for (cell, from) in b[k].iter_mut().zip(right) {
                *cell -= factor * from;
            }
        }
    }
    for (i, row) in b.iter_mut().enumerate() {
        row.iter_mut().for_each(|cell| *cell /= a[i][i]);
    }
    Some(b)
}

/// The total least-squares line through points: their middle, and the direction of the line from
/// the first towards the last, of length 1. `None` without a point.
pub(crate) fn line_through(points: &[Point]) -> Option<(Point, Vec2)> {
    let (first, last) = (points.first()?, points.last()?);
    let sum = points.iter().fold(Vec2::ZERO, |sum, p| sum + p.to_vec2());
    let middle = (sum / points.len() as f64).to_point();
    let (mut xx, mut xy, mut yy) = (0.0, 0.0, 0.0);
    for &p in points {
        let d = p - middle;
        xx += d.x * d.x;
        xy += d.x * d.y;
        yy += d.y * d.y;
    }
    let along = Vec2::from_angle(0.5 * (2.0 * xy).atan2(xx - yy));
    let ahead = along.dot(*last - *first) >= 0.0;
    Some((middle, if ahead { along } else { -along }))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn equations_are_solved_for_every_right_side() {
        let a = [[0.0, 2.0, 1.0], [4.0, -1.0, 0.5], [1.0, 1.0, 1.0]];
        let x = [[1.0, -2.0], [0.5, 3.0], [-4.0, 7.0]];
        let b: [[f64; 2]; 3] = std::array::from_fn(|i| {
            std::array::from_fn(|m| (0..3).map(|j| a[i][j] * x[j][m]).sum())
        });
        let found = solve(a, b).unwrap();
        for (f, e) in found.iter().flatten().zip(x.iter().flatten()) {
            assert!((f - e).abs() < 1e-12);
        }
        assert_eq!(solve([[1.0, 2.0], [2.0, 4.0]], [[1.0], [2.0]]), None);
    }

    #[test]
    fn a_line_runs_from_the_first_point_to_the_last() {
        let points: Vec<Point> = (0..9)
            .map(|i| {
                Point::new(
                    5.0 - f64::from(i),
                    2.0 * f64::from(i) + 0.01 * f64::from(i % 2),
                )
            })
            .collect();
        let (_, along) = line_through(&points).unwrap();
        assert!((along - Vec2::new(-1.0, 2.0).normalize()).hypot() < 0.01);
    }
}
