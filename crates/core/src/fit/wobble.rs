//! Wobble: how rough the edges between every two inks are, measured on all of them together.
//!
//! The fainter the contrast of two inks, the more noise and compression move their edges. A single
//! edge may be rougher than others of its inks, where a third ink that lies hidden under them shines
//! through.

use std::collections::BTreeMap;

use kurbo::Point;
use rayon::prelude::*;

use crate::boundary::{Edge, OUTSIDE, PlanarMap};
use crate::fit::track::Track;
use crate::fit::{FitSettings, Placement, smooth};

/// The two inks of an edge, the smaller number first.
pub(super) fn pair(edge: &Edge) -> (u8, u8) {
    let (l, r) = (edge.left.ink, edge.right.ink);
    (l.min(r), l.max(r))
}

/// Typical wobble of every edge, mm: that of all edges between its two inks, or its own where it is
/// long enough to show that it is rougher; nothing where nothing is smoothed.
pub(super) fn wobbles(
    map: &PlanarMap,
    tracks: &[Vec<Point>],
    placement: Placement,
    settings: FitSettings,
) -> Vec<f64> {
    if settings.smooth <= 0.0 {
        return vec![0.0; map.edges.len()];
    }
    let px = placement.px();
    let found: Vec<(Vec<f64>, f64)> = map
        .edges
        .par_iter()
        .zip(tracks)
        .map(|(edge, points)| {
            if pair(edge).1 == OUTSIDE {
                return (Vec::new(), 0.0);
            }
            let track = Track::new(points, edge.ends.is_none());
            let wide = track.wobbles(MEASURED_PX * px);
            let measured = smooth::typical(wide.clone());
            let kept = if points.len() >= LONG && measured > smooth::LEAST_WOBBLE_PX * px {
                let narrow = track.wobbles(NARROW_PX * px);
                // Small forms stray from a wide parabola, but not from a narrow one; noise from both.
                measured.min(ALIKE * smooth::typical(narrow))
            } else {
                0.0
            };
            (wide, kept)
        })
        .collect();
    let mut by_pair: BTreeMap<(u8, u8), Vec<f64>> = BTreeMap::new();
    for (edge, (wide, _)) in map.edges.iter().zip(&found) {
        by_pair.entry(pair(edge)).or_default().extend(wide);
    }
    let typical: BTreeMap<(u8, u8), f64> = by_pair
        .into_iter()
        .map(|(pair, found)| (pair, smooth::typical(found)))
        .collect();
    let edges = map.edges.iter().zip(found);
    edges
        .map(|(edge, (_, measured))| measured.max(typical.get(&pair(edge)).copied().unwrap_or(0.0)))
        .collect()
}

/// Half the surroundings over which wobble is measured, px.
pub(super) const MEASURED_PX: f64 = 6.0;
/// The same to tell wobble from small forms, px.
const NARROW_PX: f64 = 3.5;
/// Noise shows at most this many times as much over wide surroundings as over narrow ones.
const ALIKE: f64 = 1.2;
/// Points of an edge that show how rough it is by itself.
const LONG: usize = 40;
