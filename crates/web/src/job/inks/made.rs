//! The controls of what is made of a picture with gradients: tones, rows and dots.

use inky_core::inks::{InkMode, InkReason, Screen};
use inky_core::recipe::Recipe;
use inky_core::units::{Mm, Unit};

use crate::job::controls::Slider;
use crate::text;
use crate::workshop::Outcome;

/// The fields that a problem of so many tones is told beside.
pub(crate) const fn level_fields(count: usize) -> &'static [&'static str] {
    match count {
        0..=2 => &["tones", "level1", "even", "narrowest"],
        3 => &["tones", "level1", "level2", "even", "narrowest"],
        4 => &["tones", "level1", "level2", "level3", "even", "narrowest"],
        5 => &[
            "tones",
            "level1",
            "level2",
            "level3",
            "level4",
            "even",
            "narrowest",
        ],
        _ => &[
            "tones",
            "level1",
            "level2",
            "level3",
            "level4",
            "level5",
            "even",
            "narrowest",
        ],
    }
}

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
    let narrowest = tones
        .narrowest
        .map_or_else(|| recipe.layers.material().limits.stroke, Mm::get);
    let narrowest = || {
        width(
            "narrowest",
            "Narrowest part",
            (narrowest, tones.narrowest.is_none()),
            unit,
        )
    };
    let even = || percent("even", "Even out contrast", tones.even);
    match recipe.inks.mode {
        InkMode::Tones => {
            let mut all = vec![count(tones.count)];
            let named = LEVELS.iter().zip(levels(outcome));
            all.extend(named.map(|((name, label), at)| percent(name, label, at)));
            all.extend([even(), narrowest()]);
            all
        }
        InkMode::Silhouette => vec![narrowest()],
        InkMode::Screen => {
            let screen = recipe.inks.screen;
            let label = match screen.screen {
                Screen::Rows => "From row to row",
                Screen::Dots => "From dot to dot",
            };
            let pitch = (recipe.pitch().get(), screen.pitch.is_none());
            vec![width("pitch", label, pitch, unit), angle(recipe), even()]
        }
        InkMode::Auto | InkMode::Count { .. } | InkMode::Mono { .. } => Vec::new(),
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

fn count(count: usize) -> Slider {
    Slider {
        name: "tones",
        label: "Tones",
        value: count.to_string(),
        unit: "",
        least: "2",
        most: "6",
        step: "1",
        log: false,
        automatic: false,
        has_automatic: false,
    }
}

fn percent(name: &'static str, label: &'static str, value: f64) -> Slider {
    Slider {
        name,
        label,
        value: format!("{value:.0}"),
        unit: "%",
        least: "0",
        most: "100",
        step: "1",
        log: false,
        automatic: false,
        has_automatic: false,
    }
}

fn width(
    name: &'static str,
    label: &'static str,
    (mm, automatic): (f64, bool),
    unit: Unit,
) -> Slider {
    let metric = unit == Unit::Mm;
    Slider {
        name,
        label,
        value: text::length(mm, unit, 2),
        unit: unit.symbol(),
        least: if metric { "0.1" } else { "0.004" },
        most: if metric { "20" } else { "0.8" },
        step: if metric { "0.05" } else { "0.002" },
        log: true,
        automatic,
        has_automatic: true,
    }
}

fn angle(recipe: &Recipe) -> Slider {
    let screen = recipe.inks.screen;
    let turned = screen.turned().get();
    Slider {
        name: "angle",
        label: "Turned by",
        value: format!("{turned:.0}"),
        unit: "°",
        least: "-90",
        most: "90",
        step: "1",
        log: false,
        automatic: screen.angle.is_none(),
        has_automatic: true,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use inky_core::limits;

    #[test]
    fn every_level_has_a_field_of_its_own() {
        for count in limits::TONES {
            let fields = level_fields(count);
            let levels = fields.iter().filter(|f| LEVELS.iter().any(|l| l.0 == **f));
            assert_eq!(levels.count(), count - 1);
        }
    }
}
