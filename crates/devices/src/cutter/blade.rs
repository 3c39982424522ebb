//! A blade that swivels behind its holder.
//!
//! ```text
//!      holder ●→        the tip trails at a distance and is drawn after the holder,
//!            ╱          so that corners come out rounded unless the holder is led round them
//!      tip  ▾
//! ```

use kurbo::{Point, Vec2};

/// Steps in which the tip is drawn after the holder, mm.
const STEP: f64 = 0.02;

/// How a blade stands in its holder.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Blade {
    /// How far its tip trails behind the holder's middle, mm.
    pub offset: f64,
    /// From the tip to the holder, of length one.
    heading: Vec2,
}

impl Blade {
    /// A blade that points along the roll.
    #[must_use]
    pub const fn new(offset: f64) -> Self {
        Self {
            offset,
            heading: Vec2::new(1.0, 0.0),
        }
    }

    /// Where the tip is under a holder.
    #[must_use]
    pub fn tip(&self, holder: Point) -> Point {
        holder - self.heading * self.offset
    }

    /// Draws the tip after the holder; its places on the way.
    pub fn follow(&mut self, from: Point, to: Point, places: &mut Vec<Point>) {
        if self.offset <= 0.0 {
            places.push(to);
            return;
        }
        let steps = (from.distance(to) / STEP).ceil().max(1.0) as usize;
        for n in 1..=steps {
            let tip = self.tip(from.lerp(to, (n - 1) as f64 / steps as f64));
            let holder = from.lerp(to, n as f64 / steps as f64);
            let drawn = holder - tip;
            if drawn.hypot() > 1e-12 {
                self.heading = drawn.normalize();
            }
            places.push(self.tip(holder));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_tip_goes_along_a_tractrix() {
        // Led straight on, at right angles to where it points: after the way s the angle left is
        // 2 atan(e^(−s/r) tan(θ/2)) (the tractrix; any table of plane curves).
        let mut blade = Blade::new(0.5);
        let (from, way) = (Point::ZERO, 1.0);
        let mut places = Vec::new();
        blade.follow(from, Point::new(0.0, way), &mut places);
        let left = 2.0 * ((-way / 0.5f64).exp() * (std::f64::consts::FRAC_PI_4).tan()).atan();
        let tip = Point::new(-0.5 * left.sin(), way - 0.5 * left.cos());
        assert!(places.last().is_some_and(|p| p.distance(tip) < 0.01));
        // Without an offset it cuts where the holder is.
        let mut places = Vec::new();
        Blade::new(0.0).follow(from, Point::new(3.0, 4.0), &mut places);
        assert_eq!(places, [Point::new(3.0, 4.0)]);
    }
}
