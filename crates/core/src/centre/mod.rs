//! Centre lines: a drawing of lines as single strokes, for a pen, a score or a laser.
//!
//! ```text
//!   ink ──skeleton──► one pixel wide ──graph──► branches ──midline──► half way between outlines
//!        homotopic                    spurs out               ──meet──► strokes run on ──► fit
//! ```
//!
//! In: the labels and boundaries of a picture (px), which inks are kept. Out: [`CentreLines`] in
//! mm, y down: one [`Stroke`] for each line as a pen would draw it, fitted like any edge, with the
//! width of the line; and what is too wide to be a line, which is outlined instead or, where it
//! hangs together with lines, told. Inks are worked on one after another, strokes in parallel.

mod arm;
mod distance;
mod ends;
mod graph;
mod mask;
mod meet;
mod midline;
mod outline;
mod skeleton;
mod strokes;

use std::collections::{BTreeMap, BTreeSet};

use kurbo::{BezPath, Point, Vec2};
use rayon::prelude::*;

use crate::boundary::{Bounded, RegionId};
use crate::centre::graph::End;
use crate::centre::graph::Graph;
use crate::centre::mask::Mask;
use crate::centre::midline::median;
use crate::centre::outline::Outline;
use crate::centre::strokes::Drawn;
use crate::fit::{self, FitSettings, Placement};
use crate::inks::InkId;
use crate::segment::Segment;
use crate::stop::{Stop, Stopped};

/// Width of a drawn line, mm.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct LineWidth {
    /// Mean along the stroke.
    pub mean: f64,
    /// Where it is thinnest.
    pub least: f64,
    /// Where it is thickest.
    pub greatest: f64,
}

/// A stroke line: a path on the middle of a drawn line, mm.
#[derive(Clone, Debug, PartialEq)]
pub struct Stroke {
    /// Its ink.
    pub ink: InkId,
    /// Its pieces, end to end; at least one.
    pub segments: Vec<Segment>,
    /// How far each piece lies off the middle of the drawn line at most, mm.
    pub strayed: Vec<f32>,
    /// How far every point found on that middle lies off, mm.
    pub deviation: Vec<f32>,
    /// Whether it ends where it begins.
    pub closed: bool,
    /// Width of the drawn line.
    pub width: LineWidth,
}

/// Something too wide to be a line.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct TooWide {
    /// Its ink.
    pub ink: InkId,
    /// A point in it, mm.
    pub at: Point,
    /// Its width there, mm.
    pub width: f64,
    /// Whether it is outlined; what hangs together with lines gets a centre line nevertheless.
    pub outlined: bool,
}

/// The strokes of a picture.
#[derive(Clone, Debug, Default)]
pub struct CentreLines {
    /// By ink, then in the order found from the top.
    pub strokes: Vec<Stroke>,
    /// What is better outlined.
    pub too_wide: Vec<TooWide>,
    /// Regions that are outlined instead.
    pub outlined: BTreeSet<RegionId>,
}

/// A line is at least so many times as long as it is wide.
const LINE: f64 = 1.5;
/// Lines from which the typical width is taken are at least so many times as long as wide.
const LONG: f64 = 3.0;
/// A spot up to so many typical widths is a dot of the pen.
const DOT: f64 = 1.6;
/// A line of more than so many typical widths is better outlined.
const WIDE: f64 = 3.0;
/// A dot is drawn as a line of this part of its width, so that a pen comes down.
const DOT_LENGTH: f64 = 0.1;

impl Stroke {
    /// Length, mm.
    #[must_use]
    pub fn length(&self) -> f64 {
        self.segments.iter().map(Segment::length).sum()
    }

    /// How many nodes it has.
    #[must_use]
    pub fn nodes(&self) -> usize {
        self.segments.len() + usize::from(!self.closed)
    }

    /// As a path; arcs as cubics.
    #[must_use]
    pub fn path(&self) -> BezPath {
        let mut path = BezPath::new();
        path.move_to(self.segments[0].start());
        for element in self.segments.iter().flat_map(Segment::elements) {
            path.push(element);
        }
        if self.closed {
            path.close_path();
        }
        path
    }
}

/// Finds the strokes of the kept inks.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub fn lines(
    bounded: &Bounded,
    kept: &[bool],
    placement: Placement,
    settings: FitSettings,
    stop: &Stop,
) -> Result<CentreLines, Stopped> {
    let mut found = CentreLines::default();
    if bounded.too_fine.is_some() {
        return Ok(found);
    }
    let (width, height) = (bounded.map.width as usize, bounded.map.height as usize);
    for ink in (0..kept.len()).filter(|&i| kept[i]) {
        stop.check()?;
        let is_ink = |x: usize, y: usize| usize::from(bounded.labels[y * width + x]) == ink;
        let Some(mut mask) = Mask::new(width, height, is_ink) else {
            continue;
        };
        let distance = skeleton::thin(&mut mask, stop)?;
        let mut graph = Graph::of(&mask, &distance);
        drop((mask, distance));
        graph.prune();
        let outline = Outline::of(&bounded.map, ink as u8);
        stop.check()?;
        let middles: Vec<_> = graph
            .branches
            .par_iter()
            .map(|branch| midline::middles(branch, &graph.nodes, &outline))
            .collect();
        let meetings = meet::meetings(&graph, &middles);
        let drawn = strokes::chained(&graph, &middles, &meetings, &outline);
        stop.check()?;
        found.take(
            InkId(ink as u8),
            &graph,
            drawn,
            &outline,
            (placement, settings),
        );
    }
    Ok(found)
}

