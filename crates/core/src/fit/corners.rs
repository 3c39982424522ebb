//! Corners: where the boundary turns at every scale looked at, restored to where its sides meet.
//!
//! ```text
//!         × restored            The soft pixels round a corner off (·). Its two sides, from one
//!        ╱·╲                    to a few px away, still point at where it was (×).
//!       ╱· ·╲
//!     ╱──1 px─╲    A bend is a corner when the turn between its arms is large at a short arm
//!    ╱         ╲   already: along a round bend the turn grows in proportion to the arm instead.
//! ```

use kurbo::{Line, Point};

use crate::fit::track::Track;
use crate::least_squares::line_through;
use crate::units::Degrees;

/// Arms over which the turn is taken, px: the short one and the long one.
const ARMS_PX: [f64; 2] = [2.0, 4.0];
/// Least part of the long arm's turn that the short arm must show (a round bend shows half).
const SHARPNESS: f64 = 0.7;
/// Corners closer than this are one, px.
const APART_PX: f64 = 2.0;
/// The sides are looked at from here …
const SIDE_FROM_PX: f64 = 0.95;
/// … for this far, px.
const SIDE_TO_PX: f64 = 3.2;
/// A corner is moved no farther than this, px.
const REACH_PX: f64 = 2.0;

/// A stretch of boundary without a corner inside.
#[derive(Clone, Debug)]
pub(super) struct Run {
    /// Its points, mm, both ends included.
    pub points: Vec<Point>,
    /// Whether it is a whole closed edge without a corner (the last point repeats the first).
    pub smooth_loop: bool,
}

impl Track<'_> {
    /// Turn between the arms of a length on both sides, radians.
    fn turn(&self, s: f64, arm: f64) -> Option<f64> {
        let (before, here, after) = (self.at(s - arm)?, self.at(s)?, self.at(s + arm)?);
        let (u, v) = (here - before, after - here);
        Some(u.cross(v).atan2(u.dot(v)))
    }

    /// The line along one side of a corner, away from it (`direction` −1 before it, 1 after it).
    fn side(&self, s: f64, direction: f64, from: f64, to: f64) -> Option<Line> {
        const STEPS: usize = 8;
        let mut points = Vec::with_capacity(STEPS + 1);
        for i in 0..=STEPS {
            let away = from + (to - from) * i as f64 / STEPS as f64;
            points.push(self.at(s + direction * away)?);
        }
        let (middle, along) = line_through(&points)?;
        Some(Line::new(middle, middle + along))
    }
}

/// The lengths by which corners are found, mm.
#[derive(Clone, Copy, Debug)]
pub(super) struct Scale {
    /// What stands for a pixel in the arms and the sides: more where the edge wobbles.
    px: f64,
    /// Points nearer to a corner than this are rounded off.
    rounded: f64,
}

/// The arms grow with the wobble of the edge, px of arm for each px of wobble …
const GROWTH: f64 = 6.0;
/// … up to this many times.
const MOST_GROWTH: f64 = 2.2;
/// Mixed pixels across an edge that a smooth rendering shows.
const SMOOTH_WIDTH: f64 = 1.5;

/// The arms of a corner between drawn lines stand for this part of a width; the middle is rounded
/// off over this part of it.
const LINE_ARM: f64 = 0.5;
const LINE_ROUNDED: f64 = 0.75;

impl Scale {
    /// For the middle of a drawn line of a width, mm.
    pub(super) fn of_line(px: f64, width: f64) -> Self {
        Self {
            px: px.max(LINE_ARM * width),
            rounded: (SIDE_FROM_PX * px).max(LINE_ROUNDED * width),
        }
    }

    /// For pixels of a size, mm, an edge with a wobble, mm, and so many mixed pixels across it.
    pub(super) fn new(px: f64, wobble: f64, edge_width: f64) -> Self {
        let growth = (1.0 + GROWTH * wobble / px).min(MOST_GROWTH);
        let blur = (edge_width / SMOOTH_WIDTH).clamp(1.0, MOST_GROWTH);
        Self {
            px: px * growth.max(blur.sqrt()),
            rounded: SIDE_FROM_PX * px * growth.max(blur),
        }
    }
}

