//! Enlarged pictures: those that were blown up before they came, and the smaller picture they hold.
//!
//! ```text
//!   without smoothing: every change lies on a grid      with smoothing: reduced and enlarged again
//!   │aaaa│bbbb│bbbb│cccc│   ──►  a b b c                it is the same picture
//! ```
//!
//! Neither holds more than the small picture did; traced as they are, steps and blur of the
//! enlargement would be followed. Own method.

use rayon::prelude::*;

use crate::fine::Plane;
use crate::inks::luma::luma;
use crate::picture::Picture;

/// How a picture was blown up.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Enlarged {
    /// How many times.
    pub factor: f64,
    /// Whether pixels were smoothed, or only repeated.
    pub smooth: bool,
}

impl std::fmt::Display for Enlarged {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let how = if self.smooth {
            "smoothly"
        } else {
            "by repeating its pixels"
        };
        let times = (self.factor * 10.0).round() / 10.0;
        write!(
            f,
            "The picture was enlarged {times} × {how} before it came; it is traced from the smaller one it holds."
        )
    }
}

/// Greatest factor that is looked for, and the least side of the small picture, px.
const MOST_TIMES: usize = 16;
const LEAST_SIDE: usize = 16;
/// Places at which something changes that are needed to tell, and their least part of all places from
/// the first to the last.
const LEAST_CHANGES: usize = 8;
const CHANGES_PART: f64 = 0.2;
/// Factors along the two sides differ by no more than this part.
const SAME_FACTOR: f64 = 0.02;
/// Larger pictures are not looked at: they were not blown up from a thumbnail, px.
const LARGEST: usize = 4_000_000;

/// The small picture and how it was blown up; `None` where it was not.
pub(super) fn undone(picture: &Picture) -> Option<(Picture, Enlarged)> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    if w * h > LARGEST || w < 2 * LEAST_SIDE || h < 2 * LEAST_SIDE {
        return None;
    }
    if let Some((across, down)) = repeated(picture) {
        let factor = w as f64 / across as f64;
        let from = |x: usize, n: usize, all: usize| (2 * x + 1) * all / (2 * n);
        let small = picture.rearranged(across as u32, down as u32, |x, y| {
            from(y, down, h) * w + from(x, across, w)
        });
        let smooth = false;
        return Some((small, Enlarged { factor, smooth }));
    }
    let times = smoothed(picture)?;
    let (across, down) = (w.div_ceil(times), h.div_ceil(times));
    let factor = w as f64 / across as f64;
    let smooth = true;
    Some((averaged(picture, across, down), Enlarged { factor, smooth }))
}

/// Columns and rows of a picture whose pixels were repeated.
fn repeated(picture: &Picture) -> Option<(usize, usize)> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let pixels = picture.pixels();
    let row = |y: usize| &pixels[y * w..(y + 1) * w];
    let rows: Vec<usize> = (1..h).filter(|&y| row(y) != row(y - 1)).collect();
    // A grid leaves most rows as the one before them.
    if rows.len() * 2 > h || rows.len() < LEAST_CHANGES {
        return None;
    }
    let mut columns = vec![false; w];
    for y in [0].iter().chain(&rows) {
        for (x, pair) in row(*y).windows(2).enumerate() {
            columns[x + 1] |= pair[0] != pair[1];
        }
    }
    let columns: Vec<usize> = (1..w).filter(|&x| columns[x]).collect();
    // Where little changes along one side, the other tells its steps.
    let times = |n: usize, of: usize, all: usize| (n * all + of / 2) / of;
    let (across, down) = if columns.len() > rows.len() {
        let across = grid(&columns, w)?;
        (across, times(across, w, h))
    } else {
        let down = grid(&rows, h)?;
        (times(down, h, w), down)
    };
    let factors = [w as f64 / across as f64, h as f64 / down as f64];
    let alike = (factors[0] / factors[1] - 1.0).abs() < SAME_FACTOR;
    let both = fits(&columns, across, w) && fits(&rows, down, h);
    // What is finer along one side is so along both.
    (alike && both && factors[0] <= MOST_TIMES as f64).then_some((across, down))
}

