//! Basic shapes and path data to runs of segments, in the units of the element.
//!
//! Source: SVG 1.1 (2nd ed.), chapters 8 and 9, and its appendix F.6 for elliptical arcs.

use std::f64::consts::{PI, TAU};

use inky_core::segment::{Arc, Segment};
use kurbo::{Affine, CubicBez, Line, Point, QuadBez, SvgArc, Vec2};
use svgtypes::{PathParser, PathSegment, PointsParser};

/// A sub-path, and whether it was closed by its author.
#[derive(Clone, Debug, Default)]
pub(super) struct Run {
    pub(super) segments: Vec<Segment>,
    pub(super) closed: bool,
}

/// Two half circles about the origin, radius 1.
fn unit_circle() -> Vec<Segment> {
    turned(0.0, TAU)
}

/// An arc of the unit circle, in stretches of at most a third of a turn: no bulge is huge.
fn turned(from: f64, sweep: f64) -> Vec<Segment> {
    let parts = (sweep.abs() / (TAU / 3.0) - 1e-9).ceil().max(1.0);
    let step = sweep / parts;
    let on = |n: usize| Point::ORIGIN + Vec2::from_angle(from + step * n as f64);
    let part = |n| {
        Segment::Arc(Arc {
            p0: on(n),
            p1: on(n + 1),
            bulge: (step / 4.0).tan(),
        })
    };
    (0..parts as usize).map(part).collect()
}

/// A circle or an ellipse; nothing without a size.
pub(super) fn ellipse(centre: Point, rx: f64, ry: f64) -> Vec<Run> {
    if !(rx > 0.0 && ry > 0.0) {
        return Vec::new();
    }
    let map = Affine::new([rx, 0.0, 0.0, ry, centre.x, centre.y]);
    let segments = unit_circle().iter().flat_map(|s| s.moved(map)).collect();
    vec![Run {
        segments,
        closed: true,
    }]
}

/// A rectangle with corners rounded by `rx` and `ry`; nothing without a size.
pub(super) fn rect([x, y, w, h]: [f64; 4], rx: f64, ry: f64) -> Vec<Run> {
    if !(w > 0.0 && h > 0.0) {
        return Vec::new();
    }
    let (rx, ry) = (rx.clamp(0.0, w / 2.0), ry.clamp(0.0, h / 2.0));
    let mut pen = Pen::default();
    if rx <= 0.0 || ry <= 0.0 {
        pen.start(Point::new(x, y));
        for (x, y) in [(x + w, y), (x + w, y + h), (x, y + h)] {
            pen.line(Point::new(x, y));
        }
        pen.close();
        return pen.runs();
    }
    let mut corner = |middle: (f64, f64), from: f64| {
        let map = Affine::new([rx, 0.0, 0.0, ry, middle.0, middle.1]);
        let arc = turned(from, PI / 2.0);
        for segment in arc.iter().flat_map(|s| s.moved(map)) {
            if pen.now.is_empty() {
                pen.start(segment.start());
            }
            pen.line(segment.start());
            pen.follow(segment);
        }
    };
    corner((x + w - rx, y + ry), -PI / 2.0);
    corner((x + w - rx, y + h - ry), 0.0);
    corner((x + rx, y + h - ry), PI / 2.0);
    corner((x + rx, y + ry), PI);
    pen.close();
    pen.runs()
}

/// A straight line.
pub(super) fn line(from: Point, to: Point) -> Vec<Run> {
    let mut pen = Pen::default();
    pen.start(from);
    pen.line(to);
    pen.runs()
}

/// Corners in a row.
pub(super) fn polyline(points: &str, closed: bool) -> Vec<Run> {
    let mut pen = Pen::default();
    for (n, (x, y)) in PointsParser::from(points).enumerate() {
        if n == 0 {
            pen.start(Point::new(x, y));
        } else {
            pen.line(Point::new(x, y));
        }
    }
    if closed {
        pen.close();
    }
    pen.runs()
}

/// Draws runs.
#[derive(Default)]
struct Pen {
    done: Vec<Run>,
    now: Vec<Segment>,
    start: Point,
    at: Point,
}

impl Pen {
    fn start(&mut self, p: Point) {
        self.end(false);
        (self.start, self.at) = (p, p);
    }

    fn line(&mut self, p: Point) {
        if p != self.at {
            self.now.push(Segment::Line(Line::new(self.at, p)));
        }
        self.at = p;
    }

