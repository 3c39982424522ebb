//! One DXF entity to segments, in its own coordinates, y up.

use std::f64::consts::{PI, TAU};

use inky_core::segment::{Arc, Segment};
use kurbo::{Affine, Line, Point, Vec2};

use super::file::{Entity, figure};
use super::plane::{across, from_above, normal};
use super::spline::{Spline, through};
use crate::vector::{PICTURES, TEXTS};

/// A path of an entity.
pub(super) struct Path {
    pub(super) segments: Vec<Segment>,
    pub(super) closed: bool,
    /// Whether it is an area rather than a line.
    pub(super) filled: bool,
    /// Width it is drawn with; nought where it has none.
    pub(super) width: f64,
    /// From its plane to the drawing, seen from above.
    pub(super) plane: Affine,
    /// What of it is not drawn as it is, by kind.
    pub(super) changed: Vec<&'static str>,
}

impl Path {
    const fn new(segments: Vec<Segment>, closed: bool) -> Self {
        Self {
            segments,
            closed,
            filled: false,
            width: 0.0,
            plane: Affine::IDENTITY,
            changed: Vec::new(),
        }
    }

    /// A path of an entity that lies in a plane of its own.
    fn in_plane(self, entity: &Entity<'_>, elevation: f64) -> Drawn {
        Drawn::Path(Self {
            plane: from_above(normal(entity), elevation),
            ..self
        })
    }

    const fn in_space(self) -> Drawn {
        Drawn::Path(self)
    }
}

/// What an entity is.
pub(super) enum Drawn {
    /// A path.
    Path(Path),
    /// Something that is no path.
    Other(&'static str),
}

/// A bulge below this is none.
const FLAT: f64 = 1e-9;
/// Heights that differ by less are one.
const LEVEL: f64 = 1e-6;

/// Draws an entity; curves that become cubics leave their own by at most `accuracy`, its units.
pub(super) fn drawn(entity: &Entity<'_>, vertices: &[Entity<'_>], accuracy: f64) -> Drawn {
    let at = |x: i32| Point::new(entity.or(x, 0.0), entity.or(x + 10, 0.0));
    match entity.kind {
        "LINE" => {
            let line = Segment::Line(Line::new(at(10), at(11)));
            let rises = (entity.or(30, 0.0) - entity.or(31, 0.0)).abs() > LEVEL;
            let mut path = Path::new(vec![line], false);
            path.changed.extend(rises.then_some(RISING));
            path.in_space()
        }
        "CIRCLE" => {
            let circle = circle(at(10), entity.or(40, 0.0));
            Path::new(circle, true).in_plane(entity, entity.or(30, 0.0))
        }
        "ARC" => {
            let angle = |code, default| entity.or(code, default).to_radians();
            let arc = arc(at(10), entity.or(40, 0.0), angle(50, 0.0), angle(51, 360.0));
            Path::new(arc, false).in_plane(entity, entity.or(30, 0.0))
        }
        "ELLIPSE" => ellipse(entity, at(10)),
        "LWPOLYLINE" => {
            let closed = entity.flags(70) & 1 == 1;
            let corners = light(entity);
            let path = Path::new(polyline(&corners, closed), closed);
            wide(path, &corners, entity.or(43, 0.0)).in_plane(entity, entity.or(38, 0.0))
        }
        "POLYLINE" if entity.flags(70) & (16 | 64) != 0 => Drawn::Other("meshes"),
        "POLYLINE" => older(entity, vertices),
        "SPLINE" => spline(entity, accuracy),
        "SOLID" | "TRACE" => {
            // Its third and fourth corner are crossed over.
            let mut corners = vec![at(10), at(11), at(13), at(12)];
            corners.dedup();
            let corners: Vec<Corner> = corners.into_iter().map(Corner::at).collect();
            let path = Path {
                filled: true,
                ..Path::new(polyline(&corners, true), true)
            };
            path.in_plane(entity, entity.or(30, 0.0))
        }
        kind => Drawn::Other(other(kind)),
    }
}

