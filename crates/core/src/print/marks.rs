//! Registration marks: rings that a camera finds, one of which tells where the page begins.
//!
//! ```text
//!    ○ upper left       ○ upper right, with four        others   ▄▀▀▀▄  a ring around a disc
//!                                                                █ ● █
//!    ◉ the first        ○ lower right                   first    ▄███▄  a thick ring, white in its middle
//! ```
//!
//! Circles around one middle: seen askew, their edges still agree on it, and nothing in artwork looks like that by chance.
//! Source: Gatrell, Hoff & Sklair 1991, "Robust image features: concentric contrasting circles and their image
//! extraction" (from memory). The first lies at the lower left, so that everything has places above nought as seen
//! from it.

use std::ops::RangeInclusive;

use kurbo::{Affine, Point, Rect};
use serde::{Deserialize, Serialize};

use super::PrintChoice;
use crate::limits::{OutOfRange, within};
use crate::overlay::Rings;
use crate::shapes::Ring;
use crate::stock::{Shaped, Stock, StockKind, shaped};

/// How many marks.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum MarkCount {
    /// Lower left, lower right and upper left.
    #[default]
    Three,
    /// All four corners.
    Four,
}

impl MarkCount {
    /// The corners in which marks lie, in their order: 0 lower left, 1 lower right, 2 upper right, 3 upper left.
    #[must_use]
    pub const fn corners(self) -> &'static [usize] {
        match self {
            Self::Three => &[0, 1, 3],
            Self::Four => &[0, 1, 2, 3],
        }
    }
}

/// What marks look like, mm.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct MarkChoice {
    /// How many.
    pub count: MarkCount,
    /// Across the outer ring.
    pub size: f64,
    /// Width of its line.
    pub line: f64,
    /// What is kept clear around each.
    pub clear: f64,
}

impl Default for MarkChoice {
    fn default() -> Self {
        Self {
            count: MarkCount::default(),
            size: 6.0,
            line: 1.0,
            // Common practice, no source: marks lie at least 6 mm from the picture.
            clear: 6.0,
        }
    }
}

/// One mark on a page.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Mark {
    /// Its middle, mm, y down.
    pub at: Point,
    /// Whether it is the one that the others are told from.
    pub first: bool,
}

impl MarkChoice {
    /// # Errors
    /// The first figure that cannot be.
    pub fn check(&self) -> Result<(), OutOfRange> {
        within("a mark", self.size, &(2.0..=30.0), "mm")?;
        within(
            "the line of a mark",
            self.line,
            &(0.2..=self.size / 5.0),
            "mm",
        )?;
        within("the ground of a mark", self.clear, &(0.0..=50.0), "mm")
    }

    /// What is printed black of a mark.
    #[must_use]
    pub fn ink(&self, mark: Mark) -> Vec<Rings> {
        let part = |lines: f64| (self.size - lines * self.line) / self.size;
        let radius = self.size / 2.0;
        match mark.first {
            true => rings(mark.at, radius, &[part(4.0), 1.0], false),
            false => rings(mark.at, radius, &[part(4.0), part(2.0), 1.0], true),
        }
    }
}

/// Black rings around a place: `radii` from the middle outwards as parts of `radius`, mm; the middle is black where it is
/// `dark`.
pub(super) fn rings(at: Point, radius: f64, radii: &[f64], dark: bool) -> Vec<Rings> {
    let circle = |part: f64| Ring::circle(at, part * radius);
    let mut edges: Vec<f64> = radii.to_vec();
    if dark {
        edges.insert(0, 0.0);
    }
    let ring = |edge: &[f64]| {
        let hole = circle(edge[0]).map(|r| r.reversed());
        circle(edge[1]).map(|outer| Rings {
            outer,
            holes: hole.into_iter().collect(),
        })
    };
    let (pairs, _) = edges.as_chunks::<2>();
    pairs.iter().rev().filter_map(|edge| ring(edge)).collect()
}

impl PrintChoice {
    /// What the printer can print on, mm.
    #[must_use]
    pub fn printable(&self) -> Rect {
        let [left, top, right, bottom] = self.margins;
        let [w, h] = self.page;
        Rect::new(left, top, (w - right).max(left), (h - bottom).max(top))
    }

