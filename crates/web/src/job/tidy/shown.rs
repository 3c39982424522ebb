//! The edits of the outlines in words.

use inky_core::recipe::Recipe;
use inky_core::stones::size_name;
use inky_core::tidy::{Edit, How, NodeEdit, OnPath, Side, To};
use inky_core::units::Unit;
use inky_formats::lettering;

use crate::job::rail::name_of;
use crate::text;
use crate::workshop::Outcome;

/// How the line is worked.
pub(crate) const WHY: &str =
    "Click a shape or drag a box, Shift adds; the same place again reaches what lies under it.";

/// What the Tidy line shows.
pub(crate) struct TidyBody {
    /// Inks that something can be given: number, letter, colour, name.
    pub(crate) inks: Vec<(usize, String, String, String)>,
    /// Names of the faces for lettering.
    pub(crate) faces: Vec<&'static str>,
    /// Figures that fields begin with, in the reader's unit.
    pub(crate) start: Start,
}

/// Figures that fields begin with.
pub(crate) struct Start {
    pub(crate) tolerance: String,
    pub(crate) offset: String,
    pub(crate) margin: String,
    pub(crate) near: String,
    pub(crate) cap: String,
    /// Areas under which shapes are small, and specks.
    pub(crate) small: &'static str,
    pub(crate) speck: &'static str,
}

/// The controls of the line.
pub(crate) fn body(recipe: &Recipe, outcome: &Outcome, unit: Unit) -> TidyBody {
    let inks = outcome.design.inks.iter().enumerate();
    let mut named: Vec<_> = inks
        .filter(|(_, ink)| ink.part_of.is_none() && !ink.clear)
        .collect();
    named.sort_by_key(|(_, ink)| ink.letter.is_none());
    TidyBody {
        inks: named
            .into_iter()
            .map(|(n, ink)| {
                let letter = ink.letter.clone().unwrap_or_else(|| "–".to_owned());
                (
                    n,
                    letter,
                    ink.paint.to_string(),
                    name_of(recipe, outcome, ink),
                )
            })
            .collect(),
        faces: lettering::faces().collect(),
        start: start(unit),
    }
}

/// Figures that fields begin with.
fn start(unit: Unit) -> Start {
    let len = |mm: f64, decimals| text::length(mm, unit, decimals);
    Start {
        tolerance: len(0.1, 2),
        offset: len(1.0, 1),
        margin: len(3.0, 1),
        near: len(0.1, 2),
        cap: len(8.0, 0),
        small: if unit == Unit::Mm { "2" } else { "0.003" },
        speck: if unit == Unit::Mm { "0.5" } else { "0.001" },
    }
}

/// The line's result: how many edits there are and what the last one did.
pub(crate) fn summary(edits: &[Edit], unit: Unit) -> String {
    match edits {
        [] => "as traced".to_owned(),
        [one] => within_words(&name(one, unit)),
        [.., last] => format!(
            "**{}** edits, last {}",
            edits.len(),
            within_words(&name(last, unit))
        ),
    }
}

/// A name as it stands within a line of words.
fn within_words(name: &str) -> String {
    let mut letters = name.chars();
    let first = letters.next().map(char::to_lowercase);
    first.into_iter().flatten().chain(letters).collect()
}

