//! Rest: what is left of a plate when its parts are out, as stock for the next job.

use kurbo::Point;

use super::Sheet;
use super::piece::Spot;
use crate::overlay::{Keep, Rings, overlay};
use crate::picture::Picture;
use crate::polyline::thinned;
use crate::segment::Segment;
use crate::shapes::Ring;
use crate::stock::{Shaped, shaped};

/// Lines of the rest leave out what errs by less, mm: far less than any margin.
const TOLERANCE: f64 = 0.05;
/// Less than this is thrown away, mm².
const LEAST: f64 = 2500.0;

/// What is left, and where its box begins on the stock, mm.
#[derive(Clone, Debug, PartialEq)]
pub struct Rest {
    /// Its outline and holes, from the corner of its own box.
    pub shape: Shaped,
    /// That corner on the stock.
    pub at: Point,
}

impl Rest {
    /// Its part of a picture that fills the stock's box, `width` × `length` mm.
    #[must_use]
    pub fn of_picture(&self, picture: &Picture, [width, length]: [f64; 2]) -> Picture {
        let (w, h) = (picture.width() as usize, picture.height() as usize);
        let place = |mm: f64, side: f64, px: usize| {
            ((mm / side * px as f64).round().max(0.0) as usize).min(px - 1)
        };
        let (column, row) = (|x| place(x, width, w), |y| place(y, length, h));
        let b = self.shape.bounds() + self.at.to_vec2();
        let (x0, y0) = (column(b.x0), row(b.y0));
        let (x1, y1) = (column(b.x1).max(x0), row(b.y1).max(y0));
        let rows = picture.pixels().chunks(w).take(y1 + 1).skip(y0);
        let pixels = rows.flat_map(|r| r[x0..=x1].iter().copied()).collect();
        let side = |from: usize, to: usize| (to - from + 1) as u32;
        Picture::new(side(x0, x1), side(y0, y1), pixels).unwrap_or_else(|_| picture.clone())
    }
}

pub(super) fn rest(sheet: &Sheet) -> Option<Rest> {
    let stock = &sheet.stock;
    if !sheet.leaves() {
        return None;
    }
    let [w, h] = [stock.width, stock.length];
    let whole = Shaped {
        outer: vec![[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]],
        holes: Vec::new(),
        picture: None,
    };
    let shape = stock.shape.as_ref().unwrap_or(&whole);
    let mut stock = shape.closed().filter_map(ring);
    let outer = stock.next()?;
    let parts = sheet.items.iter().filter_map(|i| Some((i, i.spot?)));
    // What lies in the hole of a part comes out with it.
    let gone = parts.flat_map(|(i, spot): (_, Spot)| {
        let piece = sheet.piece(i);
        let shapes = piece.shapes_at(spot).map(|s| s.outer);
        let lines = piece
            .layers
            .iter()
            .flat_map(|l| &l.lines)
            .filter(|l| l.closed);
        let map = piece.to(spot);
        let moved = |s: &Vec<Segment>| s.iter().flat_map(|s| s.moved(map)).collect();
        let lines = lines.filter_map(move |l| Ring::new(moved(&l.segments), Vec::new()));
        shapes.chain(lines.map(outwards)).collect::<Vec<Ring>>()
    });
    let gone: Vec<Ring> = stock.chain(gone).collect();
    let gone: Vec<&Ring> = gone.iter().collect();
    let left = overlay(&[&outer], &gone, Keep::Difference);
    let largest = left.iter().max_by(|a, b| a.area().total_cmp(&b.area()))?;
    if largest.area() < LEAST {
        return None;
    }
    let found = shape_of(largest);
    Some(Rest {
        at: found.bounds().origin(),
        shape: found.to_corner(),
    })
}

/// A closed line of places as a ring with positive area.
fn ring(line: Vec<Point>) -> Option<Ring> {
    let sides = line
        .windows(2)
        .map(|w| Segment::Line(kurbo::Line::new(w[0], w[1])));
    Ring::new(sides.collect(), Vec::new()).map(outwards)
}

fn outwards(ring: Ring) -> Ring {
    if ring.signed_area() < 0.0 {
        ring.reversed()
    } else {
        ring
    }
}

fn shape_of(rings: &Rings) -> Shaped {
    let line = |ring: &Ring| -> shaped::Line {
        let mut places = vec![ring.segments()[0].start()];
        for segment in ring.segments() {
            segment.flatten(TOLERANCE / 2.0, &mut places);
        }
        let mut kept = thinned(&places, TOLERANCE / 2.0);
        kept.pop();
        kept.into_iter().map(|p| [p.x, p.y]).collect()
    };
    Shaped {
        outer: line(&rings.outer),
        holes: rings.holes.iter().map(line).collect(),
        picture: None,
    }
}
