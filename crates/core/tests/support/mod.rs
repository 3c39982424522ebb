//! Pictures drawn from formulas, and the trace of them at 1 mm to the pixel.
#![allow(
    clippy::expect_used,
    clippy::unwrap_used,
    reason = "helpers of tests may stop them"
)]

pub(crate) mod designs;
pub(crate) mod drawing;
pub(crate) mod mutated;
pub(crate) mod painted;
pub(crate) mod pieces;
pub(crate) mod places;
pub(crate) mod rings;

use inky_core::inks::InkMode;
use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::shapes::{Design, Edges};
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::trace;
use inky_core::units::Mm;

const SAMPLES: u32 = 16;

/// Grey of 0 to 255 at every pixel.
pub(crate) fn greys(width: u32, height: u32, grey: impl Fn(u32, u32) -> u8) -> Picture {
    let pixels = (0..width * height)
        .map(|i| {
            let v = grey(i % width, i / width);
            [v, v, v, 255]
        })
        .collect();
    Picture::new(width, height, pixels).expect("the size is right")
}

/// Black where `inside`, white elsewhere; every pixel holds the covered area, sampled 16 × 16 times.
pub(crate) fn picture(side: u32, inside: impl Fn(f64, f64) -> bool) -> Picture {
    greys(side, side, |x, y| {
        let part = |n: u32| (f64::from(n) + 0.5) / f64::from(SAMPLES);
        let hits = (0..SAMPLES * SAMPLES)
            .filter(|s| {
                inside(
                    f64::from(x) + part(s % SAMPLES),
                    f64::from(y) + part(s / SAMPLES),
                )
            })
            .count();
        (255.0 * (1.0 - hits as f64 / f64::from(SAMPLES * SAMPLES))).round() as u8
    })
}

/// A recipe of one tone at 1 mm to the pixel.
pub(crate) fn recipe(picture: &Picture, edges: Edges) -> Recipe {
    let mut recipe = Recipe::automatic(Size {
        width: Mm::new(f64::from(picture.width())),
        height: Mm::new(f64::from(picture.height())),
        locked: true,
    });
    recipe.inks.mode = InkMode::Mono {
        threshold: None,
        invert: false,
        local: false,
        above: None,
    };
    recipe.trace.edges = edges;
    recipe
}

/// One tone, traced at 1 mm to the pixel.
pub(crate) fn traced(picture: &Picture, edges: Edges) -> Design {
    let recipe = recipe(picture, edges);
    trace(picture, &recipe, &Stop::new(), &mut |_| ())
        .expect("the recipe is sound")
        .design
}

/// The clean drawing of a sample whose file has such a name, and its finished size.
pub(crate) fn sample(name: &str) -> (Picture, Size) {
    let all = inky_demo::SAMPLES.iter();
    let sample = all
        .into_iter()
        .find(|s| s.file_name.contains(name))
        .expect("there is such a sample");
    let (w, h) = sample.size_px;
    let raster = inky_demo::render(&sample.truth(), w, h, [255; 3]);
    let opaque = raster.pixels.iter().map(|&[r, g, b]| [r, g, b, 255]);
    let picture = Picture::new(w, h, opaque.collect()).expect("the size is right");
    let size = Size::at_ppi(w, h, 96.0).with_width(Mm::new(sample.width_mm), w, h);
    (picture, size)
}
