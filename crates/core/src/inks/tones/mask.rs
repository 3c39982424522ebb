//! A mask as words of bits: opened and closed by a disc in a few operations for 64 places at once.
//!
//! Source: Serra 1982, "Image Analysis and Mathematical Morphology": opening keeps what a disc fits into, closing what
//! a disc outside cannot reach. Both keep one set within another. Outside the picture nothing is set.

/// Bits of a word.
const WORD: usize = 64;

/// A set of places of a grid.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Mask {
    pub(super) width: usize,
    pub(super) height: usize,
    words: usize,
    /// Rows from the top, the lowest bit of a word leftmost; bits beyond the width are nought.
    rows: Vec<u64>,
}

impl Mask {
    /// The places for which `has` says so, by their index.
    pub(super) fn of(width: usize, height: usize, has: impl Fn(usize) -> bool) -> Self {
        let words = width.div_ceil(WORD);
        let mut rows = vec![0; words * height];
        for (y, row) in rows.chunks_mut(words).enumerate() {
            for x in 0..width {
                row[x / WORD] |= u64::from(has(y * width + x)) << (x % WORD);
            }
        }
        Self {
            width,
            height,
            words,
            rows,
        }
    }

    pub(super) fn has(&self, x: usize, y: usize) -> bool {
        self.rows[y * self.words + x / WORD] >> (x % WORD) & 1 == 1
    }

    /// Sets or clears a run of a row.
    pub(super) fn fill(&mut self, y: usize, run: std::ops::Range<usize>, set: bool) {
        for x in run {
            let word = &mut self.rows[y * self.words + x / WORD];
            let bit = 1 << (x % WORD);
            *word = if set { *word | bit } else { *word & !bit };
        }
    }

    /// Runs of places in a row that are set, or of those that are not.
    pub(super) fn runs(&self, y: usize, set: bool) -> Vec<std::ops::Range<usize>> {
        let row = &self.rows[y * self.words..(y + 1) * self.words];
        let mut runs = Vec::new();
        let mut x = 0;
        while x < self.width {
            let begin = next(row, x, self.width, set);
            if begin == self.width {
                break;
            }
            x = next(row, begin, self.width, !set);
            runs.push(begin..x);
        }
        runs
    }

    pub(super) fn keep_within(&mut self, other: &Self) {
        self.rows
            .iter_mut()
            .zip(&other.rows)
            .for_each(|(a, b)| *a &= b);
    }

    pub(super) fn is_empty(&self) -> bool {
        self.rows.iter().all(|&w| w == 0)
    }

    /// What of this is not in another.
    pub(super) fn without(&self, other: &Self) -> Self {
        let rows = self.rows.iter().zip(&other.rows).map(|(a, b)| a & !b);
        Self {
            rows: rows.collect(),
            ..*self
        }
    }

    /// What a disc of this radius fits into, steps.
    pub(super) fn opened(&self, radius: f64) -> Self {
        let room = radius.ceil() as usize + 1;
        let wide = self.padded(room);
        // Shrinking is growing what is not there.
        let left = wide.turned_out().grown(radius).turned_out();
        left.grown(radius).inside(room, self)
    }

    /// With all that a disc outside it cannot reach.
    pub(super) fn closed(&self, radius: f64) -> Self {
        let room = radius.ceil() as usize + 1;
        let wide = self.padded(room).grown(radius).turned_out();
        wide.grown(radius).turned_out().inside(room, self)
    }

    /// With so much room on every side.
    fn padded(&self, room: usize) -> Self {
        let (width, height) = (self.width + 2 * room, self.height + 2 * room);
        let words = width.div_ceil(WORD);
        let mut rows = vec![0; words * height];
        for (y, row) in self.rows.chunks(self.words).enumerate() {
            let to = &mut rows[(y + room) * words..(y + room + 1) * words];
            shifted(row, room, |k, word| {
                if k < words {
                    to[k] |= word;
                }
            });
        }
        Self {
            width,
            height,
            words,
            rows,
        }
    }

    /// The middle again.
    fn inside(&self, room: usize, like: &Self) -> Self {
        let mut rows = vec![0; like.rows.len()];
        let (skip, shift) = (room / WORD, room % WORD);
        for (y, to) in rows.chunks_mut(like.words).enumerate() {
            let row = &self.rows[(y + room) * self.words..(y + room + 1) * self.words];
            for (k, to) in to.iter_mut().enumerate() {
                let low = row.get(k + skip).copied().unwrap_or(0) >> shift;
                let next = row.get(k + skip + 1).copied().unwrap_or(0);
                *to = low
                    | if shift == 0 {
                        0
                    } else {
                        next << (WORD - shift)
                    };
            }
        }
        let mut middle = Self { rows, ..*like };
        middle.trim();
        middle
    }

    /// All places that are not set.
    fn turned_out(mut self) -> Self {
        self.rows.iter_mut().for_each(|w| *w = !*w);
        self.trim();
        self
    }

