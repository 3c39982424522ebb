//! The controls of what is made of a picture with gradients: tones, rows and dots.

use inky_core::inks::{InkMode, InkReason, Screen};
use inky_core::recipe::Recipe;
use inky_core::units::{Mm, Unit};

use crate::job::controls::Slider;
use crate::workshop::Outcome;

/// The levels between tones, percent, rising.
pub(crate) fn levels(outcome: &Outcome) -> Vec<f64> {
    match &outcome.solid.reason {
        InkReason::Tones { percents, .. } => percents.iter().rev().copied().collect(),
        _ => Vec::new(),
    }
}

/// The sliders of the way the artwork is parted, in their order.
pub(crate) fn sliders(recipe: &Recipe, outcome: &Outcome, unit: Unit) -> Vec<Slider> {
    let tones = &recipe.inks.tones;
    let screen = recipe.inks.screen;
    let even = || Slider::percent("even", "Even out contrast", tones.even);
    let narrowest = || {
        let allowed = recipe.layers.material().limits.stroke;
        let mm = tones.narrowest.map_or(allowed, Mm::get);
        let slider = Slider::width("narrowest", "Narrowest part", mm, unit);
        left_to_the_program(slider, tones.narrowest.is_none())
    };
    match recipe.inks.mode {
        InkMode::Tones => {
            let count = Slider {
                most: "6",
                ..Slider::whole("tones", "Tones", tones.count)
            };
            let levels = LEVELS.iter().zip(levels(outcome));
            let levels = levels.map(|((name, label), at)| Slider::percent(name, label, at));
            [count]
                .into_iter()
                .chain(levels)
                .chain([even(), narrowest()])
                .collect()
        }
        InkMode::Silhouette => vec![narrowest()],
        InkMode::Screen => {
            let label = match screen.screen {
                Screen::Rows => "From row to row",
                Screen::Dots => "From dot to dot",
            };
            let pitch = Slider::width("pitch", label, recipe.pitch().get(), unit);
            let angle = Slider {
                unit: "°",
                least: "-90",
                most: "90",
                ..Slider::percent("angle", "Turned by", screen.turned().get())
            };
            vec![
                left_to_the_program(pitch, screen.pitch.is_none()),
                left_to_the_program(angle, screen.angle.is_none()),
                even(),
            ]
        }
        InkMode::Auto | InkMode::Count { .. } | InkMode::Mono { .. } => Vec::new(),
    }
}

/// A slider that may be left to the program, and whether it is.
fn left_to_the_program(slider: Slider, automatic: bool) -> Slider {
    Slider {
        automatic,
        has_automatic: true,
        ..slider
    }
}

/// Levels by name and label, from the darkest.
const LEVELS: [(&str, &str); 5] = [
    ("level1", "Darkest below"),
    ("level2", "Second below"),
    ("level3", "Third below"),
    ("level4", "Fourth below"),
    ("level5", "Fifth below"),
];
