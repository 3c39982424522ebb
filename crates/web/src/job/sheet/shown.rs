//! The Sheet line: copies, arrangement, weeding aids, other jobs, and what it comes to.

use inky_core::recipe::Recipe;
use inky_core::shapes::Design;
use inky_core::sheet::Sheet;
use inky_core::sheet::choice::{Arrange, Copies, Turns};
use inky_core::stock::StockKind;
use inky_core::units::Unit;

use crate::job::controls::ShopAround;
use crate::job::layers::shown::Choice;
use crate::job::sheet::print::faults::{Faults, faults};
use crate::job::sheet::print::shown::{self as print, PrintBody};
use crate::text::{self, Bit, bits};
use crate::workshop::{Laid, OnSheet};

/// How the line is worked.
pub(crate) const WHY: &str =
    "What is cut from one roll or plate lies on one sheet. Drag parts on the bench to move them.";

/// One sheet in figures.
pub(crate) struct SheetRow {
    pub(crate) name: String,
    pub(crate) figures: Vec<Bit>,
    /// What does not fit or lies too near, in words; empty where nothing does.
    pub(crate) trouble: Vec<String>,
    /// Whether it helps to lay it as the program does, and whether to turn its page.
    pub(crate) anew: bool,
    pub(crate) turn: bool,
    /// Whether what is left of it can be kept as stock.
    pub(crate) leaves: bool,
}

/// Another job on the sheets.
pub(crate) struct GuestRow {
    pub(crate) job: i64,
    pub(crate) title: String,
    pub(crate) copies: u32,
}

/// The controls of the Sheet line.
pub(crate) struct SheetBody {
    pub(crate) sheets: Vec<SheetRow>,
    pub(crate) copies: String,
    pub(crate) fill: &'static str,
    pub(crate) nested: bool,
    pub(crate) gap: String,
    pub(crate) turns: Vec<Choice>,
    pub(crate) grain: bool,
    pub(crate) single: bool,
    pub(crate) weeded: bool,
    pub(crate) weed_box: Option<String>,
    pub(crate) relief: Option<String>,
    pub(crate) panels: Option<String>,
    /// Whether the work is wider than what can be cut of its stock.
    pub(crate) wide: bool,
    pub(crate) trial: bool,
    pub(crate) trial_words: &'static str,
    pub(crate) guests: Vec<GuestRow>,
    pub(crate) others: Vec<(i64, String)>,
    pub(crate) zones: bool,
    /// The artwork itself as it is printed.
    pub(crate) print: PrintBody,
    /// Length of a lead-in, for a laser.
    pub(crate) lead: Option<String>,
    /// Time of each sheet and of its layers.
    pub(crate) times: Vec<(usize, String, String)>,
}

impl SheetBody {
    /// Whether some sheet leaves something that can be kept.
    pub(crate) fn leaves(&self) -> bool {
        self.sheets.iter().any(|s| s.leaves)
    }
}

/// Seconds as people say them.
pub(crate) fn duration(seconds: f64) -> String {
    let whole = seconds.round() as u64;
    let (hours, minutes, rest) = (whole / 3600, whole / 60 % 60, whole % 60);
    match (hours, minutes) {
        (0, 0) => format!("{rest} s"),
        (0, _) => format!("{minutes} min {rest} s"),
        _ => format!("{hours} h {minutes} min"),
    }
}

pub(crate) fn stock_words(sheet: &Sheet, unit: Unit) -> String {
    let side = |mm: f64| text::length(mm, unit, if unit == Unit::Mm { 0 } else { 1 });
    let symbol = unit.symbol();
    match sheet.stock.kind {
        StockKind::Roll => format!("{} {symbol} roll", side(sheet.stock.width)),
        kind => format!(
            "{} × {} {symbol} {}",
            side(sheet.stock.width),
            side(sheet.stock.length),
            kind.word()
        ),
    }
}

/// What is used of the stock: a length of it, or all of a page or a free shape.
fn used_words(on: &OnSheet, unit: Unit) -> String {
    let sheet = &on.sheet;
    if let Some(printed) = &on.printed {
        let [w, h] = printed.page.choice.page.map(|mm| text::side(mm, unit));
        return format!("on a page of **{w} × {h}** {}", unit.symbol());
    }
    let stock = stock_words(sheet, unit);
    if sheet.stock.shape.is_some() {
        return format!("on **{stock}**");
    }
    let (length, symbol) = text::long_length(sheet.left.used_length, unit);
    format!("**{length}** {symbol} of {stock}")
}

