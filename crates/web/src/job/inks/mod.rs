//! The Inks line: which colours there are, and which of them are cut.

pub(super) mod shown;
