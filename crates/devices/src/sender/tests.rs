//! Programs sent to the simulated machines.

use super::*;
use crate::cutter::{self, Cutter};
use crate::laser::{self, Laser, State};

/// Rings of a few sides, as plotter instructions.
pub(super) fn rings(count: usize) -> String {
    let ring = |n: usize| {
        let (x, y) = (n % 40 * 600, n / 40 * 600);
        format!(
            "PU{x},{y};PD{},{y},{},{},{x},{y};",
            x + 400,
            x + 400,
            y + 400
        )
    };
    let all: String = (0..count).map(ring).collect();
    format!("IN;SP1;VS40;FS80;{all}PU;SP0;")
}

/// The same as lines.
pub(super) fn lines(count: usize) -> String {
    let ring = |n: usize| {
        let (x, y) = (n % 20 * 15, n / 20 * 15);
        format!(
            "G0 X{x} Y{y}\nG1 X{} F12000\nG1 Y{}\nG1 X{x} Y{y}\n",
            x + 10,
            y + 10
        )
    };
    let all: String = (0..count).map(ring).collect();
    format!("G21 G90 G94\nM4 S500\n{all}M5\nG0 X0 Y0\nM2\n")
}

fn sender(language: Language, text: &str, from: usize) -> Sender {
    Sender::new(Program::of(language, text), from)
}

/// Lets both run until it stands otherwise than running, or so many seconds; what was sent.
pub(super) fn to_cutter(sender: &mut Sender, machine: &mut Cutter, seconds: f64) -> Vec<u8> {
    let (mut waiting, mut sent): (Vec<u8>, Vec<u8>) = (Vec::new(), Vec::new());
    let mut now = 0.0;
    while now < seconds && *sender.stand() == Stand::Running {
        let bytes = sender.poll(now);
        sent.extend(&bytes);
        waiting.extend(bytes);
        let taken = machine.receive(&waiting);
        assert_eq!(taken, waiting.len(), "never more than the buffer takes");
        waiting.clear();
        machine.advance(0.02);
        now += 0.02;
        sender.hear(&machine.answers(), now);
    }
    sent
}

pub(super) fn to_laser(sender: &mut Sender, machine: &mut Laser, seconds: f64) {
    let mut now = 0.0;
    while now < seconds && *sender.stand() == Stand::Running {
        machine.receive(&sender.poll(now));
        machine.advance(0.02);
        now += 0.02;
        sender.hear(&machine.answers(), now);
    }
}

#[test]
fn all_is_cut_once_and_known_to_be_done() {
    let text = rings(120);
    let mut cutter = Cutter::new(cutter::Model::default());
    let mut sender = sender(Language::Hpgl, &text, 0);
    to_cutter(&mut sender, &mut cutter, 600.0);
    assert_eq!((sender.stand(), sender.done()), (&Stand::Finished, 120));
    assert_eq!(cutter.record().strokes.len(), 120);
    // The record equals what was sent.
    let area = |points: &[kurbo::Point]| -> f64 {
        let pairs = points.windows(2);
        pairs
            .map(|p| p[0].to_vec2().cross(p[1].to_vec2()) / 2.0)
            .sum()
    };
    for stroke in &cutter.record().strokes {
        assert!((area(&stroke.points) - 50.0).abs() < 1e-6);
    }
}

#[test]
fn lines_are_burned_once_and_none_is_lost() {
    let mut laser = Laser::new(laser::Model::default());
    let mut sender = sender(Language::Gcode, &lines(60), 0);
    to_laser(&mut sender, &mut laser, 600.0);
    assert_eq!((sender.stand(), sender.done()), (&Stand::Finished, 60));
    assert_eq!((laser.record().burns.len(), laser.record().lost), (180, 0));
    assert_eq!(laser.state(), State::Idle);
}

#[test]
fn after_a_stop_the_rest_is_done_from_where_it_was_left() {
    let text = rings(60);
    let mut cutter = Cutter::new(cutter::Model::default());
    let mut first = sender(Language::Hpgl, &text, 0);
    to_cutter(&mut first, &mut cutter, 3.0);
    let done = first.done();
    assert!((2..58).contains(&done), "{done}");
    first.stop();
    cutter.receive(&first.poll(4.0));
    cutter.advance(0.0);
    assert!(!cutter.is_down() && cutter.is_idle());
    let begun = cutter.record().strokes.len();
    assert!(
        begun == done || begun == done + 1,
        "what is told is at most one path behind: {begun}, {done}"
    );
    let mut rest = sender(Language::Hpgl, &text, done);
    let sent = to_cutter(&mut rest, &mut cutter, 600.0);
    let said = String::from_utf8_lossy(&sent);
    assert!(
        said.contains("IN;SP1;VS40;FS80;"),
        "settings are said again"
    );
    assert_eq!(rest.stand(), &Stand::Finished);
    assert_eq!(cutter.record().strokes.len(), begun + 60 - done);
}

