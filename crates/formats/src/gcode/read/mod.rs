//! G-code to what the tool draws: G0 to G3, planes, units, absolute and by steps, offsets, M3 to M5.
//!
//! A tool that goes under the work and above it again draws while it is under, Z ≤ 0; else a beam
//! draws while it is on and its power is above nought. Source: NIST IR 6556, sections 3.5 and 3.6.

mod words;

use std::collections::BTreeMap;
use std::f64::consts::TAU;

use inky_core::limits;
use inky_core::segment::{Arc, Segment};
use inky_core::stop::Stop;
use kurbo::{Line, Point, Vec2};

use crate::toolpath::{Run, Toolpath};
use crate::vector::{FileUnit, VectorError};
use words::{Block, Word, broken};

/// Whether bytes look like G-code.
#[must_use]
pub fn is_gcode(bytes: &[u8]) -> bool {
    let head = String::from_utf8_lossy(&bytes[..bytes.len().min(1 << 14)]);
    // A program number, line numbers and comments may come before the first word that does something.
    let first = |line: &str| match words::block(line, 0) {
        Ok(block) => {
            let mut words = block.words.iter().map(|w| w.0);
            words.find(|letter| !matches!(letter, 'N' | 'O'))
        }
        // A line that cannot be followed is still one of G-code, or is none.
        Err(_) => {
            let mut letters = line.trim_start().chars();
            let letter = letters
                .next()
                .filter(|_| letters.next().is_some_and(|c| c.is_ascii_digit()));
            Some(letter.map_or(' ', |c| c.to_ascii_uppercase()))
        }
    };
    let letter = head.lines().find_map(first);
    matches!(letter, Some('G' | 'M' | 'T' | 'S' | 'F'))
}

/// What a block asks for along its way.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Motion {
    Rapid,
    Straight,
    /// Whether it turns against the clock.
    Round(bool),
    /// A hole is drilled at every place.
    Drill,
    /// Nothing that is followed here.
    Other,
}

struct Machine {
    path: Toolpath,
    /// Where the tool is, as the machine counts.
    at: Point,
    z: Option<f64>,
    /// What is added to the program's figures, mm.
    offset: Vec2,
    scale: f64,
    relative: bool,
    centres_absolute: bool,
    level: bool,
    motion: Motion,
    on: bool,
    power: f64,
    /// Whether it draws by its depth.
    by_depth: bool,
    feed: Option<f64>,
    /// A comment that names what comes.
    named: Option<String>,
    layer: usize,
    drawn: Vec<Segment>,
    segments: usize,
    ended: bool,
}

/// Reads G-code as it says.
///
/// # Errors
/// As [`read_as`].
pub fn read(bytes: &[u8]) -> Result<Toolpath, VectorError> {
    read_as(bytes, None)
}

/// Reads G-code; figures are in `unit`, where one is asked for, whatever the file says.
///
/// # Errors
/// The first line that cannot be followed, or nothing drawn, or too much.
pub fn read_as(bytes: &[u8], unit: Option<FileUnit>) -> Result<Toolpath, VectorError> {
    read_until(bytes, unit, &Stop::new())
}

/// Reads G-code as long as it is wanted.
pub(crate) fn read_until(
    bytes: &[u8],
    unit: Option<FileUnit>,
    stop: &Stop,
) -> Result<Toolpath, VectorError> {
    let text = String::from_utf8_lossy(bytes);
    let mut machine = Machine {
        path: Toolpath::default(),
        at: Point::ORIGIN,
        z: None,
        offset: Vec2::ZERO,
        scale: unit.map_or(1.0, FileUnit::in_mm),
        relative: false,
        centres_absolute: false,
        level: true,
        motion: Motion::Rapid,
        on: false,
        power: 0.0,
        by_depth: by_depth(&text, stop)?,
        feed: None,
        named: None,
        layer: 0,
        drawn: Vec::new(),
        segments: 0,
        ended: false,
    };
    let mut stated = unit.is_some();
    for (n, line) in text.lines().enumerate() {
        let mut block = words::block(line, n + 1)?;
        let units = |w: &Word| matches!(w, ('G', 20.0 | 21.0));
        stated |= block.words.iter().any(units);
        if unit.is_some() {
            block.words.retain(|w| !units(w));
        }
        stop.check()?;
        machine.follow(block, n + 1)?;
        if machine.ended {
            break;
        }
    }
    machine.lift();
    machine.path.taken_for = (!stated).then_some(FileUnit::Mm);
    if machine.path.runs.is_empty() {
        return Err(VectorError::Empty(machine.path.left_out));
    }
    Ok(machine.path)
}

