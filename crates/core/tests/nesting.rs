//! Nesting: outlines pushed together on a strip, their gaps kept, the same on any number of threads.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use crate::support::pieces::piece;
use crate::support::rings::{circle, polygon, rectangle};
use inky_core::overlay::{Keep, Rings, overlay};
use inky_core::segment::Segment;
use inky_core::shapes::Ring;
use inky_core::sheet::choice::Turns;
use inky_core::sheet::nest::{Nested, nest};
use inky_core::sheet::nesting::Nesting;
use inky_core::sheet::piece::Piece;
use inky_core::stop::Stop;
use kurbo::{Line, ParamCurveNearest, Point, Rect};
use proptest::prelude::*;

#[test]
fn a_small_piece_nests_in_the_hole_of_a_large_one() {
    let ring = piece(vec![(
        circle(60.0, 60.0, 60.0),
        vec![circle(60.0, 60.0, 50.0)],
    )]);
    let disc = piece(vec![(circle(30.0, 30.0, 30.0), vec![])]);
    let pieces = [ring, disc];
    let asked = Nesting {
        pieces: &pieces,
        items: &[0, 1],
        room: Rect::new(10.0, 10.0, 150.0, 1000.0),
        gap: 3.0,
        turns: &[0.0],
        walls: None,
    };
    let found = nest(&asked, 8, &Stop::new(), &mut |_, _| {});
    assert!(
        found.length < 120.5,
        "the disc lies in the ring: {}",
        found.length
    );
}

/// Hopper & Turton 2001, "An empirical investigation of meta-heuristic and heuristic algorithms for a 2D packing
/// problem", instance C1-P1: 16 rectangles that fill a strip 20 wide to a height of exactly 20, here in
/// centimetres (data from memory; its areas add up to 400 as they must).
#[test]
fn a_published_strip_packing_instance_comes_near_its_optimum() {
    let sides = [
        (2, 12),
        (7, 12),
        (8, 6),
        (3, 6),
        (3, 5),
        (5, 5),
        (3, 12),
        (3, 7),
        (5, 7),
        (2, 6),
        (3, 2),
        (4, 2),
        (3, 4),
        (4, 4),
        (9, 2),
        (11, 2),
    ];
    assert_eq!(sides.iter().map(|(w, h)| w * h).sum::<i32>(), 400);
    let rect = |&(w, h): &(i32, i32)| {
        piece(vec![(
            rectangle(0.0, 0.0, f64::from(w) * 10.0, f64::from(h) * 10.0),
            vec![],
        )])
    };
    let pieces: Vec<Piece> = sides.iter().map(rect).collect();
    let items: Vec<usize> = (0..pieces.len()).collect();
    let asked = Nesting {
        pieces: &pieces,
        items: &items,
        // Lengths come in steps of 10 mm: 220 mm is two steps above the optimum of 200 mm.
        room: Rect::new(0.0, 0.0, 200.0, 220.5),
        gap: 0.0,
        turns: &[0.0, 90.0],
        walls: None,
    };
    let left_out = |found: &Nested| found.spots.iter().filter(|s| s.is_none()).count();
    let first = nest(&asked, 1, &Stop::new(), &mut |_, _| {});
    assert!(
        left_out(&first) > 0,
        "put down one by one they do not all fit"
    );
    let found = nest(&asked, 40, &Stop::new(), &mut |_, _| {});
    assert_eq!(left_out(&found), 0);
    kept(&asked, &found);
}

/// Every pair keeps the gap, by the distance of every chord to every other, and none covers what another does;
/// all lie in the room.
fn kept(asked: &Nesting<'_>, found: &Nested) {
    let lines: Vec<Vec<Vec<Point>>> = found
        .spots
        .iter()
        .zip(asked.items)
        .map(|(spot, &p)| spot.map_or(Vec::new(), |s| asked.pieces[p].placed(s).0))
        .collect();
    let chords = |all: &[Vec<Point>]| -> Vec<Line> {
        let sides = all.iter().flat_map(|l| l.windows(2));
        sides.map(|w| Line::new(w[0], w[1])).collect()
    };
    let rings = |all: &[Vec<Point>]| -> Vec<Ring> {
        let sides = |l: &Vec<Point>| {
            l.windows(2)
                .map(|w| Segment::Line(Line::new(w[0], w[1])))
                .collect()
        };
        all.iter()
            .filter_map(|l| Ring::new(sides(l), vec![]))
            .collect()
    };
    for (n, a) in lines.iter().enumerate() {
        for p in a.iter().flatten() {
            let room = asked.room.inflate(1e-6, 1e-6);
            assert!(room.contains(*p), "item {n} at {p:?}");
        }
        for b in &lines[n + 1..] {
            let (one, other) = (rings(a), rings(b));
            let both = overlay(
                &one.iter().collect::<Vec<_>>(),
                &other.iter().collect::<Vec<_>>(),
                Keep::Both,
            );
            let covered: f64 = both.iter().map(Rings::area).sum();
            assert!(covered < 1e-2, "item {n} and another share {covered} mm²");
            for side in chords(a) {
                for other in chords(b) {
                    let apart = [
                        other.nearest(side.p0, 1e-9).distance_sq,
                        side.nearest(other.p0, 1e-9).distance_sq,
                    ];
                    let apart = apart.into_iter().fold(f64::INFINITY, f64::min).sqrt();
                    assert!(
                        apart >= asked.gap - 1e-6,
                        "{apart} mm between {n} and another"
                    );
                }
            }
        }
    }
}

