//! G-code to what the tool draws: G0 to G3, G20, G21, G90, G91, M3 to M5, F, S, X, Y, Z, I, J, R.
//!
//! A beam draws while it is on and its power is above nought; a file that never switches one on draws while
//! the tool is not above the work, Z ≤ 0. Source: NIST IR 6556, section 3.

use std::collections::BTreeMap;

use inky_core::limits;
use inky_core::segment::{Arc, Segment};
use kurbo::{Line, Point, Vec2};

use crate::toolpath::{Run, Toolpath};
use crate::vector::VectorError;

/// Coordinates beyond this are no places, mm.
const FAR: f64 = 1e6;

fn broken(line: usize, why: impl std::fmt::Display) -> VectorError {
    VectorError::Broken {
        format: "G-code",
        why: format!("line {line}: {why}"),
    }
}

/// Whether bytes look like G-code.
#[must_use]
pub fn is_gcode(bytes: &[u8]) -> bool {
    let head = String::from_utf8_lossy(&bytes[..bytes.len().min(2048)]);
    let lines = head.lines().map(str::trim);
    let first = lines
        .filter(|l| !l.is_empty() && !l.starts_with(['(', ';', '%']))
        .map(|l| l.trim_start_matches(|c: char| c == 'N' || c.is_ascii_digit()))
        .next();
    let mut letters = first.unwrap_or_default().trim_start().chars();
    let word = letters.next().map(|c| c.to_ascii_uppercase());
    matches!(word, Some('G' | 'M' | 'T' | 'S' | 'F'))
        && letters.next().is_some_and(|c| c.is_ascii_digit())
}

struct Machine {
    path: Toolpath,
    at: Point,
    z: Option<f64>,
    scale: f64,
    relative: bool,
    motion: u32,
    on: bool,
    power: f64,
    beam: bool,
    feed: Option<f64>,
    layer: Option<usize>,
    drawn: Vec<Segment>,
    segments: usize,
}

/// Reads G-code.
///
/// # Errors
/// The first line that cannot be followed, or nothing drawn, or too much.
pub fn read(bytes: &[u8]) -> Result<Toolpath, VectorError> {
    let text = String::from_utf8_lossy(bytes);
    let mut machine = Machine {
        path: Toolpath::default(),
        at: Point::ORIGIN,
        z: None,
        scale: 1.0,
        relative: false,
        motion: 0,
        on: false,
        power: 0.0,
        beam: ["M3", "M03", "M4", "M04"].iter().any(|w| text.contains(w)),
        feed: None,
        layer: None,
        drawn: Vec::new(),
        segments: 0,
    };
    for (n, line) in text.lines().enumerate() {
        machine.block(line, n + 1)?;
    }
    machine.lift();
    if machine.path.runs.is_empty() {
        return Err(VectorError::Empty(machine.path.left_out));
    }
    Ok(machine.path)
}

/// A letter and its figure.
type Word = (char, f64);

/// The words of a block, and the text of its comments.
fn words(line: &str, number: usize) -> Result<(Vec<Word>, Option<String>), VectorError> {
    let (mut words, mut comment) = (Vec::new(), None);
    let mut rest = line.split(';').next().unwrap_or_default().trim();
    while let Some(letter) = rest.chars().next() {
        rest = &rest[letter.len_utf8()..];
        if letter == '(' {
            let end = rest
                .find(')')
                .ok_or_else(|| broken(number, "a comment has no end"))?;
            comment = Some(rest[..end].to_owned());
            rest = rest[end + 1..].trim_start();
            continue;
        }
        if letter == '%' || letter == '/' || letter.is_whitespace() {
            continue;
        }
        if !letter.is_ascii_alphabetic() {
            return Err(broken(number, format!("'{letter}' is no word")));
        }
        rest = rest.trim_start();
        let end = rest
            .find(|c: char| !(c.is_ascii_digit() || matches!(c, '.' | '-' | '+')))
            .unwrap_or(rest.len());
        let value = rest[..end].parse::<f64>().ok().filter(|v| v.abs() < FAR);
        let value = value.ok_or_else(|| broken(number, format!("{letter} has no figure")))?;
        words.push((letter.to_ascii_uppercase(), value));
        rest = rest[end..].trim_start();
    }
    Ok((words, comment))
}

