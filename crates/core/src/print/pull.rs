//! Marks pulled up to what is printed, to save media.
//!
//! ```text
//!   ╭──────╮ ╭────╮
//!   │      │ ╰────╯      a mark goes up until its ground meets what is printed, and no higher than the lowest cut
//!   ╰──────╯
//!    ○            ○
//! ```

use kurbo::{Point, Rect};

use super::PrintChoice;
use super::marks::{Mark, corners};

impl PrintChoice {
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

#[cfg(test)]
mod tests {
    use super::*;

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
