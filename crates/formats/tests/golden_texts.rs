//! Machine files of small jobs, word for word, and what they say held against the material.
//!
//! `golden/README.md` tells of each file what it shows. The figures of a material are chosen so that each
//! is known again in the text; the second half reads the texts with a reader of its own (RS-274: NIST IR
//! 6556, section 3) and never asks the plan.
//! A text that changes on purpose is written anew with `INKY_GOLDEN=write`, and read before it is kept.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    reason = "helpers of tests may stop them"
)]

use std::collections::BTreeMap;
use std::path::PathBuf;

use inky_core::cutting::{CutLayer, CutLine, Cutting};
use inky_core::inks::Rgb;
use inky_core::material::{Beam, Blade, Laser, Material, Operation, Tool, presets};
use inky_core::overlay::Rings;
use inky_core::plan::motion::Motion;
use inky_core::plan::{PlanChoice, plan};
use inky_core::segment::{Arc, Segment};
use inky_core::shapes::Ring;
use inky_formats::{gcode, hpgl};
use kurbo::{Line, Point};

const CUT: Beam = Beam {
    speed: 25.0,
    least: 62.0,
    most: 62.0,
    passes: 2,
};
const ENGRAVE: Beam = Beam {
    speed: 180.0,
    least: 8.0,
    most: 8.0,
    passes: 1,
};
const INTERVAL: f64 = 0.5;
const KNIFE: Blade = Blade {
    force: 83.0,
    speed: 270.0,
    passes: 1,
    overcut: 0.0,
    offset: 0.25,
};
const NO_LEAD: PlanChoice = PlanChoice {
    pulled: Vec::new(),
    lead: Some(0.0),
};

fn material(tool: Tool, blade: Option<Blade>, laser: Option<Laser>) -> Material {
    let plain = presets().into_iter().find(|m| m.tool == tool);
    Material {
        name: "Trial board".to_owned(),
        blade,
        laser,
        ..plain.unwrap_or_else(|| presets().remove(0))
    }
}

fn beam(engrave: Beam) -> Material {
    let laser = Laser {
        cut: CUT,
        engrave,
        interval: INTERVAL,
    };
    material(Tool::Laser, None, Some(laser))
}

fn knife(blade: Blade) -> Material {
    material(Tool::Blade, Some(blade), None)
}

/// A closed ring of straight sides; the other way round for a hole.
fn ring(corners: &[(f64, f64)]) -> Ring {
    let at = |n: usize| Point::from(corners[n % corners.len()]);
    let side = |n: usize| Segment::Line(Line::new(at(n), at(n + 1)));
    Ring::new((0..corners.len()).map(side).collect(), Vec::new()).unwrap()
}

fn box_of([x0, y0, x1, y1]: [f64; 4]) -> Ring {
    ring(&[(x0, y0), (x1, y0), (x1, y1), (x0, y1)])
}

/// A circle of two arcs, turned as a hole.
fn hole(x: f64, y: f64, r: f64) -> Ring {
    let (a, b) = (Point::new(x - r, y), Point::new(x + r, y));
    let half = |p0, p1| {
        Segment::Arc(Arc {
            p0,
            p1,
            bulge: -1.0,
        })
    };
    Ring::new(vec![half(a, b), half(b, a)], Vec::new()).unwrap()
}

fn layer(letter: &str, material: &Material, operation: Operation) -> CutLayer {
    CutLayer {
        name: format!("{letter} Teal {}", operation.word()),
        letter: letter.to_owned(),
        colour: Rgb([30, 110, 102]),
        material: material.clone(),
        stock_colour: None,
        operation,
        shapes: Vec::new(),
        lines: Vec::new(),
    }
}

fn page(layers: Vec<CutLayer>) -> Cutting {
    Cutting {
        size: [60.0, 40.0],
        layers,
    }
}

/// A plate of 20 × 10 mm with a hole of 6 mm.
fn plate(material: &Material, operation: Operation) -> Cutting {
    let shapes = vec![Rings {
        outer: box_of([10.0, 20.0, 30.0, 30.0]),
        holes: vec![hole(20.0, 25.0, 3.0)],
    }];
    page(vec![CutLayer {
        shapes,
        ..layer("A", material, operation)
    }])
}

