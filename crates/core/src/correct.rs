//! The cut corrected: the way from a printed page, as it was meant, to where its registration marks were really found.
//!
//! ```text
//!   meant  ○─────○   found   ○────__○      three marks give an affine map, four a projective one; what four
//!          │     │          ╱      ╱       disagree by is told, and what no sheet of paper can do is refused
//!          ●─────○         ●────__○
//! ```
//!
//! Lengths are mm on both sides, y up as on a machine. Sources: Hartley & Zisserman (as in [`projective`]); the turn and
//! the stretches of a map by its polar decomposition (Higham 1986, "Computing the polar decomposition").
//!
//! [`projective`]: crate::projective

use kurbo::{Affine, Point, Vec2};

use crate::least_squares::solve;
use crate::projective::Projective;

/// A sheet lies turned by no more than this, degrees.
pub const TURNED: f64 = 10.0;
/// A sheet is stretched by no more than this part.
pub const STRETCHED: f64 = 0.03;
/// Four marks disagree by no more than this, mm.
pub const RESIDUAL: f64 = 0.3;
/// Marks on a line: the triangle of any three has at least this height, as a part of their greatest distance.
const FLAT: f64 = 0.05;

/// What became of a page.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Correction {
    /// From the page as it was meant to where it lies, mm.
    pub map: Projective,
    /// How far it is turned against the clock, degrees.
    pub turned: f64,
    /// The least and the greatest stretch in any direction; 1 is none.
    pub stretch: [f64; 2],
    /// The farthest that a mark lies from where the best affine map has it, mm; nought for three marks, which always
    /// agree.
    pub residual: f64,
}

/// Why places of marks cannot be true.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum CorrectError {
    /// Neither three nor four.
    #[error("{0} places of marks were given; a page has three or four, in the order of its marks")]
    Count(usize),
    /// A figure that is none.
    #[error("a place of a mark is no number")]
    Figure,
    /// They give no map.
    #[error("the marks lie on one line, or two in one place; look for them again")]
    Line,
    /// In another order they would be right.
    #[error("marks {} and {} seem to be swapped", .0 + 1, .1 + 1)]
    Swapped(usize, usize),
    /// In another order they would be right, and more than two have changed places.
    #[error("the marks seem to be taken in another order: {}", .0.iter().map(|n| (n + 1).to_string()).collect::<Vec<_>>().join(", "))]
    Order(Vec<usize>),
    /// It reads backwards.
    #[error("the page lies mirrored, with its face down; turn it over")]
    Mirrored,
    /// It lies too askew.
    #[error(
        "the page is turned by {0:.1}°, more than {TURNED:.0}°; lay it straighter, or look whether these are its marks"
    )]
    Turned(f64),
    /// It is too large or too small.
    #[error(
        "the page is stretched by {:+.1} % one way and {:+.1} % the other, which no print is; these are not its marks, or it was printed in another size",
        (.0[0] - 1.0) * 100.0,
        (.0[1] - 1.0) * 100.0
    )]
    Stretched([f64; 2]),
    /// The four disagree.
    #[error(
        "the marks disagree by {residual:.2} mm, most of all mark {}; find it again", mark + 1
    )]
    Disagree {
        /// The farthest off, mm.
        residual: f64,
        /// Number of the mark that the others leave out best, from nought.
        mark: usize,
    },
}

/// The map from marks as they were meant to where they were found, in the same order.
///
/// # Errors
/// [`CorrectError`] where the places cannot be those of the page's marks.
pub fn correction(meant: &[Point], found: &[Point]) -> Result<Correction, CorrectError> {
    let count = found.len();
    if !(3..=4).contains(&count) || meant.len() != count {
        return Err(CorrectError::Count(count));
    }
    if !meant.iter().chain(found).all(|p| p.is_finite()) {
        return Err(CorrectError::Figure);
    }
    if flat(meant) || flat(found) {
        return Err(CorrectError::Line);
    }
    let wrong = match in_order(meant, found) {
        Ok(right) => return Ok(right),
        Err(wrong) => wrong,
    };
    // Another order that is right says more than what is wrong with this one.
    for order in orders(count) {
        let other: Vec<Point> = order.iter().map(|&n| found[n]).collect();
        if in_order(meant, &other).is_err() {
            continue;
        }
        let moved: Vec<usize> = (0..count).filter(|&n| order[n] != n).collect();
        return Err(match moved[..] {
            [a, b] => CorrectError::Swapped(a, b),
            _ => CorrectError::Order(order),
        });
    }
    Err(wrong)
}

