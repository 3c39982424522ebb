//! How noisy the artwork is, and a calmer copy of it to find inks and edges in.

use rayon::prelude::*;

use crate::inks::luma::luma;
use crate::picture::Picture;

/// Rows are left out beyond about this many pixels: the estimate no longer changes.
const ENOUGH_PX: usize = 300_000;
/// A smaller picture has too few flat places to tell noise from drawing.
const FEWEST_PX: usize = 1_000;
/// Grain beside edges from which a picture was compressed, chroma at half the resolution, 0 to 255.
const COMPRESSED: f64 = 0.6;
/// Standard deviation of the blur of storing chroma in squares of 2 × 2 px and reading between them, px:
/// their variances are ⅓ and ⅔ px².
pub(super) const CHROMA_SPREAD: f64 = 1.0;

/// How much softer chroma is than luma in a picture with such grain beside its edges, standard deviation,
/// px.
pub(super) fn chroma_spread(beside: f64) -> f64 {
    if beside > COMPRESSED {
        CHROMA_SPREAD
    } else {
        0.0
    }
}

/// Standard deviation of the tone's noise, scale 0 to 255, from flat places only.
///
/// The mask of Immerkær 1996, "Fast noise variance estimation" (CVIU 64(2) 300–302), answers
/// neither to flat tone nor to slopes, but it does to lines and to the ends of edges, and lettering
/// has little else. So only the quieter part of the picture is asked, where tones rise least over
/// five pixels, and of it the *median* magnitude is taken: for a normal distribution it is 0.6745 σ
/// of the response (Donoho's estimator), and the response's σ is 6 times that of the noise. A
/// picture whose quiet places are exactly flat has none, however much is drawn on it.
///
/// It is taken between next neighbours and between next but one, and the greater counts: the grain
/// of a scan is smooth from pixel to pixel.
#[must_use]
pub fn noise_sigma(picture: &Picture) -> f64 {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    if w < 5 || h < 5 || w * h < FEWEST_PX {
        return 0.0;
    }
    let step = (w * h / ENOUGH_PX).max(1);
    let rows: Vec<usize> = (2..h - 2).step_by(step).collect();
    let found: Vec<Vec<Answer>> = rows.par_iter().map(|&y| answers(picture, y)).collect();
    let mut found: Vec<Answer> = found.into_iter().flatten().collect();
    let quiet = ((found.len() - 1) as f64 * QUIET) as usize;
    let most = found.select_nth_unstable_by_key(quiet, |a| a.rise).1.rise;
    found.retain(|a| a.rise <= most);
    let middle = found.len() / 2;
    let mut median = |of: fn(&Answer) -> u16| {
        let (_, at, _) = found.select_nth_unstable_by_key(middle, of);
        f64::from(of(at)) / 0.6745 / 6.0
    };
    median(|a| a.near).max(median(|a| a.far))
}

/// Part of the picture that is asked for its noise: where tones rise least.
const QUIET: f64 = 0.3;

/// What one pixel says of the noise.
#[derive(Clone, Copy)]
struct Answer {
    /// How much tones rise over five pixels, across or down.
    rise: u16,
    /// Magnitude of the mask's response between next neighbours, and next but one.
    near: u16,
    far: u16,
}

