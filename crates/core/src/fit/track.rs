//! A track: points along an edge, with their running length.

use kurbo::Point;

/// Points along an edge, open or closed.
pub(crate) struct Track<'a> {
    /// The points; a closed track does not repeat its first one.
    pub points: &'a [Point],
    /// Length up to each point, and, closed, back to the first.
    pub length: Vec<f64>,
    /// Whether it closes.
    pub closed: bool,
}

impl<'a> Track<'a> {
    pub(crate) fn new(points: &'a [Point], closed: bool) -> Self {
        let mut length = Vec::with_capacity(points.len() + 1);
        let mut sum = 0.0;
        length.push(0.0);
        for pair in points.windows(2) {
            sum += pair[0].distance(pair[1]);
            length.push(sum);
        }
        if closed && let (Some(first), Some(last)) = (points.first(), points.last()) {
            length.push(sum + last.distance(*first));
        }
        Self {
            points,
            length,
            closed,
        }
    }

    pub(crate) fn total(&self) -> f64 {
        self.length.last().copied().unwrap_or(0.0)
    }

    /// The way between two running lengths, the shorter one where the track closes.
    pub(crate) fn apart(&self, s: f64, t: f64) -> f64 {
        let d = (s - t).abs();
        if self.closed {
            d.min(self.total() - d)
        } else {
            d
        }
    }

    /// The point at a running length; beyond the ends of an open track, `None`.
    pub(crate) fn at(&self, s: f64) -> Option<Point> {
        let total = self.total();
        let s = if self.closed { s.rem_euclid(total) } else { s };
        if !(0.0..=total).contains(&s) {
            return None;
        }
        let after = self.length.partition_point(|&l| l <= s);
        let i = after.clamp(1, self.length.len() - 1) - 1;
        let (a, b) = (self.points[i], self.points[(i + 1) % self.points.len()]);
        let step = self.length[i + 1] - self.length[i];
        Some(if step > 0.0 {
            a.lerp(b, (s - self.length[i]) / step)
        } else {
            a
        })
    }

    /// Calls `f` with point `i` and every point within `half` of it: its running length from
    /// there, negative before it, and the point. A closed track is walked half round at most.
    pub(crate) fn around(&self, i: usize, half: f64, mut f: impl FnMut(f64, Point)) {
        let n = self.points.len();
        let half = if self.closed {
            half.min(self.total() / 2.0)
        } else {
            half
        };
        let step = |j: usize| self.length[j + 1] - self.length[j];
        f(0.0, self.points[i]);
        let mut away = 0.0;
        for j in (i..i + n - 1).take_while(|&j| self.closed || j + 1 < n) {
            away += step(j % n);
            if away > half {
                break;
            }
            f(away, self.points[(j + 1) % n]);
        }
        away = 0.0;
        for k in (1..n).take_while(|&k| self.closed || k <= i) {
            let j = (i + n - k) % n;
            away += step(j);
            if away > half {
                break;
            }
            f(-away, self.points[j]);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn square() -> Vec<Point> {
        [(0.0, 0.0), (2.0, 0.0), (2.0, 2.0), (0.0, 2.0)]
            .map(Point::from)
            .to_vec()
    }

    #[test]
    fn a_closed_track_runs_on_across_its_first_point() {
        let points = square();
        let track = Track::new(&points, true);
        assert!((track.total() - 8.0).abs() < 1e-12);
        assert_eq!(track.at(-1.0), Some(Point::new(0.0, 1.0)));
        assert!((track.apart(0.5, 7.5) - 1.0).abs() < 1e-12);
        let mut found = Vec::new();
        track.around(0, 3.0, |s, p| found.push((s, p)));
        assert_eq!(
            found,
            [(0.0, points[0]), (2.0, points[1]), (-2.0, points[3])]
        );
    }

    #[test]
    fn an_open_track_ends() {
        let points = square();
        let track = Track::new(&points, false);
        assert_eq!(track.at(6.5), None);
        let mut found = Vec::new();
        track.around(2, 9.0, |s, _| found.push(s));
        assert_eq!(found, [0.0, 2.0, -2.0, -4.0]);
    }
}