/// The line's result: how many, on how much.
pub(crate) fn summary(laid: &Laid, unit: Unit) -> String {
    let Some(first) = laid.sheets.first() else {
        return "nothing to cut".to_owned();
    };
    let sheet = &first.sheet;
    if laid.sheets.len() > 1 {
        let most = laid.sheets.iter().map(|s| s.sheet.copies()).max();
        return format!(
            "**{}** up · **{}** sheets{}",
            most.unwrap_or(0),
            laid.sheets.len(),
            trouble_short(laid)
        );
    }
    format!(
        "**{}** up · {}{}",
        sheet.copies(),
        used_words(first, unit),
        trouble_short(laid)
    )
}

fn trouble_short(laid: &Laid) -> &'static str {
    let any = |f: fn(&Sheet) -> bool| laid.sheets.iter().any(|s| f(&s.sheet));
    if any(|s| s.left_out() > 0) {
        " · **too large**"
    } else if any(|s| !s.clashes.is_empty() || !s.outside.is_empty()) {
        " · **clash**"
    } else {
        ""
    }
}

fn figures(on: &OnSheet, unit: Unit) -> Vec<Bit> {
    let sheet = &on.sheet;
    let long = |mm: f64| {
        let (figure, symbol) = text::long_length(mm, unit);
        format!("**{figure}** {symbol}")
    };
    let mut parts = vec![format!("**{}** up", sheet.copies()), used_words(on, unit)];
    // Open lines cover nothing.
    if sheet.yield_() > 0.0 {
        parts.push(format!("**{:.0}** % used", sheet.yield_() * 100.0));
    }
    if let Some(left) = sheet.left.length {
        parts.push(format!("{} left", long(left)));
    }
    if sheet.cost() > 0.0 {
        parts.push(format!("material **{:.2}**", sheet.cost()));
    }
    if let Some((_, plan)) = on.if_planned() {
        parts.push(format!("**{}**", duration(plan.seconds())));
    }
    bits(&parts.join(" · "))
}

/// What is wrong with a sheet, and what helps.
fn trouble(on: &OnSheet, wide: bool, faults: Option<&Faults>) -> Vec<String> {
    let sheet = &on.sheet;
    let forgotten = on.if_planned().map_or(0, |(_, plan)| plan.forgotten);
    let mut said = Vec::new();
    let parts = |n: usize| {
        if n == 1 {
            "1 part".to_owned()
        } else {
            format!("{n} parts")
        }
    };
    if sheet.left_out() > 0 {
        let help = if wide {
            "cut it in panels, or take a wider stock"
        } else {
            "they need another sheet, fewer copies or a smaller gap"
        };
        said.push(format!(
            "{} found no room: {help}.",
            parts(sheet.left_out())
        ));
    }
    if !sheet.clashes.is_empty() {
        said.push(format!(
            "{} nearer than the gap, marked on the bench.",
            match sheet.clashes.len() {
                1 => "Two parts lie".to_owned(),
                n => format!("{n} pairs of parts lie"),
            }
        ));
    }
    // What lies outside on a page is told by what lies there.
    let told = faults.map_or(&[][..], |f| &f.said);
    said.extend(told.iter().cloned());
    if !sheet.outside.is_empty() && told.is_empty() {
        said.push(format!(
            "{} outside what can be cut.",
            match sheet.outside.len() {
                1 => "1 part reaches".to_owned(),
                n => format!("{n} parts reach"),
            }
        ));
    }
    if sheet.box_outside {
        said.push(
            "The weed box reaches off what can be cut: nest again, or make its distance smaller."
                .to_owned(),
        );
    }
    if sheet.forgotten {
        said.push(
            "Its parts are others than those that were laid out, so all lie anew.".to_owned(),
        );
    }
    if forgotten > 0 {
        said.push(format!(
            "{} of the order of cutting {} about lines that are no more, and {} left out.",
            text::some(forgotten, "change"),
            if forgotten == 1 { "was" } else { "were" },
            if forgotten == 1 { "is" } else { "are" },
        ));
    }
    if sheet.to_nest {
        said.push("In rows for now: press nested to nest it again.".to_owned());
    }
    said
}