/// The fewest equal steps over a length whose ends, rounded, take in all changes.
fn grid(changes: &[usize], all: usize) -> Option<usize> {
    if changes.len() < LEAST_CHANGES {
        return None;
    }
    let fewest = (all / MOST_TIMES).max(LEAST_SIDE);
    // Margins change nothing.
    let drawn = (changes[changes.len() - 1] - changes[0]) as f64 / all as f64;
    (fewest..=all / 2).find(|&n| {
        let enough = changes.len() as f64 >= CHANGES_PART * drawn * n as f64;
        enough && fits(changes, n, all)
    })
}

/// Whether so many equal steps over a length take in all changes.
fn fits(changes: &[usize], n: usize, all: usize) -> bool {
    // Steps of less than three pixels take in anything unless they are whole.
    if n == 0 || !(all.is_multiple_of(n) || 3 * n <= all) {
        return false;
    }
    let mut last = None;
    changes.iter().all(|&at| {
        // The step whose start is nearest, and that start rounded.
        let step = (2 * at * n + all) / (2 * all);
        let (start, rest) = (step * all / n, step * all % n);
        // A step starts in one place: two changes side by side are a soft edge.
        let alone = last.replace(step) != Some(step);
        alone && (at == start || (rest > 0 && at == start + 1))
    })
}

/// How far the picture reduced and enlarged again may lie from itself where it changes, as a part
/// of its range, root mean square; and levels of 255 that rounding leaves in any case.
const SAME_PART: f64 = 0.01;
const ROUNDING: f64 = 0.6;
/// The same where a factor fits this much better than the next smaller one: it was enlarged by
/// another method, or what is between its pixels was cut off.
const NEARLY_PART: f64 = 0.03;
const FITS: f64 = 0.75;
/// A pixel counts whose neighbours differ by this part of the range.
const CHANGES: f32 = 0.04;
/// Factors tried, the greatest first.
const TIMES: [usize; 5] = [6, 5, 4, 3, 2];
/// Side of the part that is looked at, px.
const LOOKED: usize = 720;

/// How many times a picture was enlarged smoothly.
fn smoothed(picture: &Picture) -> Option<usize> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let (cw, ch) = (w.min(LOOKED), h.min(LOOKED));
    let (x0, y0) = ((w - cw) / 2, (h - ch) / 2);
    let rows = y0..y0 + ch;
    let tones = Plane {
        width: cw,
        height: ch,
        values: rows
            .flat_map(|y| &picture.pixels()[y * w + x0..y * w + x0 + cw])
            .map(|&p| f32::from(luma(p)))
            .collect(),
    };
    let ends = tones
        .values
        .iter()
        .fold((f32::MAX, f32::MIN), |(l, m), &v| (l.min(v), m.max(v)));
    let range = ends.1 - ends.0;
    if range < 24.0 {
        return None;
    }
    let rounding = ROUNDING / f64::from(range);
    let found: Vec<(usize, f64)> = TIMES
        .into_iter()
        .filter(|times| ch / times >= LEAST_SIDE && cw / times >= LEAST_SIDE)
        .map(|times| {
            let again = tones.binned(times).sharpened().enlarged(times);
            let again = again.map(|v| v.clamp(ends.0, ends.1));
            let off = off(&tones, &again, CHANGES * range) / f64::from(range);
            (times, off)
        })
        .collect();
    let same = found.iter().find(|f| f.1 < SAME_PART.max(rounding));
    let fits = found.windows(2).find(|pair| {
        let (at, below) = (pair[0].1, pair[1].1);
        at < NEARLY_PART && at < FITS * below
    });
    let fits = fits.map(|pair| pair[0].0);
    fits.max(same.map(|f| f.0))
}

/// Root mean square difference of two planes where the first changes; only where both reach.
fn off(tones: &Plane, again: &Plane, least: f32) -> f64 {
    let (mut sum, mut count) = (0.0, 0u32);
    for y in 2..again.height.saturating_sub(2) {
        let (row, above, other) = (tones.row(y), tones.row(y - 1), again.row(y));
        for x in 2..again.width.saturating_sub(2) {
            let change = (row[x] - row[x - 1]).abs().max((row[x] - above[x]).abs());
            if change > least {
                sum += f64::from(row[x] - other[x]).powi(2);
                count += 1;
            }
        }
    }
    if count < 64 {
        return f64::INFINITY;
    }
    (sum / f64::from(count)).sqrt()
}

