//! Fit: straight lines, circular arcs and smooth cubics along every boundary, within a tolerance.
//!
//! ```text
//!   boundary points ──corners──► runs between corners ──smooth──► ──pieces──► lines, arcs, cubics
//!        · · ·                      corner restored to    noise       each piece measured against
//!      ·       ·  ──►   ╱‾‾╲        where its sides meet  taken out   the points it stands for
//! ```
//!
//! In: a [`PlanarMap`] in px, a [`Placement`], [`FitSettings`] in mm. Out: a [`FittedMap`] in mm,
//! y down, one [`FittedEdge`] for each edge, so both neighbours of an edge share its curve.
//! Junctions stay where they are, and the picture's own border is kept exactly.
//!
//! *Guaranteed*: the greatest distance from a boundary point to its fitted edge is measured and
//! never above the tolerance. Boundary points beside a restored corner or a junction are
//! represented by it, since there the pixels have rounded off what was sharp; and where an edge
//! wobbles more than the tolerance leaves room for, the boundary is the edge without its wobble.
//! Edges are fitted in parallel and collected in order, so the result is the same for any number
//! of threads.

pub mod circle;
mod corners;
mod crossings;
mod cubic;
mod draft;
mod fewer;
mod guide;
mod joints;
mod parallel;
mod pieces;
mod reach;
mod smooth;
mod straight;
mod touching;
pub(crate) mod track;
mod upright;
mod whole_circle;
mod whole_ellipse;
mod wobble;

pub use draft::draft;

use std::collections::BTreeMap;

use kurbo::{CubicBez, Point, Vec2};
use rayon::prelude::*;

use crate::boundary::{Edge, OUTSIDE, PlanarMap};
use crate::fit::circle::Circle;
use crate::fit::corners::Run;
use crate::fit::guide::{Limits, Tight};
use crate::fit::track::Track;
use crate::fit::wobble::{MEASURED_PX, pair, wobbles};
use crate::segment::Segment;
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
    /// Pixels over which an edge shows what it does: 1, or more where the map is finer than what
    /// the artwork tells.
    pub pitch: f64,
}

impl Placement {
    /// The point of the piece where a point of the picture comes to lie.
    #[must_use]
    pub fn place(&self, p: Point) -> Point {
        Point::new(p.x * self.across, p.y * self.down)
    }

    /// Side of a square with the area of one pixel of the map, mm.
    #[must_use]
    pub fn step(&self) -> f64 {
        (self.across * self.down).sqrt()
    }

    /// The length over which edges show what they do, mm: the side of a square with the area of one
    /// pixel, times the pitch.
    #[must_use]
    pub fn px(&self) -> f64 {
        self.step() * self.pitch
    }
}

/// What the fit holds to.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FitSettings {
    /// Guaranteed greatest deviation, mm.
    pub tolerance: f64,
    /// Turn from which a bend is a corner.
    pub corner: Degrees,
    /// Half the surroundings over which wobble is smoothed, mm; nought leaves edges as they are.
    pub smooth: f64,
    /// Wobble that edges are taken to have at least, mm, so that waves of that height go too.
    pub least_wobble: f64,
    /// Typical number of mixed pixels across an edge, px: corners are rounded off over so much.
    pub edge_width: f64,
}

impl FitSettings {
    fn limits(&self, wobble: f64, px: f64) -> Limits {
        Limits {
            tolerance: self.tolerance,
            wobble,
            px,
        }
    }
}

