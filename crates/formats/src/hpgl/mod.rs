//! HPGL of a plan: plotter units of 0.025 mm (40 to the mm, 1016 to the inch), y up, the page's lower
//! left corner at 0, 0.
//!
//! ```text
//!   IN;  SP1; VS30; FS80;  PU x,y; PD x,y,x,y,…;  …  PU; SP0;
//! ```
//!
//! `SP` names the layer, `VS` its speed in cm/s, `FS` its force in grams. Coordinates are whole numbers
//! and never negative. Curves become chords within [`TOLERANCE`], the rounding of their ends included.
//! Source: HP-GL/2 and HP RTL Reference Guide (Hewlett-Packard 5961-3526): IN, PA, PD, PU, SP, VS, FS.

mod read;

use std::fmt::Write as _;

use inky_core::cutting::Cutting;
use inky_core::material::Tool;
use inky_core::plan::{Course, Plan, PlannedPath, blade};
use kurbo::Point;

pub(crate) use read::read_until;
pub use read::{is_hpgl, read};

/// Plotter units in a mm.
pub const UNITS_PER_MM: f64 = 40.0;
/// Greatest distance of what is written from the curve, mm.
pub const TOLERANCE: f64 = 0.02;
/// Greatest error of chords. Rounding moves their ends by at most half a unit each way, 0.0177 mm across
/// the diagonal, where the chord itself errs by nothing.
const CHORDS: f64 = 0.005;
/// Pairs of coordinates in one instruction, so that a small buffer holds it.
const PAIRS: usize = 120;
/// Pens that a plotter may tell apart.
const PENS: usize = 8;

/// How the blade is led.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Blade {
    /// Whether the holder runs ahead of the line by the material's blade offset, for cutters that do not do
    /// so themselves.
    pub swivel: bool,
    /// Whether the page is turned a quarter, so that its height runs along the roll.
    pub turned: bool,
}

/// A place in plotter units.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct PlotterPoint {
    x: i64,
    y: i64,
}

/// Writes a plan as HPGL.
#[must_use]
pub fn write(cutting: &Cutting, plan: &Plan, blade: Blade) -> String {
    let strokes: Vec<(usize, Vec<Vec<Point>>)> = plan
        .steps
        .iter()
        .map(|step| (step.key.layer, strokes(cutting, step, blade.swivel)))
        .collect();
    let turned = |p: Point| match blade.turned {
        // A quarter turn against the clock: what lay at the right lies at the top.
        false => Point::new(p.x, cutting.size[1] - p.y),
        true => Point::new(p.y, p.x),
    };
    let units = |p: Point| {
        let p = turned(p);
        let unit = |v: f64| (v * UNITS_PER_MM).round() as i64;
        PlotterPoint {
            x: unit(p.x),
            y: unit(p.y),
        }
    };
    let placed: Vec<(usize, Vec<Vec<PlotterPoint>>)> = strokes
        .into_iter()
        .map(|(layer, all)| {
            let lines = all.iter().map(|s| s.iter().copied().map(units).collect());
            (layer, lines.collect())
        })
        .collect();
    // A holder that runs ahead, or a line outside the page, would be negative: all is moved by as much.
    let every = placed.iter().flat_map(|(_, s)| s).flatten();
    let (left, low) = every.fold((0, 0), |(x, y), p| (x.min(p.x), y.min(p.y)));
    let mut out = String::from("IN;\n");
    let mut layer = None;
    for (number, lines) in &placed {
        if layer != Some(*number) {
            begin_layer(&mut out, cutting, *number);
            layer = Some(*number);
        }
        for line in lines {
            put_line(&mut out, line, (left, low));
        }
    }
    out.push_str("PU;\nSP0;\n");
    out
}

/// Pen, speed and force of a layer.
fn begin_layer(out: &mut String, cutting: &Cutting, number: usize) {
    let layer = &cutting.layers[number];
    // The tool is up before its pen, speed or force changes. Writing into a string cannot fail.
    out.push_str("PU;\n");
    let _ = writeln!(out, "SP{};", number % PENS + 1);
    let (speed, _) = inky_core::plan::run(&layer.material, layer.operation);
    let _ = writeln!(out, "VS{};", ((speed / 10.0).round() as i64).max(1));
    if let (Tool::Blade, Some(blade)) = (layer.material.tool, &layer.material.blade) {
        let _ = writeln!(out, "FS{};", blade.force.round() as i64);
    }
}

fn put_line(out: &mut String, line: &[PlotterPoint], (left, low): (i64, i64)) {
    let at = |p: &PlotterPoint| (p.x - left, p.y - low);
    let Some(first) = line.first() else { return };
    let (x, y) = at(first);
    let _ = writeln!(out, "PU{x},{y};");
    let mut places: Vec<(i64, i64)> = line.iter().skip(1).map(at).collect();
    places.dedup();
    if places.is_empty() {
        places.push((x, y));
    }
    for some in places.chunks(PAIRS) {
        out.push_str("PD");
        for (n, (x, y)) in some.iter().enumerate() {
            let comma = if n > 0 { "," } else { "" };
            let _ = write!(out, "{comma}{x},{y}");
        }
        out.push_str(";\n");
    }
}

/// What is drawn of a step with the tool down.
fn strokes(cutting: &Cutting, step: &PlannedPath, swivel: bool) -> Vec<Vec<Point>> {
    let passes = step.passes.max(1) as usize;
    match &step.course {
        Course::Line(_) => {
            let mut points = step.points(CHORDS);
            let material = &cutting.layers[step.key.layer].material;
            if let (true, Tool::Blade, Some(knife)) = (swivel, material.tool, &material.blade)
                && knife.offset > 0.0
            {
                points = blade::holder(&points, knife.offset);
            }
            vec![points; passes]
        }
        Course::Rows(rows) => {
            let row = |(n, row): (usize, &inky_core::plan::hatch::Row)| {
                let mut spans: Vec<Vec<Point>> = row
                    .spans
                    .iter()
                    .map(|s| s.map(|x| Point::new(x, row.y)).to_vec())
                    .collect();
                if n % 2 == 1 {
                    spans.reverse();
                    spans.iter_mut().for_each(|s| s.reverse());
                }
                spans
            };
            let once: Vec<Vec<Point>> = rows.iter().enumerate().flat_map(row).collect();
            let all = std::iter::repeat_n(once, passes);
            all.flatten().collect()
        }
    }
}
