//! A laser that takes G-code a line at a time and answers each with `ok` or `error: …`.
//!
//! ```text
//!   line ─► 128 bytes ─► 16 moves ─► head ─► burns          ok: the line is among the moves
//!   ? state   ! pause   ~ go on   Ctrl-X stop               at once, past everything that waits
//! ```
//!
//! It knows `G0 G1 G2 G3 G4 G17 G20 G21 G90 G91 G94 M2 M3 M4 M5 M30` and `F S I J P N`. The beam is on only while the
//! head goes along a line or an arc, so it is off whenever nothing more comes. With `M4` its power falls with the
//! speed of the head, with `M3` it does not (common practice, no source, as are the signs that act at once).
//! Source of the words: NIST IR 6556, "The NIST RS274NGC Interpreter, version 3", sections 3.5 to 3.7.

mod words;

use std::collections::VecDeque;

use kurbo::{Point, Vec2};

use crate::motion::{Dynamics, Gone, Head};

/// What a laser is and can do.
#[derive(Clone, Debug, PartialEq)]
pub struct Model {
    /// What it says when it is switched on.
    pub name: String,
    /// Width and height of its bed, mm.
    pub bed: [f64; 2],
    /// Speed and acceleration of its drives.
    pub dynamics: Dynamics,
    /// Greatest speed, mm/s.
    pub speed: f64,
    /// The `S` that is full power.
    pub full: f64,
    /// Bytes that wait for it at most; what comes beyond is lost.
    pub buffer: usize,
}

impl Default for Model {
    fn default() -> Self {
        Self {
            name: "INKY-LASER-600".to_owned(),
            bed: [600.0, 400.0],
            dynamics: Dynamics {
                acceleration: 3000.0,
                corner: 15.0,
            },
            speed: 500.0,
            full: 1000.0,
            buffer: 128,
        }
    }
}

/// A straight piece that the beam burned.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Burn {
    /// Where it began, mm.
    pub from: Point,
    /// Where it ended, mm.
    pub to: Point,
    /// Power, 0 to 1.
    pub power: f64,
    /// Speed, mm/s.
    pub speed: f64,
    /// Number of the line that asked for it, by its `N`; 0 before any.
    pub line: u32,
}

/// What was really done since it was switched on.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Record {
    /// Burns, one after the other.
    pub burns: Vec<Burn>,
    /// Way with the beam on, mm.
    pub burned: f64,
    /// Way with the beam off, mm.
    pub travel: f64,
    /// Time in which it moved, s.
    pub seconds: f64,
    /// Bytes that came when there was no room for them.
    pub lost: usize,
}

/// What it is doing.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum State {
    /// Nothing is left.
    Idle,
    /// Moving.
    Run,
    /// Paused, with the beam off.
    Hold,
}

/// What a move is for.
#[derive(Clone, Copy, Debug)]
struct Move {
    /// Power that is asked for, 0 to 1; nought with the beam off.
    power: f64,
    /// The feed that the power belongs to, mm/s, where it falls with the speed.
    dynamic: Option<f64>,
    line: u32,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Beam {
    Off,
    Constant,
    Dynamic,
}

/// What lines have set.
#[derive(Clone, Copy, Debug)]
struct Modal {
    motion: u8,
    inches: bool,
    relative: bool,
    /// mm/min.
    feed: f64,
    /// 0 to 1.
    power: f64,
    beam: Beam,
    line: u32,
}

/// Moves that it looks ahead.
const AHEAD: usize = 16;
/// Greatest distance of an arc's chords from it, mm.
const CHORDS: f64 = 0.002;
/// How far the two ends of an arc may lie at different distances from its middle, mm (NIST IR 6556, 3.5.3).
const UNEVEN: f64 = 0.01;
const MM_PER_INCH: f64 = 25.4;
/// Stops at once.
pub const STOP: u8 = 0x18;

/// A laser.
#[derive(Clone, Debug)]
pub struct Laser {
    model: Model,
    waiting: VecDeque<u8>,
    modal: Modal,
    head: Head<Move>,
    held: bool,
    /// Whether the last burn goes on.
    goes_on: bool,
    slow: f64,
    /// Line of the move under way.
    line: u32,
    answers: Vec<u8>,
    record: Record,
}

const SWITCHED_ON: Modal = Modal {
    motion: 0,
    inches: false,
    relative: false,
    feed: 0.0,
    power: 0.0,
    beam: Beam::Off,
    line: 0,
};

impl Laser {
    /// A laser that was just switched on.
    #[must_use]
    pub fn new(model: Model) -> Self {
        Self {
            waiting: VecDeque::new(),
            modal: SWITCHED_ON,
            head: Head::new(Point::ZERO, model.dynamics),
            held: false,
            goes_on: false,
            slow: 1.0,
            line: 0,
            answers: Vec::new(),
            record: Record::default(),
            model,
        }
    }