/// A field of 12 × 2 mm with a window of 4 × 1 mm, to be engraved.
fn field(material: &Material) -> Cutting {
    let window = ring(&[(24.0, 20.5), (24.0, 21.5), (28.0, 21.5), (28.0, 20.5)]);
    let shapes = vec![Rings {
        outer: box_of([20.0, 20.0, 32.0, 22.0]),
        holes: vec![window],
    }];
    page(vec![CutLayer {
        shapes,
        ..layer("A", material, Operation::Engrave)
    }])
}

/// A line to fold along, and the plate around it cut afterwards.
fn folded(material: &Material) -> Cutting {
    let line = CutLine {
        segments: vec![Segment::Line(Line::new((10.0, 25.0), (30.0, 25.0)))],
        closed: false,
        width: 0.1,
    };
    let mut all = plate(material, Operation::CutThrough);
    all.layers[0].shapes[0].holes.clear();
    all.layers.insert(
        0,
        CutLayer {
            lines: vec![line],
            ..layer("B", material, Operation::Score)
        },
    );
    all
}

fn gcode_of(cutting: &Cutting, choice: &PlanChoice) -> String {
    gcode::write(
        cutting,
        &plan(cutting, choice),
        gcode::Controller::default(),
    )
}

fn hpgl_of(cutting: &Cutting, blade: hpgl::Blade) -> String {
    hpgl::write(cutting, &plan(cutting, &NO_LEAD), blade)
}

/// Every text by the name of its file.
fn texts() -> BTreeMap<&'static str, String> {
    let lead = PlanChoice::default();
    let falling = Beam {
        least: 3.0,
        most: 14.0,
        ..ENGRAVE
    };
    let over = knife(Blade {
        overcut: 1.5,
        ..KNIFE
    });
    let twice = knife(Blade { passes: 2, ..KNIFE });
    let led = hpgl::Blade {
        swivel: true,
        turned: false,
    };
    let turned = hpgl::Blade {
        swivel: false,
        turned: true,
    };
    let (burnt, plain) = (beam(ENGRAVE), hpgl::Blade::default());
    let pen = material(Tool::Pen, None, None);
    BTreeMap::from([
        (
            "cut-two-passes.gcode",
            gcode_of(&plate(&burnt, Operation::CutThrough), &NO_LEAD),
        ),
        (
            "cut-with-lead-in.gcode",
            gcode_of(&plate(&burnt, Operation::CutThrough), &lead),
        ),
        ("engrave.gcode", gcode_of(&field(&burnt), &lead)),
        (
            "score-then-cut.gcode",
            gcode_of(&folded(&beam(falling)), &NO_LEAD),
        ),
        ("pen.gcode", gcode_of(&plate(&pen, Operation::Draw), &lead)),
        (
            "kiss-cut.plt",
            hpgl_of(&plate(&knife(KNIFE), Operation::KissCut), plain),
        ),
        (
            "two-passes.plt",
            hpgl_of(&plate(&twice, Operation::CutThrough), plain),
        ),
        (
            "overcut.plt",
            hpgl_of(&plate(&over, Operation::KissCut), plain),
        ),
        (
            "swivel.plt",
            hpgl_of(&plate(&over, Operation::KissCut), led),
        ),
        (
            "turned.plt",
            hpgl_of(&plate(&knife(KNIFE), Operation::KissCut), turned),
        ),
        ("score-then-cut.plt", hpgl_of(&folded(&over), plain)),
    ])
}

#[test]
fn every_text_is_the_one_that_was_read_and_kept() {
    let folder = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/golden");
    let write = std::env::var("INKY_GOLDEN").is_ok_and(|v| v == "write");
    let index = std::fs::read_to_string(folder.join("README.md")).unwrap();
    for (name, text) in texts() {
        assert!(
            index.contains(name),
            "golden/README.md tells nothing of {name}"
        );
        let path = folder.join(name);
        if write {
            std::fs::write(&path, &text).unwrap();
        }
        let kept = std::fs::read_to_string(&path).unwrap_or_default();
        let lines = || kept.lines().zip(text.lines()).enumerate();
        if let Some((n, (was, is))) = lines().find(|(_, (a, b))| a != b) {
            panic!("{name}, line {}: {was} became {is}", n + 1);
        }
        assert_eq!(kept.len(), text.len(), "{name} became longer or shorter");
    }
}

