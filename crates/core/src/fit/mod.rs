//! Fit: straight lines and smooth cubics along every boundary, within a tolerance.
//!
//! ```text
//!   boundary points ──corners──► runs between corners ──pieces──► lines, cubics
//!        · · ·                      corner restored to         each piece measured against
//!      ·       ·  ──►   ╱‾‾╲        where its sides meet       the points it stands for
//! ```
//!
//! In: a [`PlanarMap`] in px, a [`Placement`], [`FitSettings`] in mm. Out: a [`FittedMap`] in mm,
//! y down, one [`FittedEdge`] for each edge, so both neighbours of an edge share its curve.
//! Junctions stay where they are, and the picture's own border is kept exactly.
//!
//! *Guaranteed*: the greatest distance from a boundary point to its fitted edge is measured and
//! never above the tolerance. Boundary points within one pixel of a restored corner are
//! represented by that corner, since there the pixels have rounded off what was sharp.
//! Edges are fitted in parallel and collected in order, so the result is the same for any number
//! of threads.

mod corners;
mod pieces;
mod samples;

use kurbo::{Line, PathSeg, Point};
use rayon::prelude::*;

use crate::boundary::{Edge, OUTSIDE, PlanarMap};
use crate::stop::{Stop, Stopped};
use crate::units::Degrees;

/// Turn from which a bend is a corner, unless chosen otherwise.
pub const DEFAULT_CORNER: Degrees = Degrees::new(35.0);

/// From px of the picture to mm of the piece.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Placement {
    /// Millimetres in a pixel across.
    pub across: f64,
    /// Millimetres in a pixel down.
    pub down: f64,
}

impl Placement {
    /// The point of the piece where a point of the picture comes to lie.
    #[must_use]
    pub fn place(&self, p: Point) -> Point {
        Point::new(p.x * self.across, p.y * self.down)
    }

    /// Side of a square with the area of one pixel, mm.
    #[must_use]
    pub fn px(&self) -> f64 {
        (self.across * self.down).sqrt()
    }
}

/// What the fit holds to.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FitSettings {
    /// Guaranteed greatest deviation, mm.
    pub tolerance: f64,
    /// Turn from which a bend is a corner.
    pub corner: Degrees,
}

/// One edge of the map as curves.
#[derive(Clone, Debug)]
pub struct FittedEdge {
    /// Its pieces in order, end to end; a closed edge ends where it begins.
    pub segments: Vec<PathSeg>,
    /// Distance of every boundary point from the pieces, mm.
    pub deviation: Vec<f32>,
}

/// Every edge of a map as curves.
#[derive(Clone, Debug)]
pub struct FittedMap {
    /// By number of the edge.
    pub edges: Vec<FittedEdge>,
}

/// Fits every edge of `map`.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub fn fit(
    map: &PlanarMap,
    placement: Placement,
    settings: FitSettings,
    stop: &Stop,
) -> Result<FittedMap, Stopped> {
    let edges: Result<Vec<FittedEdge>, Stopped> = map
        .edges
        .par_iter()
        .map(|edge| {
            stop.check()?;
            Ok(fit_edge(edge, placement, settings))
        })
        .collect();
    Ok(FittedMap { edges: edges? })
}

fn fit_edge(edge: &Edge, placement: Placement, settings: FitSettings) -> FittedEdge {
    let points: Vec<Point> = edge.points.iter().map(|&p| placement.place(p)).collect();
    let closed = edge.ends.is_none();
    if edge.left.ink == OUTSIDE || edge.right.ink == OUTSIDE {
        return along_the_border(&points, closed);
    }
    let mut fitted = FittedEdge {
        segments: Vec::new(),
        deviation: Vec::new(),
    };
    for run in corners::runs(&points, closed, placement.px(), settings.corner) {
        pieces::fit_run(&run, settings.tolerance, &mut fitted);
    }
    fitted
}

/// The picture's own border, exactly: straight from corner to corner.
fn along_the_border(points: &[Point], closed: bool) -> FittedEdge {
    let n = points.len();
    let turns = |i: usize| {
        let (a, b, c) = (points[(i + n - 1) % n], points[i], points[(i + 1) % n]);
        (b - a).cross(c - b).abs() > 1e-12
    };
    let mut kept: Vec<Point> = (0..n)
        .filter(|&i| (!closed && (i == 0 || i == n - 1)) || turns(i))
        .map(|i| points[i])
        .collect();
    if closed {
        kept.extend(kept.first().copied());
    }
    let segments = kept
        .windows(2)
        .map(|p| PathSeg::Line(Line::new(p[0], p[1])))
        .collect();
    FittedEdge {
        segments,
        deviation: vec![0.0; n],
    }
}
