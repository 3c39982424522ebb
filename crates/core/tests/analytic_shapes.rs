//! Discs, rings and squares drawn to pixels and traced back, against their analytic area and
//! perimeter (A = π r², P = 2 π r; a², 4 a).
//!
//! Pixels hold the exact covered area, sampled 16 × 16 times.
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use std::f64::consts::PI;

use inky_core::inks::InkMode;
use inky_core::picture::Picture;
use inky_core::recipe::{Recipe, Size};
use inky_core::shapes::{Design, Edges};
use inky_core::stop::Stop;
use inky_core::trace::trace;
use inky_core::units::Mm;

const SIDE: u32 = 160;
const SAMPLES: u32 = 16;

/// Black where `inside`, white elsewhere, soft at the edge.
fn picture(inside: impl Fn(f64, f64) -> bool) -> Picture {
    let pixels = (0..SIDE * SIDE)
        .map(|i| {
            let (x, y) = (f64::from(i % SIDE), f64::from(i / SIDE));
            let part = |n: u32| (f64::from(n) + 0.5) / f64::from(SAMPLES);
            let hits = (0..SAMPLES * SAMPLES)
                .filter(|s| inside(x + part(s % SAMPLES), y + part(s / SAMPLES)))
                .count();
            let v = 255.0 * (1.0 - hits as f64 / f64::from(SAMPLES * SAMPLES));
            [v.round() as u8, v.round() as u8, v.round() as u8, 255]
        })
        .collect();
    Picture::new(SIDE, SIDE, pixels).expect("the size is right")
}

/// Traced at 1 mm to the pixel.
fn traced(picture: &Picture, edges: Edges) -> Design {
    let side = Mm::new(f64::from(SIDE));
    let mut recipe = Recipe::automatic(Size {
        width: side,
        height: side,
        locked: true,
    });
    recipe.inks.mode = InkMode::Mono {
        threshold: None,
        invert: false,
        local: false,
    };
    recipe.trace.edges = edges;
    trace(picture, &recipe, &Stop::new(), &mut |_| ())
        .expect("the recipe is sound")
        .design
}

#[test]
fn a_disc_has_its_area_and_perimeter_wherever_it_lies() {
    for (dx, dy) in [(0.0, 0.0), (0.25, 0.5), (0.5, 0.125), (0.73, 0.31)] {
        for r in [12.0, 30.0, 61.5] {
            let (cx, cy) = (80.0 + dx, 80.0 + dy);
            let disc = picture(|x, y| (x - cx).hypot(y - cy) < r);
            let design = traced(&disc, Edges::All);
            assert_eq!(design.figures.rings, 1);
            let (area, length) = (design.shapes[0].area(), design.figures.cut_length);
            // A tenth of a pixel all round is the figure asked of a clean picture.
            assert!(
                (area / (PI * r * r) - 1.0).abs() < 0.2 / r,
                "r {r}: area {area}"
            );
            assert!(
                (length / (2.0 * PI * r) - 1.0).abs() < 0.01,
                "r {r}: length {length}"
            );
        }
    }
}

#[test]
fn a_ring_is_one_shape_with_one_hole() {
    let ring = picture(|x, y| (20.0..50.0).contains(&(x - 80.3).hypot(y - 79.6)));
    let design = traced(&ring, Edges::All);
    assert_eq!((design.figures.shapes, design.figures.rings), (1, 2));
    let shape = &design.shapes[0];
    assert!(shape.outer.signed_area() > 0.0 && shape.holes[0].signed_area() < 0.0);
    assert!((shape.area() / (PI * (2500.0 - 400.0)) - 1.0).abs() < 0.005);
    for (edges, rings) in [(Edges::Outer, 1), (Edges::Solid, 1)] {
        let design = traced(&ring, edges);
        assert_eq!(design.figures.rings, rings);
        assert!((design.shapes[0].area() / (PI * 2500.0) - 1.0).abs() < 0.005);
    }
}

#[test]
fn a_square_keeps_its_four_corners() {
    for (offset, angle) in [(0.0_f64, 0.0_f64), (0.4, 0.0), (0.2, 0.4), (0.0, 0.785)] {
        let (sin, cos) = angle.sin_cos();
        let half = 40.0;
        let square = picture(|x, y| {
            let (u, v) = (x - 80.0 - offset, y - 80.0 - offset);
            (u * cos + v * sin).abs() < half && (v * cos - u * sin).abs() < half
        });
        let design = traced(&square, Edges::All);
        assert_eq!(
            design.figures.segments.line, 4,
            "offset {offset}, turned {angle}"
        );
        let area = design.shapes[0].area();
        assert!((area / 6400.0 - 1.0).abs() < 0.004, "area {area}");
        assert!((design.figures.cut_length / 320.0 - 1.0).abs() < 0.004);
    }
}

#[test]
fn outer_takes_only_what_lies_in_nothing_else() {
    let target = picture(|x, y| {
        let r = (x - 80.0).hypot(y - 80.0);
        r < 15.0 || (30.0..60.0).contains(&r)
    });
    assert_eq!(traced(&target, Edges::All).figures.rings, 3);
    assert_eq!(
        traced(&target, Edges::Solid).figures.rings,
        2,
        "the disc in the hole stays"
    );
    assert_eq!(traced(&target, Edges::Outer).figures.rings, 1);
}
