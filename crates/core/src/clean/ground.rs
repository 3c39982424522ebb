//! Ground: what the picture is drawn on, place by place, so that what is erased leaves no patch.
//!
//! ```text
//!   the colour most frequent along the border, followed inwards block by block:
//!   each block's own ground is the mean of its pixels near the ground of the block before
//! ```

use std::collections::VecDeque;

use crate::picture::Picture;

/// The ground of a picture.
#[derive(Clone, Debug)]
pub struct Ground {
    /// Its colour along the border; alpha 0 where it is clear.
    pub colour: [u8; 4],
    side: usize,
    across: usize,
    down: usize,
    blocks: Vec<[f32; 3]>,
}

/// Share of the border that must be clear for the ground to be clear.
const CLEAR_SHARE: f64 = 0.02;
/// Alpha below which a pixel is clear.
const CLEAR: u8 = 16;
/// Blocks along the shorter side, and the least side of one, px.
const BLOCKS: usize = 48;
const LEAST_BLOCK: usize = 8;
/// How far a channel of a ground pixel may lie from the ground of the block before.
const NEAR: f32 = 28.0;
/// Share of a block's pixels that must be ground for it to have its own.
const ENOUGH: f32 = 0.15;

impl Ground {
    /// Finds it.
    #[must_use]
    pub fn of(picture: &Picture) -> Self {
        let (w, h) = (picture.width() as usize, picture.height() as usize);
        let colour = along_border(picture);
        let side = (w.min(h) / BLOCKS).max(LEAST_BLOCK);
        let (across, down) = (w.div_ceil(side), h.div_ceil(side));
        let mut ground = Self {
            colour,
            side,
            across,
            down,
            blocks: Vec::new(),
        };
        if colour[3] > 0 {
            ground.blocks = ground.follow(picture);
        }
        ground
    }

    /// The ground's colour at a pixel, straight, with alpha.
    #[must_use]
    pub fn at(&self, x: usize, y: usize) -> [u8; 4] {
        if self.blocks.is_empty() {
            return self.colour;
        }
        let place = |v: usize, n: usize| {
            let at = ((v as f32 + 0.5) / self.side as f32 - 0.5).clamp(0.0, (n - 1) as f32);
            let low = at as usize;
            (low, (low + 1).min(n - 1), at - low as f32)
        };
        let (x0, x1, u) = place(x, self.across);
        let (y0, y1, v) = place(y, self.down);
        let [r, g, b] = std::array::from_fn(|c| {
            let at = |x: usize, y: usize| self.blocks[y * self.across + x][c];
            let row = |y: usize| at(x0, y) + (at(x1, y) - at(x0, y)) * u;
            (row(y0) + (row(y1) - row(y0)) * v).round() as u8
        });
        [r, g, b, 255]
    }

    /// How far a pixel lies from the ground there: the greatest difference of a channel or of
    /// alpha, 0 to 255.
    #[must_use]
    pub fn off(&self, p: [u8; 4], x: usize, y: usize) -> u8 {
        let ground = self.at(x, y);
        if ground[3] == 0 || p[3] < CLEAR {
            return ground[3].abs_diff(p[3]);
        }
        let apart = (0..4).map(|c| ground[c].abs_diff(p[c])).max();
        apart.unwrap_or(0)
    }

    fn follow(&self, picture: &Picture) -> Vec<[f32; 3]> {
        let start: [f32; 3] = std::array::from_fn(|c| f32::from(self.colour[c]));
        let mut blocks = vec![start; self.across * self.down];
        let mut seen = vec![false; blocks.len()];
        let border = |i: &usize| {
            let (x, y) = (i % self.across, i / self.across);
            x == 0 || y == 0 || x + 1 == self.across || y + 1 == self.down
        };
        // From those blocks of the border that hold the border's colour.
        let holds = |i: &usize| border(i) && self.mean_near(picture, *i, start).is_some();
        let mut waiting: VecDeque<usize> = (0..blocks.len()).filter(holds).collect();
        for &i in &waiting {
            seen[i] = true;
        }
        while let Some(i) = waiting.pop_front() {
            blocks[i] = self.mean_near(picture, i, blocks[i]).unwrap_or(blocks[i]);
            let (x, y) = (i % self.across, i / self.across);
            let next = [
                (x > 0).then(|| i - 1),
                (x + 1 < self.across).then(|| i + 1),
                (y > 0).then(|| i - self.across),
                (y + 1 < self.down).then(|| i + self.across),
            ];
            for j in next.into_iter().flatten() {
                if !std::mem::replace(&mut seen[j], true) {
                    blocks[j] = blocks[i];
                    waiting.push_back(j);
                }
            }
        }
        blocks
    }

