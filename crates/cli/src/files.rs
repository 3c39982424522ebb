//! How files are written: the arguments that `trace`, `convert` and `sheet` share.

use std::path::{Path, PathBuf};

use clap::{Args, ValueEnum};
use std::sync::Arc;

use inky_core::plan::page::Page;
use inky_core::units::Unit;
use inky_formats::dxf::Version;
use inky_formats::files::{self, FileError, Format, Options, Split};
use inky_formats::gcode::Controller;
use inky_formats::hpgl::Blade;
use inky_formats::names;
use inky_formats::svg::{Sized, Style};

use crate::input::STANDARD;
use crate::save::{SaveFailed, Target, save};
use crate::say;

/// Why a page was not written.
#[derive(Debug, thiserror::Error)]
pub(crate) enum WriteFailed {
    #[error("{} has no ending known here; write to .svg, .dxf, .plt, .gcode, .pdf or .png", .0.display())]
    Ending(PathBuf),
    #[error("standard output has no ending; say which --format is wanted")]
    NoFormat,
    #[error("--per-inch {0} is not between 1 and 10000 units")]
    PerInch(f64),
    #[error("--png-dpi {0} is not between 10 and 2400 pixels per inch")]
    Ppi(f64),
    #[error("--full-power {0} is not between 1 and 100000")]
    Power(f64),
    #[error(transparent)]
    File(#[from] FileError),
    #[error(transparent)]
    Save(#[from] SaveFailed),
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum DxfArg {
    /// AC1015, curves as splines
    Splines,
    /// AC1015, curves as arcs
    Arcs,
    /// R12, curves as arcs
    R12,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum UnitArg {
    Mm,
    In,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum SplitArg {
    /// A file for each layer
    Layer,
    /// A file for each material and colour
    Material,
}

#[derive(Debug, Args)]
#[command(next_help_heading = "How the file is written")]
pub(crate) struct FileArgs {
    /// The format, whatever the name ends in: svg, dxf, plt, gcode, pdf or png
    #[arg(long, value_parser = named_format)]
    pub(crate) format: Option<Format>,
    /// Mirror left to right
    #[arg(long)]
    pub(crate) mirror: bool,
    /// Cut the page down to what is drawn: its lower left corner is the origin
    #[arg(long)]
    pub(crate) trim: bool,
    /// SVG: cut lines without fill
    #[arg(long)]
    pub(crate) cut_lines: bool,
    /// SVG: units for an inch, such as 72, 90 or 96, for software that ignores units
    #[arg(long)]
    pub(crate) per_inch: Option<f64>,
    /// SVG and DXF: the unit stated in what is written
    #[arg(long, value_enum)]
    pub(crate) out_unit: Option<UnitArg>,
    /// DXF: which one
    #[arg(long, value_enum)]
    pub(crate) dxf: Option<DxfArg>,
    /// HPGL: lead the holder ahead of the line by the blade's offset
    #[arg(long)]
    pub(crate) swivel: bool,
    /// HPGL: turn the page a quarter
    #[arg(long)]
    pub(crate) turn: bool,
    /// G-code: the S that is full power; 1000 without
    #[arg(long)]
    pub(crate) full_power: Option<f64>,
    /// PDF: name of the colour of cut lines
    #[arg(long)]
    pub(crate) spot: Option<String>,
    /// PNG: pixels per inch; 300 without
    #[arg(long)]
    pub(crate) png_dpi: Option<f64>,
    /// Write several files, named after what is in them
    #[arg(long, value_enum)]
    pub(crate) split: Option<SplitArg>,
    /// Replace files that are there already
    #[arg(long)]
    pub(crate) force: bool,
}

/// Pixels per inch of a picture, unless asked otherwise.
const PPI: f64 = 300.0;

/// A format by its name.
fn named_format(name: &str) -> Result<Format, String> {
    let known = Format::of_ending(name.trim_start_matches('.'));
    known.ok_or_else(|| "write svg, dxf, plt, gcode, pdf or png".to_owned())
}

/// The format that was asked for, or that a file's ending asks for.
fn format(asked: Option<Format>, path: &Path) -> Result<Format, WriteFailed> {
    if let Some(asked) = asked {
        return Ok(asked);
    }
    if path == Path::new(STANDARD) {
        return Err(WriteFailed::NoFormat);
    }
    let ending = path.extension().and_then(|e| e.to_str());
    let found = ending.and_then(Format::of_ending);
    found.ok_or_else(|| WriteFailed::Ending(path.to_owned()))
}

impl FileArgs {
    fn options(&self) -> Result<Options, WriteFailed> {
        let known = Options::default();
        let unit = match self.out_unit {
            Some(UnitArg::In) => Unit::In,
            _ => Unit::Mm,
        };
        let within = |v: f64, least: f64, most: f64| (least..=most).contains(&v);
        let sized = match self.per_inch {
            Some(units) if within(units, 1.0, 10_000.0) => Sized::PerInch(units),
            Some(units) => return Err(WriteFailed::PerInch(units)),
            None => Sized::In(unit),
        };
        let ppi = self.ppi()?;
        let full = self.full_power.unwrap_or(known.controller.full);
        if !within(full, 1.0, 100_000.0) {
            return Err(WriteFailed::Power(full));
        }
        Ok(Options {
            style: if self.cut_lines {
                Style::CutLines
            } else {
                Style::Filled
            },
            sized,
            unit,
            dxf: match self.dxf {
                Some(DxfArg::R12) => Version::R12,
                Some(DxfArg::Arcs) => Version::Arcs,
                _ => Version::Splines,
            },
            blade: Blade {
                swivel: self.swivel,
                turned: self.turn,
            },
            controller: Controller {
                full,
                ..known.controller
            },
            spot: self.spot.clone().unwrap_or(known.spot),
            ppi,
            mirrored: self.mirror,
            trimmed: self.trim,
        })
    }

    /// Pixels per inch of a PNG.
    pub(crate) fn ppi(&self) -> Result<f64, WriteFailed> {
        let ppi = self.png_dpi.unwrap_or(PPI);
        match (10.0..=2400.0).contains(&ppi) {
            true => Ok(ppi),
            false => Err(WriteFailed::Ppi(ppi)),
        }
    }

    /// Says what cannot be written, before anything is read.
    pub(crate) fn check(&self, target: &Target<'_>, path: &Path) -> Result<(), WriteFailed> {
        format(self.format, path)?;
        self.options()?;
        if self.split.is_none() {
            target.check(path)?;
        }
        Ok(())
    }

    /// Writes a page to the named file, or to files beside it where it is parted.
    pub(crate) fn write(
        &self,
        page: Page,
        title: &str,
        (target, path): (&Target<'_>, &Path),
    ) -> Result<(), WriteFailed> {
        let (format, options) = (format(self.format, path)?, self.options()?);
        let page = options.page(&Arc::new(page));
        let split = match self.split {
            None => Split::One,
            Some(SplitArg::Layer) => Split::Layer,
            Some(SplitArg::Material) => Split::Material,
        };
        for warning in files::told(page.cutting(), format, &options).warnings {
            say::note(warning);
        }
        if split == Split::One {
            let bytes = files::write(&page, title, format, &options)?;
            return Ok(save(path, &bytes)?);
        }
        let parts = files::parts(&page, split);
        if parts.is_empty() {
            return Err(FileError::Nothing.into());
        }
        let safe = names::unique(parts.iter().map(|(name, _)| names::file(name)));
        let stem = path.file_stem().unwrap_or_default().to_string_lossy();
        let beside = |name| path.with_file_name(format!("{stem}-{name}.{}", format.ending()));
        let places: Vec<PathBuf> = safe.iter().map(beside).collect();
        // All or none.
        for place in &places {
            target.check(place)?;
        }
        for (beside, (_, part)) in places.iter().zip(&parts) {
            let bytes = files::write(part, title, format, &options)?;
            save(beside, &bytes)?;
            say::done(format_args!("written: {}", beside.display()));
        }
        Ok(())
    }
}
