//! The four marks of a machine's bed on an A4 page, to be printed in their true size, cut out and stuck on.

use std::fmt::Write as _;

use inky_core::overlay::Rings;
use inky_core::print::A4;
use inky_core::print::bed::{BED_SIZE, bed_ink};
use kurbo::Point;

use super::path_data;

/// Middles of the marks on the page, mm; the first, which has the dot, is at the lower left.
const PLACES: [Point; 4] = [
    Point::new(50.0, 240.0),
    Point::new(160.0, 240.0),
    Point::new(160.0, 60.0),
    Point::new(50.0, 60.0),
];

/// The page as SVG; around each mark runs the line to cut along.
#[must_use]
pub fn bed_marks() -> String {
    let [w, h] = A4;
    let mut marks = String::new();
    for (n, at) in PLACES.into_iter().enumerate() {
        let ink = bed_ink(at, n == 0);
        let data = path_data(ink.iter().flat_map(Rings::all));
        let (left, top, side) = (at.x - BED_SIZE, at.y - BED_SIZE, 2.0 * BED_SIZE);
        // A string takes whatever is written to it.
        let _ = write!(
            marks,
            r##"<path d="{data}" fill="#000" fill-rule="evenodd"/><rect x="{left}" y="{top}" width="{side}" height="{side}" fill="none" stroke="#999" stroke-width="0.2"/>"##
        );
    }
    format!(
        r#"<svg xmlns="http://www.w3.org/2000/svg" width="{w}mm" height="{h}mm" viewBox="0 0 {w} {h}">{marks}</svg>"#
    )
}
