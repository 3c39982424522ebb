//! True proportions of a rectangle that was photographed askew, from its four corners.
//!
//! ```text
//!      1───────2        seen through a lens of focal length f, the directions of its sides are
//!     /         \       k₂ m₂ − m₁ (across) and k₃ m₄ − m₁ (down), m in px from the middle and f;
//!    4───────────3      they are square to each other for the true f alone
//! ```
//!
//! Source: Zhang & He 2007, "Whiteboard scanning and image enhancement" (Digital Signal Processing 17, 414–432), section
//! 4: the proportions for a known focal length, and the focal length itself from both directions being square. That has
//! no answer where one pair of sides stays parallel, and a bad one near to it. So every focal length that cameras have is
//! weighed by how square the directions are for it, against how well the corners are known; what is left open is told.

use kurbo::{Point, Vec2};

use crate::lens::Lens;

/// Proportions as far as four corners tell them.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Proportions {
    /// Width by height.
    pub ratio: f64,
    /// How far it may be off, one standard deviation, as a part of it.
    pub off: f64,
}

/// Focal lengths of cameras, as parts of half the diagonal of the picture: from a wide telephone (some 20 mm where half
/// the diagonal is 21.6 mm) to a long lens.
const FOCAL: (f64, f64) = (0.85, 5.0);
/// What telephones have most, and how far they scatter, in the logarithm.
const USUAL: (f64, f64) = (1.22, 0.35);
/// How far a focal length that the file states may be off, in the logarithm: crops and stabilised pictures.
const STATED_OFF: f64 = 0.03;
/// Focal lengths that are weighed.
const STEPS: usize = 160;
/// How far the camera may look past the middle of the picture, as a part of half the diagonal.
const MIDDLE_OFF: f64 = 0.01;

/// The proportions of the rectangle with these corners: clockwise from what becomes its top left, straightened, px.
///
/// `corner_off` is how well each corner is known, px, one standard deviation; `focal` the focal length that the file
/// states, as a part of half the diagonal of the picture. `None` where the corners do not stand around a rectangle that a
/// camera can see.
#[must_use]
pub fn proportions(
    corners: [Point; 4],
    lens: &Lens,
    corner_off: f64,
    focal: Option<f64>,
) -> Option<Proportions> {
    let places = corners.map(|p| (p - lens.middle()) / lens.reach());
    let around = View::of(places)?;
    // How far each figure of the view moves with each coordinate, and with where the camera looked.
    let step = 1e-4;
    let off = corner_off.max(0.05) / lens.reach();
    let mut moved = Vec::new();
    for n in 0..10 {
        let mut places = places;
        let by = if n % 2 == 0 {
            Vec2::new(step, 0.0)
        } else {
            Vec2::new(0.0, step)
        };
        match n / 2 {
            4 => places.iter_mut().for_each(|p| *p += by),
            corner => places[corner] += by,
        }
        let weight = if n / 2 == 4 { MIDDLE_OFF } else { off };
        moved.push((View::of(places)?, weight / step));
    }
    let (mut sum, mut mean, mut square) = (0.0, 0.0, 0.0);
    let mut most = f64::NEG_INFINITY;
    let mut told = Vec::new();
    for n in 0..STEPS {
        let t = n as f64 / (STEPS - 1) as f64;
        let f = FOCAL.0 * (FOCAL.1 / FOCAL.0).powf(t);
        let (middle, scatter) = focal.map_or(USUAL, |f| (f, STATED_OFF));
        let (upright, ratio) = (around.upright(f), around.ratio(f).ln());
        let spread = |value: f64, of: &dyn Fn(&View) -> f64| {
            let all = moved.iter().map(|(view, k)| (of(view) - value) * k);
            all.map(|d| d * d).sum::<f64>().sqrt()
        };
        let upright_off = spread(upright, &|v| v.upright(f)).max(1e-9);
        let ratio_off = spread(ratio, &|v| v.ratio(f).ln());
        let log = -0.5 * (upright / upright_off).powi(2)
            - upright_off.ln()
            - 0.5 * ((f / middle).ln() / scatter).powi(2);
        most = most.max(log);
        told.push((log, ratio, ratio_off));
    }
    for (log, ratio, ratio_off) in told {
        let weight = (log - most).exp();
        sum += weight;
        mean += weight * ratio;
        square += weight * (ratio * ratio + ratio_off * ratio_off);
    }
    let mean = mean / sum;
    let off = (square / sum - mean * mean).max(0.0).sqrt();
    (mean.is_finite() && off.is_finite()).then(|| Proportions {
        ratio: mean.exp(),
        off,
    })
}

/// Four corners as they are seen: the directions of the sides but for the focal length.
struct View {
    across: [f64; 3],
    down: [f64; 3],
}

impl View {
    /// Corners from the middle of the picture, clockwise from the top left; `None` where they do not stand around.
    fn of([a, b, c, d]: [Vec2; 4]) -> Option<Self> {
        let m = |p: Vec2| [p.x, p.y, 1.0];
        let cross = |p: [f64; 3], q: [f64; 3]| {
            [
                p[1] * q[2] - p[2] * q[1],
                p[2] * q[0] - p[0] * q[2],
                p[0] * q[1] - p[1] * q[0],
            ]
        };
        let dot = |p: [f64; 3], q: [f64; 3]| p[0] * q[0] + p[1] * q[1] + p[2] * q[2];
        // Zhang & He's equations 11 and 12, their points 1, 2, 3, 4 being a, b, d, c.
        let across = cross(m(a), m(c));
        let (k2, k3) = (
            dot(across, m(d)) / dot(cross(m(b), m(c)), m(d)),
            dot(across, m(b)) / dot(cross(m(d), m(c)), m(b)),
        );
        let side = |k: f64, p: Vec2| [k * p.x - a.x, k * p.y - a.y, k - 1.0];
        let seen = k2.is_finite() && k3.is_finite() && k2 > 0.0 && k3 > 0.0;
        seen.then(|| Self {
            across: side(k2, b),
            down: side(k3, d),
        })
    }

    fn dot(p: [f64; 3], q: [f64; 3], f: f64) -> f64 {
        p[0] * q[0] + p[1] * q[1] + p[2] * q[2] * f * f
    }

    /// Cosine of the angle between the sides, for a focal length.
    fn upright(&self, f: f64) -> f64 {
        let (p, q) = (self.across, self.down);
        Self::dot(p, q, f) / (Self::dot(p, p, f) * Self::dot(q, q, f)).sqrt()
    }

    /// Width by height, for a focal length.
    fn ratio(&self, f: f64) -> f64 {
        (Self::dot(self.across, self.across, f) / Self::dot(self.down, self.down, f)).sqrt()
    }
}
