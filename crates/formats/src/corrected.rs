//! A file for a machine moved to where a printed page really lies: every place in it is changed, everything else stays
//! as it was written.
//!
//! ```text
//!   PU400,400;PD800,400;VS20;  ──map──►  PU884,131;PD1284,146;VS20;
//!   G2 X20 Y10 I5 J0           ──map──►  G1 … G1 …    an arc is none any more: chords within 0.01 mm
//! ```
//!
//! Sources of the instructions: see [`crate::hpgl`] and [`crate::gcode`].

use std::fmt::Write as _;

use inky_core::projective::Projective;
use inky_core::segment::{Arc, Segment};
use inky_core::units::MM_PER_INCH;
use kurbo::{Point, Vec2};

/// Units of a plotter in a millimetre (HP-GL/2 and HP RTL Reference Guide).
const UNITS: f64 = 40.0;
/// Chords of arcs err by at most this, mm.
const TOLERANCE: f64 = 0.01;

/// Why a file was not corrected.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum CorrectedError {
    /// An instruction whose places cannot be moved one by one.
    #[error(
        "it holds {0}, which cannot be corrected place by place; write the file anew from its job"
    )]
    Instruction(String),
    /// A place that is no number.
    #[error("'{0}' is no place; the file is damaged")]
    Place(String),
}

/// Plotter instructions that move by what is no list of places on the page, or change what places mean.
const OTHER: [&str; 20] = [
    "PR", "AA", "AR", "AT", "RT", "CI", "EA", "ER", "RA", "RR", "EW", "WG", "BZ", "BR", "PE", "SC",
    "IP", "IR", "RO", "LB",
];

/// Plotter instructions with every place moved by a map of mm.
///
/// # Errors
/// [`CorrectedError`]; nothing is changed by half.
pub fn hpgl(text: &str, map: &Projective) -> Result<String, CorrectedError> {
    let mut out = String::with_capacity(text.len() + text.len() / 8);
    for said in text.split_inclusive(';') {
        let bare = said.trim();
        let blank = &said[..said.len() - said.trim_start().len()];
        let name = bare.get(..2).unwrap_or_default().to_ascii_uppercase();
        if OTHER.contains(&name.as_str()) {
            return Err(CorrectedError::Instruction(name));
        }
        let ended = bare.ends_with(';');
        let numbers = bare
            .get(2..)
            .unwrap_or_default()
            .trim_end_matches(';')
            .trim();
        if !["PU", "PD", "PA"].contains(&name.as_str()) || numbers.is_empty() {
            out.push_str(said);
            continue;
        }
        let figures = numbers
            .split([',', ' '])
            .map(str::trim)
            .filter(|n| !n.is_empty());
        let figures: Result<Vec<f64>, _> = figures.map(place).collect();
        let figures = figures?;
        if figures.len() % 2 == 1 {
            return Err(CorrectedError::Place(numbers.to_owned()));
        }
        let moved = figures.chunks_exact(2).map(|p| {
            let at = map.at(Point::new(p[0] / UNITS, p[1] / UNITS));
            format!("{:.0},{:.0}", whole(at.x * UNITS), whole(at.y * UNITS))
        });
        let moved: Vec<String> = moved.collect();
        let end = if ended { ";" } else { "" };
        let _ = write!(out, "{blank}{name}{}{end}", moved.join(","));
    }
    Ok(out)
}

/// Rounded, without a minus before nought.
fn whole(v: f64) -> f64 {
    v.round() + 0.0
}

fn place(text: &str) -> Result<f64, CorrectedError> {
    let value: Option<f64> = text.parse().ok().filter(|v: &f64| v.is_finite());
    value.ok_or_else(|| CorrectedError::Place(text.to_owned()))
}

/// How the machine moves until it is told otherwise.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Motion {
    Travel,
    Line,
    Arc { clockwise: bool },
}

