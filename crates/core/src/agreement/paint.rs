//! The area of rings in every pixel, exactly.
//!
//! ```text
//!   a step of a ring adds, in each pixel it passes, the area to its right in that pixel, and to all
//!   pixels further right the height it climbed; along a row these sums are the covered area
//! ```
//!
//! Rings with holes of the other winding add up by themselves.

use kurbo::Point;

use crate::fine::Plane;

/// Sums of signed areas, to be added up along the rows.
pub(super) struct Areas {
    width: usize,
    height: usize,
    sums: Vec<f32>,
}

impl Areas {
    pub(super) fn new(width: usize, height: usize) -> Self {
        let sums = vec![0.0; (width + 2) * height];
        Self {
            width,
            height,
            sums,
        }
    }

    /// Adds a closed ring, px.
    pub(super) fn add(&mut self, ring: &[Point]) {
        for (n, &a) in ring.iter().enumerate() {
            self.step(a, ring[(n + 1) % ring.len()]);
        }
    }

    /// Adds one straight step, row by row.
    fn step(&mut self, a: Point, b: Point) {
        let (down, from, to) = if a.y < b.y { (1.0, a, b) } else { (-1.0, b, a) };
        let (top, bottom) = (from.y.max(0.0), to.y.min(self.height as f64));
        if top >= bottom {
            return;
        }
        let slope = (to.x - from.x) / (to.y - from.y);
        let x_at = |y: f64| from.x + (y - from.y) * slope;
        let mut y = top;
        while y < bottom {
            let row = y as usize;
            let end = bottom.min(row as f64 + 1.0);
            self.row(row, [x_at(y), x_at(end)], down * (end - y));
            y = end;
        }
    }

    /// Adds a step within one row from one x to another, of a height.
    fn row(&mut self, row: usize, [a, b]: [f64; 2], height: f64) {
        let most = self.width as f64;
        let (left, right) = (a.min(b).clamp(0.0, most), a.max(b).clamp(0.0, most));
        let sums = &mut self.sums[row * (self.width + 2)..(row + 1) * (self.width + 2)];
        let (first, last) = (left as usize, right as usize);
        if first == last || right - left < 1e-9 {
            let part = (left + right) / 2.0 - first as f64;
            sums[first] += (height * (1.0 - part)) as f32;
            sums[first + 1] += (height * part) as f32;
            return;
        }
        let per = height / (right - left);
        for x in first..=last {
            let (from, to) = (left.max(x as f64), right.min(x as f64 + 1.0));
            if to <= from {
                continue;
            }
            let (share, part) = (per * (to - from), (from + to) / 2.0 - x as f64);
            sums[x] += (share * (1.0 - part)) as f32;
            sums[x + 1] += (share * part) as f32;
        }
    }

    /// Part of every pixel that is covered, 0 to 1.
    pub(super) fn cover(self) -> Plane {
        let mut values = Vec::with_capacity(self.width * self.height);
        for row in self.sums.chunks_exact(self.width + 2) {
            let mut sum = 0.0f32;
            values.extend(row[..self.width].iter().map(|v| {
                sum += v;
                sum.abs().min(1.0)
            }));
        }
        Plane {
            width: self.width,
            height: self.height,
            values,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn areas_of_rings_are_exact_and_holes_are_left_out() {
        let square = |a: f64, b: f64| [(a, a), (b, a), (b, b), (a, b)].map(Point::from);
        let mut areas = Areas::new(12, 10);
        areas.add(&square(1.25, 8.5));
        let hole: Vec<Point> = square(3.0, 5.5).into_iter().rev().collect();
        areas.add(&hole);
        let cover = areas.cover();
        let sum: f32 = cover.values.iter().sum();
        assert!(
            (f64::from(sum) - (7.25f64.powi(2) - 6.25)).abs() < 1e-3,
            "{sum}"
        );
        assert!((cover.row(1)[1] - 0.5625).abs() < 1e-5);
        assert!((cover.row(4)[4]).abs() < 1e-5 && (cover.row(5)[5] - 0.75).abs() < 1e-5);
    }

    #[test]
    fn a_slanted_ring_has_its_area_wherever_it_lies() {
        for shift in [0.0, 0.31, 2.77] {
            let ring =
                [(2.0 + shift, 1.0), (9.3 + shift, 4.6), (4.1 + shift, 8.9)].map(Point::from);
            let mut areas = Areas::new(16, 12);
            areas.add(&ring);
            let sum: f32 = areas.cover().values.iter().sum();
            let area = ((ring[1] - ring[0]).cross(ring[2] - ring[0]) / 2.0).abs();
            assert!((f64::from(sum) - area).abs() < 1e-3, "{sum} {area}");
        }
    }
}
