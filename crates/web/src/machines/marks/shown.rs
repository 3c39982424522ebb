//! Marks of a page that lies on a machine, in words and figures.

use inky_core::correct::Correction;
use inky_core::units::Unit;

use super::Marks;
use crate::job::sheet::print::shown::mark_names;
use crate::machines::kept::{Kind, Listed, Machine};
use crate::machines::simulated::One;
use crate::machines::state::{Phase, Run};
use crate::text;

/// The marks of the stop that a run is at.
pub(crate) struct MarksShown {
    pub(crate) rows: Vec<Row>,
    /// What became of the page; empty while not all are found.
    pub(crate) told: String,
    /// Why it cannot be cut there.
    pub(crate) wrong: String,
    /// Whether the machine can be asked to look.
    pub(crate) eye: bool,
    /// How they were found.
    pub(crate) by: String,
    /// Through the middles of the marks on the machine's bed: left, low, width, height.
    pub(crate) bed: [String; 4],
    /// Steps of the head, in the reader's unit.
    pub(crate) steps: &'static [&'static str],
    /// What the keys move, as the drawing lies: left, right, up, down.
    pub(crate) ways: [(&'static str, &'static str, [i8; 2]); 4],
}

/// A mark.
pub(crate) struct Row {
    /// Its number, from nought.
    pub(crate) n: usize,
    pub(crate) name: &'static str,
    pub(crate) at: String,
}

/// The marks of a run that is about to begin with a printed page.
pub(crate) fn marks(run: &Run, machine: &Machine, unit: Unit) -> Option<MarksShown> {
    let stop = run.stop().filter(|_| run.state.phase == Phase::Ready)?;
    let marks = stop.marks.as_ref()?;
    let names = mark_names(marks.meant.len() == 4);
    let place = |mm: f64| text::length(mm, unit, 2);
    let rows = names.into_iter().zip(&marks.found).enumerate();
    let rows = rows.map(|(n, ((_, name), found))| Row {
        n,
        name,
        at: found.map_or_else(String::new, |p| format!("{}, {}", place(p.x), place(p.y))),
    });
    let (told, wrong) = match marks.way() {
        None => (String::new(), String::new()),
        Some(Ok(way)) => (told(&way, marks, unit), String::new()),
        Some(Err(why)) => (String::new(), why.to_string()),
    };
    Some(MarksShown {
        rows: rows.collect(),
        told,
        wrong,
        eye: machine.kind == Kind::Cutter && !machine.mute,
        by: marks.by.clone(),
        bed: machine.bed().map(|mm| text::side(mm, unit)),
        steps: match unit {
            Unit::Mm => &["0.1", "1", "10"],
            Unit::In => &["0.005", "0.05", "0.5"],
        },
        ways: match machine.kind {
            // A roll is drawn with its width to the right.
            Kind::Cutter => [
                ("left", "arrow-left", [0, -1]),
                ("right", "arrow-right", [0, 1]),
                ("up", "arrow-up", [-1, 0]),
                ("down", "arrow-down", [1, 0]),
            ],
            Kind::Laser | Kind::Printer => [
                ("left", "arrow-left", [-1, 0]),
                ("right", "arrow-right", [1, 0]),
                ("up", "arrow-up", [0, 1]),
                ("down", "arrow-down", [0, -1]),
            ],
        },
    })
}

/// What became of a page, in words.
fn told(c: &Correction, marks: &Marks, unit: Unit) -> String {
    let [least, most] = c.stretch.map(|s| format!("{:+.2}", (s - 1.0) * 100.0));
    // What the cut would lie beside without it, at the mark that is farthest off.
    let pairs = marks.meant.iter().zip(&marks.found);
    let beside = pairs
        .filter_map(|(m, f)| f.map(|f| f.distance(*m)))
        .fold(0.0, f64::max);
    let agree = match marks.meant.len() {
        4 => format!(" The marks agree within {}.", unit.length(c.residual, 2)),
        _ => String::new(),
    };
    format!(
        "The page lies up to {} off, turned by {:.2}°, stretched by {least} to {most} %.{agree}",
        unit.length(beside, 1),
        c.turned
    )
}

/// The printed sheet on a simulated cutter, as the bench draws it.
pub(crate) struct Lying {
    /// Address of its picture.
    pub(crate) picture: String,
    pub(crate) size: [f64; 2],
    /// From the sheet to the drawing.
    pub(crate) matrix: String,
}

/// The printed sheet that lies on a machine, where it is one that ships with the program.
pub(crate) fn lying(one: &One, listed: &Listed) -> Option<Lying> {
    let laid = one.laid()?;
    let to_drawing = kurbo::Affine::new([0.0, 1.0, 1.0, 0.0, 0.0, 0.0]) * laid.map;
    let [a, b, c, d, e, f] = to_drawing.as_coeffs();
    Some(Lying {
        picture: format!("/machines/{}/lying.png?{:x}", listed.id, name(&laid)),
        size: laid.sheet.size,
        matrix: format!("matrix({a:.6} {b:.6} {c:.6} {d:.6} {e:.4} {f:.4})"),
    })
}

/// Tells one laid sheet from another.
fn name(laid: &inky_devices::cutter::eye::Laid) -> u64 {
    let at = laid.map.as_coeffs();
    at.iter()
        .fold(0, |sum: u64, v| sum.rotate_left(9) ^ v.to_bits())
}
