//! The Sheet line: copies laid out and nested, and the order they are cut in.

mod asked;
pub(super) mod drawn;
pub(crate) mod nesting;
pub(crate) mod print;
pub(super) mod routes;
pub(crate) mod shown;
