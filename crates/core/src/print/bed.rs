//! A page found in a photograph of the bed it lies on: four known marks of the bed tell where the camera was, and the
//! marks of the page where it lies.
//!
//! ```text
//!   ◎────────────────◎        ◎ marks of the bed, the first with a dot: places that are known
//!   │   ┌───────┐    │
//!   │   │○     ○│    │   ──►  where the page's marks lie on the machine, mm, and how sure that is
//!   │   │◉     ○│    │
//!   ⊙────────────────◎
//! ```

use kurbo::{Point, Rect};

use super::marks::{MarkChoice, rings};
use super::seen::{BED, BED_FIRST, MarkKind, SeenMark, code_within, seen};
use crate::clean::square::{Quad, four_sided, holds};
use crate::lens::Lens;
use crate::overlay::Rings;
use crate::picture::Picture;
use crate::projective::Projective;

/// Across a mark of a bed, mm.
pub const BED_SIZE: f64 = 15.0;
/// Places that may be farther off than this are not told, mm.
pub const SURE: f64 = 0.4;

/// A sheet of paper is a rectangle, but for this part; what is nearer by less is not known to be.
const SQUARE: f64 = 0.003;
const AS_SQUARE: f64 = 0.002;
/// What a telephone leaves of the bend of its lens at most, percent (common practice, no source).
const LEFT: f64 = 0.3;

/// From the photograph to the bed.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Way {
    /// How far the paper is from a rectangle with it.
    askew: f64,
    lens: Lens,
    map: Projective,
}

/// What a photograph tells.
#[derive(Clone, Debug, PartialEq)]
pub struct OnBed {
    /// The page's marks on the machine in their order, mm, y up.
    pub found: Vec<Point>,
    /// How far a place may be off, mm (two standard errors).
    pub off: f64,
    way: Way,
}

impl OnBed {
    /// What a code says whose white ends at four corners on the machine, mm: upper left, upper right and lower left as it
    /// is printed, then lower right. `None` where none can be read there.
    #[must_use]
    pub fn code(&self, picture: &Picture, corners: [Point; 4]) -> Option<String> {
        let from_bed = self.way.map.inverse()?;
        let lens = self.way.lens;
        let sides = [(0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0)].map(Point::from);
        let pairs: Vec<(Point, Point)> = sides.into_iter().zip(corners).collect();
        let to_bed = Projective::through(&pairs)?;
        code_within(picture, |part| lens.bent(from_bed.at(to_bed.at(part))))
    }
}

/// Why a photograph tells nothing.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum BedError {
    /// Marks of the bed are missing, or there are too many.
    #[error(
        "{found} of the bed's 4 marks are seen{}; take the photograph so that all are in it, sharp and not covered",
        if *.first { "" } else { ", the one with the dot is not" }
    )]
    Bed {
        /// So many are seen.
        found: usize,
        /// Whether the first is among them.
        first: bool,
    },
    /// Marks of the page are missing, or there are too many.
    #[error(
        "{found} of the page's {meant} marks are seen{}; look whether one is covered, or whether another page lies there",
        if *.first { "" } else { ", the first of them is not" }
    )]
    Page {
        /// So many are seen.
        found: usize,
        /// So many there are.
        meant: usize,
        /// Whether the first is among them.
        first: bool,
    },
    /// The bed's marks lie on a line.
    #[error("the bed's marks lie on a line in the photograph; take it from farther above")]
    Line,
    /// With no lens the paper is a rectangle.
    #[error(
        "the paper is no rectangle as seen by the bed's marks: look whether they lie where they should, and whether all four sides of the paper are free"
    )]
    Paper,
    /// Too coarse.
    #[error(
        "the places of the marks may be off by {0:.2} mm, more than {SURE} mm; take the photograph sharper, straight from above, or in better light"
    )]
    Unsure(f64),
}

/// What is printed black of a bed's mark around a place.
#[must_use]
pub fn bed_ink(at: Point, first: bool) -> Vec<Rings> {
    let radii: &[f64] = if first { &BED_FIRST } else { &BED };
    rings(at, BED_SIZE / 2.0, radii, first)
}

