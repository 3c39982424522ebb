//! The Size line: the finished size, the stock, and whether the piece can be cut.

pub(super) mod asked;
pub(super) mod remedies;
pub(super) mod routes;
pub(super) mod shown;
