//! Bridges: strips of the sheet that hold the islands of a stencil.
//!
//! ```text
//!    ▓▓▓▓▓▓▓▓▓▓▓   sheet ▓
//!    ▓┌───┬┬──┐▓   an island is held by strips across what is cut out around it;
//!    ▓│  ┌┴┴┐ │▓   short ones hold best, on sides of the island that lie apart
//!    ▓│  │▓▓│ │▓
//!    ▓│  └┬┬┘ │▓
//!    ▓└───┴┴──┘▓
//! ```

use kurbo::{Point, Vec2};
use rayon::prelude::*;
use rstar::RTree;
use rstar::primitives::{GeomWithData, Line};

use super::{Built, Layer, polygon};
use crate::layers::Bridge;
use crate::overlay::{self, Keep, Rings};
use crate::sets::Sets;
use crate::shapes::{Ring, Shape};
use crate::size::Size;

/// Chords leave their curves by at most this, mm.
const FLAT: f64 = 0.02;
/// A strip goes on into what it joins by this part of its width, which covers round edges.
const INTO: f64 = 0.3;
/// An island has to be wider than a bridge by this part.
const ROOM: f64 = 1.2;
/// Places tried along the edge of an island, and starting points of the sides it is parted into.
const TRIED: usize = 240;
const STARTS: usize = 12;
/// Chords looked at from each place.
const LOOKED_AT: usize = 4000;
/// Strips nearer to each other than so many of their widths are one.
const BESIDE: f64 = 3.0;

/// Bridges asked for.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Asked {
    /// How many hold each island.
    pub count: usize,
    /// Width of each, mm.
    pub width: f64,
}

/// Why islands are not held.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum BridgeError {
    /// There is no sheet that could have islands.
    #[error("bridges hold the islands of a sheet; choose the sheet first")]
    NoSheet,
    /// Nothing falls out.
    #[error("nothing falls out of this sheet: it needs no bridges")]
    NoIsland,
    /// No strip at all, or too many.
    #[error("ask for 1 to 12 bridges for each island")]
    Count,
    /// An island is hardly wider than the strip.
    #[error(
        "a bridge of {width:.2} mm is too wide for the island at {x:.1}, {y:.1} mm, which is {across:.2} mm across; \
         choose up to {most:.2} mm, or fill that island"
    )]
    TooWide {
        /// Width asked for, mm.
        width: f64,
        /// Where the island is.
        x: f64,
        /// Where the island is.
        y: f64,
        /// How wide the island is, mm.
        across: f64,
        /// The widest strip it takes, mm.
        most: f64,
    },
}

/// The strips of bridges, mm.
#[must_use]
pub fn strips(bridges: &[Bridge], size: Size) -> Vec<Ring> {
    bridges.iter().filter_map(|b| strip(b, size)).collect()
}

fn place(at: [f64; 2], size: Size) -> Point {
    Point::new(at[0] * size.width.get(), at[1] * size.height.get())
}

fn part(p: Point, size: Size) -> [f64; 2] {
    [p.x / size.width.get(), p.y / size.height.get()]
}

fn strip(bridge: &Bridge, size: Size) -> Option<Ring> {
    let (a, b) = (place(bridge.from, size), place(bridge.to, size));
    let along = b - a;
    let direction = if along.hypot() > 1e-6 {
        along / along.hypot()
    } else {
        return None;
    };
    let half = bridge.width / 2.0;
    let (out, side) = (
        direction * bridge.width * INTO,
        Vec2::new(-direction.y, direction.x) * half,
    );
    let (a, b) = (a - out, b + out);
    Some(polygon(&[a - side, b - side, b + side, a + side]))
}

/// What is still cut out when strips stay.
#[must_use]
pub fn held(shapes: &[Shape], strips: &[Ring]) -> Vec<Rings> {
    let rings: Vec<&Ring> = shapes.iter().flat_map(Shape::rings).collect();
    let strips: Vec<&Ring> = strips.iter().collect();
    overlay::overlay(&rings, &strips, Keep::Difference)
}

type Chord = GeomWithData<Line<[f64; 2]>, usize>;

/// A strip that could be: from an island to another part of the sheet.
#[derive(Clone, Copy, Debug)]
struct Way {
    from: Point,
    to: Point,
    into: usize,
    length: f64,
}

/// Bridges for every island of every sheet that none holds yet.
///
/// # Errors
/// [`BridgeError`] where there is nothing to hold, or an island is too small for the width.
pub fn for_all(built: &Built, asked: Asked) -> Result<Vec<Bridge>, BridgeError> {
    let mut sheets = built.layers.iter().filter(|l| l.sheet).peekable();
    sheets.peek().ok_or(BridgeError::NoSheet)?;
    let mut made = Vec::new();
    for layer in sheets.filter(|l| !l.islands.is_empty()) {
        made.extend(auto(layer, &layer.islands, asked, built.size)?);
    }
    match made.is_empty() {
        true => Err(BridgeError::NoIsland),
        false => Ok(made),
    }
}

