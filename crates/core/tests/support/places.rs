//! Closed lines of places: what lies inside, and how far away.

use kurbo::Point;

/// The sides of a closed line of places.
pub(crate) fn sides(line: &[Point]) -> impl Iterator<Item = (Point, Point)> + '_ {
    line.iter()
        .copied()
        .zip(line.iter().copied().cycle().skip(1))
}

/// Whether a place lies inside, by the even-odd rule.
pub(crate) fn inside(line: &[Point], p: Point) -> bool {
    let crossed = |&(a, b): &(Point, Point)| {
        (a.y > p.y) != (b.y > p.y) && p.x < a.x + (b.x - a.x) * (p.y - a.y) / (b.y - a.y)
    };
    sides(line).filter(crossed).count() % 2 == 1
}

/// How far a place lies from the line.
pub(crate) fn distance(line: &[Point], p: Point) -> f64 {
    let to = |(a, b): (Point, Point)| {
        let t = ((p - a).dot(b - a) / (b - a).hypot2()).clamp(0.0, 1.0);
        (p - a.lerp(b, t)).hypot()
    };
    sides(line).map(to).fold(f64::INFINITY, f64::min)
}
