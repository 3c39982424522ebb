//! A plane of numbers, and what is done with one: blurred, binned, enlarged.

use kurbo::Point;
use rayon::prelude::*;

/// Numbers in rows from the top.
///
/// # Guarantees
/// `values.len() == width · height`.
#[derive(Clone, Debug)]
pub(crate) struct Plane {
    /// Numbers in a row.
    pub width: usize,
    /// Rows.
    pub height: usize,
    /// The numbers.
    pub values: Vec<f32>,
}

/// Two neighbouring numbers, and how far it is from the first to the second.
type Near = (usize, usize, f32);

/// The two of `n` numbers, at whole places, that a place lies between; beyond the outermost that.
fn near(v: f32, n: usize) -> Near {
    let v = v.clamp(0.0, (n - 1) as f32);
    let low = (v as usize).min(n.saturating_sub(2));
    (low, (low + 1).min(n - 1), v - low as f32)
}

impl Plane {
    /// All of one value.
    pub(crate) fn filled(width: usize, height: usize, value: f32) -> Self {
        Self {
            width,
            height,
            values: vec![value; width * height],
        }
    }

    /// The same size, every number changed.
    pub(crate) fn map(&self, change: impl Fn(f32) -> f32 + Sync) -> Self {
        Self {
            values: self.values.par_iter().map(|&v| change(v)).collect(),
            ..*self
        }
    }

    /// One row.
    pub(crate) fn row(&self, y: usize) -> &[f32] {
        &self.values[y * self.width..(y + 1) * self.width]
    }

    /// The sum of all numbers.
    pub(crate) fn sum(&self) -> f64 {
        self.values.iter().map(|&v| f64::from(v)).sum()
    }

    /// The value at a point of the picture, whose pixels have their middles at halves, px.
    pub(crate) fn at_point(&self, at: Point) -> f64 {
        f64::from(self.between((at.x - 0.5) as f32, (at.y - 0.5) as f32))
    }

    /// The value at a place between four numbers, whose own places are whole; beyond the outermost
    /// theirs.
    fn between(&self, x: f32, y: f32) -> f32 {
        let (x0, x1, u) = near(x, self.width);
        let (y0, y1, v) = near(y, self.height);
        let row = |y: usize| self.row(y)[x0] * (1.0 - u) + self.row(y)[x1] * u;
        row(y0) * (1.0 - v) + row(y1) * v
    }

    /// Squares of `side` px over a picture of `width` × `height` px, each pixel between their middles.
    pub(crate) fn spread_over(&self, side: usize, width: usize, height: usize) -> Self {
        let at = |v: usize| (v as f32 + 0.5) / side as f32 - 0.5;
        let across: Vec<_> = (0..width).map(|x| near(at(x), self.width)).collect();
        // Every row of squares is spread once: all rows of pixels lie between two of them.
        let spread = |y: usize| {
            let row = self.row(y);
            let between = |&(x0, x1, u): &Near| row[x0] * (1.0 - u) + row[x1] * u;
            across.iter().map(between).collect::<Vec<f32>>()
        };
        let wide: Vec<Vec<f32>> = (0..self.height).into_par_iter().map(spread).collect();
        let mut values = vec![0.0; width * height];
        let rows = values.par_chunks_mut(width.max(1)).enumerate();
        rows.for_each(|(y, out)| {
            let (y0, y1, v) = near(at(y), self.height);
            for (value, (a, b)) in out.iter_mut().zip(wide[y0].iter().zip(&wide[y1])) {
                *value = a * (1.0 - v) + b * v;
            }
        });
        Self {
            width,
            height,
            values,
        }
    }

    /// Blurred by a Gaussian, standard deviation in steps of the plane; beyond the border the
    /// outermost numbers go on.
    pub(crate) fn blurred(&self, sigma: f64) -> Self {
        let taps = taps(sigma);
        if taps.len() == 1 {
            return self.clone();
        }
        let (w, h, reach) = (self.width, self.height, taps.len() / 2);
        let side = &taps[reach + 1..];
        let middle = taps[reach];
        let mut values = vec![0.0; w * h];
        let rows = values.par_chunks_mut(w).enumerate();
        rows.for_each_init(Vec::new, |wide: &mut Vec<f32>, (y, out)| {
            // Down into a row with room beside it, then along that.
            wide.clear();
            wide.resize(w + 2 * reach, 0.0);
            let down = &mut wide[reach..reach + w];
            for (to, v) in down.iter_mut().zip(self.row(y)) {
                *to = middle * v;
            }
            for (k, tap) in (1..).zip(side) {
                let above = self.row(y.saturating_sub(k));
                let below = self.row((y + k).min(h - 1));
                for ((to, a), b) in down.iter_mut().zip(above).zip(below) {
                    *to += tap * (a + b);
                }
            }
            let (first, last) = (down[0], down[w - 1]);
            wide[..reach].fill(first);
            wide[reach + w..].fill(last);
            for (to, v) in out.iter_mut().zip(&wide[reach..]) {
                *to = middle * v;
            }
            for (k, tap) in (1..).zip(side) {
                let (left, right) = (&wide[reach - k..], &wide[reach + k..]);
                for ((to, a), b) in out.iter_mut().zip(left).zip(right) {
                    *to += tap * (a + b);
                }
            }
        });
        Self { values, ..*self }
    }

