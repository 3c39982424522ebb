//! The drawing: traced outlines as items that can be picked one by one and changed.
//!
//! In: a traced [`Design`]. An [`Item`] is a shape (an outer ring with its holes) or a line (a
//! stroke line, or an outline that was cut open). Items lie over each other in order, the last on
//! top; their numbers never change and are never used again. Out: a [`Design`] of the same kind.

use kurbo::{Affine, Point, Rect};

use crate::centre::{LineWidth, Stroke};
use crate::inks::{InkChoice, InkId, Rgb};
use crate::segment::Segment;
use crate::shapes::{self, Design, DesignInk, Ring, Shape};
use crate::tidy::text::TextLine;

/// Number of an item, for good.
pub type ItemId = u32;

/// A closed or open path of an item, mm.
#[derive(Clone, Debug, PartialEq)]
pub struct Path {
    /// Its segments, end to end.
    pub segments: Vec<Segment>,
    /// How far each lies off the artwork's edge, mm; nought for what was drawn by hand.
    pub strayed: Vec<f32>,
    /// Whether it ends where it starts.
    pub closed: bool,
}

/// What an item is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Kind {
    /// A region: its first path is the outer ring, the others are holes.
    Shape,
    /// A line as wide as a pen, mm; it has one path.
    Line {
        /// Width of the pen, mm.
        pen: f64,
    },
}

/// A part of a drawing.
#[derive(Clone, Debug, PartialEq)]
pub struct Item {
    /// Its number.
    pub id: ItemId,
    /// Its ink.
    pub ink: InkId,
    /// The group it belongs to.
    pub group: Option<u32>,
    /// Shape or line.
    pub kind: Kind,
    /// Its paths; at least one.
    pub paths: Vec<Path>,
    /// What it says, where it is text.
    pub text: Option<TextLine>,
}

/// Items in the order in which they lie, the last on top.
#[derive(Clone, Debug, PartialEq)]
pub struct Drawing {
    /// The items.
    pub items: Vec<Item>,
    /// Colours of inks that the artwork does not have, after those of the artwork.
    pub added_inks: Vec<Rgb>,
    /// Inks of the artwork.
    pub artwork_inks: usize,
    /// The next number.
    pub next: ItemId,
}

impl Path {
    /// A path drawn by hand.
    #[must_use]
    pub fn new(segments: Vec<Segment>, closed: bool) -> Self {
        let strayed = vec![0.0; segments.len()];
        Self {
            segments,
            strayed,
            closed,
        }
    }

    /// A ring as a path.
    #[must_use]
    pub fn of(ring: &Ring) -> Self {
        Self {
            segments: ring.segments().to_vec(),
            strayed: ring.strayed().to_vec(),
            closed: true,
        }
    }

    /// As a ring; `None` without segments.
    #[must_use]
    pub fn ring(&self) -> Option<Ring> {
        Ring::new(self.segments.clone(), self.strayed.clone())
    }

    /// The same walked the other way.
    #[must_use]
    pub fn reversed(&self) -> Self {
        Self {
            segments: self.segments.iter().rev().map(Segment::reverse).collect(),
            strayed: self.strayed.iter().rev().copied().collect(),
            closed: self.closed,
        }
    }

    /// Signed area, mm².
    #[must_use]
    pub fn signed_area(&self) -> f64 {
        self.segments.iter().map(Segment::signed_area).sum()
    }

    /// Length, mm.
    #[must_use]
    pub fn length(&self) -> f64 {
        self.segments.iter().map(Segment::length).sum()
    }

    /// How many nodes it has.
    #[must_use]
    pub fn nodes(&self) -> usize {
        self.segments.len() + usize::from(!self.closed)
    }

    /// Its node of a number; an open path has one more than segments.
    #[must_use]
    pub fn node(&self, n: usize) -> Option<Point> {
        match self.segments.get(n) {
            Some(segment) => Some(segment.start()),
            None if n == self.segments.len() && !self.closed => {
                self.segments.last().map(Segment::end)
            }
            None => None,
        }
    }

    /// The least box around it.
    #[must_use]
    pub fn bounds(&self) -> Rect {
        let boxes = self.segments.iter().map(Segment::bounds);
        boxes.reduce(|a, b| a.union(b)).unwrap_or_default()
    }

    /// Moved by a map.
    #[must_use]
    pub fn moved(&self, map: Affine) -> Self {
        let (mut segments, mut strayed) = (Vec::new(), Vec::new());
        for (segment, off) in self.segments.iter().zip(&self.strayed) {
            let parts = segment.moved(map);
            strayed.extend(std::iter::repeat_n(*off, parts.len()));
            segments.extend(parts);
        }
        Self {
            segments,
            strayed,
            closed: self.closed,
        }
    }
}

impl Item {
    /// Its rings, for a shape.
    #[must_use]
    pub fn rings(&self) -> Vec<Ring> {
        match self.kind {
            Kind::Shape => self.paths.iter().filter_map(Path::ring).collect(),
            Kind::Line { .. } => Vec::new(),
        }
    }