/// One edge of the map as curves.
#[derive(Clone, Debug, Default)]
pub struct FittedEdge {
    /// Its pieces in order, end to end; a closed edge ends where it begins.
    pub segments: Vec<Segment>,
    /// Distance of every boundary point from the pieces, mm.
    pub deviation: Vec<f32>,
    /// The greatest of these for every piece, mm.
    pub strayed: Vec<f32>,
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
    let tracks: Vec<Vec<Point>> = map
        .edges
        .par_iter()
        .map(|e| points_of(e, placement))
        .collect();
    stop.check()?;
    let wobble = wobbles(map, &tracks, placement, settings);
    stop.check()?;
    let mut known: Vec<Known<'_>> = map
        .edges
        .par_iter()
        .zip(tracks.par_iter().zip(&wobble))
        .map(|(edge, (points, &wobble))| Known::of(edge, points, wobble, placement, settings))
        .collect();
    stop.check()?;
    let mut circles: Vec<Option<Circle>> = known.iter().map(|k| k.circle).collect();
    whole_circle::equal(&mut circles, settings.tolerance);
    for (known, circle) in known.iter_mut().zip(circles) {
        known.circle = circle;
    }
    let edges: Result<Vec<FittedEdge>, Stopped> = known
        .par_iter()
        .map(|known| {
            stop.check()?;
            Ok(fit_edge(known, placement, settings, &Tight::default()))
        })
        .collect();
    let mut edges = edges?;
    let px = placement.px();
    let mut crossings = crossings::all(&edges, px);
    if touching::joined(&mut edges, &crossings, px) {
        crossings = crossings::all(&edges, px);
    }
    let mut tight: BTreeMap<usize, Tight> = BTreeMap::new();
    for part in CLOSER {
        stop.check()?;
        if crossings.is_empty() {
            break;
        }
        let crossed = crossings::by_edge(&crossings);
        for (&n, places) in &crossed {
            let limits_here = tight.entry(n).or_default();
            limits_here.places.extend(places.iter().map(|&p| (p, part)));
        }
        let again: Vec<(usize, FittedEdge)> = crossed
            .into_par_iter()
            .map(|(n, _)| {
                let fitted = if part >= 0.0 {
                    fit_edge(&known[n], placement, settings, &tight[&n])
                } else {
                    step_by_step(known[n].edge, placement)
                };
                (n, fitted)
            })
            .collect();
        for (n, fitted) in again {
            edges[n] = fitted;
        }
        crossings = crossings::all(&edges, px);
    }
    Ok(FittedMap { edges })
}

/// Where edges would cross they are fitted again with these parts of the tolerance, in the end
/// point by point: the boundary itself never crosses.
const CLOSER: [f32; 5] = [0.5, 0.25, 0.1, 0.0, -1.0];

/// The boundary itself, point by point.
fn step_by_step(edge: &Edge, placement: Placement) -> FittedEdge {
    let mut points: Vec<Point> = edge.points.iter().map(|&p| placement.place(p)).collect();
    if edge.ends.is_none() {
        points.extend(points.first().copied());
    }
    FittedEdge::straight(&points, edge.points.len())
}

/// Points that say where an edge is, mm.
fn points_of(edge: &Edge, placement: Placement) -> Vec<Point> {
    let placed = |p: &Point| placement.place(*p);
    let strong = edge
        .points
        .iter()
        .zip(&edge.weak)
        .filter(|(_, weak)| !**weak);
    let points: Vec<Point> = strong.map(|(p, _)| placed(p)).collect();
    if edge.ends.is_none() && points.len() < FEWEST {
        return edge.points.iter().map(placed).collect();
    }
    points
}

/// A closed edge with fewer strong points than this takes the weak ones too.
const FEWEST: usize = 4;

/// What is known of an edge before it is fitted.
struct Known<'a> {
    edge: &'a Edge,
    /// Points that say where it is, mm.
    points: &'a [Point],
    /// Typical wobble, mm.
    wobble: f64,
    /// The circle that it is, if it is one, mm.
    circle: Option<Circle>,
}

impl<'a> Known<'a> {
    fn of(
        edge: &'a Edge,
        points: &'a [Point],
        wobble: f64,
        placement: Placement,
        settings: FitSettings,
    ) -> Self {
        let wobble = wobble.max(settings.least_wobble);
        let round = edge.ends.is_none() && pair(edge).1 != OUTSIDE;
        let limits = settings.limits(wobble, placement.px());
        Self {
            edge,
            points,
            wobble,
            circle: round.then(|| whole_circle::find(points, limits)).flatten(),
        }
    }
}

fn fit_edge(
    known: &Known<'_>,
    placement: Placement,
    settings: FitSettings,
    tight: &Tight,
) -> FittedEdge {
    let Known {
        edge,
        points,
        wobble,
        circle,
    } = *known;
    let closed = edge.ends.is_none();
    let px = placement.px();
    if pair(edge).1 == OUTSIDE {
        return along_the_border(points, closed);
    }
    let limits = settings.limits(wobble, px);
    if let Some(circle) = circle.filter(|_| tight.places.is_empty())
        && let Some(edge) = whole_circle::drawn(points, circle, limits.tolerance)
    {
        return edge;
    }
    if closed
        && tight.places.is_empty()
        && let Some(edge) = whole_ellipse::find(points, limits)
    {
        return edge;
    }
    let scale = corners::Scale::new(px, wobble, settings.edge_width);
    curves(points, closed, scale, settings, limits, tight)
}

