//! The Tidy line: outlines changed by hand.

pub(super) mod routes;
pub(super) mod shown;
pub(crate) mod vectors;
