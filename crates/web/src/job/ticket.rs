//! The ticket of one outcome: its lines with their results, and all else the job page shows.

use inky_core::clean::{Action, Step};
use inky_core::inks::InkMode;
use inky_core::recipe::Recipe;
use inky_core::units::Unit;
use inky_store::{History, Job, Past, SetAside};

use crate::job::artwork::shown as artwork;
use crate::job::body::{LineBody, body, shown};
use crate::job::clean::shown as clean;
use crate::job::controls::{Around, ShopAround};
use crate::job::history::{self, PastStep};
use crate::job::inks::shown as inks;
use crate::job::layers::shown::{self as layers, LayerRow};
use crate::job::line::Line;
use crate::job::rail::{Figure, RailInk, figures, rail};
use crate::job::send::shown as send;
use crate::job::sheet::shown as sheet;
use crate::job::size::shown::{self as size, CheckRow, WorkOrder};
use crate::job::tidy::shown as tidy;
use crate::job::trace::shown as trace;
use crate::text::{self, Bit, bits};
use crate::workshop::{Laid, Outcome};

pub(crate) struct LineHead {
    pub(crate) number: usize,
    pub(crate) slug: &'static str,
    pub(crate) name: &'static str,
    pub(crate) help: &'static str,
    pub(crate) guide: &'static str,
    pub(crate) summary: Vec<Bit>,
    pub(crate) open: bool,
}

