//! What a person chooses about the inks: a rim, a pull-in, a band of tones, a colour pointed at, and
//! enclosed ground, against the areas that geometry gives.
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use std::f64::consts::PI;

use inky_core::clean::{Action, Pointed, Step};
use inky_core::inks::{InkMode, Rgb, Rim, RimKind};
use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::{Traced, trace};
use inky_core::units::{Mm, SquareMm};

const PAPER: [f64; 3] = [250.0, 246.0, 238.0];
const RED: [f64; 3] = [190.0, 40.0, 50.0];
const INK: [f64; 3] = [25.0, 35.0, 80.0];

/// Discs painted one over the other on paper, softly edged: centre, radius, colour.
fn discs(size: u32, discs: &[(f64, f64, f64, [f64; 3])]) -> Picture {
    let pixel = |i: u32| {
        let (x, y) = (f64::from(i % size) + 0.5, f64::from(i / size) + 0.5);
        let over = |under: [f64; 3], &(cx, cy, r, colour): &(f64, f64, f64, [f64; 3])| {
            let part = (0.5 + r - (x - cx).hypot(y - cy)).clamp(0.0, 1.0);
            std::array::from_fn(|c| under[c] + (colour[c] - under[c]) * part)
        };
        let [r, g, b] = discs.iter().fold(PAPER, over).map(|v| v.round() as u8);
        [r, g, b, 255]
    };
    Picture::new(size, size, (0..size * size).map(pixel).collect()).expect("the size is right")
}

/// A pixel is a tenth of a millimetre.
fn recipe(picture: &Picture) -> Recipe {
    Recipe::automatic(Size::at_ppi(picture.width(), picture.height(), 254.0))
}

fn traced(picture: &Picture, recipe: &Recipe) -> Traced {
    trace(picture, recipe, &Stop::new(), &mut |_| ()).expect("the recipe is sound")
}

/// Area of all kept inks, px².
fn area(traced: &Traced) -> f64 {
    let kept = traced.design.inks.iter().filter(|i| i.letter.is_some());
    kept.map(|ink| ink.area).sum::<f64>() * 100.0
}

const ONE_TONE: InkMode = InkMode::Mono {
    threshold: None,
    invert: false,
    local: false,
    above: None,
};

#[test]
fn a_rim_and_a_pulled_in_shape_have_the_width_asked_for() {
    let picture = discs(240, &[(118.3, 121.7, 80.0, INK)]);
    let mut recipe = recipe(&picture);
    recipe.inks.mode = ONE_TONE;
    for (kind, expected) in [
        (RimKind::PulledIn, 65.0f64.powi(2)),
        (RimKind::Band, 80.0f64.powi(2) - 65.0f64.powi(2)),
    ] {
        let width = Mm::new(1.5);
        recipe.inks.rim = Some(Rim { kind, width });
        let found = area(&traced(&picture, &recipe)) / PI;
        // A twentieth of a pixel along every edge.
        let allowed = 0.05 * 2.0 * (80.0 + 65.0);
        assert!(
            (found - expected).abs() < allowed,
            "{kind:?}: {found} of {expected}"
        );
    }
}

#[test]
fn a_band_of_tones_leaves_what_is_darker_and_what_is_lighter() {
    let grey = [150.0; 3];
    let picture = discs(
        200,
        &[(60.0, 100.0, 40.0, grey), (150.0, 100.0, 30.0, [20.0; 3])],
    );
    let mut recipe = recipe(&picture);
    recipe.inks.mode = InkMode::Mono {
        threshold: Some(78.0),
        above: Some(40.0),
        invert: false,
        local: false,
    };
    let traced = traced(&picture, &recipe);
    let discs = traced.design.shapes.iter().filter(|s| s.area() > 10.0);
    assert_eq!(discs.count(), 1, "the grey disc alone");
    assert!(
        traced
            .solid
            .reason
            .to_string()
            .contains("between 40 % and 78 %")
    );
}

