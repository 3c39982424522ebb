//! What a run is fitted to: its points, where joints may lie, and how closely it must be held.

use std::ops::Range;

use kurbo::Point;

use crate::segment::Segment;

/// Part of the tolerance for lines and arcs, which say more than a cubic does …
const STRICT: f64 = 0.4;
/// … and wobbles that they may leave.
const WOBBLES: f64 = 2.6;
/// A part of the tolerance holds so far around a place that is tight, px.
const TIGHT_PX: f64 = 5.0;
/// Below this part of the tolerance corners are not restored and wobble is not smoothed.
const KEPT: f32 = 0.3;

/// What a run is fitted with, mm.
#[derive(Clone, Copy)]
pub(super) struct Limits {
    pub tolerance: f64,
    /// Typical wobble of the edge.
    pub wobble: f64,
    /// Side of a pixel.
    pub px: f64,
}

impl Limits {
    /// How closely lines and arcs are held.
    pub(super) fn strict(&self) -> f64 {
        (STRICT * self.tolerance)
            .max(WOBBLES * self.wobble)
            .min(self.tolerance)
    }
}

/// Places where only a part of the tolerance may be used, since curves would cross there.
#[derive(Clone, Debug, Default)]
pub(super) struct Tight {
    /// The places, mm, and the part that holds around each.
    pub places: Vec<(Point, f32)>,
}

impl Tight {
    /// The part of the tolerance that holds at a point.
    fn part(&self, p: Point, px: f64) -> f32 {
        let near = |place: Point| p.distance_squared(place) < (TIGHT_PX * px).powi(2);
        let around = self.places.iter().filter(|place| near(place.0));
        around.fold(1.0, |least: f32, place| least.min(place.1))
    }

    /// The part at each of some points; empty where it is all of it everywhere.
    pub(super) fn parts(&self, points: &[Point], px: f64) -> Vec<f32> {
        if self.places.is_empty() {
            return Vec::new();
        }
        points.iter().map(|&p| self.part(p, px)).collect()
    }

    /// Whether edges are so close here that their points are left where they are.
    pub(super) fn keeps(&self, p: Point, px: f64) -> bool {
        self.part(p, px) < KEPT
    }
}

/// A piece along a stretch of points, and how far each of them lies off.
#[derive(Clone)]
pub(super) struct Piece {
    pub stretch: Range<usize>,
    pub segment: Segment,
    pub off: Vec<f32>,
}

impl Piece {
    pub(super) fn is_cubic(&self) -> bool {
        matches!(self.segment, Segment::Cubic(_))
    }

    pub(super) fn is_line(&self) -> bool {
        matches!(self.segment, Segment::Line(_))
    }
}

/// Points to follow, and where a joint would lie at each of them.
#[derive(Clone, Copy)]
pub(super) struct Guide<'a> {
    pub points: &'a [Point],
    pub joints: &'a [Point],
    /// Part of the tolerance that holds at each point; empty where it is all of it everywhere.
    pub parts: &'a [f32],
    /// Whether the run is a whole closed edge.
    pub closed: bool,
    pub limits: Limits,
}

impl<'a> Guide<'a> {
    /// Number of the last point.
    pub(super) fn last(&self) -> usize {
        self.points.len() - 1
    }

    /// The points of a stretch, and where a piece along it starts and ends.
    pub(super) fn own(&self, stretch: &Range<usize>) -> (&'a [Point], [Point; 2]) {
        (
            &self.points[stretch.start..=stretch.end],
            [self.joints[stretch.start], self.joints[stretch.end]],
        )
    }

    fn parts_of(&self, stretch: &Range<usize>) -> &'a [f32] {
        self.parts
            .get(stretch.start..=stretch.end)
            .unwrap_or_default()
    }

    /// The least part of the tolerance along a stretch.
    pub(super) fn tightest(&self, stretch: &Range<usize>) -> f64 {
        let parts = self.parts_of(stretch).iter();
        parts.fold(1.0, |least, &part| least.min(part.into()))
    }

    /// A piece, if it holds where only a part of the tolerance is left.
    pub(super) fn held(&self, piece: Piece) -> Option<Piece> {
        let most = self.limits.tolerance as f32;
        let mut tight = self.parts_of(&piece.stretch).iter().zip(&piece.off);
        tight
            .all(|(part, off)| *off <= part * most)
            .then_some(piece)
    }
}