/// Lines of RS-274 with every place moved by a map of mm.
///
/// # Errors
/// [`CorrectedError`]; nothing is changed by half.
pub fn gcode(text: &str, map: &Projective) -> Result<String, CorrectedError> {
    let mut out = String::with_capacity(text.len() + text.len() / 4);
    let (mut motion, mut scale, mut at) = (Motion::Travel, 1.0, Point::ORIGIN);
    for line in text.lines() {
        let (mut places, mut others) = (Places::default(), String::new());
        for (letter, word) in words(line)? {
            let plain = word.trim_start_matches('0');
            match (letter, plain) {
                ('G', "" | "1" | "2" | "3") => {
                    motion = match plain {
                        "" => Motion::Travel,
                        "1" => Motion::Line,
                        other => Motion::Arc {
                            clockwise: other == "2",
                        },
                    };
                }
                ('G', "20") => scale = MM_PER_INCH,
                ('G', "21") => scale = 1.0,
                (
                    'G',
                    "10" | "52" | "91" | "92" | "18" | "19" | "41" | "42" | "68" | "28" | "30",
                )
                | ('R', _) => {
                    return Err(CorrectedError::Instruction(format!("{letter}{word}")));
                }
                ('X' | 'Y' | 'I' | 'J', _) => {
                    places.set(letter, place(&word)? * scale);
                    continue;
                }
                _ => {}
            }
            if letter != 'G' || !matches!(plain, "" | "1" | "2" | "3") {
                let _ = write!(others, "{letter}{word}");
            }
        }
        let to = Point::new(places.x.unwrap_or(at.x), places.y.unwrap_or(at.y));
        if places.x.is_none() && places.y.is_none() && places.centre == Vec2::ZERO {
            // No place in it, but perhaps a way to move.
            out.push_str(line);
            out.push('\n');
            continue;
        }
        let path = match motion {
            Motion::Travel | Motion::Line => vec![Segment::Line(kurbo::Line::new(at, to))],
            Motion::Arc { clockwise } => arcs(at, to, places.centre, clockwise),
        };
        let word = if motion == Motion::Travel { "G0" } else { "G1" };
        let mut ends: Vec<Point> = Vec::new();
        for segment in &path {
            for seen in segment.seen(map, TOLERANCE / 2.0) {
                seen.flatten(TOLERANCE / 2.0, &mut ends);
            }
        }
        let mut first = true;
        for end in ends {
            let said = if first { others.as_str() } else { "" };
            let _ = writeln!(
                out,
                "{word} X{} Y{}{}{said}",
                figure(end.x / scale),
                figure(end.y / scale),
                if said.is_empty() { "" } else { " " }
            );
            first = false;
        }
        at = to;
    }
    Ok(out)
}

#[derive(Default)]
struct Places {
    x: Option<f64>,
    y: Option<f64>,
    centre: Vec2,
}

impl Places {
    fn set(&mut self, letter: char, value: f64) {
        match letter {
            'X' => self.x = Some(value),
            'Y' => self.y = Some(value),
            'I' => self.centre.x = value,
            _ => self.centre.y = value,
        }
    }
}

/// The letters of a line with their figures, comments left out.
fn words(line: &str) -> Result<Vec<(char, String)>, CorrectedError> {
    let mut found: Vec<(char, String)> = Vec::new();
    let mut within = false;
    for c in line.chars().take_while(|&c| c != ';') {
        match c {
            '(' => within = true,
            ')' => within = false,
            _ if within || c.is_whitespace() || c == '%' => {}
            c if c.is_ascii_alphabetic() => found.push((c.to_ascii_uppercase(), String::new())),
            c => match found.last_mut() {
                Some((_, word)) => word.push(c),
                None => return Err(CorrectedError::Place(line.to_owned())),
            },
        }
    }
    Ok(found)
}

/// An arc about a middle seen from its start, in halves at most; y up.
fn arcs(from: Point, to: Point, centre: Vec2, clockwise: bool) -> Vec<Segment> {
    let middle = from + centre;
    let (a, b) = ((from - middle).atan2(), (to - middle).atan2());
    let turn = std::f64::consts::TAU;
    let mut sweep = (b - a).rem_euclid(turn);
    if clockwise {
        sweep -= turn;
    }
    if from.distance(to) < 1e-9 {
        sweep = if clockwise { -turn } else { turn };
    }
    let parts = (sweep.abs() / std::f64::consts::PI).ceil().max(1.0);
    let radius = centre.hypot();
    let at = |n: f64| match n {
        n if n >= parts => to,
        n if n <= 0.0 => from,
        n => middle + Vec2::from_angle(a + sweep * n / parts) * radius,
    };
    let bulge = (sweep / parts / 4.0).tan();
    (0..parts as usize)
        .map(|n| {
            Segment::Arc(Arc {
                p0: at(n as f64),
                p1: at(n as f64 + 1.0),
                bulge,
            })
        })
        .collect()
}

