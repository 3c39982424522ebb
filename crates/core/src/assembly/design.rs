//! The page of a cut file, and a design with the bridges of its stencil.

use kurbo::Rect;

use super::{Built, bridge};
use crate::inks::InkId;
use crate::layers::LayerChoice;
use crate::shapes::{self, Design, Shape};

/// Whether what is cut is what was designed, line by line.
fn as_designed(built: &Built) -> bool {
    let plain = |l: &super::Layer| {
        l.cut
            && !l.sheet
            && l.under.is_empty()
            && l.registration.is_empty()
            && l.moved_lines.is_none()
            && l.clearance.is_none()
    };
    !built.mirrored && built.layers.iter().all(plain)
}

/// The page of a cut file in the place of the design, mm: the finished size, grown where something
/// lies outside it.
#[must_use]
pub fn page(design: &Design, built: &Built) -> Rect {
    let page = Rect::new(0.0, 0.0, design.size.width.get(), design.size.height.get());
    if as_designed(built) {
        page
    } else {
        page.union(built.bounds)
    }
}

/// A design whose stencil bridges are left standing in what is cut out: the drawn part of a stencil,
/// without its sheet.
#[must_use]
pub fn with_bridges(design: &Design, choice: &LayerChoice) -> Design {
    if choice.bridges.is_empty() {
        return design.clone();
    }
    let strips = bridge::strips(&choice.bridges, design.size);
    let mut out = Design {
        shapes: Vec::new(),
        ..design.clone()
    };
    for n in 0..design.inks.len() {
        let of_ink = design.shapes.iter().filter(|s| usize::from(s.ink.0) == n);
        let of_ink: Vec<Shape> = of_ink.cloned().collect();
        let held = bridge::held(&of_ink, &strips);
        out.shapes.extend(super::shapes(InkId(n as u8), held));
    }
    shapes::count(&mut out);
    out
}