#[test]
fn a_pause_stops_the_laser_at_once_and_nothing_is_lost() {
    let mut laser = Laser::new(laser::Model::default());
    let mut sender = sender(Language::Gcode, &lines(60), 0);
    to_laser(&mut sender, &mut laser, 1.0);
    sender.pause();
    laser.receive(&sender.poll(1.0));
    let burned = laser.record().burned;
    laser.advance(1.0);
    assert!((laser.record().burned - burned).abs() < 1e-9 && laser.state() == State::Hold);
    sender.hear(&laser.answers(), 2.0);
    sender.go_on();
    to_laser(&mut sender, &mut laser, 600.0);
    assert_eq!(sender.stand(), &Stand::Finished);
    assert_eq!(
        (laser.record().burns.len(), laser.record().lost),
        (181, 0),
        "one is in two parts"
    );
}

#[test]
fn silence_garbage_and_refusals_are_told() {
    let mut unheard = sender(Language::Hpgl, &rings(3), 0);
    assert!(!unheard.poll(0.0).is_empty());
    let listens = |sender: &mut Sender, from: u32, to: u32| {
        for hundredths in from..to {
            let now = f64::from(hundredths) / 100.0;
            sender.hear(b"", now);
            sender.poll(now);
        }
    };
    listens(&mut unheard, 1, 195);
    assert_eq!(unheard.stand(), &Stand::Running);
    listens(&mut unheard, 195, 210);
    assert_eq!(unheard.stand(), &Stand::Failed(Trouble::Silent));
    // Kept from its line for a minute, it has heard nothing: the machine is not to blame.
    let mut kept_away = sender(Language::Hpgl, &rings(3), 0);
    kept_away.poll(0.0);
    listens(&mut kept_away, 1, 100);
    listens(&mut kept_away, 6100, 6150);
    assert_eq!(kept_away.stand(), &Stand::Running);
    let mut odd = sender(Language::Hpgl, &rings(3), 0);
    odd.poll(0.0);
    odd.hear(b"HTTP/1.1 400 Bad Request\r\n", 0.1);
    assert!(matches!(odd.stand(), Stand::Failed(Trouble::Garbage(_))));
    assert_eq!(
        odd.poll(0.2),
        b"\x1b.K;PU;",
        "whatever it is, it is told to stop"
    );
    let mut laser = Laser::new(laser::Model::default());
    let mut refused = sender(
        Language::Gcode,
        "G21 G90\nM4 S100\nG0 X1 Y1\nG1 X5000 F600\nM5\n",
        0,
    );
    to_laser(&mut refused, &mut laser, 60.0);
    let Stand::Failed(Trouble::Refused { line, why }) = refused.stand() else {
        panic!("{:?}", refused.stand())
    };
    assert!(
        line.contains("X5000") && why.contains("beyond the bed"),
        "{line}: {why}"
    );
    assert!(laser.record().burns.is_empty());
}

#[test]
fn a_machine_that_stands_nowhere_on_its_way_goes_on_with_what_is_likely() {
    let text = rings(40);
    let mut cutter = Cutter::new(cutter::Model::default());
    let program = Program::of(Language::Hpgl, &text);
    let mut sender = Sender::going_on(
        program,
        Known {
            certain: 20,
            likely: 30,
            cut_short: false,
        },
    );
    cutter.receive(b"PU9999,9999;");
    to_cutter(&mut sender, &mut cutter, 600.0);
    assert_eq!(sender.stand(), &Stand::Finished);
    assert_eq!(cutter.record().strokes.len(), 10);
}

