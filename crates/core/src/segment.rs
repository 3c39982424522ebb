//! A piece of an outline: straight line, circular arc or cubic.

use kurbo::{
    Affine, CubicBez, Line, ParamCurve, ParamCurveArclen, ParamCurveArea, ParamCurveDeriv,
    ParamCurveExtrema, ParamCurveNearest, PathEl, Point, Rect, Vec2,
};

use crate::projective::Projective;

/// Accuracy of a measured length, mm.
const LENGTH_ACCURACY: f64 = 1e-4;
/// How far a quarter circle drawn as one cubic leaves it, as a part of its radius.
const QUARTER_ERROR: f64 = 2.8e-4;
/// How far an arc that a map makes an ellipse may leave it, mm.
const MOVED_ACCURACY: f64 = 1e-3;
/// An arc drawn as cubics errs by less than this part of its radius (a quarter circle by 2.7 · 10⁻⁴).
#[cfg(test)]
const ARC_ACCURACY: f64 = 3e-4;

/// An arc of a circle.
///
/// Its bulge is the tangent of a quarter of its sweep, as in DXF: ±1 is half a circle, positive
/// turns from x towards y (clockwise on the screen). So both ends are exact, and turning or
/// scaling it evenly needs nothing but them.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Arc {
    /// Where it starts.
    pub p0: Point,
    /// Where it ends.
    pub p1: Point,
    /// tan(sweep / 4); never nought.
    pub bulge: f64,
}

/// A piece of an outline, lengths in the unit of its points.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Segment {
    /// A straight line.
    Line(Line),
    /// An arc of a circle.
    Arc(Arc),
    /// A cubic Bézier curve.
    Cubic(CubicBez),
}

impl Arc {
    /// Signed angle it turns through, radians.
    #[must_use]
    pub fn sweep(&self) -> f64 {
        4.0 * self.bulge.atan()
    }

    /// Radius of its circle.
    #[must_use]
    pub fn radius(&self) -> f64 {
        let chord = self.p0.distance(self.p1);
        chord * (1.0 + self.bulge * self.bulge) / (4.0 * self.bulge.abs())
    }

    /// Middle of its circle.
    #[must_use]
    pub fn centre(&self) -> Point {
        let chord = self.p1 - self.p0;
        let off = (1.0 - self.bulge * self.bulge) / (4.0 * self.bulge);
        self.p0.midpoint(self.p1) + chord.turn_90() * off
    }

    /// Direction at a part of the way, 0 to 1.
    #[must_use]
    pub fn tangent(&self, t: f64) -> Vec2 {
        let out = self.eval(t) - self.centre();
        let along = Vec2::new(-out.y, out.x);
        if self.bulge > 0.0 { along } else { -along }
    }

    /// The point a part of the way along, 0 to 1.
    #[must_use]
    pub fn eval(&self, t: f64) -> Point {
        if t <= 0.0 {
            return self.p0;
        }
        if t >= 1.0 {
            return self.p1;
        }
        let centre = self.centre();
        let from = self.p0 - centre;
        let (sin, cos) = (self.sweep() * t).sin_cos();
        centre + Vec2::new(from.x * cos - from.y * sin, from.x * sin + from.y * cos)
    }

    /// Distance of a point from it.
    #[must_use]
    pub fn distance(&self, p: Point) -> f64 {
        let centre = self.centre();
        let (from, to) = (self.p0 - centre, p - centre);
        let mut angle = from.cross(to).atan2(from.dot(to)) * self.bulge.signum();
        if angle < 0.0 {
            angle += std::f64::consts::TAU;
        }
        if angle <= self.sweep().abs() {
            (to.hypot() - self.radius()).abs()
        } else {
            p.distance(self.p0).min(p.distance(self.p1))
        }
    }

    /// The same as cubics, each at most a quarter circle.
    pub fn cubics(&self) -> impl Iterator<Item = CubicBez> + use<> {
        self.cubics_in(1.0)
    }

    /// The same as cubics, each at most the part of a quarter circle that `finer` divides it by.
    fn cubics_in(&self, finer: f64) -> impl Iterator<Item = CubicBez> + use<> {
        let whole = *self;
        let quarters = self.sweep().abs() / std::f64::consts::FRAC_PI_2;
        let count = (quarters * finer - 1e-9).ceil().max(1.0);
        let handle = 4.0 / 3.0 * (self.sweep().abs() / count / 4.0).tan();
        (0..count as usize).map(move |n| {
            let (t0, t1) = (n as f64 / count, (n + 1) as f64 / count);
            let (a, b) = (whole.eval(t0), whole.eval(t1));
            CubicBez::new(
                a,
                a + whole.tangent(t0) * handle,
                b - whole.tangent(t1) * handle,
                b,
            )
        })
    }
}

