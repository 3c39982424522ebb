//! What of an artwork is printed: shapes that are cut out, pieces that are coloured in, patterns, white under it.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use std::f64::consts::PI;

use crate::support::designs::{RED, TEAL, design};
use crate::support::rings::circle;
use inky_core::assembly::build;
use inky_core::inks::Rgb;
use inky_core::material::presets;
use inky_core::overlay::Rings;
use inky_core::picture::Picture;
use inky_core::print::look::{CutShape, Fill, Filled, Look};
use inky_core::print::paint::{Paint, Pattern};
use inky_core::print::{PrintChoice, PrintPage, Printed};
use inky_core::recipe::Recipe;
use inky_core::shapes::Design;
use inky_core::sheet::choice::SheetChoice;
use inky_core::sheet::{Load, lay};
use kurbo::{Affine, Point, Rect, Shape};
use proptest::prelude::*;

/// A red ring from 30 to 40 mm around the middle of 100 mm, a teal disc of 10 mm in it.
fn target() -> Design {
    let ring = vec![
        circle(50.0, 50.0, 40.0),
        circle(50.0, 50.0, 30.0).reversed(),
    ];
    design(&[(RED, ring), (TEAL, vec![circle(50.0, 50.0, 10.0)])])
}

fn area(shapes: &[Rings]) -> f64 {
    shapes.iter().map(Rings::area).sum()
}

fn near(found: f64, meant: f64) -> bool {
    (found / meant - 1.0).abs() < 2e-3
}

/// 200 px of white, printed at 100 mm.
fn white() -> Picture {
    Picture::new(200, 200, vec![[255; 4]; 40_000]).unwrap()
}

fn printed(look: &Look, choice: &PrintChoice) -> Printed {
    let design = target();
    let recipe = Recipe::automatic(design.size);
    let built = build(&design, &recipe.layers);
    let drawn = look.drawn((&design, &built), 0.5, |_| None);
    Printed::of("target", (&white(), [100.0; 2]), drawn, choice).unwrap()
}

#[test]
fn a_piece_is_a_shape_or_what_a_shape_encloses() {
    let design = target();
    let at = |x: f64, y: f64| area(&Filled::Piece([x / 100.0, y / 100.0]).shapes(&design));
    assert!(near(at(50.0, 50.0), PI * 100.0));
    assert!(near(at(50.0, 85.0), PI * (1600.0 - 900.0)));
    // Between ring and disc.
    assert!(near(at(50.0, 70.0), PI * (900.0 - 100.0)));
    assert!(at(5.0, 5.0) < 1e-9 && at(500.0, -3.0) < 1e-9);
    assert!(near(area(&Filled::Ink(TEAL).shapes(&design)), PI * 100.0));
    assert!(Filled::Ink(Rgb([1, 2, 3])).shapes(&design).is_empty());
}

#[test]
fn it_is_cut_along_its_edge_a_box_an_ellipse_or_a_layer() {
    let choice = PrintChoice::default();
    let cut = |along: CutShape| {
        let look = Look {
            cut: along,
            fills: Vec::new(),
        };
        printed(&look, &choice).cut
    };
    assert!(near(area(&cut(CutShape::Artwork)), PI * 1600.0));
    assert!(near(area(&cut(CutShape::Layer(TEAL))), PI * 100.0));
    // A layer that is no more is the artwork.
    assert!(near(
        area(&cut(CutShape::Layer(Rgb([1, 2, 3])))),
        PI * 1600.0
    ));
    assert!(near(area(&cut(CutShape::Box)), 6400.0));
    // Half axes of √2 · 40 mm; a box 8 mm larger to each side without what its corners of 8 mm leave.
    assert!(near(area(&cut(CutShape::Ellipse)), PI * 3200.0));
    let rounded = 96.0 * 96.0 - (4.0 - PI) * 64.0;
    assert!(near(area(&cut(CutShape::Rounded)), rounded));
    let holds = |along: CutShape| {
        let corner = Point::new(10.2, 10.2);
        cut(along).iter().any(|r| r.outer.path().contains(corner))
    };
    assert!(holds(CutShape::Box) && holds(CutShape::Rounded) && holds(CutShape::Ellipse));
    assert!(!holds(CutShape::Artwork));
}

#[test]
fn white_lies_within_all_that_is_printed() {
    let choice = PrintChoice {
        white: Some(0.5),
        ..PrintChoice::default()
    };
    let with = printed(&Look::default(), &choice);
    // A disc of 40 mm with a bleed of 2 mm.
    assert!(near(area(&with.printed), PI * 42.0 * 42.0));
    assert!(near(area(&with.white), PI * 41.5 * 41.5));
    let without = printed(&Look::default(), &PrintChoice::default());
    assert!(without.white.is_empty());
    let wrong = PrintChoice {
        white: Some(-1.0),
        ..PrintChoice::default()
    };
    assert!(wrong.check().is_err());
}

