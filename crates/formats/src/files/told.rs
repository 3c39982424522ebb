//! What a file will hold, in words, and what its format cannot carry.

use inky_core::cutting::Cutting;
use inky_core::material::{Operation, Tool};
use inky_core::segment::Segment;

use super::{Format, Options};
use crate::dxf;
use crate::svg::{Sized, Style};

/// A file in words.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Told {
    /// Width and height at which it opens, mm.
    pub size: [f64; 2],
    /// What is in it.
    pub holds: String,
    /// What is left out or changed.
    pub warnings: Vec<String>,
}

/// Layers that are told by name.
const NAMED: usize = 4;
/// Pens that a plotter may tell apart.
const PENS: usize = 8;

/// Tells of the file of a page, which is as it is wanted already.
#[must_use]
pub fn told(cutting: &Cutting, format: Format, options: &Options) -> Told {
    let named = cutting.layers.iter().filter(|l| !l.is_empty());
    let named: Vec<&str> = named.map(|l| l.name.as_str()).collect();
    let shapes: usize = cutting.layers.iter().map(|l| l.shapes.len()).sum();
    let lines: usize = cutting.layers.iter().map(|l| l.lines.len()).sum();
    let count = |n: usize, word: &str| format!("{n} {word}{}", if n == 1 { "" } else { "s" });
    let mut layers = named
        .iter()
        .take(NAMED)
        .copied()
        .collect::<Vec<_>>()
        .join(", ");
    if named.len() > NAMED {
        layers.push_str(&format!(" and {} more layers", named.len() - NAMED));
    }
    let mut all = Vec::new();
    if shapes > 0 {
        all.push(count(shapes, "shape"));
    }
    if lines > 0 {
        all.push(count(lines, "line"));
    }
    let how = match (format, options.style) {
        (Format::Svg, Style::Filled) => "filled with their colours",
        (Format::Svg, Style::CutLines) => "as hairlines without fill",
        (Format::Dxf, _) => match options.dxf {
            dxf::Version::Splines => "as closed polylines and splines (AC1015)",
            dxf::Version::Arcs => "as closed polylines with arcs (AC1015)",
            dxf::Version::R12 => "as closed polylines with arcs (R12)",
        },
        (Format::Hpgl, _) => "in cutting order, in plotter units of 0.025 mm",
        (Format::Gcode, _) => "in cutting order, as lines and arcs in mm",
        (Format::Pdf, _) => "as hairlines in a colour of their own",
        (Format::Png, _) => "as a picture",
    };
    Told {
        size: match cutting.bounds() {
            // These know no page: they open as large as what is drawn.
            Some(b) if format.is_planned() => [b.width(), b.height()],
            _ => cutting.size,
        },
        holds: format!("{layers}: {}, {how}", all.join(", ")),
        warnings: warnings(cutting, format, options),
    }
}

fn warnings(cutting: &Cutting, format: Format, options: &Options) -> Vec<String> {
    let mut out = Vec::new();
    let drawn = || cutting.layers.iter().filter(|l| !l.is_empty());
    let beams = drawn().any(|l| l.material.tool == Tool::Laser);
    let knives = drawn().any(|l| l.material.tool == Tool::Blade);
    let engraved = drawn().any(|l| l.operation == Operation::Engrave && !l.shapes.is_empty());
    let curved = drawn()
        .flat_map(|l| l.rings())
        .flat_map(inky_core::shapes::Ring::segments)
        .any(|s| matches!(s, Segment::Cubic(_)));
    match format {
        Format::Svg => {
            if let Sized::PerInch(units) = options.sized {
                let times = 96.0 / units;
                if (times - 1.0).abs() > 1e-9 {
                    out.push(format!(
                        "For software that takes {units:.0} units for an inch; where 96 are taken it opens {:.0} % as large.",
                        100.0 / times
                    ));
                }
            }
        }
        Format::Dxf => {
            if curved && options.dxf != dxf::Version::Splines {
                out.push("Curves become arcs within 0.005 mm.".to_owned());
            }
            if engraved {
                out.push(
                    "Engraved areas are outlines: a DXF holds no filled areas here.".to_owned(),
                );
            }
            out.push("Speed, force and power are not in it.".to_owned());
        }
        Format::Hpgl => {
            if curved {
                out.push("Curves become straight steps within 0.02 mm.".to_owned());
            }
            if beams {
                out.push("HPGL has no word for a laser's power; set it at the machine.".to_owned());
            }
            if drawn().count() > PENS {
                out.push(format!(
                    "Layers beyond the {PENS}th use the first pens again."
                ));
            }
        }
        Format::Gcode => {
            if knives {
                out.push(
                    "G-code has no word for a blade's force; set it at the machine.".to_owned(),
                );
            }
        }
        Format::Pdf => {
            if engraved {
                out.push("Engraved areas are outlines.".to_owned());
            }
            out.push("Speed, force and power are not in it.".to_owned());
        }
        Format::Png => out.push("A picture has no cut lines; it is for looking at.".to_owned()),
    }
    out
}
