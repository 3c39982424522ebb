//! Shapes: fitted edges chained into rings, rings nested into shapes, shapes measured.
//!
//! ```text
//!   ┌──────────►┐   An outer ring has positive signed area (clockwise on the screen, y down),
//!   │ ┌◄────┐   │   its holes negative. A shape is one outer ring with its holes; what lies in a
//!   │ ▼ hole│   │   hole is a shape of its own.
//!   │ └────►┘   │
//!   └◄──────────┘
//! ```
//!
//! In: a [`PlanarMap`], its [`FittedMap`], which inks are kept, [`Edges`]. Out: a [`Design`] in mm.
//! Dropping an ink or taking outer edges only is done here, on the map: nothing is traced anew.

mod ring;
mod rings;

use kurbo::{BezPath, Rect, Shape as _};
use serde::{Deserialize, Serialize};

use crate::boundary::PlanarMap;
use crate::centre::{CentreLines, Stroke, TooWide};
use crate::fit::FittedMap;
use crate::inks::{Ink, InkId, Rgb};
use crate::segment::Segment;
use crate::size::Size;

pub use ring::Ring;
pub(crate) use rings::contains;

/// Which edges become outlines.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Edges {
    /// Every edge of every kept ink.
    #[default]
    All,
    /// Only the outermost edge around all kept inks together.
    Outer,
    /// Every shape without its holes.
    Solid,
    /// No edges but the middle of drawn lines; what is too wide to be one keeps its edges.
    CentreLine,
}

/// An outer ring with its holes, of one ink.
#[derive(Clone, Debug, PartialEq)]
pub struct Shape {
    /// Its ink.
    pub ink: InkId,
    /// The outer ring.
    pub outer: Ring,
    /// Its holes.
    pub holes: Vec<Ring>,
}

impl Shape {
    /// Every ring, the outer one first.
    pub fn rings(&self) -> impl Iterator<Item = &Ring> {
        std::iter::once(&self.outer).chain(&self.holes)
    }

    /// Area without the holes, mm².
    #[must_use]
    pub fn area(&self) -> f64 {
        self.rings().map(Ring::signed_area).sum()
    }

    /// All rings as one path for the even-odd or the non-zero rule.
    #[must_use]
    pub fn path(&self) -> BezPath {
        self.rings().flat_map(|r| r.path().into_iter()).collect()
    }
}

/// One ink of a design.
#[derive(Clone, Debug, PartialEq)]
pub struct DesignInk {
    /// Its letter, A to Z, then AA; `None` while dropped.
    pub letter: Option<String>,
    /// Its colour in the artwork.
    pub colour: Rgb,
    /// The colour it is drawn and cut in.
    pub paint: Rgb,
    /// The ink it counts as, where it was merged into another.
    pub part_of: Option<InkId>,
    /// Whether it is transparency.
    pub clear: bool,
    /// Whether it is enclosed ground that was kept.
    pub enclosed: bool,
    /// Of tones: how many lie below it when they are laid on each other.
    pub tone: Option<u8>,
    /// Part of the picture, 0 to 1.
    pub share: f64,
    /// Area of its shapes, or of its pixels while dropped, mm².
    pub area: f64,
    /// Its shapes.
    pub shapes: usize,
    /// Its stroke lines.
    pub strokes: usize,
    /// Nodes of its shapes and strokes.
    pub nodes: usize,
}

impl DesignInk {
    /// Whether it is kept and there is anything of it: not where all of its parts were taken for specks.
    #[must_use]
    pub fn is_cut(&self) -> bool {
        self.letter.is_some() && (self.share > 0.0 || self.shapes + self.strokes > 0)
    }
}

/// Distances between outlines and the artwork's sub-pixel edge, mm.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize)]
pub struct Deviation {
    /// Mean of all boundary points.
    pub mean: f64,
    /// 95 % of the points are nearer than this.
    pub p95: f64,
    /// The greatest.
    pub max: f64,
}

/// Segments by kind.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
pub struct SegmentCount {
    /// Straight lines.
    pub line: usize,
    /// Circular arcs.
    pub arc: usize,
    /// Cubics.
    pub cubic: usize,
}

