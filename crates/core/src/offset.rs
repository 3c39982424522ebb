//! Offset: shapes grown or shrunk by a distance, with exact parallels.
//!
//! ```text
//!        ╭───────────╮        Every segment is moved along its normal: lines stay lines, arcs keep
//!        │ ┌───────┐ │        their middle, a cubic becomes cubics within a tolerance. Gaps at
//!        │ │       │ │        corners are filled by a join (here round); where the moved sides
//!        │ └───────┘ │        overlap, the path goes through the corner itself, so that what it
//!        ╰───────────╯        runs around wrongly counts against it and falls away.
//! ```
//!
//! The moved path has winding number 1 + (bands) where it grows and 1 − (bands) where it shrinks,
//! a band being what a segment sweeps over, so what counts more than nought is the offset shape.
//! [`overlay`](crate::overlay) keeps that, with the curves' own segments.
//!
//! Steiner's formula holds for a convex shape grown by r: A + P·r + π·r².

use std::f64::consts::PI;

use kurbo::{BezPath, CubicBez, Line, ParamCurve, PathEl, Point, Vec2};
use rayon::prelude::*;

use crate::overlay::{self, Keep, Rings};
use crate::segment::{Arc, Segment};
use crate::shapes::Ring;

/// An offset cubic errs by at most this, mm.
const TOLERANCE: f64 = 0.003;
/// Sides of which the moved one turns round are taken in steps that err by at most this, mm.
const STEP: f64 = 0.01;
/// A turn below this is none, radians.
const STRAIGHT: f64 = 1e-3;

/// How a gap at a corner is filled.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Join {
    /// By an arc around the corner.
    #[default]
    Round,
    /// By going on to where both sides meet, up to [`MITRE_LIMIT`].
    Mitre,
    /// By a straight cut.
    Straight,
}

/// A mitre reaches at most so many times the distance; sharper corners are cut straight.
pub const MITRE_LIMIT: f64 = 4.0;

/// Shapes grown by `distance` mm, or shrunk where it is negative. Those that grow together become
/// one; those that vanish are left out. Outer rings have positive area and holes negative.
#[must_use]
pub fn offset(rings: &[&Ring], distance: f64, join: Join) -> Vec<Rings> {
    let moved: Vec<Ring> = rings
        .par_iter()
        .filter_map(|ring| Ring::new(moved(ring.segments(), true, distance, join), Vec::new()))
        .collect();
    kept(&moved)
}

/// What moved paths run around more often to the right, in as few pieces as it has.
fn kept(moved: &[Ring]) -> Vec<Rings> {
    let found = overlay::overlay(&moved.iter().collect::<Vec<_>>(), &[], Keep::Positive);
    let whole = |rings: Rings| Rings {
        outer: joined(rings.outer),
        holes: rings.holes.into_iter().map(joined).collect(),
    };
    found.into_iter().map(whole).collect()
}

/// A ring whose lines that go straight on, and arcs that go on around one middle, are one.
fn joined(ring: Ring) -> Ring {
    let sides = ring.segments();
    let n = sides.len();
    let Some(start) = (0..n).find(|&i| one(&sides[(i + n - 1) % n], &sides[i]).is_none()) else {
        return ring;
    };
    let mut segments: Vec<Segment> = Vec::with_capacity(n);
    for i in 0..n {
        let next = sides[(start + i) % n];
        match segments.last().and_then(|last| one(last, &next)) {
            Some(both) => {
                segments.pop();
                segments.push(both);
            }
            None => segments.push(next),
        }
    }
    if segments.len() < 2 {
        return ring;
    }
    Ring::new(segments, Vec::new()).unwrap_or(ring)
}

/// Two segments as one, where they are parts of one line or one circle.
fn one(a: &Segment, b: &Segment) -> Option<Segment> {
    match (a, b) {
        (Segment::Line(a), Segment::Line(b)) => {
            let (u, v) = (a.p1 - a.p0, b.p1 - b.p0);
            let straight = u.cross(v).abs() < 1e-7 * u.hypot() * v.hypot() && u.dot(v) > 0.0;
            straight.then(|| Segment::Line(Line::new(a.p0, b.p1)))
        }
        (Segment::Arc(a), Segment::Arc(b)) => {
            let same = a.centre().distance(b.centre()) < 1e-6
                && (a.radius() - b.radius()).abs() < 1e-6
                && a.bulge * b.bulge > 0.0;
            let sweep = a.sweep() + b.sweep();
            (same && sweep.abs() < 1.5 * PI).then(|| {
                Segment::Arc(Arc {
                    p0: a.p0,
                    p1: b.p1,
                    bulge: (sweep / 4.0).tan(),
                })
            })
        }
        _ => None,
    }
}