    /// Where pictures are laid, bleed and all: no cut line comes to the left of the first mark or below it, so that all
    /// places are above nought as seen from there.
    #[must_use]
    pub fn laid(&self) -> Rect {
        let room = self.printable();
        let half = self.marks.size / 2.0;
        let behind = (half - self.bleed).max(0.0);
        let first = self.marks().first().map_or(room.origin(), |m| m.at);
        Rect::new(
            first.x - half + behind,
            room.y0,
            room.x1,
            first.y + half - behind,
        )
    }

    /// The marks in their order: lower left, lower right, upper right where there are four, upper left.
    #[must_use]
    pub fn marks(&self) -> Vec<Mark> {
        let mut marks = self.corners();
        if !self.pulled {
            for (mark, corner) in marks.iter_mut().zip(self.marks.count.corners()) {
                if let Some([x, y]) = self.moved[*corner] {
                    mark.at = Point::new(x, y);
                }
            }
        }
        marks
    }

    /// The marks in the corners, where none was moved.
    pub(super) fn corners(&self) -> Vec<Mark> {
        let half = self.marks.size / 2.0;
        corners(self.printable().inset(-half), self.marks.count)
    }

    /// Where the middle of a mark may lie, mm: in the quarter of its corner, 0 lower left, 1 lower right, 2 upper right, 3
    /// upper left, so far from the others that two never touch.
    #[must_use]
    pub fn quarter(&self, corner: usize) -> Rect {
        let room = self.printable().inset(-self.marks.size / 2.0);
        let (off, middle) = (self.marks.size, room.center());
        let (x0, x1) = match corner {
            1 | 2 => (middle.x + off, room.x1),
            _ => (room.x0, middle.x - off),
        };
        let (y0, y1) = match corner {
            0 | 1 => (middle.y + off, room.y1),
            _ => (room.y0, middle.y - off),
        };
        Rect { x0, y0, x1, y1 }
    }

    /// # Errors
    /// The first mark that was moved out of its quarter: then no one could tell any more which is which.
    pub(super) fn check_moved(&self) -> Result<(), OutOfRange> {
        for (corner, place) in self.moved.iter().enumerate() {
            let Some([x, y]) = place else { continue };
            let Rect { x0, y0, x1, y1 } = self.quarter(corner);
            let (across, down) = (widened(x0..=x1), widened(y0..=y1));
            within("how far from the left a mark lies", *x, &across, "mm")?;
            within("how far from the top a mark lies", *y, &down, "mm")?;
        }
        Ok(())
    }

    /// What stays clear around marks.
    #[must_use]
    pub fn ground(&self, marks: &[Mark]) -> Vec<Ring> {
        let radius = self.marks.size / 2.0 + self.marks.clear;
        marks
            .iter()
            .filter_map(|m| Ring::circle(m.at, radius))
            .collect()
    }

    /// The page as stock: where pictures are [laid](Self::laid), the ground of the marks and of the code as holes. Cut lines
    /// stay a bleed away from all of it. From the upper left corner of that, mm.
    #[must_use]
    pub fn stock(&self, name: &str) -> Stock {
        let room = self.laid();
        let (w, h) = (room.width(), room.height());
        let ground = self.marks.size / 2.0 + self.marks.clear;
        let hole = |m: Mark| shaped::disc([m.at.x - room.x0, m.at.y - room.y0], ground);
        let code = self.code_box().map(|b| {
            let [x0, x1] = [b.x0, b.x1].map(|x| x - room.x0);
            let [y0, y1] = [b.y0, b.y1].map(|y| y - room.y0);
            vec![[x0, y0], [x1, y0], [x1, y1], [x0, y1]]
        });
        Stock {
            name: name.to_owned(),
            kind: StockKind::Sheet,
            width: w,
            length: h,
            margin: self.bleed,
            shape: Some(Shaped {
                outer: vec![[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]],
                holes: self.marks().into_iter().map(hole).chain(code).collect(),
                picture: None,
            }),
        }
    }

    /// How much of the page's length marks that were moved save, mm: as much as lies below all of them and all that is cut.
    #[must_use]
    pub fn saved_by(&self, marks: &[Mark], cut: Option<Rect>) -> f64 {
        let lowest = |marks: &[Mark]| marks.iter().map(|m| m.at.y).fold(0.0, f64::max);
        let end = lowest(marks).max(cut.map_or(0.0, |b| b.y1));
        (lowest(&self.corners()) - end).max(0.0)
    }
}

