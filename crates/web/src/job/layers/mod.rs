//! The Layers line: what each ink is cut from, and how the pieces meet.

pub(super) mod asked;
pub(super) mod drawn;
mod pieces;
pub(super) mod routes;
pub(super) mod shown;
pub(super) mod stones;
