//! Frame: where the original's pixels lie in the cleaned picture.

use kurbo::{Affine, Point, Rect, Vec2};

use crate::clean::Action;
use crate::lens::Lens;
use crate::picture::Picture;
use crate::picture::Place;
use crate::projective::Projective;

/// Size of a picture after some steps, and the way from the original's px to its own.
///
/// The way is a lens made straight, then a projective map: for all steps but *squared up* nothing and an affine one.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Frame {
    /// Width, px.
    pub width: u32,
    /// Height, px.
    pub height: u32,
    original: (u32, u32),
    lens: Lens,
    /// From px of the original, its lens straightened, to px of this picture, corners of pixels at whole numbers.
    place: Projective,
}

impl Frame {
    /// The original's own.
    #[must_use]
    pub fn new(width: u32, height: u32) -> Self {
        Self {
            width,
            height,
            original: (width, height),
            lens: Lens::new((width, height), 0.0),
            place: Projective::IDENTITY,
        }
    }

    /// After all steps that are switched on.
    #[must_use]
    pub(crate) fn after_all(self, steps: &[crate::clean::Step]) -> Self {
        let on = steps.iter().filter(|s| s.on);
        on.fold(self, |frame, step| frame.after(&step.action))
    }

    /// After one more step.
    #[must_use]
    pub fn after(self, action: &Action) -> Self {
        let (w, h) = (f64::from(self.width), f64::from(self.height));
        let (place, width, height) = match action {
            Action::Crop { corners } => {
                let kept = self.box_of(corners);
                let place = Affine::translate(-kept.origin().to_vec2());
                (place, kept.width() as u32, kept.height() as u32)
            }
            Action::Quarter { turns } => {
                let right = Affine::new([0.0, 1.0, -1.0, 0.0, h, 0.0]);
                match turns % 4 {
                    0 => (Affine::IDENTITY, self.width, self.height),
                    1 => (right, self.height, self.width),
                    2 => (
                        Affine::new([-1.0, 0.0, 0.0, -1.0, w, h]),
                        self.width,
                        self.height,
                    ),
                    _ => (
                        Affine::new([0.0, -1.0, 1.0, 0.0, 0.0, w]),
                        self.height,
                        self.width,
                    ),
                }
            }
            Action::Flip { across: true } => (
                Affine::new([-1.0, 0.0, 0.0, 1.0, w, 0.0]),
                self.width,
                self.height,
            ),
            Action::Flip { across: false } => (
                Affine::new([1.0, 0.0, 0.0, -1.0, 0.0, h]),
                self.width,
                self.height,
            ),
            Action::Turn { degrees, .. } => {
                let (sin, cos) = degrees.to_radians().sin_cos();
                // A whisker below, so that a turn by nothing adds no row.
                let side = |v: f64| (v - 1e-6).ceil().max(1.0);
                let width = side(w * cos.abs() + h * sin.abs());
                let height = side(w * sin.abs() + h * cos.abs());
                let about = Affine::translate(Vec2::new(width, height) / 2.0)
                    * Affine::rotate(degrees.to_radians())
                    * Affine::translate(-Vec2::new(w, h) / 2.0);
                (about, width as u32, height as u32)
            }
            Action::Enlarge { factor } => {
                let k = u32::from(*factor);
                (
                    Affine::scale(f64::from(k)),
                    self.width.saturating_mul(k),
                    self.height.saturating_mul(k),
                )
            }
            Action::Square(squared) => {
                let onto = squared.onto(self.original);
                // Counted from the original, whatever was cropped or turned before.
                return onto.map_or(self, |(width, height, place)| Self {
                    width,
                    height,
                    original: self.original,
                    lens: Lens::new(self.original, squared.lens),
                    place,
                });
            }
            _ => return self,
        };
        Self {
            width,
            height,
            place: Projective::from(place) * self.place,
            ..self
        }
    }

    /// Where a place of the original lies, px.
    #[must_use]
    pub fn to(&self, [x, y]: Place) -> Point {
        self.place.at(self.lens.straight(Point::new(x, y)))
    }

    /// The place of the original that lies here.
    #[must_use]
    pub fn from(&self, p: Point) -> Place {
        let back = self.place.inverse().unwrap_or(Projective::IDENTITY);
        let p = self.lens.bent(back.at(p));
        [p.x, p.y]
    }

    /// The way back for many places at once.
    pub(super) fn back(&self) -> impl Fn(Point) -> Point + Sync {
        let (lens, back) = (self.lens, self.place.inverse());
        let back = back.unwrap_or(Projective::IDENTITY);
        move |p| lens.bent(back.at(p))
    }

    /// The way from the original as an affine map: `None` where the picture was squared up.
    #[must_use]
    pub fn affine(&self) -> Option<Affine> {
        self.place.affine().filter(|_| self.lens.is_straight())
    }