impl Segment {
    /// Where it starts.
    #[must_use]
    pub fn start(&self) -> Point {
        match self {
            Self::Line(l) => l.p0,
            Self::Arc(a) => a.p0,
            Self::Cubic(c) => c.p0,
        }
    }

    /// Where it ends.
    #[must_use]
    pub fn end(&self) -> Point {
        match self {
            Self::Line(l) => l.p1,
            Self::Arc(a) => a.p1,
            Self::Cubic(c) => c.p3,
        }
    }

    /// The same between other ends close by; handles move with theirs.
    #[must_use]
    pub fn between(&self, start: Point, end: Point) -> Self {
        match *self {
            Self::Line(_) => Self::Line(Line::new(start, end)),
            Self::Arc(a) => Self::Arc(Arc {
                p0: start,
                p1: end,
                ..a
            }),
            Self::Cubic(c) => Self::Cubic(CubicBez::new(
                start,
                c.p1 + (start - c.p0),
                c.p2 + (end - c.p3),
                end,
            )),
        }
    }

    /// The same walked the other way.
    #[must_use]
    pub fn reverse(&self) -> Self {
        match *self {
            Self::Line(l) => Self::Line(Line::new(l.p1, l.p0)),
            Self::Arc(a) => Self::Arc(Arc {
                p0: a.p1,
                p1: a.p0,
                bulge: -a.bulge,
            }),
            Self::Cubic(c) => Self::Cubic(CubicBez::new(c.p3, c.p2, c.p1, c.p0)),
        }
    }

    /// Direction at the start or the end, of any length; nought for a segment without length.
    #[must_use]
    pub fn tangent(&self, at_end: bool) -> Vec2 {
        match self {
            Self::Line(l) => l.p1 - l.p0,
            Self::Arc(a) => a.tangent(if at_end { 1.0 } else { 0.0 }),
            Self::Cubic(c) => {
                let ways = if at_end {
                    [c.p3 - c.p2, c.p3 - c.p1, c.p3 - c.p0]
                } else {
                    [c.p1 - c.p0, c.p2 - c.p0, c.p3 - c.p0]
                };
                ways.into_iter()
                    .find(|w| w.hypot2() > 1e-18)
                    .unwrap_or(Vec2::ZERO)
            }
        }
    }

    /// Length.
    #[must_use]
    pub fn length(&self) -> f64 {
        match self {
            Self::Line(l) => l.p0.distance(l.p1),
            Self::Arc(a) => a.radius() * a.sweep().abs(),
            Self::Cubic(c) => c.arclen(LENGTH_ACCURACY),
        }
    }

    /// Its part of the signed area of a ring (Green's theorem).
    #[must_use]
    pub fn signed_area(&self) -> f64 {
        match self {
            Self::Line(l) => l.signed_area(),
            Self::Arc(a) => {
                let (sweep, r) = (a.sweep(), a.radius());
                a.p0.to_vec2().cross(a.p1.to_vec2()) / 2.0 + r * r * (sweep - sweep.sin()) / 2.0
            }
            Self::Cubic(c) => c.signed_area(),
        }
    }

    /// Distance of a point from it, to within `accuracy`.
    #[must_use]
    pub fn distance(&self, p: Point, accuracy: f64) -> f64 {
        match self {
            Self::Line(l) => l.nearest(p, accuracy).distance_sq.sqrt(),
            Self::Arc(a) => a.distance(p),
            Self::Cubic(c) => c.nearest(p, accuracy).distance_sq.sqrt(),
        }
    }

    /// The point of it nearest to another one.
    #[must_use]
    pub fn nearest(&self, p: Point) -> Point {
        match self {
            Self::Line(l) => l.eval(l.nearest(p, LENGTH_ACCURACY).t),
            Self::Cubic(c) => c.eval(c.nearest(p, LENGTH_ACCURACY).t),
            Self::Arc(a) => {
                let ends = if p.distance(a.p0) < p.distance(a.p1) {
                    a.p0
                } else {
                    a.p1
                };
                let out = p - a.centre();
                if out.hypot() < LENGTH_ACCURACY {
                    return ends;
                }
                let on = a.centre() + out * (a.radius() / out.hypot());
                if a.distance(on) < LENGTH_ACCURACY {
                    on
                } else {
                    ends
                }
            }
        }
    }

    /// The point at a parameter, 0 to 1.
    #[must_use]
    pub fn eval(&self, t: f64) -> Point {
        match self {
            Self::Line(l) => l.eval(t),
            Self::Arc(a) => a.eval(t),
            Self::Cubic(c) => c.eval(t),
        }
    }

