//! A draft: the boundary as straight steps, as few as stay within a part of a pixel. What a control shows while it still
//! moves over a picture whose edges are too many to be fitted in time.

use rayon::prelude::*;

use super::{FittedEdge, FittedMap, Placement};
use crate::boundary::PlanarMap;
use crate::polyline;

/// How far steps may lie off the boundary, px.
const WITHIN: f64 = 0.2;

/// Every edge of `map` in straight steps; junctions stay where they are.
#[must_use]
pub fn draft(map: &PlanarMap, placement: Placement) -> FittedMap {
    let steps = |edge: &crate::boundary::Edge| {
        let mut points: Vec<_> = edge.points.iter().map(|&p| placement.place(p)).collect();
        if edge.ends.is_none() {
            points.extend(points.first().copied());
        }
        let few = polyline::thinned(&points, WITHIN * placement.step());
        FittedEdge::straight(&few, edge.points.len())
    };
    FittedMap {
        edges: map.edges.par_iter().map(steps).collect(),
    }
}