    /// The least box around it.
    #[must_use]
    pub fn bounds(&self) -> Rect {
        let boxes = self.paths.iter().map(Path::bounds);
        boxes.reduce(|a, b| a.union(b)).unwrap_or_default()
    }

    /// Area without its holes, mm²; a line has none.
    #[must_use]
    pub fn area(&self) -> f64 {
        match self.kind {
            Kind::Shape => self.paths.iter().map(Path::signed_area).sum(),
            Kind::Line { .. } => 0.0,
        }
    }

    /// Length of its paths, mm.
    #[must_use]
    pub fn length(&self) -> f64 {
        self.paths.iter().map(Path::length).sum()
    }

    /// How many nodes it has.
    #[must_use]
    pub fn nodes(&self) -> usize {
        self.paths.iter().map(Path::nodes).sum()
    }
}

impl Drawing {
    /// The items of a traced design, shapes before lines as they are cut and drawn.
    #[must_use]
    pub fn of(design: &Design) -> Self {
        let mut drawing = Self {
            items: Vec::new(),
            added_inks: Vec::new(),
            artwork_inks: design.inks.len(),
            next: 0,
        };
        for shape in &design.shapes {
            let paths = shape.rings().map(Path::of).collect();
            drawing.add(shape.ink, Kind::Shape, paths);
        }
        for stroke in &design.strokes {
            let path = Path {
                segments: stroke.segments.clone(),
                strayed: stroke.strayed.clone(),
                closed: stroke.closed,
            };
            let pen = stroke.width.mean;
            drawing.add(stroke.ink, Kind::Line { pen }, vec![path]);
        }
        drawing
    }

    /// Puts a new item on top and gives it the next number.
    pub fn add(&mut self, ink: InkId, kind: Kind, paths: Vec<Path>) -> ItemId {
        let id = self.next;
        self.next += 1;
        self.items.push(Item {
            id,
            ink,
            group: None,
            kind,
            paths,
            text: None,
        });
        id
    }

    /// The item of a number.
    #[must_use]
    pub fn item(&self, id: ItemId) -> Option<&Item> {
        self.items.iter().find(|item| item.id == id)
    }

    /// How many inks it knows.
    #[must_use]
    pub fn inks(&self) -> usize {
        self.artwork_inks + self.added_inks.len()
    }

    /// As a design: that of the trace it was made from with these items instead of its own.
    #[must_use]
    pub fn design(&self, traced: &Design, choice: &InkChoice) -> Design {
        let mut design = Design {
            inks: traced.inks.clone(),
            too_wide: traced.too_wide.clone(),
            figures: traced.figures,
            ..Design::empty(traced.size)
        };
        let painted = |colour: Rgb| {
            let found = choice.repainted.iter().rev().find(|r| r.colour == colour);
            found.map_or(colour, |r| r.paint)
        };
        let dropped = |colour: Rgb| {
            let found = choice.switched.iter().rev().find(|s| s.colour == colour);
            found.is_some_and(|s| !s.kept)
        };
        for &colour in &self.added_inks {
            design.inks.push(DesignInk {
                letter: (!dropped(colour)).then(String::new),
                colour,
                paint: painted(colour),
                part_of: None,
                clear: false,
                enclosed: false,
                tone: None,
                share: 0.0,
                area: 0.0,
                shapes: 0,
                strokes: 0,
                nodes: 0,
            });
        }
        for ink in &mut design.inks {
            if dropped(ink.colour) {
                ink.letter = None;
            }
        }
        // An ink that was dropped may be that of something drawn since.
        let used = |n: usize| self.items.iter().any(|i| usize::from(i.ink.0) == n);
        for n in 0..design.inks.len() {
            let ink = &mut design.inks[n];
            if ink.letter.is_none() && used(n) && !dropped(ink.colour) {
                ink.letter = Some(String::new());
            }
        }
        let shown = |ink: InkId| {
            let design_ink = design.inks.get(usize::from(ink.0));
            design_ink.is_some_and(|ink| ink.letter.is_some())
        };
        let items = || self.items.iter().filter(|item| shown(item.ink));
        design.shapes = items().filter_map(shape).collect();
        design.strokes = items().filter_map(stroke).collect();
        shapes::count(&mut design);
        design
    }
}

fn shape(item: &Item) -> Option<Shape> {
    let mut rings = item.rings().into_iter();
    Some(Shape {
        ink: item.ink,
        outer: rings.next()?,
        holes: rings.collect(),
    })
}

fn stroke(item: &Item) -> Option<Stroke> {
    let Kind::Line { pen } = item.kind else {
        return None;
    };
    let path = item.paths.first()?;
    Some(Stroke {
        ink: item.ink,
        segments: path.segments.clone(),
        strayed: path.strayed.clone(),
        deviation: Vec::new(),
        closed: path.closed,
        width: LineWidth {
            mean: pen,
            least: pen,
            greatest: pen,
        },
    })
}
