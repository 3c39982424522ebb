//! Rings as short straight chords, to ask what lies near a place.

use kurbo::{Point, Rect, Vec2};
use rstar::primitives::{GeomWithData, Line};
use rstar::{AABB, RTree};

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
pub(super) struct Chords {
    pub(super) all: Vec<Chord>,
    /// Where each ring starts, and the end of the last.
    pub(super) starts: Vec<usize>,
    near: RTree<GeomWithData<Line<[f64; 2]>, usize>>,
}

impl Chords {
    /// Chords no longer than `longest` mm.
    pub(super) fn of<'a>(rings: impl Iterator<Item = &'a Ring>, longest: f64) -> Self {
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
        let lines = all.iter().enumerate();
        let lines = lines.map(|(n, c): (usize, &Chord)| {
            GeomWithData::new(Line::new([c.a.x, c.a.y], [c.b.x, c.b.y]), n)
        });
        let near = RTree::bulk_load(lines.collect());
        Self { all, starts, near }
    }

    /// Every chord whose box meets a box.
    pub(super) fn near(&self, within: Rect, mut each: impl FnMut(usize)) {
        let within = AABB::from_corners([within.x0, within.y0], [within.x1, within.y1]);
        for chord in self.near.locate_in_envelope_intersecting(within) {
            each(chord.data);
        }
    }

    /// Pairs of chords whose boxes meet, each pair once, the lower number first.
    pub(super) fn pairs(&self, mut each: impl FnMut(usize, usize)) {
        for (i, chord) in self.all.iter().enumerate() {
            self.near(Rect::from_points(chord.a, chord.b), |j| {
                if i < j {
                    each(i, j);
                }
            });
        }
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
