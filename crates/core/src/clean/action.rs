//! What a clean-up step can do, as it is stored.

use kurbo::Point;
use serde::{Deserialize, Serialize};

use crate::clean::Levels;
use crate::clean::square::Squared;
use crate::clean::subject::Told;
use crate::inks::Rgb;
use crate::limits::{self, OutOfRange, within};
use crate::picture::Place;

/// A region by pointing.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Pointed {
    /// The place pointed at, px of the original.
    pub at: Place,
    /// How different a colour may look, CIEDE2000.
    pub tolerance: f64,
    /// Everything of that colour, not only what is connected.
    pub everywhere: bool,
}

/// One step of the clean-up.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Step {
    /// Whether it is done.
    pub on: bool,
    /// What it does.
    #[serde(flatten)]
    pub action: Action,
}

/// What a step does. Lengths and places are px of the original.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", tag = "kind")]
pub enum Action {
    /// Cut down to the box around four corners.
    Crop {
        /// The corners.
        corners: [Place; 4],
    },
    /// Turned by right angles, clockwise.
    Quarter {
        /// How many, 1 to 3.
        turns: u8,
    },
    /// Turned clockwise by any angle; the picture grows so that nothing is cut off.
    Turn {
        /// Degrees.
        degrees: f64,
        /// Whether the angle was found by the program.
        found: bool,
    },
    /// Mirrored.
    Flip {
        /// Left to right; else top to bottom.
        across: bool,
    },
    /// Squared up: a rectangle that was photographed askew, seen from in front.
    Square(Squared),
    /// A stroke of a brush.
    Brush {
        /// What it does.
        #[serde(flatten)]
        tool: Tool,
        /// Form of its tip.
        tip: Tip,
        /// Width of the tip at full pressure.
        size: f64,
        /// Where it went.
        dabs: Vec<Dab>,
    },
    /// A region of one colour becomes clear.
    Clear {
        /// The region.
        #[serde(flatten)]
        pointed: Pointed,
    },
    /// A region of one colour gets another.
    Fill {
        /// The region.
        #[serde(flatten)]
        pointed: Pointed,
        /// Its new colour.
        colour: Rgb,
    },
    /// What lies outside the main outline becomes ground.
    MainOnly,
    /// All but the subject becomes clear.
    Subject {
        /// Strokes that say where it is, and where it is not; without any it is found.
        strokes: Vec<Told>,
    },
    /// What lies outside some outlines becomes ground.
    Areas {
        /// The outlines, closed.
        areas: Vec<Vec<Place>>,
    },
    /// Black point, white point and middle tone.
    Levels(Levels),
    /// Grain taken out, edges kept.
    Denoise {
        /// Standard deviation of the grain, 0 to 255.
        grain: f64,
    },
    /// Uneven light levelled.
    Even,
    /// Enlarged with a smooth kernel; this adds no detail.
    Enlarge {
        /// 2 to 4 times.
        factor: u8,
    },
}

/// What a brush does.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", tag = "tool")]
pub enum Tool {
    /// To the ground.
    Erase,
    /// To a colour.
    Paint {
        /// The colour.
        colour: Rgb,
    },
    /// To what was there before anything was taken away.
    Restore,
}

/// Form of a brush's tip.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Tip {
    /// A disc.
    Round,
    /// A square along the sides of the picture.
    Square,
}

/// A point of a stroke: x, y, and the half width there; px of the original.
pub type Dab = [f64; 3];

impl Action {
    /// Whether it takes away or paints over what the artwork holds.
    #[must_use]
    pub(crate) fn takes_away(&self) -> bool {
        matches!(
            self,
            Self::Brush { .. }
                | Self::Clear { .. }
                | Self::Fill { .. }
                | Self::MainOnly
                | Self::Subject { .. }
                | Self::Areas { .. }
        )
    }

    /// Whether it only moves pixels to another place.
    #[must_use]
    pub(super) fn only_moves(&self) -> bool {
        matches!(
            self,
            Self::Crop { .. }
                | Self::Quarter { .. }
                | Self::Turn { .. }
                | Self::Flip { .. }
                | Self::Square(_)
        )
    }

    /// A crop to a box: left, top, width and height, px of the original.
    #[must_use]
    pub fn crop([left, top, width, height]: [f64; 4]) -> Self {
        let (right, bottom) = (left + width.max(1.0), top + height.max(1.0));
        Self::Crop {
            corners: [[left, top], [right, top], [right, bottom], [left, bottom]],
        }
    }

    /// The box of a crop that lies along the sides of the original: left, top, width, height, px.
    #[must_use]
    pub fn crop_box(&self) -> Option<[f64; 4]> {
        let Self::Crop { corners } = self else {
            return None;
        };
        let ends = |c: usize| {
            let all = corners.iter().map(|p| p[c]);
            all.fold((f64::INFINITY, f64::NEG_INFINITY), |(l, m), v| {
                (l.min(v), m.max(v))
            })
        };
        let ((left, right), (top, bottom)) = (ends(0), ends(1));
        let near = |v: f64, (a, b): (f64, f64)| (v - a).abs() < 0.01 || (v - b).abs() < 0.01;
        let along = corners
            .iter()
            .all(|p| near(p[0], (left, right)) && near(p[1], (top, bottom)));
        along.then_some([left, top, right - left, bottom - top])
    }

