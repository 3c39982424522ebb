//! The page of an SVG file: its size in mm, and the map from its user units.

use kurbo::{Affine, Size};

use super::place::{fitted, length, view_box};
use super::style::Node;
use crate::vector::{Asked, FileUnit};

/// Millimetres in a px.
const MM: f64 = 25.4 / 96.0;
/// Height of the type of a page that states none, px.
const FONT: f64 = 16.0;

/// What the root element says.
pub(super) struct Page {
    /// From user units to mm.
    pub(super) map: Affine,
    /// What percentages are of, user units.
    pub(super) viewport: Size,
    /// Its sides, mm; `None` where it has none.
    pub(super) size: Option<[f64; 2]>,
    /// What a user unit was taken for, where the file does not say how large it is.
    pub(super) taken_for: Option<FileUnit>,
}

impl Page {
    pub(super) fn of(root: Node<'_>, asked: &Asked) -> Self {
        let view = view_box(root.attribute("viewBox"));
        // A percentage is of a window that is not there.
        let side = |name| {
            let value = root.attribute(name)?.trim();
            let stated = !value.ends_with('%');
            length(value, 0.0, FONT).filter(|v| stated && *v > 0.0)
        };
        let (width, height) = (side("width"), side("height"));
        let stated =
            width.is_some() && height.is_some() || view.is_some() && width.or(height).is_some();
        let sides = match (width, height, view) {
            (Some(w), Some(h), _) => Some(Size::new(w, h)),
            (Some(w), None, Some(v)) => Some(Size::new(w, w * v.h / v.w)),
            (None, Some(h), Some(v)) => Some(Size::new(h * v.w / v.h, h)),
            (_, _, Some(v)) => Some(Size::new(v.w, v.h)),
            (_, _, None) => None,
        };
        let inner = match (view, sides) {
            (Some(v), Some(sides)) => fitted(v, sides, root.attribute("preserveAspectRatio")),
            _ => Affine::IDENTITY,
        };
        let viewport = view.map(|v| Size::new(v.w, v.h)).or(sides);
        let viewport = viewport.unwrap_or(Size::new(100.0, 100.0));
        // A unit that was asked for is that of the figures in the file.
        let across = inner.as_coeffs()[0].abs();
        let mm = asked.unit.map_or(MM, |unit| unit.in_mm() / across);
        Self {
            map: Affine::scale(mm) * inner,
            viewport,
            size: sides.map(|s| [s.width * mm, s.height * mm]),
            taken_for: (!stated && asked.unit.is_none()).then_some(FileUnit::Px),
        }
    }
}
