//! What is to be nested, and on what.

use kurbo::Rect;

use super::piece::Piece;

/// What is to be nested.
#[derive(Clone, Copy, Debug)]
pub struct Nesting<'a> {
    /// The pieces in hand; several may be the same.
    pub pieces: &'a [Piece],
    /// The piece of each item.
    pub items: &'a [usize],
    /// Where they may lie, mm.
    pub room: Rect,
    /// Between any two, mm.
    pub gap: f64,
    /// Turns that are tried, degrees.
    pub turns: &'a [f64],
}
