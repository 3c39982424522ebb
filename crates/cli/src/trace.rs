//! `inky trace`: from a picture file to a cut file.

use std::path::{Path, PathBuf};
use std::time::Instant;

use inky_core::agreement::Agreement;
use inky_core::assembly::build;
use inky_core::clean::{self, Action, Step};
use inky_core::cutting::Cutting;
use inky_core::inks::{InkChoice, InkMode};
use inky_core::layers::Meet;
use inky_core::plan::PlanChoice;
use inky_core::plan::page::Page;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::{Stage, Traced, trace};
use inky_core::units::{DEFAULT_PPI, Length, Mm, Unit};
use inky_formats::picture::{self, Artwork};
use inky_formats::report::{self, StageMs};

use crate::args::{Inks, Threshold, TraceArgs};
use crate::batch::{Job, title};
use crate::files::WriteFailed;
use crate::input;
use crate::piece::{self, PieceFailed};
use crate::save::{SaveFailed, Target, save};
use crate::say::{self, Progress};
use crate::squared::{SquareFailed, squared};

/// Why nothing was traced or written.
#[derive(Debug, thiserror::Error)]
pub(crate) enum TraceFailed {
    #[error("cannot read {}: {source}", path.display())]
    Open {
        path: PathBuf,
        source: std::io::Error,
    },
    #[error("{}: {source}", path.display())]
    Picture {
        path: PathBuf,
        source: picture::ReadError,
    },
    #[error(transparent)]
    Trace(#[from] inky_core::trace::TraceError),
    #[error("nothing to trace: {0}")]
    Nothing(String),
    #[error("'{0}' is no length on the piece; give the size in mm or in")]
    SizeInPixels(&'static str),
    #[error("{} is not a recipe: {source}; save one from the Send line of a job", path.display())]
    Recipe {
        path: PathBuf,
        source: serde_json::Error,
    },
    #[error("--threshold and --invert are for one tone; add --inks mono")]
    OneToneOnly,
    #[error("--dpi {0} is not a number of pixels per inch above nought")]
    Dpi(f64),
    #[error("cannot write to standard output: {0}")]
    Print(std::io::Error),
    #[error(transparent)]
    Write(#[from] WriteFailed),
    #[error(transparent)]
    Save(#[from] SaveFailed),
    #[error(transparent)]
    Square(#[from] SquareFailed),
    #[error(transparent)]
    Material(#[from] PieceFailed),
    #[error("the report could not be written: {0}")]
    Report(#[from] serde_json::Error),
}

/// Traces one picture; what came of it.
pub(crate) fn run(args: &TraceArgs, job: Job<'_>) -> Result<String, TraceFailed> {
    let started = Instant::now();
    // What cannot be written is said before anything is read.
    let read = args.inputs.iter();
    let read = read.chain(&args.recipe).chain(&args.materials);
    let target = Target::new(read, args.file.force);
    args.file.check(&target, job.output)?;
    if let Some(report) = &args.report {
        target.check(report)?;
    }
    let (artwork, decode) = timed(|| open(job.input))?;
    for notice in &artwork.notices {
        say::note(notice);
    }
    let recipe = recipe(args, &artwork)?;
    let mut ms = StageMs {
        decode,
        ..StageMs::default()
    };
    let mut before = Instant::now();
    let mut progress = Progress::new();
    let traced = trace(&artwork.picture, &recipe, &Stop::new(), &mut |stage| {
        let took = before.elapsed().as_secs_f64() * 1e3;
        progress.at(after(&stage));
        before = Instant::now();
        match stage {
            Stage::Clean => ms.clean = took,
            Stage::Inks => ms.inks = took,
            Stage::Boundary => ms.boundary = took,
            Stage::Fit | Stage::Shapes => ms.fit += took,
        }
    })?;
    if traced.design.is_empty() {
        return Err(TraceFailed::Nothing(traced.nothing_found()));
    }
    let (cutting, build) = timed(|| {
        let built = build(&traced.design, &recipe.layers);
        Ok::<_, TraceFailed>(Cutting::of(&traced.design, &built))
    })?;
    ms.fit += build;
    drop(progress);
    let title = title(job.input);
    let plan = PlanChoice::default();
    let ((), write) = timed(|| {
        args.file
            .write(Page::new(cutting, plan), &title, (&target, job.output))
    })?;
    ms.write = write;
    ms.total = started.elapsed().as_secs_f64() * 1e3;
    let picture = &traced.cleaned.picture;
    let agreement = Agreement::of(picture, &traced.solid, &traced.design);
    if let Some(path) = &args.report {
        let size = (picture.width(), picture.height());
        let report = report::write(&traced.design, agreement.as_ref(), size, ms)?;
        save(path, report.as_bytes())?;
    }
    say::detail(format_args!(
        "decode {:.0} ms, clean {:.0}, inks {:.0}, boundary {:.0}, fit {:.0}, write {:.0}, in all {:.0}",
        ms.decode, ms.clean, ms.inks, ms.boundary, ms.fit, ms.write, ms.total
    ));
    notes(&traced, &recipe.inks, agreement.as_ref());
    Ok(summary(&traced, agreement.as_ref()))
}

/// What is done after a stage.
const fn after(stage: &Stage) -> &'static str {
    match stage {
        Stage::Clean => "finding inks",
        Stage::Inks => "following edges",
        Stage::Boundary => "fitting curves",
        Stage::Fit | Stage::Shapes => "writing",
    }
}

fn timed<T, E>(work: impl FnOnce() -> Result<T, E>) -> Result<(T, f64), E> {
    let started = Instant::now();
    let value = work()?;
    Ok((value, started.elapsed().as_secs_f64() * 1e3))
}

fn read(path: &Path) -> Result<Vec<u8>, TraceFailed> {
    input::read(path).map_err(|source| TraceFailed::Open {
        path: path.to_owned(),
        source,
    })
}

pub(crate) fn open(path: &Path) -> Result<Artwork, TraceFailed> {
    let bytes = read(path)?;
    picture::read(&bytes).map_err(|source| TraceFailed::Picture {
        path: path.to_owned(),
        source,
    })
}

/// The recipe of a file, or one that leaves everything to the program, with what the arguments say.
fn recipe(args: &TraceArgs, artwork: &Artwork) -> Result<Recipe, TraceFailed> {
    let original = (artwork.picture.width(), artwork.picture.height());
    let one_tone = matches!(args.inks, Some(Inks::Mono));
    if !one_tone && (args.threshold.is_some() || args.invert) {
        return Err(TraceFailed::OneToneOnly);
    }
    let ppi = match args.dpi {
        Some(dpi) if dpi > 0.0 && dpi.is_finite() => dpi,
        Some(dpi) => return Err(TraceFailed::Dpi(dpi)),
        None => artwork.ppi.unwrap_or(DEFAULT_PPI),
    };
    let mut recipe = match &args.recipe {
        Some(path) => saved_recipe(path)?,
        None => Recipe::automatic(Size::at_ppi(original.0, original.1, ppi)),
    };
    if let Some(corners) = args.square_up {
        let mut steps = recipe.clean.clone();
        let squared = squared(artwork, corners, args.true_size)?;
        let squaring = clean::squaring(&artwork.picture, squared).into_iter();
        steps.extend(squaring.map(|action| Step { on: true, action }));
        recipe = recipe.with_clean(steps, original);
    }
    if args.made.subject {
        let strokes = Vec::new();
        let action = Action::Subject { strokes };
        recipe.clean.push(Step { on: true, action });
    }
    let frame = recipe.frame(original);
    let (w, h) = (frame.width, frame.height);
    if args.dpi.is_some() {
        recipe.size = Size::at_ppi(w, h, ppi);
    }
    let mm = |length: Option<Length>, what| match length {
        Some(Length::Mm(value)) => Ok(Some(Mm::new(value))),
        Some(Length::Px(_)) => Err(TraceFailed::SizeInPixels(what)),
        None => Ok(None),
    };
    if let Some(width) = mm(args.width, "--width")? {
        recipe.size = recipe.size.with_width(width, w, h);
    }
    if let Some(height) = mm(args.height, "--height")? {
        recipe.size = recipe.size.with_height(height, w, h);
    }
    match args.inks {
        Some(Inks::Mono) => {
            recipe.inks.mode = InkMode::Mono {
                threshold: match args.threshold {
                    Some(Threshold::Percent(percent)) => Some(percent),
                    _ => None,
                },
                invert: args.invert,
                local: args.threshold == Some(Threshold::Local),
                above: None,
            };
        }
        Some(Inks::Colour(mode)) => recipe.inks.mode = mode,
        None => {}
    }
    recipe = args.made.taken(recipe);
    if let Some(background) = args.background {
        recipe.inks.background = background;
    }
    if let Some(edges) = args.edges {
        recipe.trace.edges = edges.into();
    }
    let (across, down) = recipe.size.mm_per_px(w, h);
    let mm = |length| match length {
        Length::Mm(value) => Mm::new(value),
        Length::Px(px) => Mm::new(px * (across * down).sqrt()),
    };
    let trace = &mut recipe.trace;
    trace.corner = args.corner.or(trace.corner);
    trace.min_part = args.min_part.or(trace.min_part);
    trace.tolerance = args.tolerance.map(mm).or(trace.tolerance);
    trace.smooth = args.smooth.map(mm).or(trace.smooth);
    if args.material.is_some() || args.materials.is_some() {
        let material = piece::material(args.material.as_deref(), args.materials.as_deref())?;
        recipe.layers.materials = vec![material];
    }
    if let Some(build) = args.build {
        recipe.layers.meet = build.into();
    }
    if let Some(overlap) = args.overlap {
        recipe.layers.margin = Some(mm(overlap).get());
        if args.build.is_none() && recipe.layers.meet == Meet::Flush {
            recipe.layers.meet = Meet::Overlap;
        }
    }
    Ok(recipe)
}

fn saved_recipe(path: &Path) -> Result<Recipe, TraceFailed> {
    let bytes = read(path)?;
    serde_json::from_slice(&bytes).map_err(|source| TraceFailed::Recipe {
        path: path.to_owned(),
        source,
    })
}

fn summary(traced: &Traced, agreement: Option<&Agreement>) -> String {
    let (f, size) = (&traced.design.figures, &traced.design.size);
    let strokes = match f.strokes {
        0 => String::new(),
        n => format!("{n} strokes, "),
    };
    let off = agreement.map_or_else(String::new, |a| {
        format!(", {:.3} mm off the artwork on average", a.edge.mean)
    });
    format!(
        "traced: {} shapes, {strokes}{} nodes, {:.1} × {:.1} mm{off}. {}",
        f.shapes,
        f.nodes,
        size.width.get(),
        size.height.get(),
        traced.solid.reason
    )
}

fn notes(traced: &Traced, inks: &InkChoice, agreement: Option<&Agreement>) {
    for note in traced.solid.notes(inks.background) {
        say::note(note);
    }
    if let Some(agreement) = agreement {
        say::note(agreement.words(Unit::Mm));
    }
    for wide in &traced.design.too_wide {
        say::note(format_args!(
            "{:.2} mm wide at x {:.1}, y {:.1} mm, too wide for a line; {}",
            wide.width,
            wide.at.x,
            wide.at.y,
            if wide.outlined {
                "outlined instead"
            } else {
                "better outlined"
            }
        ));
    }
}
