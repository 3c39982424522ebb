//! Clashes: pieces that lie nearer to each other than the gap, or in each other, or off what can be cut.
//!
//! Asked of the outlines themselves, chord by chord, whatever the arrangement was made with.

use i_overlay::core::fill_rule::FillRule;
use i_overlay::core::overlay_rule::OverlayRule;
use i_overlay::float::single::SingleFloatOverlay;
use kurbo::{Line, ParamCurveNearest, Point, Rect};
use rstar::primitives::{GeomWithData, Line as Chord, Rectangle};
use rstar::{AABB, RTree};

/// A placed piece as points.
#[derive(Clone, Debug)]
pub(super) struct Outline {
    pub(super) closed: Vec<Vec<Point>>,
    pub(super) open: Vec<Vec<Point>>,
    pub(super) bounds: Rect,
}

/// So few chords are looked at one by one.
const FEW: usize = 120;
/// Rounding of distances, mm, and of areas, mm².
const EPSILON: f64 = 1e-6;
const EPSILON_MM2: f64 = 1e-3;

impl Outline {
    pub(super) fn of((closed, open): (Vec<Vec<Point>>, Vec<Vec<Point>>)) -> Self {
        let points = closed.iter().chain(&open).flatten();
        let boxes = points.map(|p| Rect::from_points(*p, *p));
        let bounds = boxes.reduce(|a, b| a.union(b)).unwrap_or_default();
        Self {
            closed,
            open,
            bounds,
        }
    }

    /// The outline of a box.
    pub(super) fn around(b: Rect) -> Self {
        let corners = [
            (b.x0, b.y0),
            (b.x1, b.y0),
            (b.x1, b.y1),
            (b.x0, b.y1),
            (b.x0, b.y0),
        ];
        Self::of((vec![corners.map(Point::from).to_vec()], Vec::new()))
    }

    pub(super) fn chords(&self) -> impl Iterator<Item = (Point, Point)> {
        let lines = self.closed.iter().chain(&self.open);
        lines.flat_map(|l| l.windows(2).map(|w| (w[0], w[1])))
    }

    /// Whether a point lies inside by the even-odd rule.
    pub(super) fn holds(&self, p: Point) -> bool {
        let crossed = |w: &&[Point]| {
            let (a, b) = (w[0], w[1]);
            (a.y > p.y) != (b.y > p.y) && p.x < a.x + (b.x - a.x) * (p.y - a.y) / (b.y - a.y)
        };
        let sides = self.closed.iter().flat_map(|l| l.windows(2));
        sides.filter(crossed).count() % 2 == 1
    }

    fn first(&self) -> Option<Point> {
        self.closed
            .iter()
            .chain(&self.open)
            .flatten()
            .next()
            .copied()
    }
}

type Box = GeomWithData<Rectangle<[f64; 2]>, usize>;

/// Every pair of pieces that are nearer than `gap` mm or lie in each other, the smaller number first.
pub(super) fn clashes(pieces: &[Outline], gap: f64) -> Vec<(usize, usize)> {
    let boxes = pieces.iter().enumerate().map(|(n, p)| {
        let b = p.bounds;
        Box::new(Rectangle::from_corners([b.x0, b.y0], [b.x1, b.y1]), n)
    });
    let tree = RTree::bulk_load(boxes.collect());
    let mut found = Vec::new();
    for (n, piece) in pieces.iter().enumerate() {
        let b = piece.bounds.inflate(gap, gap);
        let near = AABB::from_corners([b.x0, b.y0], [b.x1, b.y1]);
        let others = tree.locate_in_envelope_intersecting(near);
        let mut others: Vec<usize> = others.map(|o| o.data).filter(|&m| m > n).collect();
        others.sort_unstable();
        for m in others {
            if clash(piece, &pieces[m], gap) {
                found.push((n, m));
            }
        }
    }
    found
}

