//! Squared up: a sign, a page or a plate that was photographed askew, as if seen from straight in front.
//!
//! ```text
//!      1────2                         1──────2
//!     /      \    ──lens, then a ──►  │      │   as wide and high as it truly is:
//!    4────────3     projective map    4──────3   typed, a known sheet, or told by the corners
//! ```
//!
//! The corners are found ([`four_sided`]), pointed at, or pointed at and drawn to the edges beside them
//! ([`drawn_to_edges`]). How wide by high is typed or told by the corners alone ([`proportions`]).

mod found;
mod paper;
mod proportions;
mod regions;
mod sides;

use kurbo::Point;
use serde::{Deserialize, Serialize};

use crate::lens::Lens;
use crate::limits::{self, OutOfRange, within};
use crate::picture::{Picture, Place};
use crate::projective::Projective;

pub(crate) use found::{clear, edges_of, holds};
pub use found::{drawn_to_edges, four_sided, lens_along};
pub use paper::Paper;
pub use proportions::{Proportions, proportions};

/// Four corners, clockwise with y down from what becomes the top left, px.
pub type Quad = [Point; 4];

/// Something four-sided that a picture shows.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Seen {
    /// Its corners, px of the picture.
    pub corners: Quad,
    /// How far a corner may be off, px, one standard deviation.
    pub off: f64,
    /// Part of the side with the least of it where there is an edge, 0 to 1.
    pub support: f64,
    /// What the lens does to its sides, percent ([`Lens::new`]); nought where nothing is seen of it.
    pub lens: f64,
}

/// What is squared up, as it is stored.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Squared {
    /// Corners, clockwise from what becomes the top left, px of the original.
    pub corners: [Place; 4],
    /// What the lens has done, percent ([`Lens::new`]).
    #[serde(default)]
    pub lens: f64,
    /// Width by height as the corners tell it.
    pub ratio: f64,
    /// How far that may be off, one standard deviation, as a part of it.
    #[serde(default)]
    pub off: f64,
    /// How well each corner is known, px, one standard deviation.
    #[serde(default)]
    pub known: f64,
    /// Focal length that the picture's file states, as a part of half its diagonal.
    #[serde(default)]
    pub focal: Option<f64>,
    /// True width, mm, where it is known.
    #[serde(default)]
    pub width: Option<f64>,
    /// True height, mm, where it is known.
    #[serde(default)]
    pub height: Option<f64>,
    /// Whether what lies around the corners stays.
    #[serde(default)]
    pub around: bool,
}

/// Why pointed corners square nothing up.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum SquareError {
    /// One of them is beyond the picture's sides.
    #[error("a corner lies outside the picture; point inside it")]
    Outside,
    /// They do not stand around, or not as a rectangle is seen.
    #[error(
        "these corners do not stand around a rectangle that a camera can see; point at each of its four corners"
    )]
    NoRectangle,
}

/// How well a corner is pointed at by hand, px.
const POINTED: f64 = 1.5;
/// What lies around is kept as far as so many times the sides.
const AROUND: f64 = 4.0;
/// Places nearer to the horizon than this part of the least depth of a corner are not shown.
const HORIZON: f64 = 0.25;
/// Pixels of the result at most, as parts of those of the original.
const MORE_PIXELS: f64 = 1.5;
/// Pixels that the result may have in any case.
const FEW_PIXELS: f64 = 1e6;

impl Squared {
    /// The rectangle with these corners, its proportions as they tell them; `None` where they stand around nothing that a
    /// camera can see. `size` is that of the original, px; `known` and `focal` as for [`proportions`].
    #[must_use]
    pub fn of(
        corners: Quad,
        lens: f64,
        size: (u32, u32),
        known: f64,
        focal: Option<f64>,
    ) -> Option<Self> {
        let corners = clockwise(corners);
        if !convex(corners) {
            return None;
        }
        let model = Lens::new(size, lens);
        let told = proportions(corners.map(|p| model.straight(p)), &model, known, focal)?;
        Some(Self {
            corners: corners.map(|p| [p.x, p.y]),
            lens,
            ratio: told.ratio,
            off: told.off,
            known,
            focal,
            width: None,
            height: None,
            around: false,
        })
    }

    /// The rectangle of what a picture was seen to show; `None` and `focal` as for [`Squared::of`].
    #[must_use]
    pub fn of_seen(seen: &Seen, picture: &Picture, focal: Option<f64>) -> Option<Self> {
        let size = (picture.width(), picture.height());
        Self::of(seen.corners, seen.lens, size, seen.off, focal)
    }

