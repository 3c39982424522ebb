//! Paths: what the tool follows, taken from a page, with what has to come before what.

use kurbo::{BezPath, Point, Shape as _};
use rstar::primitives::{GeomWithData, Rectangle};
use rstar::{AABB, RTree};

use super::hatch::{self, Row};
use super::starts::{self, Start};
use super::{Course, PathKey};
use crate::cutting::CutLayer;
use crate::material::{Operation, Tool};
use crate::segment::Segment;
use crate::shapes::Ring;

/// Something to follow.
pub(super) struct Path {
    pub key: PathKey,
    pub course: Course,
    pub closed: bool,
    /// Whether it is the edge of a part, with the part on one side of it.
    pub edge: bool,
    /// Where it can begin; an open one has a single place.
    pub places: Vec<Start>,
    /// The path around it that comes later, by place in the list.
    pub before: Option<usize>,
}

/// Distance of engraved rows where a material names none, mm.
const INTERVAL: f64 = 0.2;

/// The paths of a layer.
pub(super) fn of(number: usize, layer: &CutLayer) -> Vec<Path> {
    let beam = layer.material.tool == Tool::Laser;
    let mut paths = if layer.operation == Operation::Engrave && beam {
        engraved(number, layer)
    } else {
        edges(number, layer)
    };
    let known = paths.len();
    for line in &layer.lines {
        let segments = line.segments.clone();
        let places = if line.closed {
            starts::places(&segments)
        } else {
            vec![Start {
                segment: 0,
                from: segments[0].start(),
                to: segments[segments.len() - 1].end(),
            }]
        };
        paths.push(Path {
            key: key(number, paths.len()),
            course: Course::Line(segments),
            closed: line.closed,
            edge: false,
            places,
            before: None,
        });
    }
    nest(&mut paths, known);
    paths
}

fn key(layer: usize, path: usize) -> PathKey {
    PathKey { layer, path }
}

fn edges(number: usize, layer: &CutLayer) -> Vec<Path> {
    let mut paths: Vec<Path> = Vec::new();
    for shape in &layer.shapes {
        let outer = paths.len();
        for (n, ring) in shape.all().enumerate() {
            paths.push(Path {
                key: key(number, paths.len()),
                course: Course::Line(ring.segments().to_vec()),
                closed: true,
                edge: true,
                places: starts::places(ring.segments()),
                before: (n > 0).then_some(outer),
            });
        }
    }
    paths
}

fn engraved(number: usize, layer: &CutLayer) -> Vec<Path> {
    let laser = layer.material.laser.as_ref();
    let interval = laser.map_or(INTERVAL, |l| l.interval);
    let mut paths = Vec::new();
    for shape in &layer.shapes {
        let rows = hatch::rows(shape, interval);
        if let Some((from, to)) = ends(&rows) {
            paths.push(Path {
                key: key(number, paths.len()),
                course: Course::Rows(rows),
                closed: false,
                edge: false,
                places: vec![Start {
                    segment: 0,
                    from,
                    to,
                }],
                before: None,
            });
        }
    }
    paths
}

/// Where rows run both ways begin and end.
fn ends(rows: &[Row]) -> Option<(Point, Point)> {
    let (first, last) = (rows.first()?, rows.last()?);
    let back = rows.len().is_multiple_of(2);
    let x = if back {
        last.spans[0][0]
    } else {
        last.spans[last.spans.len() - 1][1]
    };
    Some((
        Point::new(first.spans[0][0], first.y),
        Point::new(x, last.y),
    ))
}

type Box = GeomWithData<Rectangle<[f64; 2]>, usize>;

/// What lies in a ring comes before it: shapes in a hole before the hole, lines on a part before its edge.
fn nest(paths: &mut [Path], rings: usize) {
    let mut outlines: Vec<Option<(BezPath, f64)>> = Vec::with_capacity(rings);
    let mut boxes: Vec<Box> = Vec::new();
    for (n, path) in paths.iter().enumerate().take(rings) {
        let Course::Line(segments) = &path.course else {
            outlines.push(None);
            continue;
        };
        let ring = Ring::closed(segments.clone());
        let b = ring.bounds();
        let area = ring.signed_area().abs();
        outlines.push(Some((ring.path(), area)));
        let corners = Rectangle::from_corners([b.x0, b.y0], [b.x1, b.y1]);
        boxes.push(Box::new(corners, n));
    }
    let tree = RTree::bulk_load(boxes);
    let around = |n: usize, path: &Path| -> Option<usize> {
        if path.before.is_some() {
            return path.before;
        }
        let Course::Line(segments) = &path.course else {
            return None;
        };
        let p = segments[0].eval(0.5);
        let outline = outlines
            .get(n)
            .and_then(Option::as_ref)
            .map_or(0.0, |o| o.1);
        let at = AABB::from_point([p.x, p.y]);
        let found = tree.locate_in_envelope_intersecting(at);
        let found = found.filter_map(|b| Some((b.data, outlines[b.data].as_ref()?)));
        let outside = found.filter(|(m, (_, area))| *m != n && *area > outline);
        let inside = outside.filter(|(_, (path, _))| path.winding(p) != 0);
        inside
            .min_by(|a, b| a.1.1.total_cmp(&b.1.1).then(a.0.cmp(&b.0)))
            .map(|(m, _)| m)
    };
    let found: Vec<Option<usize>> = paths
        .iter()
        .enumerate()
        .map(|(n, p)| around(n, p))
        .collect();
    for (path, before) in paths.iter_mut().zip(found) {
        path.before = before;
    }
}

/// A closed path that begins with another of its segments.
pub(super) fn begun(segments: &[Segment], first: usize) -> Vec<Segment> {
    let mut turned = segments.to_vec();
    turned.rotate_left(first);
    turned
}

/// An open path walked the other way.
pub(super) fn turned(segments: &[Segment]) -> Vec<Segment> {
    segments.iter().rev().map(Segment::reverse).collect()
}