/// Whether a file draws by the depth of its tool: no beam is ever switched on, or the tool goes
/// both under and above the work.
fn by_depth(text: &str, stop: &Stop) -> Result<bool, VectorError> {
    let (mut z, mut low, mut high) = (0.0_f64, 0.0_f64, 0.0_f64);
    let (mut relative, mut beam, mut drills) = (false, false, false);
    for (n, line) in text.lines().enumerate() {
        stop.check()?;
        for (letter, value) in words::block(line, n + 1)?.words {
            match (letter, value) {
                ('M', 3.0 | 4.0) => beam = true,
                ('G', 90.0) => relative = false,
                ('G', 91.0) => relative = true,
                ('G', 73.0 | 81.0..=89.0) => drills = true,
                ('G', 0.0..=3.0 | 80.0) => drills = false,
                ('Z', v) if !drills => {
                    z = if relative { z + v } else { v };
                    (low, high) = (low.min(z), high.max(z));
                }
                _ => {}
            }
        }
    }
    Ok(!beam || low < 0.0 && high > 0.0)
}

/// The words of a block that are figures of its motion.
type Given = BTreeMap<char, f64>;

impl Machine {
    fn follow(&mut self, block: Block, number: usize) -> Result<(), VectorError> {
        if block.words.is_empty() && block.comment.is_some() && !self.draws() {
            // A comment by itself, the tool up, names what comes; in the middle of a line it is a remark.
            self.named = block.comment;
        }
        let mut given = Given::new();
        let (mut moves, mut home, mut machine_place) = (true, false, false);
        for (letter, value) in block.words {
            match (letter, value) {
                ('G', 92.0) => moves = false,
                ('G', 28.0 | 30.0) => home = true,
                ('G', 53.0) => machine_place = true,
                ('G', v) => self.mode(v),
                ('M', v) => self.switch(v),
                ('S', v) => self.power = v,
                ('F', v) => self.feed = Some(v * self.scale / 60.0),
                _ => {
                    given.insert(letter, value);
                }
            }
        }
        if !moves {
            self.shift(&given);
            return Ok(());
        }
        if home {
            self.lift();
            self.path.leave_out("moves home");
            return Ok(());
        }
        self.go(&given, machine_place, number)
    }

    fn mode(&mut self, word: f64) {
        match word {
            0.0 => self.motion = Motion::Rapid,
            1.0 => self.motion = Motion::Straight,
            2.0 => self.motion = Motion::Round(false),
            3.0 => self.motion = Motion::Round(true),
            80.0 => self.motion = Motion::Rapid,
            73.0 | 81.0..=89.0 => {
                self.lift();
                self.motion = Motion::Drill;
            }
            17.0 => self.level = true,
            18.0 | 19.0 => self.level = false,
            20.0 => self.scale = 25.4,
            21.0 => self.scale = 1.0,
            90.0 => self.relative = false,
            91.0 => self.relative = true,
            90.1 => self.centres_absolute = true,
            91.1 => self.centres_absolute = false,
            92.1 | 92.2 => self.offset = Vec2::ZERO,
            41.0 | 42.0 => self
                .path
                .leave_out("corrections for a tool's radius (drawn along the program)"),
            5.0 | 5.1 | 33.0 | 38.2 => {
                self.lift();
                self.motion = Motion::Other;
                self.path.leave_out("G words");
            }
            // Dwell, compensation off, lengths, work offsets, path control, feed and return modes.
            4.0
            | 40.0
            | 43.0
            | 49.0
            | 54.0..=59.3
            | 61.0
            | 61.1
            | 64.0
            | 93.0
            | 94.0
            | 98.0
            | 99.0 => {}
            _ => self.path.leave_out("G words"),
        }
    }

    fn switch(&mut self, word: f64) {
        match word {
            3.0 | 4.0 => self.on = true,
            5.0 => {
                if !self.by_depth {
                    self.lift();
                }
                self.on = false;
            }
            2.0 | 30.0 => self.ended = true,
            97.0 | 98.0 => self.path.leave_out("subprograms"),
            _ => {}
        }
    }

    /// From here on the program calls this place by other figures.
    fn shift(&mut self, given: &Given) {
        for (letter, at, offset) in [
            ('X', self.at.x, &mut self.offset.x),
            ('Y', self.at.y, &mut self.offset.y),
        ] {
            if let Some(v) = given.get(&letter) {
                *offset = at - v * self.scale;
            }
        }
    }

    fn deep(&self) -> bool {
        self.z.is_some_and(|z| z <= 0.0)
    }

    fn draws(&self) -> bool {
        if self.by_depth {
            self.deep()
        } else {
            self.on && self.power > 0.0
        }
    }