    /// The rectangle at whose corners somebody pointed, in any turn, px of the picture; with `drawn` at the edges beside
    /// them, where there are some.
    ///
    /// # Errors
    /// [`SquareError`].
    pub fn pointed(
        picture: &Picture,
        corners: Quad,
        drawn: bool,
        focal: Option<f64>,
    ) -> Result<Self, SquareError> {
        let size = (picture.width(), picture.height());
        let within = |v: f64, most: u32| (0.0..=f64::from(most)).contains(&v);
        if !corners
            .iter()
            .all(|p| within(p.x, size.0) && within(p.y, size.1))
        {
            return Err(SquareError::Outside);
        }
        let corners = clockwise(corners);
        let drawn = drawn.then(|| drawn_to_edges(picture, corners)).flatten();
        let squared = match drawn {
            Some(seen) => Self::of_seen(&seen, picture, focal),
            None => Self::of(corners, 0.0, size, POINTED, focal),
        };
        squared.ok_or(SquareError::NoRectangle)
    }

    /// The same with another lens; its proportions are told anew. `None` where the corners then stand around nothing.
    #[must_use]
    pub fn with_lens(&self, lens: f64, size: (u32, u32)) -> Option<Self> {
        let corners = self.corners.map(|[x, y]| Point::new(x, y));
        let told = Self::of(corners, lens, size, self.known, self.focal)?;
        Some(Self {
            width: self.width,
            height: self.height,
            around: self.around,
            ..told
        })
    }

    /// The same as a sheet of paper, lying or standing as its corners say.
    #[must_use]
    pub fn on_paper(&self, paper: Paper) -> Self {
        let [short, long] = paper.sides();
        let [width, height] = if self.ratio > 1.0 {
            [long, short]
        } else {
            [short, long]
        };
        Self {
            width: Some(width),
            height: Some(height),
            ..*self
        }
    }

    /// Width by height.
    #[must_use]
    pub fn proportion(&self) -> f64 {
        match (self.width, self.height) {
            (Some(width), Some(height)) => width / height,
            _ => self.ratio,
        }
    }

    /// True width and height, mm, where a side is known.
    #[must_use]
    pub fn sides_mm(&self) -> Option<[f64; 2]> {
        match (self.width, self.height) {
            (Some(width), Some(height)) => Some([width, height]),
            (Some(width), None) => Some([width, width / self.ratio]),
            (None, Some(height)) => Some([height * self.ratio, height]),
            (None, None) => None,
        }
    }

    /// Width and height of a pixel of the result: mm where a side is known, else in proportion, the width being 1.
    ///
    /// The rectangle ends where the picture does, so pixels are square but for the rounding of its sides.
    #[must_use]
    pub(crate) fn pixel(&self, original: (u32, u32)) -> [f64; 2] {
        let [w, h] = self.side_px(original);
        let [width, height] = self.sides_mm().unwrap_or([w, w / self.proportion()]);
        [width / w, height / h]
    }

    /// Size of the result, px, and the way to it from the original with its lens straightened.
    pub(super) fn onto(&self, original: (u32, u32)) -> Option<(u32, u32, Projective)> {
        let [w, h] = self.side_px(original);
        let flat = self.flat(original, [w, h])?;
        if !self.around {
            return Some((w as u32, h as u32, flat));
        }
        let (from, to) = self.reach(original, &flat, [w, h]);
        let moved = Projective::from(kurbo::Affine::translate(-from.to_vec2())) * flat;
        let size = |v: f64| v.ceil().max(1.0) as u32;
        Some((size(to.x - from.x), size(to.y - from.y), moved))
    }

    /// From the original, straightened, to a rectangle of so many px.
    fn flat(&self, original: (u32, u32), [w, h]: [f64; 2]) -> Option<Projective> {
        let straight = self.straight(original);
        let onto = [[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]].map(|[x, y]| Point::new(x, y));
        let pairs: Vec<(Point, Point)> = straight.into_iter().zip(onto).collect();
        Projective::through(&pairs)
    }

    fn straight(&self, original: (u32, u32)) -> Quad {
        let lens = Lens::new(original, self.lens);
        self.corners.map(|[x, y]| lens.straight(Point::new(x, y)))
    }

