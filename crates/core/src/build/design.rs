//! Built layers as a design again: what a cut file holds.

use kurbo::{Affine, Rect};

use super::{Built, bridge};
use crate::centre::Stroke;
use crate::inks::InkId;
use crate::layers::LayerChoice;
use crate::recipe::Size;
use crate::segment::Segment;
use crate::shapes::{self, Design, Ring, Shape};
use crate::units::Mm;

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
    let own = Rect::new(0.0, 0.0, design.size.width.get(), design.size.height.get());
    if as_designed(built) {
        own
    } else {
        own.union(built.bounds)
    }
}

/// The lines that are cut, in the place of the shapes as designed: layers that are switched off are
/// left out, what is cut from behind is mirrored, and the page grows where something lies outside it.
/// A design that nothing was chosen for comes back as it is.
#[must_use]
pub fn as_cut(design: &Design, built: &Built) -> Design {
    if as_designed(built) {
        return design.clone();
    }
    let whole = page(design, built);
    let turned = if built.mirrored {
        Affine::translate((whole.x0 + whole.x1, 0.0)) * Affine::scale_non_uniform(-1.0, 1.0)
    } else {
        Affine::IDENTITY
    };
    let map = Affine::translate((-whole.x0, -whole.y0)) * turned;
    let mut out = Design {
        size: Size {
            width: Mm::new(whole.width()),
            height: Mm::new(whole.height()),
            ..design.size
        },
        shapes: Vec::new(),
        strokes: Vec::new(),
        ..design.clone()
    };
    for layer in built.layers.iter() {
        let ink = &mut out.inks[usize::from(layer.ink.0)];
        if !layer.cut {
            ink.letter = None;
            continue;
        }
        let lines = layer.lines().iter().map(|s| moved_shape(s, map));
        out.shapes.extend(lines);
        let marks = layer.registration.iter().map(|r| Shape {
            ink: layer.ink,
            outer: moved_ring(r, map, true),
            holes: Vec::new(),
        });
        out.shapes.extend(marks);
        let strokes = layer.strokes.iter().map(|s| Stroke {
            segments: moved(&s.segments, map),
            strayed: Vec::new(),
            ..s.clone()
        });
        out.strokes.extend(strokes);
    }
    let letters: Vec<Option<String>> = out.inks.iter().map(|i| i.letter.clone()).collect();
    shapes::count(&mut out);
    // A layer keeps its letter though others are left out.
    for (ink, letter) in out.inks.iter_mut().zip(letters) {
        ink.letter = letter;
    }
    out
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
        let own = design.shapes.iter().filter(|s| usize::from(s.ink.0) == n);
        let own: Vec<Shape> = own.cloned().collect();
        let held = bridge::held(&own, &strips);
        out.shapes.extend(super::shapes(InkId(n as u8), held));
    }
    shapes::count(&mut out);
    out
}

fn moved(segments: &[Segment], map: Affine) -> Vec<Segment> {
    segments.iter().flat_map(|s| s.moved(map)).collect()
}

fn moved_ring(ring: &Ring, map: Affine, outer: bool) -> Ring {
    let turned = Ring::closed(moved(ring.segments(), map));
    if (turned.signed_area() > 0.0) == outer {
        turned
    } else {
        turned.reversed()
    }
}

fn moved_shape(shape: &Shape, map: Affine) -> Shape {
    Shape {
        ink: shape.ink,
        outer: moved_ring(&shape.outer, map, true),
        holes: shape
            .holes
            .iter()
            .map(|h| moved_ring(h, map, false))
            .collect(),
    }
}