/// What lies within `distance` of an open path.
#[must_use]
pub fn around(path: &[Segment], distance: f64, join: Join) -> Vec<Rings> {
    let back = path.iter().rev().map(Segment::reverse);
    let there_and_back: Vec<Segment> = path.iter().copied().chain(back).collect();
    let ring = Ring::new(moved(&there_and_back, true, distance, join), Vec::new());
    ring.map_or_else(Vec::new, |ring| kept(&[ring]))
}

/// The unit normal to the right of a direction, which points out of a shape.
fn normal(way: Vec2) -> Vec2 {
    let length = way.hypot();
    if length > 0.0 {
        Vec2::new(way.y, -way.x) / length
    } else {
        Vec2::ZERO
    }
}

/// The path along which all segments are moved by `d` to the right.
fn moved(segments: &[Segment], closed: bool, d: f64, join: Join) -> Vec<Segment> {
    let mut out = Vec::with_capacity(2 * segments.len());
    let n = segments.len();
    for (i, segment) in segments.iter().enumerate() {
        beside(segment, d, &mut out);
        if i + 1 == n && !closed {
            break;
        }
        let next = &segments[(i + 1) % n];
        corner(
            segment.end(),
            [segment.tangent(true), next.tangent(false)],
            d,
            join,
            &mut out,
        );
    }
    out
}

fn line(a: Point, b: Point, out: &mut Vec<Segment>) {
    if a.distance(b) > 1e-9 {
        out.push(Segment::Line(Line::new(a, b)));
    }
}

/// The joint at a corner `p` between directions `u` and `v`.
fn corner(p: Point, [u, v]: [Vec2; 2], d: f64, join: Join, out: &mut Vec<Segment>) {
    let (nu, nv) = (normal(u), normal(v));
    let (a, b) = (p + nu * d, p + nv * d);
    let turn = nu.cross(nv).atan2(nu.dot(nv));
    if turn.abs() < STRAIGHT {
        return line(a, b, out);
    }
    let reversal = PI - turn.abs() < STRAIGHT;
    let opens = turn * d > 0.0 || reversal;
    if !opens {
        line(a, p, out);
        return line(p, b, out);
    }
    // At a spike either way round is half a circle; the outer one is on the side of `d`.
    let turn = if reversal { PI * d.signum() } else { turn };
    let tip = (nu + nv) * (d / (1.0 + nu.dot(nv)));
    match join {
        Join::Round => out.push(Segment::Arc(Arc {
            p0: a,
            p1: b,
            bulge: (turn / 4.0).tan(),
        })),
        Join::Mitre if !reversal && tip.hypot() <= MITRE_LIMIT * d.abs() => {
            line(a, p + tip, out);
            line(p + tip, b, out);
        }
        Join::Mitre | Join::Straight => line(a, b, out),
    }
}

/// A segment moved by `d` to the right.
fn beside(segment: &Segment, d: f64, out: &mut Vec<Segment>) {
    match *segment {
        Segment::Line(l) => {
            let by = normal(l.p1 - l.p0) * d;
            line(l.p0 + by, l.p1 + by, out);
        }
        Segment::Arc(a) => {
            // To the right of an arc that turns left lies its outside.
            let radius = a.radius() + d * a.bulge.signum();
            if radius > STEP {
                out.push(Segment::Arc(Arc {
                    p0: a.p0 + normal(a.tangent(0.0)) * d,
                    p1: a.p1 + normal(a.tangent(1.0)) * d,
                    bulge: a.bulge,
                }));
            } else {
                swept(segment, 0.0, 1.0, d, out);
            }
        }
        Segment::Cubic(c) if flat(&c) => beside(&Segment::Line(Line::new(c.p0, c.p3)), d, out),
        Segment::Cubic(c) => {
            let turns_round = turning(segment, d);
            let mut from = 0.0;
            for (n, &to) in turns_round.iter().chain(&[1.0]).enumerate() {
                if n % 2 == usize::from(backwards(segment, 0.0, d)) {
                    parallel(c.subsegment(from..to), d, out);
                } else {
                    swept(segment, from, to, d, out);
                }
                from = to;
            }
        }
    }
}