    /// Sides of the rectangle, whole px: along its longest seen side a pixel stays a pixel.
    fn side_px(&self, original: (u32, u32)) -> [f64; 2] {
        let c = self.straight(original);
        let side = |a: usize, b: usize| (c[a] - c[b]).hypot();
        let across = side(0, 1).max(side(3, 2));
        let down = side(1, 2).max(side(0, 3));
        let ratio = self.proportion();
        let height = down.max(across / ratio);
        let [w, h] = [height * ratio, height];
        let most = (f64::from(original.0) * f64::from(original.1) * MORE_PIXELS).max(FEW_PIXELS);
        let k = (most / (w * h)).sqrt().min(1.0);
        [w, h].map(|side| (side * k).round().max(1.0))
    }

    /// The box of what is shown around, px of the rectangle.
    fn reach(&self, original: (u32, u32), flat: &Projective, [w, h]: [f64; 2]) -> (Point, Point) {
        let lens = Lens::new(original, self.lens);
        let depths = self.straight(original).map(|p| flat.depth(p));
        let least = depths.into_iter().fold(f64::INFINITY, f64::min) * HORIZON;
        let (mut from, mut to) = (Point::ORIGIN, Point::new(w, h));
        let (width, height) = (f64::from(original.0), f64::from(original.1));
        for n in 0..=64 {
            let t = f64::from(n) / 64.0;
            let border = [[t, 0.0], [t, 1.0], [0.0, t], [1.0, t]];
            for [u, v] in border {
                let p = lens.straight(Point::new(u * width, v * height));
                if flat.depth(p) > least {
                    let q = flat.at(p);
                    from = Point::new(from.x.min(q.x), from.y.min(q.y));
                    to = Point::new(to.x.max(q.x), to.y.max(q.y));
                } else {
                    // Beyond the horizon: as far as is shown at all.
                    (from, to) = (
                        Point::new(from.x.min(-AROUND * w), from.y.min(-AROUND * h)),
                        Point::new(to.x.max(AROUND * w), to.y.max(AROUND * h)),
                    );
                }
            }
        }
        let low = |v: f64, side: f64| v.max(-AROUND * side).floor();
        let high = |v: f64, side: f64| v.min((1.0 + AROUND) * side).ceil();
        (
            Point::new(low(from.x, w), low(from.y, h)),
            Point::new(high(to.x, w), high(to.y, h)),
        )
    }

    /// # Errors
    /// The first figure out of range.
    pub(super) fn check(&self) -> Result<(), OutOfRange> {
        let corners = self.corners.map(|[x, y]| Point::new(x, y));
        within(
            "a corner's angle",
            least_angle(corners),
            &limits::CORNER_ANGLE,
            "°",
        )?;
        within("a lens", self.lens, &limits::LENS, "%")?;
        within("a proportion", self.proportion(), &limits::PROPORTION, "")?;
        for side in [self.width, self.height].into_iter().flatten() {
            within("a true side", side, &limits::SIDE_MM, "mm")?;
        }
        Ok(())
    }
}

/// Whether corners stand around clockwise, none of them nearly on the line between its neighbours.
fn convex(corners: Quad) -> bool {
    limits::CORNER_ANGLE.contains(&least_angle(corners))
}

/// The least angle at some corners, and between a side and the one before it gone on; nought or less where they do not stand
/// around clockwise, degrees.
fn least_angle(corners: Quad) -> f64 {
    let angle = |n: usize| {
        let back = corners[(n + 3) % 4] - corners[n];
        let on = corners[(n + 1) % 4] - corners[n];
        let angle = on.cross(back).atan2(on.dot(back)).to_degrees();
        angle.min(180.0 - angle)
    };
    (0..4).map(angle).fold(f64::INFINITY, f64::min)
}

/// Corners in turn, clockwise with y down, from the one that is nearest to the top left.
#[must_use]
pub fn clockwise(corners: Quad) -> Quad {
    let middle = corners
        .iter()
        .fold(kurbo::Vec2::ZERO, |sum, p| sum + p.to_vec2())
        / 4.0;
    let mut turned = corners;
    turned.sort_by(|a, b| {
        let angle = |p: &Point| (p.to_vec2() - middle).atan2();
        angle(a).total_cmp(&angle(b))
    });
    let first = (0..4).min_by(|&a, &b| {
        let sum = |n: usize| turned[n].x + turned[n].y;
        sum(a).total_cmp(&sum(b))
    });
    turned.rotate_left(first.unwrap_or(0));
    turned
}
