//! Masks: a turned piece, grown by half the gap, as bits in a grid, one row of words for each row of cells.
//!
//! ```text
//!   ·█████·     A cell is set when its middle lies in the piece or nearer to it than half the gap and half
//!   ███·███     the cell's diagonal: two pieces whose masks do not meet keep the gap ([`kept`]).
//!   ·██·██·
//! ```

use kurbo::{Line, ParamCurveNearest, Point};

use super::clash::Outline;
use super::piece::{Piece, Spot};

/// Bits of a word.
const WORD: usize = 64;

/// A piece at one turn.
#[derive(Clone, Debug)]
pub(super) struct Mask {
    /// Cells across and down.
    pub(super) wide: usize,
    pub(super) high: usize,
    /// Set stretches of each row, from and to, the end not counted.
    pub(super) runs: Vec<Vec<[usize; 2]>>,
    /// The turned piece's box within the mask: from its corner, mm.
    pub(super) inset: f64,
    /// Width and height of that box, mm.
    pub(super) size: [f64; 2],
}

/// How far a mask has to reach on cells of some size, so that pieces keep the gap, mm.
pub(super) fn kept(gap: f64, cell: f64) -> f64 {
    gap / 2.0 + cell * std::f64::consts::FRAC_1_SQRT_2
}

/// Cells side by side.
pub(super) struct Grid {
    /// Cells across and down.
    pub(super) wide: usize,
    pub(super) high: usize,
    /// The side of a cell, mm.
    pub(super) cell: f64,
    /// Where the first one begins, mm.
    pub(super) corner: Point,
}

impl Grid {
    /// The middle of a cell, mm.
    pub(super) fn middle(&self, x: usize, y: usize) -> Point {
        let at = |n: usize| (n as f64 + 0.5) * self.cell;
        self.corner + kurbo::Vec2::new(at(x), at(y))
    }

    /// The cells whose middles lie in the closed lines of an outline, by the even-odd rule.
    pub(super) fn inside(&self, outline: &Outline) -> Vec<bool> {
        let mut set = vec![false; self.wide * self.high];
        for y in 0..self.high {
            let level = self.middle(0, y).y;
            let mut xs: Vec<f64> = Vec::new();
            for w in outline.closed.iter().flat_map(|l| l.windows(2)) {
                let (a, b) = (w[0], w[1]);
                if (a.y > level) != (b.y > level) {
                    xs.push(a.x + (b.x - a.x) * (level - a.y) / (b.y - a.y));
                }
            }
            xs.sort_by(f64::total_cmp);
            for pair in xs.chunks_exact(2) {
                for x in 0..self.wide {
                    let at = self.middle(x, y).x;
                    if at >= pair[0] && at <= pair[1] {
                        set[y * self.wide + x] = true;
                    }
                }
            }
        }
        set
    }

    /// Sets the cells whose middles are nearer than `reach` mm to the lines of an outline.
    pub(super) fn near(&self, outline: &Outline, reach: f64, set: &mut [bool]) {
        let cells = |v: f64, corner: f64| ((v - corner) / self.cell).floor().max(0.0) as usize;
        for (p, q) in outline.chords() {
            let side = Line::new(p, q);
            let (x0, x1) = (p.x.min(q.x) - reach, p.x.max(q.x) + reach);
            let (y0, y1) = (p.y.min(q.y) - reach, p.y.max(q.y) + reach);
            let rows = cells(y0, self.corner.y)..=cells(y1, self.corner.y).min(self.high - 1);
            for y in rows {
                for x in cells(x0, self.corner.x)..=cells(x1, self.corner.x).min(self.wide - 1) {
                    let cell = &mut set[y * self.wide + x];
                    let middle = self.middle(x, y);
                    *cell = *cell || side.nearest(middle, 1e-6).distance_sq <= reach * reach;
                }
            }
        }
    }

    /// Set cells as a mask of the whole grid.
    pub(super) fn mask(&self, set: &[bool]) -> Mask {
        Mask {
            wide: self.wide,
            high: self.high,
            runs: set.chunks(self.wide.max(1)).map(runs).collect(),
            inset: 0.0,
            size: [self.wide as f64, self.high as f64].map(|n| n * self.cell),
        }
    }
}

impl Mask {
    /// A turned piece with all that is nearer than `reach`, mm.
    pub(super) fn of(piece: &Piece, turn: f64, cell: f64, reach: f64) -> Self {
        let spot = Spot {
            x: 0.0,
            y: 0.0,
            turn,
        };
        let outline = Outline::of(piece.placed(spot));
        let size = piece.turned_size(turn);
        // Whole cells around the box, so that every turn begins at the corner of a cell.
        let around = (reach / cell).ceil();
        let inset = around * cell;
        let count = |side: f64| (side / cell).ceil() as usize + 2 * around as usize;
        let grid = Grid {
            wide: count(size[0]),
            high: count(size[1]),
            cell,
            corner: Point::new(-inset, -inset),
        };
        let mut set = grid.inside(&outline);
        grid.near(&outline, reach, &mut set);
        Self {
            inset,
            size,
            ..grid.mask(&set)
        }
    }
}

