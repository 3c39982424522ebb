//! Vector files: SVG, DXF, HPGL and G-code to outlines in mm, y down, with a report of what was left out.
//!
//! ```text
//!   bytes ─text─► SVG | DXF | HPGL | G-code ──► Found: fills, lines ──finish──► VectorFile
//! ```
//!
//! Lines that share ends are joined; what closes becomes an outline, nested with those of the same
//! layer and colour. Filled paths are outlines by their own rule. Nothing is dropped in silence:
//! what cannot be read is counted by kind.

mod dxf;
mod found;
mod machine_in;
mod rendered;
mod svg;
mod text;
mod unit;

use std::collections::BTreeMap;

use crate::{gcode, hpgl};
use inky_core::inks::{InkId, Rgb};
use inky_core::limits;
use inky_core::stop::{Stop, Stopped};
use inky_core::tidy::{Drawing, Kind, Path, PathData, nested};

use found::{Filled, Found, Raw, finish};
pub use unit::FileUnit;

/// What is asked of a reader beyond the file itself.
#[derive(Clone, Debug, Default)]
pub struct Asked {
    /// What the figures of the file are, whatever it says; `None` as it says.
    pub unit: Option<FileUnit>,
    /// Whether the lines of a filled path are wanted as they are drawn, also where they cross, rather
    /// than the edge of what it fills: to look for faults.
    pub as_drawn: bool,
    /// Set where what is read is no longer wanted.
    pub stop: Stop,
}

/// What was read.
#[derive(Clone, Debug, PartialEq)]
pub struct VectorFile {
    /// Name of the format.
    pub format: &'static str,
    /// Outlines and lines.
    pub parts: Vec<VectorPart>,
    /// Width and height of the page, or of what is drawn where there is none, mm.
    pub size: [f64; 2],
    /// What its unit was taken for, where the file does not state it.
    pub taken_for: Option<FileUnit>,
    /// Pairs of ends that were joined.
    pub joined: usize,
    /// What was left out or changed, by kind, with its count.
    pub left_out: BTreeMap<&'static str, usize>,
}

/// Outlines of one filled path or of one colour, or a line.
#[derive(Clone, Debug, PartialEq)]
pub struct VectorPart {
    /// Its colour. No two layers that have a name share one: a second one differs by a shade.
    pub colour: Rgb,
    /// Name of its layer, where the file has any.
    pub layer: Option<String>,
    /// Width of the pen of a line, mm; outlines have none.
    pub pen: Option<f64>,
    /// Its paths, mm.
    pub paths: Vec<PathData>,
}

/// Why a vector file was not read. Nothing was changed.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum VectorError {
    /// Given up, since nobody wants it any more.
    #[error(transparent)]
    Stopped(#[from] Stopped),
    /// None of the formats that are read.
    #[error("this is no SVG, DXF, HPGL or G-code file; save it as one of these")]
    Unknown,
    /// Above the limit on bytes.
    #[error("the file has more than {} MB; save it with fewer nodes", limits::FILE_BYTES >> 20)]
    TooManyBytes,
    /// Broken.
    #[error("this {format} file cannot be read ({why}); open it elsewhere and save it anew")]
    Broken {
        /// Name of the format.
        format: &'static str,
        /// What is wrong.
        why: String,
    },
    /// More segments than are handled.
    #[error(
        "the file has more than {} segments; simplify it first",
        limits::SEGMENTS
    )]
    TooManySegments,
    /// More of something than can be read in a bounded time.
    #[error("the file has more than {limit} {what}; simplify it first")]
    TooMany {
        /// What there is too much of.
        what: &'static str,
        /// How many are read.
        limit: usize,
    },
    /// Blocks or groups in each other beyond the limit.
    #[error(
        "blocks or groups lie in each other more than {} deep; explode or ungroup them first",
        limits::NESTING
    )]
    TooDeep,
    /// Larger than anything that is cut.
    #[error(
        "what it draws is {width_m:.0} m wide, more than any material; is its unit the right one?"
    )]
    TooLarge {
        /// Width or height, m.
        width_m: f64,
    },
    /// Nothing in it.
    #[error("there are no outlines or lines in this file{}", held(.0))]
    Empty(BTreeMap<&'static str, usize>),
}

/// What pictures in a file are called.
const PICTURES: &str = "pictures";
/// What texts in a file are called.
const TEXTS: &str = "texts (set them as lettering, or turn them into outlines first)";
/// A line that has no width is drawn with this pen, mm.
const PEN: f64 = 0.25;
/// What a file is known by lies within its first bytes.
const HEAD: usize = 1 << 16;

