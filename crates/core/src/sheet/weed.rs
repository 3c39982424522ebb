//! Weeding aids: a box around what is weeded, relief lines through large waste.
//!
//! ```text
//!   ┌───────┬───────┐   Relief lines part the waste into pieces that come off easily. They stop short of
//!   │   ◢◣  │       │   every part by [`CLEAR`] and never cross one; waste inside a part's holes is parted
//!   ├──╴  ╶─┼───────┤   as well.
//!   └───────┴───────┘
//! ```

use kurbo::{Affine, Line, Rect};

use crate::assembly::rectangle;
use crate::cutting::moved_ring;
use crate::offset::{self, Join};
use crate::overlay::{self, Keep, Rings};
use crate::plan::hatch;
use crate::shapes::Ring;

/// How near a relief line comes to a part, mm.
pub const CLEAR: f64 = 0.5;

/// Relief lines in boxes around parts, so that no piece of waste is wider than about `widest` mm.
pub(super) fn relief(boxes: &[Rect], parts: &[Rings], widest: f64) -> Vec<Line> {
    let plates: Vec<Ring> = boxes.iter().map(|b| rectangle(*b)).collect();
    let rings: Vec<&Ring> = parts.iter().flat_map(Rings::all).collect();
    let grown = offset::offset(&rings, CLEAR, Join::Round);
    let grown: Vec<&Ring> = grown.iter().flat_map(Rings::all).collect();
    let waste = overlay::overlay(&plates.iter().collect::<Vec<_>>(), &grown, Keep::Difference);
    let mut lines = Vec::new();
    for shape in &waste {
        let across = |b: Rect| b.width().min(b.height());
        if across(shape.outer.bounds()) < widest / 2.0 {
            continue;
        }
        for turned in [false, true] {
            let line = if turned {
                transposed(shape)
            } else {
                shape.clone()
            };
            for row in rows(&line, widest) {
                for [from, to] in row.spans {
                    if to - from < widest / 3.0 {
                        continue;
                    }
                    let (a, b) = ((from, row.y), (to, row.y));
                    lines.push(match turned {
                        false => Line::new(a, b),
                        true => Line::new((a.1, a.0), (b.1, b.0)),
                    });
                }
            }
        }
    }
    lines
}

/// Rows that part a height into pieces of at most `widest`.
fn rows(shape: &Rings, widest: f64) -> Vec<hatch::Row> {
    let bounds = shape.outer.bounds();
    let pieces = (bounds.height() / widest).ceil().max(1.0);
    if pieces < 2.0 {
        return Vec::new();
    }
    let step = bounds.height() / pieces;
    let at: Vec<f64> = (1..pieces as usize)
        .map(|n| bounds.y0 + step * n as f64)
        .collect();
    hatch::rows_at(shape, &at)
}

/// x and y exchanged.
fn transposed(shape: &Rings) -> Rings {
    let map = Affine::new([0.0, 1.0, 1.0, 0.0, 0.0, 0.0]);
    Rings {
        outer: moved_ring(&shape.outer, map, true),
        holes: shape
            .holes
            .iter()
            .map(|h| moved_ring(h, map, false))
            .collect(),
    }
}
