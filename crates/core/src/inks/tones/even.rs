//! Local contrast evened out, so that what lies in shadow shows its tones as well as what lies in light.
//!
//! Source: Zuiderveld 1994, "Contrast limited adaptive histogram equalization" (Graphics Gems IV, 474–485): a histogram
//! for each tile, its peaks clipped so that flat places are not blown up, tones looked up between four tiles.

use rayon::prelude::*;

use super::levels::histogram;
use crate::fine::Plane;

/// Tiles along the longer side.
const TILES: usize = 6;
/// By how much a tile may steepen its tones.
const STEEPEST: f64 = 3.0;

/// The tones with so much of their local contrast evened out, 0 to 1.
pub(in crate::inks) fn evened(tone: &Plane, cover: &Plane, share: f64) -> Plane {
    if share <= 0.0 {
        return tone.clone();
    }
    let (w, h) = (tone.width, tone.height);
    let side = w.max(h).div_ceil(TILES).max(8);
    let (across, down) = (w.div_ceil(side), h.div_ceil(side));
    let whole = table(&histogram(tone, cover));
    let tables: Vec<[f32; 256]> = (0..across * down)
        .into_par_iter()
        .map(|n| {
            let (x0, y0) = (n % across * side, n / across * side);
            let rows = y0..(y0 + side).min(h);
            let mut counts = [0; 256];
            for y in rows {
                for i in y * w + x0..y * w + (x0 + side).min(w) {
                    if cover.values[i] >= 0.5 {
                        counts[level(tone.values[i])] += 1;
                    }
                }
            }
            // A tile with hardly anything in it goes by the whole picture.
            if counts.iter().sum::<u64>() < (side * side / 8) as u64 {
                whole
            } else {
                table(&counts)
            }
        })
        .collect();
    let near = |v: usize, n: usize| {
        let at = ((v as f32 + 0.5) / side as f32 - 0.5).clamp(0.0, (n - 1) as f32);
        let low = at as usize;
        (low, (low + 1).min(n - 1), at - low as f32)
    };
    let share = share.min(1.0) as f32;
    let mut values = vec![0.0; w * h];
    values.par_chunks_mut(w).enumerate().for_each(|(y, out)| {
        let (top, bottom, v) = near(y, down);
        for (x, out) in out.iter_mut().enumerate() {
            let (left, right, u) = near(x, across);
            let was = tone.values[y * w + x];
            let at = |row: usize, column: usize| tables[row * across + column][level(was)];
            let upper = at(top, left) * (1.0 - u) + at(top, right) * u;
            let lower = at(bottom, left) * (1.0 - u) + at(bottom, right) * u;
            let even = upper * (1.0 - v) + lower * v;
            *out = was + share * (even - was);
        }
    });
    Plane { values, ..*tone }
}

fn level(tone: f32) -> usize {
    tone.round().clamp(0.0, 255.0) as usize
}

/// What becomes of each tone: its histogram summed up, no bin of it counting more than it may.
fn table(counts: &[u64; 256]) -> [f32; 256] {
    let total: u64 = counts.iter().sum();
    let mean = total as f64 / 256.0;
    let clipped = counts.map(|n| (n as f64).min(STEEPEST * mean));
    // What was cut off the peaks is spread over all tones.
    let spread = (total as f64 - clipped.iter().sum::<f64>()) / 256.0;
    let mut sum = 0.0;
    clipped.map(|n| {
        let here = n + spread;
        sum += here;
        (255.0 * (sum - here / 2.0) / total.max(1) as f64) as f32
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn waves_in_the_shadow_span_more_tones_as_do_those_in_the_light() {
        // Waves of thirty tones on a ground that is dark on one side and light on the other.
        let (w, h) = (240, 240);
        let tone = |i: usize| {
            let ground = if i % w < w / 2 { 30.0 } else { 190.0 };
            ground + 30.0 * ((i / w % 20) as f32 / 10.0 - 1.0).abs()
        };
        let values = (0..w * h).map(tone).collect();
        let plane = Plane {
            width: w,
            height: h,
            values,
        };
        let cover = Plane::filled(w, h, 1.0);
        let even = evened(&plane, &cover, 1.0);
        let span = |plane: &Plane, x: usize| {
            let all = (100..140).map(|y| plane.row(y)[x]);
            all.clone().fold(0.0, f32::max) - all.fold(255.0, f32::min)
        };
        for x in [20, 220] {
            let (was, is) = (span(&plane, x), span(&even, x));
            assert!(is > 1.8 * was, "{is} after {was} at {x}");
        }
        assert_eq!(evened(&plane, &cover, 0.0).values, plane.values);
    }
}
