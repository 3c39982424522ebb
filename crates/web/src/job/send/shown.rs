//! The Send line: which file, of what, and what it will hold.

use inky_core::material::Tool;
use inky_core::recipe::Recipe;
use inky_core::units::Unit;
use inky_formats::files::Format;

use crate::job::sheet::shown::duration;
use crate::text;
use crate::workshop::Laid;

/// How the line is worked.
pub(crate) const WHY: &str =
    "The lower left corner is the origin, and every file opens at its true size.";

/// The controls of the Send line.
pub(crate) struct SendBody {
    /// Name of every sheet.
    pub(crate) sheets: Vec<String>,
    /// The format that suits the job's tool.
    pub(crate) format: &'static str,
    /// Whether its material is cut from behind.
    pub(crate) mirrored: bool,
    /// Whether there are stones, of which a chart can be made.
    pub(crate) stones: bool,
}

/// The format that a machine for a job's first material takes.
fn machine_format(recipe: &Recipe) -> Format {
    match recipe.layers.material().tool {
        Tool::Laser => Format::Gcode,
        Tool::Blade | Tool::Pen => Format::Hpgl,
    }
}

/// What the button under the ticket can download, that for the machine first: word and address of each.
pub(crate) fn formats(job: i64, recipe: &Recipe) -> Vec<(&'static str, String)> {
    let usual = machine_format(recipe);
    let others = Format::ALL.into_iter().filter(|&format| format != usual);
    let address = |format: Format| {
        let ending = format.ending();
        format!("/jobs/{job}/file?format={ending}&what=sheets&split=material")
    };
    std::iter::once(usual)
        .chain(others)
        .map(|format| (format.word(), address(format)))
        .collect()
}

/// The line's result: how long it takes, and how fast it is run.
pub(crate) fn summary(laid: &Laid, unit: Unit) -> String {
    let plans: Vec<_> = laid.sheets.iter().map(|s| s.if_planned()).collect();
    if plans.is_empty() {
        return "nothing to cut".to_owned();
    }
    if plans.iter().any(Option::is_none) {
        let parts: usize = laid.sheets.iter().map(|s| s.sheet.items.len()).sum();
        return format!("**{parts}** parts to cut");
    }
    let plans = || plans.iter().flatten();
    let seconds: f64 = plans().map(|(_, p)| p.seconds()).sum();
    let length: f64 = plans().map(|(_, p)| p.length()).sum();
    let (length, symbol) = text::long_length(length, unit);
    format!("**{}** · **{length}** {symbol} to cut", duration(seconds))
}

/// The controls of the line.
pub(crate) fn body(recipe: &Recipe, laid: Option<&Laid>) -> SendBody {
    SendBody {
        sheets: laid.map_or_else(Vec::new, |l| {
            l.sheets.iter().map(|s| s.sheet.name.clone()).collect()
        }),
        format: machine_format(recipe).ending(),
        mirrored: recipe.layers.mirrored(),
        stones: recipe.layers.layers.iter().any(|l| l.stones.is_some()),
    }
}
