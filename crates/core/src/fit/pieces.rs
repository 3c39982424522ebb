//! Pieces: the longest straight line or smooth cubic that holds the tolerance, one after another
//! along a run.
//!
//! A piece is taken only after its distance from every boundary point was measured, and after it
//! was seen to stay by them. Pieces meet in boundary points with the tangent of the run, so joints
//! are smooth. A step from one point to the next always holds, so this ends.

use std::ops::Range;

use kurbo::{CubicBez, Line, ParamCurve, ParamCurveNearest, PathSeg, Point};

use crate::fit::FittedEdge;
use crate::fit::corners::Run;
use crate::fit::samples::Samples;

/// Accuracies tried, as parts of the tolerance: `kurbo` tests its fit at a few points only, so the
/// first is below one.
const ACCURACIES: [f64; 2] = [1.0, 0.6];
/// Points that the first piece tried runs along.
const FIRST_LENGTH: usize = 16;
/// Most that a cubic may turn, radians: a third of a circle keeps round things round.
const MOST_SWING: f64 = 2.1;
/// A line may leave the smooth run by a kink of no more than this, as a cosine (2.5°).
const STRAIGHT_COS: f64 = 0.999;
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
    let last = run.points.len() - 1;
    let mut greedy = Vec::new();
    let mut at = 0;
    while at < last {
        let (length, piece) = longest_piece(&samples, &run.points, at, tolerance);
        greedy.push(piece);
        at += length;
    }
    // As many pieces of equal length, where they hold too, follow more closely and look even.
    let count = greedy.len();
    let cut = |n: usize| last * n / count;
    let even: Option<Vec<Piece>> = (0..count)
        .map(|n| piece(&samples, &run.points, cut(n)..cut(n + 1), tolerance))
        .collect();
    for (segment, distances) in even.unwrap_or(greedy) {
        edge.segments.push(segment);
        edge.deviation.extend(distances);
    }
}

/// A segment and the distances from it of the points it stands for.
type Piece = (PathSeg, Vec<f32>);

/// The longest piece that holds from a point on, and how many steps it runs along.
///
/// The length is doubled while a piece holds, then searched by halves: as many fits as the length
/// has binary digits.
fn longest_piece(
    samples: &Samples,
    points: &[Point],
    from: usize,
    tolerance: f64,
) -> (usize, Piece) {
    let most = points.len() - 1 - from;
    // A step from one point to the next always holds.
    let step = PathSeg::Line(Line::new(points[from], points[from + 1]));
    let (mut holds, mut fails) = (1, most + 1);
    let mut best = (step, vec![0.0; 2]);
    let mut length = FIRST_LENGTH.min(most);
    while holds < length && length < fails {
        match piece(samples, points, from..from + length, tolerance) {
            Some(found) => (holds, best) = (length, found),
            None => fails = length,
        }
        length = if fails > most {
            (2 * length).min(most)
        } else {
            (holds + fails) / 2
        };
    }
    (holds, best)
}

/// One line or one cubic along a stretch of points, with their distances from it, if it holds.
fn piece(
    samples: &Samples,
    points: &[Point],
    stretch: Range<usize>,
    tolerance: f64,
) -> Option<Piece> {
    let own = &points[stretch.start..=stretch.end];
    let held = |segment: PathSeg| {
        let (distances, _) = distances(own, &[segment], tolerance)?;
        stays_near(&segment, own, 0..own.len(), tolerance).then_some((segment, distances))
    };
    let (start, end) = (own[0], own[own.len() - 1]);
    let along = (end - start).normalize();
    let straight = [stretch.start, stretch.end]
        .iter()
        .all(|&i| along.dot(samples.tangent(i)) > STRAIGHT_COS);
    if straight && let Some(line) = held(PathSeg::Line(Line::new(start, end))) {
        return Some(line);
    }
    if samples.swing(&stretch) > MOST_SWING {
        return None;
    }
    for part in ACCURACIES {
        let cubic = kurbo::fit_to_cubic(samples, samples.range(&stretch), tolerance * part);
        if let Some((cubic, _)) = cubic
            && is_plain(&cubic)
            && let Some(found) = held(PathSeg::Cubic(cubic))
        {
            return Some(found);
        }
    }
    None
}

/// Whether both handles point along the chord and reach no farther than it: no loop, no fold.
fn is_plain(cubic: &CubicBez) -> bool {
    let chord = cubic.p3 - cubic.p0;
    [cubic.p1 - cubic.p0, cubic.p3 - cubic.p2]
        .iter()
        .all(|handle| handle.dot(chord) >= 0.0 && handle.hypot2() <= chord.hypot2())
}

/// Takes the pieces when every point lies within the tolerance of them.
fn accept(points: &[Point], pieces: Vec<PathSeg>, tolerance: f64, edge: &mut FittedEdge) -> bool {
    let Some((distances, _)) = distances(points, &pieces, tolerance) else {
        return false;
    };
    edge.segments.extend(pieces);
    edge.deviation.extend(distances);
    true
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
