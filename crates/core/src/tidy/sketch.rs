//! Sketch: what is drawn by hand, from the places that were pointed at to paths.

use kurbo::{CubicBez, Line, Point, Rect, Vec2};
use serde::{Deserialize, Serialize};

use crate::segment::{Arc, Segment};
use crate::tidy::nodes::{NodeEdit, smoothed};
use crate::tidy::path_data::{NOWHERE, PathData};
use crate::tidy::pick::EditError;

/// A place, mm.
pub type SketchPoint = [f64; 2];

/// Something drawn.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "draw", rename_all = "kebab-case")]
#[allow(missing_docs, reason = "each variant tells of its fields")]
pub enum Sketch {
    /// A rectangle between two corners, its own corners rounded.
    Rectangle {
        from: SketchPoint,
        to: SketchPoint,
        radius: f64,
    },
    /// An ellipse in the box between two corners.
    Ellipse { from: SketchPoint, to: SketchPoint },
    /// The circle through three places.
    Circle { through: [SketchPoint; 3] },
    /// The arc from the first place through the second to the third.
    Arc { through: [SketchPoint; 3] },
    /// Straight from place to place, or smoothly through them.
    Line {
        places: Vec<SketchPoint>,
        closed: bool,
        smooth: bool,
    },
    /// A path as it is, such as one that follows an edge.
    Path { path: PathData },
    /// Nodes, each with the handle after it, of which the one before is the mirror image.
    Pen {
        nodes: Vec<(SketchPoint, Option<SketchPoint>)>,
        closed: bool,
    },
}

/// A sketch as a path, and what is told of it while it forms.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Drawn {
    /// Its path.
    pub path: PathData,
    /// Diameter of a circle or an arc, mm.
    pub diameter: Option<f64>,
    /// Width and height, mm.
    pub size: [f64; 2],
}

/// Part of the radius that the handle of a quarter circle is long (Goldapp 1991: errs by 2.7 · 10⁻⁴).
const QUARTER: f64 = 0.552_284_7;

fn point(p: SketchPoint) -> Point {
    Point::new(p[0], p[1])
}

/// The circle through three places: its middle and radius; `None` where they lie on a line.
#[must_use]
pub fn circle_through([a, b, c]: [Point; 3]) -> Option<(Point, f64)> {
    let (u, v) = (b - a, c - a);
    let twice = 2.0 * u.cross(v);
    if twice.abs() < 1e-9 * u.hypot() * v.hypot() || u.hypot() < NOWHERE || v.hypot() < NOWHERE {
        return None;
    }
    let (uu, vv) = (u.hypot2(), v.hypot2());
    let middle = Vec2::new(v.y * uu - u.y * vv, u.x * vv - v.x * uu) / twice;
    Some((a + middle, middle.hypot()))
}

impl Sketch {
    /// The path, and what is told of it.
    ///
    /// # Errors
    /// [`EditError`] where the places give no path.
    pub fn drawn(&self) -> Result<Drawn, EditError> {
        let (segments, closed, diameter) = self.segments()?;
        // Reading it back tests every figure.
        let path = PathData::of(&segments, closed);
        let segments = path.segments()?;
        let boxes = segments.iter().map(Segment::bounds);
        let bounds = boxes.reduce(|a, b| a.union(b)).unwrap_or_default();
        Ok(Drawn {
            path,
            diameter,
            size: [bounds.width(), bounds.height()],
        })
    }

    fn segments(&self) -> Result<(Vec<Segment>, bool, Option<f64>), EditError> {
        match self {
            Self::Rectangle { from, to, radius } => {
                let area = Rect::from_points(point(*from), point(*to));
                Ok((rectangle(area, *radius)?, true, None))
            }
            Self::Ellipse { from, to } => {
                let area = Rect::from_points(point(*from), point(*to));
                let round = (area.width() - area.height()).abs() < 1e-6;
                Ok((ellipse(area)?, true, round.then(|| area.width())))
            }
            Self::Circle { through } => {
                let found = circle_through(through.map(point));
                let (middle, r) = found.ok_or(EditError::Node(
                    "these places lie on a line; no circle runs through them",
                ))?;
                let by = Vec2::new(r, r);
                Ok((
                    ellipse(Rect::from_points(middle - by, middle + by))?,
                    true,
                    Some(2.0 * r),
                ))
            }
            Self::Arc { through } => {
                let [a, b, c] = through.map(point);
                let found = circle_through([a, b, c]);
                let (middle, r) = found.ok_or(EditError::Node(
                    "these places lie on a line; no arc runs through them",
                ))?;
                let angle = |p: Point| (p - middle).atan2();
                let tau = std::f64::consts::TAU;
                let (to_b, to_c) = (
                    (angle(b) - angle(a)).rem_euclid(tau),
                    (angle(c) - angle(a)).rem_euclid(tau),
                );
                let sweep = if to_b < to_c { to_c } else { to_c - tau };
                let arc = Arc {
                    p0: a,
                    p1: c,
                    bulge: (sweep / 4.0).tan(),
                };
                Ok((vec![Segment::Arc(arc)], false, Some(2.0 * r)))
            }
            Self::Line {
                places,
                closed,
                smooth,
            } => {
                let points: Vec<Point> = places.iter().map(|&p| point(p)).collect();
                let mut segments: Vec<Segment> = points
                    .windows(2)
                    .filter(|w| w[0].distance(w[1]) > NOWHERE)
                    .map(|w| Segment::Line(Line::new(w[0], w[1])))
                    .collect();
                if let (true, Some(&first), Some(last)) =
                    (*closed, points.first(), segments.last().map(Segment::end))
                    && last.distance(first) > NOWHERE
                {
                    segments.push(Segment::Line(Line::new(last, first)));
                }
                if segments.len() < if *closed { 3 } else { 1 } {
                    return Err(EditError::Node("point at more places"));
                }
                if *smooth {
                    segments = smoothed(segments, *closed, &NodeEdit::MakeSmooth)?;
                }
                Ok((segments, *closed, None))
            }
            Self::Path { path } => Ok((path.segments()?, path.closed, None)),
            Self::Pen { nodes, closed } => Ok((pen(nodes, *closed)?, *closed, None)),
        }
    }
}

