//! A vector file as a picture, so that a job made from it has an artwork to look at.

use inky_core::picture::Picture;
use tiny_skia::{Color, FillRule, LineCap, Paint, PathBuilder, Pixmap, Stroke, Transform};

use super::VectorFile;

/// Longer side of the picture, px.
const SIDE: f64 = 1600.0;
/// Thinnest line, px.
const THIN: f64 = 1.5;

impl VectorFile {
    /// Its outlines filled on white, and its pixels per inch; `None` without a size.
    #[must_use]
    pub fn rendered(&self) -> Option<(Picture, f64)> {
        let [width, height] = self.size.map(|mm| mm.max(0.1));
        let scale = SIDE / width.max(height);
        let side = |mm: f64| ((mm * scale).round() as u32).max(1);
        let mut pixmap = Pixmap::new(side(width), side(height))?;
        pixmap.fill(Color::WHITE);
        for part in &self.parts {
            let mut path = PathBuilder::new();
            for data in &part.paths {
                let Ok(segments) = data.segments() else {
                    continue;
                };
                let p = |p: kurbo::Point| ((p.x * scale) as f32, (p.y * scale) as f32);
                let start = segments.first().map(|s| p(s.start())).unwrap_or_default();
                path.move_to(start.0, start.1);
                for element in segments.iter().flat_map(|s| s.elements()) {
                    match element {
                        kurbo::PathEl::LineTo(a) => path.line_to(p(a).0, p(a).1),
                        kurbo::PathEl::CurveTo(a, b, c) => {
                            path.cubic_to(p(a).0, p(a).1, p(b).0, p(b).1, p(c).0, p(c).1);
                        }
                        _ => {}
                    }
                }
                if data.closed {
                    path.close();
                }
            }
            let Some(path) = path.finish() else { continue };
            let mut paint = Paint::default();
            let [r, g, b] = part.colour.0;
            paint.set_color_rgba8(r, g, b, 255);
            match part.pen {
                None => pixmap.fill_path(
                    &path,
                    &paint,
                    FillRule::EvenOdd,
                    Transform::identity(),
                    None,
                ),
                Some(pen) => {
                    let stroke = Stroke {
                        width: (pen * scale).max(THIN) as f32,
                        line_cap: LineCap::Round,
                        ..Stroke::default()
                    };
                    pixmap.stroke_path(&path, &paint, &stroke, Transform::identity(), None);
                }
            }
        }
        let pixels = pixmap.data().as_chunks::<4>().0.to_vec();
        let picture = Picture::new(pixmap.width(), pixmap.height(), pixels).ok()?;
        Some((picture, scale * 25.4))
    }
}
