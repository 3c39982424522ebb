//! The ticket of one outcome: its lines with their results, and all else the job page shows.

use inky_core::clean::Action;
use inky_core::inks::InkMode;
use inky_core::material::Material;
use inky_core::recipe::Recipe;
use inky_core::shapes::Edges;
use inky_core::trace;
use inky_core::units::{MM_PER_INCH, Unit};
use inky_store::{History, Job};

use super::body::{Around, LineBody, Other, body, original_px, original_size, shown};
use super::checks::{self, WorkOrder};
use super::clean;
use super::inks;
use super::layers::{self, LayerRow};
use super::rail::{Figure, RailInk, figures, rail};
use super::send;
use super::sheet;
use super::text::{self, Bit, bits};
use super::tidy;
use crate::workshop::{Laid, Outcome};

/// A line of the ticket.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Line {
    Artwork,
    Clean,
    Inks,
    Trace,
    Tidy,
    Layers,
    Size,
    Sheet,
    Send,
}

impl Line {
    pub(crate) const ALL: [Self; 9] = [
        Self::Artwork,
        Self::Clean,
        Self::Inks,
        Self::Trace,
        Self::Tidy,
        Self::Layers,
        Self::Size,
        Self::Sheet,
        Self::Send,
    ];

    /// Its word in addresses and forms.
    pub(crate) fn slug(self) -> &'static str {
        match self {
            Self::Artwork => "artwork",
            Self::Clean => "clean",
            Self::Inks => "inks",
            Self::Trace => "trace",
            Self::Tidy => "tidy",
            Self::Layers => "layers",
            Self::Size => "size",
            Self::Sheet => "sheet",
            Self::Send => "send",
        }
    }

    pub(crate) fn from_slug(slug: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|l| l.slug() == slug)
    }

    fn name(self) -> &'static str {
        match self {
            Self::Artwork => "Artwork",
            Self::Clean => "Clean",
            Self::Inks => "Inks",
            Self::Trace => "Trace",
            Self::Tidy => "Tidy",
            Self::Layers => "Layers",
            Self::Size => "Size",
            Self::Sheet => "Sheet",
            Self::Send => "Send",
        }
    }

    /// Fields whose problems are told beside them.
    pub(crate) fn fields(self) -> &'static [&'static str] {
        match self {
            Self::Artwork => &["title"],
            Self::Clean => &["clean"],
            Self::Inks => &["count", "threshold", "above", "rim_width"],
            Self::Trace => &["tolerance", "corner", "smooth", "min_part"],
            Self::Tidy => &["tidy"],
            Self::Layers => &["layers", "margin", "registration", "inlay", "bridges"],
            Self::Size => &[
                "width", "height", "scale", "measured", "drawn", "stock", "checks",
            ],
            Self::Sheet => &["sheet", "copies", "gap", "weed", "panels", "guests"],
            Self::Send => &["send"],
        }
    }
}

pub(crate) struct LineHead {
    pub(crate) number: usize,
    pub(crate) slug: &'static str,
    pub(crate) name: &'static str,
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
    pub(crate) history: Vec<(String, bool)>,
    pub(crate) lines: Vec<LineHead>,
    pub(crate) open: &'static str,
    pub(crate) fields: &'static [&'static str],
    pub(crate) why: String,
    pub(crate) body: LineBody,
    pub(crate) inks: Vec<RailInk>,
    pub(crate) figures: Vec<Figure>,
    /// Names the remembered result; empty without one.
    pub(crate) remembered: String,
    /// Edits of a remembered result that was set aside by a new trace.
    pub(crate) aside: usize,
    pub(crate) announce: String,
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
    /// What the button under the ticket downloads.
    pub(crate) machine: (&'static str, String),
    /// Whether its outlines were edited.
    edited: bool,
}

impl Ticket {
    /// Puts the figures of a remembered result beside its own.
    pub(crate) fn compare_with(&mut self, beside: Option<&Outcome>, unit: Unit) {
        let Some(beside) = beside else { return };
        self.remembered.clone_from(&beside.key);
        if !self.edited {
            self.aside = beside.edits;
        }
        for (own, other) in self.figures.iter_mut().zip(figures(beside, unit)) {
            own.beside = Some(other.value);
        }
    }
}

