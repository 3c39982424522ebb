//! The outline of one ink as steps that can be asked where a ray first meets them.

use kurbo::{Point, Vec2};
use rstar::primitives::{GeomWithData, Line};
use rstar::{AABB, RTree};

use crate::boundary::{PlanarMap, RegionId, Side};

type EdgeChord = GeomWithData<Line<[f64; 2]>, RegionId>;

/// The sub-pixel boundary of one ink, px.
pub(super) struct Outline(RTree<EdgeChord>);

/// Where a ray meets the outline.
#[derive(Clone, Copy, Debug)]
pub(super) struct Hit {
    /// Distance along the ray, px.
    pub away: f64,
    /// The region of the ink whose outline it is.
    pub region: RegionId,
}

impl Outline {
    pub(super) fn of(map: &PlanarMap, ink: u8) -> Self {
        let mut steps = Vec::new();
        for edge in &map.edges {
            let region = |side: Side| (side.ink == ink).then_some(side.region);
            let Some(region) = region(edge.left).or(region(edge.right)) else {
                continue;
            };
            let points = &edge.points;
            let back = edge
                .ends
                .is_none()
                .then(|| [points[points.len() - 1], points[0]]);
            let along = points.windows(2).map(|p| [p[0], p[1]]);
            steps.extend(
                along
                    .chain(back)
                    .map(|[a, b]| GeomWithData::new(Line::new([a.x, a.y], [b.x, b.y]), region)),
            );
        }
        Self(RTree::bulk_load(steps))
    }

    /// The first step that a ray meets within `most` px; `along` has length 1.
    pub(super) fn hit(&self, from: Point, along: Vec2, most: f64) -> Option<Hit> {
        let to = from + along * most;
        let around = AABB::from_corners([from.x, from.y], [to.x, to.y]);
        let mut nearest: Option<Hit> = None;
        for step in self.0.locate_in_envelope_intersecting(around) {
            let line = step.geom();
            let a = Point::from((line.from[0], line.from[1])) - from;
            let b = Point::from((line.to[0], line.to[1])) - from;
            let (ca, cb) = (along.cross(a), along.cross(b));
            // A step that starts on the ray belongs to it, one that ends there does not.
            if (ca >= 0.0) == (cb >= 0.0) {
                continue;
            }
            let away = along.dot(a.lerp(b, ca / (ca - cb)));
            let nearer = nearest.is_none_or(|hit| away < hit.away);
            if (0.0..=most).contains(&away) && nearer {
                let region = step.data;
                nearest = Some(Hit { away, region });
            }
        }
        nearest
    }
}
