//! The Send line: files to take away.

mod asked;
mod made;
pub(super) mod routes;
pub(super) mod shown;
