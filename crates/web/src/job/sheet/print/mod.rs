//! Printed and cut: the artwork itself on a page with marks, and its cut line from where the marks were found.

mod asked;
mod drawn;
pub(super) mod faults;
pub(crate) mod found;
mod look;
pub(crate) mod page_file;
pub(crate) mod routes;
pub(crate) mod shown;

pub(super) use drawn::{Page, of as drawn};
