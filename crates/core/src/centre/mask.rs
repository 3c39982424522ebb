//! A mask: the pixels of one ink, cut to their box with a rim of one empty pixel.

use kurbo::Point;

/// Pixels that belong to something.
#[derive(Clone, Debug)]
pub(super) struct Mask {
    /// Width with the rim, px.
    pub width: usize,
    /// Height with the rim, px.
    pub height: usize,
    /// Whether each pixel belongs to it, row by row; the rim never does.
    pub on: Vec<bool>,
    /// Where its first pixel lies in the picture, the rim counted, px.
    origin: (isize, isize),
}

impl Mask {
    /// The mask of the pixels of a picture for which `on` holds; `None` without any.
    pub(super) fn new(
        width: usize,
        height: usize,
        on: impl Fn(usize, usize) -> bool,
    ) -> Option<Self> {
        let (mut left, mut right, mut top, mut bottom) = (width, 0, height, 0);
        for y in 0..height {
            let mut inside = (0..width).filter(|&x| on(x, y));
            let Some(first) = inside.next() else { continue };
            let last = inside.last().unwrap_or(first);
            (left, right) = (left.min(first), right.max(last));
            (top, bottom) = (top.min(y), y);
        }
        if left > right {
            return None;
        }
        let (w, h) = (right - left + 3, bottom - top + 3);
        let mut cells = vec![false; w * h];
        for y in top..=bottom {
            for x in left..=right {
                cells[(y - top + 1) * w + (x - left + 1)] = on(x, y);
            }
        }
        Some(Self {
            width: w,
            height: h,
            on: cells,
            origin: (left as isize - 1, top as isize - 1),
        })
    }

    /// The middle of a pixel in the picture, px.
    pub(super) fn centre(&self, i: usize) -> Point {
        let (x, y) = ((i % self.width) as isize, (i / self.width) as isize);
        Point::new(
            (x + self.origin.0) as f64 + 0.5,
            (y + self.origin.1) as f64 + 0.5,
        )
    }

    /// Steps to the eight neighbours, clockwise from the right one.
    pub(super) fn around(&self) -> [isize; 8] {
        let w = self.width as isize;
        [1, w + 1, w, w - 1, -1, -w - 1, -w, -w + 1]
    }

    /// Which of the eight neighbours belong to it, a bit for each.
    pub(super) fn neighbours(&self, i: usize) -> u8 {
        let mut bits = 0;
        for (k, step) in self.around().into_iter().enumerate() {
            bits |= u8::from(self.on[i.wrapping_add_signed(step)]) << k;
        }
        bits
    }
}
