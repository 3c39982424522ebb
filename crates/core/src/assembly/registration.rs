//! Registration: three shapes outside the design, cut in every layer, to lay one over the other.
//!
//! ```text
//!   △ ┌────────┐ ◇     no two are alike and one corner has none, so that a layer that is turned
//!     │ design │       or lies on its face is seen at once
//!   □ └────────┘
//! ```

use kurbo::{Point, Rect, Vec2};

use super::polygon;
use crate::layers::Registration;
use crate::shapes::Ring;

/// The shapes around a box.
pub(super) fn marks(around: Rect, asked: Registration) -> Vec<Ring> {
    let half = asked.size / 2.0;
    let far = asked.gap + half;
    let at = |x: f64, y: f64| Point::new(x, y);
    let shape = |middle: Point, corners: &[(f64, f64)]| {
        let points: Vec<Point> = corners
            .iter()
            .map(|&(x, y)| middle + Vec2::new(x, y) * half)
            .collect();
        polygon(&points)
    };
    vec![
        shape(
            at(around.x0 - far, around.y0 - far),
            &[(0.0, -1.0), (1.0, 1.0), (-1.0, 1.0)],
        ),
        shape(
            at(around.x1 + far, around.y0 - far),
            &[(0.0, -1.0), (1.0, 0.0), (0.0, 1.0), (-1.0, 0.0)],
        ),
        shape(
            at(around.x0 - far, around.y1 + far),
            &[(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)],
        ),
    ]
}