    /// What it is.
    #[must_use]
    pub const fn model(&self) -> &Model {
        &self.model
    }

    /// What it really did.
    #[must_use]
    pub const fn record(&self) -> &Record {
        &self.record
    }

    /// The burns it did, which it forgets.
    pub fn take_burns(&mut self) -> Vec<Burn> {
        std::mem::take(&mut self.record.burns)
    }

    /// What it is doing.
    #[must_use]
    pub fn state(&self) -> State {
        if self.held {
            State::Hold
        } else if self.head.left() > 0 || !self.waiting.is_empty() {
            State::Run
        } else {
            State::Idle
        }
    }

    /// It goes so many times slower.
    pub const fn slow_down(&mut self, times: f64) {
        self.slow = times;
    }

    /// How many times slower it goes.
    #[must_use]
    pub const fn times_slower(&self) -> f64 {
        self.slow
    }

    /// Takes bytes; those for which there is no room are lost, as on a line without a handshake.
    pub fn receive(&mut self, bytes: &[u8]) {
        for &byte in bytes {
            match byte {
                b'?' => self.tell_state(),
                b'!' => {
                    self.held = true;
                    self.goes_on = false;
                    self.head.hold();
                }
                b'~' => self.held = false,
                STOP => self.stop(),
                _ if self.waiting.len() >= self.model.buffer => self.record.lost += 1,
                _ => self.waiting.push_back(byte),
            }
        }
    }

    /// The beam is off, and what was to come is forgotten.
    pub fn stop(&mut self) {
        self.waiting.clear();
        self.head.halt();
        self.modal = SWITCHED_ON;
        (self.held, self.goes_on) = (false, false);
        let name = self.model.name.clone();
        self.answer(&name);
    }

    /// What it answered since it was asked last.
    pub fn answers(&mut self) -> Vec<u8> {
        std::mem::take(&mut self.answers)
    }

    fn answer(&mut self, text: &str) {
        self.answers.extend_from_slice(text.as_bytes());
        self.answers.extend_from_slice(b"\r\n");
    }

    fn tell_state(&mut self) {
        let word = match self.state() {
            State::Idle => "Idle",
            State::Run => "Run",
            State::Hold => "Hold",
        };
        let at = self.head.at();
        let text = format!(
            "<{word}|MPos:{:.3},{:.3},0.000|Ln:{}>",
            at.x, at.y, self.line
        );
        self.answer(&text);
    }

    /// Lets time go by, s.
    pub fn advance(&mut self, seconds: f64) {
        let mut left = seconds / self.slow.max(1e-9);
        while !self.held {
            while self.head.left() < AHEAD
                && let Some(line) = self.line()
            {
                let answer = match words::of(&line).and_then(|words| self.take(&words)) {
                    Ok(()) => "ok".to_owned(),
                    Err(why) => format!("error: {why}"),
                };
                self.answer(&answer);
            }
            let before = left;
            let Some(gone) = self.head.advance(&mut left) else {
                break;
            };
            self.record.seconds += (before - left) * self.slow;
            self.did(gone);
            if left <= 0.0 {
                break;
            }
        }
    }

    /// The next line that is whole.
    fn line(&mut self) -> Option<String> {
        let end = self.waiting.iter().position(|&b| b == b'\n')?;
        let line: Vec<u8> = self.waiting.drain(..=end).collect();
        Some(String::from_utf8_lossy(&line).into_owned())
    }