/// What an edit did, as a step of the history.
pub(crate) fn name(edit: &Edit, unit: Unit) -> String {
    let len = |mm: f64| format!("{} {}", text::length(mm, unit, 2), unit.symbol());
    let count = |n: usize| match n {
        1 => "1 item".to_owned(),
        n => format!("{n} items"),
    };
    let items = count(edit.items().len());
    match edit {
        Edit::NodesTogether { changes } => nodes_together(changes),
        Edit::Mend { .. } => "Mended for the cut".to_owned(),
        Edit::Inlay { items, .. } => format!("{} let in", text::some(items.len(), "shape")),
        Edit::Delete { .. } => format!("{items} deleted"),
        Edit::Duplicate { .. } => format!("{items} duplicated"),
        Edit::Group { .. } => format!("{items} grouped"),
        Edit::Ungroup { .. } => "Group taken apart".to_owned(),
        Edit::Split { .. } => format!("{items} taken apart"),
        Edit::Combine { .. } => format!("{items} combined"),
        Edit::Ink { .. } => format!("{items} in another ink"),
        Edit::Move { map, .. } => moved(&items, *map),
        Edit::Align { side, .. } => format!(
            "{items} in line {}",
            match side {
                Side::Left => "at the left",
                Side::Middle => "across the middle",
                Side::Right => "at the right",
                Side::Top => "at the top",
                Side::Centre => "along the middle",
                Side::Bottom => "at the bottom",
            }
        ),
        Edit::Distribute { .. } => format!("Gaps between {items} evened out"),
        Edit::Order { to, .. } => format!(
            "{items} {}",
            match to {
                To::Top => "on top",
                To::Up => "one up",
                To::Down => "one down",
                To::Bottom => "at the bottom",
            }
        ),
        Edit::Boolean { how, .. } => format!(
            "{items} {}",
            match how {
                How::Unite => "united",
                How::Subtract => "subtracted",
                How::Intersect => "intersected",
                How::Exclude => "excluded",
            }
        ),
        Edit::CutOut { .. } => format!("{items} cut out"),
        Edit::Negative { .. } => format!("Negative of {items}"),
        Edit::Fill { .. } => "Empty region filled".to_owned(),
        Edit::Offset { distance, .. } => format!("{items} offset by {}", len(*distance)),
        Edit::Backing { margin, .. } => format!("Backing with {}", len(*margin)),
        Edit::Nodes { change, .. } => nodes(change),
        Edit::JoinEnds { .. } => "Ends joined".to_owned(),
        Edit::Refit { tolerance, .. } => format!("{items} refitted within {}", len(*tolerance)),
        Edit::Clean { .. } => "Mended by rule".to_owned(),
        Edit::Add { name, .. } => name.clone(),
        Edit::Replace { .. } => "Lettering changed".to_owned(),
        Edit::Stones { choice, .. } => {
            let sizes: Vec<String> = choice.sizes.iter().map(|&mm| size_name(mm)).collect();
            format!("Stones {}", sizes.join(" and "))
        }
        Edit::Resize { .. } => "Resized".to_owned(),
    }
}

fn moved(items: &str, [xx, xy, yx, yy, ..]: [f64; 6]) -> String {
    let near = |a: f64, b: f64| (a - b).abs() < 1e-9;
    let turned = near(xx, yy) && near(xy, -yx);
    let done = if near(xx, 1.0) && near(yy, 1.0) && near(xy, 0.0) && near(yx, 0.0) {
        "moved"
    } else if xx * yy - xy * yx < 0.0 {
        "mirrored"
    } else if turned && near(xx.hypot(xy), 1.0) {
        "turned"
    } else {
        "scaled"
    };
    format!("{items} {done}")
}

/// The same thing done to nodes of several paths.
fn nodes_together(changes: &[OnPath]) -> String {
    let count = |on: &OnPath| match &on.change {
        NodeEdit::Move { nodes, .. }
        | NodeEdit::Delete { nodes }
        | NodeEdit::Smooth { nodes }
        | NodeEdit::Corner { nodes } => nodes.len(),
        _ => 0,
    };
    let n: usize = changes.iter().map(count).sum();
    let did = match changes.first().map(|on| &on.change) {
        Some(NodeEdit::Move { .. }) => "moved",
        Some(NodeEdit::Delete { .. }) => "deleted",
        Some(NodeEdit::Smooth { .. }) => "made smooth",
        _ => "made corners",
    };
    format!("{n} nodes {did}")
}

fn nodes(change: &NodeEdit) -> String {
    let many = |nodes: &[usize], did: &str| match nodes.len() {
        1 => format!("Node {did}"),
        n => format!("{n} nodes {did}"),
    };
    match change {
        NodeEdit::Insert { .. } => "Node inserted".to_owned(),
        NodeEdit::Move { nodes, .. } => many(nodes, "moved"),
        NodeEdit::Handle { .. } => "Handle moved".to_owned(),
        NodeEdit::Delete { nodes } => many(nodes, "deleted"),
        NodeEdit::Smooth { nodes } => many(nodes, "made smooth"),
        NodeEdit::Corner { nodes } if nodes.len() == 1 => "Node made a corner".to_owned(),
        NodeEdit::Corner { nodes } => many(nodes, "made corners"),
        NodeEdit::Straighten { .. } => "Segment straightened".to_owned(),
        NodeEdit::ToArc { .. } => "Segment made an arc".to_owned(),
        NodeEdit::DeleteSegment { .. } => "Segment deleted".to_owned(),
        NodeEdit::Break { .. } => "Path opened".to_owned(),
        NodeEdit::Close => "Path closed".to_owned(),
        NodeEdit::Reverse => "Path reversed".to_owned(),
        NodeEdit::MakeSmooth => "Path made smooth".to_owned(),
    }
}