    fn go(&mut self, given: &Given, machine_place: bool, number: usize) -> Result<(), VectorError> {
        let was = self.z;
        if let Some(z) = given.get(&'Z').filter(|_| self.motion != Motion::Drill) {
            let base = match self.relative {
                true => self.z.unwrap_or(0.0),
                false => 0.0,
            };
            self.z = Some(base + z * self.scale);
        }
        let offset = if machine_place {
            Vec2::ZERO
        } else {
            self.offset
        };
        let axis = |letter: char, now: f64, offset: f64| match given.get(&letter) {
            Some(v) if self.relative => now + v * self.scale,
            Some(v) => v * self.scale + offset,
            None => now,
        };
        let to = Point::new(
            axis('X', self.at.x, offset.x),
            axis('Y', self.at.y, offset.y),
        );
        let round = matches!(self.motion, Motion::Round(_));
        let turns = round && (given.contains_key(&'I') || given.contains_key(&'J'));
        let stays = !given.contains_key(&'X') && !given.contains_key(&'Y') && !turns;
        if stays {
            if self.by_depth && !self.deep() {
                self.lift();
            }
            return Ok(());
        }
        let from = std::mem::replace(&mut self.at, to);
        match self.motion {
            Motion::Drill => self.path.leave_out("drilled holes"),
            Motion::Straight if self.by_depth => self.slope(from, to, was)?,
            Motion::Straight if self.draws() => self.draw(Segment::Line(Line::new(from, to)))?,
            Motion::Round(_) if self.draws() && !self.level => {
                self.lift();
                self.path.leave_out("arcs on edge");
            }
            Motion::Round(counter) if self.draws() => {
                for arc in self.arc(given, (from, to), counter, number)? {
                    self.draw(arc)?;
                }
            }
            _ => self.lift(),
        }
        Ok(())
    }

    /// A straight move that may go into the work or out of it: the part under its surface.
    fn slope(&mut self, from: Point, to: Point, was: Option<f64>) -> Result<(), VectorError> {
        let (Some(a), Some(b)) = (was.or(self.z), self.z) else {
            return Ok(());
        };
        let through = |t: f64| from.lerp(to, t);
        let surface = a / (a - b);
        match (a <= 0.0, b <= 0.0) {
            (true, true) => self.draw(Segment::Line(Line::new(from, to))),
            (false, true) => {
                self.lift();
                self.draw(Segment::Line(Line::new(through(surface), to)))
            }
            (true, false) => {
                if a < 0.0 {
                    self.draw(Segment::Line(Line::new(from, through(surface))))?;
                }
                self.lift();
                Ok(())
            }
            (false, false) => {
                self.lift();
                Ok(())
            }
        }
    }

    fn draw(&mut self, segment: Segment) -> Result<(), VectorError> {
        self.segments += 1;
        if self.segments > limits::SEGMENTS {
            return Err(VectorError::TooManySegments);
        }
        if self.drawn.is_empty()
            && let Some(name) = self.named.take()
        {
            let names = &mut self.path.names;
            let known = names.iter().find(|(_, known)| **known == name);
            self.layer = known.map_or(names.len(), |(layer, _)| *layer);
            names.insert(self.layer, name);
        }
        self.drawn.push(segment);
        Ok(())
    }

    fn arc(
        &self,
        given: &Given,
        (from, to): (Point, Point),
        against_clock: bool,
        number: usize,
    ) -> Result<Vec<Segment>, VectorError> {
        let chord = to - from;
        let figure = |letter: char| given.get(&letter).map(|v| v * self.scale);
        let sweep = if let Some(radius) = figure('R') {
            if chord.hypot() < 1e-9 {
                return Err(broken(number, "a full circle needs a middle (I, J)"));
            }
            let short = 2.0 * (chord.hypot() / 2.0 / radius.abs()).min(1.0).asin();
            if radius < 0.0 { TAU - short } else { short }
        } else {
            let offset = |letter: char, now: f64, shift: f64| match figure(letter) {
                Some(v) if self.centres_absolute => v + shift,
                Some(v) => now + v,
                None => now,
            };
            let middle = Point::new(
                offset('I', from.x, self.offset.x),
                offset('J', from.y, self.offset.y),
            );
            let (a, b) = (from - middle, to - middle);
            if a.hypot() < 1e-9 {
                return Err(broken(number, "an arc has no middle"));
            }
            if chord.hypot() < 1e-9 {
                let across = middle - a;
                let bulge = if against_clock { 1.0 } else { -1.0 };
                let halves = [(from, across), (across, to)];
                let half = |(p0, p1)| Segment::Arc(Arc { p0, p1, bulge });
                return Ok(halves.map(half).to_vec());
            }
            let turn = a.cross(b).atan2(a.dot(b));
            let turn = if against_clock { turn } else { -turn };
            if turn <= 1e-9 { turn + TAU } else { turn }
        };
        let sweep = if against_clock { sweep } else { -sweep };
        Ok(vec![Segment::Arc(Arc {
            p0: from,
            p1: to,
            bulge: (sweep / 4.0).tan(),
        })])
    }

    fn lift(&mut self) {
        let segments = std::mem::take(&mut self.drawn);
        if !segments.is_empty() {
            self.path.runs.push(Run {
                layer: self.layer,
                speed: self.feed,
                segments,
            });
        }
    }
}
