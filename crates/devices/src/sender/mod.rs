//! Sends a file to a machine: never more than its buffer takes, never anything twice, and always knowing which paths
//! are really done.
//!
//! ```text
//!   roll cutter   ◄ ESC.B ─► 4096   ◄ path; OA; … ─► x,y,0 for each path that is done
//!   laser         ◄ N3 G1 …  ─► ok   ◄ ? ─► <Run|…|Ln:3>         128 bytes unanswered at most
//! ```
//!
//! A state machine without sockets and without a clock, as the machines are: [`Sender::poll`] gives what is to be
//! written now, [`Sender::hear`] takes what was read.
//! Source of the answers: see [`crate::cutter`] and [`crate::laser`].

mod answers;
mod program;
mod stand;

use std::collections::VecDeque;

pub use program::{Language, Path, Program};
pub use stand::{Stand, Trouble};

/// How long a machine may say nothing while it is listened to before it counts as lost, s.
pub const SILENCE: f64 = 2.0;
/// Listening once counts as so much at most, s: a sender that was kept from its line, by a slow disk or a busy
/// computer, has not heard what lies there, and that is nothing the machine left out.
const LISTENED: f64 = 0.1;
/// How often it is asked how far it is, s.
const ASK: f64 = 0.1;
/// The same where something waits for room, s.
const ASK_FOR_ROOM: f64 = 0.02;
/// Bytes that a laser holds at most before it has answered.
pub const UNANSWERED: usize = 127;
/// How long the last path in an empty buffer may take until it is told as done, s.
const LAST_PATH: f64 = 60.0;
/// Bytes that go at once to a machine that answers nothing.
const AT_ONCE: usize = 256;

/// What is waited for.
#[derive(Clone, Debug, PartialEq, Eq)]
enum Awaited {
    /// How many bytes are free.
    Free,
    /// The end of this path.
    Done(usize),
    /// Its name, after the place where it stands.
    Name,
    /// The answer to a line.
    Line(String),
}

/// What is known of a run that was broken off.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Known {
    /// Paths that are certainly done.
    pub certain: usize,
    /// The path to go on with where the machine cannot tell.
    pub likely: usize,
    /// Whether the tool may stand anywhere: it was raised by a stop, or the line was gone in the midst of an instruction.
    /// Else what the machine held it has done, path by path, to its end.
    pub cut_short: bool,
}

/// What goes as a whole.
#[derive(Clone, Debug)]
struct Piece {
    text: String,
    awaited: Awaited,
    /// The path that it is of.
    path: Option<usize>,
}

/// Sends one program to one machine.
#[derive(Clone, Debug)]
pub struct Sender {
    program: Program,
    /// Number of the next path to be sent.
    next: usize,
    /// What of the paths before it is not written yet, in pieces that go as a whole.
    pieces: VecDeque<Piece>,
    awaited: VecDeque<Awaited>,
    /// Bytes a cutter still takes, and the most that it ever took.
    free: usize,
    buffer: usize,
    /// Paths that are done.
    done: usize,
    /// Paths that are begun to be written.
    begun: usize,
    ended: bool,
    /// What is known, while it is asked where it stands.
    finding: Option<Known>,
    /// Whether that is all that is asked, and what it told.
    only_asks: bool,
    found: Option<usize>,
    /// Whether nothing is asked and nothing heard.
    mute: bool,
    /// The last place that it told.
    stood: Option<[i64; 2]>,
    /// Whether it has ever told the place where a path ends: then it counts where it does not.
    tells_places: bool,
    /// When it was told last that a path is done, or that something is still in the buffer, s.
    progress: f64,
    stand: Stand,
    heard: Vec<u8>,
    /// How long it was listened to in vain, when it was listened to last, and asked last, s.
    quiet: f64,
    listened: Option<f64>,
    last_asked: f64,
    at_once: Vec<u8>,
}

impl Sender {
    /// Sends a program from one of its paths on.
    #[must_use]
    pub fn new(program: Program, from: usize) -> Self {
        let mut sender = Self::before(program, from);
        sender.set_out(from);
        sender
    }

    /// Goes on with a program that was broken off: the machine is asked where it stands, and tells with which path to
    /// go on.
    #[must_use]
    pub fn going_on(program: Program, known: Known) -> Self {
        let mut sender = Self::before(program, known.likely);
        (sender.finding, sender.done) = (Some(known), known.certain);
        if sender.program.language == Language::Hpgl {
            // Answered in their turn, so only once it has done what it holds: after the last of the places that were
            // asked for before comes this one, and then its name.
            // The line may have been gone in the midst of an instruction, which would swallow what comes next.
            sender.at_once = b";PU;OA;OI;".to_vec();
            sender.awaited.push_back(Awaited::Name);
        }
        sender
    }