/// One move of a program.
#[derive(Clone, Copy, Debug)]
struct Move {
    from: [f64; 2],
    to: [f64; 2],
    length: f64,
    /// mm a minute; nothing while it travels.
    feed: Option<f64>,
    /// Part of the controller's 1000, while the beam is on.
    power: f64,
}

/// Reads a program: what is on, how fast and how strong, word by word.
fn moves(text: &str) -> Vec<Move> {
    let (mut at, mut feed, mut power, mut on, mut found) = ([0.0; 2], 0.0, 0.0, false, Vec::new());
    for line in text.lines().filter(|l| !l.starts_with('(')) {
        let words: BTreeMap<char, f64> = line
            .split_whitespace()
            .filter_map(|w| Some((w.chars().next()?, w[1..].parse().ok()?)))
            .collect();
        let of = |word: char| words.get(&word).copied();
        let code = |word: char| of(word).map(|v| v as u32);
        match code('M') {
            Some(3 | 4) => on = true,
            Some(5) => on = false,
            _ => {}
        }
        feed = of('F').unwrap_or(feed);
        power = of('S').unwrap_or(power);
        let to = [of('X').unwrap_or(at[0]), of('Y').unwrap_or(at[1])];
        let moved = to.iter().zip(at).any(|(to, at)| (to - at).abs() > 1e-9);
        let Some(g) = code('G').filter(|g| *g <= 3 && moved) else {
            continue;
        };
        let straight = (to[0] - at[0]).hypot(to[1] - at[1]);
        let length = match (of('I'), of('J')) {
            (Some(i), Some(j)) => {
                // Less than a whole turn: the chord tells the angle, and the side which of the two.
                let r = i.hypot(j);
                let half = 2.0 * (straight / (2.0 * r)).min(1.0).asin();
                let cross = (to[0] - at[0]) * j - (to[1] - at[1]) * i;
                let left = (g == 3) == (cross >= -1e-6);
                r * if left {
                    half
                } else {
                    std::f64::consts::TAU - half
                }
            }
            _ => straight,
        };
        let moving = g > 0;
        found.push(Move {
            from: at,
            to,
            length,
            feed: moving.then_some(feed),
            power: if moving && on { power / 1000.0 } else { 0.0 },
        });
        at = to;
    }
    found
}

fn near(a: f64, b: f64) -> bool {
    (a - b).abs() < 1e-3
}

#[test]
fn a_beam_cuts_as_fast_as_strong_and_as_often_as_the_material_says() {
    let text = gcode_of(&plate(&beam(ENGRAVE), Operation::CutThrough), &NO_LEAD);
    let burnt: Vec<Move> = moves(&text).into_iter().filter(|m| m.power > 0.0).collect();
    for m in &burnt {
        assert!(near(m.feed.unwrap(), CUT.speed * 60.0), "{m:?}");
        assert!(near(m.power, CUT.most / 100.0), "{m:?}");
    }
    // The plate's outline and its hole, twice each.
    let around = 2.0 * (20.0 + 10.0) + std::f64::consts::TAU * 3.0;
    let length: f64 = burnt.iter().map(|m| m.length).sum();
    assert!((length - 2.0 * around).abs() < 0.01, "{length} of {around}");
    // With a lead it begins in the waste, and burns that way too.
    let text = gcode_of(
        &plate(&beam(ENGRAVE), Operation::CutThrough),
        &PlanChoice::default(),
    );
    let burnt = moves(&text).into_iter().filter(|m| m.power > 0.0);
    let led: f64 = burnt.map(|m| m.length).sum::<f64>() - length;
    assert!((led - 2.0 * (2.0 + 2.0)).abs() < 0.05, "{led}");
}

