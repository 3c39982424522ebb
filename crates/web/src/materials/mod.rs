//! The Materials page: what the shop cuts, with the values each material is cut with.

mod asked;
pub(crate) mod offcut;
pub(crate) mod routes;
pub(crate) mod shown;
pub(crate) mod stocked;
mod trials;
