//! The job page: ticket, rail and figures of one outcome.

use inky_core::inks::{EdgeField, InkMode};
use inky_core::recipe::Recipe;
use inky_core::shapes::Edges;
use inky_core::trace;
use inky_core::units::{MM_PER_INCH, Unit};
use inky_store::{History, Job};

use super::text::{self, Bit, bits};
use crate::workshop::Outcome;

/// A line of the ticket.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Line {
    Artwork,
    Inks,
    Trace,
    Size,
    Send,
}

impl Line {
    pub(crate) const ALL: [Self; 5] = [
        Self::Artwork,
        Self::Inks,
        Self::Trace,
        Self::Size,
        Self::Send,
    ];

    /// Its word in addresses and forms.
    pub(crate) fn slug(self) -> &'static str {
        match self {
            Self::Artwork => "artwork",
            Self::Inks => "inks",
            Self::Trace => "trace",
            Self::Size => "size",
            Self::Send => "send",
        }
    }

    pub(crate) fn from_slug(slug: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|l| l.slug() == slug)
    }

    fn name(self) -> &'static str {
        match self {
            Self::Artwork => "Artwork",
            Self::Inks => "Inks",
            Self::Trace => "Trace",
            Self::Size => "Size",
            Self::Send => "Send",
        }
    }

    /// Fields whose problems are told beside them.
    pub(crate) fn fields(self) -> &'static [&'static str] {
        match self {
            Self::Artwork => &["title"],
            Self::Inks => &["count", "threshold"],
            Self::Trace => &["tolerance", "corner", "min_part"],
            Self::Size => &["width", "height"],
            Self::Send => &["ppi"],
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

pub(crate) struct RailInk {
    pub(crate) letter: String,
    pub(crate) hatch: usize,
    pub(crate) colour: String,
    pub(crate) name: String,
    pub(crate) figures: String,
    pub(crate) kept: bool,
    pub(crate) clear: bool,
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
    pub(crate) figures: Vec<(&'static str, String, &'static str)>,
    pub(crate) announce: String,
    pub(crate) nothing: Option<(&'static str, String)>,
    pub(crate) key: String,
    pub(crate) solid_key: String,
    pub(crate) artwork_key: String,
    pub(crate) width_mm: f64,
    pub(crate) height_mm: f64,
    /// What the open line's fields show, by name, and whether the program chose it.
    pub(crate) shown: Vec<(&'static str, String, bool)>,
    /// A sentence of figures under the open line's controls.
    pub(crate) facts: Vec<Bit>,
    pub(crate) unit: &'static str,
}

/// Names of flat colours by hue and lightness, for inks nobody has named.
fn colour_name([r, g, b]: [u8; 3]) -> &'static str {
    let (max, min) = (r.max(g).max(b), r.min(g).min(b));
    let lightness = (u16::from(max) + u16::from(min)) / 2;
    if max - min < 26 {
        return match lightness {
            0..=48 => "Black",
            49..=110 => "Dark grey",
            111..=190 => "Grey",
            191..=235 => "Pale grey",
            _ => "White",
        };
    }
    let spread = f64::from(max - min);
    let (rf, gf, bf) = (f64::from(r), f64::from(g), f64::from(b));
    let hue = if max == r {
        60.0 * ((gf - bf) / spread).rem_euclid(6.0)
    } else if max == g {
        60.0 * ((bf - rf) / spread + 2.0)
    } else {
        60.0 * ((rf - gf) / spread + 4.0)
    };
    let dark = lightness < 96;
    let pale = lightness > 184;
    match hue as u16 {
        0..=15 | 346..=360 => {
            if dark {
                "Dark red"
            } else if pale {
                "Pink"
            } else {
                "Red"
            }
        }
        16..=42 => {
            if dark {
                "Brown"
            } else if pale {
                "Sand"
            } else {
                "Orange"
            }
        }
        43..=66 => {
            if dark {
                "Olive"
            } else if pale {
                "Cream"
            } else {
                "Yellow"
            }
        }
        67..=160 => {
            if dark {
                "Dark green"
            } else if pale {
                "Pale green"
            } else {
                "Green"
            }
        }
        161..=199 => {
            if dark {
                "Dark teal"
            } else if pale {
                "Pale teal"
            } else {
                "Teal"
            }
        }
        200..=255 => {
            if dark {
                "Navy"
            } else if pale {
                "Pale blue"
            } else {
                "Blue"
            }
        }
        256..=295 => {
            if dark {
                "Dark violet"
            } else {
                "Violet"
            }
        }
        _ => {
            if dark {
                "Plum"
            } else {
                "Pink"
            }
        }
    }
}

/// Everything shown of a job and one outcome of it.
pub(crate) fn ticket(
    job: &Job,
    history: &History,
    recipe: &Recipe,
    outcome: &Outcome,
    open: Line,
    unit: Unit,
) -> Ticket {
    let design = &outcome.design;
    let size = design.size;
    let nothing = design.shapes.is_empty().then(|| {
        let tone = matches!(outcome.solid.field, EdgeField::Tone { .. });
        let field = if tone && open == Line::Inks {
            "threshold"
        } else {
            "notice"
        };
        (
            field,
            format!(
                "Nothing to trace: {}.",
                trace::nothing_found(&outcome.solid)
            ),
        )
    });
    let f = &design.figures;
    let announce = match &nothing {
        Some((_, message)) => message.clone(),
        None => format!("traced: {} shapes, {} nodes", f.shapes, f.nodes),
    };
    let at = history.at;
    let body = body(open, recipe, outcome, unit);
    let shown = shown(&body);
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
                summary: bits(&summary(line, outcome, unit)),
                open: line == open,
            })
            .collect(),
        open: open.slug(),
        fields: match (open, recipe.inks.mode) {
            (Line::Inks, InkMode::Auto) => &[],
            (Line::Inks, InkMode::Count { .. }) => &["count"],
            (Line::Inks, InkMode::Mono { .. }) => &["threshold"],
            _ => open.fields(),
        },
        why: why(open, recipe, outcome),
        body,
        inks: rail(recipe, outcome, unit),
        figures: figures(outcome, unit),
        announce,
        nothing,
        key: outcome.key.clone(),
        solid_key: outcome.solid_key.clone(),
        artwork_key: outcome.arrived.sha256.chars().take(16).collect(),
        width_mm: size.width.get(),
        height_mm: size.height.get(),
        shown,
        facts: facts(open, outcome, unit),
        unit: unit.symbol(),
    }
}