/// A range in which a place typed with few decimals is still at its end.
fn widened(range: RangeInclusive<f64>) -> RangeInclusive<f64> {
    range.start() - 1e-3..=range.end() + 1e-3
}

pub(super) fn corners(b: Rect, count: MarkCount) -> Vec<Mark> {
    let mark = |x: f64, y: f64, first: bool| Mark {
        at: Point::new(x, y),
        first,
    };
    let mut marks = vec![mark(b.x0, b.y1, true), mark(b.x1, b.y1, false)];
    if count == MarkCount::Four {
        marks.push(mark(b.x1, b.y0, false));
    }
    marks.push(mark(b.x0, b.y0, false));
    marks
}

/// From a page, y down, to places seen from its first mark, y up, mm.
#[must_use]
pub fn from_first(marks: &[Mark]) -> Affine {
    let first = marks.first().map_or(Point::ORIGIN, |m| m.at);
    Affine::new([1.0, 0.0, 0.0, -1.0, -first.x, first.y])
}

#[cfg(test)]
mod tests {
    use std::f64::consts::PI;

    use super::*;

    #[test]
    fn marks_lie_in_the_corners_and_the_first_tells_the_origin() {
        let choice = PrintChoice::default();
        let marks = choice.marks();
        assert_eq!(marks.len(), 3);
        // 15 mm of margin and half a mark; 45 mm below.
        assert_eq!(marks[0].at, Point::new(18.0, 297.0 - 48.0));
        let seen: Vec<Point> = marks.iter().map(|m| from_first(&marks) * m.at).collect();
        assert_eq!(
            seen,
            [
                Point::ORIGIN,
                Point::new(174.0, 0.0),
                Point::new(0.0, 231.0)
            ]
        );
        assert!(choice.stock("A4").check().is_ok());
        // Area of the rings: π/4 (6² − 2²), and π/4 (6² − 4² + 2²).
        let area = |n: usize| -> f64 { choice.marks.ink(marks[n]).iter().map(Rings::area).sum() };
        assert!((area(0) - PI * 8.0).abs() < 1e-9 && (area(1) - PI * 6.0).abs() < 1e-9);
    }

    #[test]
    fn a_mark_moved_by_hand_stays_in_its_quarter_and_pictures_keep_right_of_and_above_the_first() {
        let mut choice = PrintChoice::default();
        choice.moved[0] = Some([30.0, 200.0]);
        assert_eq!(choice.check(), Ok(()));
        let marks = choice.marks();
        assert_eq!(marks[0].at, Point::new(30.0, 200.0));
        assert_eq!(marks[1].at, Point::new(192.0, 249.0), "the others stay");
        // Half a mark less the bleed within the first mark's own edge.
        let laid = choice.laid();
        assert_eq!((laid.x0, laid.y1), (28.0, 202.0));
        let stock = choice.stock("A4");
        let hole = stock.shape.unwrap().holes.swap_remove(0);
        let middle = hole.iter().map(|p| p[0]).sum::<f64>() / hole.len() as f64;
        assert!((middle - 2.0).abs() < 0.05, "{middle}");
        // What lies below all marks is saved: none, as long as one is at the foot.
        assert!(choice.saved_by(&marks, None) < 1e-9);
        choice.moved[1] = Some([192.0, 210.0]);
        let marks = choice.marks();
        assert!((choice.saved_by(&marks, None) - 39.0).abs() < 1e-9);
        let cut = Rect::new(40.0, 40.0, 150.0, 230.0);
        assert!((choice.saved_by(&marks, Some(cut)) - 19.0).abs() < 1e-9);
        // Each has its quarter, half a mark from what can be printed and a mark from the middle.
        let quarter = choice.quarter(1);
        assert_eq!((quarter.x0, quarter.y1), (111.0, 249.0));
        assert!(quarter.contains(Point::new(150.0, 210.0)));
        // Pulled up, they lie where they have to.
        choice.pulled = true;
        assert_eq!(choice.marks(), PrintChoice::default().marks());
        for wrong in [
            [150.0, 200.0],
            [30.0, 60.0],
            [5.0, 200.0],
            [f64::NAN, 200.0],
        ] {
            choice.moved[0] = Some(wrong);
            assert!(choice.check().is_err(), "{wrong:?}");
        }
    }
}
