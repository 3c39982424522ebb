//! Dither: colours that a picture shows by scattering the dots of a few others, and the picture
//! without the dots.
//!
//! ```text
//!   · ■ · ■ ■      a dot is darker, or lighter, than its neighbours on all four sides; where dots
//!   ■ · ■ · ■      lie as thick as nothing drawn does, the colour meant is the mean around
//!   · ■ · ■ ·
//! ```
//!
//! Only dotted places are changed. The mean is taken over neighbours whose own surroundings look alike,
//! so that edges between two dotted fields stay where they are. Source of the kind: error diffusion by
//! Floyd & Steinberg 1976, "An adaptive algorithm for spatial greyscale" (Proc. SID 17(2) 75–77), and
//! ordered dots; undoing them by local means is our own.

use rayon::prelude::*;

use crate::inks::luma::luma;
use crate::picture::Picture;

/// A dot differs from its neighbours by more than this, 0 to 255.
const STEP: i32 = 6;
/// A dithered picture has no more colours than this, and dots are this part of all that is not flat.
const MOST_COLOURS: usize = 64;
const LEAST_DOTS: f64 = 0.2;
/// Least share of the picture that dots make up.
const LEAST_SHARE: f64 = 0.004;
/// A picture that is nothing but dots shows nothing.
const MOST_SHARE: f64 = 0.9;
/// A place is dotted where so many dots lie in its surroundings.
const DOTTED: u32 = 2;
/// Half the side of a place's surroundings, and of those over which the mean is taken, px.
const SURROUNDINGS: usize = 2;
const REACH: usize = 3;
/// Surroundings are alike within this, 0 to 255.
const ALIKE: f32 = 26.0;

/// The picture without its dots; `None` where it has none.
pub(super) fn undone(picture: &Picture) -> Option<Picture> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    if w < 16 || h < 16 || has_many_colours(picture.pixels()) {
        return None;
    }
    let dots = dots(picture)?;
    let dotted = sums(&dots, w, h);
    let means = means(picture);
    let mut pixels = picture.pixels().to_vec();
    pixels.par_chunks_mut(w).enumerate().for_each(|(y, row)| {
        for (x, p) in row.iter_mut().enumerate() {
            if dotted[y * w + x] < DOTTED {
                continue;
            }
            let mean = means[y * w + x];
            let (mut sum, mut count) = ([0.0f32; 4], 0.0f32);
            for row in y.saturating_sub(REACH)..(y + REACH + 1).min(h) {
                for column in x.saturating_sub(REACH)..(x + REACH + 1).min(w) {
                    let i = row * w + column;
                    if (0..4).all(|c| (means[i][c] - mean[c]).abs() < ALIKE) {
                        count += 1.0;
                        let other = picture.pixels()[i];
                        (0..4).for_each(|c| sum[c] += f32::from(other[c]));
                    }
                }
            }
            *p = sum.map(|s| (s / count.max(1.0)).round() as u8);
        }
    });
    Picture::new(picture.width(), picture.height(), pixels).ok()
}

/// Whether there are more colours than a palette for dots has.
fn has_many_colours(pixels: &[[u8; 4]]) -> bool {
    let mut found: Vec<[u8; 4]> = Vec::with_capacity(MOST_COLOURS);
    let mut last = None;
    for &p in pixels {
        if last == Some(p) {
            continue;
        }
        last = Some(p);
        if let Err(at) = found.binary_search(&p) {
            if found.len() == MOST_COLOURS {
                return true;
            }
            found.insert(at, p);
        }
    }
    false
}

/// Which pixels are dots; `None` where they are too few.
fn dots(picture: &Picture) -> Option<Vec<bool>> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let tones: Vec<i32> = picture
        .pixels()
        .iter()
        .map(|&p| i32::from(luma(p)))
        .collect();
    let mut dots = vec![false; w * h];
    let (mut count, mut uneven) = (0usize, 0usize);
    for y in 1..h - 1 {
        for x in 1..w - 1 {
            let i = y * w + x;
            let off = [i - 1, i + 1, i - w, i + w].map(|j| tones[j] - tones[i]);
            let across = (off[0] > STEP && off[1] > STEP) || (off[0] < -STEP && off[1] < -STEP);
            let down = (off[2] > STEP && off[3] > STEP) || (off[2] < -STEP && off[3] < -STEP);
            dots[i] = across && down;
            count += usize::from(dots[i]);
            uneven += usize::from(off.iter().any(|v| v.abs() > STEP));
        }
    }
    let share = count as f64 / (w * h) as f64;
    let enough = share > LEAST_SHARE && share < MOST_SHARE;
    (enough && count as f64 > LEAST_DOTS * uneven as f64).then_some(dots)
}

