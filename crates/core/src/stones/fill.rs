//! Stones in a shape: none reaches over its edge.
//!
//! ```text
//!   rows  ● ● ●    hexagonal  ● ● ●    rings  ●●●●
//!         ● ● ●                ● ●           ● ●● ●
//! ```
//!
//! The densest of all is the hexagonal one, which covers π/√12 = 0.9069 of the plane (Fejes Tóth 1942).

use kurbo::Point;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};

use super::along::set;
use super::apart::Apart;
use super::{MOST, Stone, StoneChoice, TooMany};
use crate::offset::{Join, offset};
use crate::overlay::Rings;
use crate::shapes::Ring;

/// How stones lie in a shape.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Pattern {
    /// One above the other.
    Rows,
    /// Each row half a step on.
    #[default]
    Hexagonal,
    /// Along the outline, ring within ring.
    Rings,
}

/// Beginnings of a pattern that are tried, across and down.
const PHASES: usize = 8;
/// Chords of edges err by at most this, mm.
const TOLERANCE: f64 = 0.005;
/// Places of smaller stones are tried so finely, as a part of their size.
const FINE: f64 = 0.08;
/// A place is never tried again nearer than this, mm.
const LEAST_STEP: f64 = 1e-3;
/// Nearer than this to an edge counts as on it, mm.
const EPSILON: f64 = 1e-6;
/// Rows in which smaller stones are sought, of a square room so large.
const MOST_ROWS: f64 = 2_000_000.0;

/// Stones of all sizes in shapes: the first in the pattern, the others, in their order, where there is room left.
///
/// # Errors
/// [`TooMany`] would find room.
pub fn fill(
    shapes: &[Rings],
    choice: &StoneChoice,
    pattern: Pattern,
) -> Result<Vec<Stone>, TooMany> {
    let rings: Vec<&Ring> = shapes.iter().flat_map(Rings::all).collect();
    let mut apart = Apart::new(choice);
    for (size, across) in choice.sizes.iter().enumerate() {
        let room = offset(&rings, -across / 2.0, Join::Round);
        let area: f64 = room.iter().map(Rings::area).sum();
        let about = (area / (across + choice.gap).powi(2)) as usize;
        if about > MOST {
            return Err(TooMany(about));
        }
        let places = match (size, pattern) {
            (0, Pattern::Rings) => in_rings(&rings, *across, choice.gap),
            (0, _) => lattice(&room, *across + choice.gap, pattern),
            _ => {
                // Of little room every row is looked at, of much as many as there is time for.
                let step = (across * FINE).max((area / MOST_ROWS).sqrt());
                everywhere(&room, step, size, &mut apart);
                continue;
            }
        };
        for at in places {
            apart.take(Stone { at, size });
        }
    }
    Ok(apart.stones)
}

/// Places along the outline, and along it again a step farther in, as long as something is left.
fn in_rings(rings: &[&Ring], across: f64, gap: f64) -> Vec<Point> {
    let pitch = across + gap;
    let (mut first, mut others) = (Vec::new(), Vec::new());
    let mut room = offset(rings, -across / 2.0, Join::Round);
    while !room.is_empty() {
        let (mut kept, mut between) = (Vec::new(), Vec::new());
        for ring in room.iter().flat_map(Rings::all) {
            set(ring.segments(), true, pitch, (&mut kept, &mut between));
        }
        first.extend(kept);
        others.extend(between);
        // What is too narrow for another ring is no more; moving it inwards would cost by far the most.
        room.retain(|r| {
            let b = r.outer.bounds();
            b.width().min(b.height()) > 2.0 * pitch
        });
        let line: Vec<&Ring> = room.iter().flat_map(Rings::all).collect();
        room = offset(&line, -pitch, Join::Round);
    }
    first.into_iter().chain(others).collect()
}

/// The edges of a room, to be crossed by lines of equal height.
struct Edges {
    chords: Vec<(Point, Point)>,
    /// The least x.
    left: f64,
    /// The least and the greatest y; `None` of nothing.
    height: Option<(f64, f64)>,
}

