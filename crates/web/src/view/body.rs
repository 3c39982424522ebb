//! The controls of the open line.

use inky_core::clean::Step;
use inky_core::inks::InkMode;
use inky_core::material::Material;
use inky_core::recipe::Recipe;
use inky_core::settings::Settings;
use inky_core::shapes::Edges;
use inky_core::size::Size;
use inky_core::units::Unit;
use inky_formats::lettering;

use super::checks::{self, SizeBody};
use super::clean::{self, StepRow};
use super::inks::{InksBody, inks_body};
use super::job::{Line, ppi};
use super::layers::{self, LayersBody};
use super::rail::name_of;
use super::send::{self, SendBody};
use super::sheet::{self, SheetBody};
use super::text::{self, Bit, bits};
use super::tidy::{self, TidyBody};
use crate::workshop::{Laid, Outcome};

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

/// What the lines show beside the recipe and its outcome.
#[derive(Clone, Copy)]
pub(super) struct Around<'a> {
    /// The shop's materials that are offered.
    pub(super) materials: &'a [Material],
    /// Names of the steps up to the one in force.
    pub(super) history: &'a [String],
    /// Other jobs.
    pub(super) others: &'a [Other],
    /// Its sheets; not for quick answers.
    pub(super) laid: Option<&'a Laid>,
}

/// Number, title and client of another job.
pub(crate) type Other = (i64, String, String);