/// Everything the job's templates show.
pub(crate) struct Ticket {
    pub(crate) id: i64,
    pub(crate) revision: i64,
    pub(crate) title: String,
    pub(crate) client: String,
    pub(crate) tags: String,
    pub(crate) saved: String,
    pub(crate) undo: Option<String>,
    pub(crate) redo: Option<String>,
    /// Its steps, the latest first.
    pub(crate) history: Vec<PastStep>,
    pub(crate) lines: Vec<LineHead>,
    pub(crate) open: &'static str,
    pub(crate) fields: &'static [&'static str],
    pub(crate) why: String,
    pub(crate) body: LineBody,
    pub(crate) inks: Vec<RailInk>,
    pub(crate) figures: Vec<Figure>,
    /// Names the remembered result; empty without one.
    pub(crate) remembered: String,
    /// Edits that new traces set aside, the latest first: which, and in words.
    pub(crate) set_aside: Vec<(i64, String)>,
    pub(crate) announce: String,
    /// Where a step was taken back or done again: that, in words.
    pub(crate) gone: Option<String>,
    pub(crate) nothing: Option<(&'static str, String)>,
    pub(crate) key: String,
    pub(crate) solid_key: String,
    pub(crate) artwork_key: String,
    pub(crate) cleaned_key: String,
    /// From px of the artwork to mm on the piece: the six figures of an affine map.
    pub(crate) frame: String,
    /// Millimetres in a pixel of the cleaned artwork.
    pub(crate) px_mm: f64,
    /// The tones with one tone, as a path, and where the thresholds lie.
    pub(crate) tones: Option<(String, Vec<String>)>,
    /// Whether the open line is Clean and has levels, which are set by the tones.
    pub(crate) levelled: bool,
    /// What each clean-up step did.
    pub(crate) said: Vec<String>,
    /// Width of a brush to begin with, in the reader's unit, and a colour to paint with.
    pub(crate) brush: String,
    pub(crate) darkest: String,
    pub(crate) width_mm: f64,
    pub(crate) height_mm: f64,
    /// What the open line's fields show, by name, and whether the program chose it.
    pub(crate) shown: Vec<(&'static str, String, bool)>,
    /// A sentence of figures under the open line's controls, for lines that may have one.
    pub(crate) facts: Option<Vec<Bit>>,
    pub(crate) unit: &'static str,
    /// Its layers, the topmost first; not for quick answers.
    pub(crate) layers: Vec<LayerRow>,
    /// Whether the rail shows layers rather than inks.
    pub(crate) layered: bool,
    pub(crate) order: Option<WorkOrder>,
    /// Names its sheets; empty for quick answers.
    pub(crate) sheets_key: String,
    /// What the button under the ticket can download, that for the machine first: word and address of each.
    pub(crate) formats: Vec<(&'static str, String)>,
    /// Whether it looks like a photograph that may have been taken askew.
    pub(crate) askew: bool,
    /// What the checks found to look at; none for quick answers, which have no checks.
    pub(crate) to_mend: Option<Vec<CheckRow>>,
}

impl Ticket {
    /// Puts the figures of a remembered result beside its own.
    pub(crate) fn compare_with(&mut self, beside: Option<&Outcome>, unit: Unit) {
        let Some(beside) = beside else { return };
        self.remembered.clone_from(&beside.key);
        for (figure, other) in self.figures.iter_mut().zip(figures(beside, unit)) {
            figure.beside = Some(other.value);
        }
    }

    /// Name of the open line.
    pub(crate) fn line_name(&self) -> &'static str {
        let mut open = self.lines.iter().filter(|line| line.open);
        open.next().map_or("", |line| line.name)
    }

    /// What a step did, for those who hear the page: its name, and what the open line says now.
    pub(crate) fn tell_step(&mut self) {
        let step = self.history.iter().find(|step| step.now);
        let told = |step: &PastStep| self.gone.clone().unwrap_or_else(|| step.told.clone());
        let line = self.lines.iter().find(|line| line.open);
        if let (None, Some(step), Some(line)) = (&self.nothing, step, line) {
            let says: String = line.summary.iter().map(|bit| bit.text.as_str()).collect();
            self.announce = format!("{}. {}: {says}", told(step), line.name);
        }
    }

    /// Lists what was set aside.
    pub(crate) fn list_set_aside(&mut self, all: &[SetAside]) {
        let words = |a: &SetAside| {
            let edits = match a.edits {
                0 => "Outlines brought in".to_owned(),
                n => text::some(n as usize, "edit"),
            };
            (a.id, format!("{edits}, {}", text::moment(a.made)))
        };
        self.set_aside = all.iter().map(words).collect();
    }
}

/// Everything shown of a job and one outcome of it.
pub(crate) fn ticket(
    (job, history): (&Job, &History),
    shop: ShopAround<'_>,
    recipe: &Recipe,
    outcome: &Outcome,
    open: Line,
    unit: Unit,
) -> Ticket {
    let design = &outcome.design;
    let size = design.size;
    let nothing = design.is_empty().then(|| {
        let slider = matches!(recipe.inks.mode, InkMode::Mono { local: false, .. });
        let field = if slider && open == Line::Inks {
            "threshold"
        } else {
            "notice"
        };
        (
            field,
            format!(
                "Nothing to trace: {}.",
                inky_core::trace::nothing_found(&outcome.solid, &outcome.bounded)
            ),
        )
    });
    let f = &design.figures;
    let announce = match &nothing {
        Some((_, message)) => message.clone(),
        None => format!("traced: {}", text::counts(f.shapes, f.strokes, f.nodes)),
    };
    let at = history.at;
    let done = history.steps.iter().filter(|step| step.number <= at);
    let done: Vec<String> = done.map(|step| step.name.clone()).collect();
    let around = Around {
        shop,
        history: &done,
    };
    let body = body(open, recipe, outcome, around, unit);
    let names: Vec<String> = shop.materials.iter().map(|m| m.name.clone()).collect();
    let checked = outcome.if_checked();
    let rows = checked.map_or_else(Vec::new, |c| layers::rows(recipe, outcome, c, &names, unit));
    // Figures chosen for a reduced copy are not those of the piece.
    let shown = if outcome.reduced {
        Vec::new()
    } else {
        shown(&body)
    };
    let said = match &body {
        LineBody::Clean { steps, .. } => steps.iter().map(|s| s.said.clone()).collect(),
        _ => Vec::new(),
    };
    Ticket {
        id: job.id,
        revision: job.revision,
        title: job.details.title.clone(),
        client: job.details.client.clone(),
        tags: job.details.tags.clone(),
        saved: text::moment(job.saved),
        undo: history.undo().map(Past::told),
        redo: history.redo().map(Past::told),
        history: history::steps(history),
        lines: Line::numbered()
            .map(|(number, line)| LineHead {
                number,
                slug: line.slug(),
                name: line.name(),
                help: line.help(),
                guide: line.guide(),
                summary: bits(&summary(line, recipe, outcome, shop.laid, unit)),
                open: line == open,
            })
            .collect(),
        open: open.slug(),
        fields: match (open, recipe.inks.mode) {
            (Line::Inks, InkMode::Auto) => &[],
            (Line::Inks, InkMode::Count { .. }) => &["count"],
            (Line::Inks, InkMode::Mono { above: None, .. }) => &["threshold", "rim_width"],
            (Line::Inks, InkMode::Mono { .. }) => &["threshold", "above", "rim_width"],
            (Line::Inks, InkMode::Silhouette) => &["narrowest"],
            (Line::Inks, InkMode::Screen) => &["pitch", "angle", "even"],
            _ => open.fields(),
        },
        why: why(open, recipe, outcome, unit),
        body,
        inks: rail(recipe, outcome, unit),
        figures: figures(outcome, unit),
        remembered: String::new(),
        set_aside: Vec::new(),
        announce,
        gone: None,
        nothing,
        key: outcome.key.clone(),
        solid_key: outcome.solid_key.clone(),
        artwork_key: outcome.arrived.sha256.chars().take(16).collect(),
        cleaned_key: outcome.cleaned_key.chars().take(16).collect(),
        frame: frame_in_mm(outcome),
        px_mm: size.width.get() / f64::from(outcome.cleaned.frame.width),
        tones: outcome
            .tones
            .as_ref()
            .map(|t| (inks::tones(t), inks::marks(outcome, recipe))),
        levelled: open == Line::Clean
            && recipe
                .clean
                .iter()
                .any(|s| matches!(s.action, Action::Levels(_))),
        said,
        width_mm: size.width.get(),
        height_mm: size.height.get(),
        brush: text::length(size.width.get() / 40.0, unit, 1),
        darkest: darkest(outcome),
        shown,
        facts: facts(open, outcome, unit),
        unit: unit.symbol(),
        layered: matches!(open, Line::Layers | Line::Size | Line::Sheet | Line::Send)
            && !rows.is_empty(),
        layers: rows,
        sheets_key: shop.laid.map_or_else(String::new, |l| l.key.clone()),
        formats: send::formats(job.id, recipe),
        askew: askew(recipe, outcome),
        to_mend: checked.map(|c| match open {
            Line::Size => Vec::new(),
            _ => size::to_mend(c, unit),
        }),
        order: checked.map(|c| size::work_order(recipe, c, unit)),
    }
}

/// Whether something photographed may want to be squared up, and nothing is yet.
fn askew(recipe: &Recipe, outcome: &Outcome) -> bool {
    /// Grain from which a picture was hardly drawn, levels.
    const GRAIN: f64 = 1.0;
    let squared = |s: &Step| matches!(s.action, Action::Square(_));
    let artwork = &outcome.arrived.artwork;
    let worth = outcome.worth.as_ref();
    let taken =
        artwork.jpeg_quality.is_some() || worth.is_some_and(|w| w.photograph || w.noise > GRAIN);
    let made = outcome.solid.is_made();
    taken && !made && recipe.tidy.is_none() && !recipe.clean.iter().any(squared)
}

/// The darkest ink: what broken lines are most often painted with.
fn darkest(outcome: &Outcome) -> String {
    let inks = outcome.solid.inks.iter().filter(|ink| !ink.clear);
    let dark = inks.min_by_key(|ink| ink.colour.0.iter().map(|&v| u32::from(v)).sum::<u32>());
    dark.map_or_else(|| "#000000".to_owned(), |ink| ink.colour.to_string())
}

/// The frame of the cleaned artwork in mm on the piece; empty where it was squared up, since nothing can be drawn so.
fn frame_in_mm(outcome: &Outcome) -> String {
    let frame = &outcome.cleaned.frame;
    let (across, down) = outcome.design.size.mm_per_px(frame.width, frame.height);
    let place = frame
        .affine()
        .map(|place| kurbo::Affine::scale_non_uniform(across, down) * place);
    place.map_or_else(String::new, |place| {
        place.as_coeffs().map(|v| v.to_string()).join(" ")
    })
}

/// A line's result.
fn summary(
    line: Line,
    recipe: &Recipe,
    outcome: &Outcome,
    laid: Option<&Laid>,
    unit: Unit,
) -> String {
    match line {
        Line::Artwork => artwork::summary(outcome),
        Line::Clean => clean::summary(&recipe.clean),
        Line::Inks => inks::summary(outcome),
        Line::Trace => trace::summary(outcome, unit),
        Line::Tidy => tidy::summary(recipe.tidy.as_ref().map_or(&[], |t| &t.edits), unit),
        Line::Layers => layers::summary(&recipe.layers, outcome.if_checked(), unit),
        Line::Size => size::summary(outcome, unit),
        Line::Sheet => laid.map_or_else(String::new, |l| sheet::summary(l, unit)),
        Line::Send => laid.map_or_else(String::new, |l| send::summary(l, unit)),
    }
}

/// Why it is so, above the line's controls.
fn why(line: Line, recipe: &Recipe, outcome: &Outcome, unit: Unit) -> String {
    match line {
        Line::Artwork => artwork::why(outcome),
        Line::Clean => clean::why(&recipe.clean).to_owned(),
        Line::Inks => inks::why(recipe, outcome),
        Line::Trace => trace::why(recipe, outcome, unit),
        Line::Tidy => tidy::WHY.to_owned(),
        Line::Layers => layers::why(&recipe.layers, outcome.solid.is_tones()),
        Line::Size => size::why(recipe).to_owned(),
        Line::Sheet => sheet::WHY.to_owned(),
        Line::Send => send::WHY.to_owned(),
    }
}

/// A sentence of figures under the line's controls.
fn facts(line: Line, outcome: &Outcome, unit: Unit) -> Option<Vec<Bit>> {
    match line {
        Line::Size => Some(bits(&size::facts(outcome, unit))),
        Line::Trace => Some(bits(&trace::too_wide(outcome, unit))),
        Line::Artwork
        | Line::Clean
        | Line::Inks
        | Line::Tidy
        | Line::Layers
        | Line::Sheet
        | Line::Send => None,
    }
}