/// How many dots lie around every pixel.
fn sums(dots: &[bool], w: usize, h: usize) -> Vec<u32> {
    (0..w * h)
        .into_par_iter()
        .map(|i| {
            let (x, y) = (i % w, i / w);
            let columns = x.saturating_sub(SURROUNDINGS)..(x + SURROUNDINGS + 1).min(w);
            let rows = y.saturating_sub(SURROUNDINGS)..(y + SURROUNDINGS + 1).min(h);
            rows.flat_map(|y| &dots[y * w + columns.start..y * w + columns.end])
                .map(|&d| u32::from(d))
                .sum()
        })
        .collect()
}

/// Mean colour of the surroundings of every pixel.
fn means(picture: &Picture) -> Vec<[f32; 4]> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    (0..w * h)
        .into_par_iter()
        .map(|i| {
            let (x, y) = (i % w, i / w);
            let (mut sum, mut count) = ([0.0f32; 4], 0.0f32);
            for y in y.saturating_sub(SURROUNDINGS)..(y + SURROUNDINGS + 1).min(h) {
                for x in x.saturating_sub(SURROUNDINGS)..(x + SURROUNDINGS + 1).min(w) {
                    count += 1.0;
                    let p = picture.pixels()[y * w + x];
                    (0..4).for_each(|c| sum[c] += f32::from(p[c]));
                }
            }
            sum.map(|s| s / count)
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    const SIDE: usize = 96;

    /// Grey 90 on grey 190, a disc with soft edges.
    fn disc(i: usize) -> f64 {
        let (x, y) = ((i % SIDE) as f64 + 0.5, (i / SIDE) as f64 + 0.5);
        190.0 - 100.0 * (30.5 - (x - 48.0).hypot(y - 48.0)).clamp(0.0, 1.0)
    }

    /// The error diffusion of Floyd & Steinberg 1976 to black and white: 7/16 to the right, 3/16, 5/16
    /// and 1/16 to the row below.
    fn diffused() -> Picture {
        let mut tones: Vec<f64> = (0..SIDE * SIDE).map(disc).collect();
        let mut pixels = vec![[255; 4]; SIDE * SIDE];
        for y in 0..SIDE {
            for x in 0..SIDE {
                let i = y * SIDE + x;
                let v = if tones[i] < 127.5 { 0 } else { 255 };
                pixels[i] = [v, v, v, 255];
                let off = tones[i] - f64::from(v);
                let mut pass = |dx: isize, dy: usize, part: f64| {
                    let column = x.wrapping_add_signed(dx);
                    if column < SIDE && y + dy < SIDE {
                        tones[(y + dy) * SIDE + column] += off * part / 16.0;
                    }
                };
                pass(1, 0, 7.0);
                pass(-1, 1, 3.0);
                pass(0, 1, 5.0);
                pass(1, 1, 1.0);
            }
        }
        Picture::new(SIDE as u32, SIDE as u32, pixels).unwrap()
    }

    #[test]
    fn error_diffusion_is_undone_to_within_its_own_step() {
        let back = undone(&diffused()).unwrap();
        let inner =
            |i: &usize| (8..SIDE - 8).contains(&(i % SIDE)) && (8..SIDE - 8).contains(&(i / SIDE));
        let off: Vec<f64> = (0..SIDE * SIDE)
            .filter(inner)
            .map(|i| (f64::from(back.pixels()[i][0]) - disc(i)).abs())
            .collect();
        let mean = off.iter().sum::<f64>() / off.len() as f64;
        assert!(mean < 18.0, "{mean}");
    }

    #[test]
    fn lines_text_and_chequers_are_not_dots() {
        let drawn = |of: fn(usize, usize) -> bool| {
            let pixels = (0..SIDE * SIDE).map(|i| {
                let v = if of(i % SIDE, i / SIDE) { 20 } else { 250 };
                [v, v, v, 255]
            });
            Picture::new(SIDE as u32, SIDE as u32, pixels.collect()).unwrap()
        };
        assert!(undone(&drawn(|x, y| (x / 8 + y / 8) % 2 == 0)).is_none());
        assert!(undone(&drawn(|x, y| x % 3 == 0 && y % 30 > 4)).is_none());
        assert!(undone(&drawn(|x, y| x > 20 && x < 60 && y > 10 && y < 80)).is_none());
    }
}
