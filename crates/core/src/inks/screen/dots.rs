//! Dots: round where they are small, a chequerboard at half, and round gaps between where it is darker still.
//!
//! The spot function is (cos 2πu + cos 2πv) / 2: what lies above a level of it has the area that is wanted.

use std::f64::consts::{PI, TAU};
use std::sync::LazyLock;

use super::{Narrowest, Spot};

/// Levels for areas from nought to one.
const STEPS: usize = 256;

/// The level of the spot function above which lies each part of the area, from none to all.
static LEVELS: LazyLock<[f64; STEPS + 1]> = LazyLock::new(|| {
    const FINE: usize = 400;
    let at = |k: usize| ((k as f64 + 0.5) / FINE as f64 * TAU).cos();
    let mut all: Vec<f64> = (0..FINE * FINE)
        .map(|i| (at(i % FINE) + at(i / FINE)) / 2.0)
        .collect();
    all.sort_unstable_by(|a, b| b.total_cmp(a));
    std::array::from_fn(|k| match k {
        0 => 1.0,
        k => all[(k * all.len() / STEPS).min(all.len()) - 1],
    })
});

/// In which order of every sixteen small dots are left out, Bayer 1973, "An optimum method for two-level rendition of
/// continuous-tone pictures".
const ORDER: [[f64; 4]; 4] = [
    [0.0, 8.0, 2.0, 10.0],
    [12.0, 4.0, 14.0, 6.0],
    [3.0, 11.0, 1.0, 9.0],
    [15.0, 7.0, 13.0, 5.0],
];

/// How far a place lies inside a dot, pitches; below nought outside.
pub(super) fn inside(spot: Spot, narrowest: Narrowest) -> f64 {
    let dot = |width: f64| PI / 4.0 * width * width;
    let (least, gap) = (dot(narrowest.stroke), dot(narrowest.gap));
    // Dots have their middles at whole places, gaps between them at halves.
    let shown = |part: f64, least: f64, shift: f64| {
        let cell = |v: f64| ((v - shift).round() as i64).rem_euclid(4) as usize;
        let rank = (ORDER[cell(spot.across)][cell(spot.along)] + 0.5) / 16.0;
        if part > rank * least { least } else { 0.0 }
    };
    let dark = if spot.dark < least {
        shown(spot.dark, least, 0.0)
    } else if 1.0 - spot.dark < gap {
        1.0 - shown(1.0 - spot.dark, gap, 0.5)
    } else {
        spot.dark
    };
    let at = dark.clamp(0.0, 1.0) * STEPS as f64;
    let k = (at as usize).min(STEPS - 1);
    let level = LEVELS[k] + (LEVELS[k + 1] - LEVELS[k]) * (at - k as f64);
    let (u, v) = (TAU * spot.along, TAU * spot.across);
    let steep = PI * u.sin().hypot(v.sin());
    let off = ((u.cos() + v.cos()) / 2.0 - level) / steep.max(0.6);
    // Where there is no dot at all, its middle is no edge either.
    if dark <= 0.0 {
        off.min(-0.5)
    } else if dark >= 1.0 {
        off.max(0.5)
    } else {
        off
    }
}