/// A disc of 80 mm on a roll: the marks are pulled up to it, and the roll ends a margin below them.
#[test]
fn a_roll_is_as_long_as_what_is_printed_on_it() {
    let asked = PrintChoice {
        roll: true,
        page: [300.0, 20.0],
        ..PrintChoice::default()
    };
    let (choice, sheet) = asked.with(&SheetChoice::default());
    assert_eq!(choice.check(), Ok(()));
    let picture = printed(&Look::default(), &choice);
    let material = presets().swap_remove(0);
    let load = Load {
        name: material.name.clone(),
        sources: vec![picture.source((&choice, &material), &sheet)],
        stock: choice.stock(&material.name),
        material,
    };
    let laid = lay(&load, &sheet);
    let page = PrintPage::of(&choice, &[picture], &laid);
    assert_eq!(page.prints.len(), 1);
    let lowest = page.marks.iter().map(|m| m.at.y).fold(0.0, f64::max);
    // Half a mark and 45 mm of margin below it.
    assert!((page.choice.page[1] - lowest - 48.0).abs() < 1e-9);
    let (cut, page_size) = (page.cutting.size, page.choice.page);
    assert!((cut[0] - page_size[0]).abs() < 1e-9 && (cut[1] - page_size[1]).abs() < 1e-9);
    // 15 mm of margin, 80 mm and a bleed to each side, and no more than the marks need beside that.
    assert!(
        page.choice.page[1] > 15.0 + 82.0 + 45.0 && page.choice.page[1] < 15.0 + 84.0 + 70.0,
        "{:?}",
        page.choice.page
    );
    assert!(
        page.faults(&[printed(&Look::default(), &choice)])
            .is_empty()
    );
}

fn paint(pattern: Pattern, size: f64, angle: f64) -> Paint {
    Paint {
        pattern,
        colour: RED,
        ground: TEAL,
        size,
        angle,
    }
}

#[test]
fn what_is_coloured_in_lies_over_the_picture_and_nowhere_else() {
    let fills = vec![
        Fill {
            of: Filled::Piece([0.5, 0.7]),
            with: paint(Pattern::Checks, 8.0, 0.0),
            picture: None,
        },
        Fill {
            of: Filled::Ink(TEAL),
            with: Paint::flat(Rgb([250, 200, 0])),
            picture: None,
        },
    ];
    let look = Look {
        cut: CutShape::Box,
        fills,
    };
    let printed = printed(&look, &PrintChoice::default());
    let shown = printed.shown(&white());
    let [left, top, ..] = printed.shown_px(200);
    let at = |x: f64, y: f64| {
        let [u, v] = [(x * 2.0) as i32 - left, (y * 2.0) as i32 - top];
        let [r, g, b, _] = shown.pixels()[(v * shown.width() as i32 + u) as usize];
        Rgb([r, g, b])
    };
    assert_eq!(at(50.0, 50.0), Rgb([250, 200, 0]));
    // Squares of 4 mm: the first of every 8 mm, and the one beside and below it.
    assert_eq!((at(66.0, 50.0), at(70.0, 50.0)), (RED, TEAL));
    assert_eq!((at(66.0, 54.0), at(70.0, 54.0)), (TEAL, RED));
    assert_eq!(at(50.0, 85.0), Rgb::WHITE, "the ring itself");
    assert_eq!(at(15.0, 15.0), Rgb::WHITE, "outside of it");
}

/// Cut along the disc alone, of what is coloured in beside it nothing is printed.
#[test]
fn nothing_is_coloured_in_beyond_what_is_printed() {
    let fill = |of: Filled| Fill {
        of,
        with: Paint::flat(RED),
        picture: None,
    };
    let look = Look {
        cut: CutShape::Layer(TEAL),
        fills: vec![
            fill(Filled::Piece([0.5, 0.85])),
            fill(Filled::Piece([0.5, 0.7])),
        ],
    };
    let printed = printed(&look, &PrintChoice::default());
    // The ring is out of reach; of what lies between, the bleed of 2 mm around the disc is left.
    assert_eq!(printed.painted.len(), 1);
    let found = area(&printed.painted[0].shapes);
    let inner = 10.0 - 0.25;
    assert!(near(found, PI * (12.0 * 12.0 - inner * inner)), "{found}");
}

/// Parts of a pattern that are of its colour: π · 0.3² of a dot's square, a half of the others.
#[test]
fn as_much_of_a_pattern_is_coloured_as_its_geometry_says() {
    for (pattern, meant) in [
        (Pattern::Flat, 1.0),
        (Pattern::Dots, PI * 0.09),
        (Pattern::Stripes, 0.5),
        (Pattern::Checks, 0.5),
    ] {
        let paint = paint(pattern, 3.0, 30.0);
        let places = (0..90_000).map(|n| Point::new(f64::from(n % 300), f64::from(n / 300)));
        let on = places
            .filter(|p| paint.at((p.to_vec2() * 0.31).to_point()) == RED)
            .count();
        let share = on as f64 / 90_000.0;
        assert!((share - meant).abs() < 0.01, "{pattern:?}: {share}");
    }
    for wrong in [
        paint(Pattern::Dots, 0.1, 0.0),
        paint(Pattern::Dots, 3.0, f64::NAN),
    ] {
        assert!(wrong.check().is_err());
    }
}

proptest! {
    /// What is drawn as rows is what the pattern says of every place.
    #[test]
    fn rows_cover_what_a_pattern_says(
        kind in 0..3, size in 0.5..9.0, angle in -90.0..90.0, x in -20.0..20.0, y in -20.0..20.0,
    ) {
        let pattern = [Pattern::Dots, Pattern::Stripes, Pattern::Checks][kind as usize];
        let paint = paint(pattern, size, angle);
        let rows = paint.rows(Rect::new(-20.0, -20.0, 20.0, 20.0), [size; 2]).unwrap();
        let p = Point::new(x, y);
        let within = |down: &f64| {
            let map = rows.map * Affine::translate((0.0, *down));
            rows.row.contains(map.inverse() * p)
        };
        // Beside an edge either may be said.
        let beside = [(0.01, 0.0), (-0.01, 0.0), (0.0, 0.01), (0.0, -0.01)];
        let sure = beside.iter().all(|by| paint.at(p + *by) == paint.at(p));
        prop_assume!(sure);
        prop_assert_eq!(rows.down.iter().any(within), paint.at(p) == RED);
    }
}
