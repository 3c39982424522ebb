//! A ring or line with cubics as one SPLINE of degree 3.
//!
//! Each segment is a Bézier piece of four control points; pieces share their ends, and every joint is a
//! knot of multiplicity three, so the curve goes through it and keeps its corners. Lines and arcs become
//! cubics; an arc in steps of at most an eighth of a turn errs by less than 5 · 10⁻⁶ of its radius.

use inky_core::segment::{Arc, Segment};
use kurbo::{CubicBez, Point};

use super::{Groups, entity_head};

/// Greatest sweep of one cubic for an arc, radians.
const STEP: f64 = std::f64::consts::FRAC_PI_4;

/// Writes one SPLINE.
pub(super) fn put(out: &mut Groups, layer: &str, segments: &[Segment], closed: bool) {
    let pieces: Vec<CubicBez> = segments.iter().flat_map(cubics).collect();
    let mut points: Vec<Point> = pieces.first().map(|c| c.p0).into_iter().collect();
    for c in &pieces {
        points.extend([c.p1, c.p2, c.p3]);
    }
    let knots = pieces.len() * 3 + 5;
    out.put(0, "SPLINE");
    entity_head(out, layer);
    out.put(100, "AcDbSpline");
    for (code, value) in [(210, 0.0), (220, 0.0), (230, 1.0)] {
        out.number(code, value);
    }
    // 8: planar; 1: closed.
    out.put(70, 8 + u8::from(closed));
    out.put(71, 3);
    out.put(72, knots);
    out.put(73, points.len());
    out.put(74, 0);
    for n in 0..=pieces.len() {
        let ends = n == 0 || n == pieces.len();
        for _ in 0..if ends { 4 } else { 3 } {
            out.number(40, n as f64);
        }
    }
    for p in points {
        out.number(10, p.x);
        out.number(20, p.y);
        out.number(30, 0.0);
    }
}

fn cubics(segment: &Segment) -> Vec<CubicBez> {
    match segment {
        Segment::Cubic(c) => vec![*c],
        Segment::Line(l) => vec![CubicBez::new(
            l.p0,
            l.p0.lerp(l.p1, 1.0 / 3.0),
            l.p0.lerp(l.p1, 2.0 / 3.0),
            l.p1,
        )],
        Segment::Arc(a) => {
            let steps = (a.sweep().abs() / STEP - 1e-9).ceil().max(1.0);
            let part = |n: usize| {
                let (from, to) = (n as f64 / steps, (n + 1) as f64 / steps);
                Segment::Arc(*a).part(from, to)
            };
            let parts = (0..steps as usize).map(part);
            let cubic = |s: Segment| match s {
                Segment::Arc(part) => Arc::cubics(&part).collect::<Vec<_>>(),
                _ => Vec::new(),
            };
            parts.flat_map(cubic).collect()
        }
    }
}
