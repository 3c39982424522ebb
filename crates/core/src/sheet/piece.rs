//! Pieces: what is laid out as one, with its outline.
//!
//! ```text
//!   ┌──────┐  A piece's own place: the box around its lines begins at 0, 0. It is turned about that
//!   │ ◣  ○ │  corner of the turned box, so a spot is always the upper left corner of what is seen.
//!   └──────┘
//! ```

use kurbo::{Affine, Point, Rect, Vec2};

use crate::cutting::CutLayer;
use crate::overlay::Rings;
use crate::segment::Segment;
use crate::shapes::Ring;

/// Where a piece lies: the upper left corner of its turned box on the stock, mm, and its turn, degrees
/// clockwise.
#[derive(Clone, Copy, Debug, Default, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Spot {
    /// From the left edge of the stock, mm.
    pub x: f64,
    /// From its upper edge, mm.
    pub y: f64,
    /// Degrees clockwise.
    #[serde(default)]
    pub turn: f64,
}

/// Lines that are laid out together.
#[derive(Clone, Debug, PartialEq)]
pub struct Piece {
    /// Its layers, in its own place.
    pub layers: Vec<CutLayer>,
    /// Width and height, mm.
    pub size: [f64; 2],
    /// Area inside its outer rings, mm².
    pub area: f64,
    /// Closed lines as points, for telling what lies where.
    pub outline: Vec<Vec<Point>>,
    /// Open lines as points.
    pub open: Vec<Vec<Point>>,
}

/// Chords of outlines err by at most this, mm.
pub const TOLERANCE: f64 = 0.02;

impl Piece {
    /// Layers as one piece; `None` where nothing is on them.
    #[must_use]
    pub fn of(layers: &[CutLayer]) -> Option<Self> {
        let bounds = layers.iter().filter_map(CutLayer::bounds);
        let b = bounds.reduce(|a, b| a.union(b))?;
        let to_corner = Affine::translate((-b.x0, -b.y0));
        let layers: Vec<CutLayer> = layers.iter().map(|l| l.moved(to_corner)).collect();
        let closed = layers.iter().flat_map(CutLayer::rings);
        let closed_lines = |closed: bool| {
            let lines = layers.iter().flat_map(|l| &l.lines);
            lines.filter(move |l| l.closed == closed)
        };
        let outline = closed
            .map(Ring::segments)
            .chain(closed_lines(true).map(|l| l.segments.as_slice()));
        let area = layers
            .iter()
            .map(|l| l.shapes.iter().map(|s| s.outer.signed_area()).sum::<f64>())
            .fold(0.0, f64::max);
        Some(Self {
            size: [b.width(), b.height()],
            area,
            outline: outline.map(flattened).collect(),
            open: closed_lines(false)
                .map(|l| flattened(&l.segments))
                .collect(),
            layers,
        })
    }

    /// From the piece's own place to a spot.
    #[must_use]
    pub fn to(&self, spot: Spot) -> Affine {
        let turn = turn(spot.turn);
        let box_ = turn.transform_rect_bbox(Rect::new(0.0, 0.0, self.size[0], self.size[1]));
        let at = Vec2::new(spot.x, spot.y);
        Affine::translate(at - box_.origin().to_vec2()) * turn
    }

    /// Width and height of its box when it is turned, mm.
    #[must_use]
    pub(crate) fn turned_size(&self, degrees: f64) -> [f64; 2] {
        let b = turn(degrees).transform_rect_bbox(Rect::new(0.0, 0.0, self.size[0], self.size[1]));
        [b.width(), b.height()]
    }

    /// Its closed and open lines at a spot, as points.
    #[must_use]
    pub fn placed(&self, spot: Spot) -> (Vec<Vec<Point>>, Vec<Vec<Point>>) {
        let map = self.to(spot);
        let moved = |lines: &[Vec<Point>]| {
            let line = |l: &Vec<Point>| l.iter().map(|p| map * *p).collect();
            lines.iter().map(line).collect()
        };
        (moved(&self.outline), moved(&self.open))
    }

    /// Its parts one by one: each outer ring with all that lies in it.
    #[must_use]
    pub fn parted(&self) -> Vec<Self> {
        let outer: Vec<(usize, Rect, f64)> = self
            .layers
            .iter()
            .enumerate()
            .flat_map(|(n, l)| l.shapes.iter().map(move |s| (n, s)))
            .map(|(n, s)| (n, s.outer.bounds(), s.outer.signed_area()))
            .collect();
        let inside = |a: &Rect, b: &Rect| b.union(*a) == *b;
        // The boxes that lie in no other one; with the same box, the first.
        let mut whole: Vec<Rect> = Vec::new();
        let mut sorted = outer.clone();
        sorted.sort_by(|a, b| b.2.total_cmp(&a.2));
        for (_, b, _) in sorted {
            if !whole.iter().any(|w| inside(&b, &w.inflate(1e-6, 1e-6))) {
                whole.push(b);
            }
        }
        let home = |b: Rect| {
            let near = |w: &Rect| {
                let both = w.intersect(b);
                both.area() + if w.contains(b.center()) { 1e9 } else { 0.0 }
            };
            (0..whole.len()).max_by(|&i, &j| near(&whole[i]).total_cmp(&near(&whole[j])))
        };
        let mut parts: Vec<Vec<CutLayer>> =
            vec![self.layers.iter().map(CutLayer::empty).collect(); whole.len()];
        for (n, layer) in self.layers.iter().enumerate() {
            for shape in &layer.shapes {
                if let Some(k) = home(shape.outer.bounds()) {
                    parts[k][n].shapes.push(shape.clone());
                }
            }
            for line in &layer.lines {
                let boxes = line.segments.iter().map(Segment::bounds);
                let Some(b) = boxes.reduce(|a, b| a.union(b)) else {
                    continue;
                };
                if let Some(k) = home(b) {
                    parts[k][n].lines.push(line.clone());
                }
            }
        }
        let found: Vec<Self> = parts.iter().filter_map(|p| Self::of(p)).collect();
        if found.is_empty() {
            vec![self.clone()]
        } else {
            found
        }
    }

    /// Every shape of it at a spot.
    pub(crate) fn shapes_at(&self, spot: Spot) -> impl Iterator<Item = Rings> {
        let map = self.to(spot);
        let layers = self.layers.iter();
        layers.flat_map(move |l| l.moved(map).shapes)
    }
}

fn turn(degrees: f64) -> Affine {
    // Quarter turns are exact.
    let quarters = degrees / 90.0;
    if (quarters - quarters.round()).abs() < 1e-9 {
        let (cos, sin) = match (quarters.round() as i64).rem_euclid(4) {
            0 => (1.0, 0.0),
            1 => (0.0, 1.0),
            2 => (-1.0, 0.0),
            _ => (0.0, -1.0),
        };
        return Affine::new([cos, sin, -sin, cos, 0.0, 0.0]);
    }
    Affine::rotate(degrees.to_radians())
}

fn flattened(segments: &[Segment]) -> Vec<Point> {
    let mut points = vec![segments[0].start()];
    for segment in segments {
        segment.flatten(TOLERANCE, &mut points);
    }
    points
}
