//! `inky stones`: stones along the lines of a file or in its shapes, as the holes of a template.

use std::path::PathBuf;
use std::time::Instant;

use clap::Args as ClapArgs;
use inky_core::cutting::{CutLayer, Cutting};
use inky_core::limits::OutOfRange;
use inky_core::plan::PlanChoice;
use inky_core::plan::page::Page;
use inky_core::shapes::Ring;
use inky_core::stones::{
    Pattern, SIZES, Stone, StoneChoice, StoneLayer, TooMany, USUAL, along, fill,
};
use inky_core::units::{Length, Unit};
use inky_formats::pdf;
use kurbo::Circle;

use crate::args::{ReadArgs, length};
use crate::batch::title;
use crate::files::{FileArgs, WriteFailed};
use crate::piece::{self, Piece, PieceFailed};
use crate::save::{SaveFailed, Target, save};
use crate::say;

#[derive(Debug, ClapArgs)]
pub(crate) struct StonesArgs {
    /// The file whose lines or shapes take them: SVG, DXF, HPGL or G-code
    input: PathBuf,
    #[command(flatten)]
    read: ReadArgs,
    /// The file to write, with a hole for each: .svg, .dxf, .plt, .gcode, .pdf or .png
    #[arg(short, long)]
    output: PathBuf,
    /// SS6, SS10, SS12, SS16, SS20 or how far across, such as 3mm; more than one: the next where the one before finds no
    /// room
    #[arg(long, required = true, value_parser = size)]
    size: Vec<(String, f64)>,
    /// Along the lines: starts, ends and corners are kept
    #[arg(long, required_unless_present = "fill")]
    along: bool,
    /// In the shapes: hexagonal, in rows, or in rings along the outline
    #[arg(long, value_parser = pattern, num_args = 0..=1, default_missing_value = "hexagonal", conflicts_with = "along")]
    fill: Option<Pattern>,
    /// Between any two; 0.6mm without
    #[arg(long, value_parser = length)]
    gap: Option<Length>,
    /// How much wider a hole is than its stone; 0.3mm without
    #[arg(long, value_parser = length)]
    clearance: Option<Length>,
    /// What the template is cut of, by name; without: the first of the list
    #[arg(long)]
    material: Option<String>,
    /// A list of materials saved from the Materials page; without: those that ship
    #[arg(long)]
    materials: Option<PathBuf>,
    /// A placing chart, a .pdf: where each stone lies, with the list of them
    #[arg(long, value_name = "FILE")]
    chart: Option<PathBuf>,
    #[command(flatten)]
    file: FileArgs,
}