    /// Clears the bits beyond the width.
    fn trim(&mut self) {
        let over = self.words * WORD - self.width;
        for row in self.rows.chunks_mut(self.words) {
            row[self.words - 1] &= u64::MAX >> over;
        }
    }

    /// All places within a disc's radius of one that is set.
    pub(super) fn grown(&self, radius: f64) -> Self {
        let reach = radius.max(0.0).floor() as usize;
        let half = |dy: usize| (radius * radius - (dy * dy) as f64).max(0.0).sqrt() as usize;
        let mut out = Self {
            rows: vec![0; self.rows.len()],
            ..*self
        };
        // Grown along the rows by one more at a time; each row of the disc takes the width it has.
        let mut wide = self.clone();
        for width in 0..=reach {
            if width > 0 {
                wide.widen();
            }
            for dy in (0..=reach).filter(|&dy| half(dy) == width) {
                out.or_moved(&wide, dy);
            }
        }
        out.trim();
        out
    }

    /// Every row with its neighbours on the left and on the right.
    fn widen(&mut self) {
        for row in self.rows.chunks_mut(self.words) {
            let mut before = 0;
            for k in 0..row.len() {
                let word = row[k];
                let next = row.get(k + 1).copied().unwrap_or(0);
                row[k] = word | word << 1 | before >> 63 | word >> 1 | next << 63;
                before = word;
            }
        }
    }

    /// With all of another that was moved up and down by so many rows.
    fn or_moved(&mut self, other: &Self, rows: usize) {
        let by = (rows * self.words).min(self.rows.len());
        let up = self.rows.iter_mut().zip(&other.rows[by..]);
        up.for_each(|(a, b)| *a |= b);
        let down = self.rows[by..].iter_mut().zip(&other.rows);
        down.for_each(|(a, b)| *a |= b);
    }
}

/// The first place from `x` on that is set, or that is not; `width` where there is none.
fn next(row: &[u64], x: usize, width: usize, set: bool) -> usize {
    let mut k = x / WORD;
    let mut mask = u64::MAX << (x % WORD);
    while let Some(&word) = row.get(k) {
        let word = if set { word } else { !word } & mask;
        if word != 0 {
            return (k * WORD + word.trailing_zeros() as usize).min(width);
        }
        mask = u64::MAX;
        k += 1;
    }
    width
}

/// The words of a row moved to the right by so many places.
fn shifted(row: &[u64], by: usize, mut put: impl FnMut(usize, u64)) {
    let (skip, shift) = (by / WORD, by % WORD);
    for (k, &word) in row.iter().enumerate() {
        put(k + skip, word << shift);
        if shift > 0 {
            put(k + skip + 1, word >> (WORD - shift));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::random::Random;

    /// The same by looking at all places within the radius.
    fn grown_one_by_one(mask: &Mask, radius: f64) -> Mask {
        let r = radius as i64;
        Mask::of(mask.width, mask.height, |i| {
            let (x, y) = ((i % mask.width) as i64, (i / mask.width) as i64);
            (-r..=r).any(|dy| {
                (-r..=r).any(|dx| {
                    let (u, v) = (x + dx, y + dy);
                    ((dx * dx + dy * dy) as f64) <= radius * radius
                        && (0..mask.width as i64).contains(&u)
                        && (0..mask.height as i64).contains(&v)
                        && mask.has(u as usize, v as usize)
                })
            })
        })
    }

    fn spots(width: usize, height: usize, share: usize) -> Mask {
        let mut random = Random::new(11);
        let all: Vec<bool> = (0..width * height)
            .map(|_| random.below(100) < share)
            .collect();
        Mask::of(width, height, |i| all[i])
    }

    #[test]
    fn growing_is_that_of_looking_at_every_place() {
        for radius in [0.0, 1.0, 1.5, 2.3, 5.0] {
            let mask = spots(131, 40, 2);
            assert_eq!(
                mask.grown(radius),
                grown_one_by_one(&mask, radius),
                "{radius}"
            );
        }
    }

    #[test]
    fn opening_takes_away_and_closing_adds_and_again_changes_nothing() {
        let mask = spots(150, 70, 60);
        let within = |a: &Mask, b: &Mask| a.without(b).is_empty();
        for radius in [1.0, 2.5] {
            let (opened, closed) = (mask.opened(radius), mask.closed(radius));
            assert!(within(&opened, &mask) && within(&mask, &closed));
            assert_eq!(opened.opened(radius), opened);
            assert_eq!(closed.closed(radius), closed);
        }
    }

    #[test]
    fn runs_cover_a_row_once() {
        let mask = spots(200, 3, 50);
        for y in 0..3 {
            let mut seen = vec![None; 200];
            for set in [true, false] {
                for x in mask.runs(y, set).into_iter().flatten() {
                    assert_eq!(seen[x].replace(set), None);
                }
            }
            let all: Vec<Option<bool>> = (0..200).map(|x| Some(mask.has(x, y))).collect();
            assert_eq!(seen, all);
        }
    }
}