fn turns(chosen: Turns) -> Vec<Choice> {
    let all = [
        ("none", "as they are", Turns::None),
        ("half", "half a turn", Turns::Half),
        ("quarter", "quarter turns", Turns::Quarter),
        ("fine", "every 15°", Turns::Fine),
    ];
    let choice = |(word, label, value): (&str, &str, Turns)| Choice {
        word: word.to_owned(),
        label: label.to_owned(),
        on: value == chosen,
    };
    all.into_iter().map(choice).collect()
}

/// The controls of the line.
pub(crate) fn body(
    (recipe, design): (&Recipe, &Design),
    around: ShopAround<'_>,
    unit: Unit,
) -> SheetBody {
    let choice = &recipe.sheet;
    let side = |mm: f64| text::side(mm, unit);
    let sheets: &[OnSheet] = around.laid.map_or(&[], |l| &l.sheets);
    let is_wide = |s: &OnSheet| {
        let room = s.sheet.stock.usable().width();
        let mut parts = s.load.sources.iter().flat_map(|o| &o.parts);
        parts.any(|p| p.size[0] > room + 1e-6)
    };
    let wide = sheets.iter().any(is_wide);
    let title = |id: i64| {
        let found = around.others.iter().find(|o| o.0 == id);
        found.map_or_else(|| format!("job {id}"), |o| called(&o.1, &o.2))
    };
    let lies = |id: i64| choice.guests.iter().any(|g| g.job == id);
    let laser = recipe.layers.material().laser.is_some();
    SheetBody {
        sheets: sheets
            .iter()
            .map(|s| {
                let printed = s.printed.as_ref();
                let faults = printed.map(|p| faults(s, p, around.machines, unit));
                let by_hand = choice.placed.iter().any(|p| p.sheet == s.load.name);
                let amiss = !s.sheet.clashes.is_empty() || !s.sheet.outside.is_empty();
                SheetRow {
                    name: s.sheet.name.clone(),
                    figures: figures(s, unit),
                    trouble: trouble(s, is_wide(s), faults.as_ref()),
                    anew: by_hand && (amiss || faults.as_ref().is_some_and(|f| f.anew)),
                    turn: faults.is_some_and(|f| f.turn),
                    leaves: s.printed.is_none() && s.sheet.leaves(),
                }
            })
            .collect(),
        copies: match choice.copies {
            Copies::Number(n) => n.to_string(),
            _ => sheets.first().map_or(1, |s| s.sheet.copies()).to_string(),
        },
        fill: match choice.copies {
            Copies::Number(_) => "number",
            Copies::Width => "width",
            Copies::Sheet => "sheet",
        },
        nested: choice.arrange == Arrange::Nested,
        gap: side(choice.gap()),
        turns: turns(choice.turns),
        grain: choice.grain,
        single: choice.single,
        weeded: recipe.print.is_none() && sheets.iter().any(|s| s.sheet.is_weeded()),
        weed_box: choice.weed_box.map(side),
        relief: choice.relief.map(side),
        panels: choice.panels.map(side),
        wide: wide && recipe.print.is_none(),
        print: print::body((recipe, design), around, unit),
        trial: choice.trial,
        trial_words: if laser {
            "A grid over power and speed"
        } else {
            "A square with a triangle"
        },
        guests: choice
            .guests
            .iter()
            .map(|g| GuestRow {
                job: g.job,
                title: title(g.job),
                copies: g.copies,
            })
            .collect(),
        others: around
            .others
            .iter()
            .filter(|o| !lies(o.0))
            .map(|o| (o.0, called(&o.1, &o.2)))
            .collect(),
        zones: choice.zones,
        lead: laser.then(|| side(choice.lead.unwrap_or(inky_core::plan::LEAD))),
        times: sheets.iter().enumerate().flat_map(times).collect(),
    }
}

fn called(title: &str, client: &str) -> String {
    match client {
        "" => title.to_owned(),
        client => format!("{title}, {client}"),
    }
}

/// Time of every layer of the nth sheet.
fn times((sheet, on): (usize, &OnSheet)) -> Vec<(usize, String, String)> {
    let Some((cutting, plan)) = on.if_planned() else {
        return Vec::new();
    };
    let layers = cutting.layers.iter().enumerate();
    let row = |(n, l): (usize, &inky_core::cutting::CutLayer)| {
        (sheet, l.name.clone(), duration(plan.seconds_of(n)))
    };
    layers.map(row).collect()
}
