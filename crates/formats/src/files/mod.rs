//! Files: a page as a file of any format, alone or parted by layer or material, and told in words.
//!
//! ```text
//!   Page ──mirrored, trimmed──► parts ──write──► bytes, one file or a zip
//!                                    └──told───► what it holds, how large it opens, what it cannot carry
//! ```

mod told;

use std::io::Write as _;
use std::sync::Arc;

use inky_core::cutting::CutLayer;
use inky_core::plan::page::Page;
use inky_core::units::Unit;
use serde::{Deserialize, Serialize};

use crate::gcode::Controller;
use crate::hpgl::Blade;
use crate::svg::{Sized, Style};
use crate::{dxf, gcode, hpgl, names, pdf, png, svg};

pub use told::{Told, told};

/// A format that is written.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Format {
    /// Scalable vector graphics.
    #[default]
    Svg,
    /// Drawing exchange format.
    Dxf,
    /// Plotter language.
    Hpgl,
    /// Numerical control.
    Gcode,
    /// Portable document.
    Pdf,
    /// A picture.
    Png,
}

/// How a page is parted into files.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Split {
    /// Everything in one.
    #[default]
    One,
    /// A file for each layer.
    Layer,
    /// A file for each material and colour.
    Material,
}

/// What is wanted of files; each format uses what concerns it.
#[derive(Clone, Debug, PartialEq)]
pub struct Options {
    /// How SVG draws shapes.
    pub style: Style,
    /// How large an SVG says it is.
    pub sized: Sized,
    /// Unit of a DXF, and of the words of a PDF.
    pub unit: Unit,
    /// Which DXF.
    pub dxf: dxf::Version,
    /// How an HPGL leads its blade.
    pub blade: Blade,
    /// What the controller of a G-code expects.
    pub controller: Controller,
    /// Name of the colour of cut lines in a PDF.
    pub spot: String,
    /// Pixels per inch of a PNG.
    pub ppi: f64,
    /// Whether the page is mirrored left to right.
    pub mirrored: bool,
    /// Whether the page is cut down to what is drawn, so that its lower left corner is at the origin.
    pub trimmed: bool,
}

impl Default for Options {
    fn default() -> Self {
        Self {
            style: Style::Filled,
            sized: Sized::default(),
            unit: Unit::Mm,
            dxf: dxf::Version::default(),
            blade: Blade::default(),
            controller: Controller::default(),
            spot: pdf::CUT_LINE.to_owned(),
            ppi: 150.0,
            mirrored: false,
            trimmed: false,
        }
    }
}

/// Why a file was not made.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum FileError {
    /// Nothing would be in it.
    #[error("there is nothing to cut; switch a layer on")]
    Nothing,
    /// The picture.
    #[error(transparent)]
    Png(#[from] png::PngError),
    /// The zip.
    #[error("the files could not be packed: {0}")]
    Zip(#[from] zip::result::ZipError),
    /// Packing.
    #[error("the files could not be packed: {0}")]
    Pack(#[from] std::io::Error),
}

impl Format {
    /// All of them.
    pub const ALL: [Self; 6] = [
        Self::Svg,
        Self::Dxf,
        Self::Hpgl,
        Self::Gcode,
        Self::Pdf,
        Self::Png,
    ];

    /// How its files end.
    #[must_use]
    pub const fn ending(self) -> &'static str {
        match self {
            Self::Svg => "svg",
            Self::Dxf => "dxf",
            Self::Hpgl => "plt",
            Self::Gcode => "gcode",
            Self::Pdf => "pdf",
            Self::Png => "png",
        }
    }

    /// The format of files with an ending, in capitals or not.
    #[must_use]
    pub fn of_ending(ending: &str) -> Option<Self> {
        let lower = ending.to_ascii_lowercase();
        match lower.as_str() {
            "hpgl" | "hpg" => Some(Self::Hpgl),
            "nc" | "ngc" => Some(Self::Gcode),
            other => Self::ALL.into_iter().find(|f| f.ending() == other),
        }
    }

    /// As people call it.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Svg => "SVG",
            Self::Dxf => "DXF",
            Self::Hpgl => "HPGL",
            Self::Gcode => "G-code",
            Self::Pdf => "PDF",
            Self::Png => "PNG",
        }
    }

    /// Its media type.
    #[must_use]
    pub const fn media_type(self) -> &'static str {
        match self {
            Self::Svg => "image/svg+xml",
            Self::Dxf => "image/vnd.dxf",
            Self::Hpgl => "application/vnd.hp-hpgl",
            Self::Gcode => "text/x-gcode",
            Self::Pdf => "application/pdf",
            Self::Png => "image/png",
        }
    }

    /// Whether it tells a machine in which order and how fast to go.
    #[must_use]
    pub const fn is_planned(self) -> bool {
        matches!(self, Self::Hpgl | Self::Gcode)
    }
}

impl Options {
    /// A page as it is wanted: mirrored, cut down to what is drawn.
    #[must_use]
    pub fn page(&self, page: &Arc<Page>) -> Arc<Page> {
        let turned = if self.mirrored {
            page.mirrored()
        } else {
            Arc::clone(page)
        };
        if self.trimmed {
            turned.trimmed()
        } else {
            turned
        }
    }
}

/// Parts of a page with a word for the name of each; layers without anything are left out.
#[must_use]
pub fn parts(page: &Arc<Page>, split: Split) -> Vec<(String, Arc<Page>)> {
    let key = |l: &CutLayer| match split {
        Split::One => String::new(),
        Split::Layer => l.name.clone(),
        Split::Material => match &l.stock_colour {
            Some(colour) => format!("{} {colour}", l.material.name),
            None => l.material.name.clone(),
        },
    };
    let mut keys: Vec<String> = Vec::new();
    for layer in page.cutting().layers.iter().filter(|l| !l.is_empty()) {
        let key = key(layer);
        if !keys.contains(&key) {
            keys.push(key);
        }
    }
    let part = |name: String| {
        let part = page.only(|l| !l.is_empty() && key(l) == name);
        (name, part)
    };
    keys.into_iter().map(part).collect()
}

/// Writes a page, which is as it is wanted already.
///
/// # Errors
/// When there is nothing to cut, or the picture would be too large.
pub fn write(
    page: &Page,
    title: &str,
    format: Format,
    options: &Options,
) -> Result<Vec<u8>, FileError> {
    let cutting = page.cutting();
    if cutting.is_empty() {
        return Err(FileError::Nothing);
    }
    Ok(match format {
        Format::Svg => svg::write(cutting, title, options.style, options.sized).into_bytes(),
        Format::Dxf => dxf::write(cutting, options.dxf, options.unit).into_bytes(),
        Format::Pdf => pdf::layout(cutting, title, &options.spot),
        Format::Png => png::write_page(cutting, options.ppi)?,
        Format::Hpgl => hpgl::write(cutting, page.plan(), options.blade).into_bytes(),
        Format::Gcode => gcode::write(cutting, page.plan(), options.controller).into_bytes(),
    })
}

/// Files in a zip, in their order; names are made safe and told apart.
///
/// # Errors
/// When it cannot be packed.
pub fn zip(files: &[(String, &str, Vec<u8>)]) -> Result<Vec<u8>, FileError> {
    let plain = names::unique(files.iter().map(|(name, ..)| names::file(name)));
    let mut packed = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    let how = zip::write::SimpleFileOptions::default();
    for (name, (_, ending, bytes)) in plain.iter().zip(files) {
        packed.start_file(format!("{name}.{ending}"), how)?;
        packed.write_all(bytes)?;
    }
    Ok(packed.finish()?.into_inner())
}
