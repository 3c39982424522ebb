//! Boundaries: one planar map of the whole solid picture.
//!
//! Labels sit on pixel centres; boundaries run on the dual grid, between centres. Where two
//! neighbouring centres differ, the boundary crosses the link between them exactly once. Every
//! edge is stored once, with the ink on its left and on its right, so both neighbours get the same
//! curve, and faces close by construction.
//!
//! ```text
//!   A   A │ B      A, B, C: labels at pixel centres; a 2 × 2 block of centres is one cell.
//!         ×        ×: crossing, placed between the centres by the edge field.
//!   A   A J×─B     J: junction, where a block holds three crossings or more.
//!      ───×        The edge that leaves J to the right has B on its left and C on its right
//!   C   C   C      (left and right as seen walking along it).
//! ```
//!
//! Outside the picture lies the label [`OUTSIDE`]; the boundary towards it runs exactly along the
//! picture's border. Where two inks touch only across a corner of four pixels, one rule decides
//! which of them holds together: [`blocks::Block`].
//!
//! In: a [`Solid`], the smallest part in px². Out: a [`PlanarMap`] in px, y down, (0, 0) the
//! picture's top left corner. O(pixels). Not here: smoothing, corners, curves (`fit`).
//! Source: the dual grid is that of Lorensen & Cline 1987 in two dimensions (marching squares);
//! several inks at once with shared edges is our own.

pub mod blocks;
mod crossing;
mod junctions;
mod merge;
mod runs;
mod specks;
mod walk;

use kurbo::Point;

use crate::inks::Solid;
use crate::limits;
use crate::stop::{Stop, Stopped};

/// The label of everything outside the picture.
pub const OUTSIDE: u8 = 255;

/// Number of a connected region of one ink; `u32::MAX` outside the picture.
pub type RegionId = u32;

/// What lies on one side of an edge.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Side {
    /// The ink, or [`OUTSIDE`].
    pub ink: u8,
    /// The region of it.
    pub region: RegionId,
}

/// One stretch of boundary between two junctions, or a whole closed one.
#[derive(Clone, Debug)]
pub struct Edge {
    /// Sub-pixel points, px. A closed edge does not repeat its first point.
    pub points: Vec<Point>,
    /// Points that connect but say little about where the edge is; the fit leaves them out.
    pub weak: Vec<bool>,
    /// What lies on the left, walking along the points (y down).
    pub left: Side,
    /// What lies on the right.
    pub right: Side,
    /// Junctions at both ends; `None` for a closed edge.
    pub ends: Option<[usize; 2]>,
}

/// An edge as it leaves a junction.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct HalfEdge {
    /// Number of the edge.
    pub edge: usize,
    /// Whether it leaves by its last point.
    pub reversed: bool,
}

/// A point where three or more edges meet.
#[derive(Clone, Debug)]
pub struct Junction {
    /// Where, px.
    pub point: Point,
    /// The edges that leave it, clockwise as seen on the screen.
    pub leaving: Vec<HalfEdge>,
}

/// All boundaries of a solid picture.
///
/// # Guarantees
/// Every edge is stored once; for every region the edges beside it chain into closed rings.
#[derive(Clone, Debug)]
pub struct PlanarMap {
    /// Picture width, px.
    pub width: u32,
    /// Picture height, px.
    pub height: u32,
    /// The edges, in the order found from the top left.
    pub edges: Vec<Edge>,
    /// The junctions, in reading order.
    pub junctions: Vec<Junction>,
    /// Pixels of every ink after specks were merged.
    pub ink_px: Vec<u64>,
    /// Specks merged into a neighbour.
    pub specks: usize,
}

/// The solid picture after specks were merged, with the map of its boundaries.
#[derive(Clone, Debug)]
pub struct Bounded {
    /// Ink of every pixel, specks merged.
    pub labels: Vec<u8>,
    /// The boundaries.
    pub map: PlanarMap,
    /// Edge points for each hundred pixels where the picture is hardly anything but edges, noise
    /// or fine texture: then nothing is mapped.
    pub too_fine: Option<u64>,
}

/// Merges parts smaller than `min_part_px` (px²) and maps the boundaries of what is left.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub fn map(solid: &Solid, min_part_px: f64, stop: &Stop) -> Result<Bounded, Stopped> {
    let mut labels = solid.labels.clone();
    let (runs, specks) = specks::merged(solid, &mut labels, min_part_px, stop)?;
    stop.check()?;
    let points = runs.edge_points(solid.height as usize);
    let percent = points * 100 / labels.len() as u64;
    let too_fine = points > limits::EDGE_POINTS && percent > limits::EDGE_PERCENT;
    let (mut edges, mut junctions) = if too_fine {
        (Vec::new(), Vec::new())
    } else {
        walk::edges(solid, &labels, &runs, stop)?
    };
    junctions::place(&mut edges, &mut junctions, solid.edge_width);
    let mut ink_px = vec![0; solid.inks.len()];
    for (&ink, &px) in runs.inks.iter().zip(&runs.px) {
        ink_px[usize::from(ink)] += px;
    }
    let map = PlanarMap {
        width: solid.width,
        height: solid.height,
        edges,
        junctions,
        ink_px,
        specks,
    };
    Ok(Bounded {
        labels,
        map,
        too_fine: too_fine.then_some(percent),
    })
}