/// All orders of so many but the one as they are; those that change fewer places first.
fn orders(count: usize) -> Vec<Vec<usize>> {
    let mut all: Vec<Vec<usize>> = vec![Vec::new()];
    for _ in 0..count {
        let longer = |begun: Vec<usize>| {
            let left: Vec<usize> = (0..count).filter(|n| !begun.contains(n)).collect();
            left.into_iter().map(move |n| {
                let mut longer = begun.clone();
                longer.push(n);
                longer
            })
        };
        all = all.into_iter().flat_map(longer).collect();
    }
    let moved = |order: &Vec<usize>| (0..count).filter(|&n| order[n] != n).count();
    all.retain(|order| moved(order) > 0);
    all.sort_by_key(moved);
    all
}

fn in_order(meant: &[Point], found: &[Point]) -> Result<Correction, CorrectError> {
    let flat_map = affine(meant, found).ok_or(CorrectError::Line)?;
    let [a, b, c, d, ..] = flat_map.as_coeffs();
    if a * d - b * c <= 0.0 {
        return Err(CorrectError::Mirrored);
    }
    let turned = (b - c).atan2(a + d).to_degrees();
    if turned.abs() > TURNED {
        return Err(CorrectError::Turned(turned));
    }
    // The singular values of the linear part.
    let (sum, difference) = ((a + d).hypot(b - c), (a - d).hypot(b + c));
    let stretch = [(sum - difference) / 2.0, (sum + difference) / 2.0];
    if stretch.iter().any(|s| (s - 1.0).abs() > STRETCHED) {
        return Err(CorrectError::Stretched(stretch));
    }
    let off = |map: Affine| {
        meant
            .iter()
            .zip(found)
            .map(move |(&p, q)| (map * p).distance(*q))
    };
    let residual = off(flat_map).fold(0.0, f64::max);
    if residual > RESIDUAL {
        let mark = odd_one(meant, found);
        return Err(CorrectError::Disagree { residual, mark });
    }
    let pairs: Vec<(Point, Point)> = meant.iter().copied().zip(found.iter().copied()).collect();
    let map = match meant.len() {
        3 => Projective::from(flat_map),
        _ => Projective::through(&pairs).ok_or(CorrectError::Line)?,
    };
    Ok(Correction {
        map,
        turned,
        stretch,
        residual,
    })
}

/// The affine map nearest to all pairs.
fn affine(meant: &[Point], found: &[Point]) -> Option<Affine> {
    let middle = meant.iter().fold(Vec2::ZERO, |sum, p| sum + p.to_vec2()) / meant.len() as f64;
    let (mut a, mut b) = ([[0.0; 3]; 3], [[0.0; 2]; 3]);
    for (p, q) in meant.iter().zip(found) {
        let p = *p - middle;
        let row = [p.x, p.y, 1.0];
        for i in 0..3 {
            for k in 0..3 {
                a[i][k] += row[i] * row[k];
            }
            b[i][0] += row[i] * q.x;
            b[i][1] += row[i] * q.y;
        }
    }
    let [x, y, at] = solve(a, b)?;
    let linear = Affine::new([x[0], x[1], y[0], y[1], at[0], at[1]]);
    Some(linear * Affine::translate(-middle))
}

