//! Pieces: the fewest straight lines, circular arcs and cubics along a run, within the tolerance.
//!
//! ```text
//!                              0  straight stretches, whole
//!   ·──────────────·────.      1  between them the farthest-reaching pieces, directions free
//!   line            arc  `.    2  a direction for every joint: that of its line or arc, else
//!                          ·      between those of its two cubics
//!                 cubic   ;    3  cubics fitted again along these directions, so joints are smooth
//! ```
//!
//! A piece is taken only after its distance from every boundary point was measured, and after it
//! was seen to stay by them. A step from one point to the next always holds, so this ends.

use kurbo::{Line, Point};

use crate::fit::corners::Run;
use crate::fit::guide::{Guide, Limits, Piece, Tight};
use crate::fit::{FittedEdge, fewer, joints, reach, straight};
use crate::segment::Segment;

/// Runs of fewer points than this are drawn point by point.
pub(super) const FEW_POINTS: usize = 4;
/// Pieces that are added at most to each row of cubics so that their joints come smooth.
const MOST_MORE: usize = 2;

/// The pieces along a run; `joints` are where pieces may meet, one for each of its points.
pub(super) fn fit_run(run: &Run, joints: &[Point], limits: Limits, tight: &Tight) -> FittedEdge {
    let points = &run.points[..];
    let guide = Guide {
        points,
        joints,
        parts: &tight.parts(points, limits.px),
        closed: run.smooth_loop,
        limits,
    };
    if !run.smooth_loop
        && let Some(line) = reach::whole_line(guide)
    {
        return FittedEdge::from_iter([line]);
    }
    let least = if run.smooth_loop {
        2 * FEW_POINTS + 1
    } else {
        FEW_POINTS
    };
    if points.len() < least {
        return FittedEdge::straight(points, points.len() - 1);
    }
    let mut pieces: Vec<Piece> = Vec::new();
    let mut at = 0;
    let between = |pieces: &mut Vec<Piece>, at: &mut usize, to: usize| {
        while *at < to {
            let piece = reach::farthest(guide, *at, to);
            *at = piece.stretch.end;
            pieces.push(piece);
        }
    };
    for line in straight::lines(guide) {
        between(&mut pieces, &mut at, line.stretch.start);
        at = line.stretch.end;
        pieces.push(line);
    }
    between(&mut pieces, &mut at, guide.last());
    // Where free pieces do not join smoothly they are divided; a piece more from the start may do
    // with fewer in all.
    let mut best: Vec<Piece> = Vec::new();
    for more in 0..=MOST_MORE {
        let even = joints::evened(guide, &pieces, more);
        let found = joints::joined(guide, &even);
        let divided = found.len() > even.len();
        let found = fewer::fewer(guide, found);
        if best.is_empty() || found.len() < best.len() {
            best = found;
        }
        if !divided {
            break;
        }
    }
    best.into_iter().collect()
}

/// Lines and arcs along a run, one after the other.
pub(super) fn lines_and_arcs(run: &Run, limits: Limits) -> FittedEdge {
    let guide = Guide {
        points: &run.points,
        joints: &run.points,
        parts: &[],
        closed: run.smooth_loop,
        limits,
    };
    let (mut at, last) = (0, guide.last());
    let pieces = std::iter::from_fn(|| {
        (at < last).then(|| {
            let piece = reach::line_or_arc(guide, at, last);
            at = piece.stretch.end;
            piece
        })
    });
    pieces.collect()
}

impl FromIterator<Piece> for FittedEdge {
    fn from_iter<I: IntoIterator<Item = Piece>>(pieces: I) -> Self {
        let mut edge = Self::default();
        for piece in pieces {
            edge.segments.push(piece.segment);
            edge.strayed
                .push(piece.off.iter().copied().fold(0.0, f32::max));
            edge.deviation.extend(piece.off);
        }
        edge
    }
}

impl FittedEdge {
    /// Straight from point to point; `count` boundary points lie on it.
    pub(super) fn straight(points: &[Point], count: usize) -> Self {
        let segments: Vec<Segment> = points
            .windows(2)
            .filter(|p| p[0] != p[1])
            .map(|p| Segment::Line(Line::new(p[0], p[1])))
            .collect();
        Self {
            strayed: vec![0.0; segments.len()],
            segments,
            deviation: vec![0.0; count],
        }
    }

    /// What comes after it along the same edge.
    pub(super) fn append(&mut self, mut next: Self) {
        self.segments.append(&mut next.segments);
        self.strayed.append(&mut next.strayed);
        self.deviation.append(&mut next.deviation);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn fitted(run: &Run, tolerance: f64) -> FittedEdge {
        let limits = Limits {
            tolerance,
            wobble: 0.0,
            px: 1.0,
        };
        fit_run(run, &run.points, limits, &Tight::default())
    }

    fn ellipse(a: f64, b: f64, n: usize) -> Run {
        let points = (0..=n)
            .map(|i| {
                let (sin, cos) = ((i % n) as f64 / n as f64 * std::f64::consts::TAU).sin_cos();
                Point::new(a * cos, b * sin)
            })
            .collect();
        Run {
            points,
            smooth_loop: true,
        }
    }

    #[test]
    fn no_point_is_farther_off_than_the_tolerance() {
        for tolerance in [0.5, 0.1, 0.02, 0.002] {
            let run = ellipse(40.0, 25.0, 300);
            let edge = fitted(&run, tolerance);
            let worst = run.points.iter().map(|&p| {
                edge.segments
                    .iter()
                    .map(|s| s.distance(p, 1e-6))
                    .fold(f64::INFINITY, f64::min)
            });
            let worst = worst.fold(0.0, f64::max);
            assert!(worst <= tolerance + 1e-6, "{tolerance}: {worst}");
            let told = edge.deviation.iter().copied().fold(0.0, f32::max);
            assert!(f64::from(told) + 1e-6 >= worst, "told {told}, is {worst}");
        }
    }

    #[test]
    fn joints_of_a_smooth_loop_are_smooth() {
        let edge = fitted(&ellipse(60.0, 22.0, 400), 0.05);
        let n = edge.segments.len();
        assert!(n <= 8, "{n}");
        for i in 0..n {
            let (a, b) = (
                edge.segments[i].tangent(true),
                edge.segments[(i + 1) % n].tangent(false),
            );
            assert!(a.normalize().dot(b.normalize()) > 0.9999, "joint {i}");
        }
    }

    #[test]
    fn a_straight_run_is_one_line() {
        let points = (0..50)
            .map(|i| Point::new(f64::from(i), 0.05 * f64::from(i % 2)))
            .collect();
        let run = Run {
            points,
            smooth_loop: false,
        };
        assert!(matches!(
            fitted(&run, 0.1).segments.as_slice(),
            [Segment::Line(_)]
        ));
    }
}
