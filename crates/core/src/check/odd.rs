//! Odd pieces: where a whole design lies on a piece of stock that is no rectangle, without an edge, a hole or a flaw
//! under its lines.
//!
//! ```text
//!   ╭─────────────╮      The lines as they are cut are tried at even steps over the box of the piece,
//!   │  ·  ▣  ○    ╲      those nearest to a wish first, at the size they have.
//!   ╰──────────────╯
//! ```

use kurbo::{Affine, Point, Vec2};

use crate::assembly::{Built, Layer};
use crate::segment::Segment;
use crate::sheet::walls::Walls;
use crate::stock::{Shaped, Stock};

/// Places along either side of the piece that are tried.
const STEPS: usize = 24;
/// Chords keep so near to their lines, mm.
const TOLERANCE: f64 = 0.1;
/// Halvings until a scale is found.
const HALVINGS: usize = 8;

/// Lines as chords: closed ones, and open ones.
type Lines = (Vec<Vec<Point>>, Vec<Vec<Point>>);

/// A design over one piece.
pub(super) struct OddPiece<'a> {
    stock: &'a Stock,
    walls: Walls,
    /// Each layer that is cut, its box's corner at 0, 0.
    layers: Vec<Lines>,
    size: Vec2,
}

impl<'a> OddPiece<'a> {
    /// `None` where the piece is a rectangle, or there is nothing to cut.
    pub(super) fn of(built: &Built, stock: &'a Stock) -> Option<Self> {
        let shape: &Shaped = stock.shape.as_ref()?;
        let size = built.bounds.size().to_vec2();
        let map = built.on_stock([0.0, 0.0]);
        (built.bounds.area() > 0.0).then(|| Self {
            walls: Walls::of(shape, stock.margin),
            layers: built.cut().map(|layer| chords(layer, map)).collect(),
            size,
            stock,
        })
    }

    /// A place of the design at which it meets an edge, a hole or a flaw, on the stock, mm.
    pub(super) fn met(&self, place: [f64; 2], scale: f64) -> Option<Point> {
        let map = Affine::translate((place[0], place[1])) * Affine::scale(scale);
        let moved = |lines: &[Vec<Point>]| {
            let line = |line: &Vec<Point>| line.iter().map(|&p| map * p).collect();
            lines.iter().map(line).collect()
        };
        let mut layers = self.layers.iter();
        layers.find_map(|(closed, open)| self.walls.met_by(moved(closed), moved(open)))
    }

    /// The place nearest to a wish at which it meets none, of those that are tried.
    pub(super) fn free(&self, wish: [f64; 2], scale: f64) -> Option<[f64; 2]> {
        let (usable, size) = (self.stock.usable(), self.size * scale);
        let room = Vec2::new(usable.width() - size.x, usable.height() - size.y);
        if room.x < -1e-6 || room.y < -1e-6 {
            return None;
        }
        let step = |n: usize, room: f64| room.max(0.0) * n as f64 / (STEPS - 1) as f64;
        let places = (0..STEPS * STEPS).map(|n| {
            [
                usable.x0 + step(n % STEPS, room.x),
                usable.y0 + step(n / STEPS, room.y),
            ]
        });
        let mut places: Vec<[f64; 2]> = places.collect();
        let far = |p: &[f64; 2]| (p[0] - wish[0]).hypot(p[1] - wish[1]);
        places.sort_by(|a, b| far(a).total_cmp(&far(b)));
        places.into_iter().find(|p| self.met(*p, scale).is_none())
    }

    /// The greatest scale, `most` at most, at which there is such a place, to a few thousandths, and that place.
    pub(super) fn scale_to_fit(&self, most: f64) -> Option<(f64, [f64; 2])> {
        let corner = [self.stock.margin; 2];
        if let Some(place) = self.free(corner, most) {
            return Some((most, place));
        }
        let (mut low, mut high, mut found) = (0.0, most, None);
        for _ in 0..HALVINGS {
            let scale = (low + high) / 2.0;
            match self.free(corner, scale) {
                Some(place) => (low, found) = (scale, Some((scale, place))),
                None => high = scale,
            }
        }
        found
    }
}

fn chords(layer: &Layer, map: Affine) -> Lines {
    let line = |segments: &[Segment]| -> Vec<Point> {
        let mut points: Vec<Point> = segments.first().map(Segment::start).into_iter().collect();
        for segment in segments {
            segment.flatten(TOLERANCE, &mut points);
        }
        points.into_iter().map(|p| map * p).collect()
    };
    let rings = layer.lines().iter().flat_map(|s| s.rings());
    let closed = rings.chain(&layer.registration).map(|r| line(r.segments()));
    let open = layer.strokes.iter().map(|s| line(&s.segments));
    (closed.collect(), open.collect())
}
