//! Vector files: SVG, DXF, HPGL and G-code to outlines in mm, y down, with a report of what was left out.
//!
//! Lines that share ends are joined; what closes becomes an outline, nested with those of the same
//! colour. Filled paths are outlines by their own rule. Nothing is dropped in silence: what cannot
//! be read is counted by kind.

mod dxf;
mod dxf_entity;
mod machine_in;
mod rendered;
mod spline;
mod svg_in;

use std::collections::BTreeMap;

use crate::{gcode, hpgl};
use inky_core::inks::{InkId, Rgb};
use inky_core::limits;
use inky_core::overlay::{self, Keep};
use inky_core::segment::Segment;
use inky_core::shapes::Ring;
use inky_core::tidy::{Drawing, Kind, Path, PathData, chained, nested};

/// What was read.
#[derive(Clone, Debug, PartialEq)]
pub struct VectorFile {
    /// Name of the format.
    pub format: &'static str,
    /// Outlines and lines.
    pub parts: Vec<VectorPart>,
    /// Width and height of the page, or of what is drawn where there is none, mm.
    pub size: [f64; 2],
    /// Whether the file states how large it is.
    pub stated: bool,
    /// Pairs of ends that were joined.
    pub joined: usize,
    /// What was left out or changed, by kind, with its count.
    pub left_out: BTreeMap<&'static str, usize>,
}

/// Outlines of one filled path or of one colour, or a line.
#[derive(Clone, Debug, PartialEq)]
pub struct VectorPart {
    /// Its colour.
    pub colour: Rgb,
    /// Width of the pen of a line, mm; outlines have none.
    pub pen: Option<f64>,
    /// Its paths, mm.
    pub paths: Vec<PathData>,
}

/// Why a vector file was not read. Nothing was changed.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum VectorError {
    /// None of the formats that are read.
    #[error("this is no SVG, ASCII DXF, HPGL or G-code file; save it as one of these")]
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
    /// Blocks in blocks beyond the limit.
    #[error(
        "blocks lie in each other more than {} deep; explode them first",
        limits::NESTING
    )]
    TooDeep,
    /// Nothing in it.
    #[error("there are no outlines or lines in this file{}", held(.0))]
    Empty(BTreeMap<&'static str, usize>),
}

/// A path as it is read.
#[derive(Clone, Debug)]
struct Raw {
    colour: Rgb,
    segments: Vec<Segment>,
    closed: bool,
}

/// What a reader found.
#[derive(Default)]
struct Found {
    /// Filled paths with their colour; each has rings that belong together.
    filled: Vec<(Rgb, bool, Vec<Vec<Segment>>)>,
    /// Lines with the width of their pen.
    lines: Vec<(Raw, f64)>,
    left_out: BTreeMap<&'static str, usize>,
    segments: usize,
}

impl Found {
    fn leave_out(&mut self, kind: &'static str) {
        *self.left_out.entry(kind).or_default() += 1;
    }

    fn count(&mut self, segments: usize) -> Result<(), VectorError> {
        self.segments += segments;
        if self.segments > limits::SEGMENTS {
            return Err(VectorError::TooManySegments);
        }
        Ok(())
    }
}

/// What pictures in a file are called.
const PICTURES: &str = "pictures";
/// Ends nearer than this are one, mm.
const SAME: f64 = 0.01;
/// A line that has no width is drawn with this pen, mm.
const PEN: f64 = 0.25;

/// Whether bytes look like a vector file read here.
#[must_use]
pub fn is_vector(bytes: &[u8]) -> bool {
    kind(bytes).is_some()
}

fn kind(bytes: &[u8]) -> Option<&'static str> {
    let head = &bytes[..bytes.len().min(4096)];
    let text = String::from_utf8_lossy(head);
    let text = text.trim_start_matches('\u{feff}').trim_start();
    if text.starts_with('<') && text.contains("<svg") {
        return Some("SVG");
    }
    let mut lines = text.lines().map(str::trim);
    let comment = |line: Option<&str>| line == Some("999");
    let mut code = lines.next();
    while comment(code) {
        lines.next();
        code = lines.next();
    }
    if code == Some("0") && lines.next() == Some("SECTION") {
        Some("DXF")
    } else if hpgl::is_hpgl(bytes) {
        Some("HPGL")
    } else {
        gcode::is_gcode(bytes).then_some("G-code")
    }
}

