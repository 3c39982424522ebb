//! Offcut: a piece of stock as a photograph shows it beside a sheet of paper whose size is known.
//!
//! ```text
//!   ╭───────────╮
//!   │  plate  ○ │  ┌────┐        the sheet tells lens, place and focal length of the camera; what differs
//!   │           │  │ A4 │  ──►   from the table is traced, and its outline laid onto the sheet's plane, mm
//!   ╰─────╮     │  └────┘
//!         ╰─────╯
//! ```
//!
//! Straight edges of the piece itself tell the lens too. The outline is traced in the photograph as it is, and its places
//! are moved one by one: nothing is resampled in between.

mod apart;
mod lines;
mod pose;
mod sheet;

use kurbo::{Affine, Point, Rect, Vec2};
use rayon::prelude::*;

use crate::clean::resample::sample;
use crate::clean::square::{Quad, Seen, clockwise, drawn_to_edges, edges_of};
use crate::inks::InkMode;
use crate::least_squares::line_through;
use crate::lens::Lens;
use crate::picture::Picture;
use crate::recipe::Recipe;
use crate::shapes::{Ring, Shape};
use crate::size::Size;
use crate::stock::{Shaped, shaped};
use crate::stop::Stop;
use crate::trace::{TraceError, trace};

use apart::{Apart, apart};
use lines::{places, straight, upright};
use pose::{Pose, Views};

/// Why a photograph tells no piece of stock.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum OffcutError {
    /// Nothing in it is a sheet.
    #[error(
        "no sheet of that size is seen in this photograph; lay it beside the piece, whole and without a shadow across it, or point at its four corners"
    )]
    NoSheet,
    /// More than one.
    #[error(
        "two sheets are seen in this photograph; point at the four corners of the one that is meant"
    )]
    Sheets,
    /// Pointed corners that no camera sees.
    #[error("these are not the corners of a sheet of that size; point at each of its four corners")]
    NotTheSheet,
    /// Nothing but the sheet.
    #[error(
        "nothing stands out from the table but the sheet; lay the piece on something lighter or darker than it is"
    )]
    Nothing,
    /// Part of it is not in the picture.
    #[error("the piece reaches out of the picture; step back until all of it is seen")]
    CutOff,
    /// The sheet lies over the edge of the piece.
    #[error(
        "the sheet lies across an edge; lay it beside the piece, or on it with all of its sides"
    )]
    Across,
    /// What is seen is larger or smaller than stock is.
    #[error("what was found is no piece of stock: {0}")]
    NoStock(crate::limits::OutOfRange),
    /// The tracer's own.
    #[error(transparent)]
    Trace(#[from] TraceError),
}

/// A piece of stock that was found.
#[derive(Clone, Debug, PartialEq)]
pub struct Offcut {
    /// Its outline and holes, mm from the corner of its box.
    pub shaped: Shaped,
    /// How far its outline may be off anywhere, mm: twice the standard deviation.
    pub off: f64,
    /// The sheet's corners in the photograph, px.
    pub sheet: Quad,
    /// Its picture, which fills its box.
    pub picture: Picture,
}

/// Pixels of the photograph that are looked at.
const ENOUGH: u64 = 6_000_000;
/// Pixels of its picture at most, and what lies beyond the photograph.
const PICTURE: f64 = 1_500_000.0;
const BEYOND: [u8; 4] = [255; 4];
/// Least width of a hole that is told from a speck, mm.
const LEAST_HOLE: f64 = 3.0;
/// Lines of an outline leave out what errs by less, mm.
const TOLERANCE: f64 = 0.08;
/// Edges of the piece that tell the lens are at least so long, as a part of the picture's diagonal, and lie within so
/// many px of a line once the lens is known.
const LONG: f64 = 0.1;
const STRAIGHT: f64 = 0.35;
/// They say the same as the sheet where no more than so many times as much is left over, which may be little.
const AGREE: f64 = 2.0;
const LITTLE: f64 = 0.15;
/// How far places may be off is asked of one in so many.
const SOME: usize = 16;