/// Everything shown of a job and one outcome of it.
pub(crate) fn ticket(
    (job, history): (&Job, &History),
    (materials, others, laid): (&[Material], &[Other], Option<&Laid>),
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
                trace::nothing_found(&outcome.solid, &outcome.bounded)
            ),
        )
    });
    let f = &design.figures;
    let announce = match &nothing {
        Some((_, message)) => message.clone(),
        None => format!("traced: {}", text::counts(f.shapes, f.strokes, f.nodes)),
    };
    let at = history.at;
    let done = history.steps.iter().filter(|(n, _)| *n <= at);
    let done: Vec<String> = done.map(|(_, name)| name.clone()).collect();
    let around = Around {
        materials,
        history: &done,
        others,
        laid,
    };
    let body = body(open, recipe, outcome, around, unit);
    let names: Vec<String> = materials.iter().map(|m| m.name.clone()).collect();
    let checked = outcome.if_checked();
    let rows = checked.map_or_else(Vec::new, |c| layers::rows(recipe, outcome, c, &names, unit));
    // Figures chosen for a reduced copy are not those of the piece.
    let shown = if outcome.reduced {
        Vec::new()
    } else {
        shown(&body)
    };
    let said = match &body {
        LineBody::Clean { steps } => steps.iter().map(|s| s.said.clone()).collect(),
        _ => Vec::new(),
    };
    Ticket {
        id: job.id,
        revision: job.revision,
        title: job.details.title.clone(),
        client: job.details.client.clone(),
        tags: job.details.tags.clone(),
        saved: text::moment(job.saved),
        undo: history.undo().map(str::to_owned),
        redo: history.redo().map(str::to_owned),
        history: history
            .steps
            .iter()
            .map(|(n, name)| (name.clone(), *n == at))
            .collect(),
        lines: Line::ALL
            .into_iter()
            .enumerate()
            .map(|(i, line)| LineHead {
                number: i + 1,
                slug: line.slug(),
                name: line.name(),
                summary: bits(&summary(line, recipe, outcome, laid, unit)),
                open: line == open,
            })
            .collect(),
        open: open.slug(),
        fields: match (open, recipe.inks.mode) {
            (Line::Inks, InkMode::Auto) => &[],
            (Line::Inks, InkMode::Count { .. }) => &["count"],
            (Line::Inks, InkMode::Mono { above: None, .. }) => &["threshold", "rim_width"],
            _ => open.fields(),
        },
        why: why(open, recipe, outcome),
        body,
        inks: rail(recipe, outcome, unit),
        figures: figures(outcome, unit),
        remembered: String::new(),
        aside: 0,
        announce,
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
        sheets_key: laid.map_or_else(String::new, |l| l.key.clone()),
        machine: send::machine(job.id, recipe),
        order: checked.map(|c| checks::work_order(recipe, c, unit)),
        edited: recipe.tidy.is_some(),
    }
}

/// The darkest ink: what broken lines are most often painted with.
fn darkest(outcome: &Outcome) -> String {
    let inks = outcome.solid.inks.iter().filter(|ink| !ink.clear);
    let dark = inks.min_by_key(|ink| ink.colour.0.iter().map(|&v| u32::from(v)).sum::<u32>());
    dark.map_or_else(|| "#000000".to_owned(), |ink| ink.colour.to_string())
}

/// The frame of the cleaned artwork in mm on the piece.
fn frame_in_mm(outcome: &Outcome) -> String {
    let frame = &outcome.cleaned.frame;
    let (across, down) = outcome.design.size.mm_per_px(frame.width, frame.height);
    let place = kurbo::Affine::scale_non_uniform(across, down) * frame.place;
    let figures = place.as_coeffs().map(|v| v.to_string());
    figures.join(" ")
}

/// Pixels of the artwork in an inch of the piece.
pub(super) fn ppi(outcome: &Outcome) -> f64 {
    let frame = &outcome.cleaned.frame;
    // Of the artwork as it came: enlarging adds none.
    f64::from(frame.width) / frame.scale() * MM_PER_INCH / outcome.design.size.width.get()
}

fn summary(
    line: Line,
    recipe: &Recipe,
    outcome: &Outcome,
    laid: Option<&Laid>,
    unit: Unit,
) -> String {
    let (design, f) = (&outcome.design, &outcome.design.figures);
    let symbol = unit.symbol();
    match line {
        Line::Artwork => {
            let (width, height) = original_px(outcome);
            let verdict = outcome.worth.as_ref().map_or_else(String::new, |worth| {
                format!(" · {}", worth.verdict(original_size(outcome)).word())
            });
            format!(
                "**{width} × {height}** px · **{:.0}** ppi{verdict}",
                ppi(outcome)
            )
        }
        Line::Clean => clean::summary(&recipe.clean),
        Line::Inks => {
            let kept = design.inks.iter().filter(|i| i.letter.is_some());
            let (kept, cut) = (kept.clone().count(), kept.filter(|i| i.is_cut()).count());
            let dropped = format!("**{cut}** kept, **{}** dropped", design.inks.len() - kept);
            match kept - cut {
                0 => dropped,
                empty => format!("{dropped}, **{empty}** too small"),
            }
        }
        Line::Trace => {
            let (count, what) = match (f.shapes, f.strokes) {
                (1, 0) => (1, "shape"),
                (n, 0) => (n, "shapes"),
                (0, 1) => (1, "stroke line"),
                (0, n) => (n, "stroke lines"),
                (shapes, strokes) => (shapes + strokes, "lines and shapes"),
            };
            // A curve along a middle is held against that middle, outlines against the artwork.
            let agreement = outcome.agreement.as_ref();
            let off = agreement.map_or(f.deviation.mean, |a| a.edge.mean);
            format!(
                "**{count}** {what} · **{}** nodes · **{}**\u{a0}{symbol}",
                f.nodes,
                text::length(off, unit, 3)
            )
        }
        Line::Tidy => tidy::summary(recipe.tidy.as_ref().map_or(&[], |t| &t.edits), unit),
        Line::Layers => layers::summary(&recipe.layers, outcome.if_checked(), unit),
        Line::Size => format!(
            "**{} × {}** {symbol}{}",
            text::side(design.size.width.get(), unit),
            text::side(design.size.height.get(), unit),
            checks::summary(outcome.if_checked())
        ),
        Line::Sheet => laid.map_or_else(String::new, |l| sheet::summary(l, unit)),
        Line::Send => laid.map_or_else(String::new, |l| send::summary(l, unit)),
    }
}

