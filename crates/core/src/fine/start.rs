//! Start: how much full ink shows and how soft the picture is, tried on its busiest part.
//!
//! Either can stand for the other a little: lighter ink in wider strokes looks much like darker ink
//! in narrower ones, blurred. From a bad start the descent stays with the wrong one. So a few pairs
//! are tried on a small part, and the one that explains it best with the least seam goes on.

use rayon::prelude::*;

use crate::fine::phase::{self, Given};
use crate::fine::plane::Plane;
use crate::stop::{Stop, Stopped};

/// Side of the part that is tried on, px, and its fine steps in a pixel.
const SIDE: usize = 64;
const SCALE: usize = 3;
/// Rounds of each trial.
const ROUNDS: usize = 24;
/// Softness tried, px.
const SPREADS: [f64; 5] = [0.0, 0.5, 0.9, 1.4, 2.0];
/// Amounts tried, as parts of the way from what the darkest pixels show to the most there can be.
const TOWARDS: [f64; 3] = [0.0, 0.5, 1.0];

/// How much more an ink costs that is lighter than the most there can be, by its part.
const LIGHTER: f64 = 1.0;

/// What is given, with the amount and the spread that explain the busiest part best.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(super) fn best(seen: &Plane, given: Given, stop: &Stop) -> Result<Given, Stopped> {
    let part = busiest(seen);
    let pairs = SPREADS
        .iter()
        .flat_map(|&spread| TOWARDS.map(|part| (spread, part)));
    let trials: Vec<Given> = pairs
        .map(|(spread, part)| Given {
            scale: SCALE,
            rounds: ROUNDS,
            free: true,
            amount: given.amount + part * (given.most - given.amount),
            spread,
            ..given
        })
        .collect();
    let found: Result<Vec<phase::Solved>, Stopped> = trials
        .into_par_iter()
        .map(|trial| phase::solve(&part, trial, stop))
        .collect();
    // Lighter ink in wider strokes has less seam for the same area: it needs to explain more.
    let cost = |solved: &phase::Solved| {
        solved.energy * (1.0 + LIGHTER * (1.0 - solved.amount / given.most))
    };
    let best = found?
        .into_iter()
        .min_by(|a, b| cost(a).total_cmp(&cost(b)));
    Ok(best.map_or(given, |best| Given {
        amount: best.amount,
        spread: best.spread,
        ..given
    }))
}

/// The part of a picture in which what is seen changes most.
fn busiest(seen: &Plane) -> Plane {
    let (w, h) = (seen.width.min(SIDE), seen.height.min(SIDE));
    let step = SIDE / 2;
    let starts = |all: usize, tile: usize| (0..=all - tile).step_by(step);
    let change = |x0: usize, y0: usize| -> f32 {
        (y0..y0 + h)
            .map(|y| {
                let row = &seen.row(y)[x0..x0 + w];
                row.windows(2).map(|p| (p[1] - p[0]).abs()).sum::<f32>()
            })
            .sum()
    };
    let mut best = (-1.0, 0, 0);
    for y in starts(seen.height, h) {
        for x in starts(seen.width, w) {
            let found = change(x, y);
            if found > best.0 {
                best = (found, x, y);
            }
        }
    }
    let (_, x, y) = best;
    let rows = y..y + h;
    Plane {
        width: w,
        height: h,
        values: rows
            .flat_map(|y| seen.row(y)[x..x + w].iter().copied())
            .collect(),
    }
}
