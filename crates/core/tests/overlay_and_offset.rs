//! Overlays and offsets against formulas, and areas that Shapely (GEOS) finds.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use std::f64::consts::PI;

use inky_core::offset::{Join, around, offset};
use inky_core::overlay::{Keep, Rings, fault, overlay};
use inky_core::segment::{Arc, Segment};
use inky_core::shapes::Ring;
use kurbo::{CubicBez, Line, Point};

fn ring(segments: Vec<Segment>) -> Ring {
    Ring::new(segments, Vec::new()).unwrap()
}

fn polygon(points: &[(f64, f64)]) -> Ring {
    let n = points.len();
    let side = |i: usize| Segment::Line(Line::new(points[i], points[(i + 1) % n]));
    ring((0..n).map(side).collect())
}

fn square(x: f64, y: f64, side: f64) -> Ring {
    polygon(&[(x, y), (x + side, y), (x + side, y + side), (x, y + side)])
}

fn circle(x: f64, y: f64, r: f64) -> Ring {
    let (a, b) = (Point::new(x + r, y), Point::new(x - r, y));
    let half = |p0, p1| Segment::Arc(Arc { p0, p1, bulge: 1.0 });
    ring(vec![half(a, b), half(b, a)])
}

/// A blob of four cubics that is no circle.
fn blob(x: f64, y: f64, r: f64) -> Ring {
    let p = |a: f64, b: f64| Point::new(x + a * r, y + b * r);
    let c = |a, b, c, d| Segment::Cubic(CubicBez::new(a, b, c, d));
    ring(vec![
        c(p(1.0, 0.0), p(1.0, 0.7), p(0.4, 0.9), p(0.0, 0.9)),
        c(p(0.0, 0.9), p(-0.5, 0.9), p(-1.2, 0.5), p(-1.2, 0.0)),
        c(p(-1.2, 0.0), p(-1.2, -0.6), p(-0.6, -1.0), p(0.0, -1.0)),
        c(p(0.0, -1.0), p(0.5, -1.0), p(1.0, -0.5), p(1.0, 0.0)),
    ])
}

fn area(shapes: &[Rings]) -> f64 {
    shapes.iter().map(Rings::area).sum()
}

fn sound(shapes: &[Rings]) {
    let rings: Vec<&Ring> = shapes.iter().flat_map(Rings::all).collect();
    assert_eq!(fault(&rings), None);
}

#[test]
fn two_circles_overlap_by_the_formula_of_the_lens() {
    // Lens of two circles of radius r at distance d: 2 r² acos(d / 2r) − d/2 √(4r² − d²).
    let (r, d) = (10.0, 12.0_f64);
    let lens = 2.0 * r * r * (d / (2.0 * r)).acos() - d / 2.0 * (4.0 * r * r - d * d).sqrt();
    let (a, b) = (circle(0.0, 0.0, r), circle(d, 0.0, r));
    for (keep, expected) in [
        (Keep::Both, lens),
        (Keep::Union, 2.0 * PI * r * r - lens),
        (Keep::Difference, PI * r * r - lens),
        (Keep::Either, 2.0 * PI * r * r - 2.0 * lens),
    ] {
        let found = overlay(&[&a], &[&b], keep);
        // Cut where the arcs meet, not where their chords do.
        assert!(
            (area(&found) - expected).abs() < 1e-6,
            "{keep:?}: {} not {expected}",
            area(&found)
        );
        let rings = found.iter().flat_map(Rings::all);
        let arcs: Vec<&Segment> = rings.flat_map(Ring::segments).collect();
        assert!(
            arcs.iter().all(|s| matches!(s, Segment::Arc(_))),
            "{keep:?}"
        );
        assert!(arcs.len() <= 8, "{keep:?}");
        sound(&found);
    }
}

#[test]
fn what_nothing_touches_comes_back_as_it_was() {
    let (a, b, c) = (
        blob(0.0, 0.0, 10.0),
        square(30.0, 0.0, 5.0),
        circle(0.0, 0.0, 2.0),
    );
    let found = overlay(&[&a, &b], &[&c], Keep::Difference);
    assert_eq!(found.len(), 2);
    let all: Vec<&Ring> = found.iter().flat_map(Rings::all).collect();
    assert!(all.contains(&&a) && all.contains(&&b));
    assert!((area(&found) - (a.signed_area() + 25.0 - 4.0 * PI)).abs() < 1e-9);
    assert_eq!(
        all.iter().map(|r| r.segments().len()).sum::<usize>(),
        4 + 4 + 2
    );
}

