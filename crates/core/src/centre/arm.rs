//! An arm of a meeting: a line as it comes to a place where several meet.

use kurbo::{CubicBez, Line, ParamCurve, Point, Vec2};

use crate::centre::ends::heading;
use crate::centre::graph::End;
use crate::centre::midline::Middle;
use crate::least_squares::solve;

/// An arm of a meeting: where its line was last seen, px, and where it leads.
#[derive(Clone, Copy)]
pub(super) struct Arm {
    pub end: End,
    pub at: Point,
    pub along: Vec2,
}

impl Arm {
    /// The arm of a branch end whose line was seen at `middles`, towards its node.
    pub(super) fn of(end: End, middles: &[Middle], node: Point) -> Self {
        let mut line = middles.to_vec();
        if end.1 == 0 {
            line.reverse();
        }
        let last = line[line.len() - 1].at;
        let (at, along) = heading(&line).unwrap_or_else(|| {
            let along = node - last;
            (last, along / along.hypot().max(1e-9))
        });
        Self { end, at, along }
    }

    /// How far the stroke would turn to run on in another arm, radians.
    pub(super) fn turn(&self, other: &Self, reach: f64) -> f64 {
        let angle = |a: Vec2, b: Vec2| a.cross(b).atan2(a.dot(b)).abs();
        let gap = other.at - self.at;
        let turn = angle(self.along, -other.along);
        // Arms side by side do not lead into one another, however parallel.
        if gap.hypot() < 0.5 * reach {
            turn
        } else {
            turn.max(angle(self.along, gap))
                .max(angle(gap, -other.along))
        }
    }

    /// Points of a smooth way into another arm, about a pixel apart, both ends left out.
    pub(super) fn bridge(&self, other: &Self) -> Vec<Point> {
        let gap = self.at.distance(other.at);
        let curve = CubicBez::new(
            self.at,
            self.at + self.along * (gap / 3.0),
            other.at + other.along * (gap / 3.0),
            other.at,
        );
        let steps = gap.ceil().max(1.0);
        (1..steps as usize)
            .map(|n| curve.eval(n as f64 / steps))
            .collect()
    }
}

/// Where an arm that goes straight on meets a line of points first.
pub(super) fn first_on(arm: &Arm, points: &[Point], most: f64) -> Option<Point> {
    let ray = Line::new(arm.at, arm.at + arm.along * most);
    let met = points.windows(2).filter_map(|p| {
        let step = Line::new(p[0], p[1]);
        let at = ray.crossing_point(step)?;
        let along = (at - arm.at).dot(arm.along);
        let length = (p[1] - p[0]).hypot();
        let part = (at - p[0]).dot(p[1] - p[0]) / (length * length).max(1e-18);
        let on = (-0.01..=1.01).contains(&part) && (0.0..=most).contains(&along);
        on.then_some((along, at))
    });
    met.min_by(|a, b| a.0.total_cmp(&b.0)).map(|m| m.1)
}

/// The point nearest to the lines of all arms, by least squares.
pub(super) fn meeting_point(arms: &[Arm]) -> Option<Point> {
    if arms.len() < 2 {
        return None;
    }
    let (mut a, mut b) = ([[0.0; 2]; 2], [[0.0]; 2]);
    for arm in arms {
        let n = arm.along.turn_90();
        let d = n.dot(arm.at.to_vec2());
        a[0][0] += n.x * n.x;
        a[0][1] += n.x * n.y;
        a[1][0] += n.x * n.y;
        a[1][1] += n.y * n.y;
        b[0][0] += n.x * d;
        b[1][0] += n.y * d;
    }
    let [[x], [y]] = solve(a, b)?;
    Some(Point::new(x, y))
}