#[test]
fn an_engraved_area_is_rows_run_both_ways_that_begin_and_end_beside_it() {
    let text = gcode_of(&field(&beam(ENGRAVE)), &NO_LEAD);
    let all = moves(&text);
    let burnt: Vec<&Move> = all.iter().filter(|m| m.power > 0.0).collect();
    for m in &burnt {
        assert!(near(m.feed.unwrap(), ENGRAVE.speed * 60.0), "{m:?}");
        assert!(near(m.power, ENGRAVE.most / 100.0), "{m:?}");
        assert!(near(m.from[1], m.to[1]), "{m:?}");
    }
    let mut heights: Vec<f64> = burnt.iter().map(|m| m.to[1]).collect();
    heights.dedup_by(|a, b| near(*a, *b));
    // Two millimetres: four rows, an interval apart and half of one inside.
    let page = 40.0;
    let wanted = [20.25, 20.75, 21.25, 21.75].map(|y| page - y);
    assert_eq!(heights.len(), wanted.len(), "{heights:?}");
    let falls = heights[0] > heights[1];
    for (n, y) in heights.iter().enumerate() {
        let n = if falls { n } else { wanted.len() - 1 - n };
        assert!(near(*y, wanted[n]), "{heights:?}");
    }
    let rightwards = |m: &Move| m.to[0] > m.from[0];
    // v² = 2 a s from rest.
    let motion = Motion::of(Tool::Laser);
    let run_up = ENGRAVE.speed.powi(2) / (2.0 * motion.acceleration);
    let mut last = None;
    for y in heights {
        let row: Vec<&Move> = all
            .iter()
            .filter(|m| m.feed.is_some() && near(m.to[1], y) && near(m.from[1], y))
            .collect();
        let own: Vec<&&Move> = row.iter().filter(|m| m.power > 0.0).collect();
        let right = rightwards(row[0]);
        assert!(row.iter().all(|m| rightwards(m) == right), "{row:?}");
        assert!(last != Some(right), "rows turn about");
        last = Some(right);
        // Burnt is the field without its window, between them the beam is off.
        let burnt: f64 = own.iter().map(|m| m.length).sum();
        let in_window = (20.5..21.5).contains(&(page - y));
        let window = if in_window { 4.0 } else { 0.0 };
        assert!(near(burnt, 12.0 - window), "{row:?}");
        let (first, end) = (row[0], row[row.len() - 1]);
        for (beside, off) in [(first.length, first.power), (end.length, end.power)] {
            assert!(off == 0.0, "{row:?}");
            assert!((beside - run_up).abs() < 0.01, "{beside} of {run_up}");
        }
    }
}

#[test]
fn the_time_told_holds_the_way_there_and_back() {
    let cutting = plate(&beam(ENGRAVE), Operation::CutThrough);
    let made = plan(&cutting, &NO_LEAD);
    let motion = Motion::of(Tool::Laser);
    // From rest to rest: a trapezium, or a triangle where the way is too short for the speed.
    let rested = |length: f64, speed: f64| {
        let (v, a) = (speed, motion.acceleration);
        if length >= v * v / a {
            length / v + v / a
        } else {
            2.0 * (length / a).sqrt()
        }
    };
    let (mut least, mut most) = (0.0, 0.0);
    for m in moves(&gcode_of(&cutting, &NO_LEAD)) {
        let (at_speed, stopping) = match m.feed {
            Some(feed) => (m.length / (feed / 60.0), rested(m.length, feed / 60.0)),
            None => [rested(m.length, motion.travel); 2].into(),
        };
        least += at_speed;
        most += stopping;
    }
    let told = made.seconds();
    assert!(
        told > least && told <= most + 1e-6,
        "{told} of {least} to {most}"
    );
    let idle: f64 = moves(&gcode_of(&cutting, &NO_LEAD))
        .iter()
        .filter(|m| m.feed.is_none())
        .map(|m| m.length)
        .sum();
    assert!(
        (made.travel() - idle).abs() < 0.01,
        "{} of {idle}",
        made.travel()
    );
}