/// What is always in sight: counts and measures, computed from the geometry.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Figures {
    /// Shapes.
    pub shapes: usize,
    /// Rings of all shapes.
    pub rings: usize,
    /// Stroke lines.
    pub strokes: usize,
    /// Nodes of all rings (as many as segments, since rings are closed) and strokes.
    pub nodes: usize,
    /// Segments by kind.
    pub segments: SegmentCount,
    /// Off the edge.
    pub deviation: Deviation,
    /// Area of the smallest shape, mm²; `None` without shapes.
    pub smallest_part: Option<f64>,
    /// Length of all rings and strokes, mm.
    pub cut_length: f64,
}

/// Closed outlines at the finished size, by ink.
#[derive(Clone, Debug, PartialEq)]
pub struct Design {
    /// Finished size of the whole artwork.
    pub size: Size,
    /// Inks by number, dropped ones too.
    pub inks: Vec<DesignInk>,
    /// Shapes, by ink and then from the top.
    pub shapes: Vec<Shape>,
    /// Stroke lines, by ink and then from the top.
    pub strokes: Vec<Stroke>,
    /// What is too wide to be a stroke line.
    pub too_wide: Vec<TooWide>,
    /// Counts and measures.
    pub figures: Figures,
}

impl Design {
    /// A page of a size with nothing on it.
    #[must_use]
    pub fn empty(size: Size) -> Self {
        Self {
            size,
            inks: Vec::new(),
            shapes: Vec::new(),
            strokes: Vec::new(),
            too_wide: Vec::new(),
            figures: Figures::default(),
        }
    }

    /// Whether there is nothing to cut or to draw.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.shapes.is_empty() && self.strokes.is_empty()
    }

    /// The box around all shapes and strokes, mm; `None` without any.
    #[must_use]
    pub fn bounds(&self) -> Option<Rect> {
        let shapes = self.shapes.iter().map(|s| s.outer.path());
        let paths = shapes.chain(self.strokes.iter().map(Stroke::path));
        paths.map(|p| p.bounding_box()).reduce(|a, b| a.union(b))
    }
}

/// What a design is put together from.
#[derive(Clone, Copy, Debug)]
pub struct Parts<'a> {
    /// The map.
    pub map: &'a PlanarMap,
    /// Its curves.
    pub fitted: &'a FittedMap,
    /// Every ink.
    pub inks: &'a [Ink],
    /// Which of them are kept.
    pub kept: &'a [bool],
    /// The colour each is drawn and cut in.
    pub paints: &'a [Rgb],
    /// The ink each counts as.
    pub counts_as: &'a [InkId],
    /// The stroke lines, for [`Edges::CentreLine`].
    pub centre: Option<&'a CentreLines>,
}

/// Chains, nests and measures.
#[must_use]
pub(crate) fn assemble(parts: Parts<'_>, edges: Edges, size: Size) -> Design {
    let Parts { map, kept, .. } = parts;
    let (shapes, used) = rings::shapes(parts, edges);
    let (strokes, too_wide) = match parts.centre {
        Some(centre) => (centre.strokes.clone(), centre.too_wide.clone()),
        None => (Vec::new(), Vec::new()),
    };
    let figures = Figures {
        deviation: deviation(&strokes, parts.fitted, &used),
        ..counted(&shapes, &strokes)
    };
    let px_area =
        size.width.get() * size.height.get() / (f64::from(map.width) * f64::from(map.height));
    let total: u64 = map.ink_px.iter().sum();
    let mut letters = 0;
    let ink = |(i, ink): (usize, &Ink)| {
        let of_ink = || shapes.iter().filter(|s| usize::from(s.ink.0) == i);
        let own_strokes = || strokes.iter().filter(|s| usize::from(s.ink.0) == i);
        let letter = kept[i].then(|| {
            letters += 1;
            letter(letters - 1)
        });
        // Strokes have no area: what their ink covers is told.
        let area = if kept[i] && parts.centre.is_none() {
            of_ink().map(Shape::area).sum()
        } else {
            map.ink_px[i] as f64 * px_area
        };
        let rings = of_ink().flat_map(Shape::rings);
        let nodes = rings.map(|r| r.segments.len()).sum::<usize>();
        DesignInk {
            letter,
            colour: ink.colour,
            paint: parts.paints[i],
            part_of: Some(parts.counts_as[i]).filter(|c| usize::from(c.0) != i),
            clear: ink.clear,
            enclosed: ink.enclosed,
            tone: ink.tone,
            share: map.ink_px[i] as f64 / total as f64,
            area,
            shapes: of_ink().count(),
            strokes: own_strokes().count(),
            nodes: nodes + own_strokes().map(Stroke::nodes).sum::<usize>(),
        }
    };
    let inks = parts.inks.iter().enumerate().map(ink).collect();
    Design {
        size,
        inks,
        shapes,
        strokes,
        too_wide,
        figures,
    }
}