/// The controls of the open line.
pub(crate) enum LineBody {
    Artwork {
        facts: Vec<(&'static str, Vec<Bit>)>,
        /// What stands in the way, the worst first: how bad it is and what to do.
        advice: Vec<(&'static str, String)>,
        notices: Vec<String>,
    },
    Clean {
        steps: Vec<StepRow>,
    },
    Inks(Box<InksBody>),
    Trace {
        sliders: Vec<Slider>,
        edges: &'static str,
    },
    Tidy(Box<TidyBody>),
    Layers(Box<LayersBody>),
    Size(Box<SizeBody>),
    Sheet(Box<SheetBody>),
    Send(Box<SendBody>),
}

/// The controls of a line, showing what the recipe and its outcome say.
pub(super) fn body(
    line: Line,
    recipe: &Recipe,
    outcome: &Outcome,
    around: Around<'_>,
    unit: Unit,
) -> LineBody {
    let settings = &outcome.settings;
    match line {
        Line::Artwork => artwork_body(outcome, unit),
        Line::Clean => LineBody::Clean {
            steps: clean::rows(recipe, original_px(outcome)),
        },
        Line::Inks => LineBody::Inks(Box::new(inks_body(recipe, outcome, unit))),
        Line::Trace => LineBody::Trace {
            sliders: trace_sliders(recipe, settings, unit),
            edges: match recipe.trace.edges {
                Edges::All => "all",
                Edges::Outer => "outer",
                Edges::Solid => "solid",
                Edges::CentreLine => "centreline",
            },
        },
        Line::Tidy => LineBody::Tidy(Box::new(tidy_body(recipe, outcome, unit))),
        Line::Layers => {
            let own = recipe.layers.materials.iter();
            let shop = around.materials;
            let other = |m: &Material| shop.iter().any(|s| s.name == m.name && s != m);
            let names: Vec<String> = shop.iter().map(|m| m.name.clone()).collect();
            let stale = own.clone().any(other);
            LineBody::Layers(Box::new(layers::body(
                recipe,
                outcome,
                (shop, &names, stale),
                unit,
            )))
        }
        Line::Size => LineBody::Size(Box::new(checks::body(
            recipe,
            outcome,
            around.history,
            unit,
        ))),
        Line::Sheet => LineBody::Sheet(Box::new(sheet::body(recipe, around, unit))),
        Line::Send => LineBody::Send(Box::new(send::body(recipe, around.laid))),
    }
}

/// Whether two recipes show the same controls on every line.
pub(crate) fn same_controls(a: &Recipe, b: &Recipe) -> bool {
    let kind = |recipe: &Recipe| {
        let mode = recipe.inks.mode;
        let choices = match mode {
            InkMode::Mono { local, above, .. } => (local, above.is_some()),
            _ => (false, false),
        };
        (std::mem::discriminant(&mode), choices)
    };
    let inks = |recipe: &Recipe| {
        let inks = &recipe.inks;
        let rim = inks.rim.map(|rim| rim.kind);
        (rim, inks.added.clone(), inks.enclosed.clone())
    };
    let steps = |recipe: &Recipe| -> Vec<_> {
        let step = |s: &Step| (s.on, std::mem::discriminant(&s.action));
        recipe.clean.iter().map(step).collect()
    };
    kind(a) == kind(b) && inks(a) == inks(b) && steps(a) == steps(b)
}

/// Size of the artwork as it came, px.
pub(super) fn original_px(outcome: &Outcome) -> (u32, u32) {
    let picture = &outcome.arrived.artwork.picture;
    (picture.width(), picture.height())
}

/// Field by field what a body shows.
pub(super) fn shown(body: &LineBody) -> Vec<(&'static str, String, bool)> {
    let slider = |s: &Slider| (s.name, s.value.clone(), s.automatic);
    match body {
        LineBody::Inks(inks) => {
            let all = [&inks.count, &inks.threshold, &inks.rim_width];
            let all = all.into_iter().chain(&inks.above);
            all.map(slider).collect()
        }
        LineBody::Trace { sliders, .. } => sliders.iter().map(slider).collect(),
        LineBody::Size(size) => {
            vec![
                ("width", size.width.clone(), false),
                ("height", size.height.clone(), false),
            ]
        }
        LineBody::Artwork { .. }
        | LineBody::Clean { .. }
        | LineBody::Tidy(_)
        | LineBody::Layers(_)
        | LineBody::Sheet(_)
        | LineBody::Send(_) => Vec::new(),
    }
}

fn artwork_body(outcome: &Outcome, unit: Unit) -> LineBody {
    let artwork = &outcome.arrived.artwork;
    let stated = artwork
        .ppi
        .map_or_else(|| "none".to_owned(), |p| format!("**{p:.0}** ppi"));
    let (width, height) = original_px(outcome);
    let mut facts = vec![
        ("Format", bits(artwork.format)),
        ("Pixels", bits(&format!("**{width} × {height}** px"))),
        ("Stated", bits(&stated)),
        (
            "At this size",
            bits(&format!("**{:.0}** ppi", ppi(outcome))),
        ),
    ];
    let mut advice = Vec::new();
    if let Some(worth) = &outcome.worth {
        let size = original_size(outcome);
        let detail = text::length(worth.smallest_detail(size), unit, 2);
        let percent = |part: f64| format!("**{:.0}** %", part * 100.0);
        let flat = match worth.flat_colours {
            0 => "none".to_owned(),
            n => format!("**{n}**, {} on them", percent(worth.flat_share)),
        };
        facts.push((
            "Finest detail",
            bits(&format!("**{detail}** {}", unit.symbol())),
        ));
        facts.push(("Flat colours", bits(&flat)));
        facts.push(("Contrast", bits(&percent(worth.contrast))));
        facts.push(("Grain", bits(&format!("**{:.1}** of 255", worth.noise))));
        facts.push(match worth.jpeg_quality {
            Some(quality) => ("JPEG quality", bits(&format!("**{quality:.0}**"))),
            None => ("Blocks", bits(&percent(worth.blocks))),
        });
        facts.push(("Uneven light", bits(&percent(worth.unevenness))));
        let told = worth.advice(size).into_iter();
        advice.extend(told.map(|a| (a.verdict.word(), a.text)));
    }
    LineBody::Artwork {
        facts,
        advice,
        notices: artwork.notices.clone(),
    }
}

/// The size that the whole original has at the scale of the piece.
pub(super) fn original_size(outcome: &Outcome) -> Size {
    let (width, height) = original_px(outcome);
    Size::at_ppi(width, height, ppi(outcome))
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

fn tidy_body(recipe: &Recipe, outcome: &Outcome, unit: Unit) -> TidyBody {
    let inks = outcome.design.inks.iter().enumerate();
    let mut named: Vec<_> = inks
        .filter(|(_, ink)| ink.part_of.is_none() && !ink.clear)
        .collect();
    named.sort_by_key(|(_, ink)| ink.letter.is_none());
    TidyBody {
        inks: named
            .into_iter()
            .map(|(n, ink)| {
                let letter = ink.letter.clone().unwrap_or_else(|| "–".to_owned());
                (
                    n,
                    letter,
                    ink.paint.to_string(),
                    name_of(recipe, outcome, ink),
                )
            })
            .collect(),
        faces: lettering::faces().collect(),
        start: tidy::start(unit),
    }
}
