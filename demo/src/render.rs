//! Fills drawn to pixels with soft edges, by tiny-skia at four times the size and averaged.

use kurbo::PathEl;
use tiny_skia::{FillRule, Paint, PathBuilder, Pixmap, Transform};

use crate::Fill;

/// Opaque sRGB pixels, rows from the top.
#[derive(Clone, Debug)]
pub struct Raster {
    /// Width, px.
    pub width: u32,
    /// Height, px.
    pub height: u32,
    /// `width · height` pixels.
    pub pixels: Vec<[u8; 3]>,
}

/// Samples across and down a pixel, before tiny-skia's own 4.
const OVERSAMPLED: u32 = 4;

/// Paints `fills` in order on `paper`.
#[must_use]
pub fn render(fills: &[Fill], width: u32, height: u32, paper: [u8; 3]) -> Raster {
    let blank = Raster {
        width,
        height,
        pixels: vec![paper; (width * height) as usize],
    };
    let Some(mut big) = Pixmap::new(width * OVERSAMPLED, height * OVERSAMPLED) else {
        return blank;
    };
    big.fill(tiny_skia::Color::from_rgba8(
        paper[0], paper[1], paper[2], 255,
    ));
    let scale = Transform::from_scale(OVERSAMPLED as f32, OVERSAMPLED as f32);
    for fill in fills {
        let mut paint = Paint {
            anti_alias: true,
            ..Paint::default()
        };
        paint.set_color_rgba8(fill.colour[0], fill.colour[1], fill.colour[2], 255);
        if let Some(path) = skia_path(&fill.path) {
            big.fill_path(&path, &paint, FillRule::Winding, scale, None);
        }
    }
    let stride = (width * OVERSAMPLED) as usize;
    let data = big.pixels();
    let n = OVERSAMPLED as usize;
    let mut out = blank;
    for (i, pixel) in out.pixels.iter_mut().enumerate() {
        let (x, y) = (i % width as usize * n, i / width as usize * n);
        let mut sum = [0u32; 3];
        for row in 0..n {
            for p in &data[(y + row) * stride + x..(y + row) * stride + x + n] {
                for (s, v) in sum.iter_mut().zip([p.red(), p.green(), p.blue()]) {
                    *s += u32::from(v);
                }
            }
        }
        let count = OVERSAMPLED * OVERSAMPLED;
        *pixel = sum.map(|s| ((s + count / 2) / count) as u8);
    }
    out
}

fn skia_path(path: &kurbo::BezPath) -> Option<tiny_skia::Path> {
    let mut builder = PathBuilder::new();
    let f = |p: kurbo::Point| (p.x as f32, p.y as f32);
    for element in path.elements() {
        match *element {
            PathEl::MoveTo(p) => builder.move_to(f(p).0, f(p).1),
            PathEl::LineTo(p) => builder.line_to(f(p).0, f(p).1),
            PathEl::QuadTo(a, p) => builder.quad_to(f(a).0, f(a).1, f(p).0, f(p).1),
            PathEl::CurveTo(a, b, p) => {
                builder.cubic_to(f(a).0, f(a).1, f(b).0, f(b).1, f(p).0, f(p).1);
            }
            PathEl::ClosePath => builder.close(),
        }
    }
    builder.finish()
}
