//! Arcs: a cubic as lines and circular arcs, for formats that know no cubics.
//!
//! ```text
//!   p0 ──t0─►  ╭──q──╮   Two arcs that leave p0 along t0, meet smoothly at q and reach p1 along t1.
//!             ╱       ╲  Where they stray too far, the cubic is halved and each half tried again.
//! ```
//!
//! Source: Bolton 1975, "Biarc curves", Computer-Aided Design 7(2).

use inky_core::segment::{Arc, Segment};
use kurbo::{CubicBez, Line, ParamCurve, Point, Vec2};

/// Places at which two arcs are compared with their cubic.
const SAMPLES: usize = 14;
/// Part of the tolerance that they are held to, for what lies between the places.
const HELD: f64 = 0.88;
/// Halvings at most.
const DEPTH: u32 = 12;
/// An arc whose bulge is below this is a line.
const STRAIGHT: f64 = 1e-6;

/// Segments without cubics, none of which strays from its own by more than `tolerance` mm.
#[must_use]
pub(crate) fn as_arcs(segments: &[Segment], tolerance: f64) -> Vec<Segment> {
    let mut out = Vec::with_capacity(segments.len() * 2);
    for segment in segments {
        match segment {
            Segment::Cubic(c) => cubic(*c, tolerance, DEPTH, &mut out),
            other => out.push(*other),
        }
    }
    out
}

fn cubic(c: CubicBez, tolerance: f64, depth: u32, out: &mut Vec<Segment>) {
    let found = biarc(c).filter(|both| strayed(c, both) <= tolerance * HELD);
    if let Some(both) = found {
        out.extend(both);
    } else if depth == 0 {
        out.push(Segment::Line(Line::new(c.p0, c.p3)));
    } else {
        let (a, b) = c.subdivide();
        cubic(a, tolerance, depth - 1, out);
        cubic(b, tolerance, depth - 1, out);
    }
}

/// Two arcs with the ends and the directions of a cubic.
fn biarc(c: CubicBez) -> Option<[Segment; 2]> {
    let curve = Segment::Cubic(c);
    let (t0, t1) = (
        curve.tangent(false).normalize(),
        curve.tangent(true).normalize(),
    );
    let v = c.p3 - c.p0;
    if !(t0 + t1).is_finite() || v.hypot() < 1e-9 {
        return None;
    }
    // Both arcs have tangents of equal length d: (1 − t0·t1) 2 d² + 2 v·(t0 + t1) d = v·v.
    let (along, apart) = (v.dot(t0 + t1), 2.0 * (1.0 - t0.dot(t1)));
    let d = if apart < 1e-9 {
        v.hypot2() / (2.0 * along)
    } else {
        ((along * along + apart * v.hypot2()).sqrt() - along) / apart
    };
    if !(d.is_finite() && d > 0.0) {
        return None;
    }
    let q = c.p0.midpoint(c.p3) + (t0 - t1) * (d / 2.0);
    Some([
        between(c.p0, q, turn(t0, q - c.p0)),
        between(q, c.p3, turn(c.p3 - q, t1)),
    ])
}

/// Signed angle from one direction to another, radians.
fn turn(from: Vec2, to: Vec2) -> f64 {
    from.cross(to).atan2(from.dot(to))
}

/// The arc whose tangent makes an angle of `half` with its chord.
fn between(p0: Point, p1: Point, half: f64) -> Segment {
    let bulge = (half / 2.0).tan();
    if bulge.abs() < STRAIGHT || p0.distance(p1) < 1e-9 {
        Segment::Line(Line::new(p0, p1))
    } else {
        Segment::Arc(Arc { p0, p1, bulge })
    }
}

/// How far a cubic strays from two arcs, at places along it: each is held against the arc on its side of
/// the joint.
fn strayed(c: CubicBez, arcs: &[Segment; 2]) -> f64 {
    let joint = arcs[0].end();
    let along = arcs[0].tangent(true);
    let circles = arcs.map(|a| match a {
        Segment::Arc(arc) => (arc.centre(), arc.radius()),
        other => (other.start(), f64::INFINITY),
    });
    let far = |n: usize| {
        let p = c.eval(n as f64 / SAMPLES as f64);
        let side = usize::from((p - joint).dot(along) > 0.0);
        let (middle, radius) = circles[side];
        if radius.is_finite() {
            (p.distance(middle) - radius).abs()
        } else {
            arcs[side].distance(p, 1e-6)
        }
    };
    (1..SAMPLES).map(far).fold(0.0, f64::max)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn arcs_keep_to_their_cubic_and_join_smoothly() {
        let c = CubicBez::new((0.0, 0.0), (30.0, -5.0), (10.0, 40.0), (50.0, 30.0));
        for tolerance in [0.1, 0.01, 0.001] {
            let arcs = as_arcs(&[Segment::Cubic(c)], tolerance);
            for w in arcs.windows(2) {
                assert!(w[0].end().distance(w[1].start()) < 1e-9);
                let (a, b) = (w[0].tangent(true), w[1].tangent(false));
                assert!(turn(a, b).abs() < 1e-6, "a kink");
            }
            // Denser than what was asked while fitting.
            let far = (0..=1000).map(|n| {
                let p = c.eval(f64::from(n) / 1000.0);
                let off = arcs.iter().map(|a| a.distance(p, 1e-9));
                off.fold(f64::INFINITY, f64::min)
            });
            assert!(far.fold(0.0, f64::max) <= tolerance);
        }
    }
}
