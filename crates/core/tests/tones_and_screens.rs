//! A photograph as tones that can be cut, one within the other, and as rows and dots.
//!
//! The photograph is the demo's portrait, drawn by code: a face of gradients, half in shadow. That tones lie in each
//! other is counted pixel by pixel with tiny-skia, a general-purpose renderer; that nothing is too narrow by the checks.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use inky_core::assembly::bridge::{Asked, auto};
use inky_core::assembly::{Built, Layer, build};
use inky_core::boundary;
use inky_core::check::{Kind, check};
use inky_core::fit;
use inky_core::inks::{self, InkMode, InkReason, Levels, Screen, ScreenChoice};
use inky_core::layers::Meet;
use inky_core::material::presets;
use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::settings::settings;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::{Traced, trace};
use inky_core::units::Mm;

use crate::support::painted::painted;

fn portrait() -> Picture {
    let raster = inky_demo::portrait::photograph();
    let pixels = raster.pixels.iter().map(|&[r, g, b]| [r, g, b, 255]);
    Picture::new(raster.width, raster.height, pixels.collect()).unwrap()
}

/// Tones of a material, stacked.
fn recipe(picture: &Picture, material: &str, width: f64) -> Recipe {
    let (w, h) = (picture.width(), picture.height());
    let size = Size::at_ppi(w, h, 96.0).with_width(Mm::new(width), w, h);
    let mut recipe = Recipe::automatic(size).parted(InkMode::Tones);
    let named = presets().into_iter().find(|m| m.name.starts_with(material));
    recipe.layers.materials = named.into_iter().collect();
    recipe
}

fn made(picture: &Picture, recipe: &Recipe) -> (Traced, Built) {
    let traced = trace(picture, recipe, &Stop::new(), &mut |_| {}).unwrap();
    let built = build(&traced.design, &recipe.layers);
    (traced, built)
}

/// What would be thinner or smaller than the material allows.
const TOO_FINE: [Kind; 5] = [
    Kind::Thin,
    Kind::Gap,
    Kind::SmallPart,
    Kind::SmallHole,
    Kind::Spike,
];

#[test]
fn tones_of_a_portrait_have_nothing_thinner_or_smaller_than_the_material_allows() {
    let picture = portrait();
    for (material, width, count) in [("Card", 150.0, 4), ("Card", 90.0, 3), ("Cast", 150.0, 5)] {
        let mut recipe = recipe(&picture, material, width);
        recipe.inks.tones.count = count;
        let (_, built) = made(&picture, &recipe);
        assert_eq!(built.layers.len(), count);
        let found = check(&built, &recipe.layers);
        let fine: Vec<String> = found
            .iter()
            .filter(|f| TOO_FINE.contains(&f.kind))
            .map(|f| format!("{:?} {:.2} at {:?}", f.kind, f.value, f.at))
            .collect();
        assert_eq!(
            fine,
            Vec::<String>::new(),
            "{count} tones of {material} at {width} mm"
        );
    }
}

/// The pixels of a layer, 8 to the mm.
fn pixels(layer: &Layer, size: Size) -> Vec<f64> {
    let path = layer
        .shapes
        .iter()
        .flat_map(|s| s.path().into_iter())
        .collect();
    painted(&path, (size.width.get(), size.height.get()), 8.0)
}

#[test]
fn each_darker_layer_lies_within_the_lighter_and_has_a_card_of_its_own() {
    let picture = portrait();
    let recipe = recipe(&picture, "Card", 120.0);
    let (traced, built) = made(&picture, &recipe);
    let all: Vec<Vec<f64>> = built
        .layers
        .iter()
        .map(|l| pixels(l, recipe.size))
        .collect();
    for pair in all.windows(2) {
        let outside = pair[1]
            .iter()
            .zip(&pair[0])
            .filter(|(d, l)| **d > 0.9 && **l < 0.1)
            .count();
        let darker = pair[1].iter().filter(|d| **d > 0.9).count();
        assert!(
            darker > 1000 && outside * 5000 < darker,
            "{outside} of {darker} px lie outside"
        );
    }
    let mut names: Vec<_> = built
        .layers
        .iter()
        .map(|l| l.stock_colour.clone())
        .collect();
    assert_eq!(names[0].as_deref(), Some("White"));
    names.dedup();
    assert_eq!(names.len(), 4);
    let InkReason::Tones { kept, percents, .. } = &traced.solid.reason else {
        unreachable!("tones were asked for")
    };
    assert!(*kept > 0.9 && percents.is_sorted_by(|a, b| a > b));
    // Few nodes: no more than one for each 3 mm of line.
    let figures = &traced.design.figures;
    assert!(
        (figures.nodes as f64) < figures.cut_length / 3.0,
        "{}",
        figures.nodes
    );
}