    /// How many of its pixels a pixel of the original is wide, in the middle of this picture.
    #[must_use]
    pub fn scale(&self) -> f64 {
        let [x, y] = self.from(Point::new(
            f64::from(self.width) / 2.0,
            f64::from(self.height) / 2.0,
        ));
        self.scale_at([x, y])
    }

    /// How many of its pixels a pixel of the original is wide, at a place of the original.
    #[must_use]
    pub fn scale_at(&self, [x, y]: Place) -> f64 {
        let step = 0.5;
        let across = self.to([x + step, y]) - self.to([x - step, y]);
        let down = self.to([x, y + step]) - self.to([x, y - step]);
        across.cross(down).abs().sqrt()
    }

    /// Whether the sides of the original lie across instead of down.
    #[must_use]
    pub(crate) fn on_its_side(&self) -> bool {
        let [a, _, _, b, ..] = self.place.rows();
        b.abs() > a.abs()
    }

    /// Whole pixels around some corners, at least one.
    fn box_of(&self, corners: &[Place; 4]) -> Rect {
        let at = corners.map(|c| self.to(c));
        let all = Rect::from_points(at[0], at[2])
            .union_pt(at[1])
            .union_pt(at[3]);
        let (w, h) = (f64::from(self.width), f64::from(self.height));
        let side = |from: f64, to: f64, most: f64| {
            let from = from.round().clamp(0.0, most - 1.0);
            (from, to.round().clamp(from + 1.0, most))
        };
        let (x0, x1) = side(all.x0, all.x1, w);
        let (y0, y1) = side(all.y0, all.y1, h);
        Rect::new(x0, y0, x1, y1)
    }

    /// A picture of this frame with its pixels moved by a crop, a quarter turn or a flip; also
    /// what its file stores.
    pub(super) fn moved(&self, picture: &Picture, action: &Action) -> Picture {
        let (w, h) = (self.width as usize, self.height as usize);
        let after = self.after(action);
        let from: Box<dyn Fn(usize, usize) -> usize> = match action {
            Action::Crop { corners } => {
                let kept = self.box_of(corners);
                let (x0, y0) = (kept.x0 as usize, kept.y0 as usize);
                Box::new(move |x, y| (y + y0) * w + x + x0)
            }
            Action::Quarter { turns } => match turns % 4 {
                0 => return picture.clone(),
                1 => Box::new(move |x, y| (h - 1 - x) * w + y),
                2 => Box::new(move |x, y| (h - 1 - y) * w + (w - 1 - x)),
                _ => Box::new(move |x, y| x * w + (w - 1 - y)),
            },
            Action::Flip { across: true } => Box::new(move |x, y| y * w + (w - 1 - x)),
            Action::Flip { across: false } => Box::new(move |x, y| (h - 1 - y) * w + x),
            _ => return picture.clone(),
        };
        picture.rearranged(after.width, after.height, from)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A picture of 3 × 2 px that tells every pixel by its red.
    fn six() -> Picture {
        Picture::new(3, 2, (0..6).map(|i| [i * 40, 0, 0, 255]).collect()).unwrap()
    }

    fn actions() -> Vec<Action> {
        let corners = [[1.0, 0.0], [3.0, 0.0], [3.0, 2.0], [1.0, 2.0]];
        vec![
            Action::Quarter { turns: 1 },
            Action::Quarter { turns: 2 },
            Action::Quarter { turns: 3 },
            Action::Flip { across: true },
            Action::Flip { across: false },
            Action::Crop { corners },
        ]
    }

    #[test]
    fn every_pixel_lies_where_the_frame_says() {
        for action in actions() {
            let before = six();
            let frame = Frame::new(3, 2).after(&action);
            let after = Frame::new(3, 2).moved(&before, &action);
            assert_eq!((after.width(), after.height()), (frame.width, frame.height));
            for y in 0..2 {
                for x in 0..3 {
                    let at = frame.to([x as f64 + 0.5, y as f64 + 0.5]);
                    if at.x < 0.0 || at.x > f64::from(frame.width) {
                        continue;
                    }
                    let i = at.y as usize * after.width() as usize + at.x as usize;
                    assert_eq!(after.pixels()[i], before.pixels()[y * 3 + x], "{action:?}");
                }
            }
        }
    }

    #[test]
    fn places_come_back_from_where_they_went() {
        let all = actions()
            .into_iter()
            .chain([
                Action::Turn {
                    degrees: 17.0,
                    found: false,
                },
                Action::Enlarge { factor: 3 },
            ])
            .fold(Frame::new(300, 200), |frame, a| frame.after(&a));
        let back = all.from(all.to([1.25, 0.5]));
        assert!((back[0] - 1.25).abs() < 1e-9 && (back[1] - 0.5).abs() < 1e-9);
        assert!((all.scale() - 3.0).abs() < 1e-9);
    }
}