    /// Does what a line says, or nothing of it.
    fn take(&mut self, words: &[(char, f64)]) -> Result<(), String> {
        let mut set = self.modal;
        let mut dwell = false;
        for &(letter, number) in words {
            match (letter, (number * 10.0).round() as i64) {
                ('G', 0 | 10 | 20 | 30) => set.motion = number as u8,
                ('G', 40) => dwell = true,
                ('G', 170 | 940) | ('M', 0 | 10 | 70 | 80 | 90) | ('T', _) => {}
                ('G', 200) => set.inches = true,
                ('G', 210) => set.inches = false,
                ('G', 900) => set.relative = false,
                ('G', 910) => set.relative = true,
                ('M', 30) => set.beam = Beam::Constant,
                ('M', 40) => set.beam = Beam::Dynamic,
                ('M', 20 | 50 | 300) => set.beam = Beam::Off,
                ('F', _) if number > 0.0 => {
                    set.feed = number * if set.inches { MM_PER_INCH } else { 1.0 };
                }
                ('F', _) => return Err("F is a feed above nought".to_owned()),
                ('S', _) if number >= 0.0 => set.power = (number / self.model.full).min(1.0),
                ('S', _) => return Err("S is a power of nought or more".to_owned()),
                ('N', _) => set.line = number.clamp(0.0, f64::from(u32::MAX)) as u32,
                ('X' | 'Y' | 'Z' | 'I' | 'J' | 'P', _) => {}
                _ => return Err(format!("{letter}{number} is not known here")),
            }
        }
        let word = |letter: char| words.iter().find(|w| w.0 == letter).map(|w| w.1);
        if dwell {
            let seconds = word('P').filter(|p| (0.0..=3600.0).contains(p));
            let seconds = seconds.ok_or("G4 wants P, the seconds to wait")?;
            self.modal = set;
            self.head.stand(seconds, self.with(set, false));
            return Ok(());
        }
        if word('X').is_none() && word('Y').is_none() {
            self.modal = set;
            return Ok(());
        }
        let unit = if set.inches { MM_PER_INCH } else { 1.0 };
        let from = self.head.target();
        let place = |letter: char, now: f64| match word(letter) {
            Some(v) if set.relative => now + v * unit,
            Some(v) => v * unit,
            None => now,
        };
        let to = Point::new(place('X', from.x), place('Y', from.y));
        if set.motion > 0 && set.feed <= 0.0 {
            return Err("no feed was set; give F".to_owned());
        }
        let places = match set.motion {
            0 | 1 => vec![to],
            turn => {
                let middle = Vec2::new(word('I').unwrap_or(0.0), word('J').unwrap_or(0.0)) * unit;
                arc(from, to, from + middle, turn == 2)?
            }
        };
        let [width, height] = self.model.bed;
        let beyond = |p: &&Point| !(0.0..=width).contains(&p.x) || !(0.0..=height).contains(&p.y);
        if let Some(Point { x, y }) = places.iter().find(beyond) {
            return Err(format!(
                "X{x:.3} Y{y:.3} is beyond the bed of {width} × {height} mm"
            ));
        }
        self.modal = set;
        let speed = if set.motion == 0 {
            self.model.speed
        } else {
            (set.feed / 60.0).min(self.model.speed)
        };
        for place in places {
            self.head.go(place, speed, self.with(set, set.motion > 0));
        }
        Ok(())
    }

    /// What goes with a move.
    fn with(&self, set: Modal, burns: bool) -> Move {
        let on = burns && set.beam != Beam::Off;
        Move {
            power: if on { set.power } else { 0.0 },
            dynamic: (set.beam == Beam::Dynamic).then_some(set.feed / 60.0),
            line: set.line,
        }
    }

    fn did(&mut self, gone: Gone<Move>) {
        let Move {
            power,
            dynamic,
            line,
        } = gone.with;
        self.line = line;
        let way = gone.from.distance(gone.to);
        if power <= 0.0 {
            self.record.travel += way;
            self.goes_on = false;
            return;
        }
        self.record.burned += way;
        let power = dynamic.map_or(power, |feed| power * (gone.speed / feed).min(1.0));
        match self.record.burns.last_mut() {
            Some(last) if self.goes_on => last.to = gone.to,
            _ => self.record.burns.push(Burn {
                from: gone.from,
                to: gone.to,
                power,
                speed: gone.speed,
                line,
            }),
        }
        self.goes_on = !gone.ended;
    }
}

/// The ends of the chords of an arc about a middle.
fn arc(from: Point, to: Point, middle: Point, clockwise: bool) -> Result<Vec<Point>, String> {
    let (a, b) = (from - middle, to - middle);
    let radius = a.hypot();
    if radius < 1e-6 || (radius - b.hypot()).abs() > UNEVEN {
        return Err("I and J are not the middle of an arc to X and Y".to_owned());
    }
    let mut turn = b.atan2() - a.atan2();
    let whole = std::f64::consts::TAU;
    if clockwise && turn >= -1e-9 {
        turn -= whole;
    } else if !clockwise && turn <= 1e-9 {
        turn += whole;
    }
    let step = 2.0 * (1.0 - (CHORDS / radius).min(1.0)).acos();
    let chords = (turn.abs() / step.max(1e-3)).ceil().max(1.0) as usize;
    let at = |n: usize| {
        let angle = a.atan2() + turn * n as f64 / chords as f64;
        middle + Vec2::from_angle(angle) * radius
    };
    Ok((1..chords).map(at).chain([to]).collect())
}

#[cfg(test)]
mod tests;
