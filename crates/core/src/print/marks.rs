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
        let behind = (self.marks.size / 2.0 - self.bleed).max(0.0);
        Rect::new(room.x0 + behind, room.y0, room.x1, room.y1 - behind)
    }

    /// The marks in their order: lower left, lower right, upper right where there are four, upper left.
    #[must_use]
    pub fn marks(&self) -> Vec<Mark> {
        let half = self.marks.size / 2.0;
        corners(self.printable().inset(-half), self.marks.count)
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

    /// The page as stock: where pictures are [laid](Self::laid), the ground of the marks as holes. Cut lines stay a bleed
    /// away from all of it. From the upper left corner of that, mm.
    #[must_use]
    pub fn stock(&self, name: &str) -> Stock {
        let room = self.laid();
        let (w, h) = (room.width(), room.height());
        let ground = self.marks.size / 2.0 + self.marks.clear;
        let hole = |m: Mark| shaped::disc([m.at.x - room.x0, m.at.y - room.y0], ground);
        Stock {
            name: name.to_owned(),
            kind: StockKind::Sheet,
            width: w,
            length: h,
            margin: self.bleed,
            shape: Some(Shaped {
                outer: vec![[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]],
                holes: self.marks().into_iter().map(hole).collect(),
                picture: None,
            }),
        }
    }

    /// The marks pulled up as near to what is printed as their ground allows, and how much of the page's length that
    /// saves, mm. `printed` are outlines as chords, on the page.
    #[must_use]
    pub fn pulled(&self, printed: &[Vec<Point>]) -> (Vec<Mark>, f64) {
        let room = self.printable();
        let half = self.marks.size / 2.0;
        let away = half + self.marks.clear;
        let within = room.inset(-half);
        // A mark is lowered until its ground meets nothing that is printed.
        let lowest = |x: f64| {
            let chords = printed
                .iter()
                .flat_map(|l| l.windows(2).map(|w| (w[0], w[1])));
            let ends = chords.filter_map(|(p, q)| reach_down(p, q, x, away));
            ends.fold(within.y0 + self.marks.size + self.marks.clear, f64::max)
        };
        let ends = printed.iter().flatten().map(|p| p.y - self.bleed);
        let end = ends.fold(f64::NEG_INFINITY, f64::max);
        let y1 = lowest(within.x0)
            .max(lowest(within.x1))
            .max(end)
            .min(within.y1);
        let marks = corners(
            Rect::new(within.x0, within.y0, within.x1, y1),
            self.marks.count,
        );
        (marks, within.y1 - y1)
    }
}

/// How far down a disc of a radius has to lie with its middle at `x` so that it touches a chord from below; `None` where
/// it passes it by.
fn reach_down(p: Point, q: Point, x: f64, radius: f64) -> Option<f64> {
    let under = |at: Point| {
        let across = (at.x - x).abs();
        (across < radius).then(|| at.y + (radius * radius - across * across).sqrt())
    };
    // The lowest touching place of a chord is at an end, or where its side is parallel to the disc's edge.
    let along = (q - p).normalize();
    let normal = if along.x >= 0.0 {
        along.turn_90()
    } else {
        -along.turn_90()
    };
    let side = (along.x.abs() > 1e-12).then(|| {
        let foot_x = x - normal.x * radius;
        let t = (foot_x - p.x) / (q.x - p.x);
        (0.0..=1.0)
            .contains(&t)
            .then(|| p.lerp(q, t).y + normal.y * radius)
    });
    [under(p), under(q), side.flatten()]
        .into_iter()
        .flatten()
        .reduce(f64::max)
}

fn corners(b: Rect, count: MarkCount) -> Vec<Mark> {
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
    fn marks_are_pulled_up_until_their_ground_meets_the_picture() {
        let choice = PrintChoice::default();
        let square = |x0: f64, y1: f64| {
            let places = [
                (x0, 30.0),
                (x0 + 50.0, 30.0),
                (x0 + 50.0, y1),
                (x0, y1),
                (x0, 30.0),
            ];
            places.map(Point::from).to_vec()
        };
        // Above the first mark: its middle lies 9 mm below the lower side.
        let (marks, saved) = choice.pulled(&[square(10.0, 100.0)]);
        assert!((marks[0].at.y - 109.0).abs() < 1e-9 && (saved - 140.0).abs() < 1e-9);
        // Beside it: the corner is 7.2 mm away across, 5.4 mm down.
        let (marks, _) = choice.pulled(&[square(25.2, 100.0)]);
        assert!((marks[0].at.y - 105.4).abs() < 1e-9, "{:?}", marks[0]);
        // Far from both the mark goes no higher than the cut reaches, 2 mm within the bleed.
        let (marks, _) = choice.pulled(&[square(80.0, 100.0)]);
        assert!((marks[0].at.y - 98.0).abs() < 1e-9, "{:?}", marks[0]);
    }
}
