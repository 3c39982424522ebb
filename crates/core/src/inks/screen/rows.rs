//! Rows: each as wide as its place is dark; what is thinner than can be made is broken into dashes.

use super::{Narrowest, Spot};

/// From one dash to the next, pitches.
const DASHES: f64 = 2.5;

/// How far a place lies inside a row, pitches; below nought outside.
pub(super) fn inside(spot: Spot, narrowest: Narrowest) -> f64 {
    let row = spot.across.floor();
    let off = (spot.across - row - 0.5).abs();
    // Dashes of one row lie beside the gaps of the next.
    let along = spot.along / DASHES + if row as i64 & 1 == 0 { 0.0 } else { 0.5 };
    let along = (along - along.floor() - 0.5).abs() * DASHES;
    // A row so narrow, or a gap, with so much of its length left out.
    let dash = |dark: f64, least: f64, off: f64| {
        let length = DASHES * dark / least;
        (least / 2.0 - off).min(length / 2.0 - along)
    };
    if spot.dark < narrowest.stroke {
        dash(spot.dark, narrowest.stroke, off)
    } else if 1.0 - spot.dark < narrowest.gap {
        -dash(1.0 - spot.dark, narrowest.gap, 0.5 - off)
    } else {
        spot.dark / 2.0 - off
    }
}
