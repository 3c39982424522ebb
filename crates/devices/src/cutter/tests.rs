//! What is said to the cutter, and what it did.

use kurbo::ParamCurveNearest as _;
use proptest::prelude::*;

use super::*;

/// All of a text sent as the buffer takes it, in steps of so many seconds, to the end.
fn run(cutter: &mut Cutter, text: &[u8], step: f64) -> String {
    let (mut sent, mut answers) = (0, Vec::new());
    while sent < text.len() || !cutter.is_idle() {
        sent += cutter.receive(&text[sent..]);
        cutter.advance(step);
        answers.extend(cutter.answers());
    }
    String::from_utf8(answers).unwrap_or_default()
}

fn cutter() -> Cutter {
    Cutter::new(Model::default())
}

const SQUARE: &[u8] = b"IN;SP2;VS30;FS90;PU400,400;PD800,400,800,800,400,800,400,400;PU;SP0;OE;";

#[test]
fn a_square_is_cut_where_it_was_sent() {
    let mut cutter = cutter();
    assert_eq!(run(&mut cutter, SQUARE, 0.05), "0\r");
    let [stroke] = &cutter.record().strokes[..] else {
        panic!("{:?}", cutter.record())
    };
    let square = [
        (10.0, 10.0),
        (20.0, 10.0),
        (20.0, 20.0),
        (10.0, 20.0),
        (10.0, 10.0),
    ];
    let ends: Vec<Point> = square.map(Point::from).to_vec();
    for end in &ends {
        assert!(stroke.points.iter().any(|p| p.distance(*end) < 1e-9));
    }
    assert!(stroke.points.iter().all(|p| ends.windows(2).any(|side| {
        kurbo::Line::new(side[0], side[1])
            .nearest(*p, 1e-9)
            .distance_sq
            < 1e-12
    })));
    assert_eq!((stroke.pen, stroke.outside), (2, false));
    assert!((stroke.force - 90.0).abs() < 1e-9);
    assert!((cutter.record().cut - 40.0).abs() < 1e-9);
    assert!((cutter.record().travel - 200f64.sqrt()).abs() < 1e-9);
}

#[test]
fn it_answers_in_turn_what_the_reference_says() {
    // HP-GL/2 reference, "Output" instructions: identification, status, hard-clip limits, error, actual place.
    let mut cutter = cutter();
    let said = run(&mut cutter, b"IN;OI;OS;OS;OH;PU40,80;PD;OA;QQ;OE;OE;", 0.01);
    assert_eq!(
        said,
        "INKY-ROLL-600\r24\r16\r0,0,1000000,24000\r40,80,1\r1\r0\r"
    );
}

#[test]
fn beyond_what_it_reaches_it_stops_at_the_edge_and_says_so() {
    let mut cutter = cutter();
    assert_eq!(run(&mut cutter, b"IN;PU0,0;PD0,90000;PU;OE;", 0.1), "6\r");
    let stroke = &cutter.record().strokes[0];
    assert!(
        stroke
            .points
            .last()
            .is_some_and(|p| (p.y - 600.0).abs() < 1e-9)
    );
}

#[test]
fn the_buffer_fills_and_tells_what_is_free() {
    let mut cutter = Cutter::new(Model {
        buffer: 64,
        ..Model::default()
    });
    let long = b"PD0,0;".repeat(20);
    assert_eq!(cutter.receive(&long), 64);
    assert_eq!(
        cutter.receive(b"\x1b.B"),
        3,
        "device control goes past the buffer"
    );
    assert_eq!(cutter.answers(), b"0\r");
    cutter.advance(0.0);
    assert_eq!(
        cutter.free(),
        64,
        "what it did not need to move for is done at once"
    );
}

#[test]
fn a_stop_lifts_the_blade_at_once_and_forgets_the_rest() {
    let mut cutter = cutter();
    cutter.receive(b"IN;VS1;PU0,0;PD4000,0,4000,4000;PU;PU0,0;PD100,100;");
    cutter.advance(1.0);
    assert!(cutter.is_down());
    cutter.receive(b"\x1b.K");
    assert!(!cutter.is_down() && cutter.is_idle());
    let strokes = cutter.record().strokes.clone();
    cutter.advance(60.0);
    assert_eq!(cutter.record().strokes, strokes);
    let last = strokes[0].points.last().copied().unwrap_or_default();
    // 10 mm/s for a second, less the lift.
    assert!(last.x > 9.0 && last.x < 10.0, "{last:?}");
    assert_eq!(
        run(&mut cutter, b"OA;", 0.1).split(',').next_back(),
        Some("0\r")
    );
}

