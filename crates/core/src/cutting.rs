//! What is cut: the lines of one page, by layer. Every file that leaves the program is written from it.
//!
//! ```text
//!   Built ──of──► Cutting ──moved, trimmed──► Cutting ──► SVG, DXF, PDF, PNG
//!   Sheet ──────►    │
//!                    └──plan──► Plan ──► HPGL, G-code
//! ```
//!
//! mm, y down, from the page's upper left corner. Outer rings have positive area, holes negative.

use kurbo::{Affine, BezPath, Rect};

use crate::assembly::{self, Built};
use crate::inks::Rgb;
use crate::material::{Material, Operation};
use crate::overlay::Rings;
use crate::projective::Projective;
use crate::segment::Segment;
use crate::shapes::{Design, Ring, Shape};

/// An open line, or a closed one that is no edge of a shape.
#[derive(Clone, Debug, PartialEq)]
pub struct CutLine {
    /// Its pieces, end to end; at least one.
    pub segments: Vec<Segment>,
    /// Whether it ends where it begins.
    pub closed: bool,
    /// How wide it is drawn, mm.
    pub width: f64,
}

/// Everything of one layer.
#[derive(Clone, Debug, PartialEq)]
pub struct CutLayer {
    /// What it is called in files: its letter, colour and operation.
    pub name: String,
    /// Letter of its ink.
    pub letter: String,
    /// The colour it is drawn in.
    pub colour: Rgb,
    /// What it is cut from.
    pub material: Material,
    /// Name of the colour in stock.
    pub stock_colour: Option<String>,
    /// What is done.
    pub operation: Operation,
    /// Its shapes.
    pub shapes: Vec<Rings>,
    /// Its lines.
    pub lines: Vec<CutLine>,
}

/// The lines of one page.
#[derive(Clone, Debug, PartialEq)]
pub struct Cutting {
    /// Width and height of the page, mm.
    pub size: [f64; 2],
    /// Its layers, the lowest first.
    pub layers: Vec<CutLayer>,
}

impl CutLine {
    /// Length, mm.
    #[must_use]
    pub fn length(&self) -> f64 {
        self.segments.iter().map(Segment::length).sum()
    }

    /// As a path; arcs as cubics.
    #[must_use]
    pub fn path(&self) -> BezPath {
        let mut path = BezPath::new();
        path.move_to(self.segments[0].start());
        for element in self.segments.iter().flat_map(Segment::elements) {
            path.push(element);
        }
        if self.closed {
            path.close_path();
        }
        path
    }

    fn moved(&self, map: Affine) -> Self {
        Self {
            segments: moved(&self.segments, map),
            closed: self.closed,
            width: self.width * map.determinant().abs().sqrt(),
        }
    }
}

impl CutLayer {
    /// Every ring of its shapes.
    pub fn rings(&self) -> impl Iterator<Item = &Ring> {
        self.shapes.iter().flat_map(Rings::all)
    }

    /// Whether there is nothing on it.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.shapes.is_empty() && self.lines.is_empty()
    }

    /// Length of all lines, mm.
    #[must_use]
    pub fn length(&self) -> f64 {
        let rings: f64 = self.rings().map(Ring::length).sum();
        rings + self.lines.iter().map(CutLine::length).sum::<f64>()
    }

    /// The box around all of it, mm.
    #[must_use]
    pub fn bounds(&self) -> Option<Rect> {
        let rings = self.shapes.iter().map(|s| s.outer.bounds());
        let lines = self.lines.iter().flat_map(|l| &l.segments);
        rings
            .chain(lines.map(Segment::bounds))
            .reduce(|a, b| a.union(b))
    }

    /// The same, moved; rings keep their sense when they are mirrored.
    #[must_use]
    pub fn moved(&self, map: Affine) -> Self {
        let shape = |s: &Rings| Rings {
            outer: moved_ring(&s.outer, map, true),
            holes: s.holes.iter().map(|h| moved_ring(h, map, false)).collect(),
        };
        Self {
            shapes: self.shapes.iter().map(shape).collect(),
            lines: self.lines.iter().map(|l| l.moved(map)).collect(),
            ..self.empty()
        }
    }

    /// The same layer with nothing on it.
    #[must_use]
    pub fn empty(&self) -> Self {
        Self {
            name: self.name.clone(),
            letter: self.letter.clone(),
            colour: self.colour,
            material: self.material.clone(),
            stock_colour: self.stock_colour.clone(),
            operation: self.operation,
            shapes: Vec::new(),
            lines: Vec::new(),
        }
    }

    /// The lines of a built layer, moved; `paint` is how its ink is drawn.
    #[must_use]
    pub fn of(layer: &assembly::Layer, paint: Rgb, map: Affine) -> Self {
        let rings = |s: &Shape| Rings {
            outer: moved_ring(&s.outer, map, true),
            holes: s.holes.iter().map(|h| moved_ring(h, map, false)).collect(),
        };
        let marks = layer.registration.iter().map(|r| Rings {
            outer: moved_ring(r, map, true),
            holes: Vec::new(),
        });
        let lines = layer.strokes.iter().map(|s| CutLine {
            segments: moved(&s.segments, map),
            closed: s.closed,
            width: s.width.mean,
        });
        let colour = layer.stock_colour.clone();
        Self {
            name: [
                layer.letter.clone(),
                colour.clone().unwrap_or_else(|| paint.to_string()),
                layer.operation.word().to_owned(),
            ]
            .join(" "),
            letter: layer.letter.clone(),
            colour: paint,
            material: layer.material.clone(),
            stock_colour: colour,
            operation: layer.operation,
            shapes: layer.lines().iter().map(rings).chain(marks).collect(),
            lines: lines.collect(),
        }
    }
}

