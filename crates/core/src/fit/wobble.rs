//! Wobble: how rough the edges between every two inks are, measured on all of them together.
//!
//! The fainter the contrast of two inks, the more noise and compression move their edges.

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

/// Typical wobble of the edges between every two inks, mm; nothing where nothing is smoothed.
pub(super) fn wobbles(
    map: &PlanarMap,
    tracks: &[Vec<Point>],
    placement: Placement,
    settings: FitSettings,
) -> BTreeMap<(u8, u8), f64> {
    if settings.smooth <= 0.0 {
        return BTreeMap::new();
    }
    let found: Vec<Vec<f64>> = map
        .edges
        .par_iter()
        .zip(tracks)
        .map(|(edge, points)| {
            let mut found = Vec::new();
            if pair(edge).1 != OUTSIDE {
                Track::new(points, edge.ends.is_none()).wobbles(placement.px(), &mut found);
            }
            found
        })
        .collect();
    let mut by_pair: BTreeMap<(u8, u8), Vec<f64>> = BTreeMap::new();
    for (edge, own) in map.edges.iter().zip(found) {
        by_pair.entry(pair(edge)).or_default().extend(own);
    }
    by_pair
        .into_iter()
        .map(|(pair, found)| (pair, smooth::typical(found)))
        .collect()
}
