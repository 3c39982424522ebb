//! Lead-in: a beam is switched on in the waste, and comes onto the line from there.
//!
//! ```text
//!        ╲ lead       The pierced spot lies beside the part: outside an outer ring, inside a hole.
//!   ──────●─────►     A lead that would come near another line is shortened, and at last left out.
//! ```

use kurbo::{Line, Point, Vec2};
use rstar::primitives::Line as Chord;
use rstar::{PointDistance, RTree};

use crate::cutting::Cutting;
use crate::segment::Segment;

/// A lead keeps at least this part of its way from every line.
const CLEAR: f64 = 0.6;
/// Chords of the lines that it keeps clear of err by at most this, mm.
const TOLERANCE: f64 = 0.05;
/// Shorter leads are none, mm.
const SHORTEST: f64 = 0.3;

/// Every line of a page, to be asked how near it is.
pub(super) struct Waste {
    chords: RTree<Chord<[f64; 2]>>,
    page: [f64; 2],
}

impl Waste {
    pub(super) fn of(cutting: &Cutting) -> Self {
        let mut chords = Vec::new();
        for layer in &cutting.layers {
            let rings = layer.rings().map(crate::shapes::Ring::segments);
            let lines = layer.lines.iter().map(|l| l.segments.as_slice());
            for segments in rings.chain(lines) {
                let mut points = vec![segments[0].start()];
                for segment in segments {
                    segment.flatten(TOLERANCE, &mut points);
                }
                let chord = |w: &[Point]| Chord::new([w[0].x, w[0].y], [w[1].x, w[1].y]);
                chords.extend(points.windows(2).map(chord));
            }
        }
        Self {
            chords: RTree::bulk_load(chords),
            page: cutting.size,
        }
    }

    /// The lead onto the start of a part's edge, which has the part on its right on the screen: `length`
    /// mm or shorter; `None` where there is no room.
    pub(super) fn lead(&self, segments: &[Segment], length: f64) -> Option<Line> {
        let (first, last) = (segments.first()?, segments.last()?);
        let at = first.start();
        let out = |way: Vec2| {
            let way = way.normalize();
            Vec2::new(way.y, -way.x)
        };
        let (before, after) = (out(last.tangent(true)), out(first.tangent(false)));
        let away = (before + after).normalize();
        // Straight back out of a corner that closes up there is no way between its sides.
        let away = if away.is_finite() { away } else { after };
        let mut long = length;
        while long >= SHORTEST {
            let from = at + away * long;
            let clear = [0.35, 0.7, 1.0].iter().all(|&part| {
                let p = at + away * (long * part);
                self.far(p) >= long * part * CLEAR
            });
            let inside =
                (0.0..=self.page[0]).contains(&from.x) && (0.0..=self.page[1]).contains(&from.y);
            if clear && inside {
                return Some(Line::new(from, at));
            }
            long /= 2.0;
        }
        None
    }

    fn far(&self, p: Point) -> f64 {
        let p = [p.x, p.y];
        let near = self.chords.nearest_neighbor(p);
        near.map_or(f64::INFINITY, |c| c.distance_2(&p).sqrt())
    }
}