fn why(line: Line, recipe: &Recipe, outcome: &Outcome) -> String {
    let settings = &outcome.settings;
    match line {
        Line::Artwork => match outcome.arrived.artwork.ppi {
            Some(stated) => {
                format!("The file states {stated:.0} px per inch. It is kept as it came.")
            }
            None => "The file states no px per inch. It is kept as it came.".to_owned(),
        },
        Line::Clean if recipe.clean.is_empty() => {
            "The artwork is traced as it came. Every step can be changed, switched off, moved or taken out later.".to_owned()
        }
        Line::Clean => "The steps are replayed from the artwork as it came, from the top.".to_owned(),
        Line::Inks => {
            let notes = outcome.solid.notes(recipe.inks.background);
            let reason = outcome.solid.reason.to_string();
            [vec![reason], notes].concat().join(" ")
        }
        Line::Trace => {
            let middle = (recipe.trace.edges == Edges::CentreLine)
                .then_some("Lines are followed along their middle.");
            let parts = [&settings.tolerance.why, &settings.smooth.why, &settings.min_part.why];
            let parts = parts.iter().map(|s| s.as_str()).filter(|s| !s.is_empty());
            let agreement = outcome.agreement.as_ref();
            let agreement = agreement.map(|a| a.words());
            let first = agreement.as_deref().into_iter().chain(middle);
            let told: Vec<&str> = first.chain(parts).collect();
            if told.is_empty() {
                "All were chosen by hand.".to_owned()
            } else {
                told.join(" ")
            }
        }
        Line::Tidy => "Click a shape, or drag a box around several. Again on the same place reaches what lies under it; Shift adds.".to_owned(),
        Line::Layers => layers::why(&recipe.layers),
        Line::Size if recipe.size.locked => "One side follows from the other.".to_owned(),
        Line::Size => "Both sides are free: the picture may be stretched.".to_owned(),
        Line::Sheet => "What is cut from one roll or plate lies on one sheet. Drag parts on the bench to move them.".to_owned(),
        Line::Send => {
            "Sizes are in mm or inches, the lower left corner is the origin, so every file opens at the right size and place.".to_owned()
        }
    }
}

/// How many places are named at most.
const PLACES: usize = 3;

/// What is too wide to be a line, and where.
fn too_wide(outcome: &Outcome, unit: Unit) -> String {
    let symbol = unit.symbol();
    let told = |outlined: bool| {
        let all: Vec<_> = outcome.design.too_wide.iter().collect();
        let own: Vec<_> = all.into_iter().filter(|w| w.outlined == outlined).collect();
        let places = own.iter().take(PLACES).map(|w| {
            format!(
                "**{}** {symbol} wide at **{}, {}**",
                text::length(w.width, unit, 1),
                text::length(w.at.x, unit, 1),
                text::length(w.at.y, unit, 1)
            )
        });
        let places = places.collect::<Vec<_>>().join("; ");
        match own.len() {
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

fn facts(line: Line, outcome: &Outcome, unit: Unit) -> Option<Vec<Bit>> {
    let symbol = unit.symbol();
    Some(bits(&match line {
        Line::Size => format!(
            "One pixel is **{}** {symbol} across at this size, **{:.0}** ppi.",
            text::length(MM_PER_INCH / ppi(outcome), unit, 3),
            ppi(outcome)
        ),
        Line::Trace => too_wide(outcome, unit),
        Line::Artwork
        | Line::Clean
        | Line::Inks
        | Line::Tidy
        | Line::Layers
        | Line::Sheet
        | Line::Send => return None,
    }))
}
