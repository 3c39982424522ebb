//! Changes of a page to be printed, as its controls ask for them.

use inky_core::inks::Rgb;
use inky_core::print::{MarkCount, PAPERS, PrintChoice, ROLL};
use inky_core::recipe::Recipe;
use inky_core::units::Unit;
use inky_store::MachineId;
use serde::Deserialize;

use crate::error::{WebError, wrong};
use crate::form::{Figures, Tick, parsed};
use crate::machines::kept::{Kind, Listed};
use crate::typed::{mm, mm_or_none, place};

/// How wide a roll is where no printer is known (common practice, no source), mm.
const USUAL_ROLL: f64 = 610.0;

/// One change.
#[derive(Debug, Deserialize)]
#[serde(tag = "do", rename_all = "kebab-case")]
pub(super) enum Change {
    /// Whether the artwork is printed at all.
    On {
        #[serde(default)]
        value: Tick,
    },
    /// A paper by its name.
    Paper { value: String },
    /// The sides of a page as it lies.
    Page {
        width: String,
        /// Not of a roll.
        #[serde(default)]
        height: String,
    },
    /// Upright or lying.
    Lying {
        #[serde(default)]
        value: Tick,
    },
    /// Upright if it lies, lying if it is upright.
    Turn,
    /// What the printer leaves white.
    Margins {
        left: String,
        top: String,
        right: String,
        bottom: String,
    },
    /// As much as a printer of the shop leaves white.
    Printer {
        #[serde(deserialize_with = "parsed")]
        value: MachineId,
    },
    /// How many marks.
    Marks { value: MarkCount },
    /// Across a mark.
    MarkSize { value: String },
    /// The width of its line.
    MarkLine { value: String },
    /// A mark moved to a place of the page: `across, down`; nothing typed is its corner.
    MarkMove {
        #[serde(deserialize_with = "parsed")]
        corner: usize,
        value: String,
    },
    /// The same by hand on the bench, mm.
    MarkDrag {
        #[serde(deserialize_with = "parsed")]
        corner: usize,
        at: Figures<2>,
    },
    /// All marks in their corners again.
    MarksBack,
    /// What stays clear around it.
    Clear { value: String },
    /// Marks as near as can be.
    Pulled {
        #[serde(default)]
        value: Tick,
    },
    /// Whether a code names the job.
    Code {
        #[serde(default)]
        value: Tick,
    },
    /// How far outside the artwork it is cut.
    Border { value: String },
    /// How far past the cut it is printed.
    Bleed { value: String },
    /// Whether border and bleed have one colour.
    Coloured {
        #[serde(default)]
        value: Tick,
    },
    /// That colour.
    Colour { value: Rgb },
}

