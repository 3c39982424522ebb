//! The sample pictures traced against the geometry they were drawn from.
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use inky_core::inks::InkMode;
use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::shapes::Design;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::trace;
use inky_core::units::Mm;
use inky_demo::{SAMPLES, Sample, render};

/// The clean drawing of a sample, before it was scanned or saved badly.
fn clean(sample: &Sample) -> Picture {
    let (w, h) = sample.size_px;
    let raster = render(&sample.truth(), w, h, [255; 3]);
    let pixels = raster
        .pixels
        .iter()
        .map(|&[r, g, b]| [r, g, b, 255])
        .collect();
    Picture::new(w, h, pixels).expect("the size is right")
}

fn traced(sample: &Sample) -> Design {
    let (w, h) = sample.size_px;
    let mut recipe =
        Recipe::automatic(Size::at_ppi(w, h, 96.0).with_width(Mm::new(f64::from(w)), w, h));
    if sample.mono {
        recipe.inks.mode = InkMode::Mono {
            threshold: None,
            invert: false,
            local: false,
            above: None,
        };
    }
    trace(&clean(sample), &recipe, &Stop::new(), &mut |_| ())
        .expect("traced")
        .design
}

/// Area of each colour in px, counted on a drawing four times as large (tiny-skia's coverage).
fn true_area(sample: &Sample, colour: [u8; 3]) -> f64 {
    let (w, h) = (sample.size_px.0, sample.size_px.1);
    let fills: Vec<_> = sample
        .truth()
        .into_iter()
        .map(|mut fill| {
            fill.colour = if fill.colour == colour {
                [0; 3]
            } else {
                [255; 3]
            };
            fill
        })
        .collect();
    let raster = render(&fills, w, h, [255; 3]);
    raster
        .pixels
        .iter()
        .map(|p| 1.0 - f64::from(p[0]) / 255.0)
        .sum()
}

#[test]
fn the_teapot_has_three_inks_and_the_background_dropped() {
    let design = traced(&SAMPLES[0]);
    let kept: Vec<_> = design.inks.iter().filter(|i| i.letter.is_some()).collect();
    assert_eq!(kept.len(), 3);
    for ink in kept {
        let truth = true_area(&SAMPLES[0], ink.colour.0);
        assert!(
            (ink.area / truth - 1.0).abs() < 0.003,
            "{}: {} of {truth}",
            ink.colour,
            ink.area
        );
    }
    // Body with handle and spout, and its foot; the lid and its knob; the star.
    let shapes: Vec<usize> = design
        .inks
        .iter()
        .filter(|i| i.letter.is_some())
        .map(|i| i.shapes)
        .collect();
    assert_eq!(shapes, [2, 2, 1]);
    let body = &design.shapes[0];
    assert_eq!(body.holes.len(), 2, "the handle's hole and the star");
}

#[test]
fn the_observatory_keeps_every_star_and_its_nesting() {
    let design = traced(&SAMPLES[1]);
    let truth = true_area(&SAMPLES[1], [16, 16, 18]);
    let area: f64 = design.shapes.iter().map(|s| s.area()).sum();
    assert!((area / truth - 1.0).abs() < 0.003, "{area} of {truth}");
    // Twelve stars and the moon stand apart from the building.
    let small = design.shapes.iter().filter(|s| s.area() < 12_000.0).count();
    assert!(small >= 13, "{small} small parts");
}

#[test]
fn the_lantern_keeps_its_cut_outs() {
    let design = traced(&SAMPLES[4]);
    let truth = true_area(&SAMPLES[4], [26, 44, 74]);
    let area: f64 = design.shapes.iter().map(|s| s.area()).sum();
    assert!((area / truth - 1.0).abs() < 0.01, "{area} of {truth}");
    // The hanging ring's hole and the window, which the flame and its bar part into pieces.
    let holes: usize = design.shapes.iter().map(|s| s.holes.len()).sum();
    assert!(holes >= 2, "{holes}");
}

#[test]
fn the_files_are_the_same_on_every_call() {
    for sample in [&SAMPLES[2], &SAMPLES[4]] {
        assert_eq!(sample.file(), sample.file(), "{}", sample.title);
    }
}