/// Fits the middle line of a drawn one, mm, of a width, mm; a closed one does not repeat its first
/// point. Where the drawn line turns sharply its middle is rounded off over that width.
pub(crate) fn along(
    points: &[Point],
    closed: bool,
    width: f64,
    placement: Placement,
    settings: FitSettings,
) -> FittedEdge {
    let px = placement.px();
    let found = if settings.smooth > 0.0 && points.len() > FEWEST {
        Track::new(points, closed).wobbles(MEASURED_PX * px)
    } else {
        Vec::new()
    };
    let limits = settings.limits(smooth::typical(found).max(settings.least_wobble), px);
    if closed
        && let Some(circle) = whole_circle::find(points, limits)
        && let Some(edge) = whole_circle::drawn(points, circle, limits.tolerance)
    {
        return edge;
    }
    let scale = corners::Scale::of_line(px, width);
    curves(points, closed, scale, settings, limits, &Tight::default())
}

/// Fits points that lie on a line exactly, without a corner among them; of a closed one the last
/// repeats the first.
pub(crate) fn again(
    points: &[Point],
    closed: bool,
    tolerance: f64,
    lines_and_arcs: bool,
) -> FittedEdge {
    let step = points[0].distance(points[1]).max(1e-6);
    // What wobbles as much as it may is held no more strictly by lines and arcs.
    let wobble = if lines_and_arcs { tolerance } else { 0.0 };
    let limits = Limits {
        tolerance,
        wobble,
        px: step,
    };
    let once = &points[..points.len() - 1];
    if closed
        && let Some(circle) = whole_circle::find(once, limits)
        && let Some(edge) = whole_circle::drawn(once, circle, tolerance)
    {
        return edge;
    }
    let run = corners::Run {
        points: points.to_vec(),
        smooth_loop: closed,
    };
    if lines_and_arcs {
        pieces::lines_and_arcs(&run, limits)
    } else {
        pieces::fit_run(&run, &run.points, limits, &Tight::default())
    }
}

/// The cubic along points that leaves and arrives in given directions, as near as one can be.
pub(crate) fn one_cubic(points: &[Point], leaves: Vec2, arrives: Vec2) -> Option<CubicBez> {
    let unit = |v: Vec2| (v.hypot() > 1e-9).then(|| v / v.hypot());
    let directions = cubic::Directions {
        start: unit(leaves),
        end: unit(arrives),
    };
    let (first, last) = (*points.first()?, *points.last()?);
    let length: f64 = points.windows(2).map(|w| w[0].distance(w[1])).sum();
    cubic::fit(points, [first, last], directions, length, 1e-5).map(|f| f.cubic)
}

/// Corners, then pieces from corner to corner.
fn curves(
    points: &[Point],
    closed: bool,
    scale: corners::Scale,
    settings: FitSettings,
    limits: Limits,
    tight: &Tight,
) -> FittedEdge {
    let Limits { wobble, px, .. } = limits;
    let mut fitted = FittedEdge::default();
    let rough = wobble > smooth::LEAST_WOBBLE_PX * px;
    let keeps = |p| tight.keeps(p, px);
    let mut runs = corners::runs(points, closed, scale, settings.corner, &keeps);
    if tight.places.is_empty() {
        upright::level(&mut runs, closed, limits);
        parallel::align(&mut runs, closed, limits);
    }
    for run in runs {
        if !rough {
            fitted.append(pieces::fit_run(&run, &run.points, limits, tight));
            continue;
        }
        // Joints lie on the smoothed edge. What the pieces follow is the edge itself, which they
        // average by themselves, unless it wobbles more than the tolerance leaves room for.
        let mut joints = smoothed(&run, settings.smooth, wobble);
        for (joint, &p) in joints.iter_mut().zip(&run.points) {
            if keeps(p) {
                *joint = p;
            }
        }
        fitted.append(if ROOM * wobble <= settings.tolerance {
            // Any joint may end a piece, so none lies farther off than a piece may.
            for (joint, &p) in joints.iter_mut().zip(&run.points) {
                let off = *joint - p;
                let part = settings.tolerance / off.hypot();
                if part < 1.0 {
                    *joint = p + off * part;
                }
            }
            pieces::fit_run(&run, &joints, limits, tight)
        } else {
            let smooth_loop = run.smooth_loop;
            let calm = Run {
                points: joints,
                smooth_loop,
            };
            let limits = Limits {
                wobble: 0.5 * wobble,
                ..limits
            };
            pieces::fit_run(&calm, &calm.points, limits, tight)
        });
    }
    fitted
}

/// The tolerance leaves room for so many typical wobbles.
const ROOM: f64 = 2.0;

/// The points of a run without its wobble; its ends stay.
fn smoothed(run: &Run, greatest: f64, wobble: f64) -> Vec<Point> {
    let closed = run.smooth_loop;
    let count = run.points.len() - usize::from(closed);
    let mut points = Track::new(&run.points[..count], closed).smoothed(greatest, wobble);
    if closed {
        points.extend(points.first().copied());
    }
    points
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
    FittedEdge::straight(&kept, n)
}
