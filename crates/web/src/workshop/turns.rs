//! Whose turn it is: tasks wait in a line for each person, and the lines are served one after the other.
//!
//! ```text
//!   Ada  ■ ■ ■ ■ ■ ─┐
//!   Ben  ■          ├─► ■(Ada) ■(Ben) ■(Cem) ■(Ada) ■(Cem) ■(Ada) …
//!   Cem  ■ ■       ─┘
//! ```
//!
//! So who asks for much waits for it, and others do not.

use std::collections::{BTreeMap, VecDeque};
use std::sync::{Arc, Condvar, Mutex, PoisonError};

/// Tasks of one person that may wait.
const EACH: usize = 64;
/// Tasks that may wait in all.
const ALL: usize = 1024;

struct Lines<T> {
    /// A line for everybody who has something waiting.
    waiting: BTreeMap<Arc<str>, VecDeque<T>>,
    /// Who is served next, and who after that: those with a line, each once.
    next: VecDeque<Arc<str>>,
    count: usize,
}

/// The lines, with a bell for those who serve.
pub(super) struct Turns<T> {
    lines: Mutex<Lines<T>>,
    bell: Condvar,
}

/// There is no room for another task.
#[derive(Debug, PartialEq, Eq)]
pub(super) struct Full;

impl<T> Turns<T> {
    pub(super) fn new() -> Self {
        Self {
            lines: Mutex::new(Lines {
                waiting: BTreeMap::new(),
                next: VecDeque::new(),
                count: 0,
            }),
            bell: Condvar::new(),
        }
    }

    /// Puts a task at the end of a person's line.
    pub(super) fn wait(&self, person: &Arc<str>, task: T) -> Result<(), Full> {
        let mut guard = self.lines.lock().unwrap_or_else(PoisonError::into_inner);
        let lines = &mut *guard;
        if lines.count >= ALL {
            return Err(Full);
        }
        let line = lines.waiting.entry(Arc::clone(person)).or_default();
        if line.len() >= EACH {
            return Err(Full);
        }
        if line.is_empty() {
            lines.next.push_back(Arc::clone(person));
        }
        line.push_back(task);
        lines.count += 1;
        self.bell.notify_one();
        Ok(())
    }

    /// The next task in turn; waits for one.
    pub(super) fn next(&self) -> T {
        let mut guard = self.lines.lock().unwrap_or_else(PoisonError::into_inner);
        loop {
            if let Some(task) = guard.take() {
                return task;
            }
            guard = self
                .bell
                .wait(guard)
                .unwrap_or_else(PoisonError::into_inner);
        }
    }
}

impl<T> Lines<T> {
    fn take(&mut self) -> Option<T> {
        let person = self.next.pop_front()?;
        let line = self.waiting.get_mut(&person)?;
        let task = line.pop_front();
        if line.is_empty() {
            self.waiting.remove(&person);
        } else {
            self.next.push_back(person);
        }
        self.count -= usize::from(task.is_some());
        task
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn who_asks_for_much_does_not_keep_others_waiting() {
        let turns = Turns::new();
        let [ada, ben]: [Arc<str>; 2] = ["Ada".into(), "Ben".into()];
        for n in 0..EACH {
            assert_eq!(turns.wait(&ada, ("Ada", n)), Ok(()));
        }
        assert_eq!(turns.wait(&ada, ("Ada", EACH)), Err(Full));
        assert_eq!(turns.wait(&ben, ("Ben", 0)), Ok(()));
        assert_eq!(turns.wait(&ben, ("Ben", 1)), Ok(()));
        let first: Vec<_> = (0..5).map(|_| turns.next()).collect();
        let expected = [("Ada", 0), ("Ben", 0), ("Ada", 1), ("Ben", 1), ("Ada", 2)];
        assert_eq!(first, expected);
        // There is room again.
        assert_eq!(turns.wait(&ada, ("Ada", EACH)), Ok(()));
    }

    #[test]
    fn all_together_are_bounded_too() {
        let turns = Turns::new();
        for n in 0..ALL {
            let person: Arc<str> = format!("{n}").into();
            assert_eq!(turns.wait(&person, n), Ok(()));
        }
        assert_eq!(turns.wait(&"another".into(), 0), Err(Full));
    }
}