    /// On a grid of another size over the same picture: means where that is coarser, between the numbers where it is
    /// finer.
    pub(crate) fn resized(&self, width: usize, height: usize) -> Self {
        let (across, down) = (spans(self.width, width), spans(self.height, height));
        let mut wide = vec![0.0; width * self.height];
        let rows = wide.par_chunks_mut(width.max(1)).enumerate();
        rows.for_each(|(y, out)| {
            let row = self.row(y);
            for (o, (first, weights)) in out.iter_mut().zip(&across) {
                let from = row[*first..].iter().zip(weights);
                *o = from.map(|(v, weight)| v * weight).sum();
            }
        });
        let mut values = vec![0.0; width * height];
        let rows = values.par_chunks_mut(width.max(1)).zip(&down);
        rows.for_each(|(out, (first, weights))| {
            for (row, weight) in wide[first * width..].chunks(width).zip(weights) {
                for (o, v) in out.iter_mut().zip(row) {
                    *o += v * weight;
                }
            }
        });
        Self {
            width,
            height,
            values,
        }
    }

    /// The sum of the products with the numbers of another plane of the same size.
    pub(crate) fn dot(&self, other: &Self) -> f64 {
        const AT_ONCE: usize = 8;
        let rows = self.values.par_chunks(self.width);
        let rows = rows.zip(other.values.par_chunks(self.width));
        let sums = rows.map(|(a, b)| {
            let mut sums = [0.0f32; AT_ONCE];
            for (a, b) in a.chunks(AT_ONCE).zip(b.chunks(AT_ONCE)) {
                for ((sum, a), b) in sums.iter_mut().zip(a).zip(b) {
                    *sum += a * b;
                }
            }
            sums.iter().map(|&s| f64::from(s)).sum::<f64>()
        });
        sums.collect::<Vec<f64>>().into_iter().sum()
    }

    /// What enlarging by [`Self::enlarged`] and binning again takes away, put back once.
    pub(crate) fn sharpened(&self) -> Self {
        const TIMES: usize = 3;
        let again = self.enlarged(TIMES).binned(TIMES);
        let pairs = self.values.iter().zip(&again.values);
        Self {
            values: pairs.map(|(once, again)| 2.0 * once - again).collect(),
            ..*self
        }
    }

    /// Means of squares of `side` × `side`; both sides of the plane are multiples of it, or what is
    /// over is left out.
    pub(crate) fn binned(&self, side: usize) -> Self {
        let (width, height) = (self.width / side, self.height / side);
        let mut values = vec![0.0; width * height];
        let part = 1.0 / (side * side) as f32;
        values
            .par_chunks_mut(width.max(1))
            .enumerate()
            .for_each(|(y, out)| {
                for row in 0..side {
                    let from = self.row(y * side + row);
                    for (o, v) in out.iter_mut().zip(from.chunks_exact(side)) {
                        *o += v.iter().sum::<f32>() * part;
                    }
                }
            });
        Self {
            width,
            height,
            values,
        }
    }

    /// Enlarged `times` by the cubic of Keys 1981, "Cubic convolution interpolation for digital
    /// image processing" (IEEE Trans. ASSP 29(6) 1153–1160), a = −½.
    pub(crate) fn enlarged(&self, times: usize) -> Self {
        if times == 1 {
            return self.clone();
        }
        let (w, h) = (self.width, self.height);
        let weights: Vec<(isize, [f32; 4])> = (0..times).map(|k| keys(k, times)).collect();
        let mut wide = vec![0.0; w * times * h];
        wide.par_chunks_mut(w * times)
            .enumerate()
            .for_each(|(y, out)| {
                let row = self.row(y);
                let at = |x: isize| row[x.clamp(0, w as isize - 1) as usize];
                for (x, out) in out.chunks_exact_mut(times).enumerate() {
                    for (o, (from, weights)) in out.iter_mut().zip(&weights) {
                        let first = x as isize + from;
                        *o = (0..4).map(|n| weights[n] * at(first + n as isize)).sum();
                    }
                }
            });
        let width = w * times;
        let mut values = vec![0.0; width * h * times];
        values
            .par_chunks_mut(width)
            .enumerate()
            .for_each(|(y, out)| {
                let (from, weights) = &weights[y % times];
                for (n, &weight) in weights.iter().enumerate() {
                    let row = (y / times) as isize + from + n as isize;
                    let row = row.clamp(0, h as isize - 1) as usize;
                    let row = &wide[row * width..(row + 1) * width];
                    for (o, v) in out.iter_mut().zip(row) {
                        *o += weight * v;
                    }
                }
            });
        Self {
            width,
            height: h * times,
            values,
        }
    }
}