    /// How it moves on at a parameter, per unit of the parameter.
    #[must_use]
    pub(crate) fn derivative(&self, t: f64) -> Vec2 {
        match self {
            Self::Line(l) => l.p1 - l.p0,
            Self::Arc(a) => a.tangent(t) * a.sweep().abs(),
            Self::Cubic(c) => c.deriv().eval(t).to_vec2(),
        }
    }

    /// The parameter of its point nearest to another one, 0 to 1.
    #[must_use]
    pub(crate) fn nearest_parameter(&self, p: Point) -> f64 {
        match self {
            Self::Line(l) => l.nearest(p, LENGTH_ACCURACY).t,
            Self::Cubic(c) => c.nearest(p, 1e-9).t,
            Self::Arc(a) => {
                let (from, to) = (a.p0 - a.centre(), p - a.centre());
                let turn = from.cross(to).atan2(from.dot(to)) * a.bulge.signum();
                let sweep = a.sweep().abs();
                let past = turn.rem_euclid(std::f64::consts::TAU);
                if past <= sweep {
                    past / sweep
                } else if p.distance(a.p0) < p.distance(a.p1) {
                    0.0
                } else {
                    1.0
                }
            }
        }
    }

    /// The part of it between two parameters, `from` below `to`.
    #[must_use]
    pub fn part(&self, from: f64, to: f64) -> Self {
        match self {
            Self::Line(l) => Self::Line(l.subsegment(from..to)),
            Self::Cubic(c) => Self::Cubic(c.subsegment(from..to)),
            Self::Arc(a) => Self::Arc(Arc {
                p0: a.eval(from),
                p1: a.eval(to),
                bulge: (a.bulge.atan() * (to - from)).tan(),
            }),
        }
    }

    /// The same moved by an affine map. An arc stays one where the map keeps circles.
    #[must_use]
    pub fn moved(&self, map: Affine) -> Vec<Self> {
        match self {
            Self::Line(l) => vec![Self::Line(map * *l)],
            Self::Cubic(c) => vec![Self::Cubic(map * *c)],
            Self::Arc(a) => {
                let [xx, xy, yx, yy, ..] = map.as_coeffs();
                let size = xx.hypot(xy);
                let turns = (xx - yy).hypot(xy + yx) < 1e-9 * size;
                let mirrors = (xx + yy).hypot(xy - yx) < 1e-9 * size;
                if turns || mirrors {
                    let bulge = if turns { a.bulge } else { -a.bulge };
                    let (p0, p1) = (map * a.p0, map * a.p1);
                    return vec![Self::Arc(Arc { p0, p1, bulge })];
                }
                // The error of a cubic falls with the sixth power of what it turns through.
                let reach = size.max(yx.hypot(yy)) * a.radius();
                let finer = (QUARTER_ERROR * reach / MOVED_ACCURACY).powf(1.0 / 6.0);
                let cubics = a.cubics_in(finer.clamp(1.0, 50.0));
                cubics.map(|c| Self::Cubic(map * c)).collect()
            }
        }
    }

    /// The same moved by a projective map: cubics within `tolerance`, in as many pieces as that takes; lines stay lines.
    #[must_use]
    pub fn seen(&self, map: &Projective, tolerance: f64) -> Vec<Self> {
        if let Some(affine) = map.affine() {
            return self.moved(affine);
        }
        match self {
            Self::Line(l) => vec![Self::Line(Line::new(map.at(l.p0), map.at(l.p1)))],
            Self::Cubic(c) => seen(*c, map, tolerance, 0)
                .into_iter()
                .map(Self::Cubic)
                .collect(),
            Self::Arc(a) => {
                let cubics = a.cubics().flat_map(|c| seen(c, map, tolerance, 0));
                cubics.map(Self::Cubic).collect()
            }
        }
    }

    /// The least box around it.
    #[must_use]
    pub fn bounds(&self) -> Rect {
        match self {
            Self::Line(l) => Rect::from_points(l.p0, l.p1),
            Self::Cubic(c) => c.bounding_box(),
            Self::Arc(a) => {
                let (centre, radius) = (a.centre(), a.radius());
                let mut bounds = Rect::from_points(a.p0, a.p1);
                for way in [(1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0)] {
                    let p = centre + Vec2::from(way) * radius;
                    if a.distance(p) < 1e-9 * radius.max(1.0) {
                        bounds = bounds.union_pt(p);
                    }
                }
                bounds
            }
        }
    }

