//! How a head goes along straight legs: no faster than it is asked to, no harder than its acceleration, slower round
//! corners, and never so fast that it could not stop at the end of what it knows.
//!
//! ```text
//!   speed  ▁▂▄▆████▆▄▂▂▄▆██▆▄▂▁         a corner between two legs, the end after them
//! ```
//!
//! The speed at a corner is the one at which the head's velocity jumps by `corner` at most; the speeds before it
//! follow from what comes after, backwards.

use std::collections::VecDeque;

use kurbo::Point;

/// What a machine's drives can do.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Dynamics {
    /// Greatest acceleration, mm/s².
    pub acceleration: f64,
    /// Greatest jump of the velocity at a corner, mm/s.
    pub corner: f64,
}

/// What the head is to do next.
#[derive(Clone, Copy, Debug)]
enum Task {
    /// Go straight to a place, no faster than this, mm/s.
    Go { to: Point, speed: f64 },
    /// Stand, s.
    Stand { left: f64 },
}

/// A piece of the way that was really gone.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Gone<T> {
    /// Where it began.
    pub from: Point,
    /// Where it ended.
    pub to: Point,
    /// Mean speed along it, mm/s.
    pub speed: f64,
    /// What the leg was asked for with.
    pub with: T,
    /// Whether the leg ended with it.
    pub ended: bool,
}

/// A head and what it still has to do, each task with something of the caller's.
#[derive(Clone, Debug)]
pub struct Head<T> {
    at: Point,
    /// Along the leg it is on, mm/s.
    speed: f64,
    tasks: VecDeque<(Task, T)>,
    dynamics: Dynamics,
}

/// Shorter legs are none, mm.
const NOTHING: f64 = 1e-9;

impl<T: Copy> Head<T> {
    /// A head at rest.
    #[must_use]
    pub const fn new(at: Point, dynamics: Dynamics) -> Self {
        Self {
            at,
            speed: 0.0,
            tasks: VecDeque::new(),
            dynamics,
        }
    }

    /// Where it is.
    #[must_use]
    pub const fn at(&self) -> Point {
        self.at
    }

    /// How fast it is, mm/s.
    #[must_use]
    pub const fn speed(&self) -> f64 {
        self.speed
    }

    /// Where it will be once all is done.
    #[must_use]
    pub fn target(&self) -> Point {
        let goes = self.tasks.iter().rev().find_map(|(task, _)| match task {
            Task::Go { to, .. } => Some(*to),
            Task::Stand { .. } => None,
        });
        goes.unwrap_or(self.at)
    }

    /// How many tasks are left.
    #[must_use]
    pub fn left(&self) -> usize {
        self.tasks.len()
    }

    /// A leg more; one of no length is done already.
    pub fn go(&mut self, to: Point, speed: f64, with: T) {
        if self.target().distance(to) > NOTHING {
            self.tasks.push_back((Task::Go { to, speed }, with));
        }
    }

    /// A rest more, s.
    pub fn stand(&mut self, seconds: f64, with: T) {
        self.tasks.push_back((Task::Stand { left: seconds }, with));
    }

    /// Stops at once and forgets what was left.
    pub fn halt(&mut self) {
        self.tasks.clear();
        self.speed = 0.0;
    }

    /// Stops at once and keeps what is left.
    pub const fn hold(&mut self) {
        self.speed = 0.0;
    }

    /// Lets time go by until the next task is done, or all of `seconds` is used; takes what it used from it.
    pub fn advance(&mut self, seconds: &mut f64) -> Option<Gone<T>> {
        let &mut (ref mut task, with) = self.tasks.front_mut()?;
        let from = self.at;
        let done = |ended| Gone {
            from,
            to: from,
            speed: 0.0,
            with,
            ended,
        };
        match *task {
            Task::Stand { left } if left > *seconds => {
                *task = Task::Stand {
                    left: left - *seconds,
                };
                *seconds = 0.0;
                Some(done(false))
            }
            Task::Stand { left } => {
                *seconds -= left;
                self.tasks.pop_front();
                Some(done(true))
            }
            Task::Go { to, speed } => {
                let length = from.distance(to);
                let ramp = Ramp::of(
                    [self.speed.min(speed), speed, self.end_speed()],
                    length,
                    self.dynamics.acceleration,
                );
                let took = ramp.seconds();
                let ended = took <= *seconds;
                if ended {
                    *seconds -= took;
                    (self.at, self.speed) = (to, ramp.end);
                    self.tasks.pop_front();
                } else {
                    let (gone, now) = ramp.after(*seconds);
                    *seconds = 0.0;
                    self.speed = now;
                    self.at = from.lerp(to, (gone / length).clamp(0.0, 1.0));
                }
                Some(Gone {
                    from,
                    to: self.at,
                    speed: if took > 0.0 { length / took } else { speed },
                    with,
                    ended,
                })
            }
        }
    }

    /// The speed that the leg it is on may end with, mm/s.
    fn end_speed(&self) -> f64 {
        let mut legs: Vec<(Point, Point, f64)> = Vec::new();
        let mut from = self.at;
        // What lies farther than it needs to stop changes nothing.
        let mut beyond = f64::INFINITY;
        for (task, _) in &self.tasks {
            let &Task::Go { to, speed } = task else { break };
            if legs.is_empty() {
                beyond = speed * speed / (2.0 * self.dynamics.acceleration);
            } else {
                beyond -= from.distance(to);
            }
            legs.push((from, to, speed));
            from = to;
            if beyond <= 0.0 {
                break;
            }
        }
        let mut end = 0.0f64;
        for pair in legs.windows(2).rev() {
            let [(a, b, first), (_, c, second)] = [pair[0], pair[1]];
            let length = b.distance(c);
            let reach = (end * end + 2.0 * self.dynamics.acceleration * length).sqrt();
            let jump = ((b - a).normalize() - (c - b).normalize()).hypot();
            let corner = self.dynamics.corner / jump.max(1e-9);
            end = reach.min(corner).min(first).min(second);
        }
        end
    }
}

