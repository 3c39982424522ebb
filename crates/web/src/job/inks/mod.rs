//! The Inks line: which colours there are, and which of them are cut.

mod made;
pub(super) mod shown;
