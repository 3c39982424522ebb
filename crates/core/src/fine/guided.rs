//! A plane smoothed where another is flat, while edges stay where that has them.
//!
//! ```text
//!   in a window    the guide hardly varies: the mean        it does: what is linear in the guide
//!                  ▒▒▒▒▒▒▒▒▒▒▒▒▒ ──► ▒                      ███░░░ ──► ███░░░
//! ```
//!
//! Source: He, Sun & Tang 2013, "Guided image filtering" (IEEE Trans. PAMI 35(6), 1397–1409).

use rayon::prelude::*;

use crate::fine::Plane;

impl Plane {
    /// Smoothed over windows of so many places to each side where a guide varies by less than `flat`.
    pub(crate) fn guided(&self, guide: &Self, reach: usize, flat: f32) -> Self {
        if reach == 0 {
            return self.clone();
        }
        let both = |f: fn(f32, f32) -> f32| {
            let pairs = self.values.par_iter().zip(&guide.values);
            let values = pairs.map(|(&v, &g)| f(v, g)).collect();
            boxed(&Self { values, ..*self }, reach)
        };
        let (value, seen) = (both(|v, _| v), both(|_, g| g));
        let (product, square) = (both(|v, g| v * g), both(|_, g| g * g));
        let line: Vec<[f32; 2]> = (0..self.values.len())
            .into_par_iter()
            .map(|i| {
                let (v, g) = (value.values[i], seen.values[i]);
                let variance = (square.values[i] - g * g).max(0.0);
                let a = (product.values[i] - v * g) / (variance + flat * flat);
                [a, v - a * g]
            })
            .collect();
        let part = |n: usize| {
            let values = line.par_iter().map(|l| l[n]).collect();
            boxed(&Self { values, ..*self }, reach)
        };
        let (slope, rest) = (part(0), part(1));
        let values = (0..self.values.len()).into_par_iter();
        let values = values.map(|i| slope.values[i] * guide.values[i] + rest.values[i]);
        Self {
            values: values.collect(),
            ..*self
        }
    }
}

/// Means over squares of so many places to each side, fewer at the border.
fn boxed(plane: &Plane, reach: usize) -> Plane {
    let (w, h) = (plane.width, plane.height);
    let mut wide = vec![0.0; w * h];
    let rows = wide.par_chunks_mut(w).enumerate();
    rows.for_each(|(y, out)| {
        let row = plane.row(y);
        let mut sum: f64 = row[..reach.min(w)].iter().map(|&v| f64::from(v)).sum();
        for (x, o) in out.iter_mut().enumerate() {
            if x + reach < w {
                sum += f64::from(row[x + reach]);
            }
            if x > reach {
                sum -= f64::from(row[x - reach - 1]);
            }
            let count = (x + reach).min(w - 1) - x.saturating_sub(reach) + 1;
            *o = (sum / count as f64) as f32;
        }
    });
    let mut values = vec![0.0; w * h];
    // Columns in bands of rows: each band sums up its own beginning.
    const BAND: usize = 64;
    let bands = values.par_chunks_mut(w * BAND).enumerate();
    bands.for_each(|(n, out)| {
        let from = n * BAND;
        let mut sums = vec![0.0f64; w];
        let row = |y: usize| &wide[y * w..(y + 1) * w];
        for y in from.saturating_sub(reach + 1)..(from + reach).min(h) {
            for (s, v) in sums.iter_mut().zip(row(y)) {
                *s += f64::from(*v);
            }
        }
        for (y, out) in (from..).zip(out.chunks_mut(w)) {
            if y + reach < h {
                for (s, v) in sums.iter_mut().zip(row(y + reach)) {
                    *s += f64::from(*v);
                }
            }
            if y > reach {
                for (s, v) in sums.iter_mut().zip(row(y - reach - 1)) {
                    *s -= f64::from(*v);
                }
            }
            let count = ((y + reach).min(h - 1) - y.saturating_sub(reach) + 1) as f64;
            for (o, s) in out.iter_mut().zip(&sums) {
                *o = (s / count) as f32;
            }
        }
    });
    Plane { values, ..*plane }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::random::Random;

    #[test]
    fn means_are_those_of_looking_at_every_place() {
        let (w, h) = (40, 150);
        let mut random = Random::new(5);
        let values = (0..w * h).map(|_| random.below(256) as f32).collect();
        let plane = Plane {
            width: w,
            height: h,
            values,
        };
        for reach in [1, 4, 9] {
            let found = boxed(&plane, reach);
            for (x, y) in [
                (0_usize, 0_usize),
                (39, 149),
                (20, 63),
                (20, 64),
                (5, 130),
                (17, 75),
            ] {
                let rows = y.saturating_sub(reach)..=(y + reach).min(h - 1);
                let near = rows.flat_map(|y| {
                    plane.row(y)[x.saturating_sub(reach)..=(x + reach).min(w - 1)].to_vec()
                });
                let all: Vec<f32> = near.collect();
                let mean = all.iter().sum::<f32>() / all.len() as f32;
                assert!(
                    (found.row(y)[x] - mean).abs() < 1e-2,
                    "{x}, {y} over {reach}"
                );
            }
        }
    }

    #[test]
    fn grain_goes_and_a_step_stays_where_it_is() {
        let (w, h) = (120, 80);
        let mut random = Random::new(3);
        let tone = |i: usize| if i % w < w / 2 { 60.0 } else { 180.0 };
        let values = (0..w * h)
            .map(|i| tone(i) + random.below(11) as f32 - 5.0)
            .collect();
        let plane = Plane {
            width: w,
            height: h,
            values,
        };
        let calm = plane.guided(&plane, 6, 8.0);
        for y in 10..70 {
            let row = calm.row(y);
            assert!(row[w / 2 - 1] < 80.0 && row[w / 2] > 160.0);
            assert!((row[20] - 60.0).abs() < 2.0 && (row[100] - 180.0).abs() < 2.0);
        }
    }
}