/// Set stretches of a row.
fn runs(row: &[bool]) -> Vec<[usize; 2]> {
    let mut found = Vec::new();
    let mut from = None;
    for x in 0..=row.len() {
        let on = row.get(x).copied().unwrap_or(false);
        match (on, from) {
            (true, None) => from = Some(x),
            (false, Some(start)) => {
                found.push([start, x]);
                from = None;
            }
            _ => {}
        }
    }
    found
}

/// What is taken of a strip, row by row from the top.
#[derive(Clone)]
pub(super) struct Taken {
    wide: usize,
    words: usize,
    rows: Vec<u64>,
}

impl Taken {
    /// A free strip, `wide` cells across.
    pub(super) fn new(wide: usize) -> Self {
        Self {
            wide,
            words: wide.div_ceil(WORD),
            rows: Vec::new(),
        }
    }

    fn row(&self, y: usize) -> Option<&[u64]> {
        self.rows.get(y * self.words..(y + 1) * self.words)
    }

    /// The leftmost place in the first row from `from` to `last` at which a mask meets nothing.
    pub(super) fn first_fit(
        &self,
        mask: &Mask,
        from: usize,
        last: usize,
    ) -> Option<(usize, usize)> {
        let places = (self.wide + 1).checked_sub(mask.wide).filter(|n| *n > 0)?;
        let mut met = vec![0_u64; self.words];
        let mut spread = vec![0_u64; self.words];
        for y in from..=last {
            met.iter_mut().for_each(|w| *w = 0);
            for (n, runs) in mask.runs.iter().enumerate() {
                let Some(row) = self.row(y + n) else { break };
                if row.iter().all(|w| *w == 0) {
                    continue;
                }
                for &[a, b] in runs {
                    smeared(row, b - a, &mut spread);
                    or_shifted(&spread, a, &mut met);
                }
            }
            let free = met.iter().enumerate().find(|(_, w)| **w != u64::MAX);
            if let Some((n, _)) = free {
                let found = (n * WORD..places).find(|x| met[x / WORD] >> (x % WORD) & 1 == 0);
                if let Some(x) = found {
                    return Some((x, y));
                }
            }
        }
        None
    }

    /// Takes the cells of a mask.
    pub(super) fn take(&mut self, mask: &Mask, (x, y): (usize, usize)) {
        let needed = (y + mask.high) * self.words;
        if self.rows.len() < needed {
            self.rows.resize(needed, 0);
        }
        for (n, runs) in mask.runs.iter().enumerate() {
            let from = (y + n) * self.words;
            for &[a, b] in runs {
                for at in x + a..x + b {
                    self.rows[from + at / WORD] |= 1 << (at % WORD);
                }
            }
        }
    }
}

/// Bit x of `out` is set where any of the bits x to x + `long` − 1 of `row` is.
fn smeared(row: &[u64], long: usize, out: &mut [u64]) {
    out.copy_from_slice(row);
    let mut done = 1;
    while done < long {
        let by = done.min(long - done);
        let (words, bits) = (by / WORD, by % WORD);
        for n in 0..out.len() {
            let word = |k: usize| out.get(k).copied().unwrap_or(0);
            let low = word(n + words) >> bits;
            let high = if bits > 0 {
                word(n + words + 1) << (WORD - bits)
            } else {
                0
            };
            out[n] |= low | high;
        }
        done += by;
    }
}

/// `out` or `row` moved down by `by` bits.
fn or_shifted(row: &[u64], by: usize, out: &mut [u64]) {
    let (words, bits) = (by / WORD, by % WORD);
    for (n, o) in out.iter_mut().enumerate() {
        let word = |k: usize| row.get(k).copied().unwrap_or(0);
        let low = word(n + words) >> bits;
        let high = if bits > 0 {
            word(n + words + 1) << (WORD - bits)
        } else {
            0
        };
        *o |= low | high;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn smearing_is_looking_ahead() {
        let row = [1_u64 << 63, 1 << 5 | 1 << 40];
        let mut out = [0; 2];
        for long in [1, 2, 7, 64, 70] {
            smeared(&row, long, &mut out);
            for x in 0..128 {
                let bit = |row: &[u64], n: usize| n < 128 && row[n / 64] >> (n % 64) & 1 == 1;
                let any = (x..x + long).any(|n| bit(&row, n));
                assert_eq!(bit(&out, x), any, "{long} at {x}");
            }
        }
    }
}
