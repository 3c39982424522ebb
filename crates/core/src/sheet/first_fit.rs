//! First fit: pieces put down one by one, each where it ends highest up, then farthest left, in the best of its
//! turns; also in holes.
//!
//! A row in which a piece found no place is not asked again for the same piece and turn, since places only
//! fill. Own construction on the principle of "bottom-left fill" (Baker, Coffman & Rivest 1980; Burke et al.
//! 2006).

use rayon::prelude::*;

use super::mask::{self, Mask, Taken};
use super::nesting::Nesting;
use super::piece::Spot;

/// Measures of size by which pieces are put in order: area, longer side, shorter side, both. Each is good for
/// other pieces.
pub(super) const SIZES: [fn([f64; 2]) -> f64; 4] = [
    |[w, h]| w * h,
    |[w, h]| w.max(h),
    |[w, h]| w.min(h),
    |[w, h]| w + h,
];

/// Masks of all pieces at all turns.
pub(super) struct FirstFit<'a> {
    asked: &'a Nesting<'a>,
    cell: f64,
    wide: usize,
    last: usize,
    /// By piece, then by turn.
    masks: Vec<Vec<Mask>>,
    /// What no piece may take.
    blocked: Option<Mask>,
    /// How far masks reach past the room, mm.
    around: f64,
}

impl<'a> FirstFit<'a> {
    /// On a grid of cells of so many mm.
    pub(super) fn new(asked: &'a Nesting<'a>, cell: f64) -> Self {
        let mask = |piece: &_| {
            let turned = asked.turns.iter();
            turned
                .map(|t| Mask::of(piece, *t, cell, mask::kept(asked.gap, cell)))
                .collect()
        };
        let masks: Vec<Vec<Mask>> = asked.pieces.par_iter().map(mask).collect();
        let around = masks.iter().flatten().map(|m| m.inset).fold(0.0, f64::max);
        let cells = |side: f64| ((side + 2.0 * around) / cell + 1e-6).floor().max(0.0) as usize;
        let (wide, last) = (cells(asked.room.width()), cells(asked.room.height()));
        let blocked = asked.walls.map(|walls| {
            let grid = asked.grid(cell, around, (wide, last));
            walls.blocked(&grid, asked.gap, mask::kept(0.0, cell))
        });
        Self {
            asked,
            cell,
            wide,
            last,
            masks,
            blocked,
            around,
        }
    }

    /// A spot for every item that finds room, the largest put down first.
    pub(super) fn laid(&self, size: fn([f64; 2]) -> f64) -> Vec<Option<Spot>> {
        let items = self.asked.items;
        let mut order: Vec<usize> = (0..items.len()).collect();
        let extent = |i: usize| size(self.asked.pieces[items[i]].size);
        order.sort_by(|&a, &b| extent(b).total_cmp(&extent(a)).then(a.cmp(&b)));
        let mut taken = Taken::new(self.wide);
        if let Some(blocked) = &self.blocked {
            taken.take(blocked, (0, 0));
        }
        let mut spots = vec![None; items.len()];
        let turns = self.asked.turns.len();
        let mut from = vec![0; self.asked.pieces.len() * turns];
        for item in order {
            let piece = items[item];
            let mut best: Option<(f64, usize, usize, usize)> = None;
            for (t, mask) in self.masks[piece].iter().enumerate() {
                let Some(mut last) = self.last.checked_sub(mask.high) else {
                    continue;
                };
                if let Some((end, ..)) = best {
                    // It has to end above the best one so far.
                    let most = (end / self.cell).ceil() as usize;
                    let Some(most) = most.checked_sub(mask.high - 1) else {
                        continue;
                    };
                    last = last.min(most);
                }
                let known = &mut from[piece * turns + t];
                let Some((x, y)) = taken.first_fit(mask, *known, last) else {
                    *known = (*known).max(last + 1);
                    continue;
                };
                *known = y;
                let end = y as f64 * self.cell + mask.size[1];
                if best.is_none_or(|(e, bx, ..)| end < e - 1e-9 || (end < e + 1e-9 && x < bx)) {
                    best = Some((end, x, y, t));
                }
            }
            let Some((_, x, y, t)) = best else { continue };
            let mask = &self.masks[piece][t];
            taken.take(mask, (x, y));
            let room = self.asked.room;
            let place = |cells: usize| cells as f64 * self.cell + mask.inset - self.around;
            spots[item] = Some(Spot {
                x: room.x0 + place(x).max(0.0),
                y: room.y0 + place(y).max(0.0),
                turn: self.asked.turns[t],
            });
        }
        spots
    }
}