#[test]
fn two_tones_make_one_stencil_whose_islands_are_bridged() {
    let picture = portrait();
    let mut recipe = recipe(&picture, "Stencil", 200.0);
    recipe.inks.tones.count = 2;
    let (traced, built) = made(&picture, &recipe);
    assert_eq!(built.layers.len(), 1);
    assert!(built.layers[0].sheet && !built.layers[0].islands.is_empty());
    let sheet = &built.layers[0];
    let asked = Asked {
        count: 2,
        width: 2.0,
    };
    let size = traced.design.size;
    recipe.layers.bridges = auto(sheet, &sheet.islands, asked, size).unwrap();
    let held = build(&traced.design, &recipe.layers);
    assert_eq!(held.layers[0].islands, Vec::<usize>::new());
}

#[test]
fn tones_side_by_side_cover_the_picture_once() {
    let picture = portrait();
    let mut recipe = recipe(&picture, "Card", 120.0);
    recipe.layers.meet = Meet::Flush;
    let (_, built) = made(&picture, &recipe);
    let area: f64 = built.layers.iter().map(Layer::area).sum();
    let whole = recipe.size.width.get() * recipe.size.height.get();
    assert!((area / whole - 1.0).abs() < 1e-6, "{area} of {whole} mm²");
}

#[test]
fn levels_are_found_equal_or_given_and_a_face_in_shadow_shows_when_it_is_evened_out() {
    let picture = portrait();
    let shares = |levels, even| {
        let mut recipe = recipe(&picture, "Card", 150.0);
        recipe.inks.tones.levels = levels;
        recipe.inks.tones.even = even;
        let (traced, _) = made(&picture, &recipe);
        traced
            .design
            .inks
            .iter()
            .map(|i| i.share)
            .collect::<Vec<f64>>()
    };
    for share in shares(Levels::Equal, 0.0) {
        assert!((share - 0.25).abs() < 0.05, "{share} of four equal areas");
    }
    let given = shares(
        Levels::Hand {
            percents: vec![10.0, 20.0, 99.0],
        },
        0.0,
    );
    assert!(given[0] < 0.02 && given[1] > 0.5, "{given:?}");
    // The darkest tone gives way to those that were hidden in it.
    let (plain, even) = (shares(Levels::Found, 0.0), shares(Levels::Found, 100.0));
    assert!(even[3] < plain[3], "{even:?} after {plain:?}");
}

#[test]
fn a_silhouette_is_all_that_is_not_clear() {
    let (w, h) = (200, 160);
    let inside = |i: u32| ((i % w) as f64 - 100.0).hypot((i / w) as f64 - 80.0) < 60.0;
    let pixels = (0..w * h).map(|i| [(i % 256) as u8, 90, 30, if inside(i) { 255 } else { 0 }]);
    let picture = Picture::new(w, h, pixels.collect()).unwrap();
    let mut recipe = recipe(&picture, "Cast", 100.0);
    recipe = recipe.parted(InkMode::Silhouette);
    let (traced, built) = made(&picture, &recipe);
    assert_eq!(built.layers.len(), 1);
    let area = built.layers[0].area();
    let wanted = std::f64::consts::PI * 30.0 * 30.0;
    assert!(
        (area / wanted - 1.0).abs() < 0.01,
        "{area} for {wanted} mm²"
    );
    assert_eq!(traced.solid.reason, InkReason::Silhouette { whole: false });
}

