//! Machines and those who speak to them, over TCP or a serial line.
//!
//! The only part that has sockets, ports and a clock.

mod address;
mod listen;
mod speak;

pub use address::{Address, AddressError, Lost};
pub use listen::{Hands, listen};
pub use speak::{Said, Wish, ask_again, hand_over, speak};

use std::time::Duration;

/// How often either side looks at its line.
const LOOK: Duration = Duration::from_millis(4);
/// The same while something is said.
const BUSY: Duration = Duration::from_micros(500);

#[cfg(test)]
mod tests;
