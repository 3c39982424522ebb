//! Build: inks as layers of material, meeting as they are asked to.
//!
//! ```text
//!   Design ──by ink, from the bottom──► layers ──meet──► layers that overlap ──insert, sheet──► parts ──kerf──► lines
//! ```
//!
//! In: a [`Design`] and a [`LayerChoice`]. Out: [`Built`], the parts that will be in hand at their
//! true size, and the lines that the tool follows. mm, y down, as designed: mirroring and the place on
//! the stock are told beside it ([`Built::on_stock`]).
//!
//! *Held*: an upper layer is never changed by how it meets a lower one; a lower one grows only under
//! upper ones; rings neither cross themselves nor each other.

pub mod bridge;
mod design;
mod meet;
mod registration;
mod tone_colours;

use kurbo::{Affine, Circle, Rect};
use rayon::prelude::*;

pub use design::{page, with_bridges};

use crate::centre::Stroke;
use crate::inks::{InkId, Rgb};
use crate::layers::{BORDER, LayerChoice};
use crate::material::{Material, Operation};
use crate::offset::{self, Join};
use crate::overlay::{self, Keep, Rings};
use crate::segment::Segment;
use crate::shapes::{Design, Ring, Shape};
use crate::size::Size;
use crate::stones::StoneLayer;

/// A layer of material with all its parts.
#[derive(Clone, Debug, PartialEq)]
pub struct Layer {
    /// The ink it is made from.
    pub ink: InkId,
    /// The colour that names the ink.
    pub colour: Rgb,
    /// Letter of the ink.
    pub letter: String,
    /// How it looks: the colour in stock, else the ink's own.
    pub paint: Rgb,
    /// Name of the colour in stock.
    pub stock_colour: Option<String>,
    /// What it is cut from.
    pub material: Material,
    /// What is done.
    pub operation: Operation,
    /// Whether the bench shows it.
    pub show: bool,
    /// Whether it is sent to the machine.
    pub cut: bool,
    /// For an insert: how much smaller it is than its hole, mm across.
    pub clearance: Option<f64>,
    /// For stones: what they are set with. Its parts are the stones, its lines the holes of a template.
    pub stones: Option<StoneLayer>,
    /// Of tones: how many lie below it.
    pub tone: Option<u8>,
    /// Its parts at their true size.
    pub shapes: Vec<Shape>,
    /// What was added where it reaches under others.
    pub under: Vec<Rings>,
    /// Lines.
    pub strokes: Vec<Stroke>,
    /// Shapes by which it is laid over others.
    pub registration: Vec<Ring>,
    /// The lines that the tool follows, where they lie off the edges of the parts by half the kerf.
    pub moved_lines: Option<Vec<Shape>>,
    /// For a sheet: which of the shapes fall out of it.
    pub islands: Vec<usize>,
    /// Whether the parts are the sheet that the design is cut out of.
    pub sheet: bool,
}

/// All layers from the bottom.
#[derive(Clone, Debug, PartialEq)]
pub struct Built {
    /// The layers, the lowest first.
    pub layers: Vec<Layer>,
    /// Finished size of the whole artwork.
    pub size: Size,
    /// Whether it is cut mirrored.
    pub mirrored: bool,
    /// The box around all that is cut, mm; empty without anything.
    pub bounds: Rect,
}

impl Layer {
    /// The closed lines that the tool follows, as shapes.
    #[must_use]
    pub fn lines(&self) -> &[Shape] {
        self.moved_lines.as_deref().unwrap_or(&self.shapes)
    }

    /// Whether there is nothing on it.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.shapes.is_empty() && self.strokes.is_empty()
    }

    /// Every ring of the parts.
    pub fn rings(&self) -> impl Iterator<Item = &Ring> {
        self.shapes.iter().flat_map(Shape::rings)
    }

    /// Whether it lies on others as a film or a plate of its own, not as marks on one, let in, or as a template.
    #[must_use]
    pub fn lies(&self) -> bool {
        let own = self.clearance.is_none() && self.stones.is_none();
        self.operation.cuts() && self.cut && own
    }

    /// The stones of a layer of them.
    pub fn stones_set(&self) -> impl Iterator<Item = Circle> {
        let set = self.stones.as_ref().map_or(&[][..], |_| &self.shapes);
        set.iter().map(|s| {
            let b = s.outer.bounds();
            Circle::new(b.center(), (b.width() + b.height()) / 4.0)
        })
    }

    /// The box around all that is cut of it.
    #[must_use]
    pub fn bounds(&self) -> Option<Rect> {
        let rings = self.lines().iter().map(|s| s.outer.bounds());
        let marks = self.registration.iter().map(Ring::bounds);
        let strokes = self.strokes.iter();
        let strokes = strokes.flat_map(|s| s.segments.iter().map(Segment::bounds));
        rings.chain(marks).chain(strokes).reduce(|a, b| a.union(b))
    }

    /// Length of all lines, mm.
    #[must_use]
    pub fn length(&self) -> f64 {
        let rings = self.lines().iter().flat_map(Shape::rings);
        rings
            .chain(&self.registration)
            .map(Ring::length)
            .sum::<f64>()
            + self.strokes.iter().map(Stroke::length).sum::<f64>()
    }

    /// Area of its parts, mm².
    #[must_use]
    pub fn area(&self) -> f64 {
        self.shapes.iter().map(Shape::area).sum()
    }
}