fn rectangle(area: Rect, radius: f64) -> Result<Vec<Segment>, EditError> {
    let (w, h) = (area.width(), area.height());
    if !(w.min(h) > 1e-3 && w.max(h) < 1e5) {
        return Err(EditError::Node("drag from one corner to the opposite one"));
    }
    let r = radius.clamp(0.0, w.min(h) / 2.0);
    let quarter = (std::f64::consts::PI / 8.0).tan();
    let corners = [
        (area.x0, area.y0),
        (area.x1, area.y0),
        (area.x1, area.y1),
        (area.x0, area.y1),
    ];
    let ways = [(1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0)].map(Vec2::from);
    let mut segments = Vec::new();
    for n in 0..4 {
        let (a, b) = (Point::from(corners[n]), Point::from(corners[(n + 1) % 4]));
        let (start, end) = (a + ways[n] * r, b - ways[n] * r);
        if start.distance(end) > NOWHERE {
            segments.push(Segment::Line(Line::new(start, end)));
        }
        if r > NOWHERE {
            let p1 = b + ways[(n + 1) % 4] * r;
            segments.push(Segment::Arc(Arc {
                p0: end,
                p1,
                bulge: quarter,
            }));
        }
    }
    Ok(segments)
}

fn ellipse(area: Rect) -> Result<Vec<Segment>, EditError> {
    let (a, b) = (area.width() / 2.0, area.height() / 2.0);
    if !(a.min(b) > 1e-3 && a.max(b) < 1e5) {
        return Err(EditError::Node(
            "drag from one corner of its box to the opposite one",
        ));
    }
    let c = area.center();
    if (a - b).abs() < 1e-9 * a {
        let (right, left) = (c + Vec2::new(a, 0.0), c - Vec2::new(a, 0.0));
        let half = |p0, p1| Segment::Arc(Arc { p0, p1, bulge: 1.0 });
        return Ok(vec![half(right, left), half(left, right)]);
    }
    let at = |x: f64, y: f64| Point::new(c.x + x * a, c.y + y * b);
    let k = QUARTER;
    let quarter = |p: [(f64, f64); 4]| {
        let [p0, p1, p2, p3] = p.map(|(x, y)| at(x, y));
        Segment::Cubic(CubicBez::new(p0, p1, p2, p3))
    };
    Ok(vec![
        quarter([(1.0, 0.0), (1.0, k), (k, 1.0), (0.0, 1.0)]),
        quarter([(0.0, 1.0), (-k, 1.0), (-1.0, k), (-1.0, 0.0)]),
        quarter([(-1.0, 0.0), (-1.0, -k), (-k, -1.0), (0.0, -1.0)]),
        quarter([(0.0, -1.0), (k, -1.0), (1.0, -k), (1.0, 0.0)]),
    ])
}

fn pen(
    nodes: &[(SketchPoint, Option<SketchPoint>)],
    closed: bool,
) -> Result<Vec<Segment>, EditError> {
    let count = if closed {
        nodes.len()
    } else {
        nodes.len().saturating_sub(1)
    };
    if count < if closed { 2 } else { 1 } {
        return Err(EditError::Node("click at one place more"));
    }
    let segments = (0..count).map(|n| {
        let ((a, after), (b, before)) = (nodes[n], nodes[(n + 1) % nodes.len()]);
        let (p0, p3) = (point(a), point(b));
        if after.is_none() && before.is_none() {
            return Segment::Line(Line::new(p0, p3));
        }
        let p1 = after.map_or(p0, point);
        let p2 = before.map_or(p3, |h| p3 - (point(h) - p3));
        Segment::Cubic(CubicBez::new(p0, p1, p2, p3))
    });
    Ok(segments
        .filter(crate::tidy::path_data::goes_somewhere)
        .collect())
}
