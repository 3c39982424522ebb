//! A dry run: what a machine makes of a program, told path by path, and how long it takes.
//!
//! The machine is given one path after the other and all the time it wants, so what is drawn is what the bytes say, its
//! own corners and arcs included, and not what was planned.

use std::collections::VecDeque;

use kurbo::Point;

use crate::machine::Machine;
use crate::sender::{Language, Program, UNANSWERED};

/// Time that goes by between two looks at the machine, s: shorter than a blade may stand in the media.
const STEP: f64 = 0.1;
/// The same while lines flow to a machine that answers each, s.
const FLOWING: f64 = 0.005;
/// Time after which a machine that still does not answer is given up, s.
const LONGEST: f64 = 1e5;

/// Where the tool of a machine goes in the material, mm, y up: the strokes of each path.
#[must_use]
pub fn strokes(machine: &mut Machine, program: &Program) -> Vec<Vec<Vec<Point>>> {
    let paths = program.paths.iter().map(|path| {
        match program.language {
            Language::Hpgl => all_at_once(machine, path.text.as_bytes()),
            Language::Gcode => path.text.lines().for_each(|l| answered(machine, l)),
        }
        until(machine, STEP, |machine| machine.is_idle());
        machine.take_strokes()
    });
    paths.collect()
}

/// How long a machine moves, s, when it is sent a text as fast as it takes it.
#[must_use]
pub fn seconds(machine: &mut Machine, text: &str) -> f64 {
    match machine {
        Machine::Cutter(_) => all_at_once(machine, text.as_bytes()),
        Machine::Laser(_) => flowing(machine, text),
        Machine::Printer(_) => return 0.0,
    }
    until(machine, STEP, |machine| machine.is_idle());
    machine.seconds()
}

/// Lets time go by until something holds.
fn until(machine: &mut Machine, step: f64, mut holds: impl FnMut(&mut Machine) -> bool) {
    let mut gone = 0.0;
    while !holds(machine) && gone < LONGEST {
        machine.advance(step);
        gone += step;
    }
}

/// Bytes into a buffer, as it takes them.
fn all_at_once(machine: &mut Machine, bytes: &[u8]) {
    let mut rest = bytes;
    until(machine, STEP, |machine| {
        rest = &rest[machine.receive(rest)..];
        rest.is_empty()
    });
}

/// A line, until it is answered.
fn answered(machine: &mut Machine, line: &str) {
    machine.receive(line.as_bytes());
    machine.receive(b"\n");
    until(machine, STEP, |machine| !machine.answers().is_empty());
}

/// Lines one after the other, as many as may be unanswered.
fn flowing(machine: &mut Machine, text: &str) {
    let mut lines = text.lines().peekable();
    let mut unanswered = VecDeque::new();
    until(machine, FLOWING, |machine| {
        let answers = machine.answers();
        for _ in answers.iter().filter(|&&b| b == b'\n') {
            unanswered.pop_front();
        }
        while let Some(line) = lines.peek()
            && unanswered.iter().sum::<usize>() + line.len() < UNANSWERED
        {
            machine.receive(line.as_bytes());
            machine.receive(b"\n");
            unanswered.push_back(line.len() + 1);
            lines.next();
        }
        lines.peek().is_none() && unanswered.is_empty()
    });
}

/// The greatest distance of what was done from what was to be done, mm; `None` where either is nothing.
#[must_use]
pub fn farthest_off(done: &[Vec<Point>], planned: &[Vec<Point>]) -> Option<f64> {
    let legs = Legs::new(planned)?;
    let points = done.iter().flatten();
    points.map(|&p| legs.distance(p)).max_by(f64::total_cmp)
}

/// Side of a cell, mm.
const CELL: f64 = 5.0;

/// Legs sorted into square cells.
struct Legs {
    cells: std::collections::BTreeMap<(i64, i64), Vec<[Point; 2]>>,
}

impl Legs {
    fn new(strokes: &[Vec<Point>]) -> Option<Self> {
        let mut cells = std::collections::BTreeMap::<_, Vec<[Point; 2]>>::new();
        for pair in strokes.iter().flat_map(|s| s.windows(2)) {
            let leg = [pair[0], pair[1]];
            let steps = (leg[0].distance(leg[1]) / CELL).ceil().max(1.0) as usize;
            let mut last = None;
            for n in 0..=steps {
                let cell = cell_of(leg[0].lerp(leg[1], n as f64 / steps as f64));
                if last != Some(cell) {
                    cells.entry(cell).or_default().push(leg);
                }
                last = Some(cell);
            }
        }
        (!cells.is_empty()).then_some(Self { cells })
    }

    /// Distance of a place from the nearest leg, mm: at most two cells, beyond which it is only known to be far.
    fn distance(&self, at: Point) -> f64 {
        let (x, y) = cell_of(at);
        let mut best = f64::INFINITY;
        for reach in [1, 4] {
            for (i, j) in (-reach..=reach).flat_map(|i| (-reach..=reach).map(move |j| (i, j))) {
                for leg in self.cells.get(&(x + i, y + j)).into_iter().flatten() {
                    best = best.min(distance(at, *leg));
                }
            }
            if best < CELL {
                break;
            }
        }
        best.min(4.0 * CELL)
    }
}

fn cell_of(p: Point) -> (i64, i64) {
    ((p.x / CELL).floor() as i64, (p.y / CELL).floor() as i64)
}

fn distance(p: Point, [a, b]: [Point; 2]) -> f64 {
    let way = b - a;
    let along = (p - a).dot(way) / way.hypot2().max(1e-12);
    p.distance(a.lerp(b, along.clamp(0.0, 1.0)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::drives::Drives;

    fn of(language: Language, text: &str) -> Vec<Vec<Vec<Point>>> {
        let mut machine = Drives::usual(language).machine(language);
        strokes(&mut machine, &Program::of(language, text))
    }

    #[test]
    fn each_path_has_its_own_strokes() {
        let text = "IN;SP1;PU0,0;PD400,0,400,400;PU800,0;PD800,400;PU;SP0;";
        let drawn = of(Language::Hpgl, text);
        let ends: Vec<Vec<Point>> = drawn
            .iter()
            .map(|path| path.iter().filter_map(|s| s.last().copied()).collect())
            .collect();
        assert_eq!(ends, [[Point::new(10.0, 10.0)], [Point::new(20.0, 10.0)]]);
        let text = "G21 G90\nM4 S300\nG0 X1 Y1\nG1 X9 F600\nG0 X20 Y0\nG1 Y7\nM5\nM2\n";
        let drawn = of(Language::Gcode, text);
        let last = |n: usize| drawn[n].last().and_then(|s| s.last().copied());
        assert_eq!(drawn.len(), 2);
        assert_eq!(last(0), Some(Point::new(9.0, 1.0)));
        assert_eq!(last(1), Some(Point::new(20.0, 7.0)));
    }

    #[test]
    fn what_lies_off_is_measured() {
        let line = |y: f64| vec![vec![Point::new(0.0, y), Point::new(90.0, y)]];
        assert_eq!(farthest_off(&line(0.25), &line(0.0)), Some(0.25));
        assert_eq!(farthest_off(&line(400.0), &line(0.0)), Some(20.0));
        assert_eq!(farthest_off(&line(0.0), &[]), None);
        assert_eq!(farthest_off(&[], &line(0.0)), None);
    }
}
