//! What of an artwork is printed: the shape that is cut out, and what is coloured in.
//!
//! ```text
//!   artwork ──cut────► its own outer edge, a box, an ellipse, or one layer as it was drawn
//!      └──────fills───► an ink, or one piece of line art: a colour, dots, stripes or checks
//! ```

use std::sync::Arc;

use kurbo::{Point, Rect};
use serde::{Deserialize, Serialize};

use super::paint::{Paint, Pattern, Rows};
use crate::assembly::{Built, Layer, rectangle};
use crate::inks::Rgb;
use crate::limits::OutOfRange;
use crate::offset::{Join, offset};
use crate::overlay::{Keep, Rings, overlay};
use crate::picture::Picture;
use crate::segment::Segment;
use crate::shapes::{Design, Ring, Shape, contains};

/// What the cut line follows, before its border.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum CutShape {
    /// Its own outer edge.
    #[default]
    Artwork,
    /// The box around it.
    Box,
    /// A box with round corners in which that box lies.
    Rounded,
    /// The ellipse through the corners of the box around it.
    Ellipse,
    /// A layer by its colour, such as one that was drawn for it.
    Layer(Rgb),
}

/// What is coloured in.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Filled {
    /// All of an ink, by its colour.
    Ink(Rgb),
    /// The piece at a place: a shape, or what a shape encloses. Parts of the artwork's width and height.
    Piece([f64; 2]),
}

/// A piece or an ink, and what it is coloured with.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Fill {
    /// What.
    pub of: Filled,
    /// With what.
    pub with: Paint,
    /// The job whose artwork repeats, where a picture does.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub picture: Option<i64>,
}

/// How an artwork is printed.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Look {
    /// What the cut line follows.
    pub cut: CutShape,
    /// What is coloured in, the later over the earlier.
    pub fills: Vec<Fill>,
}

/// Shapes on a picture, mm, that are painted over it.
#[derive(Clone, Debug, PartialEq)]
pub struct Painted {
    /// Where.
    pub shapes: Vec<Rings>,
    /// With what.
    pub paint: Paint,
    /// What repeats, where a picture does: its ground shows through it.
    pub tile: Option<Arc<Picture>>,
}

impl Painted {
    /// What lies at a place, mm.
    #[must_use]
    pub fn at(&self, p: Point) -> Rgb {
        let Some(tile) = &self.tile else {
            return self.paint.at(p);
        };
        let [w, h] = [tile.width(), tile.height()];
        let [u, v] = self.paint.within(p, self.repeat());
        let at = |part: f64, side: u32| ((part * f64::from(side)) as u32).min(side - 1);
        let [r, g, b, _] = tile.pixels()[(at(v, h) * w + at(u, w)) as usize];
        Rgb([r, g, b])
    }

    /// Width and height after which it repeats, mm.
    #[must_use]
    pub fn repeat(&self) -> [f64; 2] {
        let tile = self.tile.as_ref();
        let high = tile.map_or(1.0, |t| f64::from(t.height()) / f64::from(t.width()));
        [self.paint.size, self.paint.size * high]
    }

    /// The rows that cover all of it; `None` where it is one colour.
    #[must_use]
    pub fn rows(&self) -> Option<Rows> {
        let boxes = self.shapes.iter().map(|r| r.outer.bounds());
        let b = boxes.reduce(|a, b| a.union(b))?;
        let is_picture = self.paint.pattern == Pattern::Picture;
        // Without its picture it is what lies between alone.
        let shown = !is_picture || self.tile.is_some();
        shown.then(|| self.paint.rows(b, self.repeat())).flatten()
    }

    /// The colour under the rows, or the one colour.
    #[must_use]
    pub fn ground(&self) -> Rgb {
        match self.paint.pattern {
            Pattern::Flat => self.paint.colour,
            _ => self.paint.ground,
        }
    }
}

/// The lines of an artwork to be printed, mm.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Drawn {
    /// What the cut line follows.
    pub cut: CutShape,
    /// Its lines.
    pub lines: Vec<Ring>,
    /// What is coloured in.
    pub painted: Vec<Painted>,
}

/// Why nothing is coloured in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum NotColoured {
    /// There is nothing of it.
    #[error("nothing there is enclosed by lines: press inside a piece")]
    Nothing,
    /// It is.
    #[error("it is coloured in already: change it in the list")]
    Already,
}