/// Cuts a boundary at its corners, each restored.
///
/// Where `keeps` holds a corner stays where the boundary has it.
pub(super) fn runs(
    points: &[Point],
    closed: bool,
    scale: Scale,
    least_turn: Degrees,
    keeps: &dyn Fn(Point) -> bool,
) -> Vec<Run> {
    let boundary = Track::new(points, closed);
    let px = scale.px;
    let corners = find(&boundary, px, least_turn.get().to_radians());
    let restored: Vec<Corner> = corners
        .iter()
        .enumerate()
        .map(|(n, &i)| {
            if keeps(points[i]) {
                return Corner::stays(i, points[i]);
            }
            restore(&boundary, &corners, n, i, scale)
        })
        .collect();
    match (closed, restored.as_slice()) {
        (true, []) => {
            let mut points = points.to_vec();
            points.extend(points.first().copied());
            vec![Run {
                points,
                smooth_loop: true,
            }]
        }
        (true, corners) => {
            let last = corners.len() - 1;
            (0..corners.len())
                .map(|n| {
                    let next = if n == last { 0 } else { n + 1 };
                    between(&boundary, &corners[n], &corners[next], scale)
                })
                .collect()
        }
        (false, corners) => {
            let end = |i: usize| Corner::stays(i, points[i]);
            let mut all = vec![end(0)];
            all.extend(corners.iter().cloned());
            all.push(end(points.len() - 1));
            all.windows(2)
                .map(|pair| between(&boundary, &pair[0], &pair[1], scale))
                .collect()
        }
    }
}

#[derive(Clone, Debug)]
struct Corner {
    index: usize,
    /// Where the run ends.
    at: Point,
    /// Where the boundary bends most.
    bend: Point,
    moved: bool,
}

impl Corner {
    /// The boundary's own point.
    fn stays(index: usize, at: Point) -> Self {
        Self {
            index,
            at,
            bend: at,
            moved: false,
        }
    }
}

/// Points whose turn holds at both arms and is greatest around them, in order.
fn find(boundary: &Track<'_>, px: f64, least_turn: f64) -> Vec<usize> {
    let [short, long] = ARMS_PX.map(|a| a * px);
    if boundary.total() < 4.0 * long {
        return Vec::new();
    }
    let strength: Vec<f64> = (0..boundary.points.len())
        .map(|i| {
            let s = boundary.length[i];
            let near = boundary.turn(s, short);
            // Close to a junction only the short arm fits.
            let far = boundary.turn(s, long).or(near);
            match (near, far) {
                (Some(n), Some(f)) if n * f > 0.0 && n.abs() >= SHARPNESS * f.abs() => {
                    // The short arm's turn is blunted by the soft pixels: the long one decides.
                    f.abs().max(n.abs())
                }
                _ => 0.0,
            }
        })
        .collect();
    let mut order: Vec<usize> = (0..strength.len())
        .filter(|&i| strength[i] >= least_turn)
        .collect();
    // The sharpest first, judged by the short arm, so that the corner is where the bend is.
    let sharp = |i: usize| {
        boundary
            .turn(boundary.length[i], short)
            .unwrap_or(0.0)
            .abs()
    };
    order.sort_by(|&a, &b| sharp(b).total_cmp(&sharp(a)).then(a.cmp(&b)));
    let mut taken: Vec<usize> = Vec::new();
    for i in order {
        let far =
            |&j: &usize| boundary.apart(boundary.length[i], boundary.length[j]) >= APART_PX * px;
        if taken.iter().all(far) {
            taken.push(i);
        }
    }
    taken.sort_unstable();
    taken
}

/// Steps on each side in which the middle of a bend is looked for, and their length, px.
const BEND_STEPS: i32 = 12;
const BEND_STEP_PX: f64 = 0.1;

/// The running length near `s` at which the boundary turns most, the middle of them where several
/// do: a corner that the pixels cut off has a point at each end of the cut.
fn bend(boundary: &Track<'_>, s: f64, px: f64) -> f64 {
    let at = |k: i32| s + f64::from(k) * BEND_STEP_PX * px;
    let turn = |k: i32| boundary.turn(at(k), ARMS_PX[0] * px).map_or(0.0, f64::abs);
    let most = (-BEND_STEPS..=BEND_STEPS).map(turn).fold(0.0, f64::max);
    let (mut sum, mut count) = (0.0, 0.0);
    for k in (-BEND_STEPS..=BEND_STEPS).filter(|&k| turn(k) >= 0.98 * most) {
        sum += at(k);
        count += 1.0;
    }
    if count > 0.0 { sum / count } else { s }
}

