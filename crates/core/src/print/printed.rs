//! A picture with the lines that belong to it: where it ends, where it is cut, how far it has to be printed.

use kurbo::{Affine, Rect};
use rayon::prelude::*;

use super::PrintChoice;
use super::bleed::{self, Bled};
use super::look::{CutShape, Drawn, Painted};
use crate::cutting::CutLayer;
use crate::inks::Rgb;
use crate::material::Material;
use crate::offset::{Join, offset};
use crate::overlay::{Keep, Rings, overlay};
use crate::picture::Picture;
use crate::shapes::Ring;

/// A picture to be printed and cut out; mm from its upper left corner, y down.
#[derive(Clone, Debug)]
pub struct Printed {
    /// What it is called.
    pub name: String,
    /// Width and height of the picture, mm.
    pub size: [f64; 2],
    /// The outline of the artwork, without the holes in it.
    pub outline: Vec<Rings>,
    /// Where its own pixels are shown: so far within the outline that none is mixed with what lay around it.
    pub inner: Vec<Rings>,
    /// Where it is cut.
    pub cut: Vec<Rings>,
    /// How far it is printed.
    pub printed: Vec<Rings>,
    /// What is coloured in, over the picture.
    pub painted: Vec<Painted>,
    /// Where white lies under all of it.
    pub white: Vec<Rings>,
    /// The colour between outline and cut and in the bleed; `None` for the picture's own.
    pub border_colour: Option<Rgb>,
    /// How far the picture's own colours go on past its outline, mm.
    carried_on: f64,
}

impl Printed {
    /// A picture with the lines of its artwork, `size` mm wide and high; `None` where these run around nothing, or around
    /// holes alone.
    #[must_use]
    pub fn of(
        name: &str,
        (picture, size): (&Picture, [f64; 2]),
        drawn: Drawn,
        choice: &PrintChoice,
    ) -> Option<Self> {
        let lines: Vec<&Ring> = drawn.lines.iter().collect();
        let united = outer(overlay(&lines, &[], Keep::Union));
        let united = drawn.cut.figure(bounds(&united)).unwrap_or(united);
        let grown = |rings: &[Rings], by: f64| match by {
            by if by > 0.0 => outer(offset(&all(rings), by, Join::Round)),
            _ => rings.to_vec(),
        };
        let cut = grown(&united, choice.border);
        let printed = grown(&cut, choice.bleed);
        if cut.is_empty() {
            return None;
        }
        let px = size[0] / f64::from(picture.width());
        let inner = offset(&all(&united), -bleed::MIXED_PX * px, Join::Round);
        let carried_on = match choice.border_colour {
            Some(_) => 0.0,
            None => choice.border + choice.bleed,
        };
        let white = choice.white.map(|within| {
            let shrunk = offset(&all(&printed), -within, Join::Round);
            outer(shrunk)
        });
        Some(Self {
            name: name.to_owned(),
            size,
            carried_on: carried_on + beyond(size, bounds(&united)),
            outline: united,
            inner,
            cut,
            painted: within(drawn.painted, drawn.cut, &printed),
            printed,
            white: white.unwrap_or_default(),
            border_colour: choice.border_colour,
        })
    }

    /// The box around the cut line, mm.
    #[must_use]
    pub fn bounds(&self) -> Rect {
        bounds(&self.cut)
    }

    /// The picture carried on past its outline.
    #[must_use]
    pub fn bled(&self, picture: &Picture) -> Bled {
        bleed::bled(picture, self.size, &self.outline, self.carried_on)
    }

    /// The box of pixels around all that is printed of a picture so many pixels wide: the upper left one as seen from
    /// the picture's, then width and height.
    #[must_use]
    pub fn shown_px(&self, picture_wide: u32) -> [i32; 4] {
        let per_px = self.size[0] / f64::from(picture_wide);
        let b = bounds(&self.printed);
        let [x0, y0] = [b.x0, b.y0].map(|v| (v / per_px).floor() as i32);
        let [x1, y1] = [b.x1, b.y1].map(|v| (v / per_px).ceil() as i32);
        [x0, y0, (x1 - x0).max(1), (y1 - y0).max(1)]
    }

