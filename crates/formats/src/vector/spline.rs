//! B-splines as cubics: knots are inserted until every span is a Bézier curve of its own.
//!
//! Source: Boehm 1980, "Inserting new knots into B-spline curves" (Computer-Aided Design 12(4)).

use inky_core::segment::Segment;
use kurbo::{CubicBez, Line, Point, QuadBez};

/// The curves of a B-spline of degree 1 to 3; `None` for another degree, or knots that do not fit.
pub(super) fn curves(degree: usize, knots: &[f64], control: &[Point]) -> Option<Vec<Segment>> {
    let n = control.len();
    let rising = knots.windows(2).all(|w| w[0] <= w[1]) && knots.iter().all(|k| k.is_finite());
    if !(1..=3).contains(&degree) || n <= degree || knots.len() != n + degree + 1 || !rising {
        return None;
    }
    let (mut knots, mut control) = (knots.to_vec(), control.to_vec());
    let (low, high) = (knots[degree], knots[n]);
    if high <= low {
        return None;
    }
    let times = |knots: &[f64], u: f64| knots.iter().filter(|&&k| (k - u).abs() < 1e-12).count();
    let mut at = low;
    loop {
        while times(&knots, at) < degree {
            insert(degree, &mut knots, &mut control, at);
        }
        match knots
            .iter()
            .copied()
            .find(|&k| k > at + 1e-12 && k <= high + 1e-12)
        {
            Some(next) => at = next,
            None => break,
        }
    }
    // Knots before the first and after the last span bound nothing.
    let first = knots.iter().rposition(|&k| k <= low + 1e-12)?;
    let mut from = first - degree;
    let mut segments = Vec::new();
    while from + degree < control.len() {
        let u = knots[from + degree];
        if u >= high - 1e-12 {
            break;
        }
        let p = &control[from..=from + degree];
        segments.push(match *p {
            [a, b] => Segment::Line(Line::new(a, b)),
            [a, b, c] => Segment::Cubic(QuadBez::new(a, b, c).raise()),
            [a, b, c, d] => Segment::Cubic(CubicBez::new(a, b, c, d)),
            _ => return None,
        });
        from += degree;
    }
    (!segments.is_empty()).then_some(segments)
}

/// Inserts a knot; the curve stays what it was.
fn insert(degree: usize, knots: &mut Vec<f64>, control: &mut Vec<Point>, u: f64) {
    let span = knots.iter().rposition(|&k| k <= u + 1e-12).unwrap_or(0);
    let old = control.clone();
    let mut new = Vec::with_capacity(old.len() + 1);
    for i in 0..=old.len() {
        let p = if i + degree <= span {
            old[i]
        } else if i > span {
            old[i - 1]
        } else {
            let width = knots[i + degree] - knots[i];
            let part = if width > 0.0 {
                (u - knots[i]) / width
            } else {
                0.0
            };
            old[i - 1].lerp(old[i.min(old.len() - 1)], part)
        };
        new.push(p);
    }
    *control = new;
    knots.insert(span + 1, u);
}

#[cfg(test)]
mod tests {
    use super::*;

    /// De Boor's recursion, straight from the definition.
    fn de_boor(degree: usize, knots: &[f64], control: &[Point], u: f64) -> Point {
        let k = (degree..control.len()).rfind(|&k| knots[k] <= u).unwrap();
        let mut d: Vec<Point> = (0..=degree).map(|j| control[j + k - degree]).collect();
        for r in 1..=degree {
            for j in (r..=degree).rev() {
                let i = j + k - degree;
                let part = (u - knots[i]) / (knots[i + degree + 1 - r] - knots[i]);
                d[j] = d[j - 1].lerp(d[j], part);
            }
        }
        d[degree]
    }

    #[test]
    fn curves_run_where_the_recursion_says() {
        let control: Vec<Point> = [
            (0.0, 0.0),
            (2.0, 5.0),
            (6.0, 4.0),
            (8.0, -2.0),
            (12.0, 1.0),
            (13.0, 6.0),
        ]
        .map(Point::from)
        .to_vec();
        for (degree, knots) in [
            (3, vec![0.0, 0.0, 0.0, 0.0, 1.0, 2.5, 4.0, 4.0, 4.0, 4.0]),
            (3, vec![0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0, 9.0]),
            (2, vec![0.0, 0.0, 0.0, 1.0, 2.0, 3.0, 4.0, 4.0, 4.0]),
            (1, vec![0.0, 0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 5.0]),
        ] {
            let found = curves(degree, &knots, &control).unwrap();
            let spans: Vec<(f64, f64)> = knots[degree..=control.len()]
                .windows(2)
                .filter(|w| w[1] > w[0])
                .map(|w| (w[0], w[1]))
                .collect();
            assert_eq!(found.len(), spans.len(), "degree {degree}");
            for (segment, (a, b)) in found.iter().zip(spans) {
                for t in [0.0, 0.25, 0.5, 0.9] {
                    let expected = de_boor(degree, &knots, &control, a + t * (b - a));
                    assert!(
                        segment.eval(t).distance(expected) < 1e-9,
                        "degree {degree} at {t}"
                    );
                }
            }
        }
    }

    #[test]
    fn knots_that_do_not_fit_are_refused() {
        let control = vec![Point::ORIGIN; 4];
        assert!(curves(3, &[0.0; 8], &control).is_none());
        assert!(curves(3, &[0.0, 1.0], &control).is_none());
        assert!(curves(5, &[0.0; 10], &control).is_none());
        assert!(curves(3, &[0.0, 0.0, 0.0, 0.0, f64::NAN, 1.0, 1.0, 1.0], &control).is_none());
    }
}
