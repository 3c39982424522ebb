//! Shaped: the true outline of a piece of stock that is no rectangle, with its holes and flaws.
//!
//! ```text
//!   ╭──────────╮       mm from the corner of the box around it, y down; each line closed from its last
//!   │    ○     ╲       place to its first. What a hole takes away is no stock; a flaw is a hole that
//!   ╰───────────╯      nobody may cut in.
//! ```

use kurbo::{Point, Rect};
use serde::{Deserialize, Serialize};

use crate::limits::{OutOfRange, within};

/// A closed line of straight sides, mm.
pub type Line = Vec<[f64; 2]>;

/// An outline with holes, mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Shaped {
    /// What it ends at.
    pub outer: Line,
    /// Holes and flaws.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub holes: Vec<Line>,
    /// Number under which the shop keeps its picture, which fills its box.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub picture: Option<i64>,
}

/// Places of all lines of one piece.
const PLACES: std::ops::RangeInclusive<usize> = 3..=20_000;
/// Least area, mm².
const LEAST: f64 = 100.0;

impl Shaped {
    /// The same moved so that the box around it begins at 0, 0.
    #[must_use]
    pub fn to_corner(mut self) -> Self {
        let b = self.bounds();
        for [x, y] in std::iter::once(&mut self.outer)
            .chain(&mut self.holes)
            .flatten()
        {
            // A hundredth of a millimetre is finer than any photograph tells.
            *x = ((*x - b.x0) * 100.0).round() / 100.0;
            *y = ((*y - b.y0) * 100.0).round() / 100.0;
        }
        self
    }

    /// The box around it, mm.
    #[must_use]
    pub fn bounds(&self) -> Rect {
        let places = self.outer.iter();
        let boxes = places.map(|&[x, y]| Rect::new(x, y, x, y));
        boxes.reduce(|a, b| a.union(b)).unwrap_or_default()
    }

    /// What is stock, mm²: holes that lie in it or across its edge are taken off whole.
    #[must_use]
    pub fn area(&self) -> f64 {
        let holes: f64 = self.holes.iter().map(|h| area(h)).sum();
        (area(&self.outer) - holes).max(0.0)
    }

    /// Whether a place is stock.
    #[must_use]
    pub fn holds(&self, p: Point) -> bool {
        inside(&self.outer, p) && !self.holes.iter().any(|h| inside(h, p))
    }

    /// All lines, the outer one first, each ending where it began.
    pub(crate) fn closed(&self) -> impl Iterator<Item = Vec<Point>> {
        let all = std::iter::once(&self.outer).chain(&self.holes);
        all.map(|line| {
            let places = line.iter().chain(line.first());
            places.map(|&[x, y]| Point::new(x, y)).collect()
        })
    }

    /// # Errors
    /// The first figure that cannot be.
    pub fn check(&self) -> Result<(), OutOfRange> {
        let lines = std::iter::once(&self.outer).chain(&self.holes);
        let mut count = 0;
        for line in lines {
            count += line.len();
            let (least, most) = (*PLACES.start() as f64, *PLACES.end() as f64);
            let places = line.len() as f64;
            within("the places of a line of stock", places, &(least..=most), "")?;
            for v in line.iter().flatten() {
                within("a place of stock", *v, &(-500.0..=200_000.0), "mm")?;
            }
        }
        let most = *PLACES.end() as f64;
        within(
            "the places of a piece of stock",
            count as f64,
            &(3.0..=most),
            "",
        )?;
        within("an area of stock", area(&self.outer), &(LEAST..=4e9), "mm²")
    }
}

/// The area that a line runs around, mm².
#[must_use]
pub fn area(line: &[[f64; 2]]) -> f64 {
    let next = line.iter().cycle().skip(1);
    let twice: f64 = line
        .iter()
        .zip(next)
        .map(|(p, q)| p[0] * q[1] - p[1] * q[0])
        .sum();
    twice.abs() / 2.0
}

/// A disc as a line of straight sides that lies around it, mm.
#[must_use]
pub fn disc([x, y]: [f64; 2], radius: f64) -> Line {
    const SIDES: usize = 48;
    let turn = std::f64::consts::TAU / SIDES as f64;
    let radius = radius / (turn / 2.0).cos();
    let place = |n: usize| {
        let (sin, cos) = (n as f64 * turn).sin_cos();
        [x + radius * cos, y + radius * sin].map(|v| (v * 100.0).round() / 100.0)
    };
    (0..SIDES).map(place).collect()
}

/// Whether a place lies inside a line, by the even-odd rule.
fn inside(line: &[[f64; 2]], p: Point) -> bool {
    let next = line.iter().cycle().skip(1);
    let crossed = |(a, b): &(&[f64; 2], &[f64; 2])| {
        (a[1] > p.y) != (b[1] > p.y) && p.x < a[0] + (b[0] - a[0]) * (p.y - a[1]) / (b[1] - a[1])
    };
    line.iter().zip(next).filter(crossed).count() % 2 == 1
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn holes_are_no_stock() {
        let square = |x: f64, y: f64, side: f64| {
            vec![[x, y], [x + side, y], [x + side, y + side], [x, y + side]]
        };
        let plate = Shaped {
            outer: square(5.0, 7.0, 100.0),
            holes: vec![square(25.0, 27.0, 10.0)],
            picture: None,
        };
        let plate = plate.to_corner();
        assert_eq!(plate.bounds(), Rect::new(0.0, 0.0, 100.0, 100.0));
        assert!((plate.area() - 9900.0).abs() < 1e-9);
        assert!(plate.holds(Point::new(10.0, 10.0)) && !plate.holds(Point::new(25.0, 25.0)));
        assert!(!plate.holds(Point::new(-1.0, 50.0)));
        assert!(plate.check().is_ok());
        let line = Shaped {
            outer: vec![[0.0, 0.0], [1.0, f64::NAN]],
            ..plate
        };
        assert!(line.check().is_err());
    }
}
