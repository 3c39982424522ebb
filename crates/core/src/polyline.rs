//! Lines of points: as few as are needed, and what stands around them.

use kurbo::Point;

/// A line of points with as few as stay within a distance (Ramer 1972, Douglas & Peucker 1973). A closed line ends where it
/// begins.
pub(crate) fn thinned(points: &[Point], within: f64) -> Vec<Point> {
    let (Some(&first), Some(&last)) = (points.first(), points.last()) else {
        return Vec::new();
    };
    if first.distance(last) < 1e-6 && points.len() < 3 {
        return vec![first];
    }
    let mut kept = vec![first];
    let mut open = vec![(0, points.len() - 1)];
    while let Some((a, b)) = open.pop() {
        let chord = kurbo::Line::new(points[a], points[b]);
        let far = |n: usize| kurbo::ParamCurveNearest::nearest(&chord, points[n], 1e-6).distance_sq;
        let worst = (a + 1..b).max_by(|&m, &n| far(m).total_cmp(&far(n)));
        match worst.filter(|&n| far(n) > within * within) {
            Some(n) => open.extend([(n, b), (a, n)]),
            None if points[b].distance(points[a]) > 1e-6 => kept.push(points[b]),
            None => {}
        }
    }
    kept
}

/// The convex hull, clockwise with y down (Andrew 1979, "Another efficient algorithm for convex hulls in two
/// dimensions").
pub(crate) fn hull(mut points: Vec<Point>) -> Vec<Point> {
    points.sort_by(|a, b| a.x.total_cmp(&b.x).then(a.y.total_cmp(&b.y)));
    let half = |points: &mut dyn Iterator<Item = Point>| {
        let mut chain: Vec<Point> = Vec::new();
        for p in points {
            while let [.., a, b] = chain[..]
                && (b - a).cross(p - b) <= 0.0
            {
                chain.pop();
            }
            chain.push(p);
        }
        chain.pop();
        chain
    };
    let mut all = half(&mut points.iter().copied());
    all.extend(half(&mut points.iter().rev().copied()));
    all
}