/// Irregular stars, each of its own size.
fn star(n: usize, seed: f64) -> Piece {
    let corners: Vec<(f64, f64)> = (0..n)
        .map(|k| {
            let r = 12.0 + 18.0 * ((k as f64 * 7.31 + seed * 3.7).sin() * 0.5 + 0.5);
            let angle = std::f64::consts::TAU * k as f64 / n as f64;
            (40.0 + r * angle.cos(), 40.0 + r * angle.sin())
        })
        .collect();
    piece(vec![(polygon(&corners), vec![])])
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    #[test]
    fn nested_pieces_keep_the_gap_and_the_room(
        corners in prop::collection::vec(5_usize..12, 3..9),
        gap in 0.0_f64..6.0,
        fine in any::<bool>(),
    ) {
        let pieces: Vec<Piece> = corners.iter().enumerate().map(|(n, &c)| star(c, n as f64)).collect();
        let items: Vec<usize> = (0..pieces.len()).collect();
        let turns = if fine { Turns::Fine } else { Turns::Quarter }.degrees(false);
        let asked = Nesting {
            pieces: &pieces,
            items: &items,
            room: Rect::new(10.0, 10.0, 160.0, 2000.0),
            gap,
            turns: &turns,
            walls: None,
        };
        let found = nest(&asked, 6, &Stop::new(), &mut |_, _| {});
        prop_assert!(found.spots.iter().all(Option::is_some));
        kept(&asked, &found);
        prop_assert_eq!(&found, &nest(&asked, 6, &Stop::new(), &mut |_, _| {}), "the same tries, the same answer");
    }

    #[test]
    fn more_tries_are_never_worse(corners in prop::collection::vec(5_usize..9, 4..7)) {
        let pieces: Vec<Piece> = corners.iter().enumerate().map(|(n, &c)| star(c, n as f64)).collect();
        let items: Vec<usize> = (0..pieces.len()).collect();
        let asked = Nesting {
            pieces: &pieces,
            items: &items,
            room: Rect::new(0.0, 0.0, 130.0, 2000.0),
            gap: 2.0,
            turns: &[0.0, 180.0],
            walls: None,
        };
        let mut told = Vec::new();
        nest(&asked, 12, &Stop::new(), &mut |n, _| told.extend(n.map(|n| n.length)));
        let best = told.iter().copied().fold(f64::INFINITY, f64::min);
        prop_assert!((told[told.len() - 1] - best).abs() < 1e-9, "{told:?}");
    }
}

#[test]
fn a_stopped_search_keeps_the_best_so_far() {
    let pieces: Vec<Piece> = (0..6).map(|n| star(7, f64::from(n))).collect();
    let asked = Nesting {
        pieces: &pieces,
        items: &[0, 1, 2, 3, 4, 5],
        room: Rect::new(0.0, 0.0, 150.0, 2000.0),
        gap: 2.0,
        turns: &[0.0],
        walls: None,
    };
    let stop = Stop::new();
    stop.set();
    let found = nest(&asked, 1_000_000, &stop, &mut |_, _| {});
    assert_eq!(found.tries, 1);
    assert!(found.spots.iter().all(Option::is_some));
}

#[test]
fn any_number_of_threads_gives_the_same_answer() {
    let pieces: Vec<Piece> = (5..12).map(|n| star(n, n as f64)).collect();
    let asked = Nesting {
        pieces: &pieces,
        items: &[0, 1, 2, 3, 4, 5, 6],
        room: Rect::new(10.0, 10.0, 170.0, 2000.0),
        gap: 2.0,
        turns: &Turns::Quarter.degrees(false),
        walls: None,
    };
    let on = |threads: usize| {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build();
        pool.unwrap()
            .install(|| nest(&asked, 12, &Stop::new(), &mut |_, _| {}))
    };
    let one = on(1);
    kept(&asked, &one);
    assert_eq!(one, on(2));
    assert_eq!(one, on(5));
}
