//! What of a page cannot be printed or cut where it was put by hand.

use kurbo::{Point, Rect, Shape};

use super::{PrintPage, Printed};
use crate::overlay::Rings;
use crate::shapes::contains;
use crate::sheet::piece::TOLERANCE;

/// Why a picture cannot lie where it does.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Fault {
    /// It is printed within the ground of a mark, by its number in [`PrintPage::marks`].
    Mark(usize),
    /// It is printed over the code.
    Code,
    /// It reaches beyond what the printer prints on.
    Margin,
    /// It is cut to the left of the first mark or below it: below nought for a machine that counts from there.
    Behind,
}

impl PrintPage {
    /// Faults of the pictures on the page, each with the number of its print; by fault.
    #[must_use]
    pub fn faults(&self, pictures: &[Printed]) -> Vec<(Fault, usize)> {
        let room = self.choice.printable().inflate(TOLERANCE, TOLERANCE);
        let code = self.code.as_ref().and_then(|_| self.choice.code_box());
        let ground = self.choice.marks.size / 2.0 + self.choice.marks.clear - TOLERANCE;
        let mut faults = Vec::new();
        for (n, print) in self.prints.iter().enumerate() {
            let Some(picture) = pictures.get(print.picture) else {
                continue;
            };
            let on_page = |rings: &[Rings]| -> Vec<Vec<Point>> {
                let lines = rings.iter().map(|r| r.outer.chords(TOLERANCE));
                lines
                    .map(|l| l.into_iter().map(|p| print.map * p).collect())
                    .collect()
            };
            let printed = on_page(&picture.printed);
            for (k, mark) in self.marks.iter().enumerate() {
                if printed.iter().any(|line| meets(line, mark.at, ground)) {
                    faults.push((Fault::Mark(k), n));
                }
            }
            if code.is_some_and(|b| printed.iter().any(|line| covers(line, b))) {
                faults.push((Fault::Code, n));
            }
            if printed.iter().flatten().any(|p| !room.contains(*p)) {
                faults.push((Fault::Margin, n));
            }
            let first = self.marks.first().map_or(Point::ORIGIN, |m| m.at);
            let behind = |p: &Point| p.x < first.x - TOLERANCE || p.y > first.y + TOLERANCE;
            if on_page(&picture.cut).iter().flatten().any(behind) {
                faults.push((Fault::Behind, n));
            }
        }
        faults.sort();
        faults
    }
}

/// Whether a closed line comes nearer to a place than a distance, or runs around it.
fn meets(line: &[Point], at: Point, near: f64) -> bool {
    let sides = || line.iter().zip(line.iter().cycle().skip(1));
    let touches = |(p, q): (&Point, &Point)| {
        let side = kurbo::Line::new(*p, *q);
        kurbo::ParamCurveNearest::nearest(&side, at, 1e-6).distance_sq < near * near
    };
    sides().any(touches) || contains(line, at)
}

/// Whether a closed line and a box have a place in common.
fn covers(line: &[Point], b: Rect) -> bool {
    let inner = b.inflate(-TOLERANCE, -TOLERANCE);
    let cuts = |(p, q): (&Point, &Point)| {
        let side = kurbo::Line::new(*p, *q);
        inner
            .path_segments(0.1)
            .any(|s| !s.intersect_line(side).is_empty())
    };
    let mut sides = line.iter().zip(line.iter().cycle().skip(1));
    line.iter().any(|p| inner.contains(*p)) || sides.any(cuts) || contains(line, inner.center())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::assembly::rectangle;
    use crate::cutting::Cutting;
    use crate::picture::Picture;
    use crate::print::code::Code;
    use crate::print::look::Drawn;
    use crate::print::{Print, PrintChoice};

    /// A square of 20 mm at a place of a page with a code; bleed 2 mm, marks of 6 mm with 6 mm of ground.
    fn faults(x: f64, y: f64) -> Vec<(Fault, usize)> {
        let choice = PrintChoice {
            code: true,
            ..PrintChoice::default()
        };
        let pixels = Picture::new(10, 10, vec![[0, 0, 0, 255]; 100]).unwrap();
        let square = rectangle(Rect::new(0.0, 0.0, 20.0, 20.0));
        let drawn = Drawn {
            lines: vec![square],
            ..Drawn::default()
        };
        let picture = Printed::of("square", (&pixels, [20.0; 2]), drawn, &choice).unwrap();
        let page = PrintPage {
            marks: choice.marks(),
            saved: 0.0,
            code: choice.code_box().and_then(|b| Code::new("A", b).ok()),
            prints: vec![Print {
                picture: 0,
                map: kurbo::Affine::translate((x, y)),
            }],
            cutting: Cutting {
                size: choice.page,
                layers: Vec::new(),
            },
            choice,
        };
        page.faults(&[picture])
    }

    #[test]
    fn what_lies_under_a_mark_over_the_code_or_off_the_page_is_told() {
        let kinds = |x, y| -> Vec<Fault> { faults(x, y).into_iter().map(|f| f.0).collect() };
        // The first mark lies at 18, 249; the second at 192, 249; the third at 18, 18.
        assert_eq!(kinds(80.0, 100.0), []);
        // 9 mm of ground and 2 mm of bleed away from the middle of a mark on the left.
        assert_eq!(kinds(29.1, 238.9 - 20.0), []);
        assert_eq!(kinds(28.5, 229.0), [Fault::Mark(0)]);
        assert_eq!(kinds(182.0, 220.0), [Fault::Mark(1), Fault::Margin]);
        assert_eq!(kinds(180.0, 120.0), [Fault::Margin]);
        // The code lies from 27, 15 to 44.4, 32.4, and pictures bleed by 2 mm.
        assert_eq!(kinds(40.0, 34.5), []);
        assert_eq!(kinds(40.0, 34.0), [Fault::Code]);
        assert_eq!(kinds(80.0, 229.5), [Fault::Behind]);
        assert_eq!(kinds(16.9, 100.0), [Fault::Margin, Fault::Behind]);
        assert_eq!(
            kinds(8.0, 8.0),
            [Fault::Mark(2), Fault::Code, Fault::Margin, Fault::Behind]
        );
    }
}
