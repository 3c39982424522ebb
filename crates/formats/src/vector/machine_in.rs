//! Files for machines, HPGL and G-code, as outlines: y turned over, what is drawn begins at 0, 0.

use inky_core::inks::Rgb;
use kurbo::{Affine, Rect};

use super::{Asked, Found, PEN, Raw, VectorError, VectorFile, finish};
use crate::toolpath::Toolpath;
use inky_core::segment::Segment;

/// How the pens or parts of a file are told apart.
const COLOURS: [[u8; 3]; 8] = [
    [30, 30, 46],
    [176, 48, 48],
    [30, 110, 102],
    [36, 74, 150],
    [190, 120, 30],
    [120, 60, 140],
    [90, 120, 40],
    [110, 110, 110],
];

pub(super) fn read(
    format: &'static str,
    path: Toolpath,
    asked: &Asked,
) -> Result<VectorFile, VectorError> {
    let all = path.runs.iter().flat_map(|r| &r.segments);
    let bounds = all.map(Segment::bounds).reduce(|a, b| a.union(b));
    let b: Rect = bounds.unwrap_or_default();
    let up = Affine::new([1.0, 0.0, 0.0, -1.0, -b.x0, b.y1]);
    let mut found = Found::new(asked);
    found.left_out = path.left_out;
    for run in path.runs {
        let closed = run.closed();
        let line = closed.as_deref().unwrap_or(&run.segments);
        let segments = line.iter().flat_map(|s| s.moved(up)).collect();
        let colour = Rgb(COLOURS[run.layer % COLOURS.len()]);
        found.lines.push(Raw {
            colour,
            layer: path.names.get(&run.layer).cloned(),
            pen: PEN,
            segments,
            closed: closed.is_some(),
        });
    }
    finish(format, found, Some([b.width(), b.height()]), path.taken_for)
}