/// What the pixels of a row say, which lies 2 px or more inside.
fn answers(picture: &Picture, y: usize) -> Vec<Answer> {
    let (w, pixels) = (picture.width() as usize, picture.pixels());
    let rows: Vec<Vec<i32>> = (y - 2..=y + 2)
        .map(|y| {
            let row = &pixels[y * w..(y + 1) * w];
            row.iter().map(|&p| i32::from(luma(p))).collect()
        })
        .collect();
    let columns: Vec<i32> = (0..w).map(|x| rows.iter().map(|r| r[x]).sum()).collect();
    let falls: Vec<i32> = (0..w)
        .map(|x| rows[3][x] + rows[4][x] - rows[0][x] - rows[1][x])
        .collect();
    let mask = |x: usize, d: usize| {
        let (above, here, below) = (&rows[2 - d], &rows[2], &rows[2 + d]);
        let response = above[x - d] - 2 * above[x] + above[x + d] - 2 * here[x - d] + 4 * here[x]
            - 2 * here[x + d]
            + below[x - d]
            - 2 * below[x]
            + below[x + d];
        response.unsigned_abs() as u16
    };
    (2..w - 2)
        .map(|x| {
            let across = columns[x + 1] + columns[x + 2] - columns[x - 1] - columns[x - 2];
            let down: i32 = falls[x - 2..=x + 2].iter().sum();
            Answer {
                rise: across.unsigned_abs().max(down.unsigned_abs()) as u16,
                near: mask(x, 1),
                far: mask(x, 2),
            }
        })
        .collect()
}

/// What spoils the values of a picture.
#[derive(Clone, Copy, Debug)]
pub(super) struct Grain {
    /// Standard deviation in quiet places, 0 to 255.
    pub quiet: f64,
    /// The same beside edges, where compression leaves it.
    pub beside: f64,
    /// Whether colours were rounded to a small palette.
    pub rounded: bool,
}

/// Most tones of a picture that was rounded to a palette; soft edges of their own have more.
const FEW_TONES: usize = 20;

impl Grain {
    /// Measures a picture.
    pub(super) fn of(picture: &Picture) -> Self {
        Self {
            quiet: noise_sigma(picture),
            beside: grain_beside_edges(picture),
            rounded: is_rounded(picture),
        }
    }

    /// The greater of what lies in quiet places and beside edges.
    pub(super) fn most(&self) -> f64 {
        self.quiet.max(self.beside)
    }

    /// What compression left of a pixel on an edge, standard deviation, 0 to 255.
    pub(super) fn at_edges(&self) -> f64 {
        ON_TO_BESIDE * self.beside
    }
}

/// Compression spoils pixels on an edge this much more than those beside it: own trials with quality
/// 30 to 80.
const ON_TO_BESIDE: f64 = 2.0;

/// Whether there are few tones; nearly every picture shows more in its first rows.
fn is_rounded(picture: &Picture) -> bool {
    let (mut seen, mut count) = ([false; 256], 0);
    for &p in picture.pixels() {
        let tally = &mut seen[usize::from(luma(p))];
        count += usize::from(!*tally);
        *tally = true;
        if count > FEW_TONES {
            return false;
        }
    }
    true
}

/// A place lies beside an edge where tones differ by more than the first within so many pixels, and
/// by less than the second among its next neighbours, 0 to 255.
const EDGE: u8 = 64;
const CALM: u8 = 24;
const BESIDE: usize = 3;
/// Fewest of them that tell.
const FEWEST: usize = 50;

/// Standard deviation of the grain beside edges, where compression leaves it, 0 to 255: by the upper
/// quartile of the same mask there. A picture that was never compressed has none.
fn grain_beside_edges(picture: &Picture) -> f64 {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let side = 2 * BESIDE + 1;
    if w < side || h < side {
        return 0.0;
    }
    let step = (w * h / ENOUGH_PX).max(1);
    let rows: Vec<usize> = (BESIDE..h - BESIDE).step_by(step).collect();
    let found: Vec<Vec<u16>> = rows.par_iter().map(|&y| beside(picture, y)).collect();
    let mut found: Vec<u16> = found.into_iter().flatten().collect();
    if found.len() < FEWEST {
        return 0.0;
    }
    let at = found.len() * 3 / 4;
    f64::from(*found.select_nth_unstable(at).1) / UPPER_QUARTILE / 6.0
}

/// The upper quartile of the magnitude of normal numbers, in standard deviations.
const UPPER_QUARTILE: f64 = 1.1503;