/// Mean colours of equal parts of a picture, as many across and down.
fn averaged(picture: &Picture, across: usize, down: usize) -> Picture {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let mean = |all: &[[u8; 4]]| -> Vec<[u8; 4]> {
        (0..across * down)
            .into_par_iter()
            .map(|i| {
                let (x, y) = (i % across, i / across);
                let columns = x * w / across..((x + 1) * w).div_ceil(across);
                let rows = y * h / down..((y + 1) * h).div_ceil(down);
                let (mut sum, mut count) = ([0.0; 4], 0.0);
                for row in rows {
                    let share = overlap(row, y, h, down);
                    for column in columns.clone() {
                        let share = share * overlap(column, x, w, across);
                        count += share;
                        for (s, &v) in sum.iter_mut().zip(&all[row * w + column]) {
                            *s += share * f64::from(v);
                        }
                    }
                }
                sum.map(|s| (s / count).round() as u8)
            })
            .collect()
    };
    let small = picture.resampled(across as u32, down as u32, mean(picture.pixels()));
    match picture.stored() {
        Some(stored) => {
            let kept = small.clone().with_stored(mean(&stored));
            kept.unwrap_or(small)
        }
        None => small,
    }
}

/// The part of pixel `at` of `all` that lies in step `n` of `steps`.
fn overlap(at: usize, n: usize, all: usize, steps: usize) -> f64 {
    let side = all as f64 / steps as f64;
    let (from, to) = (n as f64 * side, (n + 1) as f64 * side);
    (to.min(at as f64 + 1.0) - from.max(at as f64)).max(0.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A ring of some pixels' radius with soft edges, `times` as large by `of`.
    fn ring(side: usize) -> Picture {
        let pixels = (0..side * side).map(|i| {
            let (x, y) = ((i % side) as f64 + 0.5, (i / side) as f64 + 0.5);
            let r = (x - 21.3).hypot(y - 19.8);
            let v = ((r - 12.0).abs() - 3.0).clamp(0.0, 1.0) * 255.0;
            let v = v as u8;
            [v, v, v, 255]
        });
        Picture::new(side as u32, side as u32, pixels.collect()).unwrap()
    }

    #[test]
    fn repeated_pixels_are_found_and_undone_whole_or_not() {
        let small = ring(40);
        for side in [80usize, 120, 160, 250] {
            let large = small.rearranged(side as u32, side as u32, |x, y| {
                y * 40 / side * 40 + x * 40 / side
            });
            let (back, how) = undone(&large).unwrap();
            assert!(!how.smooth && (how.factor - side as f64 / 40.0).abs() < 1e-9);
            assert_eq!(back.pixels(), small.pixels(), "{side}");
        }
    }

    #[test]
    fn a_picture_as_it_was_drawn_is_left_alone() {
        assert!(undone(&ring(40)).is_none());
        // Cells of 24.4 px, whose soft edges lie in two columns each.
        let pixels = (0..235 * 235).map(|i: u32| {
            let part = |v: u32| {
                let (from, to) = (f64::from(v) / 24.4, f64::from(v + 1) / 24.4);
                let dark = |at: f64| (at / 2.0).floor() + (at % 2.0).min(1.0);
                (dark(to) - dark(from)) * 24.4
            };
            let (a, b) = (part(i % 235), part(i / 235));
            let v = (255.0 * (a + b - 2.0 * a * b)).round() as u8;
            [v, v, v, 255]
        });
        let chequers = Picture::new(235, 235, pixels.collect()).unwrap();
        assert!(undone(&chequers).is_none());
        assert!(undone(&ring(200)).is_none());
    }

    #[test]
    fn a_picture_enlarged_smoothly_is_reduced() {
        let small = ring(48);
        let tones = Plane {
            width: 48,
            height: 48,
            values: small.pixels().iter().map(|p| f32::from(p[0])).collect(),
        };
        let large = tones.enlarged(4);
        let pixels = large.values.iter().map(|v| {
            let v = v.round().clamp(0.0, 255.0) as u8;
            [v, v, v, 255]
        });
        let large = Picture::new(192, 192, pixels.collect()).unwrap();
        let (back, how) = undone(&large).unwrap();
        assert!(how.smooth && (3.0..=6.0).contains(&how.factor), "{how:?}");
        assert!(back.width() <= 64);
    }
}
