//! `inky check`: whether a vector file can be cut of a material, and what is in the way.

use std::io::Write;
use std::path::{Path, PathBuf};

use inky_core::assembly::{self, Built, build};
use inky_core::check::remedy::{Bench, cure};
use inky_core::check::{self, Finding, Kind, Remedy, Weeding, weeding};
use inky_core::cutting::Cutting;
use inky_core::layers::LayerChoice;
use inky_core::material::Material;
use inky_core::units::Unit;
use inky_formats::svg;
use inky_formats::vector::VectorError;
use serde::Serialize;

use crate::args::CheckArgs;
use crate::piece::{self, Piece, PieceFailed};
use crate::save::{SaveFailed, Target, save};
use crate::{batch, say};

/// Why a file was not checked.
#[derive(Debug, thiserror::Error)]
pub(crate) enum CheckFailed {
    #[error(transparent)]
    Piece(#[from] PieceFailed),
    #[error("--fix writes SVG; give a name that ends in .svg")]
    Ending,
    #[error("there is nothing left to write to {}", .0.display())]
    Nothing(PathBuf),
    #[error(transparent)]
    Save(#[from] SaveFailed),
    #[error("cannot write to standard output: {0}")]
    Print(std::io::Error),
    #[error("the findings could not be written: {0}")]
    Json(#[from] serde_json::Error),
}

#[derive(Serialize)]
struct Line {
    kind: &'static str,
    severity: &'static str,
    layer: Option<String>,
    at_mm: [f64; 2],
    value: f64,
    limit: f64,
    unit: &'static str,
    text: String,
}

/// What was found in one file.
#[derive(Serialize)]
struct Report {
    /// Which file, where there are several.
    #[serde(skip_serializing_if = "Option::is_none")]
    file: Option<String>,
    ok: bool,
    #[serde(skip_serializing_if = "Option::is_none")]
    error: Option<String>,
    material: String,
    size_mm: [f64; 2],
    findings: Vec<Line>,
}

/// How often remedies are tried, since one may bring to light another.
const ROUNDS: usize = 4;

/// Checks all files. JSON is one object, or of several files a list of them, also where one cannot
/// be read.
pub(crate) fn run(args: &CheckArgs) -> Result<(), String> {
    let several = args.inputs.len() > 1;
    if several && args.fix.is_some() {
        return Err("--fix writes one file; check one at a time".to_owned());
    }
    let ends_right = |p: &PathBuf| p.extension().is_some_and(|e| e.eq_ignore_ascii_case("svg"));
    if args.fix.as_ref().is_some_and(|p| !ends_right(p)) {
        return Err(CheckFailed::Ending.to_string());
    }
    let mut reports = Vec::new();
    let mut failed = batch::each(&args.inputs, |_, input| -> Result<String, CheckFailed> {
        let mut report = |mut report: Report| {
            report.file = several.then(|| input.display().to_string());
            reports.push(report);
        };
        match one(args, input) {
            Ok((found, lines)) => {
                let text = if several {
                    format!("{}: {}", input.display(), in_short(&found))
                } else {
                    lines.join("\n")
                };
                report(found);
                if !args.json {
                    print(&text)?;
                }
                Ok(String::new())
            }
            Err(why) => {
                report(Report {
                    file: None,
                    ok: false,
                    error: Some(why.to_string()),
                    material: args.material.clone().unwrap_or_default(),
                    size_mm: [0.0, 0.0],
                    findings: Vec::new(),
                });
                Err(why)
            }
        }
    });
    if args.json {
        let text = match &reports[..] {
            [one] if !several => serde_json::to_string_pretty(one),
            all => serde_json::to_string_pretty(all),
        };
        let printed = text
            .map_err(CheckFailed::Json)
            .and_then(|text| print(&text));
        failed = failed.and(printed.map_err(|e| e.to_string()));
    }
    failed
}

/// What is found in one file, and that in lines; mended on wish.
fn one(args: &CheckArgs, input: &Path) -> Result<(Report, Vec<String>), CheckFailed> {
    let target = Target::new(args.inputs.iter().chain(&args.materials), args.force);
    if let Some(path) = &args.fix {
        target.check(path)?;
    }
    let material = piece::material(args.material.as_deref(), args.materials.as_deref())?;
    let mut piece = match Piece::as_drawn(input, &args.read, material.clone()) {
        Err(PieceFailed::Vector {
            source: source @ VectorError::Empty(_),
            ..
        }) => return Ok(nothing_in_it(&source, &material)),
        other => other?,
    };
    let checking = format_args!("checking {}", input.display());
    let (built, found) = say::long(checking, || piece.checked());
    let told = told(&piece, (&built, &found));
    if let Some(path) = &args.fix {
        mend(&mut piece, input, path, found.len())?;
    }
    Ok(told)
}

/// Mends what can be mended and writes the result.
fn mend(piece: &mut Piece, input: &Path, path: &Path, found: usize) -> Result<(), CheckFailed> {
    let mending = format_args!("mending {}", input.display());
    let done = say::long(mending, || fix(piece));
    let (built, left) = piece.checked();
    // A stencil's file goes on holding what is cut out.
    let cut = if piece.choice.negative() {
        let held = assembly::with_bridges(&piece.design(), &piece.choice);
        Cutting::of(&held, &build(&held, &piece.choice.as_designed()))
    } else {
        Cutting::of(&piece.design(), &built)
    };
    if cut.is_empty() {
        return Err(CheckFailed::Nothing(path.to_owned()));
    }
    let title = batch::title(input);
    let text = svg::write(&cut, &title, svg::Style::Filled, svg::Sized::default());
    save(path, text.as_bytes())?;
    say::done(format_args!(
        "{}: {found} found, {} left; written to {}",
        some(done, "remedy").replace("remedys", "remedies"),
        left.len(),
        path.display()
    ));
    Ok(())
}

/// Applies the first remedy of every kind that has one; how many were applied.
fn fix(piece: &mut Piece) -> usize {
    let mut done = 0;
    for _ in 0..ROUNDS {
        let mut changed = false;
        for kind in Kind::all() {
            let (built, found) = piece.checked();
            let alike: Vec<&Finding> = found.iter().filter(|f| f.kind == kind).collect();
            let Some(&remedy) = kind.remedies().first().filter(|_| !alike.is_empty()) else {
                continue;
            };
            // The finished size is what the file says.
            if remedy == Remedy::FitStock {
                continue;
            }
            let bench = Bench {
                drawing: &piece.drawing,
                built: &built,
                choice: &piece.choice,
            };
            let Ok(cured) = cure(bench, &alike, remedy) else {
                continue;
            };
            for edit in &cured.edits {
                if let Ok(after) = piece.drawing.after(edit) {
                    piece.drawing = after.drawing;
                    changed = true;
                }
            }
            if let Some(layers) = cured.layers {
                piece.choice = layers;
                changed = true;
            }
            done += usize::from(changed);
        }
        if !changed {
            break;
        }
    }
    done
}

fn line(finding: &Finding, built: &Built) -> Line {
    Line {
        kind: finding.kind.slug(),
        severity: finding.severity().word(),
        layer: finding
            .layer
            .and_then(|n| built.layers.get(n))
            .map(|l| format!("{} {}", l.letter, l.colour)),
        at_mm: [finding.at.x, finding.at.y],
        value: finding.value,
        limit: finding.limit,
        unit: finding.measure.symbol(),
        text: finding.text(Unit::Mm),
    }
}

fn told(piece: &Piece, (built, found): (&Built, &[Finding])) -> (Report, Vec<String>) {
    let size = piece.page.size;
    let material = piece.choice.material().name;
    let mut lines = vec![format!(
        "{:.1} × {:.1} mm, {}, of {material}",
        size.width.get(),
        size.height.get(),
        some(built.layers.len(), "layer")
    )];
    if found.is_empty() {
        lines.push("nothing in the way".to_owned());
    }
    for f in found {
        let told = line(f, built);
        let layer = told.layer.map_or_else(String::new, |l| format!(" {l}"));
        lines.push(format!(
            "{:4} {}{layer} at {:.1}, {:.1} mm",
            told.severity, told.text, f.at.x, f.at.y
        ));
    }
    lines.push(weeded(&weeding(built)));
    let report = Report {
        file: None,
        ok: check::ok(found),
        error: None,
        material,
        size_mm: [size.width.get(), size.height.get()],
        findings: found.iter().map(|f| line(f, built)).collect(),
    };
    (report, lines)
}

/// A file's findings in one line.
fn in_short(report: &Report) -> String {
    if report.findings.is_empty() {
        return "nothing in the way".to_owned();
    }
    let of = |severity: &str| {
        let all = report.findings.iter().filter(|f| f.severity == severity);
        all.map(|f| f.kind).collect::<Vec<_>>()
    };
    let told = ["stop", "warn", "note"].map(|severity| (severity, of(severity)));
    let told = told.into_iter().filter(|(_, kinds)| !kinds.is_empty());
    let told = told.map(|(severity, mut kinds)| {
        let count = kinds.len();
        kinds.dedup();
        format!("{count} {severity} ({})", kinds.join(", "))
    });
    told.collect::<Vec<_>>().join(", ")
}

pub(crate) fn some(n: usize, one: &str) -> String {
    format!("{n} {one}{}", if n == 1 { "" } else { "s" })
}

fn weeded(w: &Weeding) -> String {
    let small = match w.small.len() {
        0 => String::new(),
        n => format!(", {n} under {:.1} mm", w.small_under),
    };
    format!(
        "weeding: {} ({}, {}{small}, {:.2} m of line)",
        w.word,
        some(w.parts, "part"),
        some(w.holes, "hole"),
        w.length / 1000.0
    )
}

/// A file without outlines: a picture alone, or nothing that can be cut.
fn nothing_in_it(why: &VectorError, material: &Material) -> (Report, Vec<String>) {
    let (kind, source) = if why.only_a_picture() {
        let words = "the file holds a picture and no outline";
        (Kind::BitmapOnly, words.to_owned())
    } else {
        (Kind::NothingToCut, why.to_string())
    };
    let finding = Finding {
        kind,
        layer: None,
        at: kurbo::Point::ORIGIN,
        value: 0.0,
        limit: 0.0,
        measure: check::Measure::Count,
        source,
        touching: Vec::new(),
        extent: Vec::new(),
    };
    let built = build(&piece::page([1.0, 1.0]), &LayerChoice::default());
    let told = line(&finding, &built);
    let lines = vec![format!("{:4} {}", told.severity, told.text)];
    let report = Report {
        file: None,
        ok: false,
        error: None,
        material: material.name.clone(),
        size_mm: [0.0, 0.0],
        findings: vec![told],
    };
    (report, lines)
}

fn print(text: &str) -> Result<(), CheckFailed> {
    writeln!(std::io::stdout(), "{text}").map_err(CheckFailed::Print)
}