fn figure(v: f64) -> String {
    let text = format!("{:.4}", v);
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text == "-0" {
        "0".to_owned()
    } else {
        text.to_owned()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use kurbo::Affine;

    fn shifted() -> Projective {
        Projective::from(Affine::new([1.0, 0.0, 0.1, 1.0, 10.0, -2.0]))
    }

    #[test]
    fn places_of_a_plotter_are_moved_and_nothing_else() {
        let text = "IN;SP1;VS20;FS80;\nPU400,400;PD800,400,800,800;PU;SP0;";
        let told = hpgl(text, &shifted());
        // 10 mm + 10 mm + a tenth of 10 mm across, 10 mm − 2 mm up.
        assert_eq!(
            told.as_deref(),
            Ok("IN;SP1;VS20;FS80;\nPU840,320;PD1240,320,1280,720;PU;SP0;")
        );
        for other in ["IN;PR1,1;", "IN;PU0,0;CI400;", "IN;PU0,0;SC0,1,0,1;"] {
            assert!(matches!(
                hpgl(other, &shifted()),
                Err(CorrectedError::Instruction(_))
            ));
        }
        assert!(matches!(
            hpgl("PU1,x;", &shifted()),
            Err(CorrectedError::Place(_))
        ));
        assert!(matches!(
            hpgl("PU1,2,3;", &shifted()),
            Err(CorrectedError::Place(_))
        ));
    }

    #[test]
    fn lines_of_a_laser_keep_their_feed_and_beam() {
        let text = "G21 G90\n(teal)\nM4 S300\nG0 X10 Y10\nG1 X20 F600\nX20 Y20 S100\nM5\n";
        let told = gcode(text, &shifted());
        assert_eq!(
            told.as_deref(),
            Ok("G21 G90\n(teal)\nM4 S300\nG0 X21 Y8\nG1 X31 Y8 F600\nG1 X32 Y18 S100\nM5\n")
        );
        assert!(matches!(
            gcode("G91\nG1 X1", &shifted()),
            Err(CorrectedError::Instruction(_))
        ));
        assert!(matches!(
            gcode("G1 X--1", &shifted()),
            Err(CorrectedError::Place(_))
        ));
    }

    #[test]
    fn arcs_become_chords_that_keep_near() {
        // A whole circle of 10 mm radius about 20, 10, sheared: x' = x + y/10.
        let told =
            gcode("G21 G90\nG0 X10 Y10\nG2 X10 Y10 I10 J0 F600\n", &shifted()).expect("moved");
        let mut ends = Vec::new();
        for line in told.lines().filter(|l| l.starts_with("G1")) {
            let numbers: Vec<f64> = words(line)
                .expect("words")
                .iter()
                .filter(|(l, _)| "XY".contains(*l))
                .map(|(_, w)| w.parse().expect("a number"))
                .collect();
            ends.push(Point::new(numbers[0], numbers[1]));
        }
        assert!(ends.len() > 30, "{}", ends.len());
        let back = |p: Point| Point::new(p.x - 10.0 - 0.1 * (p.y + 2.0), p.y + 2.0);
        let mut area = 0.0;
        for pair in ends.windows(2) {
            for p in [pair[0], pair[0].midpoint(pair[1])] {
                let off = (back(p).distance(Point::new(20.0, 10.0)) - 10.0).abs();
                assert!(off < 0.012, "{off}");
            }
            area += pair[0].to_vec2().cross(pair[1].to_vec2()) / 2.0;
        }
        // Clockwise, so its area counts below nought; but for the first chord it is whole.
        assert!((area + 314.16).abs() < 10.0, "{area}");
    }
}