impl Machine {
    fn block(&mut self, line: &str, number: usize) -> Result<(), VectorError> {
        let (words, comment) = words(line, number)?;
        if let Some(comment) = comment {
            self.lift();
            let next = self.layer.map_or(0, |n| n + 1);
            self.layer = Some(next);
            self.path.names.insert(next, comment);
        }
        let mut given: BTreeMap<char, f64> = BTreeMap::new();
        for (letter, value) in words {
            match (letter, value) {
                ('G', v) if (0.0..=3.0).contains(&v) && v.fract() == 0.0 => self.motion = v as u32,
                ('G', 20.0) => self.scale = 25.4,
                ('G', 21.0) => self.scale = 1.0,
                ('G', 90.0) => self.relative = false,
                ('G', 91.0) => self.relative = true,
                ('G', v) if [4.0, 17.0, 40.0, 49.0, 54.0, 61.0, 64.0, 80.0, 94.0].contains(&v) => {}
                ('G', _) => self.path.leave_out("G words"),
                ('M', 3.0 | 4.0) => self.on = true,
                ('M', 5.0) => {
                    self.lift();
                    self.on = false;
                }
                ('S', v) => self.power = v,
                ('F', v) => self.feed = Some(v * self.scale / 60.0),
                _ => {
                    given.insert(letter, value);
                }
            }
        }
        self.go(&given, number)
    }

    fn draws(&self) -> bool {
        if self.beam {
            self.on && self.power > 0.0
        } else {
            self.z.is_some_and(|z| z <= 0.0)
        }
    }

    fn go(&mut self, given: &BTreeMap<char, f64>, number: usize) -> Result<(), VectorError> {
        if let Some(z) = given.get(&'Z') {
            let base = if self.relative {
                self.z.unwrap_or(0.0)
            } else {
                0.0
            };
            self.z = Some(base + z * self.scale);
            if self.z.is_some_and(|z| z > 0.0) {
                self.lift();
            }
        }
        if !given.contains_key(&'X') && !given.contains_key(&'Y') {
            return Ok(());
        }
        let axis = |letter: char, now: f64| match given.get(&letter) {
            Some(v) if self.relative => now + v * self.scale,
            Some(v) => v * self.scale,
            None => now,
        };
        let to = Point::new(axis('X', self.at.x), axis('Y', self.at.y));
        if self.motion == 0 || !self.draws() {
            self.lift();
        } else {
            let segment = match self.motion {
                1 => Segment::Line(Line::new(self.at, to)),
                motion => self.arc(given, to, motion == 3, number)?,
            };
            self.segments += 1;
            if self.segments > limits::SEGMENTS {
                return Err(VectorError::TooManySegments);
            }
            self.drawn.push(segment);
        }
        self.at = to;
        Ok(())
    }

    fn arc(
        &self,
        given: &BTreeMap<char, f64>,
        to: Point,
        against_clock: bool,
        number: usize,
    ) -> Result<Segment, VectorError> {
        let chord = to - self.at;
        let off = |letter: char| given.get(&letter).map_or(0.0, |v| v * self.scale);
        let sweep = if let Some(radius) = given.get(&'R') {
            let half = (chord.hypot() / 2.0 / (radius.abs() * self.scale))
                .min(1.0)
                .asin();
            let short = 2.0 * half;
            if *radius < 0.0 {
                std::f64::consts::TAU - short
            } else {
                short
            }
        } else {
            let middle = self.at + Vec2::new(off('I'), off('J'));
            let (a, b) = (self.at - middle, to - middle);
            if a.hypot() < 1e-9 {
                return Err(broken(number, "an arc has no middle"));
            }
            let turn = a.cross(b).atan2(a.dot(b));
            let turn = if against_clock { turn } else { -turn };
            if turn <= 1e-9 {
                turn + std::f64::consts::TAU
            } else {
                turn
            }
        };
        let sweep = if against_clock { sweep } else { -sweep };
        if chord.hypot() < 1e-9 {
            return Err(broken(
                number,
                "a full circle in one arc; write it as two halves",
            ));
        }
        Ok(Segment::Arc(Arc {
            p0: self.at,
            p1: to,
            bulge: (sweep / 4.0).tan(),
        }))
    }

    fn lift(&mut self) {
        let segments = std::mem::take(&mut self.drawn);
        if !segments.is_empty() {
            self.path.runs.push(Run {
                layer: self.layer.unwrap_or(0),
                speed: self.feed,
                segments,
            });
        }
    }
}
