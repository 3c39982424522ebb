//! Bits: a mask as words of bits, for counting the cells that two of them share.

use super::mask::Mask;

/// Bits of a word.
const WORD: usize = 64;

/// A mask with its rows as words, the lowest bit leftmost.
pub(super) struct Bits {
    /// Cells across and down.
    pub(super) wide: usize,
    pub(super) high: usize,
    /// The turned piece's box within the mask: from its corner, mm.
    pub(super) inset: f64,
    /// Words of a row.
    words: usize,
    rows: Vec<u64>,
}

impl Bits {
    /// The bits of a mask.
    pub(super) fn of(mask: &Mask) -> Self {
        let words = mask.wide.div_ceil(WORD);
        let mut rows = vec![0_u64; words * mask.high];
        for (row, runs) in rows.chunks_mut(words).zip(&mask.runs) {
            for x in runs.iter().flat_map(|r| r[0]..r[1]) {
                row[x / WORD] |= 1 << (x % WORD);
            }
        }
        Self {
            wide: mask.wide,
            high: mask.high,
            inset: mask.inset,
            words,
            rows,
        }
    }

    /// How many cells two masks share that lie at some cells.
    pub(super) fn overlap(
        &self,
        (ax, ay): (usize, usize),
        other: &Self,
        (bx, by): (usize, usize),
    ) -> u32 {
        if ax + self.wide <= bx
            || bx + other.wide <= ax
            || ay + self.high <= by
            || by + other.high <= ay
        {
            return 0;
        }
        if bx < ax {
            return other.overlap((bx, by), self, (ax, ay));
        }
        let (skip, shift) = ((bx - ax) / WORD, (bx - ax) % WORD);
        let from = ay.max(by);
        let rows = (ay + self.high).min(by + other.high) - from;
        let words = self.rows[(from - ay) * self.words..].chunks_exact(self.words);
        let others = other.rows[(from - by) * other.words..].chunks_exact(other.words);
        let mut sum = 0;
        for (a, b) in words.zip(others).take(rows) {
            let a = &a[skip..];
            if shift == 0 {
                sum += a
                    .iter()
                    .zip(b)
                    .map(|(a, b)| (a & b).count_ones())
                    .sum::<u32>();
                continue;
            }
            let mut carried = 0;
            for (n, a) in a.iter().enumerate() {
                let word = b.get(n).copied().unwrap_or(0);
                sum += (a & (word << shift | carried)).count_ones();
                carried = word >> (WORD - shift);
            }
        }
        sum
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Rows of runs as a mask.
    fn bits(wide: usize, runs: Vec<Vec<[usize; 2]>>) -> Bits {
        Bits::of(&Mask {
            wide,
            high: runs.len(),
            runs,
            inset: 0.0,
            size: [0.0; 2],
        })
    }

    #[test]
    fn shared_cells_are_counted_one_by_one() {
        let comb = vec![vec![[0, 1], [60, 70], [127, 130]], vec![[3, 128]]];
        let (a, b) = (
            bits(130, comb.clone()),
            bits(70, vec![vec![[0, 70]], vec![[1, 2], [63, 66]], vec![]]),
        );
        let cells = |runs: &[Vec<[usize; 2]>], x: usize, y: usize| -> Vec<(usize, usize)> {
            let rows = runs.iter().enumerate();
            rows.flat_map(|(n, r)| {
                r.iter()
                    .flat_map(move |r| (r[0]..r[1]).map(move |c| (c + x, n + y)))
            })
            .collect()
        };
        let other = [vec![[0, 70]], vec![[1, 2], [63, 66]], vec![]];
        for (x, y) in [
            (0, 0),
            (1, 0),
            (63, 1),
            (64, 0),
            (65, 1),
            (100, 0),
            (129, 1),
            (130, 0),
        ] {
            for (from, to) in [((5, 5), (5 + x, 5 + y)), ((5 + x, 5 + y), (5, 5))] {
                let wanted = cells(&comb, from.0, from.1);
                let count = cells(&other, to.0, to.1)
                    .iter()
                    .filter(|c| wanted.contains(c))
                    .count();
                assert_eq!(a.overlap(from, &b, to) as usize, count, "{from:?} {to:?}");
                assert_eq!(b.overlap(to, &a, from) as usize, count, "{from:?} {to:?}");
            }
        }
    }
}
