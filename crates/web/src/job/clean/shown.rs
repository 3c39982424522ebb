//! The clean-up steps in words, with the figures that can be changed.

use inky_core::clean::{Action, Frame, Step, Tool};
use inky_core::recipe::Recipe;
use inky_core::units::Unit;

use crate::job::clean::squared;
use crate::text;

/// A row of the list of steps.
pub(crate) struct StepRow {
    pub(crate) index: usize,
    pub(crate) on: bool,
    pub(crate) said: String,
    pub(crate) first: bool,
    pub(crate) last: bool,
    pub(crate) figures: Vec<StepFigure>,
    /// A sentence about it, and whether its corners can be moved.
    pub(crate) note: String,
    pub(crate) cornered: bool,
}

/// A figure of a step that can be changed.
pub(crate) struct StepFigure {
    /// Its name in the step.
    pub(crate) key: &'static str,
    pub(crate) label: &'static str,
    pub(crate) value: String,
    pub(crate) unit: &'static str,
    /// `number`, `slider`, `length`, `choice`, `colour` or `switch`.
    pub(crate) kind: &'static str,
    pub(crate) least: &'static str,
    pub(crate) most: &'static str,
    pub(crate) step: &'static str,
}

/// The rows of a recipe's steps.
pub(crate) fn rows(recipe: &Recipe, original_px: (u32, u32), unit: Unit) -> Vec<StepRow> {
    let mut frame = Frame::new(original_px.0, original_px.1);
    let count = recipe.clean.len();
    let row = |(index, step): (usize, &Step)| {
        let after = frame.after(&step.action);
        if step.on {
            frame = after;
        }
        StepRow {
            index,
            on: step.on,
            said: said(&step.action, (after.width, after.height)),
            first: index == 0,
            last: index + 1 == count,
            figures: figures(&step.action, unit),
            note: match &step.action {
                Action::Square(s) => squared::told(s, unit),
                _ => String::new(),
            },
            cornered: matches!(step.action, Action::Square(_)),
        }
    };
    recipe.clean.iter().enumerate().map(row).collect()
}

/// What a step did; `size` is that of the picture after it, px.
fn said(action: &Action, size: (u32, u32)) -> String {
    let (width, height) = size;
    match action {
        Action::Crop { .. } => format!("Cropped to {width} × {height} px"),
        Action::Enlarge { factor } => {
            format!("Enlarged {factor} × to {width} × {height} px, no detail added")
        }
        other => name(other),
    }
}

/// The name of a step in the history.
pub(crate) fn name(action: &Action) -> String {
    match action {
        Action::Crop { .. } => "Cropped".to_owned(),
        Action::Quarter { turns: 1 } => "Turned right".to_owned(),
        Action::Quarter { turns: 3 } => "Turned left".to_owned(),
        Action::Quarter { .. } => "Turned upside down".to_owned(),
        Action::Turn {
            degrees,
            found: true,
        } => format!("Straightened by {degrees:.2}°"),
        Action::Turn { degrees, .. } => format!("Turned by {degrees:.2}°"),
        Action::Square(_) => "Squared up".to_owned(),
        Action::Flip { across: true } => "Mirrored left to right".to_owned(),
        Action::Flip { across: false } => "Mirrored top to bottom".to_owned(),
        Action::Brush { tool, .. } => match tool {
            Tool::Erase => "Erased".to_owned(),
            Tool::Paint { colour } => format!("Painted {colour}"),
            Tool::Restore => "Brought back".to_owned(),
        },
        Action::Clear { pointed } if pointed.everywhere => "One colour cleared".to_owned(),
        Action::Clear { .. } => "Region cleared".to_owned(),
        Action::Fill { pointed, colour } if pointed.everywhere => {
            format!("One colour filled {colour}")
        }
        Action::Fill { colour, .. } => format!("Region filled {colour}"),
        Action::MainOnly => "Main outline only".to_owned(),
        Action::Subject { strokes } if strokes.is_empty() => "Subject cut out".to_owned(),
        Action::Subject { strokes } => {
            let count = text::some(strokes.len(), "stroke");
            format!("Subject cut out by {count}")
        }
        Action::Areas { areas } if areas.len() == 1 => "One area traced".to_owned(),
        Action::Areas { areas } => format!("{} areas traced", areas.len()),
        Action::Levels(levels) => {
            format!("Levels {:.0} to {:.0} %", levels.black, levels.white)
        }
        Action::Denoise { grain } => format!("Grain of {grain} levels taken out"),
        Action::Even => "Light levelled".to_owned(),
        Action::Enlarge { factor } => format!("Enlarged {factor} ×"),
    }
}

