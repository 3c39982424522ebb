//! Distance of every pixel of a mask from the nearest pixel outside it, squared, exact.
//!
//! Columns first, then the [lower envelope](Envelope) of parabolas along every row: two passes, O(pixels).

use rayon::prelude::*;

use crate::centre::mask::Mask;
use crate::envelope::Envelope;

/// Squared distances between pixel centres, px²; 0 outside the mask.
pub(super) fn squared(mask: &Mask) -> Vec<u32> {
    let (width, height) = (mask.width, mask.height);
    // The rim of a mask is never part of it, so every column and row has a nought.
    let mut down = vec![0u32; mask.on.len()];
    for i in width..mask.on.len() {
        if mask.on[i] {
            down[i] = down[i - width] + 1;
        }
    }
    for i in (0..width * (height - 1)).rev() {
        down[i] = down[i].min(down[i + width] + 1);
    }
    down.par_chunks_mut(width).for_each(row);
    down
}

/// Turns distances along the columns into squared distances in the plane, for one row.
fn row(row: &mut [u32]) {
    let before = row.to_vec();
    let envelope = Envelope::of(before.len(), |x| Some(f64::from(before[x]).powi(2)));
    for ((x, cell), root) in row.iter_mut().enumerate().zip(envelope.lowest()) {
        let away = x.abs_diff(root) as u32;
        *cell = away * away + before[root] * before[root];
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn distances_are_those_to_the_nearest_pixel_outside() {
        let mut random = 7u32;
        let on: Vec<bool> = (0..30 * 20)
            .map(|_| {
                random = random.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
                random >> 28 != 0
            })
            .collect();
        let mask = Mask::new(30, 20, |x, y| on[y * 30 + x]).unwrap();
        let found = squared(&mask);
        for (i, &d) in found.iter().enumerate() {
            let (x, y) = (i % mask.width, i / mask.width);
            let nearest = (0..mask.on.len())
                .filter(|&j| !mask.on[j])
                .map(|j| (j % mask.width).abs_diff(x).pow(2) + (j / mask.width).abs_diff(y).pow(2))
                .min();
            assert_eq!(Some(d as usize), nearest, "{x}, {y}");
        }
    }
}