    /// What is printed of it as pixels, in the box of [`Self::shown_px`]; clear beyond what is printed.
    #[must_use]
    pub fn shown(&self, picture: &Picture) -> Picture {
        let per_px = self.size[0] / f64::from(picture.width());
        let [left, top, wide, high] = self.shown_px(picture.width());
        let (wide, high) = (wide as usize, high as usize);
        let to_px =
            Affine::translate((-f64::from(left), -f64::from(top))) * Affine::scale(1.0 / per_px);
        let within = |shapes: &[Rings]| bleed::filled(shapes, to_px, wide, high);
        let [printed, outline, inner] =
            [&self.printed, &self.outline, &self.inner].map(|s| within(s));
        let own_px = |i: usize| -> Option<[u8; 4]> {
            let (x, y) = ((i % wide) as i32 + left, (i / wide) as i32 + top);
            let (w, h) = (picture.width() as i32, picture.height() as i32);
            let inside = (0..w).contains(&x) && (0..h).contains(&y);
            inside.then(|| picture.pixels()[(y * w + x) as usize])
        };
        let bled = self.bled(picture);
        let bled_px = |i: usize| -> [u8; 4] {
            let (bled, [x0, y0, w, h]) = (&bled.picture, bled.at);
            let (x, y) = (
                (i % wide) as f64 + f64::from(left),
                (i / wide) as f64 + f64::from(top),
            );
            let part = [((x + 0.5) * per_px - x0) / w, ((y + 0.5) * per_px - y0) / h];
            let at = |part: f64, side: u32| {
                (part * f64::from(side)).clamp(0.0, f64::from(side - 1)) as u32
            };
            let (u, v) = (at(part[0], bled.width()), at(part[1], bled.height()));
            bled.pixels()[(v * bled.width() + u) as usize]
        };
        let painted: Vec<(Vec<bool>, &Painted)> = self
            .painted
            .iter()
            .map(|p| (within(&p.shapes), p))
            .collect();
        let pixel = |i: usize| -> [u8; 4] {
            if !printed[i] {
                return [0; 4];
            }
            if let Some((_, paint)) = painted.iter().rev().find(|(on, _)| on[i]) {
                let (x, y) = ((i % wide) as i32 + left, (i / wide) as i32 + top);
                let [x, y] = [x, y].map(|v| (f64::from(v) + 0.5) * per_px);
                let Rgb([r, g, b]) = paint.at(kurbo::Point::new(x, y));
                return [r, g, b, 255];
            }
            if let Some([r, g, b, a]) = own_px(i).filter(|_| inner[i]) {
                // What shows through is paper.
                let cover = f32::from(a) / 255.0;
                let [r, g, b] = [r, g, b].map(|v| (255.0 + cover * (f32::from(v) - 255.0)) as u8);
                return [r, g, b, 255];
            }
            match self.border_colour {
                Some(Rgb([r, g, b])) if !outline[i] => [r, g, b, 255],
                _ => bled_px(i),
            }
        };
        let pixels: Vec<[u8; 4]> = (0..wide * high).into_par_iter().map(pixel).collect();
        picture.resampled(wide as u32, high as u32, pixels)
    }

    /// The cut line as a layer of a material.
    #[must_use]
    pub fn layer(&self, material: &Material) -> CutLayer {
        CutLayer {
            name: "Cut line".to_owned(),
            letter: "A".to_owned(),
            colour: CUT,
            material: material.clone(),
            stock_colour: None,
            operation: material.operation,
            shapes: self.cut.clone(),
            lines: Vec::new(),
        }
    }
}

/// Cut lines as they are drawn.
const CUT: Rgb = Rgb([214, 36, 110]);

/// What is coloured in, as far as it is printed: of another figure than the artwork pieces may lie outside.
fn within(painted: Vec<Painted>, cut: CutShape, printed: &[Rings]) -> Vec<Painted> {
    if cut == CutShape::Artwork {
        return painted;
    }
    let clip = all(printed);
    let clipped = painted.into_iter().map(|p| Painted {
        shapes: overlay(&all(&p.shapes), &clip, Keep::Both),
        ..p
    });
    clipped.filter(|p| !p.shapes.is_empty()).collect()
}

fn bounds(rings: &[Rings]) -> Rect {
    let boxes = rings.iter().map(|r| r.outer.bounds());
    boxes.reduce(|a, b| a.union(b)).unwrap_or_default()
}

/// How far a box reaches beyond a picture, mm, a corner of it included.
fn beyond([w, h]: [f64; 2], b: Rect) -> f64 {
    let sides = [-b.x0, -b.y0, b.x1 - w, b.y1 - h];
    sides.into_iter().fold(0.0, f64::max) * std::f64::consts::SQRT_2
}

fn all(rings: &[Rings]) -> Vec<&Ring> {
    rings.iter().flat_map(Rings::all).collect()
}

/// Shapes without their holes; what lay in one is part of it.
fn outer(shapes: Vec<Rings>) -> Vec<Rings> {
    let outlines: Vec<Ring> = shapes.into_iter().map(|s| s.outer).collect();
    overlay(&outlines.iter().collect::<Vec<_>>(), &[], Keep::Union)
}
