//! Registration marks found in a picture, to a part of a pixel.
//!
//! ```text
//!   a row of pixels  ──▁▁▔▔▁▁▁▁▔▔▁▁──   runs in the right proportion: perhaps a mark
//!                        ╲ │ ╱
//!   from its middle      ─ ● ─          every ray meets the same edges, in the right proportion, around one middle:
//!                        ╱ │ ╲          a mark
//! ```
//!
//! Rows are scanned for proportions as readers of matrix codes do for their finder patterns (ISO/IEC 18004:2015, 12);
//! dark and light are told by the mean around (Bradley & Roth 2007, "Adaptive thresholding using the integral image").
//! The middle is where opposite rays meet their edges equally far, which holds for an ellipse too.

mod code;
mod grey;
mod pattern;
mod rays;
mod rows;

use kurbo::{Point, Vec2};

use self::grey::Grey;
use self::pattern::patterns;
use super::marks::MarkChoice;
use crate::picture::Picture;

pub use code::codes;
pub(super) use code::within as code_within;
pub(super) use pattern::{BED, BED_FIRST};

/// What a mark is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MarkKind {
    /// The first of a page.
    First,
    /// Another of a page.
    Other,
    /// The first of a machine's bed.
    BedFirst,
    /// Another of the bed.
    Bed,
}

/// A mark that was found.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SeenMark {
    /// Its middle, px.
    pub at: Point,
    /// Which it is.
    pub kind: MarkKind,
    /// From its middle to its outer edge on average, px.
    pub radius: f64,
    /// How far its middle may be off, px: the standard error of its edges.
    pub off: f64,
}

/// Pixels of the copy that is scanned; middles are found in the picture itself.
const SCANNED: u64 = 12_000_000;
/// Dark is what is so much darker than the mean around it, as a part: beside much white the white between two rings is
/// hardly lighter than that, beside much dark it is by far.
const DARKER: [f32; 3] = [0.85, 0.68, 0.5];
/// Edges lie where it is so much lighter than the darkest, as a part of what the lightest is: blur fills thin rings, black
/// or white.
const LEVELS: [f32; 3] = [0.5, 0.38, 0.62];

/// All marks in a picture, from the top left.
#[must_use]
pub fn seen(picture: &Picture, marks: &MarkChoice) -> Vec<SeenMark> {
    let small = picture.reduced(SCANNED);
    let scale = f64::from(picture.width()) / f64::from(small.width());
    let (rough, fine) = (Grey::of(&small), Grey::of(picture));
    let patterns = patterns(marks);
    let mut found: Vec<SeenMark> = Vec::new();
    let around = rough.around();
    let candidates = DARKER
        .iter()
        .flat_map(|part| rough.candidates(&rough.dark(&around, *part), &patterns));
    for (pattern, at, radius) in candidates {
        let at = Point::new((at.x + 0.5) * scale - 0.5, (at.y + 0.5) * scale - 0.5);
        let known = |m: &SeenMark| m.at.distance(at) < 0.5 * m.radius;
        if found.iter().any(known) {
            continue;
        }
        let mut levels = LEVELS.iter();
        let mark = levels.find_map(|&l| fine.mark(&patterns[pattern], at, radius * scale, l));
        let is_new = |m: &SeenMark| found.iter().all(|k| k.at.distance(m.at) >= k.radius);
        found.extend(mark.filter(is_new));
    }
    found.sort_by(|a, b| {
        (a.at.y, a.at.x)
            .partial_cmp(&(b.at.y, b.at.x))
            .unwrap_or(std::cmp::Ordering::Equal)
    });
    // Pixels' middles are at halves.
    found.iter_mut().for_each(|m| m.at += Vec2::new(0.5, 0.5));
    found
}
