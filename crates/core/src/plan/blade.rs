//! Blade: what a drag knife needs beyond the line itself.
//!
//! ```text
//!   overcut: ──●══►        a closed line runs on past its start, so that the ends are cut through
//!   swivel:    ╭─◄ holder  the tip trails behind the holder's axis by the offset; at a corner the
//!   ──────────●            holder swings around the tip until it points the new way
//! ```
//!
//! The tip stays on the line exactly where the holder runs ahead of it by the offset along the
//! line's direction. Own derivation; a tip drawn behind its holder (a tractrix) is the test of it.

use kurbo::{Point, Vec2};

use crate::segment::Segment;

/// Steps of a swing err by at most this, mm.
const SWING: f64 = 0.005;
/// Turns below this are followed without a swing, radians.
const STRAIGHT: f64 = 0.02;

/// The first `length` mm of a line that begins anew where it ended.
#[must_use]
pub fn overcut(segments: &[Segment], length: f64) -> Vec<Segment> {
    let mut left = length;
    let mut over = Vec::new();
    for segment in segments {
        let long = segment.length();
        if left <= 1e-6 {
            break;
        }
        if long <= left {
            over.push(*segment);
        } else {
            // A parameter is as good as a length over so short a way.
            over.push(segment.part(0.0, left / long));
        }
        left -= long;
    }
    over
}

/// The way of the holder whose tip follows `points`, `offset` mm ahead of it.
#[must_use]
pub fn holder(points: &[Point], offset: f64) -> Vec<Point> {
    let mut way: Vec<Point> = Vec::with_capacity(points.len() * 2);
    let mut heading: Option<Vec2> = None;
    for w in points.windows(2) {
        let along = w[1] - w[0];
        if along.hypot() < 1e-9 {
            continue;
        }
        let next = along.normalize();
        match heading {
            Some(last) => swing(&mut way, w[0], last, next, offset),
            None => way.push(w[0] + next * offset),
        }
        way.push(w[1] + next * offset);
        heading = Some(next);
    }
    way
}

/// From one heading to the next around the tip.
fn swing(way: &mut Vec<Point>, tip: Point, from: Vec2, to: Vec2, offset: f64) {
    let turn = from.cross(to).atan2(from.dot(to));
    if turn.abs() > STRAIGHT {
        let step = 2.0 * (1.0 - SWING / offset.max(SWING)).clamp(-1.0, 1.0).acos();
        let steps = (turn.abs() / step.max(0.05)).ceil();
        let start = from.atan2();
        for n in 1..steps as usize {
            let angle = start + turn * n as f64 / steps;
            way.push(tip + Vec2::from_angle(angle) * offset);
        }
    }
    way.push(tip + to * offset);
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The tip drawn by its holder: in small steps it is always `offset` behind, on the line to it.
    fn drawn(holder: &[Point], first: Point, offset: f64) -> Vec<Point> {
        let mut tip = first;
        let mut track = vec![tip];
        for w in holder.windows(2) {
            let steps = (w[0].distance(w[1]) / 0.002).ceil().max(1.0);
            for n in 1..=steps as usize {
                let at = w[0].lerp(w[1], n as f64 / steps);
                let behind = tip - at;
                tip = at + behind * (offset / behind.hypot());
                track.push(tip);
            }
        }
        track
    }

    #[test]
    fn a_tip_drawn_behind_the_holder_stays_on_the_line() {
        let offset = 0.25;
        let corners = [
            (0.0, 0.0),
            (20.0, 0.0),
            (20.0, 10.0),
            (5.0, 10.0),
            (12.0, 3.0),
        ];
        let line: Vec<Point> = corners.map(Point::from).to_vec();
        let track = drawn(&holder(&line, offset), line[0], offset);
        let far = |p: &Point| {
            let sides = line.windows(2).map(|w| {
                let along = w[1] - w[0];
                let t = ((*p - w[0]).dot(along) / along.hypot2()).clamp(0.0, 1.0);
                p.distance(w[0].lerp(w[1], t))
            });
            sides.fold(f64::INFINITY, f64::min)
        };
        let worst = track.iter().map(far).fold(0.0, f64::max);
        assert!(worst < 0.01, "{worst}");
        // Without the swings the knife cuts every corner by a good part of its offset.
        let blunt = drawn(&line, line[0] - kurbo::Vec2::new(offset, 0.0), offset);
        assert!(blunt.iter().map(far).fold(0.0, f64::max) > 0.1);
    }

    #[test]
    fn an_overcut_has_its_length() {
        let side = |a: (f64, f64), b: (f64, f64)| Segment::Line(kurbo::Line::new(a, b));
        let square = [
            side((0.0, 0.0), (1.0, 0.0)),
            side((1.0, 0.0), (1.0, 1.0)),
            side((1.0, 1.0), (0.0, 0.0)),
        ];
        let over = overcut(&square, 1.5);
        let length: f64 = over.iter().map(Segment::length).sum();
        assert!((length - 1.5).abs() < 1e-9);
        assert_eq!(over[1].end(), Point::new(1.0, 0.5));
    }
}