/// The piece of stock beside a sheet with these sides, mm. `corners` are the sheet's where somebody pointed at them, px;
/// `focal` is the focal length that the file states, in parts of half the picture's diagonal.
///
/// # Errors
/// [`OffcutError`].
pub fn offcut(
    photograph: &Picture,
    sides: [f64; 2],
    corners: Option<Quad>,
    focal: Option<f64>,
    stop: &Stop,
) -> Result<Offcut, OffcutError> {
    let picture = photograph.reduced(ENOUGH);
    let scale = f64::from(picture.width()) / f64::from(photograph.width());
    let seen = match corners {
        Some(pointed) => at_corners(&picture, pointed.map(|p| (p.to_vec2() * scale).to_point()))?,
        None => sheet::sheet(&picture, sides, focal)?,
    };
    let grey = match apart(&picture, seen.corners) {
        Apart::Piece(grey) => grey,
        Apart::Nothing => return Err(OffcutError::Nothing),
        Apart::Across => return Err(OffcutError::Across),
    };
    let shape = piece(&grey, stop)?;
    let pose = pose(&picture, &seen, sides, focal, &shape.outer).ok_or(OffcutError::NotTheSheet)?;
    let laid = |ring: &Ring| -> Option<Vec<Point>> {
        places(ring).into_iter().map(|p| pose.at(p)).collect()
    };
    let outer = laid(&shape.outer).ok_or(OffcutError::NotTheSheet)?;
    let holes = shape.holes.iter().filter_map(laid);
    let turn = upright(&outer);
    let line = |places: &[Point]| -> shaped::Line {
        let kept = lines::corners(places, TOLERANCE).into_iter();
        kept.map(|p| turn * p).map(|p| [p.x, p.y]).collect()
    };
    let wide = |line: &shaped::Line| (shaped::area(line) * 4.0 / std::f64::consts::PI).sqrt();
    let holes = holes.map(|h| line(&h)).filter(|h| wide(h) >= LEAST_HOLE);
    let found = Shaped {
        outer: line(&outer),
        holes: holes.collect(),
        picture: None,
    };
    let onto = Affine::translate(-found.bounds().origin().to_vec2()) * turn;
    let shaped = found.to_corner();
    shaped.check().map_err(OffcutError::NoStock)?;
    let off = places(&shape.outer)
        .into_iter()
        .step_by(SOME)
        .map(|p| pose.off(p));
    Ok(Offcut {
        off: 2.0 * off.fold(0.0, f64::max),
        picture: seen_from_above(&picture, &pose, onto, shaped.bounds()).unwrap_or(picture),
        shaped,
        sheet: seen.corners.map(|p| (p.to_vec2() / scale).to_point()),
    })
}

/// The sheet at whose corners somebody pointed, drawn to its edges where there are some.
fn at_corners(picture: &Picture, pointed: Quad) -> Result<Seen, OffcutError> {
    let corners = clockwise(pointed);
    let inside = Rect::new(
        0.0,
        0.0,
        f64::from(picture.width()),
        f64::from(picture.height()),
    );
    if !corners.iter().all(|p| inside.contains(*p)) {
        return Err(OffcutError::NotTheSheet);
    }
    drawn_to_edges(picture, corners).ok_or(OffcutError::NotTheSheet)
}

/// The largest thing in the picture that is dark on white.
fn piece(grey: &Picture, stop: &Stop) -> Result<Shape, OffcutError> {
    let (w, h) = (grey.width(), grey.height());
    // One mm for each px: the tracer's places are those of the picture.
    let recipe = Recipe::automatic(Size::at_ppi(w, h, 25.4)).parted(InkMode::Mono {
        threshold: Some(50.0),
        above: None,
        invert: false,
        local: false,
    });
    let traced = trace(grey, &recipe, stop, &mut |_| ())?;
    let shapes = traced.design.shapes.into_iter();
    let largest = shapes.max_by(|a, b| a.outer.signed_area().total_cmp(&b.outer.signed_area()));
    let found = largest.ok_or(OffcutError::Nothing)?;
    let page = Rect::new(0.0, 0.0, f64::from(w), f64::from(h));
    let b = found.outer.bounds();
    let whole = page.inset(-1.5);
    if b.area() < page.area() / 400.0 {
        return Err(OffcutError::Nothing);
    }
    (whole.union(b) == whole)
        .then_some(found)
        .ok_or(OffcutError::CutOff)
}

