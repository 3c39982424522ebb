//! Rings and holes of binary pictures against border following as OpenCV computes it.
//!
//! Source: Suzuki & Abe 1985, "Topological structural analysis of digitized binary images by border
//! following" (CVGIP 30(1) 32–46); counts by `scripts/reference/rings.py` with OpenCV 4.
//! OpenCV joins ink across corners; here the rarer ink holds together, which in these pictures is
//! the ink as well.
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use inky_core::inks::InkMode;
use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::trace;
use inky_core::units::{Mm, SquareMm};

const CELLS: usize = 40;

/// Seed, percent of ink, outer borders, holes.
const RINGS: [(u32, u32, usize, usize); 15] = include!("reference/rings.in");

/// Cells of 3 × 3 px by the numbers of a linear congruential generator (Numerical Recipes).
fn picture(seed: u32, share: u32) -> Picture {
    let mut state = seed;
    let cells: Vec<bool> = (0..CELLS * CELLS)
        .map(|i| {
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            let (x, y) = (i % CELLS, i / CELLS);
            let inner = |v: usize| (1..CELLS - 1).contains(&v);
            (state >> 16) % 100 < share && inner(x) && inner(y)
        })
        .collect();
    let side = 3 * CELLS;
    let pixels = (0..side * side)
        .map(|i| {
            if cells[i / side / 3 * CELLS + i % side / 3] {
                [0, 0, 0, 255]
            } else {
                [255; 4]
            }
        })
        .collect();
    Picture::new(side as u32, side as u32, pixels).expect("the size is right")
}

#[test]
fn rings_are_as_many_as_border_following_finds() {
    for (seed, share, outer, holes) in RINGS {
        let picture = picture(seed, share);
        let side = Mm::new(f64::from(picture.width()));
        let mut recipe = Recipe::automatic(Size {
            width: side,
            height: side,
            locked: true,
        });
        recipe.inks.mode = InkMode::Mono {
            threshold: Some(50.0),
            invert: false,
            local: false,
            above: None,
        };
        recipe.trace.min_part = Some(SquareMm::new(0.0));
        let traced =
            trace(&picture, &recipe, &Stop::new(), &mut |_| ()).expect("the recipe is sound");
        let figures = traced.design.figures;
        assert_eq!(
            (figures.shapes, figures.rings - figures.shapes),
            (outer, holes),
            "seed {seed}, {share} % ink"
        );
    }
}
