//! Lines that cross, and lines that lie on each other.

use std::collections::BTreeMap;

use kurbo::{Point, Rect};

use super::chords::Chords;

/// Two places are one crossing within this, mm.
const SAME: f64 = 0.1;
/// Lines nearer than this lie on each other, mm.
pub(super) const NEAR: f64 = 0.03;
/// Directions that differ by a smaller sine are the same.
const PARALLEL: f64 = 0.05;
/// A crossing nearer than this to the end of a chord lies on it, mm.
const END: f64 = 1e-7;
/// Lines that lie on each other for less than this merely touch, mm.
const SHORT: f64 = 0.5;

/// Where two rings cross, or one crosses itself.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Crossing {
    pub(super) at: Point,
    /// Their numbers, the lower first.
    pub(super) rings: [u32; 2],
}

/// Every place where chords cross.
pub(super) fn crossings(chords: &Chords) -> Vec<Crossing> {
    let mut found: Vec<Crossing> = Vec::new();
    chords.pairs(|i, j| {
        if chords.apart(i, j) < 2 {
            return;
        }
        let (a, b) = (&chords.all[i], &chords.all[j]);
        let (u, v) = (a.b - a.a, b.b - b.a);
        let cross = u.cross(v);
        if cross.abs() < PARALLEL * u.hypot() * v.hypot() {
            return;
        }
        let between = b.a - a.a;
        let (s, t) = (between.cross(v) / cross, between.cross(u) / cross);
        if (0.0..1.0).contains(&s) && (0.0..1.0).contains(&t) {
            let mut rings = [a.ring, b.ring];
            rings.sort_unstable();
            let at = a.a + u * s;
            let known = |c: &Crossing| c.rings == rings && c.at.distance(at) < SAME;
            // Where many meet in one place, the last few are the likely ones.
            if !found.iter().rev().take(64).any(known) && !touches(chords, i, j, at) {
                found.push(Crossing { at, rings });
            }
        }
    });
    found
}

/// Whether two lines meet in a place without going through each other.
fn touches(chords: &Chords, i: usize, j: usize, at: Point) -> bool {
    // Which way a line comes and goes there: at an end of a chord its neighbour tells.
    let ways = |n: usize| {
        let c = &chords.all[n];
        let (mut from, mut to) = (c.a, c.b);
        if at.distance(c.a) < END {
            from = chords.all[chords.before(n)].a;
        } else if at.distance(c.b) < END {
            to = chords.all[chords.next(n)].b;
        }
        ((from - at).atan2(), (to - at).atan2())
    };
    let ((back, ahead), (other_back, other_ahead)) = (ways(i), ways(j));
    let turn = |from: f64, to: f64| (to - from).rem_euclid(std::f64::consts::TAU);
    // Lines that go on along each other are told of as doubled.
    let same = |a: f64, b: f64| turn(a, b).min(turn(b, a)) < PARALLEL;
    if [other_back, other_ahead]
        .iter()
        .any(|&way| same(way, back) || same(way, ahead))
    {
        return true;
    }
    let sector = turn(back, ahead);
    let within = |way: f64| turn(back, way) < sector;
    within(other_back) == within(other_ahead)
}

/// Rings that lie on each other.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Shared {
    /// A place on them.
    pub(super) at: Point,
    /// Over what length, mm.
    pub(super) length: f64,
    /// What they belong to, the lower first.
    pub(super) of: [u32; 2],
}

/// Stretches of rings that lie on each other, summed by what their rings belong to: of the same too,
/// or only where two different ones end, each on its own side.
pub(super) fn shared(chords: &Chords, owner: &[u32], seams: bool) -> Vec<Shared> {
    let mut all: BTreeMap<[u32; 2], (f64, usize)> = BTreeMap::new();
    for (n, chord) in chords.all.iter().enumerate() {
        let (m, along) = (chord.middle(), chord.along());
        let mine = owner[chord.ring as usize];
        let mut met: Option<u32> = None;
        chords.near(Rect::from_center_size(m, (2.0 * NEAR, 2.0 * NEAR)), |j| {
            let other = &chords.all[j];
            let theirs = owner[other.ring as usize];
            // Each stretch is counted from one of its two sides.
            let counts = if theirs == mine {
                !seams && (chord.ring > other.ring || chord.ring == other.ring && n > j)
            } else {
                theirs < mine
            };
            if !counts || met.is_some() || chords.apart(n, j) < 8 {
                return;
            }
            let parallel = along.cross(other.along()).abs() < PARALLEL;
            let facing = !seams || along.dot(other.along()) < 0.0;
            if parallel && facing && other.nearest(m).distance(m) < NEAR {
                met = Some(theirs);
            }
        });
        if let Some(theirs) = met {
            let entry = all.entry([theirs, mine]).or_insert((0.0, n));
            entry.0 += chord.length();
        }
    }
    all.into_iter()
        .filter(|(_, (length, _))| *length >= SHORT)
        .map(|(of, (length, n))| Shared {
            at: chords.all[n].middle(),
            length,
            of,
        })
        .collect()
}