#[test]
fn neighbours_that_share_a_curve_become_one_without_a_trace_of_it() {
    // Both halves of a blob, cut along an S of two cubics.
    let (top, bottom) = (Point::new(0.0, -1.0), Point::new(0.0, 1.0));
    let s = [
        Segment::Cubic(CubicBez::new(
            (0.0, -1.0),
            (0.4, -0.6),
            (0.3, -0.3),
            (0.0, 0.0),
        )),
        Segment::Cubic(CubicBez::new(
            (0.0, 0.0),
            (-0.3, 0.3),
            (-0.4, 0.6),
            (0.0, 1.0),
        )),
    ];
    let right = Segment::Arc(Arc {
        p0: top,
        p1: bottom,
        bulge: 1.0,
    });
    let left = Segment::Arc(Arc {
        p0: bottom,
        p1: top,
        bulge: 1.0,
    });
    let east = ring(vec![right, s[1].reverse(), s[0].reverse()]);
    let west = ring(vec![left, s[0], s[1]]);
    let found = overlay(&[&east], &[&west], Keep::Union);
    assert_eq!(found.len(), 1);
    assert!(found[0].holes.is_empty());
    assert_eq!(found[0].outer.segments().len(), 2);
    assert!((area(&found) - PI).abs() < 1e-9);
    assert!(overlay(&[&east], &[&west], Keep::Both).is_empty());
}

#[test]
fn a_convex_shape_grows_by_steiners_formula() {
    for (shape, r) in [
        (square(0.0, 0.0, 20.0), 3.0),
        (blob(5.0, 5.0, 10.0), 2.5),
        (circle(0.0, 0.0, 4.0), 7.0),
    ] {
        let expected = shape.signed_area() + shape.length() * r + PI * r * r;
        let found = offset(&[&shape], r, Join::Round);
        assert_eq!(found.len(), 1);
        assert!(
            (area(&found) - expected).abs() < 2e-4 * expected,
            "{} not {expected}",
            area(&found)
        );
        sound(&found);
        // Back again is where it was, corners and all.
        let back = offset(&[&found[0].outer], -r, Join::Round);
        assert!(
            (area(&back) - shape.signed_area()).abs() < 0.02,
            "{}",
            area(&back)
        );
        sound(&back);
    }
}

#[test]
fn corners_are_round_mitred_or_straight_and_lines_stay_lines() {
    let shape = square(0.0, 0.0, 20.0);
    for (join, corner, segments) in [
        (Join::Round, PI, 8),
        (Join::Mitre, 4.0, 4),
        (Join::Straight, 2.0, 8),
    ] {
        let found = offset(&[&shape], 2.0, join);
        let expected = 400.0 + 80.0 * 2.0 + corner * 4.0;
        assert!(
            (area(&found) - expected).abs() < 1e-6,
            "{join:?} {}",
            area(&found)
        );
        let outer = found[0].outer.segments();
        assert_eq!(outer.len(), segments, "{join:?} {outer:?}");
    }
}

#[test]
fn what_is_thinner_than_twice_the_distance_vanishes() {
    assert!(offset(&[&square(0.0, 0.0, 4.0)], -2.1, Join::Round).is_empty());
    assert!(offset(&[&circle(0.0, 0.0, 4.0)], -4.5, Join::Round).is_empty());
    assert!(offset(&[&blob(0.0, 0.0, 4.0)], -6.0, Join::Round).is_empty());
    // A dumb-bell loses its neck and becomes two.
    let bell = polygon(&[
        (0.0, 0.0),
        (10.0, 0.0),
        (10.0, 4.0),
        (20.0, 4.0),
        (20.0, 0.0),
        (30.0, 0.0),
        (30.0, 10.0),
        (20.0, 10.0),
        (20.0, 6.0),
        (10.0, 6.0),
        (10.0, 10.0),
        (0.0, 10.0),
    ]);
    let found = offset(&[&bell], -1.5, Join::Round);
    assert_eq!(found.len(), 2);
    // Where the neck was the inset bulges between two circles of 1.5 around its corners.
    let bulge = 3.0 - (1.25_f64.sqrt() + 2.25 * (2.0_f64 / 3.0).asin());
    assert!((area(&found) - 2.0 * (49.0 + bulge)).abs() < 1e-6);
    sound(&found);
}