/// What the mask answers in those pixels of a row that lie beside edges.
fn beside(picture: &Picture, y: usize) -> Vec<u16> {
    let (w, pixels) = (picture.width() as usize, picture.pixels());
    let tones: Vec<Vec<u8>> = (y - BESIDE..=y + BESIDE)
        .map(|y| {
            let row = &pixels[y * w..(y + 1) * w];
            row.iter().map(|&p| luma(p)).collect()
        })
        .collect();
    let ends = |rows: &[Vec<u8>]| -> Vec<(u8, u8)> {
        (0..w)
            .map(|x| {
                let column = rows.iter().map(|r| r[x]);
                column.fold((255, 0), |(l, m), v| (v.min(l), v.max(m)))
            })
            .collect()
    };
    let (near, wide) = (ends(&tones[BESIDE - 1..=BESIDE + 1]), ends(&tones));
    let range = |columns: &[(u8, u8)]| {
        let all = columns.iter();
        let (least, most) = all.fold((255, 0), |(l, m), c| (c.0.min(l), c.1.max(m)));
        most - least
    };
    let bend = |x: usize, row: usize| {
        let tone = |x: usize| i32::from(tones[row][x]);
        tone(x - 1) - 2 * tone(x) + tone(x + 1)
    };
    (BESIDE..w - BESIDE)
        .filter(|&x| range(&near[x - 1..=x + 1]) < CALM)
        .filter(|&x| range(&wide[x - BESIDE..=x + BESIDE]) > EDGE)
        .map(|x| {
            let rows = [BESIDE - 1, BESIDE, BESIDE + 1].map(|row| bend(x, row));
            (rows[0] - 2 * rows[1] + rows[2]).unsigned_abs() as u16
        })
        .collect()
}

/// Noise below this is left in the picture: labels and fit do not mind it.
pub(super) const CALM_SIGMA: f64 = 2.5;
/// Neighbours within this many standard deviations of a pixel are averaged with it.
const WITHIN: f64 = 2.5;
/// Half the side of the neighbourhood, px.
const RADIUS: usize = 2;

/// A calmer copy of a noisy picture; a calm one as it is.
///
/// The sigma filter: every pixel becomes the mean of those neighbours that are like it, so edges
/// and thin lines stay as they are. A pixel that is like none of its next neighbours, or only like
/// some on one side of it, is salt or pepper, by itself or sticking to an edge, and its place is
/// taken by the median around it. Source: Lee 1983, "Digital image smoothing and the sigma
/// filter" (CVGIP 24(2) 255–269).
pub(super) fn calmed(picture: &Picture, sigma: f64) -> Picture {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    if sigma < CALM_SIGMA || w < 3 || h < 3 {
        return picture.clone();
    }
    let like = (WITHIN * std::f64::consts::SQRT_2 * sigma).min(90.0) as i32;
    let pixels = picture.pixels();
    let mut out = vec![[0; 4]; pixels.len()];
    out.par_chunks_mut(w).enumerate().for_each(|(y, row)| {
        for (x, to) in row.iter_mut().enumerate() {
            let near = Near { pixels, w, h, x, y };
            let centre = if near.sticks_out(like) {
                near.median()
            } else {
                pixels[y * w + x]
            };
            *to = near.mean_of_like(centre, like);
        }
    });
    Picture::new(picture.width(), picture.height(), out).unwrap_or_else(|_| picture.clone())
}

fn is_like(p: [u8; 4], q: [u8; 4], like: i32) -> bool {
    (0..4).all(|c| (i32::from(q[c]) - i32::from(p[c])).abs() <= like)
}

/// The neighbourhood of a pixel.
struct Near<'a> {
    pixels: &'a [[u8; 4]],
    w: usize,
    h: usize,
    x: usize,
    y: usize,
}