#[test]
fn a_colour_that_was_missed_is_an_ink_once_it_is_pointed_at() {
    // Two reds that are taken for one.
    let near = [197.0, 44.0, 52.0];
    let picture = discs(240, &[(90.0, 120.0, 60.0, RED), (190.0, 120.0, 24.0, near)]);
    let mut recipe = recipe(&picture);
    assert_eq!(traced(&picture, &recipe).solid.inks.len(), 2);
    recipe.inks.added = vec![Rgb(near.map(|v| v as u8))];
    let traced = traced(&picture, &recipe);
    assert_eq!(traced.solid.inks.len(), 3);
    let small = &traced.design.inks[2];
    let expected = PI * 24.0f64.powi(2);
    assert!(
        (small.area * 100.0 / expected - 1.0).abs() < 0.02,
        "{}",
        small.area
    );
}

#[test]
fn ground_that_a_speck_encloses_goes_with_it() {
    let rings = [
        (90.0, 90.0, 60.0, RED),
        (90.0, 90.0, 20.0, PAPER),
        (190.0, 190.0, 12.0, RED),
        (190.0, 190.0, 6.0, PAPER),
    ];
    let picture = discs(240, &rings);
    let mut recipe = recipe(&picture);
    let counts = |recipe: &Recipe| {
        let traced = traced(&picture, recipe);
        let ground = traced.solid.background(recipe.inks.background);
        let ground = ground.map(|i| inky_core::inks::InkId(i as u8));
        let of = |labels: &[u8]| traced.solid.enclosed_parts(labels, ground, 9).len();
        (of(&traced.solid.labels), of(&traced.bounded.labels))
    };
    assert_eq!(counts(&recipe), (2, 2));
    // The small ring is π (12² − 6²) = 339 px² and its middle 113 px².
    recipe.trace.min_part = Some(SquareMm::new(4.0));
    assert_eq!(counts(&recipe), (2, 1));
}

#[test]
fn enclosed_ground_is_kept_one_by_one() {
    let paper = (60.0, 60.0, 20.0, PAPER);
    let picture = discs(
        240,
        &[(90.0, 90.0, 80.0, RED), paper, (120.0, 120.0, 15.0, PAPER)],
    );
    let mut recipe = recipe(&picture);
    let plain = traced(&picture, &recipe);
    let parts = plain.solid.enclosed_parts(
        &plain.bounded.labels,
        plain
            .solid
            .background(recipe.inks.background)
            .map(|i| inky_core::inks::InkId(i as u8)),
        9,
    );
    assert_eq!(parts.len(), 2);
    recipe.inks.enclosed = vec![[parts[0].at.x, parts[0].at.y]];
    let kept = traced(&picture, &recipe);
    let more = area(&kept) - area(&plain);
    let expected = PI * 20.0f64.powi(2);
    assert!((more / expected - 1.0).abs() < 0.01, "{more} of {expected}");
    assert_eq!(kept.design.shapes.len(), plain.design.shapes.len() + 1);
    // With one tone it is no hole any more.
    recipe.inks.mode = ONE_TONE;
    let one_tone = traced(&picture, &recipe);
    assert_eq!(one_tone.design.shapes[0].holes.len(), 1);
}

#[test]
fn clearing_the_ground_by_pointing_leaves_the_same_outline() {
    let picture = discs(
        240,
        &[(118.3, 121.7, 80.0, RED), (100.0, 110.0, 20.0, PAPER)],
    );
    let mut recipe = recipe(&picture);
    let before = area(&traced(&picture, &recipe));
    let pointed = Pointed {
        at: [3.0, 3.0],
        tolerance: 10.0,
        everywhere: false,
    };
    recipe.clean = vec![Step {
        on: true,
        action: Action::Clear { pointed },
    }];
    let cleared = traced(&picture, &recipe);
    assert!(cleared.solid.inks.iter().any(|ink| ink.clear));
    // Connected only: the enclosed paper stays and is an ink now.
    let hole = PI * 20.0f64.powi(2);
    assert!((area(&cleared) - hole - before).abs() < 0.002 * before);
    recipe.clean[0].on = false;
    assert!((area(&traced(&picture, &recipe)) - before).abs() < 1e-9);
}