/// For each of `to` places over `from` numbers: the first number it is made of, and the weights of those from there on.
fn spans(from: usize, to: usize) -> Vec<(usize, Vec<f32>)> {
    let step = from as f64 / to.max(1) as f64;
    // Tents as wide as a step, and no narrower than from one number to the next.
    let half = step.max(1.0);
    let span = |place: usize| {
        let middle = (place as f64 + 0.5) * step - 0.5;
        let first = (middle - half).ceil().max(0.0) as usize;
        let last = ((middle + half).floor() as usize).min(from - 1);
        let first = first.min(last);
        let weight = |k: usize| (1.0 - (k as f64 - middle).abs() / half).max(1e-9);
        let sum: f64 = (first..=last).map(weight).sum();
        let weights = (first..=last).map(|k| (weight(k) / sum) as f32);
        (first, weights.collect())
    };
    (0..to).map(span).collect()
}

/// Where the four numbers begin that make the `k`-th of `times` within one, and their weights.
fn keys(k: usize, times: usize) -> (isize, [f32; 4]) {
    let at = (k as f64 + 0.5) / times as f64 - 0.5;
    let from = at.floor();
    let t = at - from;
    let near = |d: f64| ((1.5 * d - 2.5) * d) * d + 1.0;
    let far = |d: f64| ((-0.5 * d + 2.5) * d - 4.0) * d + 2.0;
    let weights = [far(t + 1.0), near(t), near(1.0 - t), far(2.0 - t)];
    (from as isize - 1, weights.map(|w| w as f32))
}

/// Standard deviation below which a blur does nothing.
const NO_BLUR: f64 = 0.12;

/// A Gaussian's share of each step, its own weight in the middle; they add up to 1.
fn taps(sigma: f64) -> Vec<f32> {
    if sigma < NO_BLUR {
        return vec![1.0];
    }
    let reach = (3.0 * sigma).ceil() as i32;
    let weight = |k: i32| (-0.5 * (f64::from(k) / sigma).powi(2)).exp();
    let sum: f64 = (-reach..=reach).map(weight).sum();
    (-reach..=reach).map(|k| (weight(k) / sum) as f32).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn blurring_keeps_the_sum_and_spreads_by_its_deviation() {
        let mut plane = Plane::filled(41, 41, 0.0);
        plane.values[20 * 41 + 20] = 1.0;
        let blurred = plane.blurred(2.0);
        let sum: f32 = blurred.values.iter().sum();
        assert!((sum - 1.0).abs() < 1e-4);
        let spread: f32 = (0..41)
            .map(|x| (x as f32 - 20.0).powi(2) * (0..41).map(|y| blurred.row(y)[x]).sum::<f32>())
            .sum();
        assert!((spread - 4.0).abs() < 0.1, "{spread}");
    }

    #[test]
    fn a_slope_stays_that_slope_on_any_grid() {
        let values = |w: usize, h: usize| {
            let at = move |i: usize| {
                let (x, y) = ((i % w) as f32 + 0.5, (i / w) as f32 + 0.5);
                300.0 * x / w as f32 + 100.0 * y / h as f32
            };
            (0..w * h).map(at).collect::<Vec<f32>>()
        };
        let plane = Plane {
            width: 90,
            height: 60,
            values: values(90, 60),
        };
        for (w, h) in [(31, 20), (90, 60), (200, 133)] {
            let (found, wanted) = (plane.resized(w, h), values(w, h));
            for y in h / 10..h - h / 10 {
                for x in w / 10..w - w / 10 {
                    let off = (found.row(y)[x] - wanted[y * w + x]).abs();
                    assert!(off < 0.1, "{off} at {x}, {y} of {w} × {h}");
                }
            }
        }
    }

    #[test]
    fn a_slope_is_enlarged_exactly_and_binned_back() {
        let slope = Plane {
            width: 12,
            height: 8,
            values: (0..96)
                .map(|i| (i % 12) as f32 * 2.0 + (i / 12) as f32)
                .collect(),
        };
        let back = slope.enlarged(3).binned(3);
        for y in 2..6 {
            for x in 2..10 {
                assert!((back.row(y)[x] - slope.row(y)[x]).abs() < 1e-4);
            }
        }
    }
}
