//! A roll cutter that takes HPGL.
//!
//! x runs along the roll, y across it, both from the lower left corner of what can be cut; a plotter unit is 0.025 mm.
//! It knows `IN DF PA PR PU PD SP VS FS OI OS OH OE OA`, `DP OD` with its [`eye`], and of device control `ESC.B` (free bytes of the buffer) and
//! `ESC.K` (stop, and forget what is in the buffer), which are answered out of turn.
//! Source: HP-GL/2 and HP RTL Reference Guide (Hewlett-Packard 5961-3526); the numbers of `OS` and `OE` as there.

mod blade;
pub mod eye;
mod instructions;
mod words;

use std::collections::VecDeque;

use kurbo::{Point, Vec2};

pub use blade::Blade;
use eye::Laid;
use words::Words;

use crate::motion::{Dynamics, Gone, Head};
use crate::printed::Eye;

/// Plotter units in a mm.
pub const UNITS_PER_MM: f64 = 40.0;

/// What a cutter is and can do.
#[derive(Clone, Debug, PartialEq)]
pub struct Model {
    /// What it answers to `OI;`.
    pub name: String,
    /// Length and width of what can be cut, mm.
    pub size: [f64; 2],
    /// Speed and acceleration of its drives.
    pub dynamics: Dynamics,
    /// Greatest speed, mm/s.
    pub speed: f64,
    /// Time to lower or to raise the blade, s.
    pub lift: f64,
    /// Bytes that its buffer takes.
    pub buffer: usize,
    /// How far its blade trails, mm; nought where it leads the blade round corners by itself.
    pub trail: f64,
}

impl Default for Model {
    fn default() -> Self {
        Self {
            name: "INKY-ROLL-600".to_owned(),
            size: [25_000.0, 600.0],
            dynamics: Dynamics {
                acceleration: 4000.0,
                corner: 20.0,
            },
            speed: 800.0,
            lift: 0.04,
            buffer: 4096,
            trail: 0.0,
        }
    }
}

/// Faults that can be switched on.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Faults {
    /// It goes so many times slower.
    pub slow: f64,
    /// So far all goes astray with each stroke, as with lost steps, mm.
    pub astray: [f64; 2],
    /// The media ends here along the roll, mm.
    pub media_end: Option<f64>,
    /// Its buffer overruns: now and then a byte is lost.
    pub overruns: bool,
    /// What its eye sees amiss.
    pub eye: Eye,
}

impl Default for Faults {
    fn default() -> Self {
        Self {
            slow: 1.0,
            astray: [0.0; 2],
            media_end: None,
            overruns: false,
            eye: Eye::default(),
        }
    }
}

/// What the blade cut between being lowered and being raised.
#[derive(Clone, Debug, PartialEq)]
pub struct Stroke {
    /// Where its tip went, mm.
    pub points: Vec<Point>,
    /// Number of the tool that was selected.
    pub pen: u8,
    /// Force, g.
    pub force: f64,
    /// Whether some of it lay beyond the media.
    pub outside: bool,
}

/// What was really done since it was switched on.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Record {
    /// Strokes of the blade, one after the other; the last one may not be ended.
    pub strokes: Vec<Stroke>,
    /// Way with the blade down and up, mm.
    pub cut: f64,
    /// As `cut`, with the blade up.
    pub travel: f64,
    /// Time in which it moved, s.
    pub seconds: f64,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Query {
    Name,
    Status,
    Limits,
    Error,
    Place,
    Pointed,
}

/// What a task of the head is for.
#[derive(Clone, Copy, Debug)]
enum For {
    Travel,
    Cut,
    Lower {
        pen: u8,
        force: f64,
    },
    Raise,
    Answer(Query),
    /// An error is noted in its turn …
    Fault(u8),
    /// … and forgotten.
    Initialise,
    /// The eye looks around.
    Look,
}

/// What instructions have set.
#[derive(Clone, Copy, Debug)]
struct Set {
    down: bool,
    relative: bool,
    pen: u8,
    /// mm/s.
    speed: f64,
    /// g.
    force: f64,
}

/// An instruction that is being read.
#[derive(Clone, Debug, Default)]
struct Open {
    name: [u8; 2],
    numbers: Vec<f64>,
    /// Pairs that were gone to already.
    pairs: usize,
}

