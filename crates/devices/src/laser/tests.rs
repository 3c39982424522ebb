//! What is said to the laser, and what it burned.

use proptest::prelude::*;

use super::*;

/// Lines sent as a careful sender does: never more than the buffer holds that was not answered yet.
fn run(laser: &mut Laser, text: &str, step: f64) -> Vec<String> {
    let lines: Vec<String> = text.lines().map(|l| format!("{l}\n")).collect();
    let (mut sent, mut answered) = (0, Vec::new());
    let mut open = 0;
    let mut lengths = VecDeque::new();
    while answered.len() < lines.len() || laser.state() == State::Run {
        while sent < lines.len() && open + lines[sent].len() <= laser.model().buffer {
            laser.receive(lines[sent].as_bytes());
            lengths.push_back(lines[sent].len());
            open += lines[sent].len();
            sent += 1;
        }
        laser.advance(step);
        for line in String::from_utf8_lossy(&laser.answers()).lines() {
            open -= lengths.pop_front().unwrap_or(0);
            answered.push(line.to_owned());
        }
    }
    answered
}

fn laser() -> Laser {
    Laser::new(Model::default())
}

#[test]
fn each_line_is_answered_and_what_is_wrong_is_said() {
    let mut laser = laser();
    let text = "G21 G90\nM4 S500\nG0 X10 Y10\nG1 X20 F1200\nG1 X900\nG99\nS-1\nG3 X5 I1\n(hello)\nG1 X\nM5";
    let said = run(&mut laser, text, 0.01);
    let bad: Vec<usize> = (0..said.len()).filter(|&n| said[n] != "ok").collect();
    assert_eq!(bad, [4, 5, 6, 7, 9], "{said:?}");
    assert_eq!(
        said[4],
        "error: X900.000 Y10.000 is beyond the bed of 600 × 400 mm"
    );
    assert_eq!(said[9], "error: X wants a number");
    let [burn] = laser.record().burns[..] else {
        panic!("{:?}", laser.record())
    };
    assert_eq!(
        (burn.from, burn.to),
        (Point::new(10.0, 10.0), Point::new(20.0, 10.0))
    );
    assert_eq!(laser.record().lost, 0);
}

#[test]
fn arcs_go_round_their_middle() {
    // NIST IR 6556, 3.5.3: "G17 G2 x 10 y 15 i 3 j 4" goes clockwise round a middle 3 and 4 from where it begins.
    let mut laser = laser();
    run(
        &mut laser,
        "M3 S1000\nG0 X11 Y8\nG17 G2 X9 Y14.29 I3 J4 F600",
        0.01,
    );
    assert!(
        laser.record().burns.is_empty(),
        "this end does not lie on it"
    );
    run(
        &mut laser,
        "M3 S1000\nG0 X20 Y20\nG3 X20 Y20 I10 J0 F600",
        0.01,
    );
    let middle = Point::new(30.0, 20.0);
    let burns = &laser.record().burns;
    assert!(
        burns
            .iter()
            .all(|b| (b.to.distance(middle) - 10.0).abs() < 1e-9)
    );
    let area: f64 = burns
        .iter()
        .map(|b| b.from.to_vec2().cross(b.to.to_vec2()) / 2.0)
        .sum();
    assert!(
        (area - std::f64::consts::PI * 100.0).abs() < 0.2,
        "against the clock: {area}"
    );
    assert!(burns.iter().all(|b| (b.power - 1.0).abs() < 1e-12));
}

#[test]
fn power_falls_with_the_speed_where_it_may() {
    // 2 mm from rest to rest are too short for 100 mm/s.
    let mean = |beam: &str| {
        let mut laser = laser();
        run(&mut laser, &format!("{beam} S800\nG1 X2 F6000"), 0.01);
        laser.record().burns[0].power
    };
    assert!((mean("M3") - 0.8).abs() < 1e-12);
    assert!(mean("M4") < 0.5);
}

#[test]
fn a_pause_keeps_and_a_stop_forgets_and_both_put_the_beam_out() {
    let mut laser = laser();
    laser.receive(b"M3 S1000\nN7 G1 X100 F600\nG1 X200\n");
    laser.advance(1.0);
    laser.receive(b"!");
    laser.advance(5.0);
    laser.receive(b"?");
    let said = String::from_utf8_lossy(&laser.answers()).into_owned();
    assert!(said.contains("<Hold|MPos:9.9"), "{said}");
    assert!(said.contains("|Ln:7>"), "{said}");
    laser.receive(b"~");
    laser.advance(1.0);
    assert!((laser.record().burned - 19.9).abs() < 0.2);
    laser.receive(&[STOP]);
    let burned = laser.record().burned;
    laser.advance(60.0);
    assert_eq!(laser.state(), State::Idle);
    assert!((laser.record().burned - burned).abs() < 1e-12);
    // Nothing is on after it: the beam was put out too.
    run(&mut laser, "G1 X50 F600", 0.1);
    assert!((laser.record().burned - burned).abs() < 1e-12);
}

#[test]
fn what_comes_when_there_is_no_room_is_lost_and_counted() {
    let mut laser = laser();
    laser.receive(&[b'('; 200]);
    assert_eq!(laser.record().lost, 72);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn whatever_comes_the_beam_ends_and_stays_on_the_bed(
        lines in prop::collection::vec("[GMXYSFIJ0-9. ()-]{0,20}", 0..30),
        cut in 0usize..400,
    ) {
        let mut laser = laser();
        let text = lines.join("\n") + "\n";
        let bytes = &text.as_bytes()[..cut.min(text.len())];
        for part in bytes.chunks(7) {
            laser.receive(part);
            laser.advance(0.3);
        }
        laser.advance(10_000.0);
        let burned = laser.record().burned;
        laser.advance(10.0);
        prop_assert!((laser.record().burned - burned).abs() < 1e-12, "the beam is on with nothing to do");
        let on_bed = |p: Point| (0.0..=600.0).contains(&p.x) && (0.0..=400.0).contains(&p.y);
        prop_assert!(laser.record().burns.iter().all(|b| on_bed(b.from) && on_bed(b.to)));
    }

    #[test]
    fn how_time_is_cut_changes_nothing(step in 0.0005f64..0.3) {
        let text = "G90 M3 S400\nG0 X5 Y5\nG1 X50 Y9 F3000\nG2 X50 Y29 J10\nG91 G1 X-3 Y2\nM5 G0 X-3";
        let (mut whole, mut parts) = (laser(), laser());
        run(&mut whole, text, 1000.0);
        run(&mut parts, text, step);
        prop_assert_eq!(parts.record().burns.len(), whole.record().burns.len());
        for (a, b) in parts.record().burns.iter().zip(&whole.record().burns) {
            prop_assert!(a.to.distance(b.to) < 1e-9);
        }
        prop_assert!((parts.record().burned - whole.record().burned).abs() < 1e-6);
    }
}
