//! An odd piece of stock, told by a photograph that shows it beside a sheet of paper.
//!
//! ```text
//!   photograph, sheet ──found──► outline, holes ──flaws added, name, margin──► kept among a material's stock
//!         └── not found: four corners of the sheet are pointed at ──┘
//! ```

mod asked;
mod piece;
pub(crate) mod rest;
pub(crate) mod routes;
pub(crate) mod sample;
mod shown;

pub(crate) use piece::with_unkept;
