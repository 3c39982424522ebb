//! `inky trace`: from a picture file to a cut file.

use std::fs;
use std::path::{Path, PathBuf};
use std::time::Instant;

use inky_core::inks::InkMode;
use inky_core::recipe::{Recipe, Size};
use inky_core::shapes::Design;
use inky_core::stop::Stop;
use inky_core::trace::{Stage, Traced, trace};
use inky_core::units::{DEFAULT_PPI, Length, Mm};
use inky_formats::picture::{self, Artwork};
use inky_formats::report::{self, StageMs};
use inky_formats::{png, svg};

use crate::args::{Inks, Threshold, TraceArgs};

/// Pixels per inch of a PNG of the design.
const PNG_PPI: f64 = 300.0;

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
    #[error("--threshold and --invert are for one tone; add --inks mono")]
    OneToneOnly,
    #[error("--dpi {0} is not a number of pixels per inch above nought")]
    Dpi(f64),
    #[error("{} has no ending known here; write to .svg or .png", .0.display())]
    Ending(PathBuf),
    #[error("cannot write {}: {source}", path.display())]
    Write {
        path: PathBuf,
        source: std::io::Error,
    },
    #[error(transparent)]
    Png(#[from] png::PngError),
    #[error("the report could not be written: {0}")]
    Report(#[from] serde_json::Error),
}

#[derive(Clone, Copy)]
enum Ending {
    Svg,
    Png,
}

pub(crate) fn run(args: &TraceArgs) -> Result<(), TraceFailed> {
    let started = Instant::now();
    let ending = ending(&args.output)?;
    let (artwork, decode) = timed(|| open(&args.input))?;
    for notice in &artwork.notices {
        eprintln!("inky: note: {notice}");
    }
    let recipe = recipe(args, &artwork)?;
    let mut ms = StageMs {
        decode,
        ..StageMs::default()
    };
    let mut before = Instant::now();
    let traced = trace(&artwork.picture, &recipe, &Stop::new(), &mut |stage| {
        let took = before.elapsed().as_secs_f64() * 1e3;
        before = Instant::now();
        match stage {
            Stage::Inks => ms.inks = took,
            Stage::Boundary => ms.boundary = took,
            Stage::Fit | Stage::Shapes => ms.fit += took,
        }
    })?;
    if traced.design.is_empty() {
        return Err(TraceFailed::Nothing(traced.nothing_found()));
    }
    let ((), write) = timed(|| write(&traced.design, args, ending))?;
    ms.write = write;
    ms.total = started.elapsed().as_secs_f64() * 1e3;
    if let Some(path) = &args.report {
        let size = (artwork.picture.width(), artwork.picture.height());
        save(path, report::write(&traced.design, size, ms)?.as_bytes())?;
    }
    summary(&traced);
    Ok(())
}

fn timed<T, E>(work: impl FnOnce() -> Result<T, E>) -> Result<(T, f64), E> {
    let started = Instant::now();
    let value = work()?;
    Ok((value, started.elapsed().as_secs_f64() * 1e3))
}

fn ending(path: &Path) -> Result<Ending, TraceFailed> {
    match path
        .extension()
        .and_then(|e| e.to_str())
        .map(str::to_lowercase)
        .as_deref()
    {
        Some("svg") => Ok(Ending::Svg),
        Some("png") => Ok(Ending::Png),
        _ => Err(TraceFailed::Ending(path.to_owned())),
    }
}

fn open(path: &Path) -> Result<Artwork, TraceFailed> {
    let bytes = fs::read(path).map_err(|source| TraceFailed::Open {
        path: path.to_owned(),
        source,
    })?;
    picture::read(&bytes).map_err(|source| TraceFailed::Picture {
        path: path.to_owned(),
        source,
    })
}

fn recipe(args: &TraceArgs, artwork: &Artwork) -> Result<Recipe, TraceFailed> {
    let (w, h) = (artwork.picture.width(), artwork.picture.height());
    let one_tone = matches!(args.inks, Inks::Mono);
    if !one_tone && (args.threshold.is_some() || args.invert) {
        return Err(TraceFailed::OneToneOnly);
    }
    let ppi = match args.dpi {
        Some(dpi) if dpi > 0.0 && dpi.is_finite() => dpi,
        Some(dpi) => return Err(TraceFailed::Dpi(dpi)),
        None => artwork.ppi.unwrap_or(DEFAULT_PPI),
    };
    let mm = |length: Option<Length>, what| match length {
        Some(Length::Mm(value)) => Ok(Some(Mm::new(value))),
        Some(Length::Px(_)) => Err(TraceFailed::SizeInPixels(what)),
        None => Ok(None),
    };
    let mut size = Size::at_ppi(w, h, ppi);
    if let Some(width) = mm(args.width, "--width")? {
        size = size.with_width(width, w, h);
    }
    if let Some(height) = mm(args.height, "--height")? {
        size = size.with_height(height, w, h);
    }
    let mut recipe = Recipe::automatic(size);
    recipe.inks.mode = match args.inks {
        Inks::Mono => InkMode::Mono {
            threshold: match args.threshold {
                Some(Threshold::Percent(percent)) => Some(percent),
                _ => None,
            },
            invert: args.invert,
            local: args.threshold == Some(Threshold::Local),
        },
        Inks::Colour(mode) => mode,
    };
    recipe.inks.background = args.background;
    recipe.trace.edges = args.edges.into();
    recipe.trace.corner = args.corner;
    recipe.trace.min_part = args.min_part;
    let (across, down) = size.mm_per_px(w, h);
    let mm = |length| match length {
        Length::Mm(value) => Mm::new(value),
        Length::Px(px) => Mm::new(px * (across * down).sqrt()),
    };
    recipe.trace.tolerance = args.tolerance.map(mm);
    recipe.trace.smooth = args.smooth.map(mm);
    Ok(recipe)
}

fn write(design: &Design, args: &TraceArgs, ending: Ending) -> Result<(), TraceFailed> {
    let title = args
        .input
        .file_stem()
        .map_or_else(String::new, |s| s.to_string_lossy().into_owned());
    let bytes = match ending {
        Ending::Svg => {
            let style = if args.cut_lines {
                svg::Style::CutLines
            } else {
                svg::Style::Filled
            };
            svg::write(design, &title, style).into_bytes()
        }
        Ending::Png => png::write_design(design, PNG_PPI)?,
    };
    save(&args.output, &bytes)
}

fn save(path: &Path, bytes: &[u8]) -> Result<(), TraceFailed> {
    fs::write(path, bytes).map_err(|source| TraceFailed::Write {
        path: path.to_owned(),
        source,
    })
}

fn summary(traced: &Traced) {
    let (f, size) = (&traced.design.figures, &traced.design.size);
    let strokes = match f.strokes {
        0 => String::new(),
        n => format!("{n} strokes, "),
    };
    eprintln!(
        "traced: {} shapes, {strokes}{} nodes, {:.1} × {:.1} mm, {:.3} mm off at most. {}",
        f.shapes,
        f.nodes,
        size.width.get(),
        size.height.get(),
        f.deviation.max,
        traced.solid.reason
    );
    for wide in &traced.design.too_wide {
        eprintln!(
            "inky: note: {:.2} mm wide at x {:.1}, y {:.1} mm, too wide for a line; {}",
            wide.width,
            wide.at.x,
            wide.at.y,
            if wide.outlined {
                "outlined instead"
            } else {
                "better outlined"
            }
        );
    }
}