/// Tasks that are looked ahead.
const AHEAD: usize = 64;
/// Starts an instruction of device control.
const ESCAPE: u8 = 0x1b;
/// How long a blade may stand in the media with nothing to do, s.
const LEFT_DOWN: f64 = 2.0;
/// One of so many bytes is lost where the buffer overruns.
const LOST_OF: usize = 397;
/// Force before any is set, g.
const FORCE: f64 = 80.0;

/// A roll cutter.
#[derive(Clone, Debug)]
pub struct Cutter {
    model: Model,
    faults: Faults,
    buffer: VecDeque<u8>,
    /// Bytes that went into it.
    taken: usize,
    /// Bytes of device control so far.
    escape: Vec<u8>,
    words: Words,
    open: Open,
    set: Set,
    head: Head<For>,
    blade: Blade,
    down: bool,
    /// How long it stood in the media with nothing to do, s.
    idle: f64,
    error: u8,
    initialised: bool,
    answers: Vec<u8>,
    record: Record,
    /// The printed sheet that lies on it.
    laid: Option<Box<Laid>>,
}

impl Cutter {
    /// A cutter that was just switched on.
    #[must_use]
    pub fn new(model: Model) -> Self {
        Self {
            faults: Faults::default(),
            buffer: VecDeque::new(),
            taken: 0,
            escape: Vec::new(),
            words: Words::default(),
            open: Open::default(),
            set: Set {
                down: false,
                relative: false,
                pen: 1,
                speed: model.speed,
                force: FORCE,
            },
            head: Head::new(Point::ZERO, model.dynamics),
            blade: Blade::new(model.trail),
            down: false,
            idle: 0.0,
            error: 0,
            initialised: false,
            answers: Vec::new(),
            record: Record::default(),
            laid: None,
            model,
        }
    }

    /// What it is.
    #[must_use]
    pub const fn model(&self) -> &Model {
        &self.model
    }

    /// Its faults, to be switched.
    pub const fn faults(&mut self) -> &mut Faults {
        &mut self.faults
    }

    /// What it really did.
    #[must_use]
    pub const fn record(&self) -> &Record {
        &self.record
    }

    /// The strokes it did, which it forgets.
    pub fn take_strokes(&mut self) -> Vec<Stroke> {
        std::mem::take(&mut self.record.strokes)
    }

    /// Lays a printed sheet on it, or takes it away.
    pub fn lay(&mut self, laid: Option<Laid>) {
        self.laid = laid.map(Box::new);
    }

    /// The printed sheet that lies on it.
    #[must_use]
    pub fn laid(&self) -> Option<&Laid> {
        self.laid.as_deref()
    }

    /// Whether nothing is left to do.
    #[must_use]
    pub fn is_idle(&self) -> bool {
        self.buffer.is_empty() && self.head.left() == 0
    }

    /// Whether the blade is in the media.
    #[must_use]
    pub const fn is_down(&self) -> bool {
        self.down
    }

    /// Bytes that the buffer still takes.
    #[must_use]
    pub fn free(&self) -> usize {
        self.model.buffer - self.buffer.len()
    }

    /// Takes what goes into the buffer: so many of the bytes. The rest is sent again later, as on a line whose
    /// other end stops reading.
    pub fn receive(&mut self, bytes: &[u8]) -> usize {
        for (n, &byte) in bytes.iter().enumerate() {
            if !self.escape.is_empty() || byte == ESCAPE {
                self.escape.push(byte);
                self.control();
            } else if self.free() == 0 {
                return n;
            } else {
                self.taken += 1;
                if !self.faults.overruns || !self.taken.is_multiple_of(LOST_OF) {
                    self.buffer.push_back(byte);
                }
            }
        }
        bytes.len()
    }

    /// Device control: `ESC . letter`.
    fn control(&mut self) {
        match self.escape.as_slice() {
            [_] | [_, b'.'] => return,
            [_, b'.', b'B' | b'b'] => {
                let free = self.free();
                self.answer(&free.to_string());
            }
            [_, b'.', b'K' | b'k'] => self.stop(),
            _ => self.error = 1,
        }
        self.escape.clear();
    }

    /// The blade is raised, and what was to come is forgotten.
    fn stop(&mut self) {
        self.buffer.clear();
        self.head.halt();
        self.words = Words::default();
        self.open = Open::default();
        self.down = false;
        self.set.down = false;
    }

    /// What it answered since it was asked last.
    pub fn answers(&mut self) -> Vec<u8> {
        std::mem::take(&mut self.answers)
    }