    /// Sends nothing: only asks where a machine stands, and has stopped once that is told.
    #[must_use]
    pub fn asking(program: Program, known: Known) -> Self {
        Self {
            only_asks: true,
            ..Self::going_on(program, known)
        }
    }

    /// The path to go on with, as the machine told it to one that [`Self::asking`] made.
    #[must_use]
    pub const fn found(&self) -> Option<usize> {
        self.found
    }

    /// It has told where it stands, if it could.
    fn stands_at(&mut self, path: Option<usize>) {
        self.finding = None;
        if self.only_asks {
            self.found = path;
            self.stand = Stand::Stopped;
        } else {
            self.set_out(path.unwrap_or(self.next));
        }
    }

    /// Sends to a machine that answers nothing: as fast as the line takes it, and what is done is what the line took.
    #[must_use]
    pub fn to_mute(program: Program, from: usize) -> Self {
        let mut sender = Self::before(program, from);
        sender.mute = true;
        sender.set_out(from);
        sender
    }

    /// Whether the machine answers nothing.
    #[must_use]
    pub const fn is_mute(&self) -> bool {
        self.mute
    }

    /// Begins with a path.
    fn set_out(&mut self, from: usize) {
        (self.next, self.done, self.begun) = (from, from, from);
        let setting = self.program.paths.get(from).map(|p| p.setting.clone());
        self.put(&setting.unwrap_or_default(), None);
    }

    const fn before(program: Program, from: usize) -> Self {
        Self {
            next: from,
            pieces: VecDeque::new(),
            awaited: VecDeque::new(),
            free: 0,
            buffer: 0,
            done: from,
            begun: from,
            ended: false,
            finding: None,
            only_asks: false,
            found: None,
            mute: false,
            stood: None,
            tells_places: false,
            progress: 0.0,
            stand: Stand::Running,
            heard: Vec::new(),
            quiet: 0.0,
            listened: None,
            last_asked: f64::NEG_INFINITY,
            at_once: Vec::new(),
            program,
        }
    }

    /// Number of paths that are done, those before the first included.
    #[must_use]
    pub const fn done(&self) -> usize {
        self.done
    }

    /// Number of paths of which the machine has at least the beginning. What a cutter has it cuts, even when the line
    /// is gone.
    #[must_use]
    pub const fn begun(&self) -> usize {
        self.begun
    }

    /// Number of paths there are.
    #[must_use]
    pub const fn paths(&self) -> usize {
        self.program.paths.len()
    }

    /// How it stands.
    #[must_use]
    pub const fn stand(&self) -> &Stand {
        &self.stand
    }

    /// No path more is begun: a laser pauses at once, a cutter at the end of the path it is at, where its tool is up.
    pub fn pause(&mut self) {
        if self.stand == Stand::Running {
            self.stand = Stand::Paused;
            if self.program.language == Language::Gcode {
                self.at_once.push(b'!');
            }
        }
    }

    /// Goes on after a pause.
    pub fn go_on(&mut self) {
        if self.stand == Stand::Paused {
            self.stand = Stand::Running;
            if self.program.language == Language::Gcode {
                self.at_once.push(b'~');
            }
        }
    }

    /// Tool up, beam off, at once, and nothing more.
    pub fn stop(&mut self) {
        self.stand = Stand::Stopped;
        self.at_once = match self.program.language {
            Language::Hpgl => b"\x1b.K;PU;".to_vec(),
            Language::Gcode => vec![crate::laser::STOP],
        };
    }

    /// What is to be written now, s after the beginning.
    pub fn poll(&mut self, now: f64) -> Vec<u8> {
        let mut bytes = std::mem::take(&mut self.at_once);
        self.listened.get_or_insert(now);
        if !matches!(self.stand, Stand::Running | Stand::Paused) {
            return bytes;
        }
        let answers = !self.awaited.is_empty() || self.program.language == Language::Gcode;
        let waits = answers && !self.mute;
        if waits && self.quiet > SILENCE {
            self.stand = Stand::Failed(Trouble::Silent);
            return bytes;
        }
        let told = self.awaited.iter().any(|a| matches!(a, Awaited::Done(_)));
        if told && self.pieces.is_empty() && now - self.progress > LAST_PATH {
            self.stop();
            self.stand = Stand::Failed(Trouble::Elsewhere {
                path: self.done + 1,
            });
            return std::mem::take(&mut self.at_once);
        }
        if self.finding.is_none() {
            if self.stand == Stand::Running {
                self.fill();
            }
            self.send(&mut bytes);
        }
        if self.mute {
            self.take_for_done();
        } else {
            self.ask(now, &mut bytes);
        }
        bytes
    }

