//! Paths as they are stored: a start and a list of figures for each segment.
//!
//! `[x, y]` is a line to a point, `[x, y, bulge]` an arc, `[x1, y1, x2, y2, x, y]` a cubic, mm. So
//! a stored edit is short and its figures are exact.

use kurbo::{CubicBez, Line, Point};
use serde::{Deserialize, Serialize};

use crate::segment::{Arc, Segment};

/// A path as it is stored.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct PathData {
    /// Where it starts, mm.
    pub start: [f64; 2],
    /// Its segments.
    pub to: Vec<Vec<f64>>,
    /// Whether it ends where it starts.
    #[serde(default)]
    pub closed: bool,
}

/// Figures that are no path.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PathDataError {
    /// Not 2, 3 or 6 figures.
    #[error("a segment of a path has {0} figures; a line has 2, an arc 3 and a cubic 6")]
    Figures(usize),
    /// Not a number, or beyond any material.
    #[error("a path has a figure that is no place on any material")]
    NoPlace,
    /// No segments.
    #[error("a path without segments")]
    Empty,
}

/// Places beyond this are no places, mm.
const FAR: f64 = 1e6;
/// A segment with a smaller bulge is a line.
const FLAT: f64 = 1e-9;

impl PathData {
    /// The path of some segments.
    #[must_use]
    pub fn of(segments: &[Segment], closed: bool) -> Self {
        let start = segments.first().map_or(Point::ORIGIN, Segment::start);
        let figures = |s: &Segment| match *s {
            Segment::Line(l) => vec![l.p1.x, l.p1.y],
            Segment::Arc(a) => vec![a.p1.x, a.p1.y, a.bulge],
            Segment::Cubic(c) => vec![c.p1.x, c.p1.y, c.p2.x, c.p2.y, c.p3.x, c.p3.y],
        };
        Self {
            start: [start.x, start.y],
            to: segments.iter().map(figures).collect(),
            closed,
        }
    }

    /// Its segments; a closed path gets a line back to its start where one is missing. Segments
    /// that go nowhere are left out.
    ///
    /// # Errors
    /// [`PathDataError`] for figures that are no path.
    pub fn segments(&self) -> Result<Vec<Segment>, PathDataError> {
        let all = self.to.iter().flatten().chain(&self.start);
        if all.into_iter().any(|v| !v.is_finite() || v.abs() > FAR) {
            return Err(PathDataError::NoPlace);
        }
        let start = Point::from((self.start[0], self.start[1]));
        let mut at = start;
        let mut segments = Vec::with_capacity(self.to.len() + 1);
        for figures in &self.to {
            let segment = match figures[..] {
                [x, y] => Segment::Line(Line::new(at, Point::new(x, y))),
                [x, y, bulge] if bulge.abs() < FLAT => {
                    Segment::Line(Line::new(at, Point::new(x, y)))
                }
                [x, y, bulge] => Segment::Arc(Arc {
                    p0: at,
                    p1: Point::new(x, y),
                    bulge,
                }),
                [x1, y1, x2, y2, x, y] => {
                    let [p1, p2, p3] = [(x1, y1), (x2, y2), (x, y)].map(Point::from);
                    Segment::Cubic(CubicBez::new(at, p1, p2, p3))
                }
                _ => return Err(PathDataError::Figures(figures.len())),
            };
            at = segment.end();
            if goes_somewhere(&segment) {
                segments.push(segment);
            }
        }
        if self.closed && at.distance(start) > NOWHERE {
            segments.push(Segment::Line(Line::new(at, start)));
        }
        if segments.is_empty() {
            return Err(PathDataError::Empty);
        }
        Ok(segments)
    }
}

/// Shorter than this is nowhere, mm.
pub(crate) const NOWHERE: f64 = 1e-6;

/// Whether a segment has a length.
pub(crate) fn goes_somewhere(segment: &Segment) -> bool {
    match segment {
        Segment::Cubic(c) => [c.p1, c.p2, c.p3]
            .iter()
            .any(|p| p.distance(c.p0) > NOWHERE),
        other => other.start().distance(other.end()) > NOWHERE,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_path_is_read_back_exactly() {
        let json = r#"{"start":[0.1,0.2],"to":[[3.0,0.2],[3.0,4.0,0.5],[1.0,5.0,0.5,3.0,0.1,0.2]],"closed":true}"#;
        let data: PathData = serde_json::from_str(json).unwrap();
        let segments = data.segments().unwrap();
        assert_eq!(segments.len(), 3);
        assert_eq!(PathData::of(&segments, true), data);
        assert_eq!(serde_json::to_string(&data).unwrap(), json);
    }

    #[test]
    fn figures_that_are_no_path_are_refused() {
        let with = |to: Vec<Vec<f64>>| PathData {
            start: [0.0, 0.0],
            to,
            closed: false,
        };
        assert_eq!(
            with(vec![vec![1.0; 4]]).segments(),
            Err(PathDataError::Figures(4))
        );
        for bad in [f64::NAN, f64::INFINITY, 1e300] {
            assert_eq!(
                with(vec![vec![bad, 1.0]]).segments(),
                Err(PathDataError::NoPlace)
            );
        }
        let nowhere = with(vec![vec![0.0, 0.0], vec![0.0; 6], vec![0.0, 0.0, 1.0]]);
        assert_eq!(nowhere.segments(), Err(PathDataError::Empty));
    }
}
