//! Shapes painted by tiny-skia, to be counted pixel by pixel.

use kurbo::{BezPath, PathEl};
use tiny_skia::{FillRule, Mask, PathBuilder, Transform};

/// For a page of some mm, at so many pixels to the mm, how much of each is inside by the even-odd rule, 0 to 1.
pub(crate) fn painted(path: &BezPath, (width, height): (f64, f64), fine: f64) -> Vec<f64> {
    let mut builder = PathBuilder::new();
    let f = |v: f64| (v * fine) as f32;
    for element in path.elements() {
        match *element {
            PathEl::MoveTo(p) => builder.move_to(f(p.x), f(p.y)),
            PathEl::LineTo(p) => builder.line_to(f(p.x), f(p.y)),
            PathEl::QuadTo(c, p) => builder.quad_to(f(c.x), f(c.y), f(p.x), f(p.y)),
            PathEl::CurveTo(c, d, p) => {
                builder.cubic_to(f(c.x), f(c.y), f(d.x), f(d.y), f(p.x), f(p.y));
            }
            PathEl::ClosePath => builder.close(),
        }
    }
    let side = |mm: f64| (mm * fine).round() as u32;
    let mut mask = Mask::new(side(width), side(height)).unwrap();
    if let Some(path) = builder.finish() {
        mask.fill_path(&path, FillRule::EvenOdd, true, Transform::identity());
    }
    mask.data().iter().map(|&v| f64::from(v) / 255.0).collect()
}
