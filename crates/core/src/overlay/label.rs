//! Labels: for every side of a result the chord that it lies on, and which way it goes along it.

use std::sync::OnceLock;

use rayon::prelude::*;
use rstar::primitives::{GeomWithData, Rectangle};
use rstar::{AABB, RTree};

use super::chords::{Chords, GridPoint};

/// How far off its chord a side may lie through rounding, steps of the grid.
const ROUNDING: f64 = 40.0;

/// A side of a result.
#[derive(Clone, Copy, Debug)]
pub(super) struct Side {
    pub ends: [GridPoint; 2],
    /// The chord it lies on, and whether it goes the same way; rounding may leave it without.
    pub on: Option<(usize, bool)>,
}

type Box = GeomWithData<Rectangle<[f64; 2]>, usize>;

/// Finds chords by where they end, and by where they lie for sides between two crossings.
pub(super) struct Labels<'a> {
    chords: &'a Chords,
    /// Corners in order, with the side that starts there, or the one that ends there.
    ends: Vec<(GridPoint, usize)>,
    tree: OnceLock<RTree<Box>>,
}

impl<'a> Labels<'a> {
    pub(super) fn new(chords: &'a Chords) -> Self {
        let sides = 0..chords.count();
        let mut ends: Vec<_> = sides
            .flat_map(|side| chords.ends(side).map(|end| (end, side)))
            .collect();
        ends.par_sort_unstable();
        Self {
            chords,
            ends,
            tree: OnceLock::new(),
        }
    }

    /// The sides of a contour, labelled; a side that could be one of two goes on along the same.
    pub(super) fn along(&self, contour: &[GridPoint]) -> Vec<Side> {
        let n = contour.len();
        let mut sides: Vec<Side> = Vec::with_capacity(n);
        for i in 0..n {
            let ends = [contour[i], contour[(i + 1) % n]];
            let before = sides.last().and_then(|s| s.on);
            sides.push(Side {
                ends,
                on: self.find(ends, before),
            });
        }
        // The first one did not know what it goes on from.
        if let (Some(last), Some(first)) = (sides.last().copied(), sides.first_mut()) {
            first.on = self.find(first.ends, last.on);
        }
        sides
    }

    fn find(&self, ends: [GridPoint; 2], before: Option<(usize, bool)>) -> Option<(usize, bool)> {
        if let Some((side, forward)) = before {
            let next = self.chords.beside(side, forward);
            let goes_on = [(side, forward), (next, forward)];
            if let Some(same) = goes_on.into_iter().find(|&on| self.fits(ends, on)) {
                return Some(same);
            }
        }
        // Which of two that lie on each other does not matter, as long as it is always the same.
        let best = |sides: &mut dyn Iterator<Item = usize>| {
            let both = sides.flat_map(|side| [(side, false), (side, true)]);
            both.filter(|&on| self.fits(ends, on)).min()
        };
        let mut there = ends.into_iter().flat_map(|end| {
            let from = self.ends.partition_point(|&(p, _)| p < end);
            let same = self.ends[from..]
                .iter()
                .take_while(move |&&(p, _)| p == end);
            same.map(|&(_, side)| side)
        });
        best(&mut there).or_else(|| best(&mut self.around(ends)))
    }

    /// Chords that run by the middle of a side.
    fn around(&self, [a, b]: [GridPoint; 2]) -> impl Iterator<Item = usize> {
        let half = |a: i32, b: i32| (f64::from(a) + f64::from(b)) / 2.0;
        let middle = [half(a.x, b.x), half(a.y, b.y)];
        let (low, high) = (middle.map(|v| v - ROUNDING), middle.map(|v| v + ROUNDING));
        let tree = self.tree();
        let near = tree.locate_in_envelope_intersecting(AABB::from_corners(low, high));
        near.map(|b| b.data)
    }

    fn tree(&self) -> &RTree<Box> {
        self.tree.get_or_init(|| {
            let boxes = (0..self.chords.count()).map(|side| {
                let [a, b] = self
                    .chords
                    .ends(side)
                    .map(|p| [f64::from(p.x), f64::from(p.y)]);
                GeomWithData::new(Rectangle::from_corners(a, b), side)
            });
            RTree::bulk_load(boxes.collect())
        })
    }

    /// Whether a side lies on a chord and goes that way.
    fn fits(&self, [a, b]: [GridPoint; 2], (side, forward): (usize, bool)) -> bool {
        let [mut p, mut q] = self.chords.ends(side);
        if !forward {
            std::mem::swap(&mut p, &mut q);
        }
        if (a, b) == (p, q) {
            return true;
        }
        let from_p = |to: GridPoint| {
            [
                f64::from(to.x) - f64::from(p.x),
                f64::from(to.y) - f64::from(p.y),
            ]
        };
        let way = from_p(q);
        let length = way[0].hypot(way[1]);
        let (mut along, mut held) = ([0.0; 2], true);
        for (n, end) in [a, b].into_iter().enumerate() {
            let to = from_p(end);
            along[n] = (to[0] * way[0] + to[1] * way[1]) / length;
            let off = (to[0] * way[1] - to[1] * way[0]).abs() / length;
            held &= off <= ROUNDING && along[n] >= -ROUNDING && along[n] <= length + ROUNDING;
        }
        held && along[0] < along[1]
    }
}