#[test]
fn a_machine_that_answers_nothing_gets_all_as_it_takes_it() {
    for (language, text) in [(Language::Hpgl, rings(60)), (Language::Gcode, lines(60))] {
        let mut sender = Sender::to_mute(Program::of(language, &text), 10);
        let mut sent = String::new();
        let mut last = 10;
        while *sender.stand() == Stand::Running {
            let bytes = sender.poll(sent.len() as f64);
            assert!(bytes.len() < 512, "{}", bytes.len());
            assert!(sender.done() >= last);
            last = sender.done();
            sent.push_str(std::str::from_utf8(&bytes).unwrap());
            sender.hear(b"nonsense\r", 0.0);
        }
        assert_eq!((sender.stand(), sender.done()), (&Stand::Finished, 60));
        let whole = Program::of(language, &sent);
        assert_eq!(whole.paths.len(), 50);
        assert!(!sent.contains("OA") && !sent.contains('?') && !sent.contains('\u{1b}'));
    }
}

#[test]
fn a_pause_leaves_no_blade_in_the_media() {
    // Long paths: many pieces each.
    let long = |n: usize| {
        let teeth: Vec<String> = (0..400)
            .map(|k| format!("{},{}", k * 20, n * 400 + k % 2 * 80))
            .collect();
        format!("PU0,{};PD{};", n * 400, teeth.join(","))
    };
    let text: String = (0..4).map(long).collect();
    let text = format!("IN;SP1;VS40;FS80;{text}PU;SP0;");
    let mut cutter = Cutter::new(cutter::Model::default());
    let mut sender = sender(Language::Hpgl, &text, 0);
    to_cutter(&mut sender, &mut cutter, 1.0);
    assert!(
        cutter.is_down() && sender.done() == 0,
        "in the midst of the first"
    );
    sender.pause();
    let mut now = 1.0;
    while now < 60.0 {
        let bytes = sender.poll(now);
        assert_eq!(cutter.receive(&bytes), bytes.len());
        cutter.advance(0.02);
        now += 0.02;
        sender.hear(&cutter.answers(), now);
    }
    assert_eq!((sender.stand(), sender.done()), (&Stand::Paused, 1));
    assert!(!cutter.is_down());
    assert_eq!(cutter.record().strokes.len(), 1);
    sender.go_on();
    while *sender.stand() == Stand::Running && now < 600.0 {
        cutter.receive(&sender.poll(now));
        cutter.advance(0.02);
        now += 0.02;
        sender.hear(&cutter.answers(), now);
    }
    assert_eq!((sender.stand(), sender.done()), (&Stand::Finished, 4));
    assert_eq!(cutter.record().strokes.len(), 4);
}

#[test]
fn lost_bytes_are_noticed_by_where_the_machine_stands() {
    let text = rings(120);
    let mut cutter = Cutter::new(cutter::Model::default());
    cutter.faults().overruns = true;
    let mut first = sender(Language::Hpgl, &text, 0);
    to_cutter(&mut first, &mut cutter, 900.0);
    let Stand::Failed(Trouble::Elsewhere { path }) = *first.stand() else {
        panic!("{:?}", first.stand())
    };
    assert_eq!(path, first.done() + 1);
    assert!((1..120).contains(&path), "{path}");
    // A machine whose places are of another kind is not judged by them.
    let mut other = sender(Language::Hpgl, &rings(3), 0);
    let (mut now, mut asked) = (0.0, 0);
    while *other.stand() == Stand::Running && now < 60.0 {
        let said = other.poll(now);
        let said = String::from_utf8_lossy(&said).into_owned();
        now += 0.1;
        if said.contains("\u{1b}.B") {
            other.hear(b"4096\r", now);
        }
        for _ in 0..said.matches("OA;").count() {
            asked += 1;
            other.hear(b"7,7,0\r", now);
        }
    }
    assert_eq!(
        (other.stand(), other.done(), asked),
        (&Stand::Finished, 3, 3)
    );
}

#[test]
fn the_answer_to_the_last_path_is_not_waited_for_for_ever() {
    let mut unheard = sender(Language::Hpgl, &rings(1), 0);
    let mut now = 0.0;
    while *unheard.stand() == Stand::Running && now < 600.0 {
        let said = unheard.poll(now);
        now += 0.1;
        if said.ends_with(b"\x1b.B") {
            unheard.hear(b"4096\r", now);
        }
    }
    assert_eq!(
        unheard.stand(),
        &Stand::Failed(Trouble::Elsewhere { path: 1 })
    );
    assert!((LAST_PATH..LAST_PATH + 5.0).contains(&now), "{now}");
}
