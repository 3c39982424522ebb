//! The controls of the open line.

use inky_core::clean::Step;
use inky_core::clean::square::Paper;
use inky_core::inks::InkMode;
use inky_core::material::Material;
use inky_core::recipe::Recipe;
use inky_core::units::Unit;

use crate::job::artwork::shown::{self as artwork, ArtworkBody};
use crate::job::clean::shown::{self as clean, StepRow};
use crate::job::controls::{Around, Slider};
use crate::job::inks::shown::{self as inks, InksBody};
use crate::job::layers::shown::{self as layers, LayersBody};
use crate::job::line::Line;
use crate::job::send::shown::{self as send, SendBody};
use crate::job::sheet::shown::{self as sheet, SheetBody};
use crate::job::size::shown::{self as size, SizeBody};
use crate::job::tidy::shown::{self as tidy, TidyBody};
use crate::job::trace::shown::{self as trace, TraceBody};
use crate::workshop::Outcome;

/// The controls of the open line.
pub(crate) enum LineBody {
    Artwork(ArtworkBody),
    Clean {
        steps: Vec<StepRow>,
        papers: Vec<&'static str>,
    },
    Inks(Box<InksBody>),
    Trace(TraceBody),
    Tidy(Box<TidyBody>),
    Layers(Box<LayersBody>),
    Size(Box<SizeBody>),
    Sheet(Box<SheetBody>),
    Send(Box<SendBody>),
}

/// The controls of a line, showing what the recipe and its outcome say.
pub(crate) fn body(
    line: Line,
    recipe: &Recipe,
    outcome: &Outcome,
    around: Around<'_>,
    unit: Unit,
) -> LineBody {
    match line {
        Line::Artwork => LineBody::Artwork(artwork::body(outcome, unit)),
        Line::Clean => LineBody::Clean {
            steps: clean::rows(recipe, artwork::original_px(outcome), unit),
            papers: Paper::ALL.map(Paper::word).to_vec(),
        },
        Line::Inks => LineBody::Inks(Box::new(inks::body(recipe, outcome, unit))),
        Line::Trace => LineBody::Trace(trace::body(recipe, &outcome.settings, unit)),
        Line::Tidy => LineBody::Tidy(Box::new(tidy::body(recipe, outcome, unit))),
        Line::Layers => {
            let kept = recipe.layers.materials.iter();
            let shop = around.shop.materials;
            let other = |m: &Material| shop.iter().any(|s| s.name == m.name && s != m);
            let names: Vec<String> = shop.iter().map(|m| m.name.clone()).collect();
            let stale = kept.clone().any(other);
            LineBody::Layers(Box::new(layers::body(
                recipe,
                outcome,
                (&names, stale),
                unit,
            )))
        }
        Line::Size => {
            let (history, shop) = (around.history, around.shop.materials);
            LineBody::Size(Box::new(size::body(recipe, outcome, (history, shop), unit)))
        }
        Line::Sheet => LineBody::Sheet(Box::new(sheet::body(
            (recipe, &outcome.design),
            around.shop,
            unit,
        ))),
        Line::Send => LineBody::Send(Box::new(send::body(recipe, around.shop.laid))),
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
        let (tones, screen) = (&recipe.inks.tones, recipe.inks.screen);
        let levels = (tones.count, std::mem::discriminant(&tones.levels));
        (
            std::mem::discriminant(&mode),
            choices,
            levels,
            screen.screen,
        )
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

/// Field by field what a body shows.
pub(crate) fn shown(body: &LineBody) -> Vec<(&'static str, String, bool)> {
    let slider = |s: &Slider| (s.name, s.value.clone(), s.automatic);
    match body {
        LineBody::Inks(inks) => {
            let all = [&inks.count, &inks.threshold, &inks.rim_width];
            let all = all.into_iter().chain(&inks.above).chain(&inks.made);
            all.map(slider).collect()
        }
        LineBody::Trace(trace) => trace.sliders.iter().map(slider).collect(),
        LineBody::Size(sides) => {
            vec![
                ("width", sides.width.clone(), false),
                ("height", sides.height.clone(), false),
            ]
        }
        LineBody::Artwork(_)
        | LineBody::Clean { .. }
        | LineBody::Tidy(_)
        | LineBody::Layers(_)
        | LineBody::Sheet(_)
        | LineBody::Send(_) => Vec::new(),
    }
}
