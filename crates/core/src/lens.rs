//! Lens: straight lines that a camera's lens has bent, made straight.
//!
//! ```text
//!   bent outwards (barrel)  ╭───╮          straight  ┌───┐
//!                           ╰───╯                    └───┘
//! ```
//!
//! The division model with one figure: a place at distance r from the middle of the photograph lay at r / (1 + λ r²).
//! Source: Fitzgibbon 2001, "Simultaneous linear estimation of multiple view geometry and lens distortion" (Proc. CVPR
//! 2001, I-125 to I-132). Both ways are in closed form.

use kurbo::{Point, Vec2};

/// A lens, by the picture it took.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Lens {
    middle: Point,
    /// Half the diagonal of the picture, px: distances are parts of it.
    reach: f64,
    lambda: f64,
}

impl Lens {
    /// The lens that took a picture of so many px. `percent` says by how much of its distance from the middle a corner of
    /// the picture has to move outwards to lie where a straight lens had put it; below nought inwards.
    #[must_use]
    pub fn new((width, height): (u32, u32), percent: f64) -> Self {
        let middle = Point::new(f64::from(width) / 2.0, f64::from(height) / 2.0);
        Self {
            middle,
            reach: middle.to_vec2().hypot().max(1.0),
            lambda: 1.0 / (1.0 + percent / 100.0) - 1.0,
        }
    }

    /// The middle of the picture, px: where the camera looked at.
    #[must_use]
    pub fn middle(&self) -> Point {
        self.middle
    }

    /// Half the diagonal of the picture, px.
    #[must_use]
    pub fn reach(&self) -> f64 {
        self.reach
    }

    /// Whether it bends nothing.
    #[must_use]
    pub fn is_straight(&self) -> bool {
        self.lambda == 0.0
    }

    /// Where a straight lens had put what lies here in the picture.
    #[must_use]
    pub fn straight(&self, p: Point) -> Point {
        if self.is_straight() {
            return p;
        }
        let d = self.off_middle(p);
        // Places far outside the picture, where the model ends, stay far outside.
        let part = (1.0 + self.lambda * d.hypot2()).max(0.05);
        self.middle + d * (self.reach / part)
    }

    /// Where in the picture lies what a straight lens had put here.
    #[must_use]
    pub fn bent(&self, p: Point) -> Point {
        if self.is_straight() {
            return p;
        }
        let d = self.off_middle(p);
        let root = (1.0 - 4.0 * self.lambda * d.hypot2()).max(0.0).sqrt();
        self.middle + d * (self.reach * 2.0 / (1.0 + root))
    }

    fn off_middle(&self, p: Point) -> Vec2 {
        (p - self.middle) / self.reach
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_straightened_is_bent_back() {
        for percent in [-12.0, -1.0, 0.0, 2.5, 15.0] {
            let lens = Lens::new((4000, 3000), percent);
            for p in [
                [0.0, 0.0],
                [2000.0, 1500.0],
                [3700.0, 20.0],
                [2100.0, 2999.0],
            ] {
                let p = Point::new(p[0], p[1]);
                let back = lens.bent(lens.straight(p));
                assert!((back - p).hypot() < 1e-6, "{percent}: {p:?} {back:?}");
            }
            let corner = lens.straight(Point::ORIGIN) - lens.middle();
            let moved = corner.hypot() / lens.reach() - 1.0;
            assert!((moved * 100.0 - percent).abs() < 1e-9);
        }
    }
}
