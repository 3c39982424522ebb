//! Lines of an outline: its places in the photograph, its long straight edges, and how its box stands upright.

use kurbo::{Affine, Point, Rect, Vec2};

use crate::lens::Lens;
use crate::polyline::{hull, thinned};
use crate::shapes::Ring;

/// Places of an outline lie at most so far apart, px: a lens bends what is between them.
const APART: f64 = 6.0;
/// Straight edges lie within so many px of their line where the lens is known roughly.
const ROUGHLY: f64 = 2.5;
/// Beside its ends an edge is not looked at, as a part of it: corners are round.
const BESIDE: f64 = 0.05;

/// Places of a ring so near to each other that lines between them are as good as its curves, px.
pub(super) fn places(ring: &Ring) -> Vec<Point> {
    let mut flat = vec![ring.segments()[0].start()];
    for segment in ring.segments() {
        segment.flatten(0.02, &mut flat);
    }
    let mut places = Vec::new();
    for w in flat.windows(2) {
        let count = ((w[1] - w[0]).hypot() / APART).ceil().max(1.0) as usize;
        places.extend((0..count).map(|k| w[0].lerp(w[1], k as f64 / count as f64)));
    }
    places
}

/// A closed line of places with as few as stay within a distance, beginning at one of its corners.
pub(super) fn corners(places: &[Point], within: f64) -> Vec<Point> {
    let Some(first) = places.first() else {
        return Vec::new();
    };
    let away = |n: &usize| (places[*n] - *first).hypot2();
    let corner = (0..places.len()).max_by(|a, b| away(a).total_cmp(&away(b)));
    let mut closed = places.to_vec();
    closed.rotate_left(corner.unwrap_or(0));
    closed.push(closed[0]);
    let mut kept = thinned(&closed, within);
    kept.pop();
    kept
}

/// The long stretches of a ring that nothing but the lens may have bent, as places along them, px.
pub(super) fn straight(ring: &Ring, lens: &Lens, least: f64) -> Vec<Vec<Point>> {
    let bent = places(ring);
    let seen: Vec<Point> = bent.iter().map(|p| lens.straight(*p)).collect();
    let ends = corners(&seen, ROUGHLY);
    let place = |p: &Point| seen.iter().position(|q| q == p).unwrap_or(0);
    let ends: Vec<usize> = ends.iter().map(place).collect();
    let mut found = Vec::new();
    for (n, &from) in ends.iter().enumerate() {
        let to = ends[(n + 1) % ends.len()];
        let count = (to + bent.len() - from) % bent.len();
        if (seen[to] - seen[from]).hypot() < least {
            continue;
        }
        let run: Vec<Point> = (0..=count).map(|k| bent[(from + k) % bent.len()]).collect();
        let skip = (BESIDE * run.len() as f64).ceil() as usize;
        found.push(run[skip..run.len() - skip].to_vec());
    }
    found
}

/// The turn, by an eighth at most, that makes the box around places least.
pub(super) fn upright(places: &[Point]) -> Affine {
    const EIGHTH: f64 = std::f64::consts::FRAC_PI_4;
    let hull = hull(places.to_vec());
    let turn = |n: usize| {
        let along: Vec2 = hull[(n + 1) % hull.len()] - hull[n];
        let angle = (along.atan2() + EIGHTH).rem_euclid(2.0 * EIGHTH) - EIGHTH;
        Affine::rotate(-angle)
    };
    let area = |turn: &Affine| {
        let moved = hull.iter().map(|p| *turn * *p);
        let boxes = moved.map(|p| Rect::from_points(p, p));
        boxes.reduce(|a, b| a.union(b)).map_or(0.0, |b| b.area())
    };
    let turns = (0..hull.len()).map(turn);
    let least = turns.min_by(|a, b| area(a).total_cmp(&area(b)));
    least.unwrap_or_default()
}
