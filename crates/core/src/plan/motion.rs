//! Motion: how long a tool needs along a line, with acceleration and slowing at corners.
//!
//! ```text
//!   speed │  ╱▔▔▔▔╲    ╱▔╲      The tool starts and ends at rest, and passes each corner no faster than
//!         │ ╱      ╲__╱   ╲     it may leave it to one side by `deviation` while it turns.
//!         └──────────────────► time
//! ```
//!
//! At a corner that turns by φ the speed is at most v² = a · δ · s / (1 − s) with s = cos(φ / 2): the
//! circle that touches both sides and passes the corner at distance δ, run with centripetal
//! acceleration a; on curves, v² = a r. Between corners the profile is a trapezium: v² = u² + 2 a l. Elementary kinematics.

use kurbo::Point;

use crate::material::Tool;

/// What a machine can do.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Motion {
    /// Speed without cutting, mm/s.
    pub travel: f64,
    /// Acceleration, mm/s².
    pub acceleration: f64,
    /// How far it may leave a corner to one side, mm.
    pub deviation: f64,
    /// Time to lower and to lift the tool, s.
    pub lift: f64,
}

impl Motion {
    /// A usual machine for a tool. Common practice, no source.
    #[must_use]
    pub const fn of(tool: Tool) -> Self {
        match tool {
            Tool::Blade | Tool::Pen => Self {
                travel: 600.0,
                acceleration: 4000.0,
                deviation: 0.02,
                lift: 0.06,
            },
            Tool::Laser => Self {
                travel: 500.0,
                acceleration: 3000.0,
                deviation: 0.02,
                lift: 0.0,
            },
        }
    }

    /// Time to go straight from rest to rest, s.
    #[must_use]
    pub fn straight(&self, length: f64, speed: f64) -> f64 {
        stretch(length, 0.0, 0.0, speed, self.acceleration)
    }

    /// When the tool passes each point of a line, from rest to rest, s.
    #[must_use]
    pub fn times(&self, points: &[Point], speed: f64) -> Vec<f64> {
        let lengths: Vec<f64> = points.windows(2).map(|w| w[0].distance(w[1])).collect();
        let mut at: Vec<f64> = vec![0.0; points.len()];
        for n in 1..points.len().saturating_sub(1) {
            at[n] = self.corner(points[n - 1], points[n], points[n + 1], speed);
        }
        let reach =
            |from: f64, length: f64| (from * from + 2.0 * self.acceleration * length).sqrt();
        for n in 0..lengths.len() {
            at[n + 1] = at[n + 1].min(reach(at[n], lengths[n]));
        }
        for n in (0..lengths.len()).rev() {
            at[n] = at[n].min(reach(at[n + 1], lengths[n]));
        }
        let mut now = 0.0;
        let mut times = Vec::with_capacity(points.len());
        times.push(0.0);
        for (n, &length) in lengths.iter().enumerate() {
            now += stretch(length, at[n], at[n + 1], speed, self.acceleration);
            times.push(now);
        }
        times
    }

    /// Greatest speed at a corner, mm/s.
    fn corner(&self, a: Point, b: Point, c: Point, speed: f64) -> f64 {
        let (u, v) = (b - a, c - b);
        let (long, wide) = (u.dot(v), u.cross(v));
        if long == 0.0 && wide == 0.0 {
            return speed;
        }
        let half = (wide.abs().atan2(long) / 2.0).cos();
        if half > 1.0 - 1e-12 {
            return speed;
        }
        let square = self.acceleration * self.deviation * half / (1.0 - half);
        // On a curve of many short chords the circle through three of its points says it: v² = a r.
        let radius = u.hypot() * v.hypot() * (u + v).hypot() / (2.0 * wide.abs());
        let most = square.min(self.acceleration * radius).sqrt();
        if most.is_nan() {
            speed
        } else {
            most.min(speed)
        }
    }
}

/// Time over a length from one speed to another, never above `most`.
fn stretch(length: f64, from: f64, to: f64, most: f64, acceleration: f64) -> f64 {
    if length <= 0.0 {
        return 0.0;
    }
    // The speed at which speeding up and slowing down meet.
    let peak = ((2.0 * acceleration * length + from * from + to * to) / 2.0).sqrt();
    let top = peak.min(most).max(from).max(to);
    let ramps = (2.0 * top * top - from * from - to * to) / (2.0 * acceleration);
    let even = (length - ramps).max(0.0) / top;
    (2.0 * top - from - to) / acceleration + even
}

#[cfg(test)]
mod tests {
    use super::*;

    const MOTION: Motion = Motion {
        travel: 500.0,
        acceleration: 1000.0,
        deviation: 0.02,
        lift: 0.0,
    };

    #[test]
    fn a_straight_line_takes_what_kinematics_says() {
        // 100 mm/s is reached after 0.1 s and 5 mm; 90 mm at 100 mm/s between: 0.1 + 0.9 + 0.1 s.
        assert!((MOTION.straight(100.0, 100.0) - 1.1).abs() < 1e-12);
        // 4 mm are too short for it: t = 2 √(l / a).
        assert!((MOTION.straight(4.0, 100.0) - 2.0 * 0.004_f64.sqrt()).abs() < 1e-12);
    }

    #[test]
    fn a_point_in_the_middle_of_a_line_changes_nothing_and_a_right_angle_does() {
        let [a, b] = [(0.0, 0.0), (50.0, 0.0)].map(Point::from);
        let through = MOTION.times(&[a, b, Point::new(100.0, 0.0)], 100.0);
        assert!((through[2] - 1.1).abs() < 1e-12);
        let turned = MOTION.times(&[a, b, Point::new(50.0, 50.0)], 100.0);
        // cos 45° = 0.7071: v² = 1000 · 0.02 · 2.4142, v = 6.949 mm/s; each side from rest to v.
        let v: f64 = (20.0 * 2.414_213_562_373_095_f64).sqrt();
        let side = 0.1 + (100.0 - v) / 1000.0 + (50.0 - 5.0 - (1e4 - v * v) / 2000.0) / 100.0;
        assert!((turned[2] - 2.0 * side).abs() < 1e-9, "{turned:?}");
    }

    #[test]
    fn a_circle_is_run_at_the_speed_its_radius_allows() {
        // Centripetal: v² = a r, whatever the number of chords that keep to the deviation.
        let r = 2.0;
        let step = 2.0 * (1.0_f64 - MOTION.deviation / r).acos();
        let count = (std::f64::consts::TAU / step).ceil() * 8.0;
        let circle: Vec<Point> = (0..=count as usize)
            .map(|n| {
                Point::ORIGIN
                    + kurbo::Vec2::from_angle(n as f64 / count * 2.0 * std::f64::consts::TAU) * r
            })
            .collect();
        let took = MOTION.times(&circle, 1000.0);
        let length = 2.0 * std::f64::consts::TAU * r;
        let mean = length / took[took.len() - 1];
        assert!(mean < (1000.0 * r).sqrt() * 1.01, "{mean}");
        assert!(mean > (1000.0 * r).sqrt() * 0.9, "{mean}");
    }
}
