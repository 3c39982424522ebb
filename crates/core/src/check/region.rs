//! Regions that mend a finding: bands along what is too narrow, rings grown, holes filled.

use kurbo::{Point, Shape as _};

use super::finding::Finding;
use super::parts::across;
use crate::offset::{self, Join};
use crate::overlay::{self, Keep, Rings};
use crate::polyline::thinned;
use crate::segment::Segment;
use crate::shapes::Ring;
use crate::tidy::{Item, Kind as ItemKind, Path, PathData};

/// A little more than the limit, so that what was mended is not found again.
const MORE: f64 = 1.03;
/// Lines of middles are taken straight within this part of the limit.
const STRAIGHT: f64 = 0.02;
/// Lines of middles go on by this part of the limit.
const ON_BY: f64 = 0.5;

pub(super) fn data(ring: &Ring) -> PathData {
    PathData::of(ring.segments(), true)
}

pub(super) fn distance(item: &Item, place: Point) -> f64 {
    let segments = item.paths.iter().flat_map(|p| &p.segments);
    segments
        .map(|s| s.distance(place, 1e-3))
        .fold(f64::MAX, f64::min)
}

pub(super) fn outer(item: &Item) -> Option<Ring> {
    (item.kind == ItemKind::Shape).then_some(())?;
    item.paths.first().and_then(Path::ring)
}

/// The ring of an item that a finding lies on.
pub(super) fn ring_near(finding: &Finding, item: &Item) -> Option<Ring> {
    let place = *finding.touching.first()?;
    let far = |r: &Ring| {
        let segments = r.segments().iter();
        segments
            .map(|s| s.distance(place, 1e-3))
            .fold(f64::MAX, f64::min)
    };
    let rings = item.rings().into_iter();
    rings
        .map(|r| (far(&r), r))
        .min_by(|a, b| a.0.total_cmp(&b.0))
        .map(|(_, r)| r)
}

/// The ring that a finding lies on, as a region.
pub(super) fn ring_at(finding: &Finding, item: &Item, hole: bool) -> Vec<PathData> {
    let ring = ring_near(finding, item);
    let region = ring.map(|r| {
        let inside = r.signed_area() < 0.0;
        if inside == hole || inside {
            r.reversed()
        } else {
            r
        }
    });
    region.iter().map(data).collect()
}

/// A ring grown until it is as large across as the limit asks for.
pub(super) fn grown(ring: &Ring, finding: &Finding) -> Vec<PathData> {
    let by = (finding.limit * MORE - across(ring)) / 2.0;
    if by <= 0.0 {
        return Vec::new();
    }
    let found = offset::offset(&[ring], by, Join::Round);
    found.iter().flat_map(Rings::all).map(data).collect()
}

/// A band as wide as the limit along the middle of what is too narrow.
pub(super) fn band(finding: &Finding) -> Vec<PathData> {
    let half = finding.limit * MORE / 2.0;
    let mut found: Vec<Rings> = Vec::new();
    for run in &finding.extent {
        let points = thinned(run, finding.limit * STRAIGHT);
        let points = lengthened(points, finding.limit * ON_BY);
        match points.as_slice() {
            [] => {}
            [only] => found.extend(disc(*only, half)),
            points => {
                let sides = points
                    .windows(2)
                    .map(|w| Segment::Line(kurbo::Line::new(w[0], w[1])));
                let sides: Vec<Segment> = sides.collect();
                found.extend(offset::around(&sides, half, Join::Round));
            }
        }
    }
    let rings: Vec<&Ring> = found.iter().flat_map(Rings::all).collect();
    let whole = overlay::overlay(&rings, &[], Keep::Union);
    whole.iter().flat_map(Rings::all).map(data).collect()
}

fn disc(middle: Point, radius: f64) -> Option<Rings> {
    let circle = kurbo::Circle::new(middle, radius);
    let mut segments = Vec::new();
    for segment in circle.path_segments(1e-3) {
        segments.push(Segment::Cubic(segment.to_cubic()));
    }
    let outer = Ring::new(segments, Vec::new())?;
    let outer = if outer.signed_area() < 0.0 {
        outer.reversed()
    } else {
        outer
    };
    Some(Rings {
        outer,
        holes: Vec::new(),
    })
}

/// A line that goes on a little at both ends, where the next disc would have been.
fn lengthened(mut points: Vec<Point>, by: f64) -> Vec<Point> {
    let n = points.len();
    if n < 2 {
        return points;
    }
    let on = |end: Point, before: Point| end + (end - before) / end.distance(before).max(1e-9) * by;
    let (first, last) = (on(points[0], points[1]), on(points[n - 1], points[n - 2]));
    points.insert(0, first);
    points.push(last);
    points
}