/// Why no stones were set.
#[derive(Debug, thiserror::Error)]
pub(crate) enum StonesFailed {
    #[error(transparent)]
    Piece(#[from] PieceFailed),
    #[error(transparent)]
    Write(#[from] WriteFailed),
    #[error(transparent)]
    OutOfRange(#[from] OutOfRange),
    #[error(transparent)]
    TooMany(#[from] TooMany),
    #[error("{0} is a length on the piece; give it in mm or in")]
    Pixels(&'static str),
    #[error("a chart is written as .pdf, not to {}", .0.display())]
    Chart(PathBuf),
    #[error("{} would be the template and the chart at once; give them two names", .0.display())]
    Same(PathBuf),
    #[error(transparent)]
    Save(#[from] SaveFailed),
    #[error("along lines one size is set; give one --size, or --fill the shapes")]
    OneSize,
    #[error("no stone of {0:.1} mm finds room; take a smaller --size")]
    NoRoom(f64),
}

pub(crate) fn run(args: &StonesArgs) -> Result<(), StonesFailed> {
    let target = Target::new(
        std::iter::once(&args.input).chain(&args.materials),
        args.file.force,
    );
    args.file.check(&target, &args.output)?;
    if let Some(chart) = &args.chart {
        if !chart
            .extension()
            .is_some_and(|e| e.eq_ignore_ascii_case("pdf"))
        {
            return Err(StonesFailed::Chart(chart.clone()));
        }
        if *chart == args.output {
            return Err(StonesFailed::Same(chart.clone()));
        }
        args.file.check(&target, chart)?;
    }
    let mm = |length: Option<Length>, usual, what| match length {
        Some(Length::Mm(value)) => Ok(value),
        Some(Length::Px(_)) => Err(StonesFailed::Pixels(what)),
        None => Ok(usual),
    };
    let choice = StoneChoice {
        sizes: args.size.iter().map(|(_, across)| *across).collect(),
        gap: mm(args.gap, USUAL[0], "--gap")?,
    };
    choice.check()?;
    let clearance = mm(args.clearance, USUAL[1], "--clearance")?;
    if args.fill.is_none() && choice.sizes.len() > 1 {
        return Err(StonesFailed::OneSize);
    }
    let material = piece::material(args.material.as_deref(), args.materials.as_deref())?;
    let cutting = Piece::open(&args.input, &args.read, material)?.cutting();
    let started = Instant::now();
    let stones = set(&cutting, &choice, args.fill)?;
    say::detail(format_args!(
        "set in {:.0} ms",
        started.elapsed().as_secs_f64() * 1e3
    ));
    if stones.is_empty() {
        let least = choice.sizes.iter().copied().fold(f64::INFINITY, f64::min);
        return Err(StonesFailed::NoRoom(least));
    }
    let holes = Cutting {
        size: cutting.size,
        layers: cutting
            .layers
            .first()
            .map(|layer| CutLayer {
                name: "Template".to_owned(),
                shapes: choice.holes(&stones, clearance),
                ..layer.empty()
            })
            .into_iter()
            .collect(),
    };
    let page = Page::new(holes, PlanChoice::default());
    args.file
        .write(page, &title(&args.output), (&target, &args.output))?;
    if let Some(path) = &args.chart {
        let bytes = chart(&title(path), &cutting, (&choice, clearance), &stones);
        target.check(path)?;
        save(path, &bytes)?;
    }
    told(args, &choice, &stones);
    Ok(())
}

/// Where the stones lie, among the lines that they are set along or in.
fn chart(
    title: &str,
    cutting: &Cutting,
    (choice, clearance): (&StoneChoice, f64),
    stones: &[Stone],
) -> Vec<u8> {
    let outlines: Vec<&Ring> = cutting.layers.iter().flat_map(CutLayer::rings).collect();
    let across = |s: &Stone| choice.sizes[s.size];
    let placed = stones.iter().map(|s| Circle::new(s.at, across(s) / 2.0));
    let list = StoneLayer::new(choice, clearance).counted(stones.iter().map(across));
    let chart = pdf::chart::Chart {
        title,
        size: cutting.size,
        outlines: &outlines,
        stones: &placed.collect::<Vec<_>>(),
        list: &list,
    };
    pdf::chart::write(&chart, Unit::Mm)
}

fn set(
    cutting: &Cutting,
    choice: &StoneChoice,
    pattern: Option<Pattern>,
) -> Result<Vec<Stone>, TooMany> {
    let shapes: Vec<_> = cutting
        .layers
        .iter()
        .flat_map(|l| l.shapes.clone())
        .collect();
    match pattern {
        Some(pattern) => fill(&shapes, choice, pattern),
        None => {
            let rings = cutting.layers.iter().flat_map(CutLayer::rings);
            let rings = rings.map(|r: &Ring| (r.segments(), true));
            let lines = cutting.layers.iter().flat_map(|l| &l.lines);
            let lines = lines.map(|l| (l.segments.as_slice(), l.closed));
            along(&rings.chain(lines).collect::<Vec<_>>(), choice)
        }
    }
}

fn told(args: &StonesArgs, choice: &StoneChoice, stones: &[Stone]) {
    let counts = choice.counts(stones);
    let each: Vec<String> = args
        .size
        .iter()
        .zip(counts)
        .map(|((name, _), count)| format!("{count} of {name}"))
        .collect();
    say::done(format_args!("{} stones: {}", stones.len(), each.join(", ")));
}

fn size(text: &str) -> Result<(String, f64), String> {
    let named = SIZES
        .iter()
        .find(|(name, _)| text.eq_ignore_ascii_case(name));
    if let Some((name, across)) = named {
        return Ok(((*name).to_owned(), *across));
    }
    match length(text)? {
        Length::Mm(across) => Ok((format!("{across} mm"), across)),
        Length::Px(_) => {
            Err("give it in mm or in, or name SS6, SS10, SS12, SS16 or SS20".to_owned())
        }
    }
}

fn pattern(text: &str) -> Result<Pattern, String> {
    match text {
        "hexagonal" | "hex" => Ok(Pattern::Hexagonal),
        "rows" => Ok(Pattern::Rows),
        "rings" => Ok(Pattern::Rings),
        _ => Err("hexagonal, rows or rings".to_owned()),
    }
}
