//! A trial for a drag knife: a row of squares over the blade's offset, a row of circles over its overcut.
//!
//! ```text
//!      5     15    25    35    45   1/100 mm
//!     ┌──┐  ┌──┐  ┌──┐  ╭──╮  ╭──╮     The square whose corners are sharp and meet has the blade's own offset:
//!     └─╌┘  └─╌┘  └──┘  ╰──╯  ╰──╯     less leaves them round, more throws them out.
//!      0     25    50   100   150  1/100 mm
//!     ╭ ╮   ╭╌╮   ╭─╮   ╭─╮   ╭─╮      The first circle that falls out has overcut enough: more is time and a nick.
//!     ╰─╯   ╰─╯   ╰─╯   ╰─╯   ╰─╯
//! ```
//!
//! Common practice, no source.

use kurbo::{Point, Rect};

use super::trial::{FIELDS, figures, layer};
use crate::assembly::rectangle;
use crate::cutting::{CutLayer, Cutting};
use crate::material::{Blade, Material};
use crate::overlay::Rings;
use crate::segment::{Arc, Segment};
use crate::shapes::Ring;

/// Side of a square and width of a circle, between them and around them, mm.
const SIDE: f64 = 10.0;
const SPACE: f64 = 5.0;
/// Room for the figures above a row, mm.
const LABELS: f64 = 5.0;
/// Between the offsets that are tried, mm.
const STEP: f64 = 0.1;

/// What the fields of the two rows are cut with.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Knife {
    /// Offset of the blade at each square, mm.
    pub offsets: [f64; FIELDS],
    /// Overcut at each circle, mm.
    pub overcuts: [f64; FIELDS],
}

impl Knife {
    /// Around what a blade is set to.
    #[must_use]
    pub fn of(blade: &Blade) -> Self {
        let first = (blade.offset - 2.0 * STEP).max(0.0);
        let hundredths = |mm: f64| (mm * 100.0).round() / 100.0;
        Self {
            offsets: std::array::from_fn(|n| hundredths(first + STEP * n as f64)),
            overcuts: [0.0, 0.25, 0.5, 1.0, 1.5],
        }
    }
}

/// Both rows in a material; `None` without settings for a blade.
#[must_use]
pub fn knife(material: &Material) -> Option<Cutting> {
    let tried = Knife::of(material.blade.as_ref()?);
    let left = |n: usize| SPACE + (SIDE + SPACE) * n as f64;
    let top = |row: usize| SPACE + LABELS + (SIDE + SPACE + LABELS) * row as f64;
    let mut words = layer(material, material.operation, "Trial figures".to_owned());
    let mut fields = Vec::new();
    for (row, values) in [tried.offsets, tried.overcuts].into_iter().enumerate() {
        for (n, value) in values.into_iter().enumerate() {
            let place = Point::new(left(n), top(row) - LABELS);
            words
                .lines
                .extend(figures(&format!("{:.0}", value * 100.0), place));
            let square = Rect::from_origin_size((left(n), top(row)), (SIDE, SIDE));
            fields.push(field(material, row == 0, value, square));
        }
    }
    let size = [left(FIELDS), top(1) + SIDE + SPACE];
    let layers = std::iter::once(words).chain(fields);
    Some(Cutting {
        size,
        layers: layers.collect(),
    })
}

/// A square with a blade of this offset, or a circle with this overcut.
fn field(material: &Material, square: bool, value: f64, at: Rect) -> CutLayer {
    let mut with = material.clone();
    if let Some(blade) = &mut with.blade {
        let set = if square {
            &mut blade.offset
        } else {
            &mut blade.overcut
        };
        *set = value;
    }
    let what = if square { "offset" } else { "overcut" };
    let name = format!("Trial {what} {value} mm");
    let mut cut = layer(&with, material.operation, name);
    let outer = if square { rectangle(at) } else { circle(at) };
    cut.shapes = vec![Rings {
        outer,
        holes: Vec::new(),
    }];
    cut
}

/// A circle in a square, from its top round to it.
fn circle(at: Rect) -> Ring {
    let middle = at.center();
    let ends = [at.y0, at.y1].map(|y| Point::new(middle.x, y));
    let half = |p0, p1| Segment::Arc(Arc { p0, p1, bulge: 1.0 });
    Ring::closed(vec![half(ends[0], ends[1]), half(ends[1], ends[0])])
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::presets;

    #[test]
    fn each_field_is_cut_with_a_value_of_its_own() {
        let vinyl = presets().into_iter().find(|m| m.blade.is_some()).unwrap();
        let blade = vinyl.blade.unwrap();
        let tried = Knife::of(&blade);
        assert!(tried.offsets.contains(&blade.offset));
        let page = knife(&vinyl).unwrap();
        let set = |n: usize| page.layers[n].material.blade.unwrap();
        // Figures, five squares, five circles.
        assert_eq!(page.layers.len(), 11);
        for n in 0..FIELDS {
            let (square, circle) = (set(1 + n), set(1 + FIELDS + n));
            assert_eq!(
                (square.offset, square.overcut),
                (tried.offsets[n], blade.overcut)
            );
            assert_eq!(
                (circle.offset, circle.overcut),
                (blade.offset, tried.overcuts[n])
            );
        }
        let bounds = page.bounds().unwrap();
        assert!(bounds.x0 > 0.0 && bounds.y0 > 0.0);
        assert!(bounds.x1 < page.size[0] && bounds.y1 < page.size[1]);
        // A circle of 10 mm is 31.4 mm round.
        let outer = &page.layers[6].shapes[0].outer;
        let round: f64 = outer.segments().iter().map(Segment::length).sum();
        assert!(
            (round - std::f64::consts::PI * SIDE).abs() < 1e-6,
            "{round}"
        );
    }

    #[test]
    fn no_offset_is_below_nought() {
        let vinyl = presets().into_iter().find(|m| m.blade.is_some()).unwrap();
        let blade = Blade {
            offset: 0.05,
            ..vinyl.blade.unwrap()
        };
        let hundredths = Knife::of(&blade)
            .offsets
            .map(|mm| (mm * 100.0).round() as i64);
        assert_eq!(hundredths, [0, 10, 20, 30, 40]);
    }
}
