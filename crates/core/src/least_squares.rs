//! Small sums that several stages share: linear equations, the line through points, and the parameters of a model
//! from what was measured.

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

/// Rounds of [`fitted`] at most.
const ROUNDS: usize = 60;
/// A parameter is moved by so much of itself to see what comes of it.
const NUDGE: f64 = 1e-4;

/// The parameters for which the sum of the squares of a model's errors is least, near to where they start: the method of
/// Levenberg and Marquardt (D. W. Marquardt, "An Algorithm for Least-Squares Estimation of Nonlinear Parameters",
/// Journal of SIAM 11, 1963), with slopes from small differences.
///
/// `errors` gives as many figures each time it is asked, finite ones where it starts; parameters for which they are not
/// finite are never chosen.
pub fn fitted<const N: usize>(
    start: [f64; N],
    mut errors: impl FnMut(&[f64; N]) -> Vec<f64>,
) -> [f64; N] {
    let square = |e: &[f64]| e.iter().map(|v| v * v).sum::<f64>();
    let mut best = start;
    let mut off = errors(&best);
    let mut damping = 1e-3;
    for _ in 0..ROUNDS {
        let slopes: Vec<Vec<f64>> = (0..N)
            .map(|n| {
                let mut moved = best;
                let by = NUDGE * best[n].abs().max(NUDGE);
                moved[n] += by;
                let then = errors(&moved);
                then.iter().zip(&off).map(|(a, b)| (a - b) / by).collect()
            })
            .collect();
        let dot = |a: &[f64], b: &[f64]| a.iter().zip(b).map(|(a, b)| a * b).sum::<f64>();
        let right = std::array::from_fn(|n| [-dot(&slopes[n], &off)]);
        let mut better = false;
        while !better && damping < 1e12 {
            let mut normal: [[f64; N]; N] =
                std::array::from_fn(|i| std::array::from_fn(|k| dot(&slopes[i], &slopes[k])));
            for (n, row) in normal.iter_mut().enumerate() {
                row[n] *= 1.0 + damping;
            }
            let step = solve(normal, right);
            let next = step.map(|by| std::array::from_fn(|n| best[n] + by[n][0]));
            let then = next.map(|p| (p, errors(&p)));
            match then {
                Some((p, e)) if square(&e) < square(&off) => {
                    let gain = 1.0 - square(&e) / square(&off);
                    (best, off) = (p, e);
                    damping /= 10.0;
                    better = gain > 1e-12;
                    if !better {
                        return best;
                    }
                }
                _ => damping *= 10.0,
            }
        }
        if !better {
            break;
        }
    }
    best
}

#[cfg(test)]
mod tests {
    use super::*;

    /// NIST Statistical Reference Datasets, nonlinear regression, "Misra1a": y = b₁ (1 − e^(−b₂ x)), from its first
    /// start; certified values and residual sum of squares as published there.
    #[test]
    fn a_certified_fit_is_found() {
        let measured = [
            (77.6, 10.07),
            (114.9, 14.73),
            (141.1, 17.94),
            (190.8, 23.93),
            (239.9, 29.61),
            (289.0, 35.18),
            (332.8, 40.02),
            (378.4, 44.82),
            (434.8, 50.76),
            (477.3, 55.05),
            (536.8, 61.01),
            (593.1, 66.40),
            (689.1, 75.47),
            (760.0, 81.78),
        ];
        let errors = |b: &[f64; 2]| {
            let off = measured
                .iter()
                .map(|(x, y)| b[0] * (1.0 - (-b[1] * x).exp()) - y);
            off.collect::<Vec<f64>>()
        };
        let found = fitted([500.0, 0.0001], errors);
        assert!(
            (found[0] / 2.389_421_291_8e2 - 1.0).abs() < 1e-6,
            "{found:?}"
        );
        assert!(
            (found[1] / 5.501_564_318_1e-4 - 1.0).abs() < 1e-6,
            "{found:?}"
        );
        let rest: f64 = errors(&found).iter().map(|e| e * e).sum();
        assert!((rest / 1.245_513_889_4e-1 - 1.0).abs() < 1e-6, "{rest}");
    }

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
