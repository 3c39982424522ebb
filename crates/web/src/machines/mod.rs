//! The Machines page: what the shop sends to, what each has to do and did, and the runs themselves.
//!
//! ```text
//!   job's Send line ─► stops (sheet by sheet, a text each) ─► queue (store) ─► under_way (a thread, a connection)
//!                                                                                │ what is really done, all that
//!   page ◄── shown, drawn ◄── state ◄────────────────────────────────────────────┘ was said: kept as it goes
//! ```
//!
//! Nothing starts by itself: a stop begins when somebody presses, unless the machine has its stock loaded already.

mod asked;
mod bench;
mod drawn;
mod gathered;
mod hands;
pub(crate) mod kept;
mod known;
pub(crate) mod marks;
mod pace;
mod printing;
pub(crate) mod routes;
mod runs;
mod shown;
mod simulated;
mod state;
pub(crate) mod stops;
mod tray;
mod under_way;
mod waiting;

use std::sync::{Mutex, MutexGuard, PoisonError};

pub(crate) use kept::fill;
pub use known::KnownMachine;
pub(crate) use routes::to;
pub(crate) use runs::go;
pub(crate) use simulated::Simulated;
#[cfg(test)]
pub(crate) use state::Phase;
pub(crate) use state::{Run, State, interrupted, now};
pub(crate) use under_way::UnderWay;

fn lock<T>(shared: &Mutex<T>) -> MutexGuard<'_, T> {
    shared.lock().unwrap_or_else(PoisonError::into_inner)
}
