//! Walls: where a piece of stock that is no rectangle ends, and its holes and flaws; parts keep away from them.
//!
//! ```text
//!   ╭───────────╮      In cells, all is blocked that lies outside or nearer to an edge than the margin less
//!   │ ▣ ▣   ○   ╲      half the gap, since masks are grown by half the gap themselves. On the outlines,
//!   ╰────────────╯     chord by chord, nothing comes nearer than the margin.
//! ```

use kurbo::{Point, Rect};
use rstar::primitives::Line as Chord;
use rstar::{AABB, RTree};

use super::clash::{Outline, distance};
use super::mask::{Grid, Mask};
use crate::stock::Shaped;

/// Parts stay at least so far from an edge, mm, so that what touches it is not taken for what crosses it.
const LEAST: f64 = 1e-3;

/// The edges of a piece of stock.
#[derive(Clone, Debug)]
pub struct Walls {
    outer: Outline,
    holes: Vec<Outline>,
    chords: RTree<Chord<[f64; 2]>>,
    margin: f64,
}

impl Walls {
    /// Those of a shape from which parts keep `margin` mm away.
    #[must_use]
    pub fn of(shape: &Shaped, margin: f64) -> Self {
        let mut lines = shape
            .closed()
            .map(|line| Outline::of((vec![line], Vec::new())));
        let outer = lines
            .next()
            .unwrap_or_else(|| Outline::of((Vec::new(), Vec::new())));
        let holes: Vec<Outline> = lines.collect();
        let all = std::iter::once(&outer).chain(&holes);
        let chords = all.flat_map(Outline::chords);
        let chords = chords.map(|(p, q)| Chord::new([p.x, p.y], [q.x, q.y]));
        Self {
            chords: RTree::bulk_load(chords.collect()),
            outer,
            holes,
            margin: margin.max(LEAST),
        }
    }

    /// Whether a part lies outside, over a hole or a flaw, or nearer to an edge than the margin.
    pub(super) fn meet(&self, part: &Outline) -> bool {
        self.met(part).is_some()
    }

    /// A place at which lines do so, mm: closed ones, each from its end to its beginning, and open ones.
    #[must_use]
    pub fn met_by(&self, closed: Vec<Vec<Point>>, open: Vec<Vec<Point>>) -> Option<Point> {
        self.met(&Outline::of((closed, open)))
    }

    fn met(&self, part: &Outline) -> Option<Point> {
        let held = |p: &Point| self.outer.holds(*p) && !self.holes.iter().any(|h| h.holds(*p));
        let lines = part.closed.iter().chain(&part.open);
        let mut firsts = lines.filter_map(|line| line.first());
        if let Some(outside) = firsts.find(|p| !held(p)) {
            return Some(*outside);
        }
        let first = |hole: &Outline| hole.closed.iter().flatten().next().copied();
        let mut holes = self.holes.iter().filter_map(first);
        if let Some(under) = holes.find(|p| part.holds(*p)) {
            return Some(under);
        }
        let point = |[x, y]: [f64; 2]| Point::new(x, y);
        let mut sides = part.chords();
        let near = sides.find(|&side| {
            let b = Rect::from_points(side.0, side.1).inflate(self.margin, self.margin);
            let near = AABB::from_corners([b.x0, b.y0], [b.x1, b.y1]);
            let mut walls = self.chords.locate_in_envelope_intersecting(near);
            walls.any(|w| distance(side, (point(w.from), point(w.to))) < self.margin - 1e-6)
        });
        near.map(|(from, to)| from.midpoint(to))
    }

    /// The cells of a grid that no mask may take whose piece is grown by half of `gap` and by `round` mm for the cells'
    /// own size. What lies below the stock is free: a strip that is too long ends there.
    pub(super) fn blocked(&self, grid: &Grid, gap: f64, round: f64) -> Mask {
        let reach = (self.margin - gap / 2.0).max(0.0) + round;
        let mut set = grid.inside(&self.outer);
        set.iter_mut().for_each(|cell| *cell = !*cell);
        for hole in &self.holes {
            let inside = grid.inside(hole);
            set.iter_mut()
                .zip(inside)
                .for_each(|(cell, hole)| *cell |= hole);
        }
        for line in std::iter::once(&self.outer).chain(&self.holes) {
            grid.near(line, reach, &mut set);
        }
        let end = self.outer.bounds.y1 + reach;
        for (y, row) in set.chunks_mut(grid.wide).enumerate() {
            if grid.middle(0, y).y > end {
                row.fill(false);
            }
        }
        grid.mask(&set)
    }
}
