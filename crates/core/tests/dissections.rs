//! Nesting against dissections that were published: pieces of no regular shape that fill a strip to the last corner, so
//! that the best there is is known.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use crate::support::pieces::piece;
use crate::support::rings::polygon;
use inky_core::sheet::nest::nest;
use inky_core::sheet::nesting::Nesting;
use inky_core::sheet::piece::Piece;
use inky_core::stop::Stop;
use kurbo::Rect;

/// Share of the strip that is covered, where pieces that fill it wholly are nested so many times.
fn covered(pieces: &[Piece], wide: f64, turns: &[f64], tries: usize) -> f64 {
    let items: Vec<usize> = (0..pieces.len()).collect();
    let asked = Nesting {
        pieces,
        items: &items,
        room: Rect::new(0.0, 0.0, wide, 1000.0),
        gap: 0.0,
        turns,
        walls: None,
    };
    let found = nest(&asked, tries, &Stop::new(), &mut |_, _| {});
    assert!(found.spots.iter().all(Option::is_some), "all find room");
    let area: f64 = pieces.iter().map(|p| p.area).sum();
    area / (wide * found.length)
}

/// S. W. Golomb, "Checker boards and polyominoes", Amer. Math. Monthly 61, 1954: the twelve pentominoes fill 6 × 10.
/// This filling was found by an exact cover, and shows by itself that there is one.
const PENTOMINOES: [&str; 10] = [
    "FFLLPP", "IFFLPP", "IFNLPW", "INNLWW", "INYWWT", "INYTTT", "ZZYYXT", "VZYXXX", "VZZUXU",
    "VVVUUU",
];

/// The outline of the squares of one letter, 10 mm each.
fn pentomino(letter: u8) -> Piece {
    let has = |x: i32, y: i32| {
        let row = usize::try_from(y).ok().and_then(|y| PENTOMINOES.get(y));
        row.and_then(|r| r.as_bytes().get(usize::try_from(x).ok()?)) == Some(&letter)
    };
    let mut sides = Vec::new();
    for (x, y) in (0..10).flat_map(|y| (0..6).map(move |x| (x, y))) {
        if has(x, y) {
            let around = [
                ((0, -1), (x, y), (x + 1, y)),
                ((1, 0), (x + 1, y), (x + 1, y + 1)),
                ((0, 1), (x + 1, y + 1), (x, y + 1)),
                ((-1, 0), (x, y + 1), (x, y)),
            ];
            let outer = around
                .iter()
                .filter(|((dx, dy), _, _)| !has(x + dx, y + dy));
            sides.extend(outer.map(|&(_, from, to)| (from, to)));
        }
    }
    let mut line = vec![sides[0].0];
    while line.len() < sides.len() {
        let end = line[line.len() - 1];
        line.push(sides.iter().find(|(from, _)| *from == end).unwrap().1);
    }
    let places = line
        .iter()
        .map(|&(x, y)| (f64::from(x) * 10.0, f64::from(y) * 10.0));
    piece(vec![(polygon(&places.collect::<Vec<_>>()), vec![])])
}

#[test]
fn pentominoes_cover_three_quarters_of_the_strip_that_they_can_fill() {
    let pieces: Vec<Piece> = b"FILNPTUVWXYZ".map(pentomino).into();
    assert!(pieces.iter().all(|p| (p.area - 500.0).abs() < 1e-6));
    let found = covered(&pieces, 60.0, &[0.0, 90.0, 180.0, 270.0], 40);
    assert!(found > 0.75, "{found} of 1");
}

/// The tangram: seven pieces, known in Europe since 1813, that fill a square; here 100 mm wide.
#[test]
fn the_tangram_is_laid_into_its_square() {
    let places: [&[(f64, f64)]; 7] = [
        &[(0.0, 0.0), (4.0, 0.0), (2.0, 2.0)],
        &[(0.0, 0.0), (2.0, 2.0), (0.0, 4.0)],
        &[(4.0, 0.0), (4.0, 2.0), (3.0, 1.0)],
        &[(3.0, 1.0), (4.0, 2.0), (3.0, 3.0), (2.0, 2.0)],
        &[(2.0, 2.0), (3.0, 3.0), (1.0, 3.0)],
        &[(0.0, 4.0), (1.0, 3.0), (3.0, 3.0), (2.0, 4.0)],
        &[(4.0, 2.0), (4.0, 4.0), (2.0, 4.0)],
    ];
    let scaled = |p: &[(f64, f64)]| -> Vec<(f64, f64)> {
        p.iter().map(|(x, y)| (x * 25.0, y * 25.0)).collect()
    };
    let pieces: Vec<Piece> = places
        .iter()
        .map(|p| piece(vec![(polygon(&scaled(p)), vec![])]))
        .collect();
    let whole: f64 = pieces.iter().map(|p| p.area).sum();
    assert!((whole - 10_000.0).abs() < 1e-6);
    let turns: Vec<f64> = (0..8).map(|n| f64::from(n) * 45.0).collect();
    let found = covered(&pieces, 100.0, &turns, 40);
    assert!(found > 0.99, "{found} of 1");
}
