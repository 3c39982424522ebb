//! Rings as short straight chords in a grid of cells, to ask what lies near a place.

use kurbo::{Point, Rect, Vec2};

use crate::shapes::Ring;

/// Chords leave their curves by at most this, mm.
const FLAT: f64 = 0.004;
/// Greatest number of chords; beyond it they are taken longer.
const MOST: f64 = 2_000_000.0;

/// A straight piece of a ring.
#[derive(Clone, Copy, Debug)]
pub(super) struct Chord {
    pub(super) a: Point,
    pub(super) b: Point,
    /// Number of its ring.
    pub(super) ring: u32,
}

impl Chord {
    pub(super) fn middle(&self) -> Point {
        self.a.midpoint(self.b)
    }

    pub(super) fn length(&self) -> f64 {
        self.a.distance(self.b)
    }

    /// Unit vector along it.
    pub(super) fn along(&self) -> Vec2 {
        (self.b - self.a) / self.length()
    }

    /// The place on it nearest to another.
    pub(super) fn nearest(&self, p: Point) -> Point {
        let along = self.b - self.a;
        let t = (p - self.a).dot(along) / along.hypot2();
        self.a + along * t.clamp(0.0, 1.0)
    }
}

/// All chords of some rings.
#[derive(Debug)]
pub(super) struct Chords {
    pub(super) all: Vec<Chord>,
    /// Where each ring starts, and the end of the last.
    pub(super) starts: Vec<usize>,
    cell: f64,
    origin: Point,
    across: usize,
    down: usize,
    /// Where each cell's chords start in `held`.
    cells: Vec<u32>,
    held: Vec<u32>,
}

impl Chords {
    /// Chords no longer than `longest` mm, in cells of `cell` mm.
    pub(super) fn of<'a>(rings: impl Iterator<Item = &'a Ring>, longest: f64, cell: f64) -> Self {
        let rings: Vec<&Ring> = rings.collect();
        let total: f64 = rings.iter().map(|r| r.length()).sum();
        let longest = longest.max(total / MOST).max(1e-3);
        let mut all = Vec::new();
        let mut starts = vec![0];
        for (n, ring) in rings.iter().enumerate() {
            for segment in ring.segments() {
                let steps = (segment.length() / longest).ceil() as usize;
                let steps = steps.max(segment.steps(FLAT)).max(1);
                let mut a = segment.start();
                for k in 1..=steps {
                    let b = if k == steps {
                        segment.end()
                    } else {
                        segment.eval(k as f64 / steps as f64)
                    };
                    if a.distance_squared(b) > 1e-16 {
                        let ring = n as u32;
                        all.push(Chord { a, b, ring });
                        a = b;
                    }
                }
            }
            starts.push(all.len());
        }
        Self::in_cells(all, starts, cell)
    }

    fn in_cells(all: Vec<Chord>, starts: Vec<usize>, cell: f64) -> Self {
        let boxes = all.iter().map(|c| Rect::from_points(c.a, c.b));
        let whole = boxes.reduce(|a, b| a.union(b)).unwrap_or_default();
        // No more cells than a few for each chord.
        let least = (whole.area() / (4.0 * all.len() as f64 + 64.0)).sqrt();
        let cell = cell.max(least).max(1e-3);
        let count = |side: f64| (side / cell) as usize + 1;
        let (across, down) = (count(whole.width()), count(whole.height()));
        let mut chords = Self {
            all,
            starts,
            cell,
            origin: whole.origin(),
            across,
            down,
            cells: vec![0; across * down + 1],
            held: Vec::new(),
        };
        let mut counts = vec![0_u32; across * down + 1];
        for n in 0..chords.all.len() {
            chords.cells_of(n, |at| counts[at + 1] += 1);
        }
        for at in 1..counts.len() {
            counts[at] += counts[at - 1];
        }
        let mut held = vec![0_u32; counts.last().copied().unwrap_or(0) as usize];
        let mut next = counts.clone();
        for n in 0..chords.all.len() {
            chords.cells_of(n, |at| {
                held[next[at] as usize] = n as u32;
                next[at] += 1;
            });
        }
        chords.cells = counts;
        chords.held = held;
        chords
    }

    fn cells_of(&self, n: usize, mut each: impl FnMut(usize)) {
        let chord = self.all[n];
        self.cells_in(Rect::from_points(chord.a, chord.b), &mut each);
    }

    fn cells_in(&self, within: Rect, each: &mut impl FnMut(usize)) {
        let step = |v: f64, most: usize| ((v / self.cell).max(0.0) as usize).min(most - 1);
        let (o, x, y) = (self.origin, self.across, self.down);
        for row in step(within.y0 - o.y, y)..=step(within.y1 - o.y, y) {
            for column in step(within.x0 - o.x, x)..=step(within.x1 - o.x, x) {
                each(row * self.across + column);
            }
        }
    }

    /// Every chord that may touch a box; some more than once.
    pub(super) fn near(&self, within: Rect, mut each: impl FnMut(usize)) {
        if self.all.is_empty() {
            return;
        }
        self.cells_in(within, &mut |at| {
            let cell = self.cells[at] as usize..self.cells[at + 1] as usize;
            for &n in &self.held[cell] {
                each(n as usize);
            }
        });
    }

    /// Pairs of chords that share a cell, each pair once, the lower number first.
    pub(super) fn pairs(&self, mut each: impl FnMut(usize, usize)) {
        for at in 0..self.across * self.down {
            let cell = &self.held[self.cells[at] as usize..self.cells[at + 1] as usize];
            for (k, &i) in cell.iter().enumerate() {
                for &j in &cell[k + 1..] {
                    let (i, j) = (i as usize, j as usize);
                    if self.first_shared(i, j) == Some(at) {
                        each(i, j);
                    }
                }
            }
        }
    }

    fn first_shared(&self, i: usize, j: usize) -> Option<usize> {
        let boxed = |n: usize| Rect::from_points(self.all[n].a, self.all[n].b);
        let (a, b) = (boxed(i), boxed(j));
        let both = Rect::new(
            a.x0.max(b.x0),
            a.y0.max(b.y0),
            a.x1.min(b.x1).max(a.x0.max(b.x0)),
            a.y1.min(b.y1).max(a.y0.max(b.y0)),
        );
        let mut first = None;
        self.cells_in(both, &mut |at| {
            first.get_or_insert(at);
        });
        first
    }

    /// The chord after one on its ring.
    pub(super) fn next(&self, n: usize) -> usize {
        let ring = self.all[n].ring as usize;
        if n + 1 == self.starts[ring + 1] {
            self.starts[ring]
        } else {
            n + 1
        }
    }

    /// The chord before one on its ring.
    pub(super) fn before(&self, n: usize) -> usize {
        let ring = self.all[n].ring as usize;
        if n == self.starts[ring] {
            self.starts[ring + 1] - 1
        } else {
            n - 1
        }
    }

    /// How many steps along their ring two chords are apart; a great number on different rings.
    pub(super) fn apart(&self, i: usize, j: usize) -> usize {
        let ring = self.all[i].ring;
        if ring != self.all[j].ring {
            return usize::MAX;
        }
        let count = self.starts[ring as usize + 1] - self.starts[ring as usize];
        let steps = i.abs_diff(j);
        steps.min(count - steps)
    }
}
