//! How much memory each kind of result keeps, in bytes: what grows with the picture or the drawing.
//!
//! Estimates: what is small beside them (names, figures, lists of inks) is left out.

use std::mem::size_of;

use inky_core::boundary::Bounded;
use inky_core::clean::Cleaned;
use inky_core::clean::square::Seen;
use inky_core::fit::FittedMap;
use inky_core::inks::{EdgeField, EnclosedPart, Solid};
use inky_core::picture::Picture;
use inky_core::segment::Segment;
use inky_core::shapes::Design;
use inky_core::tidy::{Changed, Drawing};
use inky_core::worth::Worth;
use kurbo::Point;

use super::laid::Laid;
use super::outcome::{Arrived, Made, Outcome};
use super::shelf::{Part, Weighs, part};

/// What every value costs beside its figures.
const FLAT: usize = 4 << 10;
/// A node of an outline: its segment, how far it strayed, and its share of layers, checks and sheets
/// that are made of the outlines later.
const NODE: usize = 4 * size_of::<Segment>();

fn own<T>(value: &T, bytes: usize) -> Part {
    (std::ptr::from_ref(value) as usize, FLAT + bytes)
}

fn pixels(picture: &Picture) -> Vec<Part> {
    let all = picture.pixels();
    let seen = (all.as_ptr() as usize, size_of_val(all));
    let stored = picture.stored().map(|s| part(&s, s.len() * 4));
    std::iter::once(seen).chain(stored).collect()
}

fn bounded(value: &Bounded) -> usize {
    let points: usize = value.map.edges.iter().map(|e| e.points.len()).sum();
    value.labels.len() + points * (size_of::<Point>() + 1)
}

fn fitted(value: &FittedMap) -> usize {
    let edge = |e: &inky_core::fit::FittedEdge| {
        e.segments.len() * size_of::<Segment>() + 4 * (e.deviation.len() + e.strayed.len())
    };
    value.edges.iter().map(edge).sum()
}

fn design(value: &Design) -> usize {
    value.figures.nodes * NODE
}

fn drawing(value: &Drawing) -> usize {
    let paths = value.items.iter().flat_map(|item| &item.paths);
    paths.map(|p| p.segments.len() * NODE).sum()
}

impl Weighs for Arrived {
    fn parts(&self) -> Vec<Part> {
        pixels(&self.artwork.picture)
    }
}

impl Weighs for Cleaned {
    fn parts(&self) -> Vec<Part> {
        pixels(&self.picture)
    }
}

impl Weighs for Picture {
    fn parts(&self) -> Vec<Part> {
        pixels(self)
    }
}

impl Weighs for Worth {
    fn parts(&self) -> Vec<Part> {
        vec![own(self, 0)]
    }
}

impl Weighs for Solid {
    fn parts(&self) -> Vec<Part> {
        let labels = self.labels.len();
        match &self.field {
            EdgeField::Tone { tone, .. } => vec![own(self, labels + tone.len())],
            EdgeField::Colours { pixels, .. } => {
                vec![own(self, labels), part(pixels, pixels.len() * 4)]
            }
        }
    }
}

impl Weighs for [u64; 256] {
    fn parts(&self) -> Vec<Part> {
        vec![own(self, 0)]
    }
}

impl Weighs for Vec<EnclosedPart> {
    fn parts(&self) -> Vec<Part> {
        vec![own(self, self.len() * size_of::<EnclosedPart>())]
    }
}

impl Weighs for Vec<Seen> {
    fn parts(&self) -> Vec<Part> {
        vec![own(self, self.len() * size_of::<Seen>())]
    }
}

impl Weighs for Bounded {
    fn parts(&self) -> Vec<Part> {
        vec![own(self, bounded(self))]
    }
}

impl Weighs for FittedMap {
    fn parts(&self) -> Vec<Part> {
        vec![own(self, fitted(self))]
    }
}

impl Weighs for Made {
    fn parts(&self) -> Vec<Part> {
        let mut parts = vec![own(self, design(&self.design))];
        parts.extend(self.solid.parts());
        parts.extend(self.bounded.parts());
        parts.extend(self.fitted.parts());
        parts
    }
}

impl Weighs for Outcome {
    fn parts(&self) -> Vec<Part> {
        let mut parts = vec![own(self, design(&self.design))];
        parts.extend(self.arrived.parts());
        parts.extend(self.cleaned.parts());
        parts.extend(self.solid.parts());
        parts.extend(self.bounded.parts());
        parts.extend(self.fitted.parts());
        if let Some(edited) = &self.edited {
            parts.extend(edited.parts());
        }
        if let Some(agreement) = &self.agreement {
            parts.push(own(agreement, agreement.missed.values.len()));
        }
        parts
    }
}

impl Weighs for Changed {
    fn parts(&self) -> Vec<Part> {
        vec![own(self, drawing(&self.drawing))]
    }
}

impl Weighs for Laid {
    fn parts(&self) -> Vec<Part> {
        let items: usize = self.sheets.iter().map(|on| on.sheet.items.len()).sum();
        vec![own(self, items * FLAT)]
    }
}
