//! Overlay: what lies inside some closed paths and outside others, with their own curves.
//!
//! ```text
//!   curves ──chords──► polygons ──i_overlay──► polygons ──label──► runs along a source ──rebuild──► curves
//!         0.025 mm at most         exact, 1 nm             which chord is this edge?    cut where curves meet
//! ```
//!
//! The polygons decide what meets what. Every edge of the result lies on one chord of one source,
//! so the result is put together from the sources' own segments: those that nothing touched come
//! back as they were, those that were cut are cut where the *curves* meet, not their chords.
//!
//! In: closed paths, mm. Out: shapes, each with its outer ring (positive area) and its holes. No
//! ring crosses itself or another; parts of less than [`SPECK_MM2`] are rounding and left out.

mod chords;
mod label;
mod rebuild;
mod tangle;

use i_overlay::core::fill_rule::FillRule;
use i_overlay::core::overlay::{ContourDirection, IntOverlayOptions, Overlay, ShapeType};
use i_overlay::core::overlay_rule::OverlayRule;
use kurbo::Point;
use rayon::prelude::*;

use crate::shapes::Ring;
use chords::Chords;
pub use tangle::tangled;

/// Area below which a ring is a trace of rounding, mm².
pub const SPECK_MM2: f64 = 1e-4;

/// What is kept of a picture of subjects and clips.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Keep {
    /// What any subject or clip covers.
    Union,
    /// What subjects cover and no clip does.
    Difference,
    /// What both cover.
    Both,
    /// What either covers and the other does not.
    Either,
    /// What rings run around more often to the right than to the left.
    Positive,
    /// What rings run around an odd number of times.
    Odd,
}

/// An outer ring with its holes.
#[derive(Clone, Debug, PartialEq)]
pub struct Rings {
    /// The outer ring.
    pub outer: Ring,
    /// Its holes.
    pub holes: Vec<Ring>,
}

impl Rings {
    /// All of them, the outer one first.
    pub fn all(&self) -> impl Iterator<Item = &Ring> {
        std::iter::once(&self.outer).chain(&self.holes)
    }

    /// All of them, the outer one first.
    #[must_use]
    pub(crate) fn into_all(self) -> Vec<Ring> {
        std::iter::once(self.outer).chain(self.holes).collect()
    }

    /// Area, mm².
    #[must_use]
    pub fn area(&self) -> f64 {
        self.all().map(Ring::signed_area).sum()
    }
}

/// Chords are so many times finer where a place is looked at more closely.
const CLOSER: f64 = 1.0 / 16.0;
/// Shapes are laid over themselves so many times at most until they are sound.
const ROUNDS: i32 = 3;

/// Lays `clips` over `subjects`. Among each, an outer ring and the holes in it have opposite
/// directions, as in a shape.
#[must_use]
pub fn overlay(subjects: &[&Ring], clips: &[&Ring], keep: Keep) -> Vec<Rings> {
    laid(subjects, clips, keep, 0)
}

/// What [`overlay`] finds, with chords that are finer from round to round.
fn laid(subjects: &[&Ring], clips: &[&Ring], keep: Keep, round: i32) -> Vec<Rings> {
    let finer = CLOSER.powi(round);
    let chords = Chords::of(subjects.iter().chain(clips).copied(), finer);
    let (rule, fill) = match keep {
        Keep::Union => (OverlayRule::Union, FillRule::NonZero),
        Keep::Difference => (OverlayRule::Difference, FillRule::NonZero),
        Keep::Both => (OverlayRule::Intersect, FillRule::NonZero),
        Keep::Either => (OverlayRule::Xor, FillRule::NonZero),
        Keep::Positive => (OverlayRule::Subject, FillRule::Positive),
        Keep::Odd => (OverlayRule::Subject, FillRule::EvenOdd),
    };
    let found = polygons(&chords, subjects.len(), rule, fill);
    let sources: Vec<&Ring> = subjects.iter().chain(clips).copied().collect();
    let labels = label::Labels::new(&chords);
    let ring = |contour: &[chords::GridPoint]| {
        let labelled = labels.along(contour);
        rebuild::ring(&chords, &sources, &labelled)
    };
    let shapes = found.into_par_iter().filter_map(|contours| {
        let mut rings = contours.iter().map(|c| ring(c));
        let (outer, mut cut) = rings.next().flatten()?;
        let mut holes = Vec::new();
        for (hole, was_cut) in rings.flatten() {
            holes.push(hole);
            cut |= was_cut;
        }
        Some((Rings { outer, holes }, cut))
    });
    let parted = shapes.flat_map_iter(|(shape, cut)| {
        // Curves that were moved to where they meet may cross others nearer than their chords tell.
        let rings: Vec<&Ring> = shape.all().collect();
        if cut && round < ROUNDS && fault(&rings).is_some() {
            laid(&rings, &[], Keep::Union, round + 1)
        } else {
            vec![shape]
        }
    });
    parted.collect()
}

/// A place where rings cross themselves or each other, or run along each other; `None` for a proper
/// shape or several apart. Which way a lone ring runs is not looked at.
#[must_use]
pub fn fault(rings: &[&Ring]) -> Option<Point> {
    // Chords of curves that pass each other closely may cross where the curves do not.
    fault_at(rings, 1.0).and_then(|_| fault_at(rings, CLOSER * CLOSER))
}

fn fault_at(rings: &[&Ring], finer: f64) -> Option<Point> {
    let chords = Chords::of(rings.iter().copied(), finer);
    let found = polygons(
        &chords,
        rings.len(),
        OverlayRule::Subject,
        FillRule::NonZero,
    );
    let known = chords.corners();
    let mut count = 0;
    for contour in found.iter().flatten() {
        count += 1;
        let strange = contour.iter().find(|p| known.binary_search(p).is_err());
        if let Some(&place) = strange {
            return Some(chords.point(place));
        }
    }
    let corners: usize = found.iter().flatten().map(Vec::len).sum();
    let whole = count == rings.len() && corners == chords.count();
    (!whole).then(|| {
        rings
            .first()
            .map_or(Point::ORIGIN, |r| r.segments()[0].start())
    })
}

fn polygons(
    chords: &Chords,
    subjects: usize,
    rule: OverlayRule,
    fill: FillRule,
) -> Vec<Vec<Vec<chords::GridPoint>>> {
    let options = IntOverlayOptions {
        preserve_input_collinear: true,
        preserve_output_collinear: true,
        output_direction: ContourDirection::CounterClockwise,
        min_output_area: (SPECK_MM2 * chords.grid * chords.grid) as u64,
        ogc: true,
    };
    let mut overlay = Overlay::<i32>::new_custom(chords.count(), options, Default::default());
    for (n, contour) in chords.contours().enumerate() {
        let role = if n < subjects {
            ShapeType::Subject
        } else {
            ShapeType::Clip
        };
        overlay.add_contour(contour, role);
    }
    overlay.overlay(rule, fill)
}
