//! The Trace line in words: how closely edges are followed, and how well that agrees with the artwork.

use inky_core::recipe::Recipe;
use inky_core::settings::Settings;
use inky_core::shapes::Edges;
use inky_core::units::Unit;

use crate::job::controls::Slider;
use crate::text;
use crate::workshop::Outcome;

/// The controls of the Trace line.
pub(crate) struct TraceBody {
    pub(crate) sliders: Vec<Slider>,
    pub(crate) edges: &'static str,
}

/// The line's result: what was found, of how many nodes, how far off the artwork.
pub(crate) fn summary(outcome: &Outcome, unit: Unit) -> String {
    let f = &outcome.design.figures;
    let (count, what) = match (f.shapes, f.strokes) {
        (1, 0) => (1, "shape"),
        (n, 0) => (n, "shapes"),
        (0, 1) => (1, "stroke line"),
        (0, n) => (n, "stroke lines"),
        (shapes, strokes) => (shapes + strokes, "lines and shapes"),
    };
    // Nodes and distances of what was made more coarsely are not those of the piece.
    if outcome.reduced {
        return format!("**{count}** {what}");
    }
    // A curve along a middle is held against that middle, outlines against the artwork.
    let agreement = outcome.agreement.as_ref();
    let off = agreement.map_or(f.deviation.mean, |a| a.edge.mean);
    format!(
        "**{count}** {what} · **{}** nodes · **{}**\u{a0}{}",
        f.nodes,
        text::length(off, unit, 3),
        unit.symbol()
    )
}

/// How well it agrees, and why the figures are what they are.
pub(crate) fn why(recipe: &Recipe, outcome: &Outcome, unit: Unit) -> String {
    let settings = &outcome.settings;
    let middle = (recipe.trace.edges == Edges::CentreLine)
        .then_some("Lines are followed along their middle.");
    let parts = [
        &settings.tolerance.why,
        &settings.smooth.why,
        &settings.min_part.why,
    ];
    let parts = parts.iter().map(|s| s.told(unit)).filter(|s| !s.is_empty());
    let agreement = outcome.agreement.as_ref().map(|a| a.words(unit));
    let first = agreement.as_deref().into_iter().chain(middle);
    let told: Vec<&str> = first.chain(parts).collect();
    if told.is_empty() {
        "All were chosen by hand.".to_owned()
    } else {
        told.join(" ")
    }
}

/// The controls of the line.
pub(crate) fn body(recipe: &Recipe, settings: &Settings, unit: Unit) -> TraceBody {
    TraceBody {
        sliders: sliders(recipe, settings, unit),
        edges: match recipe.trace.edges {
            Edges::All => "all",
            Edges::Outer => "outer",
            Edges::Solid => "solid",
            Edges::CentreLine => "centreline",
        },
    }
}

fn sliders(recipe: &Recipe, settings: &Settings, unit: Unit) -> Vec<Slider> {
    let (least, most, step) = match unit {
        Unit::Mm => ("0.01", "2", "0.001"),
        Unit::In => ("0.0004", "0.08", "0.0001"),
    };
    vec![
        Slider {
            name: "tolerance",
            label: "Follow within",
            value: text::length(settings.tolerance.value.get(), unit, 3),
            unit: unit.symbol(),
            least,
            most,
            step,
            log: true,
            automatic: recipe.trace.tolerance.is_none(),
            has_automatic: true,
        },
        Slider {
            name: "corner",
            label: "Corners above",
            value: format!("{:.0}", settings.fit.corner.get()),
            unit: "°",
            least: "10",
            most: "90",
            step: "1",
            log: false,
            automatic: recipe.trace.corner.is_none(),
            has_automatic: true,
        },
        Slider {
            name: "smooth",
            label: "Smooth under",
            value: text::length(settings.smooth.value.get(), unit, 2),
            unit: unit.symbol(),
            least: "0",
            most: if unit == Unit::Mm { "5" } else { "0.2" },
            step: if unit == Unit::Mm { "0.05" } else { "0.002" },
            log: false,
            automatic: recipe.trace.smooth.is_none(),
            has_automatic: true,
        },
        Slider {
            name: "min_part",
            label: "Smallest part",
            value: text::small_area(settings.min_part.value.get(), unit),
            unit: unit.area_symbol(),
            least: if unit == Unit::Mm { "0.01" } else { "0.00002" },
            most: if unit == Unit::Mm { "100" } else { "0.15" },
            step: if unit == Unit::Mm { "0.01" } else { "0.00001" },
            log: true,
            automatic: recipe.trace.min_part.is_none(),
            has_automatic: true,
        },
    ]
}

/// How many places are named at most.
const PLACES: usize = 3;

/// What is too wide to be a line, and where.
pub(crate) fn too_wide(outcome: &Outcome, unit: Unit) -> String {
    let symbol = unit.symbol();
    let told = |outlined: bool| {
        let all: Vec<_> = outcome.design.too_wide.iter().collect();
        let alike: Vec<_> = all.into_iter().filter(|w| w.outlined == outlined).collect();
        let places = alike.iter().take(PLACES).map(|w| {
            format!(
                "**{}** {symbol} wide at **{}, {}**",
                text::length(w.width, unit, 1),
                text::length(w.at.x, unit, 1),
                text::length(w.at.y, unit, 1)
            )
        });
        let places = places.collect::<Vec<_>>().join("; ");
        match alike.len() {
            0 => None,
            n if n > PLACES => Some(format!("{places}; and **{}** more", n - PLACES)),
            _ => Some(places),
        }
    };
    let outlined = told(true).map(|t| format!("Too wide for a line, so outlined: {t}."));
    let kept = told(false).map(|t| format!("Lines that are better outlined: {t}."));
    [outlined, kept]
        .into_iter()
        .flatten()
        .collect::<Vec<_>>()
        .join(" ")
}