/// Whether two pieces are nearer than `gap`, or one lies in the other. Without a gap they may touch.
pub(super) fn clash(a: &Outline, b: &Outline, gap: f64) -> bool {
    let apart = a.bounds.inflate(gap, gap).intersect(b.bounds);
    if apart.width() < 0.0 || apart.height() < 0.0 || apart.x1 < apart.x0 || apart.y1 < apart.y0 {
        return false;
    }
    if gap <= 2.0 * EPSILON {
        return covered(a, b) > EPSILON_MM2;
    }
    let inside = |p: Option<Point>, other: &Outline| p.is_some_and(|p| other.holds(p));
    if inside(a.first(), b) || inside(b.first(), a) {
        return true;
    }
    let reach = b
        .bounds
        .intersect(a.bounds.inflate(gap, gap))
        .inflate(EPSILON, EPSILON);
    let near = |(p, q): &(Point, Point)| overlaps(Rect::from_points(*p, *q), reach);
    let others: Vec<(Point, Point)> = b.chords().filter(near).collect();
    let beside = a
        .chords()
        .map(|side| (side, Rect::from_points(side.0, side.1).inflate(gap, gap)));
    let mut beside = beside.filter(|(_, around)| overlaps(*around, reach));
    let too_near = |side, other| distance(side, other) < gap - EPSILON;
    if others.len() <= FEW {
        return beside.any(|(side, around)| {
            let meets = |o: &(Point, Point)| overlaps(Rect::from_points(o.0, o.1), around);
            others.iter().any(|o| meets(o) && too_near(side, *o))
        });
    }
    let chord = |(p, q): (Point, Point)| Chord::new([p.x, p.y], [q.x, q.y]);
    let tree = RTree::bulk_load(others.into_iter().map(chord).collect());
    beside.any(|(side, around)| {
        let near = AABB::from_corners([around.x0, around.y0], [around.x1, around.y1]);
        let point = |[x, y]: [f64; 2]| Point::new(x, y);
        let mut others = tree.locate_in_envelope_intersecting(near);
        others.any(|o| too_near(side, (point(o.from), point(o.to))))
    })
}

/// What the closed lines of two pieces both cover, mm².
fn covered(a: &Outline, b: &Outline) -> f64 {
    let contours = |o: &Outline| -> Vec<Vec<[f64; 2]>> {
        let lines = o.closed.iter();
        lines
            .map(|l| l.iter().map(|p| [p.x, p.y]).collect())
            .collect()
    };
    let both = contours(a).overlay(&contours(b), OverlayRule::Intersect, FillRule::EvenOdd);
    let doubled = |ring: &Vec<[f64; 2]>| {
        let next = ring.iter().cycle().skip(1);
        let sides = ring.iter().zip(next);
        sides.map(|(p, q)| p[0] * q[1] - p[1] * q[0]).sum::<f64>()
    };
    both.iter().flatten().map(doubled).sum::<f64>().abs() / 2.0
}

fn overlaps(a: Rect, b: Rect) -> bool {
    a.x0 <= b.x1 && b.x0 <= a.x1 && a.y0 <= b.y1 && b.y0 <= a.y1
}

/// Distance of two straight lines; nought where they cross.
pub(super) fn distance(a: (Point, Point), b: (Point, Point)) -> f64 {
    let side = |l: (Point, Point), p: Point| (l.1 - l.0).cross(p - l.0);
    let crosses = side(a, b.0) * side(a, b.1) < 0.0 && side(b, a.0) * side(b, a.1) < 0.0;
    if crosses {
        return 0.0;
    }
    let to = |l: (Point, Point), p: Point| Line::new(l.0, l.1).nearest(p, 1e-9).distance_sq;
    let all = [to(a, b.0), to(a, b.1), to(b, a.0), to(b, a.1)];
    all.into_iter().fold(f64::INFINITY, f64::min).sqrt()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn square(x: f64, y: f64, side: f64) -> Outline {
        let corners = [
            (0.0, 0.0),
            (side, 0.0),
            (side, side),
            (0.0, side),
            (0.0, 0.0),
        ];
        let line = corners.map(|(a, b)| Point::new(x + a, y + b)).to_vec();
        Outline::of((vec![line], Vec::new()))
    }

    #[test]
    fn without_a_gap_pieces_may_touch_but_not_lie_over_each_other() {
        let one = square(0.0, 0.0, 10.0);
        for (x, y, side, expected) in [
            (10.0, 0.0, 10.0, false),
            (10.0 - 1e-7, 3.0, 10.0, false),
            (9.9, 3.0, 10.0, true),
            (0.0, 0.0, 10.0, true),
            (5.0, -5.0, 20.0, true),
            (3.0, 3.0, 2.0, true),
            (30.0, 3.0, 2.0, false),
        ] {
            let other = square(x, y, side);
            for gap in [0.0, 1e-7] {
                assert_eq!(clash(&one, &other, gap), expected, "{side} at {x}, {y}");
                assert_eq!(clash(&other, &one, gap), expected, "{side} at {x}, {y}");
            }
        }
    }
}
