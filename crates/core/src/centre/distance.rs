//! Distance of every pixel of a mask from the nearest pixel outside it, squared, exact.
//!
//! Columns first, then the lower envelope of parabolas along every row: two passes, O(pixels).
//! Source: Felzenszwalb & Huttenlocher 2012, "Distance transforms of sampled functions" (Theory of
//! Computing 8, 415–428).

use rayon::prelude::*;

use crate::centre::mask::Mask;

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
    let height = |q: usize, row: &[u32]| f64::from(row[q]).powi(2);
    let before = row.to_vec();
    // The parabolas of the lower envelope, and where each begins.
    let mut roots = vec![0usize];
    let mut begins = vec![f64::NEG_INFINITY];
    for q in 1..before.len() {
        let meets = |p: usize| {
            let (fq, fp) = (height(q, &before), height(p, &before));
            let (q, p) = (q as f64, p as f64);
            ((fq + q * q) - (fp + p * p)) / (2.0 * (q - p))
        };
        let mut s = meets(roots[roots.len() - 1]);
        while s <= begins[begins.len() - 1] {
            roots.pop();
            begins.pop();
            s = meets(roots[roots.len() - 1]);
        }
        roots.push(q);
        begins.push(s);
    }
    let mut k = 0;
    for (x, cell) in row.iter_mut().enumerate() {
        while k + 1 < begins.len() && begins[k + 1] < x as f64 {
            k += 1;
        }
        let away = x.abs_diff(roots[k]) as u32;
        *cell = away * away + before[roots[k]] * before[roots[k]];
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