/// The first colour, until another was chosen.
const FIRST: Rgb = Rgb([242, 193, 46]);
/// Round corners of a box, as a part of its shorter side.
const ROUND: f64 = 0.1;
/// What is coloured in reaches so far into what lies around it, px, over pixels that are mixed of both: a shape farther,
/// since what is left of its own colour is seen; what a shape encloses less, so that its line does not become thin.
const UNDER_OTHERS: f64 = 1.0;
const UNDER_A_LINE: f64 = 0.5;

impl CutShape {
    /// The figure around a box; `None` where the lines themselves are it.
    #[must_use]
    pub fn figure(self, b: Rect) -> Option<Vec<Rings>> {
        let alone = |outer: Ring| {
            vec![Rings {
                outer,
                holes: Vec::new(),
            }]
        };
        match self {
            Self::Artwork | Self::Layer(_) => None,
            Self::Box => Some(alone(rectangle(b))),
            Self::Rounded => {
                let radius = ROUND * b.width().min(b.height());
                Some(offset(&[&rectangle(b)], radius, Join::Round))
            }
            Self::Ellipse => Some(alone(ellipse(b))),
        }
    }
}

/// The ellipse through the corners of a box: its half axes are √2 of those of the box.
fn ellipse(b: Rect) -> Ring {
    let half = (b.size() / std::f64::consts::SQRT_2).to_vec2();
    let round = kurbo::Ellipse::new(b.center(), half, 0.0);
    let path = kurbo::Shape::to_path(&round, 1e-4);
    let cubics = path.segments().filter_map(|s| match s {
        kurbo::PathSeg::Cubic(c) => Some(Segment::Cubic(c)),
        _ => None,
    });
    Ring::closed(cubics.collect())
}

impl Look {
    /// The lines of a design, built, that is so many mm a pixel. `tile` is the picture of a job, where one repeats.
    pub fn drawn(
        &self,
        (design, built): (&Design, &Built),
        px: f64,
        tile: impl Fn(i64) -> Option<Arc<Picture>>,
    ) -> Drawn {
        let chosen: Vec<&Layer> = match self.cut {
            CutShape::Layer(colour) => built.layers.iter().filter(|l| l.colour == colour).collect(),
            _ => Vec::new(),
        };
        let rings = |layers: &[&Layer]| layers.iter().flat_map(|l| l.rings()).cloned().collect();
        let lines: Vec<Ring> = match chosen.is_empty() {
            true => rings(&built.cut().collect::<Vec<_>>()),
            false => rings(&chosen),
        };
        let painted = self.fills.iter().filter_map(|fill| {
            let shapes = grown(fill.of.shapes(design), fill.of.under(design) * px);
            (!shapes.is_empty()).then_some(Painted {
                shapes,
                paint: fill.with,
                tile: match fill.with.pattern {
                    Pattern::Picture => fill
                        .picture
                        .and_then(&tile)
                        .map(|t| on(fill.with.ground, &t)),
                    _ => None,
                },
            })
        });
        Drawn {
            cut: self.cut,
            painted: painted.collect(),
            lines,
        }
    }

    /// Colours something in as the last was coloured.
    ///
    /// # Errors
    /// There is nothing of it in the design, or it is coloured in already.
    pub fn colour_in(&mut self, of: Filled, design: &Design) -> Result<(), NotColoured> {
        if !of.is_in(design) {
            return Err(NotColoured::Nothing);
        }
        if self.fills.iter().any(|f| f.of.is_as(of, design)) {
            return Err(NotColoured::Already);
        }
        let last = self.fills.last();
        let (with, picture) = last.map_or((Paint::flat(FIRST), None), |f| (f.with, f.picture));
        self.fills.push(Fill { of, with, picture });
        Ok(())
    }

    /// # Errors
    /// The first figure of a paint that cannot be.
    pub fn check(&self) -> Result<(), OutOfRange> {
        self.fills.iter().try_for_each(|fill| fill.with.check())
    }
}