/// Of four marks the one whose place from the other three is farthest from what is likely: the three left are nearest to
/// a sheet that is only shifted and turned.
fn odd_one(meant: &[Point], found: &[Point]) -> usize {
    let without = |left_out: usize| {
        let kept = (0..meant.len()).filter(|&n| n != left_out);
        let pairs: Vec<(Point, Point)> = kept.map(|n| (meant[n], found[n])).collect();
        let distances = (0..pairs.len()).map(|n| {
            let (p, q) = (pairs[n], pairs[(n + 1) % pairs.len()]);
            (p.0.distance(q.0) - p.1.distance(q.1)).abs()
        });
        distances.fold(0.0, f64::max)
    };
    let all = (0..meant.len()).map(|n| (n, without(n)));
    all.min_by(|a, b| a.1.total_cmp(&b.1)).map_or(0, |(n, _)| n)
}

/// Whether three of them lie nearly on a line.
fn flat(places: &[Point]) -> bool {
    let n = places.len();
    let mut triples =
        (0..n).flat_map(|i| (i + 1..n).flat_map(move |j| (j + 1..n).map(move |k| [i, j, k])));
    triples.any(|t| {
        let [p, q, r] = t.map(|n| places[n]);
        let longest = p.distance(q).max(q.distance(r)).max(r.distance(p));
        (q - p).cross(r - p).abs() <= FLAT * longest * longest
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    const MEANT: [Point; 4] = [
        Point::new(0.0, 0.0),
        Point::new(180.0, 0.0),
        Point::new(180.0, 267.0),
        Point::new(0.0, 267.0),
    ];

    fn lying() -> Affine {
        let stretch = Affine::scale_non_uniform(1.005, 0.996) * Affine::skew(0.002, 0.0);
        Affine::translate((12.0, -7.0)) * Affine::rotate(2.0_f64.to_radians()) * stretch
    }

    fn found() -> [Point; 4] {
        MEANT.map(|p| lying() * p)
    }

    #[test]
    fn three_and_four_marks_give_the_way_back() {
        for count in [3, 4] {
            let told = correction(&MEANT[..count], &found()[..count]).expect("a page");
            for p in [Point::new(90.0, 133.0), Point::new(20.0, 250.0)] {
                assert!(told.map.at(p).distance(lying() * p) < 1e-9);
            }
            assert!((told.turned - 2.0).abs() < 0.1 && told.residual < 1e-9);
            assert!(told.stretch[0] < 0.997 && told.stretch[1] > 1.004);
        }
    }

    #[test]
    fn what_cannot_be_a_page_is_refused() {
        let with = |change: &dyn Fn(&mut [Point; 4])| {
            let mut places = found();
            change(&mut places);
            correction(&MEANT, &places).expect_err("no page")
        };
        assert_eq!(with(&|p| p.swap(1, 3)), CorrectError::Swapped(1, 3));
        assert_eq!(with(&|p| p.swap(0, 1)), CorrectError::Swapped(0, 1));
        assert!(matches!(
            with(&|p| p.rotate_left(1)),
            CorrectError::Order(_)
        ));
        let mirrored = |p: &mut [Point; 4]| p.iter_mut().for_each(|p| p.x = -p.x);
        // Of a rectangle mirrored is another order too.
        assert!(matches!(
            with(&mirrored),
            CorrectError::Order(_) | CorrectError::Mirrored
        ));
        let three = |p: [Point; 4]| correction(&MEANT[..3], &p[..3]).expect_err("no page");
        assert!(matches!(
            three(found().map(|p| Affine::rotate(0.3) * p)),
            CorrectError::Turned(t) if t > 15.0
        ));
        assert!(matches!(
            three(found().map(|p| Affine::scale(1.04) * p)),
            CorrectError::Stretched(_)
        ));
        assert_eq!(
            three(MEANT.map(|p| Point::new(p.x, 0.0))),
            CorrectError::Line
        );
        let moved = with(&|p| p[2] += Vec2::new(3.0, 2.0));
        assert!(
            matches!(moved, CorrectError::Disagree { residual, mark: 2 } if residual > 0.5),
            "{moved:?}"
        );
        assert_eq!(
            correction(&MEANT[..2], &found()[..2]),
            Err(CorrectError::Count(2))
        );
        assert_eq!(
            correction(&MEANT, &[Point::new(f64::NAN, 0.0); 4]),
            Err(CorrectError::Figure)
        );
    }
}