#[test]
fn a_hole_shrinks_as_its_shape_grows() {
    let (outer, hole) = (circle(0.0, 0.0, 10.0), circle(0.0, 0.0, 6.0).reversed());
    let found = offset(&[&outer, &hole], 1.0, Join::Round);
    assert!((area(&found) - PI * (121.0 - 25.0)).abs() < 1e-6);
    assert!(
        found[0].holes[0]
            .segments()
            .iter()
            .all(|s| matches!(s, Segment::Arc(_)))
    );
    let closed = offset(&[&outer, &hole], 6.5, Join::Round);
    assert!(closed[0].holes.is_empty());
    assert!((area(&closed) - PI * 16.5 * 16.5).abs() < 1e-6);
}

#[test]
fn a_stroke_line_gets_a_round_body() {
    let line = Segment::Line(Line::new((0.0, 0.0), (30.0, 0.0)));
    let found = around(&[line], 2.0, Join::Round);
    assert!((area(&found) - (120.0 + 4.0 * PI)).abs() < 1e-6);
    assert_eq!(found[0].outer.segments().len(), 4);
}

#[test]
fn faults_are_found() {
    let bow = polygon(&[(0.0, 0.0), (10.0, 10.0), (10.0, 0.0), (0.0, 10.0)]);
    assert!(fault(&[&bow]).is_some_and(|p| p.distance(Point::new(5.0, 5.0)) < 1e-6));
    let (a, b) = (square(0.0, 0.0, 10.0), square(5.0, 5.0, 10.0));
    assert!(fault(&[&a, &b]).is_some(), "two that cross");
    assert!(fault(&[&a, &a]).is_some(), "doubled");
    assert!(fault(&[&a, &a.reversed()]).is_some(), "there and back");
    assert_eq!(fault(&[&a, &square(2.0, 2.0, 3.0).reversed()]), None);
}

#[derive(serde::Deserialize)]
struct Case {
    a: Vec<(f64, f64)>,
    b: Vec<(f64, f64)>,
    r: f64,
    union: f64,
    difference: f64,
    intersection: f64,
    either: f64,
    grown: f64,
    shrunk: f64,
    mitred: Option<f64>,
}

#[test]
fn areas_are_those_that_shapely_finds() {
    // Values: scripts/reference/shapely_areas.py, Shapely 2.1 on GEOS 3.13.
    let cases: Vec<Case> = serde_json::from_str(include_str!("data/shapely_areas.json")).unwrap();
    assert!(cases.len() >= 300);
    for (n, case) in cases.iter().enumerate() {
        let (a, b) = (polygon(&case.a), polygon(&case.b));
        for (keep, expected) in [
            (Keep::Union, case.union),
            (Keep::Difference, case.difference),
            (Keep::Both, case.intersection),
            (Keep::Either, case.either),
        ] {
            let found = overlay(&[&a], &[&b], keep);
            assert!(
                (area(&found) - expected).abs() < 1e-3,
                "{n} {keep:?}: {} not {expected}",
                area(&found)
            );
            sound(&found);
        }
        for (r, join, expected) in [
            (case.r, Join::Round, Some(case.grown)),
            (-case.r, Join::Round, Some(case.shrunk)),
            (case.r, Join::Mitre, case.mitred),
        ] {
            let Some(expected) = expected else { continue };
            let found = offset(&[&a], r, join);
            // Their arcs are steps; ours are arcs.
            let allowed = 1e-3 + 1e-5 * expected;
            assert!(
                (area(&found) - expected).abs() < allowed,
                "{n} {r} {join:?}: {} not {expected}",
                area(&found)
            );
            sound(&found);
        }
    }
}

#[test]
fn any_number_of_threads_finds_the_same() {
    let blobs = |shift: f64| -> Vec<Ring> {
        let places = (0..900).map(|n| (f64::from(n % 30) * 4.0, f64::from(n / 30) * 4.0));
        let round = places.map(|(x, y)| blob(x + shift, y + shift, 1.6));
        round.collect()
    };
    let (a, b) = (blobs(0.0), blobs(1.3));
    let (a, b): (Vec<&Ring>, Vec<&Ring>) = (a.iter().collect(), b.iter().collect());
    let on = |threads: usize| {
        let pool = rayon::ThreadPoolBuilder::new()
            .num_threads(threads)
            .build()
            .unwrap();
        pool.install(|| {
            (
                overlay(&a, &b, Keep::Difference),
                offset(&a, 0.4, Join::Round),
            )
        })
    };
    assert_eq!(on(1), on(4));
}
