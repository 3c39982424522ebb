//! How noisy the artwork is, and a calmer copy of it to find inks in.

use crate::inks::tone::luma;
use crate::picture::Picture;

/// Standard deviation of the tone's noise, scale 0 to 255, from flat places only.
///
/// The mask of Immerkær 1996, "Fast noise variance estimation" (CVIU 64(2) 300–302), answers
/// neither to flat tone nor to slopes. Its mean magnitude would count the drawing's edges too, so
/// the *median* magnitude is taken: for a normal distribution it is 0.6745 σ of the response,
/// and the response's σ is 6 times that of the noise.
#[must_use]
pub fn noise_sigma(picture: &Picture) -> f64 {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    if w < 3 || h < 3 {
        return 0.0;
    }
    let pixels = picture.pixels();
    let mut counts = vec![0u32; 8 * 256 + 1];
    let mut total = 0u64;
    // Every second row is plenty, and half the time.
    for y in (1..h - 1).step_by(2) {
        let row = |dy: usize| &pixels[(y + dy - 1) * w..(y + dy) * w];
        let (above, here, below) = (row(0), row(1), row(2));
        let v = |p: [u8; 4]| i32::from(luma(p));
        for x in 1..w - 1 {
            let response = v(above[x - 1]) - 2 * v(above[x]) + v(above[x + 1]) - 2 * v(here[x - 1])
                + 4 * v(here[x])
                - 2 * v(here[x + 1])
                + v(below[x - 1])
                - 2 * v(below[x])
                + v(below[x + 1]);
            counts[response.unsigned_abs() as usize] += 1;
            total += 1;
        }
    }
    let mut seen = 0u64;
    for (magnitude, &count) in counts.iter().enumerate() {
        seen += u64::from(count);
        if seen * 2 >= total {
            return magnitude as f64 / 0.6745 / 6.0;
        }
    }
    0.0
}

/// Noise below this is not worth softening the picture for.
const CALM_SIGMA: f64 = 2.5;

/// A copy with salt and pepper out (3 × 3 median) and grain softened, for noisy pictures; else as it is.
pub(super) fn calmed(picture: &Picture, sigma: f64) -> Picture {
    if sigma < CALM_SIGMA || picture.width() < 3 || picture.height() < 3 {
        return picture.clone();
    }
    softened(&median(picture))
}

/// Calls `f` with the 3 × 3 neighbours of every pixel and channel, borders repeated.
fn map_neighbours(picture: &Picture, f: impl Fn([u8; 9]) -> u8) -> Picture {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let pixels = picture.pixels();
    let mut out = Vec::with_capacity(pixels.len());
    for y in 0..h {
        let rows = [y.saturating_sub(1), y, (y + 1).min(h - 1)];
        for x in 0..w {
            let columns = [x.saturating_sub(1), x, (x + 1).min(w - 1)];
            let mut pixel = [0; 4];
            for (channel, value) in pixel.iter_mut().enumerate() {
                let mut near = [0; 9];
                for (i, n) in near.iter_mut().enumerate() {
                    *n = pixels[rows[i / 3] * w + columns[i % 3]][channel];
                }
                *value = f(near);
            }
            out.push(pixel);
        }
    }
    Picture::new(picture.width(), picture.height(), out).unwrap_or_else(|_| picture.clone())
}

fn median(picture: &Picture) -> Picture {
    map_neighbours(picture, |mut near| {
        near.sort_unstable();
        near[4]
    })
}

fn softened(picture: &Picture) -> Picture {
    const BINOMIAL: [u32; 9] = [1, 2, 1, 2, 4, 2, 1, 2, 1];
    map_neighbours(picture, |near| {
        let sum: u32 = near
            .iter()
            .zip(BINOMIAL)
            .map(|(&v, k)| u32::from(v) * k)
            .sum();
        ((sum + 8) / 16) as u8
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn known_noise_is_measured_within_a_tenth() {
        let mut rng = fastrand_like(7);
        for sigma in [3.0, 8.0, 15.0] {
            let pixels = (0..256 * 256)
                .map(|i| {
                    // Half dark, half light: the edge must not count as noise.
                    let base = if i % 256 < 128 { 80.0 } else { 180.0 };
                    // Sum of 12 uniform numbers: normal to within the accuracy asked for.
                    let n: f64 = (0..12).map(|_| rng()).sum::<f64>() - 6.0;
                    let v = (base + n * sigma).round().clamp(0.0, 255.0) as u8;
                    [v, v, v, 255]
                })
                .collect();
            let found = noise_sigma(&Picture::new(256, 256, pixels).unwrap());
            assert!((found / sigma - 1.0).abs() < 0.1, "{sigma}: {found}");
        }
    }

    /// A small linear congruential generator (Numerical Recipes, 32 bit), 0 to 1.
    fn fastrand_like(seed: u32) -> impl FnMut() -> f64 {
        let mut state = seed;
        move || {
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            f64::from(state) / f64::from(u32::MAX)
        }
    }
}