/// What entities that are no paths are called.
fn other(kind: &str) -> &'static str {
    match kind {
        "TEXT" | "MTEXT" => TEXTS,
        "MPOLYGON" => "hatches that cannot be read",
        "DIMENSION" | "LEADER" | "MULTILEADER" | "MLEADER" | "TOLERANCE" => "dimensions",
        "POINT" => "points",
        "IMAGE" | "OLE2FRAME" | "WIPEOUT" => PICTURES,
        "3DFACE" | "3DSOLID" | "MESH" | "REGION" | "BODY" | "SURFACE" => "solids and faces",
        "XLINE" | "RAY" => "endless lines",
        "VIEWPORT" => "views",
        "MLINE" => "multiple lines",
        "SHAPE" => "shapes of a font",
        _ => "entities of other kinds",
    }
}

const RISING: &str = "lines that rise (drawn flat)";
const WIDTHS: &str = "widths of closed lines (drawn along their middle)";
const TAPERED: &str = "widths that change along a line (drawn along its middle)";

pub(super) fn circle(centre: Point, r: f64) -> Vec<Segment> {
    if r <= 0.0 {
        return Vec::new();
    }
    let (a, b) = (centre + Vec2::new(r, 0.0), centre - Vec2::new(r, 0.0));
    let half = |p0, p1| Segment::Arc(Arc { p0, p1, bulge: 1.0 });
    vec![half(a, b), half(b, a)]
}

/// From one angle counterclockwise to another.
pub(super) fn arc(centre: Point, r: f64, from: f64, to: f64) -> Vec<Segment> {
    let sweep = (to - from).rem_euclid(TAU);
    if r <= 0.0 || sweep < 1e-9 {
        return if r > 0.0 {
            circle(centre, r)
        } else {
            Vec::new()
        };
    }
    // More than three quarters of a turn in two, so that no bulge is huge.
    let parts = if sweep > 1.5 * PI { 2 } else { 1 };
    let step = sweep / f64::from(parts);
    let on = |n: i32| centre + Vec2::from_angle(from + step * f64::from(n)) * r;
    let bulge = (step / 4.0).tan();
    (0..parts)
        .map(|n| {
            Segment::Arc(Arc {
                p0: on(n),
                p1: on(n + 1),
                bulge,
            })
        })
        .collect()
}

/// Part of an ellipse by its axes, from one parameter counterclockwise to another.
pub(super) fn elliptic(
    centre: Point,
    major: Vec2,
    minor: Vec2,
    from: f64,
    to: f64,
) -> Vec<Segment> {
    let map = Affine::new([major.x, major.y, minor.x, minor.y, centre.x, centre.y]);
    if map.determinant().abs() < 1e-12 {
        return Vec::new();
    }
    let unit = if whole(from, to) {
        circle(Point::ORIGIN, 1.0)
    } else {
        arc(Point::ORIGIN, 1.0, from, to)
    };
    unit.iter().flat_map(|s| s.moved(map)).collect()
}

fn whole(from: f64, to: f64) -> bool {
    ((to - from).abs() - TAU).abs() < 1e-6
}

fn ellipse(entity: &Entity<'_>, centre: Point) -> Drawn {
    let major = [11, 21, 31].map(|code| entity.or(code, 0.0));
    let minor = across(normal(entity), major) * entity.or(40, 1.0);
    let (from, to) = (entity.or(41, 0.0), entity.or(42, TAU));
    let segments = elliptic(centre, Vec2::new(major[0], major[1]), minor, from, to);
    if segments.is_empty() {
        return Drawn::Other("ellipses of no size");
    }
    Path::new(segments, whole(from, to)).in_space()
}

/// A corner of a polyline, with the bulge and the widths of the side after it.
#[derive(Clone, Copy)]
struct Corner {
    p: Point,
    bulge: f64,
    widths: [f64; 2],
}

impl Corner {
    const fn at(p: Point) -> Self {
        Self {
            p,
            bulge: 0.0,
            widths: [0.0; 2],
        }
    }
}

/// Corners of a light polyline.
fn light(entity: &Entity<'_>) -> Vec<Corner> {
    let mut corners: Vec<Corner> = Vec::new();
    for (code, value) in entity.pairs {
        let value = || figure(value).unwrap_or(0.0);
        match (code, corners.last_mut()) {
            (10, _) => corners.push(Corner::at(Point::new(value(), 0.0))),
            (20, Some(last)) => last.p.y = value(),
            (40, Some(last)) => last.widths[0] = value(),
            (41, Some(last)) => last.widths[1] = value(),
            (42, Some(last)) => last.bulge = value(),
            _ => {}
        }
    }
    corners
}

