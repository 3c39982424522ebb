//! Pieces: one straight line, else as few smooth cubics as hold the tolerance, along one run.
//!
//! A fit is taken only after its distance from every boundary point was measured. Where the
//! cubics miss, they are asked for more closely, then the run is halved at its worst point; two
//! points always fit a line, so this ends.

use std::ops::Range;

use kurbo::{Line, ParamCurve, ParamCurveNearest, PathSeg, Point};

use crate::fit::FittedEdge;
use crate::fit::corners::Run;
use crate::fit::samples::Samples;

/// Accuracies tried, as parts of the tolerance: `kurbo` tests its fit at a few points only, so the
/// first is below one.
const ACCURACIES: [f64; 4] = [0.9, 0.6, 0.35, 0.15];
/// Runs of fewer points than this are drawn point by point.
const FEW_POINTS: usize = 4;

/// Fits one run and adds its pieces and deviations to `edge`.
pub(super) fn fit_run(run: &Run, tolerance: f64, edge: &mut FittedEdge) {
    let (first, last) = (run.points[0], run.points[run.points.len() - 1]);
    if run.smooth_loop && run.points.len() <= 2 * FEW_POINTS {
        return polyline(&run.points, edge);
    }
    if !run.smooth_loop {
        let line = PathSeg::Line(Line::new(first, last));
        if accept(&run.points, vec![line], tolerance, edge) {
            return;
        }
        if run.points.len() < FEW_POINTS {
            return polyline(&run.points, edge);
        }
    }
    let samples = Samples::new(&run.points, run.smooth_loop);
    for part in ACCURACIES {
        let path = kurbo::fit_to_bezpath(&samples, tolerance * part);
        let pieces: Vec<PathSeg> = path.segments().collect();
        if accept(&run.points, pieces, tolerance, edge) {
            return;
        }
    }
    let middle = farthest_from_chord(&run.points);
    for half in [&run.points[..=middle], &run.points[middle..]] {
        fit_run(
            &Run {
                points: half.to_vec(),
                smooth_loop: false,
            },
            tolerance,
            edge,
        );
    }
}

/// Takes the pieces when every point lies within the tolerance of them, and they of the points.
fn accept(points: &[Point], pieces: Vec<PathSeg>, tolerance: f64, edge: &mut FittedEdge) -> bool {
    let Some((distances, served)) = distances(points, &pieces, tolerance) else {
        return false;
    };
    let near = pieces
        .iter()
        .zip(served)
        .all(|(piece, range)| stays_near(piece, points, range, tolerance));
    if near {
        edge.segments.extend(pieces);
        edge.deviation.extend(distances);
    }
    near
}

/// Distance of every point from the pieces, in order, and the points that each piece serves;
/// `None` once a distance is above the tolerance.
fn distances(
    points: &[Point],
    pieces: &[PathSeg],
    tolerance: f64,
) -> Option<(Vec<f32>, Vec<Range<usize>>)> {
    // Points and pieces run the same way, so each point looks at the piece of the point before
    // it, and at the next ones while they are nearer.
    let accuracy = tolerance * 0.01;
    let mut at = 0;
    let mut found = Vec::with_capacity(points.len());
    let mut served = vec![0..0; pieces.len()];
    for (i, &p) in points.iter().enumerate() {
        let mut best = pieces.get(at)?.nearest(p, accuracy).distance_sq;
        while let Some(next) = pieces.get(at + 1) {
            let d = next.nearest(p, accuracy).distance_sq;
            if d > best {
                break;
            }
            best = d;
            at += 1;
            served[at] = i..i;
        }
        let d = best.sqrt();
        if d.is_nan() || d > tolerance {
            return None;
        }
        served[at].end = i + 1;
        found.push(d as f32);
    }
    Some((found, served))
}

/// Places along a curve that are looked at.
const LOOKS: usize = 12;
/// Between two boundary points a curve may bulge a little past the tolerance.
const BULGE: f64 = 1.5;

/// Whether a curve stays by the boundary it stands for: one that passes every point may still
/// swing out in a loop or a spike between two of them.
fn stays_near(piece: &PathSeg, points: &[Point], range: Range<usize>, tolerance: f64) -> bool {
    if matches!(piece, PathSeg::Line(_)) {
        return true;
    }
    let around = &points[range.start.saturating_sub(2)..(range.end + 2).min(points.len())];
    let steps: Vec<Line> = around.windows(2).map(|p| Line::new(p[0], p[1])).collect();
    let reach = tolerance * BULGE;
    (1..LOOKS).all(|n| {
        let p = piece.eval(n as f64 / LOOKS as f64);
        steps
            .iter()
            .any(|step| step.nearest(p, 1e-9).distance_sq <= reach * reach)
    })
}

fn polyline(points: &[Point], edge: &mut FittedEdge) {
    for pair in points.windows(2) {
        if pair[0] != pair[1] {
            edge.segments
                .push(PathSeg::Line(Line::new(pair[0], pair[1])));
        }
        edge.deviation.push(0.0);
    }
}

/// Index of the inner point farthest from the straight line between the ends.
fn farthest_from_chord(points: &[Point]) -> usize {
    let last = points.len() - 1;
    let chord = Line::new(points[0], points[last]);
    let distance = |p: Point| {
        if chord.p0 == chord.p1 {
            p.distance(chord.p0)
        } else {
            chord.nearest(p, 1e-9).distance_sq
        }
    };
    let inner = 1..last;
    inner
        .max_by(|&a, &b| distance(points[a]).total_cmp(&distance(points[b])))
        .unwrap_or(last / 2)
}

#[cfg(test)]
mod tests {
    use super::*;
    use kurbo::Vec2;

    fn fitted(run: &Run, tolerance: f64) -> FittedEdge {
        let mut edge = FittedEdge {
            segments: Vec::new(),
            deviation: Vec::new(),
        };
        fit_run(run, tolerance, &mut edge);
        edge
    }

    fn circle(r: f64, n: usize) -> Run {
        let points = (0..=n)
            .map(|i| {
                Point::ORIGIN
                    + Vec2::from_angle((i % n) as f64 / n as f64 * std::f64::consts::TAU) * r
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
            let edge = fitted(&circle(40.0, 300), tolerance);
            let worst = edge.deviation.iter().copied().fold(0.0, f32::max);
            assert!(f64::from(worst) <= tolerance, "{tolerance}: {worst}");
        }
    }

    #[test]
    fn a_circle_takes_few_cubics_and_is_closed() {
        let edge = fitted(&circle(40.0, 300), 0.1);
        assert!(edge.segments.len() <= 4, "{}", edge.segments.len());
        let (start, end) = (
            edge.segments[0].start(),
            edge.segments[edge.segments.len() - 1].end(),
        );
        assert!(start.distance(end) < 1e-9);
    }

    #[test]
    fn a_straight_run_is_one_line() {
        let points = (0..50)
            .map(|i| Point::new(f64::from(i), 0.05 * f64::from(i % 2)))
            .collect();
        let edge = fitted(
            &Run {
                points,
                smooth_loop: false,
            },
            0.1,
        );
        assert!(matches!(edge.segments.as_slice(), [PathSeg::Line(_)]));
    }
}
