//! What is said on standard error: results, notes, and on a terminal how far long work has come.

use std::io::{IsTerminal, Write, stderr};
use std::sync::OnceLock;
use std::time::{Duration, Instant};

/// How much is said.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Level {
    /// Errors alone.
    Quiet,
    /// Results and notes.
    Usual,
    /// How long the stages took, too.
    Verbose,
}

static LEVEL: OnceLock<Level> = OnceLock::new();
/// Work that is done sooner tells nothing of its way.
const SOON: Duration = Duration::from_secs(1);

/// Sets how much is said, once, before anything is.
pub(crate) fn as_much_as(quiet: bool, verbose: bool) {
    let level = match (quiet, verbose) {
        (true, _) => Level::Quiet,
        (false, true) => Level::Verbose,
        (false, false) => Level::Usual,
    };
    // It is set once, at the start of the program.
    let _ = LEVEL.set(level);
}

fn says(level: Level) -> bool {
    *LEVEL.get_or_init(|| Level::Usual) >= level
}

/// A result.
pub(crate) fn done(text: impl std::fmt::Display) {
    if says(Level::Usual) {
        eprintln!("{text}");
    }
}

/// Something a person should know.
pub(crate) fn note(text: impl std::fmt::Display) {
    if says(Level::Usual) {
        eprintln!("inky: note: {text}");
    }
}

/// A figure of the work itself.
pub(crate) fn detail(text: impl std::fmt::Display) {
    if says(Level::Verbose) {
        eprintln!("inky: {text}");
    }
}

/// How far long work has come, on one line of a terminal that is wiped at the end.
pub(crate) struct Progress {
    started: Instant,
    shown: bool,
}

impl Progress {
    pub(crate) fn new() -> Self {
        Self {
            started: Instant::now(),
            shown: false,
        }
    }

    /// What is being done now.
    pub(crate) fn at(&mut self, what: &str) {
        let wanted = says(Level::Usual) && stderr().is_terminal();
        if !wanted || self.started.elapsed() < SOON {
            return;
        }
        self.shown = true;
        // A terminal that is gone needs no progress.
        let _ = write!(stderr(), "\r\x1b[K{what} …");
    }
}

impl Drop for Progress {
    fn drop(&mut self) {
        if self.shown {
            let _ = write!(stderr(), "\r\x1b[K");
        }
    }
}
