//! Means of the boxes around all pixels.

/// The mean of the box of `reach` px to each side of every pixel, by sums of all above and to the left (Crow 1984,
/// "Summed-area tables for texture mapping"); at the picture's sides of what there is of it.
pub(crate) fn box_means(
    value: impl Fn(usize) -> f64,
    (w, h): (usize, usize),
    reach: usize,
) -> Vec<f32> {
    let mut sums = vec![0.0; (w + 1) * (h + 1)];
    for y in 0..h {
        let mut row = 0.0;
        for x in 0..w {
            row += value(y * w + x);
            sums[(y + 1) * (w + 1) + x + 1] = sums[y * (w + 1) + x + 1] + row;
        }
    }
    let mean = |i: usize| {
        let (x, y) = (i % w, i / w);
        let (x0, x1) = (x.saturating_sub(reach), (x + reach + 1).min(w));
        let (y0, y1) = (y.saturating_sub(reach), (y + reach + 1).min(h));
        let at = |x: usize, y: usize| sums[y * (w + 1) + x];
        let sum = at(x1, y1) + at(x0, y0) - at(x0, y1) - at(x1, y0);
        (sum / ((x1 - x0) * (y1 - y0)) as f64) as f32
    };
    (0..w * h).map(mean).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_mean_is_that_of_adding_up_its_box() {
        let (w, h, reach) = (9, 7, 2);
        let value = |i: usize| ((i * 37) % 23) as f64;
        for (i, mean) in box_means(value, (w, h), reach).into_iter().enumerate() {
            let inside =
                |k: &usize| (k % w).abs_diff(i % w) <= reach && (k / w).abs_diff(i / w) <= reach;
            let all: Vec<f64> = (0..w * h).filter(inside).map(value).collect();
            let told = all.iter().sum::<f64>() / all.len() as f64;
            assert!((f64::from(mean) - told).abs() < 1e-5, "{i}");
        }
    }
}