    /// What went to a machine that answers nothing counts as done.
    fn take_for_done(&mut self) {
        let whole = self.ended && self.pieces.is_empty();
        let next = self.pieces.iter().find_map(|piece| piece.path);
        self.done = if whole {
            self.paths()
        } else {
            next.unwrap_or(self.next)
        };
        if whole && self.stand == Stand::Running {
            self.stand = Stand::Finished;
        }
    }

    /// Keeps some pieces ready.
    fn fill(&mut self) {
        while self.pieces.len() < 64 && !self.ended {
            let number = self.next;
            if let Some(path) = self.program.paths.get(number) {
                let text = path.text.clone();
                self.next += 1;
                self.put(&text, Some(number));
            } else {
                let end = self.program.end.clone();
                self.put(&end, None);
                self.ended = true;
            }
        }
    }

    /// Cuts a text into pieces that go as a whole.
    fn put(&mut self, text: &str, path: Option<usize>) {
        let pieces = &mut self.pieces;
        let mut push = |text: String, awaited| {
            pieces.push_back(Piece {
                text,
                awaited,
                path,
            });
        };
        match self.program.language {
            Language::Hpgl => {
                for said in program::pieces(text) {
                    push(said, Awaited::Free);
                }
                if let Some(number) = path.filter(|_| !self.mute) {
                    push("OA;".to_owned(), Awaited::Done(number));
                }
            }
            Language::Gcode => {
                for line in text.lines() {
                    // The number of the path, from 1, tells which one is under way.
                    let line = match path {
                        Some(number) => format!("N{}{line}\n", number + 1),
                        None => format!("{line}\n"),
                    };
                    let answered = Awaited::Line(line.trim_end().to_owned());
                    push(line, answered);
                }
            }
        }
    }

    fn unanswered(&self) -> usize {
        let lines = self.awaited.iter().map(|a| match a {
            Awaited::Line(line) => line.len() + 1,
            Awaited::Free | Awaited::Done(_) | Awaited::Name => 0,
        });
        lines.sum()
    }

    fn send(&mut self, bytes: &mut Vec<u8>) {
        while let Some(Piece {
            text,
            awaited,
            path,
        }) = self.pieces.front()
        {
            let fits = match self.program.language {
                _ if self.mute => bytes.len() < AT_ONCE,
                Language::Hpgl => text.len() <= self.free,
                Language::Gcode => self.unanswered() + text.len() <= UNANSWERED,
            };
            // A path that is begun is sent to its end, so that no blade is left standing in the media.
            let is_begun = path.is_some_and(|n| n < self.begun);
            let waits = match self.program.language {
                Language::Hpgl => !is_begun,
                Language::Gcode => true,
            };
            if !fits || (self.stand == Stand::Paused && waits) {
                break;
            }
            bytes.extend_from_slice(text.as_bytes());
            self.free = self.free.saturating_sub(text.len());
            self.begun = path.map_or(self.begun, |n| self.begun.max(n + 1));
            if *awaited != Awaited::Free && !self.mute {
                self.awaited.push_back(awaited.clone());
            }
            self.pieces.pop_front();
        }
    }

    fn ask(&mut self, now: f64, bytes: &mut Vec<u8>) {
        let next = self.pieces.front().map_or(0, |piece| piece.text.len());
        let waits = self.program.language == Language::Hpgl && next > self.free;
        if now - self.last_asked < if waits { ASK_FOR_ROOM } else { ASK } {
            return;
        }
        match self.program.language {
            Language::Hpgl => {
                if self.awaited.contains(&Awaited::Free) {
                    return;
                }
                bytes.extend_from_slice(b"\x1b.B");
                self.awaited.push_back(Awaited::Free);
            }
            Language::Gcode => bytes.push(b'?'),
        }
        self.last_asked = now;
    }
}

#[cfg(test)]
mod lost_lines;
#[cfg(test)]
mod tests;
