//! Simulated machines: a roll cutter, a laser and a printer that are spoken to as real ones are.
//!
//! Each is a state machine without sockets and without a clock: bytes go in, bytes come out, and the caller says how
//! much time goes by. What it *really did* is a record of its own, made from the bytes alone.
//!
//! ```text
//!   bytes ─► buffer ─► words ─► head (speed, acceleration, corners) ─► record: strokes, burns
//!                        └► answers                        ▲
//!                                                       time, s
//! ```
//!
//! [`sender`] is the other side: it sends a file to a machine and knows what of it is really done. Only [`line`] has
//! sockets and a clock. [`dry`] runs a file on a machine at once; [`drives`] finds from what runs took how a machine
//! really moves. [`printed`] is a page that lies on a cutter as no page was meant to; [`finder`] asks a
//! cutter's eye where its marks are.
//!
//! Lengths are mm, speeds mm/s, times s; places are the machine's own, y up from its lower left corner.

pub mod cutter;
pub mod drives;
pub mod dry;
pub mod finder;
pub mod laser;
pub mod line;
pub mod machine;
pub mod motion;
pub mod printed;
pub mod printer;
pub mod sender;
