//! A run whose line is gone again and again, at moments anywhere in it: nothing is lost, nothing is done twice, and what
//! the machine tells is where its own record ends.

use kurbo::Point;

use super::tests::{lines, rings, to_cutter, to_laser};
use super::*;
use crate::cutter::{self, Cutter};
use crate::laser::{self, Laser};
use crate::machine::Machine;

/// Paths of a run, and how often its line is gone.
const PATHS: usize = 2000;
const LOSSES: u64 = 20;
/// Far longer than any of it takes, s.
const LONG: f64 = 1e5;

/// What is known after a line was lost, and after a stop.
fn held(certain: usize, likely: usize) -> Known {
    Known {
        certain,
        likely,
        cut_short: false,
    }
}

fn stopped(certain: usize, likely: usize) -> Known {
    Known {
        cut_short: true,
        ..held(certain, likely)
    }
}

/// How long it goes well each time, s: no two alike, anywhere between two looks.
fn moments() -> impl Iterator<Item = f64> {
    // A sequence that fills its range evenly: multiples of the golden ratio.
    (1..=LOSSES).map(|n| 0.3 + 14.0 * (n as f64 * 0.618_033_988_749_895).fract())
}

/// Rings of 50 mm² among strokes.
fn whole(strokes: &[Vec<Point>]) -> usize {
    let area = |points: &[Point]| -> f64 {
        let pairs = points.windows(2);
        pairs
            .map(|p| p[0].to_vec2().cross(p[1].to_vec2()) / 2.0)
            .sum()
    };
    strokes
        .iter()
        .filter(|s| (area(s) - 50.0).abs() < 1e-3)
        .count()
}

/// Where each whole ring begins: none twice.
fn beginnings(strokes: &[Vec<Point>]) -> usize {
    let mut all: Vec<(i64, i64)> = strokes
        .iter()
        .filter_map(|s| s.first())
        .map(|p| ((p.x * 100.0).round() as i64, (p.y * 100.0).round() as i64))
        .collect();
    all.sort_unstable();
    all.dedup();
    all.len()
}

#[test]
fn a_cutter_goes_on_after_every_loss_and_cuts_nothing_twice() {
    let text = rings(PATHS);
    let program = Program::of(Language::Hpgl, &text);
    let mut cutter = Cutter::new(cutter::Model {
        size: [1000.0, 1000.0],
        ..cutter::Model::default()
    });
    let mut certain = 0;
    for moment in moments() {
        let mut sender = match certain {
            0 => Sender::new(program.clone(), 0),
            _ => Sender::going_on(program.clone(), held(certain, certain)),
        };
        to_cutter(&mut sender, &mut cutter, moment);
        assert_eq!(sender.stand(), &Stand::Running, "at {moment} s");
        certain = sender.done();
        // It tells where it stands once it has cut what it holds.
        let mut asking = Sender::asking(program.clone(), held(certain, sender.begun()));
        to_cutter(&mut asking, &mut cutter, LONG);
        let told = asking.found().unwrap();
        let strokes = cutter.record().strokes.iter();
        let strokes: Vec<Vec<Point>> = strokes.map(|s| s.points.clone()).collect();
        let really = whole(&strokes);
        assert!(told.abs_diff(really) <= 1, "told {told}, really {really}");
        assert!(told >= certain);
    }
    let mut last = Sender::going_on(program, held(certain, certain));
    to_cutter(&mut last, &mut cutter, LONG);
    assert_eq!((last.stand(), last.done()), (&Stand::Finished, PATHS));
    let strokes = cutter.record().strokes.iter();
    let strokes: Vec<Vec<Point>> = strokes.map(|s| s.points.clone()).collect();
    assert_eq!(
        (strokes.len(), whole(&strokes), beginnings(&strokes)),
        (PATHS, PATHS, PATHS)
    );
}