    /// As elements of a path that is already at its start; an arc as cubics, which err by less
    /// than 3 · 10⁻⁴ of its radius.
    pub fn elements(&self) -> Vec<PathEl> {
        let curve = |c: CubicBez| PathEl::CurveTo(c.p1, c.p2, c.p3);
        match self {
            Self::Line(l) => vec![PathEl::LineTo(l.p1)],
            Self::Arc(a) => a.cubics().map(curve).collect(),
            Self::Cubic(c) => vec![curve(*c)],
        }
    }

    /// Points along it, the start left out, so that straight steps between them err by at most
    /// `tolerance`.
    pub fn flatten(&self, tolerance: f64, points: &mut Vec<Point>) {
        let steps = self.steps(tolerance);
        points.extend((1..steps).map(|n| self.eval(n as f64 / steps as f64)));
        points.push(self.end());
    }

    /// Even steps of its parameter after which straight ones err by at most `tolerance`.
    pub(crate) fn steps(&self, tolerance: f64) -> usize {
        let steps = match self {
            Self::Line(_) => 1.0,
            Self::Arc(a) => {
                let step = 2.0 * (1.0 - tolerance / a.radius()).clamp(-1.0, 1.0).acos();
                (a.sweep().abs() / step.max(1e-3)).ceil()
            }
            // Wang's bound on the deviation of a cubic from its chords.
            Self::Cubic(c) => {
                let bend = ((c.p0.to_vec2() - c.p1.to_vec2() * 2.0) + c.p2.to_vec2())
                    .hypot()
                    .max(((c.p1.to_vec2() - c.p2.to_vec2() * 2.0) + c.p3.to_vec2()).hypot());
                (0.75 * bend / tolerance).sqrt().ceil()
            }
        };
        steps.clamp(1.0, 500.0) as usize
    }
}

/// Halvings of a cubic at most.
const HALVINGS: u32 = 8;

/// A cubic seen by a projective map: halved until the one through its moved control points is near enough.
fn seen(c: CubicBez, map: &Projective, tolerance: f64, depth: u32) -> Vec<CubicBez> {
    let moved = CubicBez::new(map.at(c.p0), map.at(c.p1), map.at(c.p2), map.at(c.p3));
    let off = |t: f64| map.at(c.eval(t)).distance(moved.eval(t));
    if depth >= HALVINGS || [0.25, 0.5, 0.75].into_iter().all(|t| off(t) <= tolerance) {
        return vec![moved];
    }
    let (first, second) = c.subdivide();
    [first, second]
        .into_iter()
        .flat_map(|half| seen(half, map, tolerance, depth + 1))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::f64::consts::PI;

    fn quarter() -> Arc {
        // From (5, 0) about the origin to (0, 5): x towards y.
        Arc {
            p0: Point::new(5.0, 0.0),
            p1: Point::new(0.0, 5.0),
            bulge: (PI / 8.0).tan(),
        }
    }

    #[test]
    fn an_arc_knows_its_circle() {
        let arc = quarter();
        assert!(arc.centre().distance(Point::ORIGIN) < 1e-12);
        assert!((arc.radius() - 5.0).abs() < 1e-12);
        assert!((Segment::Arc(arc).length() - 2.5 * PI).abs() < 1e-12);
        assert!((Segment::Arc(arc).signed_area() - 25.0 * PI / 4.0).abs() < 1e-9);
        assert!(arc.tangent(0.0).cross(Vec2::new(0.0, 1.0)).abs() < 1e-9);
        assert!((arc.distance(Point::new(3.0, 3.0)) - (5.0 - 18f64.sqrt())).abs() < 1e-12);
        assert!((arc.distance(Point::new(-1.0, 5.0)) - 1.0).abs() < 1e-12);
    }

    #[test]
    fn an_arc_as_cubics_errs_as_published() {
        // Goldapp 1991 and others: a quarter circle by a cubic errs by at most 2.73e-4 of r.
        let half = Arc {
            p1: Point::new(-5.0, 0.0),
            bulge: 1.0,
            ..quarter()
        };
        for cubic in half.cubics() {
            for n in 0..=50 {
                let off = (cubic.eval(f64::from(n) / 50.0).to_vec2().hypot() - 5.0).abs();
                assert!(off < 5.0 * ARC_ACCURACY);
            }
        }
        assert_eq!(half.cubics().count(), 2);
    }

    #[test]
    fn reversed_twice_is_the_same() {
        let arc = Segment::Arc(quarter());
        assert_eq!(arc.reverse().reverse(), arc);
        assert!((arc.signed_area() + arc.reverse().signed_area()).abs() < 1e-12);
    }
}
