//! A ring: a closed path of lines, arcs and cubics, outer ones with positive area.

use kurbo::{BezPath, Point, Rect, Vec2};

use crate::segment::{Arc, Segment};

/// A closed path, mm.
///
/// # Guarantees
/// At least one segment; each starts where the one before it ends, the last ends where the first starts.
#[derive(Clone, Debug, PartialEq)]
pub struct Ring {
    pub(super) segments: Vec<Segment>,
    pub(super) strayed: Vec<f32>,
}

impl Ring {
    /// Chains segments into a ring; joints are made exact. `strayed` tells for every segment how
    /// far it lies off the artwork's edge, mm. `None` without a segment.
    #[must_use]
    pub fn new(mut segments: Vec<Segment>, mut strayed: Vec<f32>) -> Option<Self> {
        strayed.resize(segments.len(), 0.0);
        let first = segments.first()?.start();
        let (mut at, count) = (first, segments.len());
        for (n, segment) in segments.iter_mut().enumerate() {
            let end = if n + 1 == count { first } else { segment.end() };
            *segment = segment.between(at, end);
            at = end;
        }
        Some(Self { segments, strayed })
    }

    /// A circle of two arcs; `None` where its radius is none.
    #[must_use]
    pub fn circle(middle: Point, radius: f64) -> Option<Self> {
        let (right, left) = (
            middle + Vec2::new(radius, 0.0),
            middle - Vec2::new(radius, 0.0),
        );
        let half = |p0, p1| Segment::Arc(Arc { p0, p1, bulge: 1.0 });
        (radius > 0.0 && radius.is_finite())
            .then(|| Self::closed(vec![half(right, left), half(left, right)]))
    }

    /// Places along it, the first again at the end, so that straight steps between them err by at most `tolerance`, mm.
    #[must_use]
    pub fn chords(&self, tolerance: f64) -> Vec<Point> {
        let mut points = vec![self.segments[0].start()];
        for segment in &self.segments {
            segment.flatten(tolerance, &mut points);
        }
        points
    }

    /// A ring of segments that are known to be there.
    pub(crate) fn closed(segments: Vec<Segment>) -> Self {
        debug_assert!(!segments.is_empty());
        let strayed = vec![0.0; segments.len()];
        Self { segments, strayed }
    }

    /// Its segments in order.
    #[must_use]
    pub fn segments(&self) -> &[Segment] {
        &self.segments
    }

    /// How far each segment lies off the artwork's edge at most, mm.
    #[must_use]
    pub fn strayed(&self) -> &[f32] {
        &self.strayed
    }

    /// The same walked the other way.
    #[must_use]
    pub fn reversed(&self) -> Self {
        Self {
            segments: self.segments.iter().rev().map(Segment::reverse).collect(),
            strayed: self.strayed.iter().rev().copied().collect(),
        }
    }

    /// The least box around it.
    #[must_use]
    pub fn bounds(&self) -> Rect {
        let boxes = self.segments.iter().map(Segment::bounds);
        boxes.reduce(|a, b| a.union(b)).unwrap_or_default()
    }

    /// A place just inside it (of a hole, just outside the hole), beside the middle of its first
    /// segment.
    #[must_use]
    pub fn beside(&self) -> Point {
        let segment = &self.segments[0];
        let along = segment.derivative(0.5);
        let long = along.hypot();
        let step = 0.02_f64.min(long / 4.0);
        let inward = if long > 0.0 {
            Vec2::new(-along.y, along.x) / long * step
        } else {
            Vec2::ZERO
        };
        segment.eval(0.5) + inward
    }

    /// Signed area, mm²: positive for an outer ring.
    #[must_use]
    pub fn signed_area(&self) -> f64 {
        self.segments.iter().map(Segment::signed_area).sum()
    }

    /// Length, mm.
    #[must_use]
    pub fn length(&self) -> f64 {
        self.segments.iter().map(Segment::length).sum()
    }

    /// As a closed path; arcs as cubics.
    #[must_use]
    pub fn path(&self) -> BezPath {
        let mut path = BezPath::new();
        path.move_to(self.segments[0].start());
        for element in self.segments.iter().flat_map(Segment::elements) {
            path.push(element);
        }
        path.close_path();
        path
    }
}
