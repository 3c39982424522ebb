//! One cubic along a stretch of points, by least squares.
//!
//! The ends are given; each end's direction is given or free. Every point gets a parameter, first
//! by running length, then where the curve is nearest to it, and the handles follow from linear
//! equations, a few times over.
//! Source: Schneider 1990, "An algorithm for automatically fitting digitized curves" (Graphics
//! Gems), with free directions and handles solved for together.

use kurbo::{CubicBez, Point, Vec2};

use crate::least_squares as linear;

/// Points that the equations look at; a cubic has no more to say than these.
const SAMPLES: usize = 24;
/// Rounds of solving and of placing the parameters anew.
const ROUNDS: usize = 8;
/// Part for which distances along the curve count, squared.
const ALONG: f64 = 0.2;
/// A first round worse than this many tolerances will not come right.
const HOPELESS: f64 = 12.0;

/// Directions at both ends, of length 1, both pointing along the stretch; `None` where free.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Directions {
    pub start: Option<Vec2>,
    pub end: Option<Vec2>,
}

/// A cubic and how far each of the points lies off, at most.
pub(super) struct Fitted {
    pub cubic: CubicBez,
    pub off: Vec<f32>,
}

/// Fits a cubic from `ends[0]` to `ends[1]` along `points` (their own ends count as points too);
/// `None` when a point would be farther off than `tolerance`, or the curve swings. Once all points
/// are within the part `enough` of the tolerance, no better curve is looked for.
pub(super) fn fit(
    points: &[Point],
    ends: [Point; 2],
    directions: Directions,
    tolerance: f64,
    enough: f64,
) -> Option<Fitted> {
    let n = points.len();
    let free = usize::from(directions.start.is_none()) + usize::from(directions.end.is_none());
    // With as many unknowns as points there is nothing to hold the curve.
    if n < 3 + free {
        return None;
    }
    let looked: Vec<usize> = if n <= SAMPLES {
        (0..n).collect()
    } else {
        (0..SAMPLES).map(|k| k * (n - 1) / (SAMPLES - 1)).collect()
    };
    let mut length = vec![0.0; n];
    for i in 1..n {
        length[i] = length[i - 1] + points[i].distance(points[i - 1]);
    }
    let total = length[n - 1].max(1e-12);
    let mut at: Vec<f64> = looked.iter().map(|&i| length[i] / total).collect();
    let chosen: Vec<Point> = looked.iter().map(|&i| points[i]).collect();
    let mut cubic = solve(&chosen, &at, ends, directions, None)?;
    let mut before = f64::INFINITY;
    for round in 0..ROUNDS {
        let mut worst = 0.0f64;
        let curve = Polynomial::from(&cubic);
        for (t, &p) in at.iter_mut().zip(&chosen) {
            let (nearer, off) = curve.nearer(p, *t);
            *t = nearer;
            worst = worst.max(off);
        }
        if round == 0 && worst > (HOPELESS * tolerance).max(0.04 * total) {
            return None;
        }
        // At the rate of the last round it would never hold.
        let rate = (worst / before).min(1.0);
        if round > 1 && worst * rate.powi((ROUNDS - round) as i32) > tolerance {
            return None;
        }
        if worst < enough * tolerance || (round > 2 && worst > 0.97 * before) {
            break;
        }
        before = worst;
        cubic = solve(&chosen, &at, ends, directions, Some(cubic))?;
    }
    if !is_plain(&cubic) {
        return None;
    }
    let off = distances(&cubic, points, &looked, &at, &length, tolerance)?;
    Some(Fitted { cubic, off })
}

/// A cubic as a polynomial, which is cheaper to walk along than its handles: a·t³ + b·t² + c·t + d.
struct Polynomial {
    a: Vec2,
    b: Vec2,
    c: Vec2,
    d: Point,
}

impl From<&CubicBez> for Polynomial {
    fn from(cubic: &CubicBez) -> Self {
        let (u, v) = (cubic.p1 - cubic.p0, cubic.p2 - cubic.p1);
        Self {
            a: cubic.p3 - cubic.p0 - v * 3.0,
            b: (v - u) * 3.0,
            c: u * 3.0,
            d: cubic.p0,
        }
    }
}

impl Polynomial {
    fn at(&self, t: f64) -> Point {
        self.d + ((self.a * t + self.b) * t + self.c) * t
    }

    fn speed(&self, t: f64) -> Vec2 {
        (self.a * (3.0 * t) + self.b * 2.0) * t + self.c
    }

    /// A step of Newton's towards the parameter of the nearest place; and the distance there.
    fn nearer(&self, p: Point, t: f64) -> (f64, f64) {
        let away = self.at(t) - p;
        let speed = self.speed(t);
        let bend = self.a * (6.0 * t) + self.b * 2.0;
        let slope = speed.hypot2() + away.dot(bend);
        let step = if slope > 1e-12 {
            away.dot(speed) / slope
        } else {
            0.0
        };
        let to = (t - step.clamp(-0.1, 0.1)).clamp(0.0, 1.0);
        let (old, new) = (away.hypot2(), (self.at(to) - p).hypot2());
        if new <= old {
            (to, new.sqrt())
        } else {
            (t, old.sqrt())
        }
    }
}