fn ppi(outcome: &Outcome) -> f64 {
    f64::from(outcome.solid.width) * MM_PER_INCH / outcome.design.size.width.get()
}

fn summary(line: Line, outcome: &Outcome, unit: Unit) -> String {
    let (design, f) = (&outcome.design, &outcome.design.figures);
    let symbol = unit.symbol();
    match line {
        Line::Artwork => {
            format!(
                "**{} × {}** px · **{:.0}** ppi",
                outcome.solid.width,
                outcome.solid.height,
                ppi(outcome)
            )
        }
        Line::Inks => {
            let kept = design.inks.iter().filter(|i| i.letter.is_some()).count();
            format!("**{kept}** kept, **{}** dropped", design.inks.len() - kept)
        }
        Line::Trace => format!(
            "**{}** shapes · **{}** nodes · **{}** {symbol}",
            f.shapes,
            f.nodes,
            text::length(f.deviation.max, unit, 2)
        ),
        Line::Size => format!(
            "**{} × {}** {symbol}",
            text::side(design.size.width.get(), unit),
            text::side(design.size.height.get(), unit)
        ),
        Line::Send => {
            let (length, symbol) = text::long_length(f.cut_length, unit);
            format!("**{length}** {symbol} to cut")
        }
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
        Line::Inks => outcome.solid.reason.to_string(),
        Line::Trace => {
            let parts = [&settings.tolerance.why, &settings.min_part.why];
            let told: Vec<&str> = parts
                .iter()
                .map(|s| s.as_str())
                .filter(|s| !s.is_empty())
                .collect();
            if told.is_empty() {
                "Both were chosen by hand.".to_owned()
            } else {
                told.join(" ")
            }
        }
        Line::Size if recipe.size.locked => "One side follows from the other.".to_owned(),
        Line::Size => "Both sides are free: the picture may be stretched.".to_owned(),
        Line::Send => {
            "One group for each ink, one path for each shape. Sizes are in mm, so the file opens at the right size.".to_owned()
        }
    }
}

