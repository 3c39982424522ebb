//! Local width: how wide a shape, or the gap between shapes, truly is at every place.
//!
//! ```text
//!   ─────•m──────     the largest disc that touches the edge at m from inside and holds no
//!       ( ↓ )         other edge: its diameter is the width there. It is a stroke where the disc
//!   ─────•q──────     touches on opposite sides, and the end of one where it touches beside m.
//! ```
//!
//! The discs are those of the medial axis (Blum 1967, "A transformation for extracting new
//! descriptors of shape"), found from the edge as in Ma, Bae & Choi 2012, "3D medial axis point
//! approximation using nearest neighbors and the normal field", but with chords instead of points, so
//! that between straight edges the width is exact. Only discs under a limit are looked for.

use kurbo::{Point, Rect, Vec2};
use rayon::prelude::*;

use super::chords::Chords;
use crate::sets::Sets;

/// Which side of the edges is measured.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Side {
    /// The shapes.
    Inside,
    /// What lies between them.
    Outside,
}

/// A place that is narrower than a limit.
#[derive(Clone, Debug, PartialEq)]
pub struct Narrow {
    /// Middle of the narrowest place, mm.
    pub at: Point,
    /// Width there, mm.
    pub width: f64,
    /// Length over which it is narrower than the limit, mm.
    pub length: f64,
    /// Where the narrowest disc touches both edges.
    pub touching: [Point; 2],
    /// Middles of the discs, run by run along the edges.
    pub middles: Vec<Vec<Point>>,
    /// Whether it runs out into a corner rather than going on.
    pub tapers: bool,
}

/// Chords for a limit: as fine as a part of it.
pub(super) fn chords_for<'a>(
    rings: impl Iterator<Item = &'a crate::shapes::Ring>,
    limit: f64,
) -> Chords {
    Chords::of(rings, limit / 6.0)
}

/// Places of rings narrower than `limit` mm. Edges that meet at more than `corner` degrees are a
/// corner, not a narrow place.
#[must_use]
pub fn narrow<'a>(
    rings: impl Iterator<Item = &'a crate::shapes::Ring>,
    side: Side,
    limit: f64,
    corner: f64,
) -> Vec<Narrow> {
    if limit <= 0.0 || !limit.is_finite() {
        return Vec::new();
    }
    let chords = chords_for(rings, limit);
    places(&chords, side, limit, corner)
}

/// The least disc at a chord: half the width, the chord it touches, and where.
#[derive(Clone, Copy, Debug)]
struct Disc {
    radius: f64,
    other: usize,
    touch: Point,
    middle: Point,
}

/// A corner juts in where its sides turn by more than this sine.
const JUTS: f64 = 0.25;

/// What has so small an angle that it cannot be told from parallel, as a cosine.
fn opposite(corner: f64) -> f64 {
    -corner.clamp(5.0, 60.0).to_radians().cos()
}

pub(super) fn places(chords: &Chords, side: Side, limit: f64, corner: f64) -> Vec<Narrow> {
    let most = limit / 2.0 * (1.0 - 1e-9);
    let facing = opposite(corner);
    let discs: Vec<Option<Disc>> = (0..chords.all.len())
        .into_par_iter()
        .map(|n| {
            let along = disc(chords, n, side, most).filter(|d| is_facing(chords, n, d, facing));
            let across = from_corner(chords, n, side, limit);
            let least = |d: &Disc| d.radius;
            match (along, across) {
                (Some(a), Some(b)) => Some(if least(&b) < least(&a) { b } else { a }),
                (a, b) => a.or(b),
            }
        })
        .collect();
    gathered(chords, &discs)
}

/// Whether a disc touches on opposite sides.
fn is_facing(chords: &Chords, n: usize, d: &Disc, facing: f64) -> bool {
    let (a, b) = (chords.all[n].middle() - d.middle, d.touch - d.middle);
    a.dot(b) <= facing * d.radius * d.radius
}

/// The least disc that touches chord `n` in its middle and any other chord.
fn disc(chords: &Chords, n: usize, side: Side, most: f64) -> Option<Disc> {
    let chord = &chords.all[n];
    let m = chord.middle();
    let normal = inward(chord.along(), side);
    let mut best: Option<Disc> = None;
    let mut radius = most;
    let around = Rect::from_center_size(m + normal * most, (2.0 * most, 2.0 * most));
    chords.near(around, |j| {
        if j == n {
            return;
        }
        let other = &chords.all[j];
        let mut found = |r: f64, touch: Point| {
            if r < radius {
                radius = r;
                best = Some(Disc {
                    radius: r,
                    other: j,
                    touch,
                    middle: m + normal * r,
                });
            }
        };
        // Touching along the other chord.
        let along = other.along();
        let mut facing = Vec2::new(-along.y, along.x);
        let mut distance = (m - other.a).dot(facing);
        if distance < 0.0 {
            (facing, distance) = (-facing, -distance);
        }
        let turn = 1.0 - normal.dot(facing);
        if distance > 1e-9 && turn > 1e-6 {
            let r = distance / turn;
            let foot = m + normal * r - facing * r;
            let t = (foot - other.a).dot(along);
            if (0.0..=other.length()).contains(&t) {
                found(r, foot);
            }
        }
        // Touching one of its ends.
        for q in [other.a, other.b] {
            let v = q - m;
            let ahead = v.dot(normal);
            if ahead > 1e-9 {
                found(v.hypot2() / (2.0 * ahead), q);
            }
        }
    });
    best
}

