//! The Artwork line: whose job it is, and a better copy of what came in.

pub(super) mod details;
pub(super) mod replace;
pub(super) mod shown;
