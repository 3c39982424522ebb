//! What is said on standard error: results, notes, and on a terminal how far long work has come.

use std::io::{IsTerminal, Write, stderr};
use std::sync::OnceLock;
use std::sync::mpsc::{RecvTimeoutError, channel};
use std::thread::scope;
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
        line(text);
    }
}

/// A line of its own, in the place of one that tells how far work has come.
fn line(text: impl std::fmt::Display) {
    let wiped = if stderr().is_terminal() {
        "\r\x1b[K"
    } else {
        ""
    };
    eprintln!("{wiped}{text}");
}

/// Something a person should know.
pub(crate) fn note(text: impl std::fmt::Display) {
    if says(Level::Usual) {
        line(format_args!("inky: note: {text}"));
    }
}

/// A figure of the work itself.
pub(crate) fn detail(text: impl std::fmt::Display) {
    if says(Level::Verbose) {
        line(format_args!("inky: {text}"));
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

/// Does work that has no stages of its own; on a terminal that is said once it lasts.
pub(crate) fn long<T>(what: impl std::fmt::Display, work: impl FnOnce() -> T) -> T {
    if !says(Level::Usual) || !stderr().is_terminal() {
        return work();
    }
    let what = what.to_string();
    // A terminal that is gone needs no progress.
    let say = |underway: bool| {
        let _ = match underway {
            true => write!(stderr(), "\r\x1b[K{what} …"),
            false => write!(stderr(), "\r\x1b[K"),
        };
    };
    told_after(SOON, say, work)
}

/// Says that work is under way once it has lasted so long, and then when it is over.
fn told_after<T>(wait: Duration, say: impl Fn(bool) + Sync, work: impl FnOnce() -> T) -> T {
    let (done, over) = channel::<()>();
    scope(|threads| {
        let say = &say;
        threads.spawn(move || {
            if over.recv_timeout(wait) == Err(RecvTimeoutError::Timeout) {
                say(true);
                let _ = over.recv();
                say(false);
            }
        });
        let made = work();
        drop(done);
        made
    })
}

#[cfg(test)]
mod tests {
    use std::sync::Mutex;

    use super::*;

    #[test]
    fn work_that_lasts_is_told_of_while_it_does_and_no_other() {
        let said = Mutex::new(Vec::new());
        let say = |underway| said.lock().unwrap().push(underway);
        let long = told_after(Duration::from_millis(5), say, || {
            while said.lock().unwrap().is_empty() {
                std::thread::yield_now();
            }
            7
        });
        assert_eq!((long, said.into_inner().unwrap()), (7, vec![true, false]));
        let said = Mutex::new(Vec::new());
        let say = |underway| said.lock().unwrap().push(underway);
        assert_eq!(told_after(Duration::from_secs(600), say, || 8), 8);
        assert!(said.into_inner().unwrap().is_empty());
    }
}