    /// Mean of a block's pixels near a colour; `None` where there are few.
    fn mean_near(&self, picture: &Picture, block: usize, near: [f32; 3]) -> Option<[f32; 3]> {
        let (w, h) = (picture.width() as usize, picture.height() as usize);
        let (x0, y0) = (
            block % self.across * self.side,
            block / self.across * self.side,
        );
        let (mut sum, mut count, mut all) = ([0.0f32; 3], 0.0f32, 0.0f32);
        for y in y0..(y0 + self.side).min(h) {
            for p in &picture.pixels()[y * w + x0..y * w + (x0 + self.side).min(w)] {
                all += 1.0;
                let like = (0..3).all(|c| (f32::from(p[c]) - near[c]).abs() <= NEAR);
                if like && p[3] > 240 {
                    count += 1.0;
                    for (s, &v) in sum.iter_mut().zip(p) {
                        *s += f32::from(v);
                    }
                }
            }
        }
        (count >= ENOUGH * all).then(|| sum.map(|s| s / count))
    }
}

/// The most frequent colour of the border pixels, as the mean of those like it.
fn along_border(picture: &Picture) -> [u8; 4] {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let p = picture.pixels();
    let ends = (0..h).flat_map(|y| [p[y * w], p[y * w + w - 1]]);
    let border: Vec<[u8; 4]> = (0..w)
        .flat_map(|x| [p[x], p[(h - 1) * w + x]])
        .chain(ends)
        .collect();
    let clear = border.iter().filter(|p| p[3] < CLEAR).count();
    if clear as f64 >= CLEAR_SHARE * border.len() as f64 {
        return [0; 4];
    }
    let cell = |p: &[u8; 4]| {
        let [r, g, b] = [p[0], p[1], p[2]].map(|v| usize::from(v >> 4));
        r << 8 | g << 4 | b
    };
    let mut counts = vec![0u32; 1 << 12];
    for p in &border {
        counts[cell(p)] += 1;
    }
    let fullest = (0..counts.len())
        .max_by_key(|&c| (counts[c], std::cmp::Reverse(c)))
        .unwrap_or(0);
    let centre: [u8; 3] =
        [fullest >> 8, fullest >> 4 & 15, fullest & 15].map(|v| (v << 4 | 8) as u8);
    let like = |p: &&[u8; 4]| (0..3).all(|c| p[c].abs_diff(centre[c]) <= 24);
    let (mut sum, mut count) = ([0u32; 3], 0u32);
    for p in border.iter().filter(like) {
        count += 1;
        for (s, &v) in sum.iter_mut().zip(p) {
            *s += u32::from(v);
        }
    }
    let [r, g, b] = sum.map(|s| (s / count.max(1)) as u8);
    [r, g, b, 255]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_ground_that_darkens_is_followed_past_a_drawing() {
        let (w, h) = (200, 150);
        let tone = |x: usize| 240 - (x * 60 / w) as u8;
        let pixels = (0..w * h)
            .map(|i| {
                let (x, y) = (i % w, i / w);
                let drawn = (60..140).contains(&x) && (40..110).contains(&y);
                let v = if drawn { 30 } else { tone(x) };
                [v, v, v, 255]
            })
            .collect();
        let picture = Picture::new(w as u32, h as u32, pixels).unwrap();
        let ground = Ground::of(&picture);
        for x in [10, 190] {
            let found = ground.at(x, 75)[0];
            assert!(found.abs_diff(tone(x)) < 6, "{x}: {found}");
        }
        assert!(ground.off([30, 30, 30, 255], 100, 75) > 100);
    }

    #[test]
    fn a_clear_border_makes_a_clear_ground() {
        let pixels = (0..400)
            .map(|i| {
                if i % 20 == 10 {
                    [200, 0, 0, 255]
                } else {
                    [0; 4]
                }
            })
            .collect();
        let ground = Ground::of(&Picture::new(20, 20, pixels).unwrap());
        assert_eq!(ground.at(5, 5), [0; 4]);
        assert_eq!(ground.off([200, 0, 0, 255], 10, 10), 255);
    }
}