#[test]
fn rows_and_dots_are_as_dark_as_the_picture_in_squares_of_five_millimetres() {
    let picture = portrait();
    for screen in [Screen::Rows, Screen::Dots] {
        let mut recipe = recipe(&picture, "Ply 3", 60.0).parted(InkMode::Screen);
        recipe.inks.screen = ScreenChoice {
            screen,
            ..ScreenChoice::default()
        };
        let (_, built) = made(&picture, &recipe);
        assert_eq!(built.layers.len(), 1);
        let size = (recipe.size.width.get(), recipe.size.height.get());
        let path = built.layers[0]
            .shapes
            .iter()
            .flat_map(|s| s.path().into_iter())
            .collect();
        const FINE: usize = 20;
        let black = painted(&path, size, FINE as f64);
        let wide = (size.0 * FINE as f64).round() as usize;
        let side = 5 * FINE;
        let px = f64::from(picture.width()) / size.0;
        let mut far = Vec::new();
        for top in (0..black.len() / wide - side).step_by(side) {
            for left in (0..wide - side).step_by(side) {
                let places = || (0..side * side).map(|i| (left + i % side, top + i / side));
                let drawn: f64 = places().map(|(x, y)| black[y * wide + x]).sum();
                let tone = |(x, y): (usize, usize)| {
                    let at = |v: usize| ((v as f64 + 0.5) / FINE as f64 * px) as usize;
                    let [r, g, b, _] = picture.pixels()[at(y) * picture.width() as usize + at(x)];
                    299.0 * f64::from(r) + 587.0 * f64::from(g) + 114.0 * f64::from(b)
                };
                let dark = places().map(|p| 1.0 - tone(p) / 255_000.0).sum::<f64>();
                far.push((drawn - dark).abs() / (side * side) as f64);
            }
        }
        let worst = far.iter().copied().fold(0.0, f64::max);
        assert!(
            worst < 0.03,
            "{screen:?}: {worst:.4} in the worst of {} squares",
            far.len()
        );
    }
}

#[test]
fn odd_pictures_are_parted_too() {
    let plain = Picture::new(40, 30, vec![[120, 120, 120, 255]; 1200]).unwrap();
    let clear = Picture::new(40, 30, vec![[120, 120, 120, 0]; 1200]).unwrap();
    let one = Picture::new(1, 1, vec![[0, 0, 0, 255]]).unwrap();
    for picture in [plain, clear, one] {
        for mode in [InkMode::Tones, InkMode::Silhouette, InkMode::Screen] {
            let recipe = recipe(&picture, "Cast", 50.0).parted(mode);
            let (traced, _) = made(&picture, &recipe);
            let shares: f64 = traced.solid.inks.iter().map(|i| i.share).sum();
            assert!((shares - 1.0).abs() < 1e-9, "{shares} by {mode:?}");
        }
    }
}

/// What a control shows while it moves is coarser, and shows the same: shares of inks within a hundredth.
#[test]
fn a_draft_shows_nearly_what_comes_of_it_on_fewer_places() {
    let picture = portrait();
    for (mode, wide) in [
        (InkMode::Tones, 150.0),
        (InkMode::Silhouette, 150.0),
        // So that it has rows enough to be drawn on fewer places.
        (InkMode::Screen, 300.0),
    ] {
        let mut recipe = recipe(&picture, "Card 240 g", wide);
        recipe.inks.mode = mode;
        let asked = recipe.asked(&recipe.frame((picture.width(), picture.height())));
        let part = |asked| inks::separate(&picture, &asked, &Stop::new()).unwrap();
        let (whole, draft) = (part(asked.clone()), part(asked.draft()));
        assert!(draft.labels.len() < whole.labels.len() * 2 / 3, "{mode:?}");
        assert_eq!(draft.inks.len(), whole.inks.len(), "{mode:?}");
        for (a, b) in whole.inks.iter().zip(&draft.inks) {
            // Two in a hundred of the picture: a tone between two levels moves by that.
            assert!((a.share - b.share).abs() < 0.02, "{mode:?}: {a:?} {b:?}");
        }
        // Steps instead of curves run around as much, and no farther than two places off.
        let settings = settings(&recipe, &draft);
        let bounded = boundary::map(&draft, settings.min_part_px, &Stop::new()).unwrap();
        let steps = fit::draft(&bounded.map, settings.placement);
        let px = settings.placement.step();
        for (edge, steps) in bounded.map.edges.iter().zip(&steps.edges) {
            let ends = (steps.segments.first(), steps.segments.last());
            let (Some(first), Some(last)) = ends else {
                panic!("no steps")
            };
            let [from, to] = [first.start(), last.end()];
            let point = |n: usize| settings.placement.place(edge.points[n]);
            let end = if edge.ends.is_some() {
                edge.points.len() - 1
            } else {
                0
            };
            assert!(from.distance(point(0)) < 1e-9 && to.distance(point(end)) < 1e-9);
            for n in (0..edge.points.len()).step_by(7) {
                let off = steps.segments.iter().map(|s| s.distance(point(n), 1e-6));
                assert!(off.fold(f64::INFINITY, f64::min) < 2.0 * px, "{mode:?}");
            }
        }
    }
    // What is as quick as it is stays.
    let mut plain = recipe(&picture, "Card 240 g", 150.0);
    plain.inks.mode = InkMode::Auto;
    let asked = plain.asked(&plain.frame((picture.width(), picture.height())));
    assert_eq!(asked.clone().draft(), asked);
}
