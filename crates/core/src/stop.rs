//! A token by which a newer request ends an older computation.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

/// Shared flag: long loops ask it between rows or edges and give up once it is set.
#[derive(Clone, Debug, Default)]
pub struct Stop(Arc<AtomicBool>);

/// The computation was given up because its [`Stop`] was set; nothing was changed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("stopped before it was done")]
pub struct Stopped;

impl Stop {
    /// A token that nobody has set.
    #[must_use]
    pub fn new() -> Self {
        Self::default()
    }

    /// Asks every holder of this token to give up at its next check.
    pub fn set(&self) {
        self.0.store(true, Ordering::Relaxed);
    }

    /// # Errors
    /// [`Stopped`] once [`Stop::set`] was called.
    pub fn check(&self) -> Result<(), Stopped> {
        if self.0.load(Ordering::Relaxed) {
            Err(Stopped)
        } else {
            Ok(())
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_clone_sees_that_its_token_was_set() {
        let stop = Stop::new();
        let held = stop.clone();
        assert_eq!(held.check(), Ok(()));
        stop.set();
        assert_eq!(held.check(), Err(Stopped));
    }
}