impl Built {
    /// The layers that are sent to the machine.
    pub fn cut(&self) -> impl Iterator<Item = &Layer> {
        self.layers.iter().filter(|l| l.cut)
    }

    /// From the design to the stock: mirrored where it is cut from behind, its box at `place`.
    #[must_use]
    pub fn on_stock(&self, place: [f64; 2]) -> Affine {
        let b = self.bounds;
        let turned = if self.mirrored {
            Affine::translate((b.x0 + b.x1, 0.0)) * Affine::scale_non_uniform(-1.0, 1.0)
        } else {
            Affine::IDENTITY
        };
        Affine::translate((place[0] - b.x0, place[1] - b.y0)) * turned
    }
}

/// The inks that are kept and drawn with, from the bottom.
#[must_use]
pub fn order(design: &Design, choice: &LayerChoice) -> Vec<InkId> {
    let solid = |n: usize| {
        let of_ink = design.shapes.iter().filter(|s| usize::from(s.ink.0) == n);
        of_ink.map(|s| s.outer.signed_area()).sum::<f64>()
    };
    let mut all: Vec<(Option<usize>, Option<u8>, f64, InkId)> = Vec::new();
    for (n, ink) in design.inks.iter().enumerate() {
        // The lightest tone of a stencil is the sheet itself.
        let sheet = ink.tone == Some(0) && choice.negative();
        // An ink whose pieces are all on other layers is no layer.
        if !sheet && ink.letter.is_some() && ink.shapes + ink.strokes > 0 {
            let named = choice.order.iter().position(|&c| c == ink.colour);
            all.push((named, ink.tone, solid(n), InkId(n as u8)));
        }
    }
    // New inks lie on top of those that were put in order by hand; tones lie from the lightest.
    all.sort_by(|a, b| {
        let named = |x: &Option<usize>| x.unwrap_or(usize::MAX);
        named(&a.0)
            .cmp(&named(&b.0))
            .then(a.1.cmp(&b.1))
            .then(b.2.total_cmp(&a.2))
            .then(a.3.cmp(&b.3))
    });
    all.into_iter().map(|(.., ink)| ink).collect()
}

/// Makes the layers of a design.
#[must_use]
pub fn build(design: &Design, choice: &LayerChoice) -> Built {
    let mut plain: Vec<Layer> = order(design, choice)
        .into_iter()
        .map(|ink| plain(design, choice, ink))
        .collect();
    tone_colours::given(&mut plain, choice);
    let met: Vec<meet::Met> = (0..plain.len())
        .into_par_iter()
        .map(|n| meet::met(&plain, n, choice))
        .collect();
    let mut layers = plain;
    for (layer, met) in layers.iter_mut().zip(met) {
        if let Some(shapes) = met.shapes {
            layer.shapes = shapes;
        }
        layer.under = met.under;
    }
    let around = layers.iter().filter_map(Layer::bounds);
    let around = around.reduce(|a, b| a.union(b)).unwrap_or_default();
    let marks = match &choice.registration {
        Some(r) if !around.is_zero_area() => registration::marks(around, *r),
        _ => Vec::new(),
    };
    let frame = Frame {
        around,
        marks: &marks,
        choice,
        size: design.size,
    };
    layers.par_iter_mut().for_each(|layer| frame.finish(layer));
    let bounds = layers.iter().filter(|l| l.cut).filter_map(Layer::bounds);
    let bounds = bounds.reduce(|a, b| a.union(b)).unwrap_or(around);
    Built {
        layers,
        size: design.size,
        mirrored: choice.mirrored(),
        bounds,
    }
}

