//! One DXF entity to segments, in its own coordinates, y up.

use std::f64::consts::{PI, TAU};

use inky_core::inks::Rgb;
use inky_core::segment::{Arc, Segment};
use kurbo::{Affine, Line, Point, Vec2};

use super::dxf::Entity;
use super::spline;

/// What an entity is.
pub(super) enum Drawn {
    /// A path; `mirrored` where it is drawn as seen from below.
    Path {
        segments: Vec<Segment>,
        closed: bool,
        mirrored: bool,
    },
    /// Something that is no path.
    Other(&'static str),
}

/// A bulge below this is none.
const FLAT: f64 = 1e-9;
/// Straight steps that a curve of another degree is drawn in.
const STEPS: usize = 200;

pub(super) fn drawn(entity: &Entity<'_>, vertices: &[Entity<'_>]) -> Drawn {
    let path = |segments, closed| Drawn::Path {
        segments,
        closed,
        mirrored: entity.or(230, 1.0) < 0.0
            && !["LINE", "ELLIPSE", "SPLINE"].contains(&entity.kind),
    };
    let at = |x: i32| Point::new(entity.or(x, 0.0), entity.or(x + 10, 0.0));
    match entity.kind {
        "LINE" => path(vec![Segment::Line(Line::new(at(10), at(11)))], false),
        "CIRCLE" => path(circle(at(10), entity.or(40, 0.0)), true),
        "ARC" => {
            let (from, to) = (
                entity.or(50, 0.0).to_radians(),
                entity.or(51, 360.0).to_radians(),
            );
            path(arc(at(10), entity.or(40, 0.0), from, to), false)
        }
        "ELLIPSE" => ellipse(entity, at(10), at(11).to_vec2(), &path),
        "LWPOLYLINE" => {
            let closed = entity.flags(70) & 1 == 1;
            path(polyline(&light(entity), closed), closed)
        }
        "POLYLINE" if entity.flags(70) & (8 | 16 | 64) != 0 => Drawn::Other("meshes"),
        "POLYLINE" => {
            let closed = entity.flags(70) & 1 == 1;
            // Points of the frame of a smoothed polyline are not on it.
            let drawn = vertices.iter().filter(|v| v.flags(70) & 16 == 0);
            let corners: Vec<(Point, f64)> = drawn
                .map(|v| (Point::new(v.or(10, 0.0), v.or(20, 0.0)), v.or(42, 0.0)))
                .collect();
            path(polyline(&corners, closed), closed)
        }
        "SPLINE" => spline_of(entity, &path),
        "TEXT" | "MTEXT" => {
            Drawn::Other("texts (set them as lettering, or turn them into outlines first)")
        }
        "HATCH" | "MPOLYGON" => Drawn::Other("hatches"),
        "DIMENSION" | "LEADER" | "MLEADER" | "TOLERANCE" => Drawn::Other("dimensions"),
        "POINT" => Drawn::Other("points"),
        "IMAGE" | "OLE2FRAME" | "WIPEOUT" => Drawn::Other("pictures"),
        "3DFACE" | "SOLID" | "TRACE" | "3DSOLID" | "MESH" | "REGION" | "BODY" => {
            Drawn::Other("solids and faces")
        }
        "XLINE" | "RAY" => Drawn::Other("endless lines"),
        _ => Drawn::Other("entities of other kinds"),
    }
}

fn circle(centre: Point, r: f64) -> Vec<Segment> {
    if r <= 0.0 {
        return Vec::new();
    }
    let (a, b) = (centre + Vec2::new(r, 0.0), centre - Vec2::new(r, 0.0));
    let half = |p0, p1| Segment::Arc(Arc { p0, p1, bulge: 1.0 });
    vec![half(a, b), half(b, a)]
}