    /// The same with every place moved and every length scaled as it is there, for a better copy of the artwork
    /// or for places that were given in another unit.
    #[must_use]
    pub fn moved(&self, by: impl Fn(Point) -> Point) -> Self {
        let place = |[x, y]: Place| {
            let p = by(Point::new(x, y));
            [p.x, p.y]
        };
        let scale_at = |[x, y]: Place| {
            let across = by(Point::new(x + 0.5, y)) - by(Point::new(x - 0.5, y));
            let down = by(Point::new(x, y + 0.5)) - by(Point::new(x, y - 0.5));
            across.cross(down).abs().sqrt()
        };
        let dab = |dab: &mut Dab| {
            let (at, k) = ([dab[0], dab[1]], scale_at([dab[0], dab[1]]));
            let [x, y] = place(at);
            *dab = [x, y, dab[2] * k];
        };
        let mut moved = self.clone();
        match &mut moved {
            Self::Crop { corners } => *corners = corners.map(place),
            Self::Brush { size, dabs, .. } => {
                *size *= dabs.first().map_or(1.0, |d| scale_at([d[0], d[1]]));
                dabs.iter_mut().for_each(dab);
            }
            Self::Subject { strokes } => {
                strokes.iter_mut().flat_map(|s| &mut s.dabs).for_each(dab);
            }
            Self::Square(squared) => squared.corners = squared.corners.map(place),
            Self::Clear { pointed } | Self::Fill { pointed, .. } => pointed.at = place(pointed.at),
            Self::Areas { areas } => {
                for p in areas.iter_mut().flatten() {
                    *p = place(*p);
                }
            }
            _ => {}
        }
        moved
    }

    /// # Errors
    /// The first figure out of range.
    pub(crate) fn check(&self) -> Result<(), OutOfRange> {
        self.check_places()?;
        match self {
            Self::Turn { degrees, .. } => within("a turn", *degrees, &limits::TURN_DEG, "°"),
            Self::Quarter { turns } => within("quarter turns", f64::from(*turns), &(1.0..=3.0), ""),
            Self::Enlarge { factor } => {
                within("an enlargement", f64::from(*factor), &limits::ENLARGE, "×")
            }
            Self::Brush { size, .. } => within("a brush", *size, &limits::BRUSH_PX, "px"),
            Self::Clear { pointed } | Self::Fill { pointed, .. } => within(
                "a colour tolerance",
                pointed.tolerance,
                &limits::COLOUR_TOLERANCE,
                "",
            ),
            Self::Denoise { grain } => within("grain", *grain, &limits::GRAIN, "levels"),
            Self::Levels(levels) => levels.check(),
            Self::Square(squared) => squared.check(),
            Self::Crop { .. }
            | Self::Flip { .. }
            | Self::MainOnly
            | Self::Subject { .. }
            | Self::Areas { .. }
            | Self::Even => Ok(()),
        }
    }

    /// Whether all its places can lie on a picture.
    fn check_places(&self) -> Result<(), OutOfRange> {
        let place = |p: &Place| {
            let mut both = p.iter();
            both.try_for_each(|&v| within("a place", v, &limits::PLACE_PX, "px"))
        };
        let dab = |&[x, y, half]: &Dab| {
            place(&[x, y])?;
            let widths = 0.0..=*limits::BRUSH_PX.end();
            within("a brush", 2.0 * half, &widths, "px")
        };
        match self {
            Self::Crop { corners } | Self::Square(Squared { corners, .. }) => {
                corners.iter().try_for_each(place)
            }
            Self::Brush { dabs, .. } => dabs.iter().try_for_each(dab),
            Self::Subject { strokes } => {
                let mut dabs = strokes.iter().flat_map(|s| &s.dabs);
                dabs.try_for_each(dab)
            }
            Self::Clear { pointed } | Self::Fill { pointed, .. } => place(&pointed.at),
            Self::Areas { areas } => areas.iter().flatten().try_for_each(place),
            _ => Ok(()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_that_no_picture_has_are_refused() {
        let far = 1e308;
        let pointed = Pointed {
            at: [0.0, far],
            tolerance: 5.0,
            everywhere: false,
        };
        let brush = |dab| Action::Brush {
            tool: Tool::Erase,
            tip: Tip::Round,
            size: 4.0,
            dabs: vec![[1.0, 1.0, 2.0], dab],
        };
        let area = |p| Action::Areas {
            areas: vec![vec![[0.0, 0.0], [9.0, 0.0], p]],
        };
        for bad in [
            Action::crop([0.0, 0.0, far, 5.0]),
            Action::crop([f64::NAN, 0.0, 5.0, 5.0]),
            brush([far, 0.0, 1.0]),
            brush([0.0, 0.0, f64::INFINITY]),
            brush([0.0, 0.0, -1.0]),
            area([far, 0.0]),
            Action::Clear { pointed },
        ] {
            assert!(bad.check().is_err(), "{bad:?}");
        }
        for good in [brush([-3.0, 700.0, 0.0]), area([-5.0, 9.0])] {
            assert_eq!(good.check(), Ok(()));
        }
    }

    #[test]
    fn a_crop_along_the_sides_tells_its_box_and_a_leaning_one_does_not() {
        let sides = [10.0, 20.0, 300.0, 40.0];
        let crop = Action::crop(sides);
        assert_eq!(crop.crop_box(), Some(sides));
        let quarter = crop.moved(|p| Point::new(-p.y, p.x));
        assert_eq!(quarter.crop_box(), Some([-60.0, 10.0, 40.0, 300.0]));
        let leaning = kurbo::Affine::rotate(0.1);
        assert_eq!(crop.moved(|p| leaning * p).crop_box(), None);
    }
}
