//! What of a page cannot be printed or cut, in words, with what helps.

use inky_core::print::{Fault, PrintChoice};
use inky_core::units::Unit;

use super::shown::mark_names;
use crate::machines::kept::{Kind, Listed, Machine};
use crate::machines::stops::beyond;
use crate::text;
use crate::workshop::{OnSheet, PrintedSheet};

/// What is wrong with a page.
pub(crate) struct Faults {
    /// Sentences, the gravest first.
    pub(crate) said: Vec<String>,
    /// Whether it helps to lay it as the program does.
    pub(crate) anew: bool,
    /// Whether the page would be reached if it lay the other way.
    pub(crate) turn: bool,
}

/// The faults of a page that was laid out, as far as the shop's machines tell them.
pub(crate) fn faults(
    on: &OnSheet,
    printed: &PrintedSheet,
    machines: &[Listed],
    unit: Unit,
) -> Faults {
    let marks = mark_names(printed.page.marks.len() == 4);
    let said = printed.faults.chunk_by(|a, b| a.0 == b.0).map(|of| {
        let (fault, pictures) = (of[0].0, text::some(of.len(), "picture"));
        let [lies, reaches] = match of.len() {
            1 => ["lies", "reaches"],
            _ => ["lie", "reach"],
        };
        match fault {
            Fault::Mark(n) => {
                let mark = marks.get(n).map_or("side", |m| m.1);
                format!("{pictures} {lies} in the ground of the mark at the {mark}: drag one of them away.")
            }
            Fault::Code => format!("{pictures} {lies} over the code: drag it away, or leave the code out."),
            Fault::Margin => format!("{pictures} {reaches} beyond what is printed on: drag it inwards, or make the margins smaller."),
            Fault::Behind => format!("{pictures} {reaches} left of the first mark or below it, where a cutter that counts from there does not go: drag it inwards."),
        }
    });
    let mut said: Vec<String> = said.collect();
    let anew = !said.is_empty();
    let beside = not_reached(on, machines);
    if let Some((cutter, [wide, long, across, along])) = beside {
        let told = |mm: f64| unit.length(mm, 0);
        said.push(format!(
            "The cut needs {} × {}, and {} reaches {} × {}: turn the page, or take a smaller one.",
            told(wide),
            told(long),
            cutter.name,
            told(across),
            told(along)
        ));
    }
    Faults {
        said,
        anew,
        turn: !printed.page.choice.roll
            && beside.is_some_and(|(_, needs)| turned_fits(&printed.page.choice, needs)),
    }
}

/// The cutter that comes nearest where none of the shop's reaches all of a page's cut: what that needs across and along,
/// and what it reaches.
fn not_reached<'a>(on: &OnSheet, machines: &'a [Listed]) -> Option<(&'a Machine, [f64; 4])> {
    let tool = on.sheet.material.tool;
    let fit = |m: &&Machine| m.kind != Kind::Printer && m.kind.holds(tool);
    let beyond: Option<Vec<(&Machine, [f64; 4])>> = machines
        .iter()
        .map(|listed| &listed.machine)
        .filter(fit)
        .map(|m| beyond(on, m).map(|needs| (m, needs)))
        .collect();
    let missing = |[wide, long, across, along]: [f64; 4]| (wide - across).max(long - along);
    beyond?
        .into_iter()
        .min_by(|a, b| missing(a.1).total_cmp(&missing(b.1)))
}

/// Whether the whole page, turned, lies within reach.
fn turned_fits(print: &PrintChoice, [_, _, across, along]: [f64; 4]) -> bool {
    print.page[1] <= across && print.page[0] <= along
}
