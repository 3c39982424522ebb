//! Four-sided things that a photograph shows: a sheet of paper, a plate, a window, the border of a sign.

use kurbo::Point;
use rayon::prelude::*;

use crate::clean::square::regions::{Rough, regions};
use crate::clean::square::sides::{self, sides};
use crate::clean::square::{Quad, Seen, convex};
use crate::picture::Picture;

/// Rough ones whose sides are looked at.
const LOOKED_AT: usize = 32;
/// Least part of every side where there is an edge.
const SUPPORT: f64 = 0.6;
/// Things shown at most.
const SHOWN: usize = 6;
/// What stands out less than this part of the clearest is not shown.
const CLEAR: f64 = 0.25;
/// Corners so near are the same, as a part of the picture's diagonal.
const SAME: f64 = 0.006;

/// The four-sided things in a picture, the clearest first; none where nothing is clear.
#[must_use]
pub fn four_sided(picture: &Picture) -> Vec<Seen> {
    let found = clear(picture);
    let least = CLEAR * found.first().map_or(0.0, |f| f.0);
    let shown = found.into_iter().filter(|f| f.0 >= least).take(SHOWN);
    shown.map(|(_, seen)| seen).collect()
}

/// The same with the small and the faint ones, each once, with how clear it is.
#[must_use]
pub(crate) fn clear(picture: &Picture) -> Vec<(f64, Seen)> {
    let diagonal = f64::from(picture.width()).hypot(f64::from(picture.height()));
    let mut rough = regions(picture);
    rough.truncate(LOOKED_AT);
    let refined = |r: &Rough| -> Option<(f64, Seen)> {
        // Far enough for a lens that bends much, and near enough where something else lies beside the edge.
        let all = [r.reach, r.reach / 2.5].map(|reach| sides(picture, r.corners, reach));
        let all = all.into_iter().flatten();
        let found = all.max_by(|a, b| a.support.total_cmp(&b.support))?;
        let area = area(found.corners) / (f64::from(picture.width()) * f64::from(picture.height()));
        let sure =
            found.support >= SUPPORT && convex(found.corners) && inside(picture, found.corners);
        let value = found.support * (1.0 + (r.votes as f64).ln()) * area;
        sure.then_some((value, found))
    };
    let mut found: Vec<(f64, Seen)> = rough.par_iter().filter_map(refined).collect();
    found.sort_by(|a, b| b.0.total_cmp(&a.0));
    whole_before_part(&mut found, SAME * diagonal);
    let mut once: Vec<(f64, Seen)> = Vec::new();
    for (value, seen) in found {
        let same = |k: &Seen| {
            let near = |n: usize| (k.corners[n] - seen.corners[n]).hypot() < SAME * diagonal;
            (0..4).all(near)
        };
        if !once.iter().any(|(_, k)| same(k)) {
            once.push((value, seen));
        }
    }
    once
}

/// Pointed corners are drawn to edges so far away, as a part of the picture's diagonal.
const DRAWN: f64 = 0.015;

/// Four pointed corners drawn to the edges that they lie beside; `None` where a side has none.
#[must_use]
pub fn drawn_to_edges(picture: &Picture, corners: Quad) -> Option<Seen> {
    let reach = DRAWN * f64::from(picture.width()).hypot(f64::from(picture.height()));
    let found = sides(picture, corners, reach)?;
    let near = (0..4).all(|n| (found.corners[n] - corners[n]).hypot() < 2.0 * reach);
    (near && found.support >= SUPPORT && convex(found.corners)).then_some(found)
}

/// What the lens does, percent ([`crate::lens::Lens::new`]), seen in the edge from one place to another, which is straight
/// in truth. `None` where there is no edge beside them; nought where it is straight as far as can be seen.
#[must_use]
pub fn lens_along(picture: &Picture, ends: [Point; 2]) -> Option<f64> {
    /// How far a lens may have bent an edge, as a part of its length.
    const BENT: f64 = 0.06;
    sides::along(picture, ends, BENT * (ends[1] - ends[0]).hypot())
}

/// The places along the sides of something that was seen where its edge lies, px; `None` where a side has none.
#[must_use]
pub(crate) fn edges_of(picture: &Picture, seen: &Seen) -> Option<[Vec<Point>; 4]> {
    /// Nothing else lies so near to a side that was found, px.
    const BESIDE: f64 = 6.0;
    sides::edges(picture, seen, BESIDE)
}

/// What stands around something hardly smaller comes before it: of a sign with a border the sign is meant.
/// What lies within `same` px of it is the same thing.
fn whole_before_part(found: &mut [(f64, Seen)], same: f64) {
    const HARDLY: f64 = 2.0;
    for n in 1..found.len() {
        let (whole, size) = (found[n].1.corners, area(found[n].1.corners));
        let stands_around = |(_, part): &(f64, Seen)| {
            let other = (0..4).any(|n| (part.corners[n] - whole[n]).hypot() > same);
            let around = part.corners.iter().all(|&p| holds(whole, p));
            other && around && size < HARDLY * area(part.corners)
        };
        if let Some(first) = found[..n].iter().position(stands_around) {
            // It takes over how clear that is, so that it is shown wherever the other one is.
            found[n].0 = found[n].0.max(found[first].0);
            found[first..=n].rotate_right(1);
        }
    }
}

/// Whether a place lies within corners that stand around clockwise.
pub(crate) fn holds(corners: Quad, p: Point) -> bool {
    (0..4).all(|n| (corners[(n + 1) % 4] - corners[n]).cross(p - corners[n]) >= 0.0)
}

fn area(corners: Quad) -> f64 {
    let twice: f64 = (0..4)
        .map(|n| corners[n].to_vec2().cross(corners[(n + 1) % 4].to_vec2()))
        .sum();
    twice.abs() / 2.0
}

fn inside(picture: &Picture, corners: Quad) -> bool {
    let (w, h) = (f64::from(picture.width()), f64::from(picture.height()));
    let within = |p: Point| (-1.0..=w + 1.0).contains(&p.x) && (-1.0..=h + 1.0).contains(&p.y);
    corners.into_iter().all(within)
}
