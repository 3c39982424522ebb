//! `inky plan`: order, length and time of a file. What is written for a machine keeps its own order.

use std::io::Write;

use inky_core::cutting::Cutting;
use inky_core::plan::motion::Motion;
use inky_core::plan::{self, PlanChoice};
use inky_core::segment::Segment;
use inky_formats::toolpath::Toolpath;
use inky_formats::vector::VectorError;
use inky_formats::{gcode, hpgl};
use kurbo::Point;
use serde::Serialize;

use crate::args::PlanArgs;
use crate::piece::{self, Piece, PieceFailed};
use crate::say;

/// Why nothing was planned.
#[derive(Debug, thiserror::Error)]
pub(crate) enum PlanFailed {
    #[error(transparent)]
    Piece(#[from] PieceFailed),
    #[error("the plan could not be written: {0}")]
    Json(#[from] serde_json::Error),
    #[error("cannot write to standard output: {0}")]
    Print(std::io::Error),
}

#[derive(Serialize)]
struct Line {
    layer: String,
    operation: &'static str,
    at_mm: [f64; 2],
    length_mm: f64,
}

#[derive(Serialize)]
struct Report {
    paths: usize,
    cut_mm: f64,
    travel_mm: f64,
    seconds: f64,
    order: Vec<Line>,
}

/// Points along a line err by at most this when its time is taken, mm.
const TOLERANCE: f64 = 0.02;

pub(crate) fn run(args: &PlanArgs) -> Result<(), PlanFailed> {
    let material = piece::material(args.material.as_deref(), args.materials.as_deref())?;
    let bytes = piece::read(&args.input)?;
    let broken = |source: VectorError| PieceFailed::Vector {
        path: args.input.clone(),
        source,
    };
    let path = if hpgl::is_hpgl(&bytes) {
        Some(hpgl::read(&bytes).map_err(broken)?)
    } else if gcode::is_gcode(&bytes) {
        Some(gcode::read_as(&bytes, args.read.unit).map_err(broken)?)
    } else {
        None
    };
    let report = match path {
        Some(path) => {
            if let Some(unit) = path.taken_for {
                say::note(format_args!(
                    "the file does not say its unit; its figures were taken as {unit} (--unit sets it)"
                ));
            }
            piece::note_left_out(&path.report());
            followed(&path, &material)
        }
        None => {
            let piece = Piece::of(&bytes, &args.input, &args.read, material)?;
            say::long("planning", || planned(&piece.cutting()))
        }
    };
    let text = if args.json {
        serde_json::to_string_pretty(&report)?
    } else {
        told(&report)
    };
    writeln!(std::io::stdout(), "{text}").map_err(PlanFailed::Print)
}

/// Our own plan of a page.
fn planned(cutting: &Cutting) -> Report {
    let plan = plan::plan(cutting, &PlanChoice::default());
    let line = |step: &plan::PlannedPath| Line {
        layer: cutting.layers[step.key.layer].name.clone(),
        operation: step.operation.word(),
        at_mm: [step.start().x, step.start().y],
        length_mm: step.length,
    };
    Report {
        paths: plan.steps.len(),
        cut_mm: plan.length(),
        travel_mm: plan.travel(),
        seconds: plan.seconds(),
        order: plan.steps.iter().map(line).collect(),
    }
}

/// The order of a machine's file, from its lower left corner and back to it; y down from its upper edge.
fn followed(path: &Toolpath, material: &inky_core::material::Material) -> Report {
    let motion = Motion::of(material.tool);
    let (usual, _) = plan::run(material, material.operation);
    let all = path.runs.iter().flat_map(|r| &r.segments);
    let top = all.map(|s| s.bounds().y1).fold(0.0, f64::max);
    let mut at = Point::ORIGIN;
    let mut report = Report {
        paths: path.runs.len(),
        cut_mm: 0.0,
        travel_mm: 0.0,
        seconds: 0.0,
        order: Vec::new(),
    };
    for run in &path.runs {
        let mut points: Vec<Point> = run
            .segments
            .first()
            .map(Segment::start)
            .into_iter()
            .collect();
        for segment in &run.segments {
            segment.flatten(TOLERANCE, &mut points);
        }
        let (Some(&from), Some(&to)) = (points.first(), points.last()) else {
            continue;
        };
        let way = at.distance(from);
        let length: f64 = run.segments.iter().map(Segment::length).sum();
        let times = motion.times(&points, run.speed.filter(|s| *s > 0.0).unwrap_or(usual));
        report.travel_mm += way;
        report.cut_mm += length;
        report.seconds += motion.straight(way, motion.travel) + motion.lift;
        report.seconds += times.last().copied().unwrap_or(0.0);
        let name = path.names.get(&run.layer).cloned();
        report.order.push(Line {
            layer: name.unwrap_or_else(|| format!("pen {}", run.layer + 1)),
            operation: material.operation.word(),
            at_mm: [from.x, top - from.y],
            length_mm: length,
        });
        at = to;
    }
    let back = at.distance(Point::ORIGIN);
    report.travel_mm += back;
    report.seconds += motion.straight(back, motion.travel);
    report
}

fn told(report: &Report) -> String {
    let mut lines = vec![format!(
        "{} paths, {:.2} m to cut, {:.2} m of travel, {}",
        report.paths,
        report.cut_mm / 1000.0,
        report.travel_mm / 1000.0,
        duration(report.seconds)
    )];
    for (n, line) in report.order.iter().enumerate() {
        lines.push(format!(
            "{:4} {}, {} at {:.1}, {:.1} mm, {:.1} mm",
            n + 1,
            line.layer,
            line.operation,
            line.at_mm[0],
            line.at_mm[1],
            line.length_mm
        ));
    }
    lines.join("\n")
}

fn duration(seconds: f64) -> String {
    let whole = seconds.round() as u64;
    match whole / 60 {
        0 => format!("{seconds:.1} s"),
        minutes => format!("{minutes} min {} s", whole % 60),
    }
}