/// Reads an SVG, DXF, HPGL or G-code file.
///
/// # Errors
/// [`VectorError`] says what is wrong with it.
pub fn read(bytes: &[u8]) -> Result<VectorFile, VectorError> {
    if bytes.len() > limits::FILE_BYTES {
        return Err(VectorError::TooManyBytes);
    }
    match kind(bytes) {
        Some("SVG") => svg_in::read(bytes),
        Some("DXF") => dxf::read(bytes),
        Some("HPGL") => machine_in::read("HPGL", &hpgl::read(bytes)?),
        Some(_) => machine_in::read("G-code", &gcode::read(bytes)?),
        None => Err(VectorError::Unknown),
    }
}

/// Joins, nests and sorts what a reader found; `page` is its size where it states one.
fn finish(
    format: &'static str,
    mut found: Found,
    page: Option<[f64; 2]>,
    stated: bool,
) -> Result<VectorFile, VectorError> {
    let mut parts: Vec<VectorPart> = Vec::new();
    for (colour, nonzero, rings) in std::mem::take(&mut found.filled) {
        let data = |segments: &[Segment]| PathData::of(segments, true);
        let paths = if nonzero && rings.len() > 1 {
            // Which of them are holes depends on which way they run.
            let rings: Vec<Ring> = rings
                .into_iter()
                .filter_map(|r| Ring::new(r, Vec::new()))
                .collect();
            let whole = overlay::overlay(&rings.iter().collect::<Vec<_>>(), &[], Keep::Union);
            whole
                .iter()
                .flat_map(overlay::Rings::all)
                .map(|r| data(r.segments()))
                .collect()
        } else {
            rings.iter().map(|r| data(r)).collect()
        };
        parts.push(VectorPart {
            colour,
            pen: None,
            paths,
        });
    }
    // Lines of one colour are joined, and their closed ones nested.
    let mut by_colour: BTreeMap<[u8; 3], Vec<(Path, f64)>> = BTreeMap::new();
    for (raw, pen) in found.lines {
        let path = Path::new(raw.segments, raw.closed);
        by_colour.entry(raw.colour.0).or_default().push((path, pen));
    }
    let mut joined = 0;
    for (colour, lines) in by_colour {
        let pen = lines.iter().map(|(_, pen)| *pen).fold(0.0, f64::max);
        let paths: Vec<Path> = lines.into_iter().map(|(path, _)| path).collect();
        let (chains, pairs) = chained(&paths, SAME);
        joined += pairs;
        let (closed, open): (Vec<Path>, Vec<Path>) = chains.into_iter().partition(|p| p.closed);
        let data = |p: &Path| PathData::of(&p.segments, p.closed);
        let colour = Rgb(colour);
        if !closed.is_empty() {
            let paths = closed.iter().map(data).collect();
            parts.push(VectorPart {
                colour,
                pen: None,
                paths,
            });
        }
        let pen = Some(if pen > 0.0 { pen } else { PEN });
        parts.extend(open.iter().map(|p| VectorPart {
            colour,
            pen,
            paths: vec![data(p)],
        }));
    }
    parts.retain(|part| part.paths.iter().any(|p| p.segments().is_ok()));
    if parts.is_empty() {
        return Err(VectorError::Empty(found.left_out));
    }
    let segments = parts
        .iter()
        .flat_map(|p| &p.paths)
        .filter_map(|p| p.segments().ok())
        .flatten();
    let bounds = segments
        .map(|s| s.bounds())
        .reduce(|a, b| a.union(b))
        .unwrap_or_default();
    Ok(VectorFile {
        format,
        parts,
        size: page.unwrap_or([bounds.width(), bounds.height()]),
        stated,
        joined,
        left_out: found.left_out,
    })
}

/// What a file holds instead, as the end of a sentence.
fn held(kinds: &BTreeMap<&'static str, usize>) -> String {
    let all = kinds.iter().map(|(kind, n)| format!("{n} {kind}"));
    let told = all.collect::<Vec<_>>().join(", ");
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
        let all = self.left_out.iter().map(|(kind, n)| format!("{n} {kind}"));
        all.collect::<Vec<_>>().join(", ")
    }
}
