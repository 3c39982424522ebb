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

    /// Takes a stone that lies far enough from all others.
    pub(super) fn take(&mut self, stone: Stone) -> bool {
        let (cx, cy) = self.cell(stone.at);
        let across = |s: &Stone| self.choice.sizes[s.size];
        let least =
            |other: &Stone| (across(other) + across(&stone)) / 2.0 + self.choice.gap - EPSILON;
        let near = (cx - 1..=cx + 1).flat_map(|x| (cy - 1..=cy + 1).map(move |y| (x, y)));
        let mut others = near.filter_map(|c| self.cells.get(&c)).flatten();
        if others.any(|other| other.at.distance(stone.at) < least(other)) {
            return false;
        }
        self.cells.entry((cx, cy)).or_default().push(stone);
        self.stones.push(stone);
        true
    }
}