/// A, B, … Z, AA, AB, …
fn letter(n: usize) -> String {
    let last = char::from(b'A' + (n % 26) as u8);
    if n < 26 {
        last.to_string()
    } else {
        format!("{}{last}", letter(n / 26 - 1))
    }
}

/// Counts and measures of a design whose shapes and strokes were changed; how far they lie off the
/// artwork's edge stays what was measured when they were traced.
pub(crate) fn count(design: &mut Design) {
    let mut letters = 0;
    let (shapes, strokes) = (&design.shapes, &design.strokes);
    for (n, ink) in design.inks.iter_mut().enumerate() {
        let of_ink = || shapes.iter().filter(|s| usize::from(s.ink.0) == n);
        let lines = || strokes.iter().filter(|s| usize::from(s.ink.0) == n);
        if ink.letter.is_some() {
            ink.letter = Some(letter(letters));
            letters += 1;
            if lines().next().is_none() {
                ink.area = of_ink().map(Shape::area).sum();
            }
        }
        let rings = of_ink().flat_map(Shape::rings);
        ink.shapes = of_ink().count();
        ink.strokes = lines().count();
        ink.nodes = rings.map(|r| r.segments.len()).sum::<usize>()
            + lines().map(Stroke::nodes).sum::<usize>();
    }
    design.figures = Figures {
        deviation: design.figures.deviation,
        ..counted(shapes, strokes)
    };
}

/// Counts and measures, all but how far they lie off.
fn counted(shapes: &[Shape], strokes: &[Stroke]) -> Figures {
    let mut figures = Figures {
        shapes: shapes.len(),
        strokes: strokes.len(),
        ..Figures::default()
    };
    let mut kinds = SegmentCount::default();
    let mut count = |segments: &[Segment]| {
        for segment in segments {
            match segment {
                Segment::Line(_) => kinds.line += 1,
                Segment::Arc(_) => kinds.arc += 1,
                Segment::Cubic(_) => kinds.cubic += 1,
            }
        }
    };
    for ring in shapes.iter().flat_map(Shape::rings) {
        figures.rings += 1;
        figures.nodes += ring.segments.len();
        figures.cut_length += ring.length();
        count(&ring.segments);
    }
    for stroke in strokes {
        figures.nodes += stroke.nodes();
        figures.cut_length += stroke.length();
        count(&stroke.segments);
    }
    figures.segments = kinds;
    figures.smallest_part = shapes.iter().map(Shape::area).min_by(f64::total_cmp);
    figures
}

/// How far the used edges and the strokes lie off.
fn deviation(strokes: &[Stroke], fitted: &FittedMap, used: &[bool]) -> Deviation {
    let mut distances: Vec<f32> = fitted
        .edges
        .iter()
        .zip(used)
        .filter(|(_, used)| **used)
        .flat_map(|(edge, _)| edge.deviation.iter().copied())
        .chain(strokes.iter().flat_map(|s| s.deviation.iter().copied()))
        .collect();
    distances.sort_unstable_by(f32::total_cmp);
    let Some(&max) = distances.last() else {
        return Deviation::default();
    };
    let sum: f64 = distances.iter().map(|&d| f64::from(d)).sum();
    let p95 = distances[((distances.len() - 1) as f64 * 0.95).ceil() as usize];
    Deviation {
        mean: sum / distances.len() as f64,
        p95: p95.into(),
        max: max.into(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_go_on_after_z() {
        assert_eq!(
            [0, 25, 26, 51, 52].map(letter),
            ["A", "Z", "AA", "AZ", "BA"]
        );
    }

    #[test]
    fn a_ring_closes_exactly_even_where_its_segments_nearly_meet() {
        let line = |a: (f64, f64), b: (f64, f64)| Segment::Line(kurbo::Line::new(a, b));
        let ring = Ring::new(
            vec![
                line((0.0, 0.0), (2.0, 0.0)),
                line((2.0, 1e-12), (2.0, 1.0)),
                line((2.0, 1.0), (0.0, 1e-12)),
            ],
            Vec::new(),
        )
        .unwrap();
        assert_eq!(ring.segments()[0].start(), ring.segments()[2].end());
        assert!(
            (ring.signed_area() - 1.0).abs() < 1e-9,
            "clockwise on the screen is positive"
        );
    }
}
