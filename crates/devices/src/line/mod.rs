//! Machines and those who speak to them, over TCP.
//!
//! The only part that has sockets and a clock. A serial line is the same to either side.

mod listen;
mod speak;

pub use listen::{Hands, listen};
pub use speak::{Address, AddressError, Lost, Said, Wish, speak};

use std::time::Duration;

/// How often either side looks at its line.
const LOOK: Duration = Duration::from_millis(4);
