//! A threshold for every place, for scans with stains and shadows.
//!
//! T = m · (1 + k · (s / R − 1)), m and s the mean and the standard deviation of the tones in a
//! square window, k = 0.2, R half the range of tones. The picture is mirrored at its border.
//! Source: Sauvola & Pietikäinen 2000, "Adaptive document image binarization" (Pattern Recognition
//! 33(2) 225–236).

use rayon::prelude::*;

const K: f64 = 0.2;
const R: f64 = 127.5;
/// Tone of a pixel that equals its threshold, in the values of [`above_surroundings`].
pub(super) const EVEN: u8 = 128;

/// Side of the window for a picture of a size, px: odd, a sixteenth of the shorter side.
pub(super) fn window((w, h): (usize, usize)) -> usize {
    (w.min(h) / 16).clamp(7, 100) * 2 + 1
}

/// Threshold of every pixel by Sauvola's formula, for tones in rows of `w`; `window` is odd.
#[must_use]
pub fn sauvola(tones: &[u8], (w, h): (usize, usize), window: usize) -> Vec<f64> {
    let mut out = vec![0.0; tones.len()];
    let band = h.div_ceil(8).max(1);
    out.par_chunks_mut(band * w)
        .enumerate()
        .for_each(|(n, band_rows)| fill(tones, (w, h), window, n * band, band_rows));
    out
}

/// Tones against their own threshold, [`EVEN`] where equal.
pub(super) fn above_surroundings(tones: &[u8], size: (usize, usize), window: usize) -> Vec<u8> {
    sauvola(tones, size, window)
        .into_par_iter()
        .zip(tones)
        .map(|(t, &v)| {
            (f64::from(v) - t + f64::from(EVEN))
                .round()
                .clamp(0.0, 255.0) as u8
        })
        .collect()
}

/// Index mirrored at both ends, the ends themselves not repeated.
fn mirrored(i: isize, n: usize) -> usize {
    if n == 1 {
        return 0;
    }
    let period = 2 * (n as isize - 1);
    let i = i.rem_euclid(period);
    i.min(period - i) as usize
}

/// Thresholds of the rows from `top`, with running sums down the columns and along the row.
fn fill(tones: &[u8], (w, h): (usize, usize), window: usize, top: usize, out: &mut [f64]) {
    let reach = (window / 2) as isize;
    let mut sums = vec![(0u64, 0u64); w];
    let add = |sums: &mut [(u64, u64)], y: isize| {
        let row = mirrored(y, h) * w;
        for (s, &v) in sums.iter_mut().zip(&tones[row..row + w]) {
            let v = u64::from(v);
            (s.0, s.1) = (s.0 + v, s.1 + v * v);
        }
    };
    let take = |sums: &mut [(u64, u64)], y: isize| {
        let row = mirrored(y, h) * w;
        for (s, &v) in sums.iter_mut().zip(&tones[row..row + w]) {
            let v = u64::from(v);
            (s.0, s.1) = (s.0 - v, s.1 - v * v);
        }
    };
    let top = top as isize;
    (top - reach..=top + reach).for_each(|y| add(&mut sums, y));
    let count = (window * window) as f64;
    for (n, row) in out.chunks_mut(w).enumerate() {
        let y = top + n as isize;
        if n > 0 {
            add(&mut sums, y + reach);
            take(&mut sums, y - reach - 1);
        }
        let column = |x: isize| sums[mirrored(x, w)];
        let (mut sum, mut square) = (0, 0);
        for x in -reach..=reach {
            (sum, square) = (sum + column(x).0, square + column(x).1);
        }
        for (x, t) in row.iter_mut().enumerate() {
            let x = x as isize;
            if x > 0 {
                let (new, old) = (column(x + reach), column(x - reach - 1));
                (sum, square) = (sum + new.0 - old.0, square + new.1 - old.1);
            }
            let mean = sum as f64 / count;
            let deviation = (square as f64 / count - mean * mean).max(0.0).sqrt();
            *t = mean * (1.0 + K * (deviation / R - 1.0));
        }
    }
}
