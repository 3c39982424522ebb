//! The Send line: files to take away, and the press that sends to a machine.

mod asked;
mod made;
pub(super) mod routes;
pub(super) mod shown;
mod to_machine;
