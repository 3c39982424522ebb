//! Machines and those who speak to them, over TCP or a serial line.
//!
//! The only part that has sockets, ports and a clock.

mod address;
mod listen;
mod speak;

pub use address::{Address, AddressError, Lost};
pub use listen::{Hands, listen};
pub use speak::{Said, Wish, ask_again, find, hand_over, speak};

use std::time::{Duration, Instant};

/// How often either side looks at its line.
const LOOK: Duration = Duration::from_millis(4);
/// The same while something is said, and so long after it.
const BUSY: Duration = Duration::from_micros(500);
const LATELY: Duration = Duration::from_millis(20);

/// When something was said last.
struct SaidLast(Instant);

impl SaidLast {
    fn new() -> Self {
        Self(Instant::now())
    }

    /// Rests before the next look: shortly where an answer may be on its way.
    fn rest(&mut self, said: bool) {
        if said {
            self.0 = Instant::now();
        }
        std::thread::sleep(if self.0.elapsed() < LATELY {
            BUSY
        } else {
            LOOK
        });
    }
}

#[cfg(test)]
mod tests;