impl CentreLines {
    /// Sorts the lines of an ink from what is too wide to be one, and fits them.
    fn take(
        &mut self,
        ink: InkId,
        graph: &Graph,
        drawn: Vec<Drawn>,
        outline: &Outline,
        (placement, settings): (Placement, FitSettings),
    ) {
        let px = placement.step();
        let parts = graph.parts();
        let part = |d: &Drawn| parts[d.branches[0]];
        let long = drawn.iter().filter(|d| d.length() >= LONG * d.width());
        let widths = long.flat_map(|d| d.widths.iter().copied()).collect();
        let typical = median(widths);
        let is_line = |d: &Drawn| d.closed || d.length() >= LINE * d.width();
        let with_lines: BTreeSet<usize> = drawn.iter().filter(|d| is_line(d)).map(part).collect();
        let mut lines: Vec<Drawn> = Vec::new();
        for stroke in drawn {
            // Not yet outlined, but to be so unless it is a dot.
            let wide = TooWide {
                ink,
                at: placement.place(stroke.points[stroke.points.len() / 2]),
                width: stroke.width() * px,
                outlined: !with_lines.contains(&part(&stroke)),
            };
            if wide.outlined && stroke.width() > DOT * typical {
                let away = Vec2::new(1.0, 0.0);
                let hit = outline.hit(stroke.points[0], away, f64::from(u16::MAX));
                if hit.is_some_and(|hit| self.outlined.insert(hit.region)) {
                    self.too_wide.push(wide);
                }
                continue;
            }
            if stroke.width() > WIDE * typical {
                self.too_wide.push(wide);
            }
            lines.push(if wide.outlined { stroke.dot() } else { stroke });
        }
        let mut fitted: Vec<Stroke> = lines
            .par_iter()
            .map(|line| fitted(ink, line, placement, settings))
            .collect();
        meet_exactly(&lines, &mut fitted);
        self.strokes.append(&mut fitted);
    }
}

/// The curves of one line.
fn fitted(ink: InkId, line: &Drawn, placement: Placement, settings: FitSettings) -> Stroke {
    let px = placement.step();
    let mut points: Vec<Point> = line.points.iter().map(|&p| placement.place(p)).collect();
    let width = line.width() * px;
    if let [dot] = points[..] {
        let half = Vec2::new(DOT_LENGTH / 2.0 * width, 0.0);
        points = vec![dot - half, dot + half];
    }
    let edge = fit::along(&points, line.closed, width, placement, settings);
    let bound = |pick: fn(f64, f64) -> f64| line.widths.iter().copied().reduce(pick);
    Stroke {
        ink,
        segments: edge.segments,
        strayed: edge.strayed,
        deviation: edge.deviation,
        closed: line.closed,
        width: LineWidth {
            mean: width,
            least: bound(f64::min).map_or(width, |w| w * px),
            greatest: bound(f64::max).map_or(width, |w| w * px),
        },
    }
}

/// Lets strokes that stop at another one end on its curve.
fn meet_exactly(lines: &[Drawn], fitted: &mut [Stroke]) {
    let of_branch: BTreeMap<usize, usize> = lines
        .iter()
        .enumerate()
        .flat_map(|(n, line)| line.branches.iter().map(move |&b| (b, n)))
        .collect();
    for (n, line) in lines.iter().enumerate() {
        for (end, on) in line.stops_at.iter().enumerate() {
            let target = on.and_then(|(branch, _): End| of_branch.get(&branch));
            let Some(&target) = target.filter(|&&t| t != n) else {
                continue;
            };
            let segments = &fitted[n].segments;
            let at = if end == 0 {
                segments[0].start()
            } else {
                segments[segments.len() - 1].end()
            };
            let Some(to) = nearest(&fitted[target].segments, at) else {
                continue;
            };
            let segments = &mut fitted[n].segments;
            let count = segments.len();
            if end == 0 {
                segments[0] = segments[0].between(to, segments[0].end());
            } else {
                segments[count - 1] = segments[count - 1].between(segments[count - 1].start(), to);
            }
        }
    }
}

/// The point of some segments nearest to one.
fn nearest(segments: &[Segment], p: Point) -> Option<Point> {
    let found = segments.iter().map(|s| s.nearest(p));
    found.min_by(|a, b| p.distance(*a).total_cmp(&p.distance(*b)))
}