/// Moves a corner to where its two sides meet, if they do so nearby.
fn restore(boundary: &Track<'_>, all: &[usize], n: usize, index: usize, scale: Scale) -> Corner {
    let px = scale.px;
    let stays = Corner::stays(index, boundary.points[index]);
    let s = bend(boundary, boundary.length[index], px);
    let total = boundary.total();
    // A side ends half way to the next corner, at the latest.
    let room = |other: Option<usize>| {
        let d = match other {
            Some(o) if o != index => boundary.apart(boundary.length[o], s),
            _ if boundary.closed => total,
            Some(_) | None => total.min(s.max(total - s)),
        };
        (d / 2.0).min(SIDE_TO_PX * px + scale.rounded)
    };
    let round = |corner: Option<&'_ usize>| {
        if boundary.closed {
            corner.copied()
        } else {
            None
        }
    };
    let before = n.checked_sub(1).map(|m| all[m]).or(round(all.last()));
    let after = all.get(n + 1).copied().or(round(all.first()));
    let from = scale.rounded;
    let (to_before, to_after) = (room(before), room(after));
    if to_before < 2.0 * from || to_after < 2.0 * from {
        return stays;
    }
    // An open boundary may end before.
    let (left, right) = if boundary.closed {
        (f64::MAX, f64::MAX)
    } else {
        (s, total - s)
    };
    let sides = (
        boundary.side(s, -1.0, from, to_before.min(left)),
        boundary.side(s, 1.0, from, to_after.min(right)),
    );
    let (Some(u), Some(v)) = sides else {
        return stays;
    };
    let bend = boundary.at(s).unwrap_or(stays.at);
    match u.crossing_point(v) {
        Some(at) if at.distance(bend) <= REACH_PX * px => Corner {
            index,
            at,
            bend,
            moved: true,
        },
        _ => stays,
    }
}

/// The run from one corner to the next; what a moved corner stands for is left out.
fn between(boundary: &Track<'_>, a: &Corner, b: &Corner, scale: Scale) -> Run {
    let n = boundary.points.len();
    let count = if b.index > a.index {
        b.index - a.index
    } else {
        b.index + n - a.index
    };
    let mut points = vec![a.at];
    for step in 1..count {
        let p = boundary.points[(a.index + step) % n];
        let hidden = |c: &Corner, place: Point| c.moved && place.distance(c.bend) < scale.rounded;
        if !hidden(a, p) && !hidden(b, p) {
            points.push(p);
        }
    }
    points.push(b.at);
    Run {
        points,
        smooth_loop: false,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use kurbo::Vec2;

    /// A polygon walked in steps of 0.7 px with its corners rounded off as pixels do.
    fn walked(corners: &[(f64, f64)]) -> Vec<Point> {
        let mut dense = Vec::new();
        for i in 0..corners.len() {
            let a = Point::from(corners[i]);
            let b = Point::from(corners[(i + 1) % corners.len()]);
            let steps = (a.distance(b) / 0.7).ceil() as usize;
            dense.extend((0..steps).map(|s| a.lerp(b, s as f64 / steps as f64)));
        }
        let n = dense.len();
        (0..n)
            .map(|i| {
                let v = dense[(i + n - 1) % n].to_vec2()
                    + dense[i].to_vec2() * 2.0
                    + dense[(i + 1) % n].to_vec2();
                (v / 4.0).to_point()
            })
            .collect()
    }

    #[test]
    fn a_turned_square_gets_its_four_corners_back() {
        let truth = [(20.0, 3.0), (37.0, 20.0), (20.0, 37.0), (3.0, 20.0)];
        let runs = runs(
            &walked(&truth),
            true,
            Scale::new(1.0, 0.0, 1.0),
            Degrees::new(35.0),
            &|_| false,
        );
        assert_eq!(runs.len(), 4);
        for run in runs {
            let nearest = truth
                .iter()
                .map(|&t| run.points[0].distance(t.into()))
                .fold(f64::MAX, f64::min);
            assert!(nearest < 0.05, "{nearest}");
        }
    }

    #[test]
    fn a_circle_has_no_corner_from_three_pixels_radius_up() {
        for r in [3.0, 5.0, 12.0, 80.0] {
            let n = (r * 9.0) as usize;
            let points: Vec<Point> = (0..n)
                .map(|i| {
                    Point::ORIGIN
                        + Vec2::from_angle(i as f64 / n as f64 * std::f64::consts::TAU) * r
                })
                .collect();
            assert!(
                runs(
                    &points,
                    true,
                    Scale::new(1.0, 0.0, 1.0),
                    Degrees::new(35.0),
                    &|_| false
                )[0]
                .smooth_loop,
                "radius {r}"
            );
        }
    }
}