/// A picture on a ground.
fn on(Rgb(ground): Rgb, picture: &Picture) -> Arc<Picture> {
    let mixed = |p: &[u8; 4]| {
        let cover = f32::from(p[3]) / 255.0;
        let one = |k: usize| {
            let under = f32::from(ground[k]);
            (under + cover * (f32::from(p[k]) - under)).round() as u8
        };
        [one(0), one(1), one(2), 255]
    };
    let pixels = picture.pixels().iter().map(mixed).collect();
    Arc::new(picture.resampled(picture.width(), picture.height(), pixels))
}

fn grown(shapes: Vec<Rings>, by: f64) -> Vec<Rings> {
    let rings: Vec<&Ring> = shapes.iter().flat_map(Rings::all).collect();
    match rings.is_empty() {
        true => shapes,
        false => offset(&rings, by, Join::Round),
    }
}

/// Chords of rings err by so much of a mm where a place in them is looked for.
const CHORDS: f64 = 0.02;

impl Filled {
    /// What is coloured in of a design, mm; empty where there is nothing of it any more.
    #[must_use]
    pub fn shapes(self, design: &Design) -> Vec<Rings> {
        match (self, self.piece(design)) {
            (Self::Ink(colour), _) => of_ink(design, colour).map(as_rings).collect(),
            (_, Some(Piece::Shape(shape))) => vec![as_rings(shape)],
            (_, Some(Piece::Hole(hole))) => enclosed(design, hole),
            (_, None) => Vec::new(),
        }
    }

    /// Whether there is anything of it.
    #[must_use]
    pub fn is_in(self, design: &Design) -> bool {
        match self {
            Self::Ink(colour) => of_ink(design, colour).next().is_some(),
            Self::Piece(_) => self.piece(design).is_some(),
        }
    }

    /// Whether both are the same of a design.
    fn is_as(self, other: Self, design: &Design) -> bool {
        match (self.piece(design), other.piece(design)) {
            (Some(own), Some(other)) => own == other,
            _ => self == other,
        }
    }

    /// How far it reaches under what lies around it, px.
    fn under(self, design: &Design) -> f64 {
        match self.piece(design) {
            Some(Piece::Hole(_)) => UNDER_A_LINE,
            _ => UNDER_OTHERS,
        }
    }

    /// The piece of which it is a place.
    fn piece(self, design: &Design) -> Option<Piece<'_>> {
        let Self::Piece([across, down]) = self else {
            return None;
        };
        let (w, h) = (design.size.width.get(), design.size.height.get());
        let at = Point::new(across * w, down * h);
        let holds = |ring: &Ring| ring.bounds().contains(at) && contains(&ring.chords(CHORDS), at);
        let in_shape = |s: &&Shape| holds(&s.outer) && !s.holes.iter().any(holds);
        if let Some(shape) = design.shapes.iter().rev().find(in_shape) {
            return Some(Piece::Shape(shape));
        }
        let holes = design.shapes.iter().flat_map(|s| &s.holes);
        let area = |r: &Ring| r.signed_area().abs();
        let smallest = holes
            .filter(|h| holds(h))
            .min_by(|a, b| area(a).total_cmp(&area(b)));
        smallest.map(Piece::Hole)
    }
}

/// A shape, or the hole in one.
#[derive(Clone, Copy, PartialEq)]
enum Piece<'a> {
    Shape(&'a Shape),
    Hole(&'a Ring),
}

fn of_ink(design: &Design, colour: Rgb) -> impl Iterator<Item = &Shape> {
    let of_it = move |s: &&Shape| {
        let ink = design.inks.get(s.ink.0 as usize);
        ink.is_some_and(|i| i.colour == colour)
    };
    design.shapes.iter().filter(of_it)
}

fn as_rings(shape: &Shape) -> Rings {
    Rings {
        outer: shape.outer.clone(),
        holes: shape.holes.clone(),
    }
}

/// What the hole of a shape leaves beside the shapes in it.
fn enclosed(design: &Design, hole: &Ring) -> Vec<Rings> {
    let (reach, line) = (hole.bounds(), hole.chords(CHORDS));
    let outlines = design.shapes.iter().map(|s| &s.outer);
    let inside = |o: &&Ring| reach.union(o.bounds()) == reach && contains(&line, o.beside());
    let inside: Vec<&Ring> = outlines.filter(inside).collect();
    overlay(&[&hole.reversed()], &inside, Keep::Difference)
}
