//! Chords: rings as polygons on a grid, every side knowing the stretch of curve it stands for.
//!
//! The grid is as fine as 30 bits allow: under a nanometre for a piece of half a metre. How closely
//! chords follow their curves depends on the size of the whole too, within limits.

use i_overlay::i_float::int::point::IntPoint;
use kurbo::{Point, Rect};

use crate::segment::Segment;
use crate::shapes::Ring;

/// A place on the grid.
pub(super) type GridPoint = IntPoint<i32>;

/// Half the side of the grid, steps.
const HALF: f64 = (1 << 29) as f64;
/// Part of the size of the whole by which chords may leave their curves …
const FLAT_PART: f64 = 1e-4;
/// … within these limits, mm: the greater is a step of a cutter.
const FLAT: std::ops::RangeInclusive<f64> = 0.002..=0.025;

/// The stretch of a segment that a side of a polygon stands for.
#[derive(Clone, Copy, Debug)]
pub(super) struct Chord {
    pub ring: u32,
    pub segment: u32,
    /// Parameters of the segment at its ends.
    pub from: f64,
    pub to: f64,
}

/// The sides of all rings; side `i` goes from corner `i` to the next corner of its ring.
pub(super) struct Chords {
    corners: Vec<GridPoint>,
    chords: Vec<Chord>,
    /// Steps of the grid in a millimetre, and the place in its middle.
    pub(super) grid: f64,
    middle: Point,
    /// Chords leave their curves by at most this, mm.
    pub(super) flat: f64,
    /// Where each ring starts among the corners, and the end of the last.
    starts: Vec<usize>,
}

impl Chords {
    /// The chords of rings, which leave their curves by the usual times `finer`.
    pub(super) fn of<'a>(rings: impl Iterator<Item = &'a Ring> + Clone, finer: f64) -> Self {
        let whole = rings.clone().map(around).reduce(|a, b| a.union(b));
        let whole = whole.unwrap_or_default();
        let side = whole.width().max(whole.height()).max(1e-3);
        let mut all = Self {
            // A power of two, so that places of pieces of about one size do not move.
            grid: (HALF / side).log2().floor().exp2(),
            middle: whole.center(),
            flat: finer * (FLAT_PART * side).clamp(*FLAT.start(), *FLAT.end()),
            corners: Vec::new(),
            chords: Vec::new(),
            starts: vec![0],
        };
        for (ring, segments) in rings.enumerate() {
            for (n, segment) in segments.segments().iter().enumerate() {
                all.add(ring as u32, n as u32, segment);
            }
            all.starts.push(all.corners.len());
        }
        all
    }

    fn add(&mut self, ring: u32, segment: u32, curve: &Segment) {
        // The same points whichever way it is walked, so that neighbours meet exactly.
        let (a, b) = (curve.start(), curve.end());
        let turned = (b.x, b.y) < (a.x, a.y);
        let walked = if turned { curve.reverse() } else { *curve };
        let steps = curve.steps(self.flat);
        let at = |n: usize| {
            let along = if turned { steps - n } else { n };
            walked.eval(along as f64 / steps as f64)
        };
        for n in 0..steps {
            let (from, to) = (n as f64 / steps as f64, (n + 1) as f64 / steps as f64);
            let corner = self.place(at(n));
            let end = self.place(at(n + 1));
            if corner == end {
                continue;
            }
            self.corners.push(corner);
            self.chords.push(Chord {
                ring,
                segment,
                from,
                to,
            });
        }
    }

    fn place(&self, p: Point) -> GridPoint {
        let by = (p - self.middle) * self.grid;
        GridPoint::new(by.x.round() as i32, by.y.round() as i32)
    }

    pub(super) fn point(&self, p: GridPoint) -> Point {
        self.middle + kurbo::Vec2::new(f64::from(p.x), f64::from(p.y)) / self.grid
    }

    pub(super) fn count(&self) -> usize {
        self.corners.len()
    }

    pub(super) fn contours(&self) -> impl Iterator<Item = &[GridPoint]> {
        self.starts.windows(2).map(|w| &self.corners[w[0]..w[1]])
    }

    /// Every corner once, in order.
    pub(super) fn corners(&self) -> Vec<GridPoint> {
        let mut corners = self.corners.clone();
        corners.sort_unstable();
        corners.dedup();
        corners
    }

    pub(super) fn chord(&self, side: usize) -> Chord {
        self.chords[side]
    }

    pub(super) fn ends(&self, side: usize) -> [GridPoint; 2] {
        [self.corners[side], self.corners[self.next(side)]]
    }

    /// The side after one, or the one before it where its ring is walked the other way.
    pub(super) fn beside(&self, side: usize, forward: bool) -> usize {
        let ring = self.chords[side].ring as usize;
        if forward {
            self.next(side)
        } else if side == self.starts[ring] {
            self.starts[ring + 1] - 1
        } else {
            side - 1
        }
    }

    /// Whether one side, and the way it is walked, goes on along the same curve as another.
    pub(super) fn goes_on(&self, (a, way): (usize, bool), (b, then): (usize, bool)) -> bool {
        way == then && (a == b || self.beside(a, way) == b)
    }

    /// The side after one, around its ring.
    fn next(&self, side: usize) -> usize {
        let ring = self.chords[side].ring as usize;
        let next = side + 1;
        if next == self.starts[ring + 1] {
            self.starts[ring]
        } else {
            next
        }
    }
}

/// A box around a ring that holds its handles too.
fn around(ring: &Ring) -> Rect {
    let counts = ring.segments().iter().map(|s| match s {
        Segment::Cubic(c) => Rect::from_points(c.p0, c.p3).union_pt(c.p1).union_pt(c.p2),
        other => other.bounds(),
    });
    counts.reduce(|a, b| a.union(b)).unwrap_or_default()
}
