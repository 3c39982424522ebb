//! Traces of compression in blocks of 8 × 8 px, also where the file is no JPEG any more.

use rayon::prelude::*;

use crate::inks::Tone;
use crate::picture::Picture;

/// Rows that are looked at.
const ROWS: usize = 600;
/// Steps above this are drawn edges, 0 to 255.
const DRAWN: i32 = 24;
/// Columns needed to tell.
const LEAST: usize = 32;

/// How much greater the steps from pixel to pixel are across the borders of blocks than inside
/// them, as a part of those inside; 0 where they are not.
///
/// The measure of blockiness of Wang, Sheikh & Bovik 2002, "No-reference perceptual quality
/// assessment of JPEG compressed images" (Proc. ICIP, I-477–480), set against the steps inside and
/// without those of drawn edges.
#[must_use]
pub fn blocks(picture: &Picture) -> f64 {
    let tone = Tone::of(picture).values;
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    if w < LEAST || h < LEAST {
        return 0.0;
    }
    let step = (h / ROWS).max(1);
    let rows: Vec<&[u8]> = tone.chunks(w).step_by(step).collect();
    // Sum and count of the steps at each of the eight places in a block.
    let sums = rows
        .par_iter()
        .map(|row| {
            let mut sums = [(0u64, 0u64); 8];
            for (x, pair) in row.windows(2).enumerate() {
                let apart = (i32::from(pair[0]) - i32::from(pair[1])).abs();
                if apart <= DRAWN {
                    let (sum, count) = &mut sums[(x + 1) % 8];
                    *sum += apart as u64;
                    *count += 1;
                }
            }
            sums
        })
        .reduce(
            || [(0, 0); 8],
            |a, b| std::array::from_fn(|k| (a[k].0 + b[k].0, a[k].1 + b[k].1)),
        );
    let mean = |k: usize| sums[k].0 as f64 / sums[k].1.max(1) as f64;
    let mut inside: Vec<f64> = (1..8).map(mean).collect();
    inside.sort_by(f64::total_cmp);
    // Against the middle and the spread of the seven places inside, so that chance does not count.
    let (middle, most) = (inside[3], inside[6]);
    if mean(0) <= most || middle <= 0.0 {
        return 0.0;
    }
    (mean(0) / middle - 1.0).max(0.0)
}