/// The camera that took the picture, told by the sheet and by the piece's straight edges.
fn pose(
    picture: &Picture,
    seen: &Seen,
    [a, b]: [f64; 2],
    focal: Option<f64>,
    outer: &Ring,
) -> Option<Pose> {
    let size = (picture.width(), picture.height());
    let diagonal = f64::from(size.0).hypot(f64::from(size.1));
    let along = edges_of(picture, seen)?;
    let of = |sheet: [f64; 2], straight: &[Vec<Point>]| {
        let views = Views {
            size,
            sheet,
            corners: seen.corners,
            sides: &along,
            straight,
            focal,
        };
        Pose::of(&views, seen.lens)
    };
    // Seen at an angle the longer side may look the shorter: the way that fits better.
    let both = [[a, b], [b, a]].into_iter();
    let both = both.filter_map(|sheet| Some((of(sheet, &[])?, sheet)));
    let (first, sheet) = both.min_by(|p, q| p.0.misfit().total_cmp(&q.0.misfit()))?;
    let mut straight = straight(outer, &Lens::new(size, seen.lens), LONG * diagonal);
    while !straight.is_empty() {
        let found = of(sheet, &straight)?;
        // An edge that is not straight even so was not straight in truth.
        let lens = Lens::new(size, found.lens());
        let all = straight.len();
        straight.retain(|edge| bent(edge, &lens) < STRAIGHT);
        if straight.len() == all {
            let agree = found.misfit() < AGREE * first.misfit().max(LITTLE);
            return Some(if agree { found } else { first });
        }
    }
    Some(first)
}

/// How far places lie from the one line through them, root of the mean square, px.
fn bent(edge: &[Point], lens: &Lens) -> f64 {
    let at: Vec<Point> = edge.iter().map(|&p| lens.straight(p)).collect();
    let Some((p, along)) = line_through(&at) else {
        return 0.0;
    };
    let square: f64 = at.iter().map(|&q| along.cross(q - p).powi(2)).sum();
    (square / at.len() as f64).sqrt()
}

/// The piece's picture as if seen from straight above, filling its box. `onto` leads from the sheet's plane to it, mm.
fn seen_from_above(picture: &Picture, pose: &Pose, onto: Affine, b: Rect) -> Option<Picture> {
    let back = onto.inverse();
    let seen = |x: f64, y: f64| pose.seen(back * Point::new(x, y));
    // As many pixels as the photograph has there, but not too many.
    let corners = [
        seen(0.0, 0.0),
        seen(b.x1, 0.0),
        seen(b.x1, b.y1),
        seen(0.0, b.y1),
    ];
    let [p, q, r, s] = corners;
    let sides = [
        (p - q).hypot(),
        (r - s).hypot(),
        (p - s).hypot(),
        (q - r).hypot(),
    ];
    let px_per_mm = sides.iter().sum::<f64>() / (2.0 * (b.width() + b.height()));
    let scale = px_per_mm.min((PICTURE / b.area().max(1.0)).sqrt());
    let side = |mm: f64| ((mm * scale).round() as u32).max(1);
    let (w, h) = (side(b.width()), side(b.height()));
    let step = Vec2::new(b.width() / f64::from(w), b.height() / f64::from(h));
    let pixel = |i: u32| {
        let (x, y) = (f64::from(i % w) + 0.5, f64::from(i / w) + 0.5);
        sample(picture, seen(x * step.x, y * step.y), BEYOND).unwrap_or(BEYOND)
    };
    Picture::new(w, h, (0..w * h).into_par_iter().map(pixel).collect()).ok()
}