/// Speeding up, going on, slowing down along one leg.
#[derive(Clone, Copy, Debug)]
struct Ramp {
    begin: f64,
    peak: f64,
    end: f64,
    length: f64,
    acceleration: f64,
}

impl Ramp {
    fn of([begin, most, end]: [f64; 3], length: f64, acceleration: f64) -> Self {
        let twice = 2.0 * acceleration * length;
        let end = end.min((begin * begin + twice).sqrt());
        let peak = ((twice + begin * begin + end * end) / 2.0).sqrt();
        Self {
            begin,
            peak: peak.min(most).max(begin.max(end)),
            end,
            length,
            acceleration,
        }
    }

    /// How long it speeds up, goes on, and slows down, s.
    fn parts(&self) -> [f64; 3] {
        let [up, down] = [self.begin, self.end].map(|v| (self.peak - v) / self.acceleration);
        let ramps = (self.begin + self.peak) / 2.0 * up + (self.end + self.peak) / 2.0 * down;
        let even = (self.length - ramps).max(0.0) / self.peak.max(1e-12);
        [up, even, down]
    }

    fn seconds(&self) -> f64 {
        self.parts().iter().sum()
    }

    /// How far it is and how fast after so long.
    fn after(&self, seconds: f64) -> (f64, f64) {
        let [up, even, _] = self.parts();
        let a = self.acceleration;
        let first = seconds.min(up);
        let mut gone = self.begin * first + a * first * first / 2.0;
        if seconds <= up {
            return (gone, self.begin + a * seconds);
        }
        let second = (seconds - up).min(even);
        gone += self.peak * second;
        let third = (seconds - up - even).max(0.0);
        (
            gone + self.peak * third - a * third * third / 2.0,
            self.peak - a * third,
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const DYNAMICS: Dynamics = Dynamics {
        acceleration: 1000.0,
        corner: 10.0,
    };

    /// All legs done in steps of so many seconds: how long it took, and where each piece ended.
    fn run(legs: &[(f64, f64)], step: f64) -> (f64, Vec<Point>) {
        let mut head = Head::new(Point::ZERO, DYNAMICS);
        for &to in legs {
            head.go(to.into(), 100.0, ());
        }
        let (mut time, mut places) = (0.0, Vec::new());
        while head.left() > 0 {
            let mut left = step;
            while left > 0.0
                && let Some(gone) = head.advance(&mut left)
            {
                places.push(gone.to);
            }
            time += step - left;
        }
        (time, places)
    }

    #[test]
    fn a_leg_takes_the_time_of_even_acceleration() {
        // From rest to 100 mm/s at 1000 mm/s² takes 0.1 s and 5 mm, and as much to stop: 100 mm take 1.1 s.
        assert!((run(&[(100.0, 0.0)], 10.0).0 - 1.1).abs() < 1e-9);
        // 4 mm are too short for it: twice the root of 4 mm over the acceleration.
        assert!((run(&[(4.0, 0.0)], 10.0).0 - 2.0 * (0.004f64).sqrt()).abs() < 1e-9);
    }

    #[test]
    fn straight_on_nothing_is_lost_and_a_corner_slows() {
        let whole = run(&[(100.0, 0.0)], 10.0).0;
        let parts: Vec<(f64, f64)> = (1..=50).map(|n| (f64::from(n) * 2.0, 0.0)).collect();
        assert!((run(&parts, 10.0).0 - whole).abs() < 1e-6);
        // A right angle: the velocity jumps by √2 times the speed, so it is gone round at 10 / √2 mm/s.
        let corner = run(&[(50.0, 0.0), (50.0, 50.0)], 10.0).0;
        let end = 10.0 / 2f64.sqrt();
        let ramps = 0.1 + (100.0 - end) / 1000.0;
        let long = (5.0 + (100.0f64.powi(2) - end * end) / 2000.0, ramps);
        assert!((corner - 2.0 * (long.1 + (50.0 - long.0) / 100.0)).abs() < 1e-9);
    }

    #[test]
    fn how_time_is_cut_changes_nothing() {
        let legs = [
            (30.0, 0.0),
            (30.0, 5.0),
            (10.0, 20.0),
            (10.2, 20.0),
            (0.0, 0.0),
        ];
        let (whole, _) = run(&legs, 100.0);
        for step in [0.5, 0.013, 0.0007] {
            let (time, places) = run(&legs, step);
            assert!((time - whole).abs() < 1e-6, "{step}: {time} of {whole}");
            assert!(
                places
                    .last()
                    .is_some_and(|p| p.distance(Point::ZERO) < 1e-9)
            );
        }
    }

    #[test]
    fn it_stops_where_it_is_and_stands_as_long_as_it_is_told() {
        let mut head = Head::new(Point::ZERO, DYNAMICS);
        head.go(Point::new(100.0, 0.0), 100.0, 'a');
        head.stand(0.25, 'b');
        let mut left = 0.6;
        while left > 0.0 && head.advance(&mut left).is_some() {}
        // 0.1 s and 5 mm to speed up, then 0.5 s at 100 mm/s.
        assert!((head.at().x - 55.0).abs() < 1e-9);
        head.halt();
        assert!(head.left() == 0 && head.speed() == 0.0);
        head.stand(0.25, 'b');
        let mut left = 1.0;
        assert!(
            head.advance(&mut left)
                .is_some_and(|gone| gone.ended && gone.with == 'b')
        );
        assert!((left - 0.75).abs() < 1e-12);
    }
}