impl Edges {
    fn of(room: &[Rings], turned: bool) -> Self {
        let mut all = Vec::new();
        for ring in room.iter().flat_map(Rings::all) {
            let mut points = ring.chords(TOLERANCE);
            if turned {
                points.iter_mut().for_each(|p| *p = Point::new(p.y, p.x));
            }
            all.extend(points.windows(2).map(|w| (w[0], w[1])));
        }
        let ends = |least: (f64, f64), v: f64| (least.0.min(v), least.1.max(v));
        let nothing = (f64::MAX, f64::MIN);
        let across = all.iter().fold(nothing, |m, (p, _)| ends(m, p.x));
        let down = all.iter().fold(nothing, |m, (p, _)| ends(m, p.y));
        Self {
            left: across.0,
            height: (!all.is_empty()).then_some(down),
            chords: all,
        }
    }

    /// From where to where a line lies inside, pair by pair; a line on the uppermost or lowest edge counts as within.
    fn at(&self, y: f64) -> Vec<f64> {
        let (least, most) = self.height.unwrap_or_default();
        let y = y.clamp(least + EPSILON, (most - EPSILON).max(least + EPSILON));
        let crossed = self.chords.iter().filter(|(p, q)| (p.y > y) != (q.y > y));
        let mut xs: Vec<f64> = crossed
            .map(|(p, q)| p.x + (q.x - p.x) * (y - p.y) / (q.y - p.y))
            .collect();
        xs.sort_by(f64::total_cmp);
        xs
    }
}

/// Places of a lattice: of all beginnings, upright and lying, the one with most.
fn lattice(room: &[Rings], pitch: f64, pattern: Pattern) -> Vec<Point> {
    let down = match pattern {
        Pattern::Hexagonal => pitch * 0.75_f64.sqrt(),
        Pattern::Rows | Pattern::Rings => pitch,
    };
    let shift = match pattern {
        Pattern::Hexagonal => pitch / 2.0,
        Pattern::Rows | Pattern::Rings => 0.0,
    };
    let turns: &[bool] = match pattern {
        Pattern::Hexagonal => &[false, true],
        Pattern::Rows | Pattern::Rings => &[false],
    };
    let edges: Vec<(bool, Edges)> = turns.iter().map(|&t| (t, Edges::of(room, t))).collect();
    let ways: Vec<(usize, usize, usize)> = (0..edges.len())
        .flat_map(|t| (0..PHASES).flat_map(move |i| (0..PHASES).map(move |k| (t, i, k))))
        .collect();
    let places = |&(t, i, k): &(usize, usize, usize)| -> Vec<Point> {
        let (turned, edges) = &edges[t];
        let Some((least, most)) = edges.height else {
            return Vec::new();
        };
        let top = least + down * k as f64 / PHASES as f64;
        let rows = ((most - top) / down + EPSILON).floor().max(-1.0) as i64 + 1;
        let mut all = Vec::new();
        for row in 0..rows.min(MOST as i64) {
            let y = top + row as f64 * down;
            let begin = edges.left
                + pitch * i as f64 / PHASES as f64
                + if row % 2 == 1 { shift } else { 0.0 };
            for span in edges.at(y).chunks_exact(2) {
                let first = ((span[0] - begin) / pitch - EPSILON).ceil() as i64;
                let last = ((span[1] - begin) / pitch + EPSILON).floor() as i64;
                for n in first..=last.min(first + MOST as i64) {
                    let x = begin + n as f64 * pitch;
                    all.push(if *turned {
                        Point::new(y, x)
                    } else {
                        Point::new(x, y)
                    });
                }
            }
        }
        all
    };
    let counted: Vec<usize> = ways.par_iter().map(|way| places(way).len()).collect();
    // Of equally many the first.
    let most = counted.iter().max();
    let best = counted.iter().position(|n| Some(n) == most);
    best.map(|n| places(&ways[n])).unwrap_or_default()
}

/// Takes stones of a size wherever there is room left, row by row, `step` mm apart, each as far to the left as it goes.
fn everywhere(room: &[Rings], step: f64, size: usize, apart: &mut Apart<'_>) {
    let edges = Edges::of(room, false);
    let Some((least, most)) = edges.height else {
        return;
    };
    let rows = ((most - least) / step).floor() as usize;
    for y in (0..=rows).map(|n| least + n as f64 * step) {
        for span in edges.at(y).chunks_exact(2) {
            let mut x = span[0];
            while x <= span[1] {
                let at = Point::new(x, y);
                x = match apart.blocked(Stone { at, size }) {
                    Some(beyond) => beyond.max(x + LEAST_STEP),
                    None => {
                        apart.take(Stone { at, size });
                        x + step
                    }
                };
            }
        }
    }
}