#[test]
fn a_blade_left_in_the_media_is_raised() {
    let mut cutter = cutter();
    cutter.receive(b"IN;PU0,0;PD400,0;");
    cutter.advance(1.5);
    assert!(cutter.is_down());
    cutter.advance(2.5);
    assert!(!cutter.is_down());
}

#[test]
fn faults_show_in_the_record() {
    let mut cutter = cutter();
    cutter.faults().astray = [0.1, 0.0];
    cutter.faults().media_end = Some(15.0);
    run(
        &mut cutter,
        b"IN;PU0,0;PD40,0;PU0,0;PD40,0;PU0,0;PD800,0;PU;",
        0.1,
    );
    let ends: Vec<(f64, bool)> = cutter
        .record()
        .strokes
        .iter()
        .map(|s| (s.points.last().map_or(0.0, |p| p.x), s.outside))
        .collect();
    let wanted = [(1.0, false), (1.1, false), (20.2, true)];
    for ((x, out), (wanted, beyond)) in ends.iter().zip(wanted) {
        assert!((x - wanted).abs() < 1e-9 && *out == beyond, "{ends:?}");
    }
    let quick = cutter.record().seconds;
    let mut slow = Cutter::new(Model::default());
    slow.faults().slow = 3.0;
    run(
        &mut slow,
        b"IN;PU0,0;PD40,0;PU0,0;PD40,0;PU0,0;PD800,0;PU;",
        0.1,
    );
    assert!((slow.record().seconds / quick - 3.0).abs() < 1e-6);
}

#[test]
fn a_trailing_blade_rounds_corners_that_nobody_leads_it_round() {
    let mut trailing = Cutter::new(Model {
        trail: 0.25,
        ..Model::default()
    });
    run(&mut trailing, SQUARE, 0.05);
    let corner = Point::new(20.0, 20.0);
    let near = trailing.record().strokes[0].points.iter();
    let nearest = near
        .map(|p| p.distance(corner))
        .fold(f64::INFINITY, f64::min);
    assert!((0.05..0.25).contains(&nearest), "{nearest}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn bytes_cut_anywhere_and_time_cut_anyhow_give_the_same(
        cuts in prop::collection::vec(1usize..40, 1..30),
        step in 0.001f64..0.2,
    ) {
        let text = b"IN;SP1;VS20;PU0,0;PD1000,0,1000,700,20,20;PU;PU55,66;PR;PD10,10,-5,3;PU;OI;OA;PA;PD;PU9,9;OE;";
        let mut whole = cutter();
        let said = run(&mut whole, text, 100.0);
        let mut parts = cutter();
        let (mut at, mut answers) = (0, Vec::new());
        for size in cuts.iter().cycle() {
            let end = (at + size).min(text.len());
            at += parts.receive(&text[at..end]);
            parts.advance(step);
            answers.extend(parts.answers());
            if at == text.len() && parts.is_idle() {
                break;
            }
        }
        prop_assert_eq!(String::from_utf8(answers).unwrap_or_default(), said);
        let ends = |c: &Cutter| -> Vec<Option<Point>> { c.record().strokes.iter().map(|s| s.points.last().copied()).collect() };
        prop_assert_eq!(ends(&parts), ends(&whole));
        prop_assert!((parts.record().cut - whole.record().cut).abs() < 1e-6);
    }

    #[test]
    fn whatever_comes_it_never_panics_and_never_goes_beyond_its_limits(bytes in prop::collection::vec(any::<u8>(), 0..400)) {
        let mut cutter = cutter();
        let mut sent = 0;
        for _ in 0..50 {
            sent += cutter.receive(&bytes[sent..]);
            cutter.advance(1.0);
        }
        let within = |p: &Point| (0.0..=25_000.0).contains(&p.x) && (0.0..=600.0).contains(&p.y);
        prop_assert!(cutter.record().strokes.iter().all(|s| s.points.iter().all(within)));
    }
}
