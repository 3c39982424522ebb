//! Stones that keep apart: cells as wide as the largest needs, in which only neighbours are looked at.

use std::collections::BTreeMap;

use kurbo::Point;

use super::{Stone, StoneChoice};

/// Nearer than this to what it may be counts as there, mm.
const EPSILON: f64 = 1e-6;

pub(super) struct Apart<'a> {
    choice: &'a StoneChoice,
    cell: f64,
    cells: BTreeMap<(i64, i64), Vec<Stone>>,
    /// All that were taken, in their order.
    pub(super) stones: Vec<Stone>,
}

impl<'a> Apart<'a> {
    pub(super) fn new(choice: &'a StoneChoice) -> Self {
        let widest = choice.sizes.iter().copied().fold(0.0, f64::max);
        Self {
            choice,
            cell: widest + choice.gap,
            cells: BTreeMap::new(),
            stones: Vec::new(),
        }
    }

    fn cell(&self, at: Point) -> (i64, i64) {
        (
            (at.x / self.cell).floor() as i64,
            (at.y / self.cell).floor() as i64,
        )
    }

    /// Where a stone would be clear, going to the right, of the first that it lies too near to; `None` where it is clear.
    pub(super) fn blocked(&self, stone: Stone) -> Option<f64> {
        let (cx, cy) = self.cell(stone.at);
        let near = (cx - 1..=cx + 1).flat_map(|x| (cy - 1..=cy + 1).map(move |y| (x, y)));
        let mut others = near.filter_map(|c| self.cells.get(&c)).flatten();
        let across = |s: &Stone| self.choice.sizes[s.size];
        others.find_map(|other| {
            let least = (across(other) + across(&stone)) / 2.0 + self.choice.gap;
            let off = stone.at - other.at;
            let lies_near = off.hypot() < least - EPSILON;
            lies_near.then(|| other.at.x + (least * least - off.y * off.y).max(0.0).sqrt())
        })
    }

    /// Takes a stone that lies far enough from all others.
    pub(super) fn take(&mut self, stone: Stone) {
        if self.blocked(stone).is_none() {
            let cell = self.cell(stone.at);
            self.cells.entry(cell).or_default().push(stone);
            self.stones.push(stone);
        }
    }
}
