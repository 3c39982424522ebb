//! `inky stock`: a piece of stock photographed beside a sheet of paper, as a file that `inky sheet` lays parts on.

use std::path::{Path, PathBuf};

use clap::Args;
use inky_core::offcut::{OffcutError, offcut};
use inky_core::stock::Stock;
use inky_core::stop::Stop;
use inky_formats::offcut::{self as file, OffcutFileError};

use crate::save::{SaveFailed, Target, save};
use crate::say;
use crate::squared::{Corners, TrueSize};
use crate::trace::{TraceFailed, open};

/// What is cut from.
#[derive(Clone, Debug)]
pub(crate) enum StockArg {
    /// Of typed sides.
    Typed(Stock),
    /// Of the outline in a file.
    File(PathBuf),
}

#[derive(Debug, Args)]
pub(crate) struct StockArgs {
    /// The photograph: the whole piece on something lighter or darker, beside a whole sheet of paper
    pub(crate) input: PathBuf,
    /// The sheet beside it, such as A4, Letter, card or 300x200mm
    #[arg(long, default_value = "A4", value_name = "SIZE")]
    pub(crate) sheet: TrueSize,
    /// Where the sheet is: auto, or x,y of its four corners, px, with commas between
    #[arg(long, value_name = "auto|CORNERS")]
    pub(crate) corners: Option<Corners>,
    /// The file to write, .svg
    #[arg(short, long)]
    pub(crate) output: PathBuf,
    /// Replace a file that is there already
    #[arg(long)]
    pub(crate) force: bool,
}

/// Why there is no piece of stock.
#[derive(Debug, thiserror::Error)]
pub(crate) enum StockFailed {
    #[error(transparent)]
    Open(Box<TraceFailed>),
    #[error("{}: {source}", path.display())]
    Offcut { path: PathBuf, source: OffcutError },
    #[error("{}: {source}", path.display())]
    File {
        path: PathBuf,
        source: OffcutFileError,
    },
    #[error("cannot read {}: {source}", path.display())]
    Read {
        path: PathBuf,
        source: std::io::Error,
    },
    #[error("a piece of stock is written as SVG; give --output a name that ends in .svg")]
    Ending,
    #[error("its picture cannot be written: {0}")]
    Picture(String),
    #[error(transparent)]
    Save(#[from] SaveFailed),
}

pub(crate) fn run(args: &StockArgs) -> Result<(), StockFailed> {
    let target = Target::new([&args.input], args.force);
    let ending = args.output.extension().unwrap_or_default();
    if !ending.eq_ignore_ascii_case("svg") && args.output != Path::new(crate::input::STANDARD) {
        return Err(StockFailed::Ending);
    }
    target.check(&args.output)?;
    let artwork = open(&args.input).map_err(|e| StockFailed::Open(Box::new(e)))?;
    let sides = match args.sheet {
        TrueSize::Paper(paper) => paper.sides(),
        TrueSize::Sides(width, height) => [width, height],
    };
    let corners = match args.corners {
        Some(Corners::Given(corners)) => Some(corners),
        Some(Corners::Found) | None => None,
    };
    let (picture, stop) = (&artwork.picture, Stop::new());
    let searching = format_args!("looking for the piece in {}", args.input.display());
    let found = say::long(searching, || {
        offcut(picture, sides, corners, artwork.focal, &stop)
    });
    let found = found.map_err(|source| StockFailed::Offcut {
        path: args.input.clone(),
        source,
    })?;
    let photograph = file::photograph(&found.picture);
    let photograph = photograph.map_err(|e| StockFailed::Picture(e.to_string()))?;
    let name = args
        .output
        .file_stem()
        .unwrap_or_default()
        .to_string_lossy();
    let text = file::write(&found.shaped, &name, Some(&photograph));
    save(&args.output, text.as_bytes())?;
    let b = found.shaped.bounds();
    say::done(format_args!(
        "{:.1} × {:.1} mm, {:.0} cm² of stock, {} holes; its outline is true within {:.1} mm",
        b.width(),
        b.height(),
        found.shaped.area() / 100.0,
        found.shaped.holes.len(),
        found.off
    ));
    Ok(())
}

/// A piece of stock from a file, with a margin, mm.
pub(crate) fn read(path: &Path, margin: f64) -> Result<Stock, StockFailed> {
    let bytes = crate::input::read(path).map_err(|source| StockFailed::Read {
        path: path.to_owned(),
        source,
    })?;
    let name = path.file_stem().unwrap_or_default().to_string_lossy();
    file::read(&bytes, &name, margin).map_err(|source| StockFailed::File {
        path: path.to_owned(),
        source,
    })
}