/// The inside of an edge, or the outside.
fn inward(along: Vec2, side: Side) -> Vec2 {
    // An outer ring runs clockwise on the screen: its inside is to the right.
    let inward = Vec2::new(-along.y, along.x);
    match side {
        Side::Inside => inward,
        Side::Outside => -inward,
    }
}

/// Whether a way from the start of a chord leads into the wedge that only this corner is nearest to.
fn faces(chords: &Chords, n: usize, way: Vec2) -> bool {
    let (before, after) = (chords.all[chords.before(n)].along(), chords.all[n].along());
    let slack = 1e-6 * way.hypot();
    way.dot(before) >= -slack && way.dot(after) <= slack
}

/// From a corner that juts into what is measured: the disc across to the nearest edge that it faces.
/// No disc that touches an edge beside it finds two such corners that face each other.
fn from_corner(chords: &Chords, n: usize, side: Side, limit: f64) -> Option<Disc> {
    let chord = &chords.all[n];
    let before = chords.all[chords.before(n)].along();
    let turn = before.dot(inward(chord.along(), side));
    if turn < JUTS {
        return None;
    }
    let p = chord.a;
    let mut least = limit * (1.0 - 1e-9);
    let mut best: Option<Disc> = None;
    let around = Rect::from_center_size(p, (2.0 * limit, 2.0 * limit));
    chords.near(around, |j| {
        let other = &chords.all[j];
        let q = other.nearest(p);
        let way = q - p;
        let far = way.hypot();
        if far >= least || far < 1e-9 || !faces(chords, n, way) {
            return;
        }
        let met = if q.distance(other.a) < 1e-12 {
            faces(chords, j, -way)
        } else if q.distance(other.b) < 1e-12 {
            faces(chords, chords.next(j), -way)
        } else {
            true
        };
        if met && way.dot(inward(other.along(), side)) < 0.0 {
            least = far;
            best = Some(Disc {
                radius: far / 2.0,
                other: j,
                touch: q,
                middle: p.midpoint(q),
            });
        }
    });
    best
}

/// Neighbouring discs as places.
fn gathered(chords: &Chords, discs: &[Option<Disc>]) -> Vec<Narrow> {
    let mut sets = Sets::new(discs.len());
    for (n, disc) in discs.iter().enumerate() {
        let Some(disc) = disc else { continue };
        // One or two chords between may have missed.
        let (one, two) = (chords.next(n), chords.next(chords.next(n)));
        for next in [one, two] {
            if discs[next].is_some() {
                sets.join(n, next);
            }
        }
        let other = disc.other;
        for across in [chords.before(other), other, chords.next(other)] {
            if discs[across].is_some() {
                sets.join(n, across);
            }
        }
    }
    let mut members: std::collections::BTreeMap<usize, Vec<usize>> = Default::default();
    for n in (0..discs.len()).filter(|&n| discs[n].is_some()) {
        members.entry(sets.find(n)).or_default().push(n);
    }
    let mut found: Vec<Narrow> = members
        .values()
        .filter_map(|run| place(chords, discs, run))
        .collect();
    found.sort_by(|a, b| {
        (a.width.total_cmp(&b.width))
            .then(a.at.y.total_cmp(&b.at.y))
            .then(a.at.x.total_cmp(&b.at.x))
    });
    found
}

fn place(chords: &Chords, discs: &[Option<Disc>], run: &[usize]) -> Option<Narrow> {
    let radius = |n: &usize| discs[*n].map_or(f64::MAX, |d| d.radius);
    let &least = run.iter().min_by(|a, b| radius(a).total_cmp(&radius(b)))?;
    let disc = discs[least]?;
    let mut middles: Vec<Vec<Point>> = Vec::new();
    let mut last: Option<usize> = None;
    for &n in run {
        let Some(d) = discs[n] else { continue };
        // Members come in order: a run goes on where one follows the other.
        let goes_on = last.is_some_and(|l| n - l <= 2 && chords.all[l].ring == chords.all[n].ring);
        match middles.last_mut() {
            Some(run) if goes_on => run.push(d.middle),
            _ => middles.push(vec![d.middle]),
        }
        last = Some(n);
    }
    Some(Narrow {
        at: disc.middle,
        width: 2.0 * disc.radius,
        length: run.iter().map(|&n| chords.all[n].length()).sum::<f64>() / 2.0,
        touching: [chords.all[least].middle(), disc.touch],
        middles,
        tapers: chords.apart(least, disc.other) <= 4,
    })
}