impl Near<'_> {
    fn rows(&self, reach: usize) -> impl Iterator<Item = &[[u8; 4]]> {
        let (left, right) = (
            self.x.saturating_sub(reach),
            (self.x + reach + 1).min(self.w),
        );
        (self.y.saturating_sub(reach)..(self.y + reach + 1).min(self.h))
            .map(move |y| &self.pixels[y * self.w + left..y * self.w + right])
    }

    /// Whether the next neighbours that are like this pixel, if any, all lie on one side of it.
    fn sticks_out(&self, like: i32) -> bool {
        let here = self.pixels[self.y * self.w + self.x];
        let (mut sides, mut any) = ([true; 4], false);
        for dy in -1isize..=1 {
            for dx in -1isize..=1 {
                let (x, y) = (
                    self.x.wrapping_add_signed(dx),
                    self.y.wrapping_add_signed(dy),
                );
                if (dx, dy) == (0, 0) || x >= self.w || y >= self.h {
                    continue;
                }
                if is_like(here, self.pixels[y * self.w + x], like) {
                    any = true;
                    let on = [dx == -1, dx == 1, dy == -1, dy == 1];
                    sides.iter_mut().zip(on).for_each(|(s, on)| *s &= on);
                }
            }
        }
        !any || sides.contains(&true)
    }

    /// Mean of the neighbours within `like` of `p` in every channel.
    fn mean_of_like(&self, p: [u8; 4], like: i32) -> [u8; 4] {
        let (mut sum, mut count) = ([0u32; 4], 0u32);
        for row in self.rows(RADIUS) {
            for q in row {
                if is_like(*q, p, like) {
                    count += 1;
                    for (s, &v) in sum.iter_mut().zip(q) {
                        *s += u32::from(v);
                    }
                }
            }
        }
        if count == 0 {
            return p;
        }
        sum.map(|s| ((s + count / 2) / count) as u8)
    }

    /// Median of the 3 × 3 neighbours, channel by channel.
    fn median(&self) -> [u8; 4] {
        let mut median = [0; 4];
        for (c, m) in median.iter_mut().enumerate() {
            let (mut near, mut n) = ([0; 9], 0);
            for row in self.rows(1) {
                for q in row {
                    near[n] = q[c];
                    n += 1;
                }
            }
            near[..n].sort_unstable();
            *m = near[n / 2];
        }
        median
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Half dark, half light, with normal noise; and one white pixel in the dark half.
    fn noisy(sigma: f64) -> Picture {
        let mut rng = numbers(7);
        let mut pixels: Vec<[u8; 4]> = (0..256 * 256)
            .map(|i| {
                // Half dark, half light: the edge must not count as noise.
                let base = if i % 256 < 128 { 80.0 } else { 180.0 };
                // Sum of 12 uniform numbers: normal to within the accuracy asked for.
                let n: f64 = (0..12).map(|_| rng()).sum::<f64>() - 6.0;
                let v = (base + n * sigma).round().clamp(0.0, 255.0) as u8;
                [v, v, v, 255]
            })
            .collect();
        pixels[100 * 256 + 50] = [255; 4];
        Picture::new(256, 256, pixels).unwrap()
    }

    #[test]
    fn known_noise_is_measured_within_a_tenth() {
        for sigma in [3.0, 8.0, 15.0] {
            let found = noise_sigma(&noisy(sigma));
            assert!((found / sigma - 1.0).abs() < 0.1, "{sigma}: {found}");
        }
    }

    #[test]
    fn noise_and_salt_go_while_the_edge_stays() {
        let calm = calmed(&noisy(8.0), 8.0);
        assert!(noise_sigma(&calm) < 4.0, "{}", noise_sigma(&calm));
        let at = |x: usize, y: usize| i32::from(calm.pixels()[y * 256 + x][0]);
        assert!((at(50, 100) - 80).abs() < 15, "{}", at(50, 100));
        for y in [20, 130, 240] {
            assert!((at(127, y) - 80).abs() < 15 && (at(128, y) - 180).abs() < 15);
        }
    }

    /// A small linear congruential generator (Numerical Recipes, 32 bit), 0 to 1.
    fn numbers(seed: u32) -> impl FnMut() -> f64 {
        let mut state = seed;
        move || {
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            f64::from(state) / f64::from(u32::MAX)
        }
    }
}
