//! What is to be nested, and on what.

use kurbo::{Rect, Vec2};

use super::mask::Grid;
use super::piece::Piece;
use super::walls::Walls;

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
    /// What they keep away from besides the sides of the room.
    pub walls: Option<&'a Walls>,
}

impl Nesting<'_> {
    /// Cells over the room and what masks reach past it, mm.
    pub(super) fn grid(&self, cell: f64, around: f64, (wide, high): (usize, usize)) -> Grid {
        Grid {
            wide,
            high,
            cell,
            corner: self.room.origin() - Vec2::new(around, around),
        }
    }
}