/// From one angle counterclockwise to another.
fn arc(centre: Point, r: f64, from: f64, to: f64) -> Vec<Segment> {
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

fn ellipse(
    entity: &Entity<'_>,
    centre: Point,
    major: Vec2,
    path: &impl Fn(Vec<Segment>, bool) -> Drawn,
) -> Drawn {
    let ratio = entity.or(40, 1.0) * entity.or(230, 1.0).signum();
    let (from, to) = (entity.or(41, 0.0), entity.or(42, TAU));
    if major.hypot() < 1e-12 || ratio.abs() < 1e-9 {
        return Drawn::Other("ellipses of no size");
    }
    let whole = ((to - from).abs() - TAU).abs() < 1e-6;
    let unit = if whole {
        circle(Point::ORIGIN, 1.0)
    } else {
        arc(Point::ORIGIN, 1.0, from, to)
    };
    let minor = Vec2::new(-major.y, major.x) * ratio;
    let map = Affine::new([major.x, major.y, minor.x, minor.y, centre.x, centre.y]);
    path(unit.iter().flat_map(|s| s.moved(map)).collect(), whole)
}

/// Corners of a light polyline with the bulge after each.
fn light(entity: &Entity<'_>) -> Vec<(Point, f64)> {
    let mut corners: Vec<(Point, f64)> = Vec::new();
    for (code, value) in entity.pairs {
        let figure = value
            .parse::<f64>()
            .ok()
            .filter(|v| v.is_finite() && v.abs() < 1e9);
        let figure = figure.unwrap_or(0.0);
        match (code, corners.last_mut()) {
            (10, _) => corners.push((Point::new(figure, 0.0), 0.0)),
            (20, Some(last)) => last.0.y = figure,
            (42, Some(last)) => last.1 = figure,
            _ => {}
        }
    }
    corners
}

fn polyline(corners: &[(Point, f64)], closed: bool) -> Vec<Segment> {
    let n = corners.len();
    let sides = if closed { n } else { n.saturating_sub(1) };
    let side = |i: usize| {
        let ((p0, bulge), (p1, _)) = (corners[i], corners[(i + 1) % n]);
        if bulge.abs() < FLAT {
            Segment::Line(Line::new(p0, p1))
        } else {
            Segment::Arc(Arc { p0, p1, bulge })
        }
    };
    let long = |s: &Segment| s.start().distance(s.end()) > 1e-9;
    (0..sides).map(side).filter(long).collect()
}

fn spline_of(entity: &Entity<'_>, path: &impl Fn(Vec<Segment>, bool) -> Drawn) -> Drawn {
    let all = |code: i32| {
        let of_code = entity.pairs.iter().filter(move |p| p.0 == code);
        of_code
            .map(|p| p.1.parse::<f64>().unwrap_or(f64::NAN))
            .collect::<Vec<_>>()
    };
    let places = |x: i32| -> Vec<Point> {
        all(x)
            .into_iter()
            .zip(all(x + 10))
            .map(Point::from)
            .collect()
    };
    let (knots, control, weights, through) = (all(40), places(10), all(41), places(11));
    let degree = entity.flags(71).clamp(0, 25) as usize;
    let finite = control
        .iter()
        .chain(&through)
        .all(|p| p.x.abs() < 1e9 && p.y.abs() < 1e9);
    if !finite {
        return Drawn::Other("splines with figures that are no places");
    }
    let even = weights.iter().all(|w| (w - weights[0]).abs() < 1e-9);
    let exact = if even {
        spline::curves(degree, &knots, &control)
    } else {
        None
    };
    let segments = exact.or_else(|| stepped(degree, &knots, &control, &weights));
    // Without control points the curve runs through its fit points.
    let segments = segments.or_else(|| (through.len() > 1).then(|| straight(&through)));
    let Some(segments) = segments else {
        return Drawn::Other("splines whose knots do not fit");
    };
    let ends = segments.first().zip(segments.last());
    let closed = ends.is_some_and(|(a, b)| a.start().distance(b.end()) < 1e-6);
    path(segments, closed)
}

fn straight(points: &[Point]) -> Vec<Segment> {
    points
        .windows(2)
        .map(|w| Segment::Line(Line::new(w[0], w[1])))
        .collect()
}

/// A spline with weights, or of a high degree, in straight steps (de Boor's recursion).
fn stepped(
    degree: usize,
    knots: &[f64],
    control: &[Point],
    weights: &[f64],
) -> Option<Vec<Segment>> {
    let n = control.len();
    let rising = knots.windows(2).all(|w| w[0] <= w[1]);
    if degree == 0 || n <= degree || knots.len() != n + degree + 1 || !rising {
        return None;
    }
    let weight = |i: usize| weights.get(i).copied().filter(|w| *w > 0.0).unwrap_or(1.0);
    let (low, high) = (knots[degree], knots[n]);
    let at = |u: f64| {
        let k = (degree..n)
            .rfind(|&k| knots[k] <= u && knots[k] < high)
            .unwrap_or(degree);
        let mut d: Vec<(Vec2, f64)> = (0..=degree)
            .map(|j| {
                (
                    control[j + k - degree].to_vec2() * weight(j + k - degree),
                    weight(j + k - degree),
                )
            })
            .collect();
        for r in 1..=degree {
            for j in (r..=degree).rev() {
                let i = j + k - degree;
                let width = knots[i + degree + 1 - r] - knots[i];
                let part = if width > 0.0 {
                    (u - knots[i]) / width
                } else {
                    0.0
                };
                d[j] = (
                    d[j - 1].0.lerp(d[j].0, part),
                    d[j - 1].1 + (d[j].1 - d[j - 1].1) * part,
                );
            }
        }
        (d[degree].0 / d[degree].1).to_point()
    };
    let points: Vec<Point> = (0..=STEPS)
        .map(|s| at(low + (high - low) * s as f64 / STEPS as f64))
        .collect();
    Some(straight(&points))
}

/// A colour by its number: the first nine by name, the others by hue in steps of 15° (from memory).
pub(super) fn colour(number: i64) -> Rgb {
    const NAMED: [[u8; 3]; 10] = [
        [0, 0, 0],
        [255, 0, 0],
        [255, 255, 0],
        [0, 255, 0],
        [0, 255, 255],
        [0, 0, 255],
        [255, 0, 255],
        [0, 0, 0],
        [128, 128, 128],
        [192, 192, 192],
    ];
    match number {
        0..=9 => Rgb(NAMED[number as usize]),
        10..=249 => {
            let hue = (number / 10 - 1) as f64 * 15.0;
            let value = [1.0, 0.65, 0.5, 0.3, 0.15][(number % 10 / 2) as usize];
            let least = if number % 2 == 1 { value / 2.0 } else { 0.0 };
            let channel = |shift: f64| {
                let k = (hue / 60.0 + shift).rem_euclid(6.0);
                let part = (2.0 - (k - 2.0).abs()).clamp(0.0, 1.0);
                ((least + (value - least) * part) * 255.0).round() as u8
            };
            Rgb([channel(2.0), channel(0.0), channel(4.0)])
        }
        _ => Rgb([0, 0, 0]),
    }
}