/// Whether bytes look like a vector file read here.
#[must_use]
pub fn is_vector(bytes: &[u8]) -> bool {
    kind(&text::head(bytes, HEAD)).is_some()
}

fn kind(head: &[u8]) -> Option<&'static str> {
    if text::may_be_xml(head) && svg::is_svg(&text::decoded(head)) {
        Some("SVG")
    } else if dxf::is_dxf(head) {
        Some("DXF")
    } else if text::is_binary(head) {
        None
    } else if hpgl::is_hpgl(head) {
        Some("HPGL")
    } else {
        gcode::is_gcode(head).then_some("G-code")
    }
}

/// Reads an SVG, DXF, HPGL or G-code file as it says.
///
/// # Errors
/// [`VectorError`] says what is wrong with it.
pub fn read(bytes: &[u8]) -> Result<VectorFile, VectorError> {
    read_as(bytes, &Asked::default())
}

/// Reads an SVG, DXF, HPGL or G-code file.
///
/// # Errors
/// [`VectorError`] says what is wrong with it.
pub fn read_as(bytes: &[u8], asked: &Asked) -> Result<VectorFile, VectorError> {
    if bytes.len() > limits::FILE_BYTES {
        return Err(VectorError::TooManyBytes);
    }
    let bytes = &*text::unpacked(bytes)?;
    match kind(&bytes[..bytes.len().min(HEAD)]) {
        Some("SVG") => svg::read(bytes, asked),
        Some("DXF") => dxf::read(bytes, asked),
        Some("HPGL") => machine_in::read("HPGL", hpgl::read_until(bytes, &asked.stop)?, asked),
        Some(_) => {
            let path = gcode::read_until(bytes, asked.unit, &asked.stop)?;
            machine_in::read("G-code", path, asked)
        }
        None => Err(VectorError::Unknown),
    }
}

/// Kinds of things with their count, in words; empty where there are none.
pub(crate) fn listed(kinds: &BTreeMap<&'static str, usize>) -> String {
    let all = kinds.iter().map(|(kind, n)| format!("{n} {kind}"));
    all.collect::<Vec<_>>().join(", ")
}

/// What a file holds instead, as the end of a sentence.
fn held(kinds: &BTreeMap<&'static str, usize>) -> String {
    let told = listed(kinds);
    if told.is_empty() {
        told
    } else {
        format!("; it holds {told}")
    }
}

impl VectorError {
    /// Whether the file holds a picture and nothing else that could be cut.
    #[must_use]
    pub fn only_a_picture(&self) -> bool {
        matches!(self, Self::Empty(kinds) if kinds.contains_key(PICTURES))
    }
}

impl VectorFile {
    /// Whether the file states how large it is.
    #[must_use]
    pub const fn stated(&self) -> bool {
        self.taken_for.is_none()
    }

    /// Names of its layers by the colour of their parts; a layer of several colours has several.
    #[must_use]
    pub fn layers(&self) -> Vec<(Rgb, &str)> {
        let mut layers: Vec<(Rgb, &str)> = Vec::new();
        for part in &self.parts {
            let named = part.layer.as_deref().map(|name| (part.colour, name));
            layers.extend(named.filter(|n| !layers.contains(n)));
        }
        layers
    }

    /// Its outlines and lines as they are, mended nowhere; an ink for each colour, in the order in
    /// which they come.
    #[must_use]
    pub fn drawing(&self) -> Drawing {
        let mut drawing = Drawing {
            items: Vec::new(),
            added_inks: Vec::new(),
            artwork_inks: 0,
            next: 0,
        };
        for part in &self.parts {
            let inks = &mut drawing.added_inks;
            let known = inks.iter().position(|&c| c == part.colour);
            // All colours beyond the greatest number of inks count as one.
            let ink = known.unwrap_or(inks.len()).min(usize::from(u8::MAX));
            if ink == inks.len() {
                inks.push(part.colour);
            }
            let ink = InkId(ink as u8);
            let paths: Vec<Path> = part
                .paths
                .iter()
                .filter_map(|p| Some(Path::new(p.segments().ok()?, p.closed)))
                .collect();
            match part.pen {
                Some(pen) => {
                    for path in paths {
                        drawing.add(ink, Kind::Line { pen }, vec![path]);
                    }
                }
                None => {
                    for shape in nested(paths) {
                        drawing.add(ink, Kind::Shape, shape);
                    }
                }
            }
        }
        drawing
    }

    /// What was left out or changed, in words; empty where nothing was.
    #[must_use]
    pub fn report(&self) -> String {
        listed(&self.left_out)
    }
}