#[test]
fn a_laser_begins_again_only_the_path_it_was_at() {
    let text = lines(PATHS);
    let program = Program::of(Language::Gcode, &text);
    let mut laser = Laser::new(laser::Model {
        bed: [600.0, 2000.0],
        ..laser::Model::default()
    });
    let mut certain = 0;
    for moment in moments() {
        let mut sender = match certain {
            0 => Sender::new(program.clone(), 0),
            _ => Sender::going_on(program.clone(), held(certain, certain)),
        };
        to_laser(&mut sender, &mut laser, moment);
        assert_eq!(sender.stand(), &Stand::Running, "at {moment} s");
        certain = sender.done();
        // Its own rule: without a line the beam is out, and what was to come is forgotten.
        laser.stop();
        laser.answers();
        let mut asking = Sender::asking(program.clone(), held(certain, sender.begun()));
        to_laser(&mut asking, &mut laser, LONG);
        let told = asking.found().unwrap_or(certain);
        let really = whole(&Machine::Laser(laser.clone()).strokes());
        assert!(
            told >= certain && told <= really + 1,
            "told {told}, really {really}"
        );
    }
    let mut last = Sender::going_on(program, held(certain, certain));
    to_laser(&mut last, &mut laser, LONG);
    assert_eq!((last.stand(), last.done()), (&Stand::Finished, PATHS));
    let strokes = Machine::Laser(laser).strokes();
    let whole = whole(&strokes);
    // At each loss one path may be burned again from its beginning.
    assert!(
        (PATHS..=PATHS + LOSSES as usize).contains(&whole),
        "{whole}"
    );
    assert_eq!(beginnings(&strokes), PATHS);
}

/// The line is gone after any byte, in the midst of an instruction or of a number, as on a serial line.
#[test]
fn a_line_that_is_gone_within_an_instruction_swallows_nothing() {
    let text = rings(3);
    let program = Program::of(Language::Hpgl, &text);
    for bytes in 0..text.len() {
        let mut cutter = Cutter::new(cutter::Model::default());
        cutter.receive(&text.as_bytes()[..bytes]);
        cutter.advance(60.0);
        let mut rest = Sender::going_on(program.clone(), stopped(0, 0));
        to_cutter(&mut rest, &mut cutter, LONG);
        assert_eq!(rest.stand(), &Stand::Finished, "after {bytes} bytes");
        let strokes = cutter.record().strokes.iter();
        let strokes: Vec<Vec<Point>> = strokes.map(|s| s.points.clone()).collect();
        assert!(
            whole(&strokes) >= 3 && beginnings(&strokes) >= 3,
            "after {bytes} bytes"
        );
    }
}

/// Stopped by hand, or by an answer that makes no sense: the blade is up at once, wherever it is.
#[test]
fn after_stops_and_garbage_only_the_path_it_was_at_is_begun_again() {
    let text = rings(PATHS);
    let program = Program::of(Language::Hpgl, &text);
    let mut cutter = Cutter::new(cutter::Model {
        size: [1000.0, 1000.0],
        ..cutter::Model::default()
    });
    let mut certain = 0;
    for (n, moment) in moments().enumerate() {
        let mut sender = match certain {
            0 => Sender::new(program.clone(), 0),
            _ => Sender::going_on(program.clone(), stopped(certain, certain)),
        };
        to_cutter(&mut sender, &mut cutter, moment);
        if n % 2 == 0 {
            sender.stop();
        } else {
            sender.hear(b"\x07#?&\r", moment);
            assert!(matches!(sender.stand(), Stand::Failed(Trouble::Garbage(_))));
        }
        cutter.receive(&sender.poll(moment));
        cutter.advance(0.0);
        cutter.answers();
        assert!(!cutter.is_down() && cutter.is_idle(), "at {moment} s");
        certain = sender.done();
    }
    let mut last = Sender::going_on(program, stopped(certain, certain));
    to_cutter(&mut last, &mut cutter, LONG);
    assert_eq!((last.stand(), last.done()), (&Stand::Finished, PATHS));
    let strokes = cutter.record().strokes.iter();
    let strokes: Vec<Vec<Point>> = strokes.map(|s| s.points.clone()).collect();
    assert_eq!((whole(&strokes), beginnings(&strokes)), (PATHS, PATHS));
    assert!(
        strokes.len() <= PATHS + LOSSES as usize,
        "{}",
        strokes.len()
    );
}

#[test]
fn a_machine_that_answers_a_byte_a_second_is_waited_for() {
    let text = rings(3);
    let mut cutter = Cutter::new(cutter::Model::default());
    let mut sender = Sender::new(Program::of(Language::Hpgl, &text), 0);
    let (mut now, mut answers) = (0.0, std::collections::VecDeque::new());
    while *sender.stand() == Stand::Running && now < 3600.0 {
        let bytes = sender.poll(now);
        assert_eq!(cutter.receive(&bytes), bytes.len());
        cutter.advance(1.0);
        now += 1.0;
        answers.extend(cutter.answers());
        if let Some(byte) = answers.pop_front() {
            sender.hear(&[byte], now);
        }
    }
    assert_eq!((sender.stand(), sender.done()), (&Stand::Finished, 3));
    assert_eq!(cutter.record().strokes.len(), 3);
}