impl Change {
    /// Where a refusal is told.
    pub(super) const fn field(&self) -> &'static str {
        match self {
            Self::Page { .. }
            | Self::Paper { .. }
            | Self::Lying { .. }
            | Self::Turn
            | Self::Printer { .. }
            | Self::Margins { .. } => "page",
            Self::Marks { .. }
            | Self::MarkSize { .. }
            | Self::MarkLine { .. }
            | Self::MarkMove { .. }
            | Self::MarkDrag { .. }
            | Self::MarksBack
            | Self::Clear { .. }
            | Self::Code { .. }
            | Self::Pulled { .. } => "marks",
            _ => "bleed",
        }
    }

    /// Changes a recipe, and names the step.
    pub(super) fn apply(
        self,
        recipe: &mut Recipe,
        machines: &[Listed],
        unit: Unit,
    ) -> Result<String, WebError> {
        let field = self.field();
        let typed = |text: &str| mm_or_none(field, text, unit);
        let mut print = recipe.print.clone().unwrap_or_else(|| usual(unit));
        if self.field() == "page" {
            // Places on the page that was.
            print.moved = [None; 4];
        }
        let name = match self {
            Self::On { value } => {
                recipe.sheet = recipe.sheet.laid_anew();
                recipe.print = value.is_on().then_some(print.clone());
                // The gap is the one that a page asks for, unless it was typed.
                recipe.sheet = match &recipe.print {
                    Some(print) => print.with(&recipe.sheet).1,
                    None => recipe.sheet.laid_anew(),
                };
                let name = match recipe.print {
                    Some(_) => "Printed and cut",
                    None => "Not printed",
                };
                return Ok(name.to_owned());
            }
            Self::Printer { value } => {
                let found = machines.iter().find(|m| m.id == value);
                let printer = found.filter(|m| m.machine.kind == Kind::Printer);
                let printer = printer.ok_or_else(|| wrong(field, "choose a printer"))?;
                print.margins = [printer.machine.white; 4];
                format!("Margins of {}", printer.machine.name)
            }
            Self::Paper { value } if value == "roll" => {
                let printers = machines.iter().filter(|m| m.machine.kind == Kind::Printer);
                let wide = printers.map(|m| m.machine.reach[0]).reduce(f64::max);
                print.roll = true;
                print.page = [wide.unwrap_or(USUAL_ROLL), ROLL];
                "A roll".to_owned()
            }
            Self::Paper { value } => {
                let found = PAPERS.iter().find(|(name, ..)| *name == value);
                let (label, [w, h]) = found.ok_or_else(|| wrong(field, "choose a paper"))?;
                let lying = !print.roll && print.page[0] > print.page[1];
                print.roll = false;
                print.page = if lying { [*h, *w] } else { [*w, *h] };
                format!("Page {label}")
            }
            Self::Page { width, height } => {
                let long = if print.roll {
                    ROLL
                } else {
                    mm(field, &height, unit)?
                };
                print.page = [mm(field, &width, unit)?, long];
                "Size of the page".to_owned()
            }
            Self::Lying { .. } | Self::Turn if print.roll => {
                return Err(wrong(
                    field,
                    "a roll is as long as it has to be: it is not turned",
                ));
            }
            Self::Lying { value } => {
                let [w, h] = print.page;
                if (w > h) != value.is_on() {
                    print.page = [h, w];
                }
                match value.is_on() {
                    true => "Page lying",
                    false => "Page upright",
                }
                .to_owned()
            }
            Self::Turn => {
                print.page.reverse();
                "Page turned".to_owned()
            }
            Self::Margins {
                left,
                top,
                right,
                bottom,
            } => {
                print.margins = [typed(&left)?, typed(&top)?, typed(&right)?, typed(&bottom)?];
                "Margins of the page".to_owned()
            }
            Self::Marks { value } => {
                print.marks.count = value;
                match value {
                    MarkCount::Three => "3 marks",
                    MarkCount::Four => "4 marks",
                }
                .to_owned()
            }
            Self::MarkSize { value } => {
                print.marks.size = mm(field, &value, unit)?;
                print.marks.line = print.marks.size / 6.0;
                "Size of the marks".to_owned()
            }
            Self::MarkLine { value } => {
                print.marks.line = mm(field, &value, unit)?;
                "Line of the marks".to_owned()
            }
            Self::MarkMove { corner, value } => {
                let place = match value.trim() {
                    "" => None,
                    typed => Some(place(field, typed, unit)?),
                };
                moved(&mut print, corner, place.map(|p| [p.x, p.y]))?
            }
            Self::MarkDrag {
                corner,
                at: Figures([x, y]),
            } => {
                // A hand stops at the edge of the quarter.
                let b = print.quarter(corner);
                let stopped = |v: f64, from: f64, to: f64| v.max(from).min(to.max(from));
                let at = [stopped(x, b.x0, b.x1), stopped(y, b.y0, b.y1)];
                moved(&mut print, corner, Some(at))?
            }
            Self::MarksBack => {
                print.moved = [None; 4];
                "Marks in their corners".to_owned()
            }
            Self::Clear { value } => {
                print.marks.clear = typed(&value)?;
                "Ground of the marks".to_owned()
            }
            Self::Pulled { value } => {
                print.pulled = value.is_on();
                print.moved = [None; 4];
                "Marks pulled up".to_owned()
            }
            Self::Code { value } => {
                print.code = value.is_on();
                match value.is_on() {
                    true => "Code in the margin",
                    false => "No code in the margin",
                }
                .to_owned()
            }
            Self::Border { value } => {
                print.border = typed(&value)?;
                "Border".to_owned()
            }
            Self::Bleed { value } => {
                // The gap follows it while it is the one that the old bleed asked for.
                let followed = PrintChoice::with(&print, &recipe.sheet.clone().without_gap())
                    .1
                    .gap();
                let follows = (recipe.sheet.gap() - followed).abs() < 1e-9;
                print.bleed = typed(&value)?;
                if follows {
                    recipe.sheet = print.with(&recipe.sheet.clone().without_gap()).1;
                }
                "Bleed".to_owned()
            }
            Self::Coloured { value } => {
                print.border_colour = value.is_on().then_some(Rgb::WHITE);
                match value.is_on() {
                    true => "Border in a colour",
                    false => "Border of the picture's own colours",
                }
                .to_owned()
            }
            Self::Colour { value } => {
                print.border_colour = Some(value);
                "Colour of the border".to_owned()
            }
        };
        recipe.sheet = recipe.sheet.laid_anew();
        recipe.print = Some(print);
        Ok(name)
    }
}

/// A mark moved to a place of the page, mm, or back into its corner.
fn moved(
    print: &mut PrintChoice,
    corner: usize,
    place: Option<[f64; 2]>,
) -> Result<String, WebError> {
    let mark = print.moved.get_mut(corner);
    *mark.ok_or_else(|| wrong("marks", "there is no such mark"))? = place;
    print.pulled = false;
    Ok("Mark moved".to_owned())
}

/// The page to begin with where a unit is read: stickers with a white border, as most are (common practice, no source).
fn usual(unit: Unit) -> PrintChoice {
    let known = PrintChoice {
        border: match unit {
            Unit::Mm => 3.0,
            Unit::In => 3.175,
        },
        border_colour: Some(Rgb::WHITE),
        ..PrintChoice::default()
    };
    match unit {
        Unit::Mm => known,
        Unit::In => PrintChoice {
            page: PAPERS[2].1,
            ..known
        },
    }
}