/// A polyline whose corners are entities of their own.
fn older(entity: &Entity<'_>, vertices: &[Entity<'_>]) -> Drawn {
    let closed = entity.flags(70) & 1 == 1;
    // Points of the frame of a smoothed polyline are not on it.
    let drawn = || vertices.iter().filter(|v| v.flags(70) & 16 == 0);
    let usual = [entity.or(40, 0.0), entity.or(41, 0.0)];
    let corner = |v: &Entity<'_>| Corner {
        p: Point::new(v.or(10, 0.0), v.or(20, 0.0)),
        bulge: v.or(42, 0.0),
        widths: [v.or(40, usual[0]), v.or(41, usual[1])],
    };
    let corners: Vec<Corner> = drawn().map(corner).collect();
    let mut path = Path::new(polyline(&corners, closed), closed);
    if entity.flags(70) & 8 == 0 {
        let width = corners.first().map_or(0.0, |c| c.widths[0]);
        return wide(path, &corners, width).in_plane(entity, entity.or(30, 0.0));
    }
    // In space: seen from above.
    let heights = drawn().map(|v| v.or(30, 0.0));
    let (low, high) = heights.fold((f64::MAX, f64::MIN), |(a, b), z| (a.min(z), b.max(z)));
    path.changed.extend((high - low > LEVEL).then_some(RISING));
    path.in_space()
}

/// A polyline of some width.
fn wide(mut path: Path, corners: &[Corner], usual: f64) -> Path {
    let all = corners.iter().flat_map(|c| c.widths);
    let stated = all.clone().any(|w| w > 0.0);
    let width = if usual > 0.0 || !stated {
        usual
    } else {
        corners.first().map_or(0.0, |c| c.widths[0])
    };
    let even = !stated || all.clone().all(|w| (w - width).abs() < LEVEL);
    if !even {
        path.changed.push(TAPERED);
    } else if width > 0.0 && path.closed {
        path.changed.push(WIDTHS);
    }
    path.width = width.max(0.0);
    path
}

fn polyline(corners: &[Corner], closed: bool) -> Vec<Segment> {
    let n = corners.len();
    let sides = if closed { n } else { n.saturating_sub(1) };
    let side = |i: usize| {
        let (from, to) = (corners[i], corners[(i + 1) % n]);
        bulged(from.p, to.p, from.bulge)
    };
    let long = |s: &Segment| s.start().distance(s.end()) > 1e-9;
    (0..sides).map(side).filter(long).collect()
}

pub(super) fn bulged(p0: Point, p1: Point, bulge: f64) -> Segment {
    if bulge.abs() < FLAT {
        Segment::Line(Line::new(p0, p1))
    } else {
        Segment::Arc(Arc { p0, p1, bulge })
    }
}

fn spline(entity: &Entity<'_>, accuracy: f64) -> Drawn {
    let all = |code: i32| -> Vec<f64> {
        let of_code = entity.pairs.iter().filter(move |p| p.0 == code);
        of_code.map(|p| figure(&p.1).unwrap_or(f64::NAN)).collect()
    };
    let places = |x: i32| -> Vec<Point> {
        let pairs = all(x).into_iter().zip(all(x + 10));
        pairs.map(Point::from).collect()
    };
    let (control, fitted) = (places(10), places(11));
    if !control.iter().chain(&fitted).all(|p| p.is_finite()) {
        return Drawn::Other("splines with figures that are no places");
    }
    let degree = entity.flags(71).clamp(0, 25) as usize;
    let exact = Spline::new(degree, all(40), &control, &all(41));
    let segments = match exact {
        Some(spline) => spline.curves(accuracy),
        None if control.is_empty() => {
            let way = |x: i32| {
                let way = Vec2::new(entity.or(x, 0.0), entity.or(x + 10, 0.0));
                Some(way).filter(|w| w.hypot() > 1e-9)
            };
            // A direction at one end alone is not used, as others do not.
            let ways = way(12).zip(way(13));
            through(&fitted, [ways.map(|w| w.0), ways.map(|w| w.1)])
        }
        None => Vec::new(),
    };
    let Some((first, last)) = segments.first().zip(segments.last()) else {
        return Drawn::Other("splines whose knots do not fit");
    };
    let closed = first.start().distance(last.end()) < 1e-6;
    Path::new(segments, closed).in_space()
}