/// Where the marks of a page lie, of which there are `meant`; `bed` goes through the middles of the bed's marks, mm, its
/// first at the lower left.
///
/// # Errors
/// [`BedError`]: nothing is told where it is not sure.
pub fn on_bed(
    picture: &Picture,
    marks: &MarkChoice,
    meant: usize,
    bed: Rect,
) -> Result<OnBed, BedError> {
    let all = seen(picture, marks);
    let of = |kinds: [MarkKind; 2]| -> (Vec<SeenMark>, usize) {
        let firsts = all.iter().filter(|m| m.kind == kinds[0]);
        let others = all.iter().filter(|m| m.kind == kinds[1]);
        let found: Vec<SeenMark> = firsts.chain(others).copied().collect();
        let firsts = found.iter().filter(|m| m.kind == kinds[0]).count();
        (found, firsts)
    };
    let (on_the_bed, firsts) = of([MarkKind::BedFirst, MarkKind::Bed]);
    if on_the_bed.len() != 4 || firsts != 1 {
        return Err(BedError::Bed {
            found: on_the_bed.len(),
            first: firsts == 1,
        });
    }
    let (of_page, firsts) = of([MarkKind::First, MarkKind::Other]);
    if of_page.len() != meant || firsts != 1 {
        return Err(BedError::Page {
            found: of_page.len(),
            meant,
            first: firsts == 1,
        });
    }
    let size = (picture.width(), picture.height());
    let to_bed = |bend: f64| {
        let lens = Lens::new(size, bend);
        let pairs = around(&on_the_bed).into_iter().map(|m| lens.straight(m.at));
        let map = Projective::through(&pairs.zip(corners(bed)).collect::<Vec<_>>())?;
        Some((lens, map))
    };
    // How the lens bends is told by the sides of the paper: with the right one it is a rectangle on the bed.
    let of_page = around(&of_page);
    let paper = four_sided(picture).into_iter();
    let paper = paper.filter(|s| of_page.iter().all(|m| holds(s.corners, m.at)));
    let ways = paper.flat_map(|s| [0.0, s.lens].map(|bend| (s.corners, bend)));
    let ways: Vec<Way> = ways
        .filter_map(|(corners, bend)| {
            let (lens, map) = to_bed(bend)?;
            let on_bed = corners.map(|p| map.at(lens.straight(p)));
            Some(Way {
                askew: askew(on_bed),
                lens,
                map,
            })
        })
        .collect();
    let squarest = ways.iter().map(|w| w.askew).reduce(f64::min);
    let as_good: Vec<Way> = match squarest {
        Some(least) if least > SQUARE => return Err(BedError::Paper),
        Some(least) => ways
            .into_iter()
            .filter(|w| w.askew < least + AS_SQUARE)
            .collect(),
        // The sides of the paper are not seen: the lens may bend by what a telephone leaves of it.
        None => [0.0, LEFT, -LEFT]
            .into_iter()
            .filter_map(to_bed)
            .map(|(lens, map)| Way {
                askew: 0.0,
                lens,
                map,
            })
            .collect(),
    };
    // Telephones straighten their lens themselves: of those that are as good it is the one that bends least, which comes
    // first.
    let way = *as_good.first().ok_or(BedError::Line)?;
    let to_bed = |p: Point| way.map.at(way.lens.straight(p));
    let found: Vec<Point> = of_page.iter().map(|m| to_bed(m.at)).collect();
    // What the others would say is what is not known.
    let others = as_good.iter().flat_map(|other| {
        let places = of_page
            .iter()
            .map(|m| other.map.at(other.lens.straight(m.at)));
        places.zip(&found).map(|(p, q)| p.distance(*q))
    });
    let beside = others.fold(0.0, f64::max);
    // A pixel in mm, where each mark lies; the bed's own marks are off as well.
    let pixel = |p: Point| to_bed(p).distance(to_bed(p + (0.7, 0.7)));
    let farthest = |marks: &[SeenMark]| {
        marks
            .iter()
            .map(|m| m.off * pixel(m.at))
            .fold(0.0, f64::max)
    };
    let off = (2.0 * farthest(&of_page).hypot(farthest(&on_the_bed))).hypot(beside);
    if off > SURE {
        return Err(BedError::Unsure(off));
    }
    Ok(OnBed { found, off, way })
}

/// The middles of the bed's marks, from the first against the clock, mm, y up.
fn corners(bed: Rect) -> [Point; 4] {
    [
        Point::new(bed.x0, bed.y0),
        Point::new(bed.x1, bed.y0),
        Point::new(bed.x1, bed.y1),
        Point::new(bed.x0, bed.y1),
    ]
}

/// How far four corners are from a rectangle: by how much opposite sides, or the diagonals, differ, as a part.
fn askew([a, b, c, d]: Quad) -> f64 {
    let differ = |p: f64, q: f64| (p - q).abs() / p.max(q).max(1e-9);
    let sides = differ(a.distance(b), c.distance(d)).max(differ(b.distance(c), d.distance(a)));
    sides.max(differ(a.distance(c), b.distance(d)))
}

/// From the first against the clock as one sees them.
fn around(marks: &[SeenMark]) -> Vec<SeenMark> {
    let mut marks = marks.to_vec();
    let n = marks.len() as f64;
    let middle = marks
        .iter()
        .fold(kurbo::Vec2::ZERO, |sum, m| sum + m.at.to_vec2())
        / n;
    let angle = |m: &SeenMark| {
        let way = m.at.to_vec2() - middle;
        (-way.y).atan2(way.x)
    };
    let begin = marks.first().map_or(0.0, angle);
    let turned = |m: &SeenMark| (angle(m) - begin).rem_euclid(std::f64::consts::TAU);
    // The first itself stays first, whatever rounding says.
    if let Some((_, others)) = marks.split_first_mut() {
        others.sort_by(|a, b| turned(a).total_cmp(&turned(b)));
    }
    marks
}
