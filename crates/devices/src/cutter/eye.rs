//! A printed sheet that lies on a cutter, and the cutter's eye, which looks for its marks near where the head stands.
//!
//! ```text
//!   PU x,y; DP; OS;  ─► bit 2: a mark is seen     OD;  ─► x,y,0  its middle
//! ```
//!
//! These are the instructions by which a plotter tells a place that was pointed at: `DP`, bit 2 of `OS`, `OD` (HP-GL, as
//! in the programming manuals of Hewlett-Packard's plotters of the 1980s; from memory). Here an eye points.

use std::sync::Arc;

use inky_core::picture::Picture;
use inky_core::print::marks::MarkChoice;
use inky_core::print::seen::{MarkKind, seen};
use kurbo::{Affine, Point, Vec2};

use crate::printed::{Eye, Lying};
use crate::printer::Sheet;

/// How far the eye looks around the head, mm.
const REACH: f64 = 18.0;

/// A sheet on the cutter.
#[derive(Clone, Debug, PartialEq)]
pub struct Laid {
    /// What was printed.
    pub sheet: Arc<Sheet>,
    /// From the sheet, mm, y down from its upper left corner, to the cutter, mm.
    pub map: Affine,
    /// How many marks were looked for on it.
    looked: usize,
    /// The place that the eye points at, until it is asked for.
    pub(super) pointed: Option<Point>,
}

impl Laid {
    /// A sheet with its upper left corner in the cutter's corner and its height along the roll, as well as a hand lays
    /// it; the same number lays it the same way.
    #[must_use]
    pub fn at_random(sheet: Arc<Sheet>, seed: u64) -> Self {
        let turned = Affine::new([0.0, 1.0, 1.0, 0.0, 0.0, 0.0]);
        Self {
            sheet,
            map: Lying::at_random(seed, Vec2::ZERO).map * turned,
            looked: 0,
            pointed: None,
        }
    }

    /// The eye looks around a place, and points at the mark that is nearest.
    pub(super) fn look(&mut self, near: Point, eye: &Eye) {
        let found = self.nearest(near);
        self.pointed = found.and_then(|at| eye.tells(at, self.looked));
        self.looked += 1;
    }

    fn nearest(&self, near: Point) -> Option<Point> {
        let print = self.sheet.print.as_ref()?;
        let [w, h] = print.pixels;
        let per_mm = [
            f64::from(w) / self.sheet.size[0],
            f64::from(h) / self.sheet.size[1],
        ];
        let to_px = Affine::scale_non_uniform(per_mm[0], per_mm[1]) * self.map.inverse();
        let middle = to_px * near;
        let least = |c: f64, per: f64| (c - REACH * per).floor().max(0.0) as u32;
        let most = |c: f64, per: f64, all: u32| ((c + REACH * per).ceil().max(0.0) as u32).min(all);
        let (x0, y0) = (least(middle.x, per_mm[0]), least(middle.y, per_mm[1]));
        let (x1, y1) = (most(middle.x, per_mm[0], w), most(middle.y, per_mm[1], h));
        let (pixels, _) = print.rgba.as_chunks::<4>();
        let rows = (y0..y1).flat_map(|y| {
            let row = y as usize * w as usize;
            pixels[row + x0.min(x1) as usize..row + x1 as usize]
                .iter()
                .copied()
        });
        let window =
            Picture::new(x1.saturating_sub(x0), y1.saturating_sub(y0), rows.collect()).ok()?;
        let corner = Vec2::new(f64::from(x0), f64::from(y0));
        let marks = seen(&window, &MarkChoice::default());
        let of_page = marks
            .iter()
            .filter(|m| matches!(m.kind, MarkKind::First | MarkKind::Other));
        let places = of_page.map(|m| to_px.inverse() * (m.at + corner));
        places.min_by(|a, b| a.distance(near).total_cmp(&b.distance(near)))
    }
}
