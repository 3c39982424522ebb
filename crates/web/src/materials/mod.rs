//! The Materials page: what the shop cuts, with the values each material is cut with.

mod asked;
mod kerf;
pub(crate) mod routes;
pub(crate) mod shown;
pub(crate) mod stocked;
