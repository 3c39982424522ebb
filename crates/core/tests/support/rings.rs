//! Rings of known shape.

use inky_core::segment::{Arc, Segment};
use inky_core::shapes::Ring;
use kurbo::{Line, Point};

pub(crate) fn ring(segments: Vec<Segment>) -> Ring {
    Ring::new(segments, Vec::new()).unwrap()
}

pub(crate) fn polygon(points: &[(f64, f64)]) -> Ring {
    let n = points.len();
    let side = |i: usize| Segment::Line(Line::new(points[i], points[(i + 1) % n]));
    ring((0..n).map(side).collect())
}

pub(crate) fn rectangle(x: f64, y: f64, width: f64, height: f64) -> Ring {
    polygon(&[
        (x, y),
        (x + width, y),
        (x + width, y + height),
        (x, y + height),
    ])
}

pub(crate) fn circle(x: f64, y: f64, r: f64) -> Ring {
    let (a, b) = (Point::new(x + r, y), Point::new(x - r, y));
    let half = |p0, p1| Segment::Arc(Arc { p0, p1, bulge: 1.0 });
    ring(vec![half(a, b), half(b, a)])
}