    fn cubic(&mut self, a: Point, b: Point, p: Point) {
        self.now
            .push(Segment::Cubic(CubicBez::new(self.at, a, b, p)));
        self.at = p;
    }

    fn follow(&mut self, segment: Segment) {
        self.at = segment.end();
        self.now.push(segment);
    }

    fn close(&mut self) {
        self.line(self.start);
        self.end(true);
    }

    fn end(&mut self, closed: bool) {
        let segments = std::mem::take(&mut self.now);
        if !segments.is_empty() {
            self.done.push(Run { segments, closed });
        }
    }

    fn runs(mut self) -> Vec<Run> {
        self.end(false);
        self.done
    }

    fn arc(&mut self, radii: Vec2, x_rotation: f64, (large_arc, sweep): (bool, bool), to: Point) {
        let stated = SvgArc {
            from: self.at,
            to,
            radii,
            x_rotation,
            large_arc,
            sweep,
        };
        if to == self.at {
            return;
        }
        // What is squared on the way to the centre must not vanish.
        let least = radii.x.abs().min(radii.y.abs()) * self.at.distance(to);
        let arc = (least > 1e-150).then(|| kurbo::Arc::from_svg_arc(&stated));
        let finite = |arc: &kurbo::Arc| arc.center.is_finite() && arc.radii.is_finite();
        let Some(arc) = arc.flatten().filter(finite) else {
            return self.line(to);
        };
        let map = Affine::translate(arc.center.to_vec2())
            * Affine::rotate(arc.x_rotation)
            * Affine::scale_non_uniform(arc.radii.x, arc.radii.y);
        let parts = turned(arc.start_angle, arc.sweep_angle);
        let parts: Vec<Segment> = parts.iter().flat_map(|s| s.moved(map)).collect();
        let count = parts.len();
        for (n, part) in parts.into_iter().enumerate() {
            let end = if n + 1 == count { to } else { part.end() };
            self.follow(part.between(self.at, end));
        }
    }
}

/// What a smooth curve goes on from: the last handle of a curve of its own kind.
#[derive(Clone, Copy, PartialEq)]
enum Handle {
    None,
    Cubic(Point),
    Quadratic(Point),
}

/// Path data; whether it could be read to its end. What comes before an error is drawn, as the
/// standard asks.
pub(super) fn path(data: &str) -> (Vec<Run>, bool) {
    let (mut pen, mut handle, mut whole) = (Pen::default(), Handle::None, true);
    for command in PathParser::from(data) {
        let Ok(command) = command else {
            whole = false;
            break;
        };
        handle = step(&mut pen, command, handle);
    }
    (pen.runs(), whole)
}

fn step(pen: &mut Pen, command: PathSegment, handle: Handle) -> Handle {
    let base = if command.is_abs() {
        Vec2::ZERO
    } else {
        pen.at.to_vec2()
    };
    let p = |x: f64, y: f64| Point::new(x, y) + base;
    let at = pen.at;
    let mirrored = |h: Point| at + (at - h);
    match command {
        PathSegment::MoveTo { x, y, .. } => pen.start(p(x, y)),
        PathSegment::LineTo { x, y, .. } => pen.line(p(x, y)),
        PathSegment::HorizontalLineTo { x, .. } => pen.line(Point::new(x + base.x, at.y)),
        PathSegment::VerticalLineTo { y, .. } => pen.line(Point::new(at.x, y + base.y)),
        PathSegment::CurveTo {
            x1,
            y1,
            x2,
            y2,
            x,
            y,
            ..
        } => {
            pen.cubic(p(x1, y1), p(x2, y2), p(x, y));
            return Handle::Cubic(p(x2, y2));
        }
        PathSegment::SmoothCurveTo { x2, y2, x, y, .. } => {
            let first = match handle {
                Handle::Cubic(h) => mirrored(h),
                _ => at,
            };
            pen.cubic(first, p(x2, y2), p(x, y));
            return Handle::Cubic(p(x2, y2));
        }
        PathSegment::Quadratic { x1, y1, x, y, .. } => {
            return quadratic(pen, p(x1, y1), p(x, y));
        }
        PathSegment::SmoothQuadratic { x, y, .. } => {
            let middle = match handle {
                Handle::Quadratic(h) => mirrored(h),
                _ => at,
            };
            return quadratic(pen, middle, p(x, y));
        }
        PathSegment::EllipticalArc {
            rx,
            ry,
            x_axis_rotation,
            large_arc,
            sweep,
            x,
            y,
            ..
        } => {
            let turn = x_axis_rotation.to_radians();
            pen.arc(Vec2::new(rx, ry), turn, (large_arc, sweep), p(x, y));
        }
        PathSegment::ClosePath { .. } => {
            pen.close();
            // What follows without a move starts where the closed path did.
            pen.at = pen.start;
        }
    }
    Handle::None
}

