//! Coverage: how much of every pixel lies in a shape, and colours laid over one another by it.

use crate::picture::Picture;
use crate::picture::Place;

/// Coverage of the pixels in a box.
pub(super) struct Coverage {
    /// Left, top, width and height of the box, px.
    pub left: usize,
    pub top: usize,
    pub width: usize,
    pub height: usize,
    /// 0 to 1 for every pixel, rows from the top.
    pub part: Vec<f32>,
}

impl Coverage {
    /// Nothing covered in a box from (x0, y0) to (x1, y1), cut to a picture.
    pub(super) fn none(size: (u32, u32), (x0, y0): (f64, f64), (x1, y1): (f64, f64)) -> Self {
        let cut = |v: f64, most: u32| v.clamp(0.0, f64::from(most)) as usize;
        let (left, top) = (cut(x0.floor(), size.0), cut(y0.floor(), size.1));
        let (right, bottom) = (cut(x1.ceil(), size.0), cut(y1.ceil(), size.1));
        let (width, height) = (right.saturating_sub(left), bottom.saturating_sub(top));
        Self {
            left,
            top,
            width,
            height,
            part: vec![0.0; width * height],
        }
    }

    /// A whole picture's, from closed outlines in its px: inside by the even-odd rule.
    pub(super) fn of_outlines(size: (u32, u32), outlines: &[Vec<Place>]) -> Self {
        const LINES: usize = 4;
        let (w, h) = (f64::from(size.0), f64::from(size.1));
        let mut all = Self::none(size, (0.0, 0.0), (w, h));
        let mut crossings = Vec::new();
        for line in 0..all.height * LINES {
            let y = (line as f64 + 0.5) / LINES as f64;
            crossings.clear();
            for outline in outlines {
                let next = outline.iter().cycle().skip(1);
                for (a, b) in outline.iter().zip(next) {
                    if (a[1] <= y) != (b[1] <= y) {
                        crossings.push(a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0]));
                    }
                }
            }
            crossings.sort_by(f64::total_cmp);
            let row = &mut all.part[line / LINES * all.width..][..all.width];
            for pair in crossings.chunks_exact(2) {
                add_span(
                    row,
                    pair[0].clamp(0.0, w),
                    pair[1].clamp(0.0, w),
                    LINES as f64,
                );
            }
        }
        all
    }

    /// Lays `over` on the picture by this coverage, pixel by pixel.
    pub(super) fn lay(&self, picture: &Picture, over: impl Fn(usize, usize) -> [u8; 4]) -> Picture {
        let w = picture.width() as usize;
        let mut pixels = picture.pixels().to_vec();
        for row in 0..self.height {
            let y = self.top + row;
            for column in 0..self.width {
                let part = self.part[row * self.width + column];
                if part > 0.0 {
                    let x = self.left + column;
                    let p = &mut pixels[y * w + x];
                    *p = between(*p, over(x, y), part);
                }
            }
        }
        picture.repainted(pixels)
    }
}

/// Adds the part of each pixel of a row that lies between two places, by one of `lines` lines.
fn add_span(row: &mut [f32], from: f64, to: f64, lines: f64) {
    let (first, last) = (
        from as usize,
        (to as usize).min(row.len().saturating_sub(1)),
    );
    for (x, part) in row.iter_mut().enumerate().take(last + 1).skip(first) {
        let covered = (to.min(x as f64 + 1.0) - from.max(x as f64)).max(0.0);
        *part = (*part + (covered / lines) as f32).min(1.0);
    }
}

/// `part` of one colour over the rest of another, mixed as stored, weighed by their alpha.
pub(super) fn between(under: [u8; 4], over: [u8; 4], part: f32) -> [u8; 4] {
    if part >= 1.0 {
        return over;
    }
    let alpha = |p: [u8; 4], part: f32| f32::from(p[3]) * part;
    let (a, b) = (alpha(under, 1.0 - part), alpha(over, part));
    let sum = a + b;
    if sum <= 0.0 {
        return [0; 4];
    }
    let mut out = [0; 4];
    for c in 0..3 {
        out[c] = ((f32::from(under[c]) * a + f32::from(over[c]) * b) / sum).round() as u8;
    }
    out[3] = sum.round() as u8;
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_polygons_coverage_adds_up_to_its_area() {
        let triangle = vec![[2.0, 1.0], [12.5, 3.0], [5.0, 9.0]];
        let area = (10.5 * 8.0 - 2.0 * 3.0f64).abs() / 2.0;
        let found = Coverage::of_outlines((16, 12), &[triangle]);
        let sum: f32 = found.part.iter().sum();
        assert!((f64::from(sum) - area).abs() < 0.15, "{sum} of {area}");
        // A hole by the even-odd rule.
        let square = |a: f64, b: f64| vec![[a, a], [b, a], [b, b], [a, b]];
        let ring = Coverage::of_outlines((16, 12), &[square(1.0, 9.0), square(3.0, 7.0)]);
        assert!((ring.part.iter().sum::<f32>() - 48.0).abs() < 1e-3);
    }

    #[test]
    fn half_of_clear_over_red_is_half_clear_red() {
        assert_eq!(between([200, 0, 0, 255], [0; 4], 0.5), [200, 0, 0, 128]);
        assert_eq!(between([0, 0, 0, 255], [255; 4], 0.5), [128, 128, 128, 255]);
    }
}
