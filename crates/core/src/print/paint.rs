//! What pieces are coloured with: one colour, or a pattern that goes on in rows.
//!
//! ```text
//!   stripes  ▔▔▔▔▔▔     dots  ● ● ●     checks  ▀ ▀ ▀      a row is as high as the pattern's size; every row is
//!            ▁▁▁▁▁▁           ● ● ●             ▄ ▄ ▄      the first one, moved; all are turned by the angle
//! ```

use kurbo::{Affine, BezPath, Circle, Point, Rect, Shape};
use serde::{Deserialize, Serialize};

use crate::inks::Rgb;
use crate::limits::{OutOfRange, within};

/// What repeats.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Pattern {
    /// Nothing: one colour.
    #[default]
    Flat,
    /// Dots on a square grid.
    Dots,
    /// Stripes as wide as what is between them.
    Stripes,
    /// Squares, one in two.
    Checks,
    /// A picture of one's own.
    Picture,
}

/// A colour, or a pattern of it on another.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Paint {
    /// What repeats.
    pub pattern: Pattern,
    /// Its colour.
    pub colour: Rgb,
    /// What lies between; nothing of it where the pattern is flat.
    pub ground: Rgb,
    /// After so many mm it repeats.
    pub size: f64,
    /// Turned by so many degrees, clockwise as one sees it.
    pub angle: f64,
}

/// A dot's radius as a part of the size.
const DOT: f64 = 0.3;

/// Rows of a pattern over a box.
#[derive(Clone, Debug)]
pub struct Rows {
    /// From rows to the picture, mm.
    pub map: Affine,
    /// One row, its upper edge at nought; empty where pictures are the row.
    pub row: BezPath,
    /// How far across each repeat lies.
    pub across: Vec<f64>,
    /// How far down each row lies.
    pub down: Vec<f64>,
    /// Width and height of a repeat.
    pub repeat: [f64; 2],
}

impl Paint {
    /// A colour alone; a pattern of it begins with white, 4 mm and upright.
    #[must_use]
    pub const fn flat(colour: Rgb) -> Self {
        Self {
            pattern: Pattern::Flat,
            colour,
            ground: Rgb::WHITE,
            size: 4.0,
            angle: 0.0,
        }
    }

    /// # Errors
    /// The first figure that cannot be.
    pub fn check(&self) -> Result<(), OutOfRange> {
        within("the size of a pattern", self.size, &(0.5..=200.0), "mm")?;
        within("the angle of a pattern", self.angle, &(-360.0..=360.0), "°")
    }

    /// From the pattern to the picture.
    #[must_use]
    pub fn turned(&self) -> Affine {
        Affine::rotate(self.angle.to_radians())
    }

    /// What lies at a place of the picture, mm; its ground where a picture repeats.
    #[must_use]
    pub fn at(&self, p: Point) -> Rgb {
        let [u, v] = self.within(p, [self.size; 2]);
        let on = match self.pattern {
            Pattern::Flat => true,
            Pattern::Stripes => v < 0.5,
            Pattern::Dots => (u - 0.5).hypot(v - 0.5) < DOT,
            Pattern::Checks => (u < 0.5) == (v < 0.5),
            Pattern::Picture => false,
        };
        if on { self.colour } else { self.ground }
    }

    /// Where in its repeat, of a width and height in mm, a place lies, as parts of that.
    pub(super) fn within(&self, p: Point, [w, h]: [f64; 2]) -> [f64; 2] {
        let p = self.turned().inverse() * p;
        [p.x / w, p.y / h].map(|part| part.rem_euclid(1.0))
    }

    /// The rows that cover a box of the picture; `None` where it is one colour. A repeat is so wide and high, mm.
    #[must_use]
    pub fn rows(&self, b: Rect, repeat: [f64; 2]) -> Option<Rows> {
        let size = self.size;
        let reach = self.turned().inverse().transform_rect_bbox(b);
        let steps = |from: f64, to: f64, step: f64| -> Vec<f64> {
            let [first, last] = [(from / step).floor(), (to / step).ceil()];
            (first as i64..last as i64)
                .map(|k| k as f64 * step)
                .collect()
        };
        let across = steps(reach.x0, reach.x1, size);
        let [from, to] = [across.first(), across.last()].map(|x| x.copied().unwrap_or_default());
        let mut row = BezPath::new();
        let half = size / 2.0;
        match self.pattern {
            Pattern::Flat => return None,
            Pattern::Picture => {}
            Pattern::Stripes => {
                row.extend(Rect::new(from, 0.0, to + size, half).path_elements(0.1))
            }
            Pattern::Dots => {
                for x in &across {
                    row.extend(Circle::new((x + half, half), DOT * size).path_elements(1e-3));
                }
            }
            Pattern::Checks => {
                for &x in &across {
                    let square = |x: f64, y: f64| Rect::new(x, y, x + half, y + half);
                    row.extend(square(x, 0.0).path_elements(0.1));
                    row.extend(square(x + half, half).path_elements(0.1));
                }
            }
        }
        Some(Rows {
            map: self.turned(),
            row,
            across,
            down: steps(reach.y0, reach.y1, repeat[1]),
            repeat,
        })
    }
}