fn body(line: Line, recipe: &Recipe, outcome: &Outcome, unit: Unit) -> LineBody {
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

/// Field by field what a body shows.
fn shown(body: &LineBody) -> Vec<(&'static str, String, bool)> {
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

fn facts(line: Line, outcome: &Outcome, unit: Unit) -> Vec<Bit> {
    let symbol = unit.symbol();
    let size = outcome.design.size;
    bits(&match line {
        Line::Size => format!(
            "One pixel is **{}** {symbol} across at this size, **{:.0}** ppi.",
            text::length(outcome.settings.placement.px(), unit, 3),
            ppi(outcome)
        ),
        Line::Send => format!(
            "The file is **{} × {}** {symbol}, every outline closed.",
            text::side(size.width.get(), unit),
            text::side(size.height.get(), unit)
        ),
        Line::Artwork | Line::Inks | Line::Trace => String::new(),
    })
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
    let (mode, threshold, invert) = match recipe.inks.mode {
        InkMode::Auto => ("auto", None, false),
        InkMode::Count { .. } => ("several", None, false),
        InkMode::Mono { threshold, invert } => ("mono", threshold, invert),
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
        invert,
    }
}

fn trace_sliders(recipe: &Recipe, settings: &trace::Settings, unit: Unit) -> Vec<Slider> {
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

fn rail(recipe: &Recipe, outcome: &Outcome, unit: Unit) -> Vec<RailInk> {
    let mut hatch = 0;
    let inks = &outcome.design.inks;
    let kept = inks.iter().filter(|i| i.letter.is_some());
    kept.chain(inks.iter().filter(|i| i.letter.is_none()))
        .map(|ink| {
            let kept = ink.letter.is_some();
            let named = recipe
                .inks
                .names
                .iter()
                .find(|n| n.colour == ink.colour && !ink.clear);
            let own = match (named, ink.clear) {
                (Some(n), _) => n.name.clone(),
                (None, true) => "Clear".to_owned(),
                (None, false) => colour_name(ink.colour.0).to_owned(),
            };
            let figures = if kept {
                format!(
                    "{} · {}",
                    text::large_area(ink.area, unit),
                    text::percent(ink.share)
                )
            } else {
                format!("dropped · {}", text::percent(ink.share))
            };
            hatch += usize::from(kept);
            RailInk {
                letter: ink.letter.clone().unwrap_or_else(|| "–".to_owned()),
                hatch: if kept { hatch } else { 0 },
                colour: ink.colour.to_string(),
                name: own,
                figures,
                kept,
                clear: ink.clear,
            }
        })
        .collect()
}

fn figures(outcome: &Outcome, unit: Unit) -> Vec<(&'static str, String, &'static str)> {
    let f = &outcome.design.figures;
    let symbol = unit.symbol();
    let (cut, cut_unit) = text::long_length(f.cut_length, unit);
    let size = outcome.design.size;
    vec![
        ("Shapes", f.shapes.to_string(), ""),
        ("Nodes", f.nodes.to_string(), ""),
        ("Width", text::side(size.width.get(), unit), symbol),
        ("Height", text::side(size.height.get(), unit), symbol),
        (
            "Off the edge, mean",
            text::length(f.deviation.mean, unit, 3),
            symbol,
        ),
        ("… at most", text::length(f.deviation.max, unit, 3), symbol),
        (
            "Smallest part",
            f.smallest_part
                .map_or_else(|| "–".to_owned(), text::small_area),
            "mm²",
        ),
        ("Cut length", cut, cut_unit),
    ]
}