fn figures(action: &Action, unit: Unit) -> Vec<StepFigure> {
    let number = |key, label, value: f64, unit, (least, most, step)| StepFigure {
        key,
        label,
        value: format!("{}", (value * 100.0).round() / 100.0),
        unit,
        kind: "number",
        least,
        most,
        step,
    };
    let colour = |value: String| StepFigure {
        key: "colour",
        label: "Colour",
        value,
        kind: "colour",
        ..number("", "", 0.0, "", ("", "", ""))
    };
    let region = |pointed: &inky_core::clean::Pointed| {
        vec![
            number(
                "tolerance",
                "Alike within",
                pointed.tolerance,
                "ΔE",
                ("0", "60", "0.5"),
            ),
            StepFigure {
                key: "everywhere",
                label: "Everywhere",
                value: if pointed.everywhere { "on" } else { "" }.to_owned(),
                kind: "switch",
                ..number("", "", 0.0, "", ("", "", ""))
            },
        ]
    };
    let px = |key, label, value| number(key, label, value, "px", ("0", "40000", "1"));
    match action {
        Action::Crop { .. } => {
            let sides = action.crop_box().into_iter().flatten();
            let names = [
                ("left", "Left"),
                ("top", "Top"),
                ("width", "Width"),
                ("height", "Height"),
            ];
            let all = names.into_iter().zip(sides);
            all.map(|((key, label), v)| px(key, label, v.round()))
                .collect()
        }
        Action::Turn { degrees, .. } => {
            vec![number(
                "degrees",
                "Clockwise",
                *degrees,
                "°",
                ("-180", "180", "0.1"),
            )]
        }
        Action::Square(s) => {
            let side = |key, label, mm: Option<f64>| StepFigure {
                value: mm.map_or_else(String::new, |mm| text::side(mm, unit)),
                kind: "length",
                ..number(key, label, 0.0, unit.symbol(), ("", "", ""))
            };
            let paper = StepFigure {
                value: squared::paper(s).to_owned(),
                kind: "choice",
                ..number("paper", "It is", 0.0, "", ("", "", ""))
            };
            let lens = StepFigure {
                kind: "slider",
                ..number("lens", "Lens", s.lens, "%", ("-15", "15", "0.1"))
            };
            let around = StepFigure {
                value: if s.around { "on" } else { "" }.to_owned(),
                kind: "switch",
                ..number("around", "Keep what lies around", 0.0, "", ("", "", ""))
            };
            vec![
                paper,
                side("width", "Width", s.width),
                side("height", "Height", s.height),
                lens,
                around,
            ]
        }
        Action::Clear { pointed } => region(pointed),
        Action::Fill { pointed, colour: c } => {
            let mut figures = region(pointed);
            figures.push(colour(c.to_string()));
            figures
        }
        Action::Brush { tool, size, .. } => {
            let mut figures = vec![px("size", "Width", *size)];
            if let Tool::Paint { colour: c } = tool {
                figures.push(colour(c.to_string()));
            }
            figures
        }
        Action::Levels(l) => vec![
            number("black", "Black", l.black, "%", ("0", "98", "1")),
            number("white", "White", l.white, "%", ("2", "100", "1")),
            number("middle", "Middle", l.middle, "%", ("5", "95", "1")),
        ],
        Action::Denoise { grain } => {
            vec![number(
                "grain",
                "Grain",
                *grain,
                "levels",
                ("0.5", "40", "0.5"),
            )]
        }
        Action::Enlarge { factor } => {
            vec![number(
                "factor",
                "Times",
                f64::from(*factor),
                "×",
                ("2", "4", "1"),
            )]
        }
        _ => Vec::new(),
    }
}

/// What changed from one list of steps to the next.
pub(crate) fn change(old: &[Step], new: &[Step]) -> String {
    let named = |step: &Step| name(&step.action);
    if new.len() > old.len() {
        // What follows from a step is added with it.
        let first = new.get(old.len());
        return first.map_or_else(|| "Cleaned".to_owned(), named);
    }
    if let Some(gone) = old
        .iter()
        .find(|s| !new.contains(s))
        .filter(|_| new.len() < old.len())
    {
        return format!("{} taken out", named(gone));
    }
    let different: Vec<(&Step, &Step)> = old.iter().zip(new).filter(|(a, b)| a != b).collect();
    match different.as_slice() {
        [(a, b)] if a.on != b.on && a.action == b.action => {
            format!("{} {}", named(b), if b.on { "on" } else { "off" })
        }
        [(_, b)] => named(b),
        _ => "Steps in another order".to_owned(),
    }
}

/// The line's summary.
pub(crate) fn summary(steps: &[Step]) -> String {
    let on: Vec<&Step> = steps.iter().filter(|s| s.on).collect();
    match on.as_slice() {
        [] if steps.is_empty() => "as it came".to_owned(),
        [] => "all steps off".to_owned(),
        [one] => lower(&name(&one.action)),
        [.., last] => format!(
            "**{}** steps, last {}",
            on.len(),
            lower(&name(&last.action))
        ),
    }
}

/// What becomes of the steps.
pub(crate) const fn why(steps: &[Step]) -> &'static str {
    if steps.is_empty() {
        "The artwork is traced as it came. Every step can be changed, switched off, moved or taken out later."
    } else {
        "The steps are replayed from the artwork as it came, from the top."
    }
}

fn lower(text: &str) -> String {
    let mut chars = text.chars();
    let first = chars.next().map(|c| c.to_lowercase().collect::<String>());
    first.unwrap_or_default() + chars.as_str()
}
