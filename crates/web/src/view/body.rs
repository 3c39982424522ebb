//! The controls of the open line.

use inky_core::inks::{EdgeField, InkMode};
use inky_core::recipe::Recipe;
use inky_core::settings::Settings;
use inky_core::shapes::Edges;
use inky_core::units::Unit;

use super::job::{Line, ppi};
use super::text::{self, Bit, bits};
use crate::workshop::Outcome;

/// A slider with its typed field.
pub(crate) struct Slider {
    pub(crate) name: &'static str,
    pub(crate) label: &'static str,
    pub(crate) value: String,
    pub(crate) unit: &'static str,
    pub(crate) least: &'static str,
    pub(crate) most: &'static str,
    pub(crate) step: &'static str,
    pub(crate) log: bool,
    pub(crate) automatic: bool,
    pub(crate) has_automatic: bool,
}

/// The controls of the open line.
pub(crate) enum LineBody {
    Artwork {
        facts: Vec<(&'static str, Vec<Bit>)>,
        notices: Vec<String>,
    },
    Inks {
        mode: &'static str,
        count: Box<Slider>,
        threshold: Box<Slider>,
        local: bool,
        invert: bool,
    },
    Trace {
        sliders: Vec<Slider>,
        edges: &'static str,
    },
    Size {
        width: String,
        height: String,
        locked: bool,
    },
    Send,
}

/// The controls of a line, showing what the recipe and its outcome say.
pub(super) fn body(line: Line, recipe: &Recipe, outcome: &Outcome, unit: Unit) -> LineBody {
    let (design, settings) = (&outcome.design, &outcome.settings);
    match line {
        Line::Artwork => artwork_body(outcome),
        Line::Inks => inks_body(recipe, outcome),
        Line::Trace => LineBody::Trace {
            sliders: trace_sliders(recipe, settings, unit),
            edges: match recipe.trace.edges {
                Edges::All => "all",
                Edges::Outer => "outer",
                Edges::Solid => "solid",
                Edges::CentreLine => "centreline",
            },
        },
        Line::Size => LineBody::Size {
            width: text::side(design.size.width.get(), unit),
            height: text::side(design.size.height.get(), unit),
            locked: recipe.size.locked,
        },
        Line::Send => LineBody::Send,
    }
}

/// Whether two recipes show the same controls on every line.
pub(crate) fn same_controls(a: &Recipe, b: &Recipe) -> bool {
    let kind = |recipe: &Recipe| {
        let mode = recipe.inks.mode;
        let local = matches!(mode, InkMode::Mono { local: true, .. });
        (std::mem::discriminant(&mode), local)
    };
    kind(a) == kind(b)
}

/// Field by field what a body shows.
pub(super) fn shown(body: &LineBody) -> Vec<(&'static str, String, bool)> {
    let slider = |s: &Slider| (s.name, s.value.clone(), s.automatic);
    match body {
        LineBody::Inks {
            count, threshold, ..
        } => vec![slider(count), slider(threshold)],
        LineBody::Trace { sliders, .. } => sliders.iter().map(slider).collect(),
        LineBody::Size { width, height, .. } => {
            vec![
                ("width", width.clone(), false),
                ("height", height.clone(), false),
            ]
        }
        LineBody::Artwork { .. } | LineBody::Send => Vec::new(),
    }
}

fn artwork_body(outcome: &Outcome) -> LineBody {
    let artwork = &outcome.arrived.artwork;
    let stated = artwork
        .ppi
        .map_or_else(|| "none".to_owned(), |p| format!("**{p:.0}** ppi"));
    LineBody::Artwork {
        facts: vec![
            ("Format", bits(artwork.format)),
            (
                "Pixels",
                bits(&format!(
                    "**{} × {}** px",
                    outcome.solid.width, outcome.solid.height
                )),
            ),
            ("Stated", bits(&stated)),
            (
                "At this size",
                bits(&format!("**{:.0}** ppi", ppi(outcome))),
            ),
        ],
        notices: artwork.notices.clone(),
    }
}

fn inks_body(recipe: &Recipe, outcome: &Outcome) -> LineBody {
    let (mode, threshold, local, invert) = match recipe.inks.mode {
        InkMode::Auto => ("auto", None, false, false),
        InkMode::Count { .. } => ("several", None, false, false),
        InkMode::Mono {
            threshold,
            local,
            invert,
        } => ("mono", threshold, local, invert),
    };
    let now = match &outcome.solid.field {
        EdgeField::Tone { threshold, .. } => f64::from(*threshold) / 2.55,
        EdgeField::Colours { .. } => 50.0,
    };
    LineBody::Inks {
        mode,
        count: Box::new(Slider {
            name: "count",
            label: "Inks and ground",
            value: outcome.solid.inks.len().max(2).to_string(),
            unit: "",
            least: "2",
            most: "16",
            step: "1",
            log: false,
            automatic: false,
            has_automatic: false,
        }),
        threshold: Box::new(Slider {
            name: "threshold",
            label: "Darker than",
            value: format!("{:.0}", threshold.unwrap_or(now)),
            unit: "%",
            least: "0",
            most: "100",
            step: "1",
            log: false,
            automatic: threshold.is_none(),
            has_automatic: true,
        }),
        local,
        invert,
    }
}

fn trace_sliders(recipe: &Recipe, settings: &Settings, unit: Unit) -> Vec<Slider> {
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
            value: text::small_area(settings.min_part.value.get()),
            unit: "mm²",
            least: "0.01",
            most: "100",
            step: "0.01",
            log: true,
            automatic: recipe.trace.min_part.is_none(),
            has_automatic: true,
        },
    ]
}
