//! The Clean line: steps that mend the artwork before it is traced.

pub(super) mod asked;
pub(super) mod routes;
pub(super) mod shown;
mod squared;