impl Cutting {
    /// The lines that are cut of a design, in its place: layers that are switched off are left out,
    /// what is cut from behind is mirrored, and the page grows where something lies outside it.
    #[must_use]
    pub fn of(design: &Design, built: &Built) -> Self {
        let page = assembly::page(design, built);
        let turned = if built.mirrored {
            mirror(page)
        } else {
            Affine::IDENTITY
        };
        let map = Affine::translate((-page.x0, -page.y0)) * turned;
        let paint = |l: &assembly::Layer| design.inks[usize::from(l.ink.0)].paint;
        Self {
            size: [page.width(), page.height()],
            layers: built
                .cut()
                .map(|l| CutLayer::of(l, paint(l), map))
                .collect(),
        }
    }

    /// Whether there is nothing to cut.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.layers.iter().all(CutLayer::is_empty)
    }

    /// The box around all lines, mm.
    #[must_use]
    pub fn bounds(&self) -> Option<Rect> {
        let all = self.layers.iter().filter_map(CutLayer::bounds);
        all.reduce(|a, b| a.union(b))
    }

    /// Length of all lines, mm.
    #[must_use]
    pub fn length(&self) -> f64 {
        self.layers.iter().map(CutLayer::length).sum()
    }

    /// All layers moved; the page stays.
    #[must_use]
    pub fn moved(&self, map: Affine) -> Self {
        Self {
            size: self.size,
            layers: self.layers.iter().map(|l| l.moved(map)).collect(),
        }
    }

    /// All layers seen by a projective map, curves within `tolerance` mm; the page stays.
    #[must_use]
    pub fn seen(&self, map: &Projective, tolerance: f64) -> Self {
        let segments = |all: &[Segment]| -> Vec<Segment> {
            all.iter().flat_map(|s| s.seen(map, tolerance)).collect()
        };
        let ring = |ring: &Ring| Ring::new(segments(ring.segments()), Vec::new());
        let shape = |s: &Rings| {
            Some(Rings {
                outer: ring(&s.outer)?,
                holes: s.holes.iter().filter_map(ring).collect(),
            })
        };
        let layer = |l: &CutLayer| CutLayer {
            shapes: l.shapes.iter().filter_map(shape).collect(),
            lines: l
                .lines
                .iter()
                .map(|line| CutLine {
                    segments: segments(&line.segments),
                    ..line.clone()
                })
                .collect(),
            ..l.empty()
        };
        Self {
            size: self.size,
            layers: self.layers.iter().map(layer).collect(),
        }
    }

    /// Mirrored left to right within the page.
    #[must_use]
    pub fn mirrored(&self) -> Self {
        self.moved(mirror(Rect::new(0.0, 0.0, self.size[0], self.size[1])))
    }

    /// The page cut down to what is drawn.
    #[must_use]
    pub fn trimmed(&self) -> Self {
        match self.bounds() {
            Some(b) => Self {
                size: [b.width(), b.height()],
                ..self.moved(Affine::translate((-b.x0, -b.y0)))
            },
            None => self.clone(),
        }
    }

    /// The page with its layers of one kind alone.
    #[must_use]
    pub fn only(&self, keep: impl Fn(&CutLayer) -> bool) -> Self {
        Self {
            size: self.size,
            layers: self.layers.iter().filter(|l| keep(l)).cloned().collect(),
        }
    }

    /// Pages one below the other, `gap` mm apart.
    #[must_use]
    pub fn below(pages: &[Self], gap: f64) -> Self {
        let mut whole = Self {
            size: [0.0, 0.0],
            layers: Vec::new(),
        };
        for (n, page) in pages.iter().enumerate() {
            let down = whole.size[1] + if n > 0 { gap } else { 0.0 };
            let moved = page.moved(Affine::translate((0.0, down)));
            whole.layers.extend(moved.layers);
            whole.size = [whole.size[0].max(page.size[0]), down + page.size[1]];
        }
        whole
    }

    /// Evenly larger or smaller, page and lines.
    #[must_use]
    pub fn scaled(&self, scale: f64) -> Self {
        Self {
            size: self.size.map(|side| side * scale),
            ..self.moved(Affine::scale(scale))
        }
    }
}

/// Left to right about the middle of a box.
fn mirror(b: Rect) -> Affine {
    Affine::translate((b.x0 + b.x1, 0.0)) * Affine::scale_non_uniform(-1.0, 1.0)
}

fn moved(segments: &[Segment], map: Affine) -> Vec<Segment> {
    segments.iter().flat_map(|s| s.moved(map)).collect()
}

/// A ring moved, its sense that of an outer ring or of a hole.
pub(crate) fn moved_ring(ring: &Ring, map: Affine, outer: bool) -> Ring {
    let turned = Ring::closed(moved(ring.segments(), map));
    if (turned.signed_area() > 0.0) == outer {
        turned
    } else {
        turned.reversed()
    }
}
