//! The lightness of a picture, between its pixels and as against what lies around.

use kurbo::Point;

use crate::fine::box_means;
use crate::picture::Picture;

/// Lightness, rows from the top.
pub(super) struct Grey {
    pub(super) w: usize,
    pub(super) h: usize,
    light: Vec<f32>,
}

impl Grey {
    pub(super) fn of(picture: &Picture) -> Self {
        let tone = |p: &[u8; 4]| {
            let lit = f32::from(p[0]) * 0.3 + f32::from(p[1]) * 0.6 + f32::from(p[2]) * 0.1;
            // What is clear shows white paper.
            255.0 + (lit - 255.0) * f32::from(p[3]) / 255.0
        };
        Self {
            w: picture.width() as usize,
            h: picture.height() as usize,
            light: picture.pixels().iter().map(tone).collect(),
        }
    }

    /// The mean of what lies around every pixel.
    pub(super) fn around(&self) -> Vec<f32> {
        let reach = (self.w.max(self.h) / 24).max(16);
        box_means(|i| f64::from(self.light[i]), (self.w, self.h), reach)
    }

    /// Pixels that are darker than such a part of what lies around them.
    pub(super) fn dark(&self, around: &[f32], part: f32) -> Vec<bool> {
        let pairs = self.light.iter().zip(around);
        pairs.map(|(v, mean)| *v < part * mean).collect()
    }

    /// Between pixels; `None` outside.
    pub(super) fn at(&self, p: Point) -> Option<f32> {
        let (x, y) = (p.x.floor(), p.y.floor());
        if x < 0.0 || y < 0.0 || x + 1.0 >= self.w as f64 || y + 1.0 >= self.h as f64 {
            return None;
        }
        let (fx, fy) = ((p.x - x) as f32, (p.y - y) as f32);
        let i = y as usize * self.w + x as usize;
        let row = |i: usize| self.light[i] + (self.light[i + 1] - self.light[i]) * fx;
        Some(row(i) + (row(i + self.w) - row(i)) * fy)
    }
}
