//! A draft: the boundary as straight steps. What a control shows while it still moves over a picture whose edges are too
//! many to be fitted in time.

use rayon::prelude::*;

use super::{FittedEdge, FittedMap, Placement};
use crate::boundary::{Edge, PlanarMap};

/// One of so many points is kept: they lie about a pixel apart.
const STRIDE: usize = 4;
/// A closed edge keeps so many at the least.
const LEAST: usize = 6;

/// Every edge of `map` in straight steps; junctions stay where they are.
#[must_use]
pub fn draft(map: &PlanarMap, placement: Placement) -> FittedMap {
    FittedMap {
        edges: map.edges.par_iter().map(|e| steps(e, placement)).collect(),
    }
}

fn steps(edge: &Edge, placement: Placement) -> FittedEdge {
    let count = edge.points.len();
    let stride = STRIDE.min(count / LEAST).max(1);
    let kept = edge.points.iter().step_by(stride);
    let mut points: Vec<_> = kept.map(|&p| placement.place(p)).collect();
    let last = match edge.ends {
        Some(_) => edge.points.last(),
        None => edge.points.first(),
    };
    // The last may be kept already.
    if edge.ends.is_none() || (count > 0 && !(count - 1).is_multiple_of(stride)) {
        points.extend(last.map(|&p| placement.place(p)));
    }
    FittedEdge::straight(&points, count)
}