/// The layer of an ink as it was designed.
fn plain(design: &Design, choice: &LayerChoice, id: InkId) -> Layer {
    let ink = &design.inks[usize::from(id.0)];
    let set = choice.of(ink.colour);
    let material = choice.material_of(ink.colour);
    let chosen = set.colour.as_ref();
    let stock = material
        .colours
        .iter()
        .find(|c| Some(&c.name) == chosen)
        .or_else(|| material.nearest(ink.paint))
        .cloned();
    Layer {
        ink: id,
        colour: ink.colour,
        letter: ink.letter.clone().unwrap_or_default(),
        paint: stock.as_ref().map_or(ink.paint, |c| c.colour),
        stock_colour: stock.map(|c| c.name),
        operation: set.operation.unwrap_or(material.operation),
        material,
        show: set.show,
        cut: set.cut,
        clearance: set.clearance,
        stones: set.stones,
        tone: ink.tone,
        shapes: design
            .shapes
            .iter()
            .filter(|s| s.ink == id)
            .cloned()
            .collect(),
        under: Vec::new(),
        strokes: design
            .strokes
            .iter()
            .filter(|s| s.ink == id)
            .cloned()
            .collect(),
        registration: Vec::new(),
        moved_lines: None,
        islands: Vec::new(),
        sheet: false,
    }
}

/// What all layers share when they are finished.
struct Frame<'a> {
    around: Rect,
    marks: &'a [Ring],
    choice: &'a LayerChoice,
    size: Size,
}

impl Frame<'_> {
    /// The template of a layer of stones: a hole for each, wider than it, and narrower by what the tool takes away.
    fn holes(&self, layer: &mut Layer) {
        let kerf = self.kerf(layer);
        let wider = layer.stones.as_ref().map_or(0.0, |s| s.wider) - kerf;
        let hole = |stone: Circle| Ring::circle(stone.center, stone.radius + wider / 2.0);
        let holes = layer.stones_set().filter_map(hole);
        let shape = |outer: Ring| Shape {
            ink: layer.ink,
            outer,
            holes: Vec::new(),
        };
        layer.moved_lines = Some(holes.map(shape).collect());
    }

    /// How much the tool takes away of a layer that is cut through, where its lines are moved for that, mm.
    fn kerf(&self, layer: &Layer) -> f64 {
        let through = layer.operation == Operation::CutThrough;
        if through && self.choice.kerf != Some(false) {
            layer.material.kerf
        } else {
            0.0
        }
    }

    /// Inserts shrink, sheets are turned inside out, lines are moved by half the kerf.
    fn finish(&self, layer: &mut Layer) {
        let cuts = layer.operation.cuts();
        if layer.stones.is_some() {
            self.holes(layer);
            return;
        }
        if let Some(clearance) = layer.clearance.filter(|c| c.abs() > 1e-9) {
            let rings: Vec<&Ring> = layer.rings().collect();
            let found = offset::offset(&rings, -clearance / 2.0, Join::Mitre);
            layer.shapes = shapes(layer.ink, found);
        }
        if self.choice.negative() && cuts && !layer.shapes.is_empty() {
            self.turn_out(layer);
        } else if cuts {
            layer.registration = self.marks.to_vec();
        }
        let half = self.kerf(layer) / 2.0;
        if half > 0.0 {
            let rings: Vec<&Ring> = layer.rings().collect();
            let found = offset::offset(&rings, half, Join::Mitre);
            layer.moved_lines = Some(shapes(layer.ink, found));
        }
    }

    /// The sheet that is left when the layer's shapes are cut out of it.
    fn turn_out(&self, layer: &mut Layer) {
        let border = self.choice.border.unwrap_or(BORDER);
        let border = self
            .choice
            .registration
            .map_or(border, |r| border.max(2.0 * r.gap + r.size));
        let plate = rectangle(self.around.inflate(border, border));
        let strips = bridge::strips(&self.choice.bridges, self.size);
        let held = bridge::held(&layer.shapes, &strips);
        let cutters: Vec<&Ring> = held.iter().flat_map(Rings::all).chain(self.marks).collect();
        let found = overlay::overlay(&[&plate], &cutters, Keep::Difference);
        layer.shapes = shapes(layer.ink, found);
        let whole = self.around.inflate(border / 2.0, border / 2.0);
        layer.islands = (0..layer.shapes.len())
            .filter(|&n| {
                let b = layer.shapes[n].outer.bounds();
                b.width() < whole.width() || b.height() < whole.height()
            })
            .collect();
        layer.sheet = true;
    }
}

pub(crate) fn shapes(ink: InkId, found: Vec<Rings>) -> Vec<Shape> {
    let shape = |r: Rings| Shape {
        ink,
        outer: r.outer,
        holes: r.holes,
    };
    found.into_iter().map(shape).collect()
}

/// A box as a ring.
pub(crate) fn rectangle(r: Rect) -> Ring {
    let corners = [(r.x0, r.y0), (r.x1, r.y0), (r.x1, r.y1), (r.x0, r.y1)];
    let points = corners.map(kurbo::Point::from);
    polygon(&points)
}

/// Points as a ring, joined straight; there are at least three.
pub(crate) fn polygon(points: &[kurbo::Point]) -> Ring {
    let sides = (0..points.len()).map(|n| {
        let next = points[(n + 1) % points.len()];
        Segment::Line(kurbo::Line::new(points[n], next))
    });
    Ring::closed(sides.collect())
}
