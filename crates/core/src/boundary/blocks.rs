//! One block: four neighbouring pixel centres, and how the boundary passes between them.
//!
//! ```text
//!   a ─top─ b       top, right, bottom, left: the four links, each crossed where its ends differ.
//!   │       │
//!  left   right     a = d and b = c, a ≠ b (two inks touch at a corner): the *corner rule*
//!   │       │       lets that ink hold together which fills more than half of the block by
//!   c ─bot─ d       coverage; at exactly half, the ink that is rarer in the whole picture.
//! ```
//!
//! With three inks and one pair of equal opposite corners, that pair holds together. So no region
//! ever touches itself in a point, and rings never pinch. Four different inks meet in a junction.

use crate::boundary::OUTSIDE;
use crate::inks::{EdgeField, Solid};

/// Pixels that each side looks at.
pub(super) const REACH: usize = 3;
/// The same where labels are finer than the picture: seams are as soft in steps, and strokes wider.
const FINE_REACH: usize = 6;
/// Which opposite corners of a block hold together.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Diagonal {
    /// Neither, or the block has no such pair.
    None,
    /// Top left and bottom right.
    Main,
    /// Top right and bottom left.
    Anti,
}

/// Reads labels and sub-pixel crossings of a solid picture, with a margin of [`OUTSIDE`] around it.
///
/// Padded coordinates: pixel (x, y) of the picture is (x + 1, y + 1) here; its centre lies at
/// (x + ½, y + ½) px.
pub struct Block<'a> {
    field: &'a EdgeField,
    labels: &'a [u8],
    width: usize,
    height: usize,
    reach: usize,
}

impl<'a> Block<'a> {
    /// For the picture `solid` with these `labels` (its own, or with specks merged).
    #[must_use]
    pub fn new(solid: &'a Solid, labels: &'a [u8]) -> Self {
        Self {
            field: &solid.field,
            labels,
            width: solid.width as usize,
            height: solid.height as usize,
            reach: if solid.detail > 1.0 {
                FINE_REACH
            } else {
                REACH
            },
        }
    }

    /// Width and height with the margin.
    #[must_use]
    pub fn padded(&self) -> (usize, usize) {
        (self.width + 2, self.height + 2)
    }

    fn index(&self, x: usize, y: usize) -> Option<usize> {
        (x >= 1 && y >= 1 && x <= self.width && y <= self.height)
            .then(|| (y - 1) * self.width + x - 1)
    }

    /// Label at padded coordinates.
    #[must_use]
    pub fn label(&self, x: usize, y: usize) -> u8 {
        self.index(x, y).map_or(OUTSIDE, |i| self.labels[i])
    }

    /// Label at padded coordinates that may lie anywhere.
    pub(super) fn label_at(&self, (x, y): (i64, i64)) -> u8 {
        let inside = x >= 1 && y >= 1 && x <= self.width as i64 && y <= self.height as i64;
        if inside {
            self.labels[(y as usize - 1) * self.width + x as usize - 1]
        } else {
            OUTSIDE
        }
    }

    /// Index of the pixel at padded coordinates, or of the one nearest to them.
    pub(super) fn clamped(&self, (x, y): (i64, i64)) -> usize {
        let x = (x.max(1) as usize).min(self.width) - 1;
        let y = (y.max(1) as usize).min(self.height) - 1;
        y * self.width + x
    }

    /// Pixels that each side of a link looks at.
    pub(super) fn reach(&self) -> usize {
        self.reach
    }

    /// Ink of every pixel.
    pub(super) fn labels(&self) -> &'a [u8] {
        self.labels
    }

    /// Where edges are.
    pub(super) fn field(&self) -> &EdgeField {
        self.field
    }

    /// Labels a, b, c, d of the block whose top left pixel is (x, y), padded.
    #[must_use]
    pub fn corners(&self, x: usize, y: usize) -> [u8; 4] {
        [
            self.label(x, y),
            self.label(x + 1, y),
            self.label(x, y + 1),
            self.label(x + 1, y + 1),
        ]
    }

    /// The corner rule for the block whose top left pixel is (x, y), padded.
    #[must_use]
    pub fn diagonal(&self, x: usize, y: usize) -> Diagonal {
        let [a, b, c, d] = self.corners(x, y);
        if a == b || a == c || d == b || d == c {
            return Diagonal::None;
        }
        match (a == d, b == c) {
            (false, false) => Diagonal::None,
            (true, false) => Diagonal::Main,
            (false, true) => Diagonal::Anti,
            (true, true) => {
                // Inks are numbered by their share, the greatest first.
                let rarer = a > b;
                let half = 2.0;
                let filled: f32 = [(x, y), (x + 1, y), (x, y + 1), (x + 1, y + 1)]
                    .iter()
                    .map(|&(x, y)| self.coverage(x, y, a, b))
                    .sum();
                let main = if (filled - half).abs() < 0.05 {
                    rarer
                } else {
                    filled > half
                };
                if main { Diagonal::Main } else { Diagonal::Anti }
            }
        }
    }

    /// Part of ink `i` in a pixel between inks `i` and `j`, 0 to 1.
    fn coverage(&self, x: usize, y: usize, i: u8, j: u8) -> f32 {
        let Some(at) = self.index(x, y) else {
            return 0.5;
        };
        match self.field {
            EdgeField::Tone {
                tone, threshold, ..
            } => {
                // Linear around the threshold; its scale cancels where two pixels are compared.
                let away = (f32::from(tone[at]) - threshold).abs() / 510.0;
                if self.labels[at] == i {
                    0.5 + away
                } else {
                    0.5 - away
                }
            }
            EdgeField::Colours { pixels, mixes } => mixes.part(pixels[at], i, j),
        }
    }
}