/// Bridges for islands of a sheet that none holds yet, by their numbers among its shapes.
///
/// # Errors
/// [`BridgeError`] where there is nothing to hold, or an island is too small for the width.
pub fn auto(
    layer: &Layer,
    islands: &[usize],
    asked: Asked,
    size: Size,
) -> Result<Vec<Bridge>, BridgeError> {
    if !(1..=12).contains(&asked.count) {
        return Err(BridgeError::Count);
    }
    if islands.is_empty() {
        return Err(BridgeError::NoIsland);
    }
    for &n in islands {
        let bounds = layer.shapes[n].outer.bounds();
        let across = bounds.width().min(bounds.height());
        if across < asked.width * ROOM {
            let middle = bounds.center();
            return Err(BridgeError::TooWide {
                width: asked.width,
                x: middle.x,
                y: middle.y,
                across,
                most: across / ROOM,
            });
        }
    }
    let chords = chords(&layer.shapes);
    let ways: Vec<Vec<Way>> = islands
        .par_iter()
        .map(|&n| ways(&layer.shapes[n].outer, n, &chords))
        .collect();
    let mut chosen: Vec<(usize, Way)> = Vec::new();
    for (&n, ways) in islands.iter().zip(&ways) {
        for way in spread(ways, asked.count) {
            // Between two islands one strip serves both.
            let serves = |(other, old): &(usize, Way)| {
                let near = old.from.distance(way.to).min(old.to.distance(way.to));
                old.into == n && *other == way.into && near < asked.width * BESIDE
            };
            if !chosen.iter().any(serves) {
                chosen.push((n, way));
            }
        }
    }
    hold_all(layer, islands, &ways, &mut chosen);
    let bridge = |(_, way): (usize, Way)| Bridge {
        from: part(way.from, size),
        to: part(way.to, size),
        width: asked.width,
    };
    Ok(chosen.into_iter().map(bridge).collect())
}

fn chords(shapes: &[Shape]) -> RTree<Chord> {
    let mut all = Vec::new();
    for (n, shape) in shapes.iter().enumerate() {
        for ring in shape.rings() {
            let points = points(ring);
            for i in 0..points.len() {
                let (a, b) = (points[i], points[(i + 1) % points.len()]);
                all.push(Chord::new(Line::new([a.x, a.y], [b.x, b.y]), n));
            }
        }
    }
    RTree::bulk_load(all)
}

/// The corners of a ring's chords.
fn points(ring: &Ring) -> Vec<Point> {
    let mut points = vec![ring.segments()[0].start()];
    for segment in ring.segments() {
        segment.flatten(FLAT, &mut points);
    }
    points.pop();
    points
}

/// The way from every place along an island's edge to the nearest other part of the sheet.
fn ways(outer: &Ring, ring: usize, chords: &RTree<Chord>) -> Vec<Way> {
    let corners = points(outer);
    let count = corners.len();
    let total: f64 = (0..count)
        .map(|i| corners[i].distance(corners[(i + 1) % count]))
        .sum();
    let step = total / TRIED as f64;
    let mut found = Vec::new();
    let mut next = step / 2.0;
    let mut walked = 0.0;
    for i in 0..count {
        let (a, b) = (corners[i], corners[(i + 1) % count]);
        let length = a.distance(b);
        while next <= walked + length && length > 0.0 {
            let from = a.lerp(b, (next - walked) / length);
            next += step;
            let along = (b - a) / length;
            // An outer ring runs clockwise on the screen: its outside is to the left.
            let outward = Vec2::new(along.y, -along.x);
            // The nearest part of the sheet that lies on the outside.
            let mut near = chords
                .nearest_neighbor_iter([from.x, from.y])
                .filter(|c| c.data != ring)
                .take(LOOKED_AT)
                .map(|c| {
                    let to = c.geom().nearest_point(&[from.x, from.y]);
                    (c.data, Point::from((to[0], to[1])))
                });
            let ahead = |to: &Point| {
                let way = *to - from;
                way.hypot() > 1e-6 && way.dot(outward) > 0.5 * way.hypot()
            };
            if let Some((into, to)) = near.find(|(_, to)| ahead(to)) {
                let length = from.distance(to);
                found.push(Way {
                    from,
                    to,
                    into,
                    length,
                });
            }
        }
        walked += length;
    }
    found
}

/// As many ways as asked for, one on each side of the island, as short as they can be.
fn spread(ways: &[Way], count: usize) -> Vec<Way> {
    let all = ways.len();
    let count = count.min(all);
    let mut best: Option<(f64, Vec<Way>)> = None;
    for start in 0..STARTS {
        let first = start * all / STARTS / count.max(1);
        let side = |k: usize| {
            let (from, to) = (k * all / count, (k + 1) * all / count);
            // The outer thirds of a side are left free, so that neighbours keep apart.
            let third = if count > 1 { (to - from) / 4 } else { 0 };
            let same_ring =
                (from + third..(to - third).max(from + third + 1)).map(|i| ways[(first + i) % all]);
            same_ring.min_by(|a, b| a.length.total_cmp(&b.length))
        };
        let chosen: Vec<Way> = (0..count).filter_map(side).collect();
        let length: f64 = chosen.iter().map(|w| w.length).sum();
        if best.as_ref().is_none_or(|(least, _)| length < least - 1e-9) {
            best = Some((length, chosen));
        }
    }
    best.map(|(_, chosen)| chosen).unwrap_or_default()
}

/// Sees to it that islands which hold only each other are held by the sheet too.
fn hold_all(layer: &Layer, islands: &[usize], ways: &[Vec<Way>], chosen: &mut Vec<(usize, Way)>) {
    let mut sets = Sets::new(layer.shapes.len());
    for (n, way) in chosen.iter() {
        sets.join(*n, way.into);
    }
    let sheet = (0..layer.shapes.len()).find(|n| !layer.islands.contains(n));
    let Some(sheet) = sheet else { return };
    loop {
        let held = sets.find(sheet);
        let mut shortest: Option<(usize, Way)> = None;
        for (&n, ways) in islands.iter().zip(ways) {
            if sets.find(n) == held {
                continue;
            }
            for way in ways {
                let nearer = shortest.is_none_or(|(_, s)| way.length < s.length);
                if nearer && sets.find(way.into) == held {
                    shortest = Some((n, *way));
                }
            }
        }
        let Some((n, way)) = shortest else { return };
        sets.join(n, way.into);
        chosen.push((n, way));
    }
}
