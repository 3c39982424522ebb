//! Parts and holes that are too small, corners that are too sharp, nodes that are too many.

use kurbo::{Point, Vec2};

use super::finding::{Finding, Measure};
use super::kind::Kind;
use crate::assembly::Layer;
use crate::segment::Segment;
use crate::shapes::Ring;

/// Rings with fewer nodes than this never have too many.
const FEW: usize = 24;
/// Arms of a corner that are shorter than this part of the thinnest stroke are no spike.
const ARM: f64 = 0.5;

/// How large something is across: the longer side of the box around it, mm.
pub(super) fn across(ring: &Ring) -> f64 {
    let b = ring.bounds();
    b.width().max(b.height())
}

/// A place inside a ring's box that lies on the ring.
fn on(ring: &Ring) -> Point {
    ring.segments()[0].start()
}

pub(super) fn small(layer: &Layer, number: usize, found: &mut Vec<Finding>) {
    let limits = &layer.material.limits;
    let finding = |kind, ring: &Ring, limit| Finding {
        kind,
        layer: Some(number),
        at: ring.bounds().center(),
        value: across(ring),
        limit,
        measure: Measure::Mm,
        source: layer.material.name.clone(),
        touching: vec![on(ring)],
        extent: vec![outline(ring)],
    };
    for (n, shape) in layer.shapes.iter().enumerate() {
        // What falls out of a sheet is told as that.
        if across(&shape.outer) < limits.part && !layer.islands.contains(&n) {
            found.push(finding(Kind::SmallPart, &shape.outer, limits.part));
        }
        for hole in &shape.holes {
            if across(hole) < limits.hole {
                found.push(finding(Kind::SmallHole, hole, limits.hole));
            }
        }
    }
}

/// A ring as points, closed.
pub(super) fn outline(ring: &Ring) -> Vec<Point> {
    let mut points = vec![ring.segments()[0].start()];
    for segment in ring.segments() {
        segment.flatten(0.05, &mut points);
    }
    points
}

pub(super) fn islands(layer: &Layer, number: usize, found: &mut Vec<Finding>) {
    for &n in &layer.islands {
        let ring = &layer.shapes[n].outer;
        found.push(Finding {
            kind: Kind::FallsOut,
            layer: Some(number),
            at: ring.bounds().center(),
            value: across(ring),
            limit: 0.0,
            measure: Measure::Mm,
            source: layer.material.name.clone(),
            touching: vec![on(ring)],
            extent: vec![outline(ring)],
        });
    }
}

pub(super) fn over_noded(layer: &Layer, number: usize, found: &mut Vec<Finding>) {
    let limit = layer.material.limits.nodes;
    for ring in layer.rings() {
        let nodes = ring.segments().len();
        let spacing = ring.length() / nodes as f64;
        if nodes >= FEW && spacing < limit {
            found.push(Finding {
                kind: Kind::OverNoded,
                layer: Some(number),
                at: on(ring),
                value: spacing,
                limit,
                measure: Measure::Mm,
                source: layer.material.name.clone(),
                touching: vec![on(ring)],
                extent: vec![outline(ring)],
            });
        }
    }
}

/// Corners sharper than the material forgives, whose arms are long enough to stand out.
pub(super) fn spikes(layer: &Layer, number: usize, found: &mut Vec<Finding>) {
    let limits = &layer.material.limits;
    for ring in layer.rings() {
        for (at, angle) in sharp(ring, limits.corner, limits.stroke * ARM) {
            found.push(Finding {
                kind: Kind::Spike,
                layer: Some(number),
                at,
                value: angle,
                limit: limits.corner,
                measure: Measure::Degrees,
                source: layer.material.name.clone(),
                touching: vec![at],
                extent: Vec::new(),
            });
        }
    }
}

/// Corners of a ring below an angle in degrees, measured at the node and again at the ends of arms
/// of `arm` mm.
fn sharp(ring: &Ring, limit: f64, arm: f64) -> Vec<(Point, f64)> {
    let segments = ring.segments();
    let mut found = Vec::new();
    for n in 0..segments.len() {
        let before = &segments[(n + segments.len() - 1) % segments.len()];
        let next = &segments[n];
        let corner = next.start();
        let angle = between(-before.tangent(true), next.tangent(false));
        if angle >= limit {
            continue;
        }
        let back = walked(segments, n, arm, true);
        let ahead = walked(segments, n, arm, false);
        let at_arms = between(back - corner, ahead - corner);
        if at_arms < limit {
            found.push((corner, angle.max(at_arms)));
        }
    }
    found
}

fn between(u: Vec2, v: Vec2) -> f64 {
    u.cross(v).atan2(u.dot(v)).abs().to_degrees()
}

/// The place so many mm along a ring from a node.
fn walked(segments: &[Segment], node: usize, arm: f64, back: bool) -> Point {
    let count = segments.len();
    let mut left = arm;
    let mut at = segments[node].start();
    for k in 0..count {
        let segment = if back {
            segments[(node + count - 1 - k) % count].reverse()
        } else {
            segments[(node + k) % count]
        };
        let length = segment.length();
        if length >= left {
            return segment.eval(left / length);
        }
        left -= length;
        at = segment.end();
    }
    at
}
