//! The outlines of a hatch: polylines, or edges in a row.
//!
//! Source: the published DXF reference, HATCH, "Boundary path data".

use inky_core::segment::Segment;
use kurbo::{Line, Point, Vec2};

use super::entity::{arc, bulged, elliptic};
use super::file::{Entity, figure};
use super::pairs::Pair;
use super::spline::{Spline, through};

/// Pairs taken one after the other.
struct Cursor<'a> {
    rest: &'a [Pair<'a>],
}

impl Cursor<'_> {
    /// The next pair's figure, if it has this code; else nothing is taken.
    fn maybe(&mut self, code: i32) -> Option<f64> {
        let (first, rest) = self.rest.split_first()?;
        let figure = (first.0 == code).then(|| figure(&first.1)).flatten()?;
        self.rest = rest;
        Some(figure)
    }

    /// The figure of the next pair of this code; what lies before it is passed over.
    fn next(&mut self, code: i32) -> Option<f64> {
        let at = self.rest.iter().position(|p| p.0 == code)?;
        self.rest = &self.rest[at..];
        self.maybe(code)
    }

    fn count(&mut self, code: i32) -> Option<usize> {
        let count = self.next(code)?;
        // What is counted is still to come, a pair each at least.
        (0.0..=self.rest.len() as f64)
            .contains(&count)
            .then_some(count as usize)
    }

    fn point(&mut self, code: i32) -> Option<Point> {
        Some(Point::new(self.next(code)?, self.next(code + 10)?))
    }
}

/// The closed outlines of a hatch, without those that are drawn by entities of their own; `None`
/// where it cannot be followed.
pub(super) fn rings(entity: &Entity<'_>, accuracy: f64) -> Option<Vec<Vec<Segment>>> {
    let mut cursor = Cursor { rest: entity.pairs };
    let follows = entity.flags(71) == 1;
    let paths = cursor.count(91)?;
    let mut rings = Vec::new();
    for _ in 0..paths {
        let kind = cursor.next(92)? as i64;
        let ring = if kind & 2 != 0 {
            polyline(&mut cursor)?
        } else {
            edges(&mut cursor, accuracy)?
        };
        let sources = cursor.maybe(97).unwrap_or(0.0);
        let drawn_too = follows && sources > 0.0;
        if !drawn_too && !ring.is_empty() {
            rings.push(ring);
        }
    }
    Some(rings)
}

fn polyline(cursor: &mut Cursor<'_>) -> Option<Vec<Segment>> {
    let bulges = cursor.next(72)? > 0.0;
    cursor.next(73)?;
    let count = cursor.count(93)?;
    let mut corners: Vec<(Point, f64)> = Vec::new();
    for _ in 0..count {
        let p = cursor.point(10)?;
        let bulge = if bulges { cursor.maybe(42) } else { None };
        corners.push((p, bulge.unwrap_or(0.0)));
    }
    let side = |i: usize| {
        let ((p0, bulge), (p1, _)) = (corners[i], corners[(i + 1) % corners.len()]);
        bulged(p0, p1, bulge)
    };
    let sides = (0..corners.len()).map(side);
    Some(sides.filter(|s| s.start() != s.end()).collect())
}

fn edges(cursor: &mut Cursor<'_>, accuracy: f64) -> Option<Vec<Segment>> {
    let count = cursor.count(93)?;
    let mut ring: Vec<Segment> = Vec::new();
    for _ in 0..count {
        let edge = match cursor.next(72)? as i64 {
            1 => vec![Segment::Line(Line::new(
                cursor.point(10)?,
                cursor.point(11)?,
            ))],
            2 => {
                let (centre, r) = (cursor.point(10)?, cursor.next(40)?);
                let axes = [Vec2::new(r, 0.0), Vec2::new(0.0, r)];
                turned(cursor, centre, axes)?
            }
            3 => {
                let (centre, major) = (cursor.point(10)?, cursor.point(11)?.to_vec2());
                let minor = Vec2::new(-major.y, major.x) * cursor.next(40)?;
                turned(cursor, centre, [major, minor])?
            }
            4 => spline(cursor, accuracy)?,
            _ => return None,
        };
        // An edge may be walked either way: it goes on from where the last one ended.
        let end = ring.last().map(Segment::end);
        let (first, last) = edge.first().zip(edge.last())?;
        let back = end.is_some_and(|p| p.distance(last.end()) < p.distance(first.start()));
        if back {
            ring.extend(edge.iter().rev().map(Segment::reverse));
        } else {
            ring.extend(edge);
        }
    }
    Some(ring)
}

/// Part of a circle or an ellipse. Angles of one that runs clockwise are measured clockwise.
fn turned(
    cursor: &mut Cursor<'_>,
    centre: Point,
    [major, minor]: [Vec2; 2],
) -> Option<Vec<Segment>> {
    let (from, to) = (cursor.next(50)?.to_radians(), cursor.next(51)?.to_radians());
    let minor = if cursor.next(73)? > 0.0 {
        minor
    } else {
        -minor
    };
    let round = (minor.hypot() - major.hypot()).abs() < 1e-12 && minor.cross(major) < 0.0;
    Some(if round {
        arc(centre, major.hypot(), from, to)
    } else {
        elliptic(centre, major, minor, from, to)
    })
}

fn spline(cursor: &mut Cursor<'_>, accuracy: f64) -> Option<Vec<Segment>> {
    let degree = cursor.next(94)?.clamp(0.0, 25.0) as usize;
    let (knots, control) = (cursor.count(95)?, cursor.count(96)?);
    let knots: Vec<f64> = (0..knots).map_while(|_| cursor.next(40)).collect();
    let (mut points, mut weights) = (Vec::new(), Vec::new());
    for _ in 0..control {
        points.push(cursor.point(10)?);
        weights.extend(cursor.maybe(42));
    }
    // Files before 2010 do not count points that it is fitted to; what they count is the hatch's.
    let counted = match cursor.rest {
        [first, second, ..] if first.0 == 97 && second.0 == 11 => cursor.maybe(97),
        [first, ..] if first.0 == 97 && figure(&first.1) == Some(0.0) => cursor.maybe(97),
        _ => None,
    };
    let fitted = counted.unwrap_or(0.0).clamp(0.0, cursor.rest.len() as f64);
    let fitted: Vec<Point> = (0..fitted as usize)
        .map_while(|_| cursor.point(11))
        .collect();
    match Spline::new(degree, knots, &points, &weights) {
        Some(spline) => Some(spline.curves(accuracy)),
        None => Some(through(&fitted, [None, None])).filter(|c| !c.is_empty()),
    }
}