/// Distance of every point, from above; `None` once one is beyond the tolerance, or where the
/// curve leaves the points between two of them.
fn distances(
    cubic: &CubicBez,
    points: &[Point],
    looked: &[usize],
    at: &[f64],
    length: &[f64],
    tolerance: f64,
) -> Option<Vec<f32>> {
    let curve = Polynomial::from(cubic);
    let mut off = Vec::with_capacity(points.len());
    let mut k = 0;
    let (mut last_t, mut last_p) = (0.0, points[0]);
    for (i, &p) in points.iter().enumerate() {
        while k + 2 < looked.len() && looked[k + 1] < i {
            k += 1;
        }
        let (from, to) = (looked[k], looked[k + 1]);
        let part = (length[i] - length[from]) / (length[to] - length[from]).max(1e-12);
        let guess = at[k] + (at[k + 1] - at[k]) * part.clamp(0.0, 1.0);
        let (t, _) = curve.nearer(p, guess);
        let (t, distance) = curve.nearer(p, t);
        if distance > tolerance {
            return None;
        }
        off.push(distance as f32);
        // Half way to the next point the curve is still close to the straight step.
        let middle = curve.at((t + last_t) / 2.0);
        let step = kurbo::Line::new(last_p, p);
        let bulge = kurbo::ParamCurveNearest::nearest(&step, middle, 1e-9)
            .distance_sq
            .sqrt();
        if bulge > 1.5 * tolerance || t + 0.02 < last_t {
            return None;
        }
        (last_t, last_p) = (t, p);
    }
    Some(off)
}

/// Whether both handles point along the chord and reach no farther than it: no loop, no fold.
fn is_plain(cubic: &CubicBez) -> bool {
    let chord = cubic.p3 - cubic.p0;
    [cubic.p1 - cubic.p0, cubic.p3 - cubic.p2]
        .iter()
        .all(|handle| handle.dot(chord) >= -1e-12 && handle.hypot2() <= chord.hypot2())
}

/// The handles of least squares for given parameters.
///
/// Distances along the curve `last` count little.
fn solve(
    points: &[Point],
    at: &[f64],
    [p0, p3]: [Point; 2],
    directions: Directions,
    last: Option<CubicBez>,
) -> Option<CubicBez> {
    let last = last.map(|c| Polynomial::from(&c));
    // Unknown k moves the curve by `ways[k]` times the weight of its handle.
    let mut ways: Vec<(usize, Vec2)> = Vec::with_capacity(4);
    let base = [p0, p3];
    for (handle, direction) in [directions.start, directions.end].into_iter().enumerate() {
        match direction {
            Some(d) => ways.push((handle, if handle == 0 { d } else { -d })),
            None => {
                ways.extend([(handle, Vec2::new(1.0, 0.0)), (handle, Vec2::new(0.0, 1.0))]);
            }
        }
    }
    let n = ways.len();
    let (mut rows, mut right) = ([[0.0; 4]; 4], [[0.0]; 4]);
    for (&p, &t) in points.iter().zip(at) {
        let u = 1.0 - t;
        let (b0, b1, b2, b3) = (u * u * u, 3.0 * u * u * t, 3.0 * u * t * t, t * t * t);
        let still =
            p0.to_vec2() * b0 + base[0].to_vec2() * b1 + base[1].to_vec2() * b2 + p3.to_vec2() * b3;
        let left = p.to_vec2() - still;
        let weight = [b1, b2];
        let tangent = last.as_ref().map_or(Vec2::ZERO, |c| c.speed(t));
        let tangent = if tangent.hypot2() > 0.0 {
            tangent.normalize()
        } else {
            tangent
        };
        // What counts of a vector.
        let seen = |v: Vec2| v - tangent * (v.dot(tangent) * (1.0 - ALONG));
        for i in 0..n {
            let (h, way) = ways[i];
            for j in 0..n {
                rows[i][j] += weight[h] * weight[ways[j].0] * seen(way).dot(ways[j].1);
            }
            right[i][0] += weight[h] * seen(way).dot(left);
        }
    }
    // Fewer unknowns than four: the others are nought.
    for (i, row) in rows.iter_mut().enumerate().skip(n) {
        row[i] = 1.0;
    }
    let x = linear::solve(rows, right)?;
    let mut handles = base;
    for (k, &(h, way)) in ways.iter().enumerate() {
        handles[h] += way * x[k][0];
    }
    // A handle that points backwards along a given direction is no fit.
    for (handle, direction) in [directions.start, directions.end].into_iter().enumerate() {
        if let Some(d) = direction {
            let along = if handle == 0 {
                (handles[0] - p0).dot(d)
            } else {
                (p3 - handles[1]).dot(d)
            };
            if along <= 0.0 {
                return None;
            }
        }
    }
    Some(CubicBez::new(p0, handles[0], handles[1], p3))
}
