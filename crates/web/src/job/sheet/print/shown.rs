//! The controls of a page to be printed, and what it comes to.

use inky_core::print::{Mark, MarkCount, PAPERS, PrintChoice};
use inky_core::recipe::Recipe;
use inky_core::shapes::Design;
use inky_core::units::Unit;

use super::look::{self, LookShown};
use crate::job::controls::ShopAround;
use crate::job::layers::shown::Choice;
use crate::machines::kept::Kind;
use crate::text;
use crate::workshop::PrintedSheet;

/// The controls; `on` is `None` where the artwork is not printed.
pub(crate) struct PrintBody {
    pub(crate) on: Option<PrintShown>,
}

/// What is chosen, in words.
pub(crate) struct PrintShown {
    pub(crate) papers: Vec<Choice>,
    pub(crate) sides: [String; 2],
    pub(crate) lying: bool,
    pub(crate) roll: bool,
    /// Numbers and names of the shop's printers, whose margins can be taken.
    pub(crate) printers: Vec<(i64, String)>,
    /// Left, top, right, bottom, each with its name and label.
    pub(crate) margins: [(&'static str, &'static str, String); 4],
    pub(crate) four: bool,
    pub(crate) mark_size: String,
    pub(crate) mark_line: String,
    /// Each mark with its corner and its middle on the page.
    pub(crate) places: Vec<(usize, &'static str, String)>,
    /// Whether one was moved by hand.
    pub(crate) moved: bool,
    pub(crate) clear: String,
    pub(crate) pulled: bool,
    /// Whether it has a code, and what that says where a page is laid out.
    pub(crate) code: bool,
    pub(crate) said: String,
    pub(crate) look: LookShown,
    pub(crate) border: String,
    pub(crate) bleed: String,
    pub(crate) colour: Option<String>,
    /// What the page comes to; empty where nothing lies on it.
    pub(crate) told: String,
    /// Names and labels of the marks in the order in which they are found.
    pub(crate) marks: Vec<(&'static str, &'static str)>,
}

/// Marks in the order in which they are found.
const MARKS: [(&str, &str); 4] = [
    ("lower_left", "lower left"),
    ("lower_right", "lower right"),
    ("upper_right", "upper right"),
    ("upper_left", "upper left"),
];

/// Names and labels of three marks or of four.
pub(crate) fn mark_names(four: bool) -> Vec<(&'static str, &'static str)> {
    let marks = MARKS.into_iter();
    marks
        .filter(|(name, _)| four || *name != "upper_right")
        .collect()
}

pub(crate) fn body(
    (recipe, design): (&Recipe, &Design),
    around: ShopAround<'_>,
    unit: Unit,
) -> PrintBody {
    let sheets = around.laid.map_or(&[][..], |l| &l.sheets);
    let printed = sheets.iter().find_map(|s| s.printed.as_ref());
    let shown = |print: &PrintChoice| shown(print, (design, around), printed, unit);
    PrintBody {
        on: recipe.print.as_ref().map(shown),
    }
}

fn shown(
    print: &PrintChoice,
    (design, around): (&Design, ShopAround<'_>),
    printed: Option<&PrintedSheet>,
    unit: Unit,
) -> PrintShown {
    let side = |mm: f64| text::side(mm, unit);
    let [w, h] = match printed.filter(|_| print.roll) {
        Some(printed) => printed.page.choice.page,
        None => print.page,
    };
    let lying = !print.roll && w > h;
    let upright = if lying { [h, w] } else { [w, h] };
    let same = |sides: &[f64; 2]| (0..2).all(|k| (sides[k] - upright[k]).abs() < 0.05);
    let mut papers: Vec<Choice> = PAPERS
        .iter()
        .map(|(name, sides)| Choice {
            word: (*name).to_owned(),
            label: (*name).to_owned(),
            on: !print.roll && same(sides),
        })
        .collect();
    papers.push(Choice {
        word: "roll".to_owned(),
        label: "a roll".to_owned(),
        on: print.roll,
    });
    if papers.iter().all(|p| !p.on) {
        papers.push(Choice {
            word: String::new(),
            label: "another size".to_owned(),
            on: true,
        });
    }
    let of_shop = around.machines.iter();
    let printers = of_shop.filter(|m| m.machine.kind == Kind::Printer);
    let printers = printers.map(|m| (m.id, m.machine.name.clone())).collect();
    let [left, top, right, bottom] = print.margins.map(side);
    let four = print.marks.count == MarkCount::Four;
    PrintShown {
        papers,
        sides: [side(w), side(h)],
        lying,
        roll: print.roll,
        printers,
        margins: [
            ("left", "Left", left),
            ("top", "Top", top),
            ("right", "Right", right),
            ("bottom", "Bottom", bottom),
        ],
        four,
        mark_size: side(print.marks.size),
        mark_line: side(print.marks.line),
        places: places(print, printed, unit),
        moved: print.moved.iter().any(Option::is_some),
        clear: side(print.marks.clear),
        pulled: print.pulled,
        code: print.code,
        said: printed
            .and_then(|p| p.page.code.as_ref())
            .map_or_else(String::new, |c| c.text.clone()),
        look: look::shown(print, (design, around.others), unit),
        border: side(print.border),
        bleed: side(print.bleed),
        colour: print.border_colour.map(|c| c.to_string()),
        told: printed.map_or_else(String::new, |p| told(p, print, unit)),
        marks: mark_names(four),
    }
}

/// Where marks lie on the page, from its upper left corner.
fn places(
    print: &PrintChoice,
    printed: Option<&PrintedSheet>,
    unit: Unit,
) -> Vec<(usize, &'static str, String)> {
    let marks = printed.map_or_else(|| print.marks(), |p| p.page.marks.clone());
    let corners = print.marks.count.corners();
    let told = |(&corner, mark): (&usize, &Mark)| {
        let trimmed = |text: String| text.trim_end_matches('0').trim_end_matches('.').to_owned();
        let [x, y] = [mark.at.x, mark.at.y].map(|v| trimmed(text::length(v, unit, 1)));
        (corner, MARKS[corner].1, format!("{x}, {y}"))
    };
    corners.iter().zip(&marks).map(told).collect()
}

/// How far apart the marks lie, and what pulling them up saves.
fn told(printed: &PrintedSheet, asked: &PrintChoice, unit: Unit) -> String {
    let page = &printed.page;
    let reach = page.reach();
    let length = |mm: f64| text::told_length(mm, unit, 1);
    let mut said = vec![format!(
        "The marks lie {} and {} apart, from middle to middle.",
        length(reach.width()),
        length(reach.height())
    )];
    if page.saved > 0.05 {
        let how = if asked.pulled { "Pulled up" } else { "Moved" };
        said.push(format!(
            "{how} they save {} of the page.",
            length(page.saved)
        ));
    }
    if page.choice.bleed < asked.bleed {
        said.push(format!(
            "The pictures lie so near that their bleed is {}.",
            length(page.choice.bleed)
        ));
    }
    said.join(" ")
}
