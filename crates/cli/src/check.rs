//! `inky check`: whether a vector file can be cut of a material, and what is in the way.

use std::fs;
use std::io::Write;
use std::path::PathBuf;

use inky_core::build::{self, Built, build};
use inky_core::check::remedy::{Bench, cure};
use inky_core::check::{self, Finding, Kind, Remedy, Weeding, weeding};
use inky_core::layers::LayerChoice;
use inky_core::material::{Material, presets};
use inky_core::recipe::Size;
use inky_core::shapes::Design;
use inky_core::tidy::Drawing;
use inky_core::units::{Mm, Unit};
use inky_formats::svg;
use inky_formats::vector::{self, VectorError};
use serde::Serialize;

use crate::args::CheckArgs;

/// Why a file was not checked.
#[derive(Debug, thiserror::Error)]
pub(crate) enum CheckFailed {
    #[error("cannot read {}: {source}", path.display())]
    Open {
        path: PathBuf,
        source: std::io::Error,
    },
    #[error("{}: {source}", path.display())]
    Vector { path: PathBuf, source: VectorError },
    #[error("there is no material called '{name}'; there are {known}")]
    Material { name: String, known: String },
    #[error("{} is no list of materials: {source}; save one from the Materials page", path.display())]
    Materials {
        path: PathBuf,
        source: serde_json::Error,
    },
    #[error(transparent)]
    Choice(#[from] inky_core::layers::LayerError),
    #[error("--fix writes SVG; give a name that ends in .svg")]
    Ending,
    #[error("there is nothing left to write to {}", .0.display())]
    Nothing(PathBuf),
    #[error("cannot write {}: {source}", path.display())]
    Write {
        path: PathBuf,
        source: std::io::Error,
    },
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

#[derive(Serialize)]
struct Report {
    ok: bool,
    material: String,
    size_mm: [f64; 2],
    findings: Vec<Line>,
}

/// How often remedies are tried, since one may bring to light another.
const ROUNDS: usize = 4;

/// A file's outlines as a job holds them.
struct Piece {
    drawing: Drawing,
    page: Design,
    choice: LayerChoice,
}

impl Piece {
    fn design(&self) -> Design {
        self.drawing.design(&self.page, &Default::default())
    }

    fn checked(&self) -> (Built, Vec<Finding>) {
        let built = build(&self.design(), &self.choice);
        let mut found = check::check(&built, &self.choice);
        // A file may hold registration shapes of its own.
        found.retain(|f| f.kind != Kind::Unregistered);
        (built, found)
    }
}

pub(crate) fn run(args: &CheckArgs) -> Result<(), CheckFailed> {
    let ends_right = |p: &PathBuf| p.extension().is_some_and(|e| e.eq_ignore_ascii_case("svg"));
    if args.fix.as_ref().is_some_and(|p| !ends_right(p)) {
        return Err(CheckFailed::Ending);
    }
    let material = material(args)?;
    let bytes = fs::read(&args.input).map_err(|source| CheckFailed::Open {
        path: args.input.clone(),
        source,
    })?;
    let file = match vector::read(&bytes) {
        Ok(file) => file,
        Err(e) if e.only_a_picture() => return only_a_picture(args, &material),
        Err(source) => {
            return Err(CheckFailed::Vector {
                path: args.input.clone(),
                source,
            });
        }
    };
    if !file.report().is_empty() {
        eprintln!("inky: note: left out: {}", file.report());
    }
    let choice = LayerChoice {
        materials: vec![material],
        ..LayerChoice::default()
    };
    choice.check()?;
    let drawing = file.drawing();
    let mut piece = Piece {
        page: page(file.size),
        choice: LayerChoice {
            // What comes later in a file lies above.
            order: drawing.added_inks.clone(),
            ..choice
        },
        drawing,
    };
    let (built, found) = piece.checked();
    told(args, &piece, (&built, &found))?;
    let Some(path) = &args.fix else {
        return Ok(());
    };
    let done = fix(&mut piece);
    let (built, left) = piece.checked();
    // A stencil's file goes on holding what is cut out.
    let cut = if piece.choice.negative() {
        build::with_bridges(&piece.design(), &piece.choice)
    } else {
        build::as_cut(&piece.design(), &built)
    };
    if cut.is_empty() {
        return Err(CheckFailed::Nothing(path.clone()));
    }
    let title = args.input.file_stem().unwrap_or_default().to_string_lossy();
    let text = svg::write(&cut, &title, svg::Style::Filled);
    fs::write(path, text).map_err(|source| CheckFailed::Write {
        path: path.clone(),
        source,
    })?;
    eprintln!(
        "{}: {} found, {} left; written to {}",
        some(done, "remedy").replace("remedys", "remedies"),
        found.len(),
        left.len(),
        path.display()
    );
    Ok(())
}

/// Applies the first remedy of every kind that has one; how many were applied.
fn fix(piece: &mut Piece) -> usize {
    let mut done = 0;
    for _ in 0..ROUNDS {
        let mut changed = false;
        for kind in Kind::ALL {
            let (built, found) = piece.checked();
            let own: Vec<&Finding> = found.iter().filter(|f| f.kind == kind).collect();
            let Some(&remedy) = kind.remedies().first().filter(|_| !own.is_empty()) else {
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
            let Ok(cured) = cure(bench, &own, remedy) else {
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

fn page([width, height]: [f64; 2]) -> Design {
    Design::empty(Size {
        width: Mm::new(width),
        height: Mm::new(height),
        locked: true,
    })
}

/// The material of a name, from a list that was saved or from those that ship.
fn material(args: &CheckArgs) -> Result<Material, CheckFailed> {
    let known = match &args.materials {
        Some(path) => {
            let bytes = fs::read(path).map_err(|source| CheckFailed::Open {
                path: path.clone(),
                source,
            })?;
            serde_json::from_slice(&bytes).map_err(|source| CheckFailed::Materials {
                path: path.clone(),
                source,
            })?
        }
        None => presets(),
    };
    let names = || {
        let all: Vec<&str> = known.iter().map(|m| m.name.as_str()).collect();
        all.join(", ")
    };
    let missing = |name: &str| CheckFailed::Material {
        name: name.to_owned(),
        known: names(),
    };
    let name = args.material.as_deref();
    let found = match name {
        None => known.first(),
        Some(name) => known
            .iter()
            .find(|m| m.name.to_lowercase() == name.trim().to_lowercase()),
    };
    found.cloned().ok_or_else(|| missing(name.unwrap_or("")))
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

fn told(
    args: &CheckArgs,
    piece: &Piece,
    (built, found): (&Built, &[Finding]),
) -> Result<(), CheckFailed> {
    let size = piece.page.size;
    let material = piece.choice.material().name;
    if args.json {
        let report = Report {
            ok: check::ok(found),
            material,
            size_mm: [size.width.get(), size.height.get()],
            findings: found.iter().map(|f| line(f, built)).collect(),
        };
        return print(&serde_json::to_string_pretty(&report)?);
    }
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
        let own = line(f, built);
        let layer = own.layer.map_or_else(String::new, |l| format!(" {l}"));
        lines.push(format!(
            "{:4} {}{layer} at {:.1}, {:.1} mm",
            own.severity, own.text, f.at.x, f.at.y
        ));
    }
    lines.push(weeded(&weeding(built)));
    print(&lines.join("\n"))
}

fn some(n: usize, one: &str) -> String {
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

fn only_a_picture(args: &CheckArgs, material: &Material) -> Result<(), CheckFailed> {
    let finding = Finding {
        kind: Kind::BitmapOnly,
        layer: None,
        at: kurbo::Point::ORIGIN,
        value: 0.0,
        limit: 0.0,
        measure: check::Measure::Count,
        source: "the file holds a picture and no outline".to_owned(),
        touching: Vec::new(),
        extent: Vec::new(),
    };
    let built = build(&page([1.0, 1.0]), &LayerChoice::default());
    let own = line(&finding, &built);
    if args.json {
        let report = Report {
            ok: false,
            material: material.name.clone(),
            size_mm: [0.0, 0.0],
            findings: vec![own],
        };
        return print(&serde_json::to_string_pretty(&report)?);
    }
    print(&format!("{:4} {}", own.severity, own.text))
}

fn print(text: &str) -> Result<(), CheckFailed> {
    writeln!(std::io::stdout(), "{text}").map_err(|source| CheckFailed::Write {
        path: "standard output".into(),
        source,
    })
}