/// Whether a cubic is a straight line.
fn flat(c: &CubicBez) -> bool {
    let chord = c.p3 - c.p0;
    let off = |p: Point| (p - c.p0).cross(chord).abs() <= 1e-6 * chord.hypot();
    off(c.p1) && off(c.p2)
}

/// How fast a point moved by `d` to the right goes, for each unit of the curve; below nought it
/// goes backwards.
fn pace(segment: &Segment, t: f64, d: f64) -> f64 {
    let Segment::Cubic(c) = segment else {
        return 1.0;
    };
    let (way, bend) = (segment.derivative(t), second(c, t));
    let length = way.hypot().max(1e-9);
    1.0 + way.cross(bend) / length.powi(3) * d
}

fn second(c: &CubicBez, t: f64) -> Vec2 {
    let a = c.p2.to_vec2() - c.p1.to_vec2() * 2.0 + c.p0.to_vec2();
    let b = c.p3.to_vec2() - c.p2.to_vec2() * 2.0 + c.p1.to_vec2();
    (a * (1.0 - t) + b * t) * 6.0
}

fn backwards(segment: &Segment, t: f64, d: f64) -> bool {
    // Not at the very end, where a handle of no length hides the bend.
    pace(segment, t.clamp(1e-4, 1.0 - 1e-4), d) < 0.0
}

/// Where a moved cubic turns round.
fn turning(segment: &Segment, d: f64) -> Vec<f64> {
    const STEPS: usize = 24;
    let at = |n: usize| n as f64 / STEPS as f64;
    let mut found = Vec::new();
    for n in 0..STEPS {
        let (mut low, mut high) = (at(n), at(n + 1));
        let before = backwards(segment, low, d);
        if before == backwards(segment, high, d) {
            continue;
        }
        for _ in 0..30 {
            let middle = (low + high) / 2.0;
            if backwards(segment, middle, d) == before {
                low = middle;
            } else {
                high = middle;
            }
        }
        found.push(high);
    }
    found
}

/// The parallel of a cubic that nowhere turns round.
fn parallel(c: CubicBez, d: f64, out: &mut Vec<Segment>) {
    let whole = Segment::Cubic(c);
    let start = c.p0 + normal(whole.tangent(false)) * d;
    let end = c.p3 + normal(whole.tangent(true)) * d;
    let mut path = BezPath::new();
    kurbo::offset::offset_cubic(c, -d, TOLERANCE, &mut path);
    let first = out.len();
    let mut at = start;
    for element in path.elements() {
        match *element {
            PathEl::MoveTo(p) => at = p,
            PathEl::LineTo(p) => {
                line(at, p, out);
                at = p;
            }
            PathEl::CurveTo(p1, p2, p3) => {
                out.push(Segment::Cubic(CubicBez::new(at, p1, p2, p3)));
                at = p3;
            }
            PathEl::QuadTo(..) | PathEl::ClosePath => {}
        }
    }
    if out.len() == first {
        return line(start, end, out);
    }
    // Its ends lie where the corners expect them.
    if let Some(segment) = out.get_mut(first) {
        *segment = segment.between(start, segment.end());
    }
    if let Some(segment) = out.last_mut() {
        *segment = segment.between(segment.start(), end);
    }
}

/// A stretch whose moved side turns round, in straight steps each of which sweeps over its band
/// from the curve itself.
fn swept(segment: &Segment, from: f64, to: f64, d: f64, out: &mut Vec<Segment>) {
    let part = segment.part(from, to);
    let mut points = vec![part.start()];
    part.flatten(STEP, &mut points);
    let first = part.start() + normal(part.tangent(false)) * d;
    let last = part.end() + normal(part.tangent(true)) * d;
    line(first, part.start(), out);
    for pair in points.windows(2) {
        let by = normal(pair[1] - pair[0]) * d;
        line(pair[0], pair[0] + by, out);
        line(pair[0] + by, pair[1] + by, out);
        line(pair[1] + by, pair[1], out);
    }
    line(part.end(), last, out);
}
