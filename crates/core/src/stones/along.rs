//! Stones along a line: one at its start, its end and each corner, the others as evenly between them as chords allow.
//!
//! ```text
//!   ●──●──●──●        the same distance from stone to stone on each stretch, found by halving: after n steps of
//!            │        it the end is reached
//!            ●
//! ```

use kurbo::Point;

use super::apart::Apart;
use super::{MOST, Stone, StoneChoice, TooMany};
use crate::segment::Segment;

/// A turn from which a place is a corner, degrees.
const CORNER: f64 = 30.0;
/// Chords of a line err by at most this, mm.
const TOLERANCE: f64 = 0.002;
/// Halvings of a distance.
const HALVINGS: usize = 50;

/// Stones of the first size along lines, each with whether it ends where it begins. Those at starts, ends and corners
/// come first, and what would lie over another one is left out.
///
/// # Errors
/// [`TooMany`] would find room.
pub fn along(lines: &[(&[Segment], bool)], choice: &StoneChoice) -> Result<Vec<Stone>, TooMany> {
    let (mut first, mut others) = (Vec::new(), Vec::new());
    let pitch = choice.sizes.first().copied().unwrap_or_default() + choice.gap;
    let length = lines.iter().flat_map(|(line, _)| line.iter());
    let about = (length.map(Segment::length).sum::<f64>() / pitch) as usize;
    if about > MOST {
        return Err(TooMany(about));
    }
    for &(segments, closed) in lines {
        set(segments, closed, pitch, (&mut first, &mut others));
    }
    let mut apart = Apart::new(choice);
    for at in first.into_iter().chain(others) {
        apart.take(Stone { at, size: 0 });
    }
    Ok(apart.stones)
}

/// The places of one line: those that are kept, and those between them.
pub(super) fn set(
    segments: &[Segment],
    closed: bool,
    pitch: f64,
    (first, others): (&mut Vec<Point>, &mut Vec<Point>),
) {
    for stretch in stretches(segments, closed) {
        let (Some(&start), Some(&end)) = (stretch.first(), stretch.last()) else {
            continue;
        };
        first.push(start);
        if start.distance(end) > 1e-9 {
            first.push(end);
        }
        others.extend(between(&stretch, pitch));
    }
}

/// A line from corner to corner as chords.
fn stretches(segments: &[Segment], closed: bool) -> Vec<Vec<Point>> {
    let n = segments.len();
    let bends = |i: usize| {
        let (a, b) = (
            segments[i].tangent(true),
            segments[(i + 1) % n].tangent(false),
        );
        a.cross(b).atan2(a.dot(b)).abs().to_degrees() > CORNER
    };
    let corners: Vec<usize> = (0..n)
        .filter(|&i| (closed || i + 1 < n) && bends(i))
        .collect();
    // A closed line begins at a corner where it has one.
    let begin = match (closed, corners.last()) {
        (true, Some(&last)) => last + 1,
        _ => 0,
    };
    let mut all: Vec<Vec<Point>> = Vec::new();
    for k in 0..n {
        let i = (begin + k) % n;
        let new = k == 0 || corners.contains(&((i + n - 1) % n));
        if new {
            all.push(vec![segments[i].start()]);
        }
        if let Some(points) = all.last_mut() {
            segments[i].flatten(TOLERANCE, points);
        }
    }
    all
}

/// Places between the ends of a stretch, its ends left out: as many as fit `pitch` mm apart or more, all equally far
/// from their neighbours.
fn between(stretch: &[Point], pitch: f64) -> Vec<Point> {
    let length: f64 = stretch.windows(2).map(|w| w[0].distance(w[1])).sum();
    let most = (length / pitch + 1e-9).floor() as usize;
    for steps in (2..=most.min(200_000)).rev() {
        let (mut low, mut high) = (0.0, length / steps as f64 * (1.0 + 1e-9));
        for _ in 0..HALVINGS {
            let middle = (low + high) / 2.0;
            match walked(stretch, middle, steps) {
                Some(_) => low = middle,
                None => high = middle,
            }
        }
        if low < pitch - 1e-6 {
            // A bend makes chords shorter than the line: one step fewer.
            continue;
        }
        let mut places = walked(stretch, low, steps).unwrap_or_default();
        places.pop();
        return places;
    }
    Vec::new()
}

/// The places after each of so many steps of a distance; `None` where the stretch ends before.
fn walked(stretch: &[Point], distance: f64, steps: usize) -> Option<Vec<Point>> {
    let mut places = Vec::with_capacity(steps);
    let mut at = *stretch.first()?;
    let mut chord = 0;
    let mut from = 0.0;
    for _ in 0..steps {
        loop {
            let (&p, &q) = (stretch.get(chord)?, stretch.get(chord + 1)?);
            if let Some(t) = leaves(at, distance, (p, q), from) {
                at = p.lerp(q, t);
                from = t;
                break;
            }
            chord += 1;
            from = 0.0;
        }
        places.push(at);
    }
    Some(places)
}

/// Where a chord leaves a circle around a place, after `from` of it.
fn leaves(middle: Point, radius: f64, (p, q): (Point, Point), from: f64) -> Option<f64> {
    let (way, off) = (q - p, p - middle);
    let (a, b, c) = (way.hypot2(), off.dot(way), off.hypot2() - radius * radius);
    if a <= 0.0 {
        return None;
    }
    let root = (b * b - a * c).max(0.0).sqrt();
    let t = (root - b) / a;
    (b * b >= a * c && t >= from && t <= 1.0).then_some(t)
}