fn quadratic(pen: &mut Pen, middle: Point, to: Point) -> Handle {
    let raised = QuadBez::new(pen.at, middle, to).raise();
    pen.cubic(raised.p1, raised.p2, to);
    Handle::Quadratic(middle)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn length(runs: &[Run]) -> f64 {
        runs.iter()
            .flat_map(|r| &r.segments)
            .map(Segment::length)
            .sum()
    }

    fn area(runs: &[Run]) -> f64 {
        let all = runs.iter().flat_map(|r| &r.segments);
        all.map(Segment::signed_area).sum()
    }

    #[test]
    fn an_arc_over_next_to_no_distance_or_of_endless_radii_is_a_line() {
        for data in ["M0 0A5 5 0 1 1 1e-200 0", "M0 0A1e308 1e308 0 1 1 50 50"] {
            let (runs, whole) = path(data);
            assert!(whole, "{data}");
            let segments = runs.iter().flat_map(|r| &r.segments);
            for segment in segments {
                assert!(segment.bounds().is_finite(), "{data}");
            }
        }
    }

    #[test]
    fn round_shapes_have_the_area_of_their_formula() {
        for r in [0.5, 20.0, 2000.0] {
            let round = ellipse(Point::new(3.0, 4.0), r, r);
            assert!((area(&round) - PI * r * r).abs() < 1e-9 * r * r);
            assert!(
                round[0]
                    .segments
                    .iter()
                    .all(|s| matches!(s, Segment::Arc(_)))
            );
        }
        assert!((area(&ellipse(Point::ORIGIN, 300.0, 100.0)) - PI * 30_000.0).abs() < 1.0);
        // A rounded rectangle lacks four corners: (4 − π) r².
        let rounded = rect([0.0, 0.0, 40.0, 30.0], 5.0, 5.0);
        assert!((area(&rounded) - (1200.0 - (4.0 - PI) * 25.0)).abs() < 1e-9);
        assert!((area(&rect([1.0, 1.0, 4.0, 3.0], 0.0, 9.0)) - 12.0).abs() < 1e-12);
        assert!(rect([0.0, 0.0, -4.0, 3.0], 0.0, 0.0).is_empty());
        assert!(ellipse(Point::ORIGIN, 0.0, 3.0).is_empty());
    }

    #[test]
    fn path_data_is_followed_as_the_standard_says() {
        // Lines absolute and relative, and a start that a closed path leaves.
        let (runs, whole) = path("M10 10h20v10H10zl-5 0");
        assert!(whole && runs.len() == 2 && runs[0].closed && !runs[1].closed);
        assert!((area(&runs[..1]) - 200.0).abs() < 1e-12);
        assert_eq!(runs[1].segments[0].end(), Point::new(5.0, 10.0));
        // A half circle by radii too small for it, and one by its radius.
        for radii in ["1 1", "10 10"] {
            let (runs, _) = path(&format!("M0 0A{radii} 0 0 1 20 0z"));
            assert!((area(&runs).abs() - PI * 50.0).abs() < 1e-9, "{radii}");
        }
        // Half an ellipse, and the same turned by a quarter.
        for data in ["M0 0A20 10 0 0 1 40 0z", "M0 0A10 20 90 0 1 40 0z"] {
            assert!(
                (area(&path(data).0).abs() - PI * 100.0).abs() < 0.01,
                "{data}"
            );
        }
        // Smooth curves mirror the handle before; a line before them leaves none.
        let (smooth, _) = path("M0 0C0 5 5 5 5 0S10-5 10 0T20 0");
        let (stated, _) = path("M0 0C0 5 5 5 5 0C5-5 10-5 10 0Q10 0 20 0");
        assert!((length(&smooth) - length(&stated)).abs() < 1e-6);
        // What comes before an error is drawn.
        let (broken, whole) = path("M0 0L10 0L10 10 Lx");
        assert!(!whole && (length(&broken) - 20.0).abs() < 1e-12);
        assert!(path("10 10").0.is_empty());
    }
}