    fn answer(&mut self, text: &str) {
        self.answers.extend_from_slice(text.as_bytes());
        self.answers.push(b'\r');
    }

    /// Lets time go by, s.
    pub fn advance(&mut self, seconds: f64) {
        let mut left = seconds / self.faults.slow.max(1e-9);
        let mut found = Vec::new();
        loop {
            while self.head.left() < AHEAD
                && let Some(byte) = self.buffer.pop_front()
            {
                self.words.feed(byte, &mut found);
                for word in found.drain(..) {
                    self.take(word);
                }
            }
            let before = left;
            let Some(gone) = self.head.advance(&mut left) else {
                break;
            };
            self.record.seconds += (before - left) * self.faults.slow;
            self.did(gone);
            if left <= 0.0 {
                break;
            }
        }
        self.rest(left);
    }

    /// A blade that stands in the media with nothing to do is raised (common practice, no source).
    fn rest(&mut self, seconds: f64) {
        self.idle = if self.is_idle() && self.down {
            self.idle + seconds
        } else {
            0.0
        };
        if self.idle > LEFT_DOWN {
            (self.down, self.set.down) = (false, false);
        }
    }

    fn did(&mut self, gone: Gone<For>) {
        let way = gone.from.distance(gone.to);
        match gone.with {
            For::Travel => self.record.travel += way,
            For::Cut => {
                self.record.cut += way;
                self.cut(gone.from, gone.to);
            }
            For::Lower { pen, force } if gone.ended => {
                self.down = true;
                let begin = self
                    .blade
                    .tip(gone.to + self.lost(self.record.strokes.len()));
                self.record.strokes.push(Stroke {
                    points: vec![begin],
                    pen,
                    force,
                    outside: self.is_outside(begin),
                });
            }
            For::Raise if gone.ended => self.down = false,
            For::Answer(query) if gone.ended => self.reply(query),
            For::Fault(number) => self.error = number,
            For::Initialise => (self.error, self.initialised) = (0, true),
            For::Look if gone.ended => {
                let (head, eye) = (self.head.at(), self.faults.eye);
                if let Some(laid) = &mut self.laid {
                    laid.look(head, &eye);
                }
            }
            For::Lower { .. } | For::Raise | For::Answer(_) | For::Look => {}
        }
    }

    /// How far lost steps have put a stroke astray.
    fn lost(&self, stroke: usize) -> Vec2 {
        let [x, y] = self.faults.astray;
        Vec2::new(x, y) * stroke as f64
    }

    fn is_outside(&self, at: Point) -> bool {
        let end = self.faults.media_end.unwrap_or(self.model.size[0]);
        at.x > end || !(0.0..=self.model.size[1]).contains(&at.y) || at.x < 0.0
    }

    fn cut(&mut self, from: Point, to: Point) {
        let mut places = Vec::new();
        let by = self.lost(self.record.strokes.len().saturating_sub(1));
        self.blade.follow(from + by, to + by, &mut places);
        let outside = places.iter().any(|&p| self.is_outside(p));
        if let Some(stroke) = self.record.strokes.last_mut() {
            stroke.points.extend(places);
            stroke.outside |= outside;
        }
    }

    fn reply(&mut self, query: Query) {
        let units = |mm: f64| (mm * UNITS_PER_MM).round() as i64;
        let text = match query {
            Query::Name => self.model.name.clone(),
            Query::Status => {
                let bits = u8::from(self.down)
                    | u8::from(self.laid.as_ref().is_some_and(|l| l.pointed.is_some())) << 2
                    | u8::from(self.initialised) << 3
                    | u8::from(self.error == 0) << 4
                    | u8::from(self.error != 0) << 5;
                self.initialised = false;
                bits.to_string()
            }
            Query::Limits => {
                let [length, width] = self.model.size;
                format!("0,0,{},{}", units(length), units(width))
            }
            Query::Error => std::mem::take(&mut self.error).to_string(),
            Query::Place => {
                let at = self.head.at();
                format!("{},{},{}", units(at.x), units(at.y), u8::from(self.down))
            }
            Query::Pointed => match self.laid.as_mut().and_then(|l| l.pointed.take()) {
                Some(at) => format!("{},{},0", units(at.x), units(at.y)),
                // A plotter waits until somebody points.
                None => return,
            },
        };
        self.answer(&text);
    }
}

#[cfg(test)]
mod tests;
