//! What a reader found, and how it becomes a file's parts: filled by their rule, joined, sorted.

use std::collections::{BTreeMap, BTreeSet};

use inky_core::inks::Rgb;
use inky_core::limits;
use inky_core::overlay::{self, Keep};
use inky_core::segment::Segment;
use inky_core::shapes::Ring;
use inky_core::stop::Stop;
use inky_core::tidy::{Path, PathData, chained, stacked};
use kurbo::Rect;

use super::{Asked, FileUnit, PEN, VectorError, VectorFile, VectorPart};

/// A line as it is read, mm.
#[derive(Clone, Debug)]
pub(super) struct Raw {
    pub(super) colour: Rgb,
    pub(super) layer: Option<String>,
    /// Width it is drawn with, mm; nought where it has none.
    pub(super) pen: f64,
    pub(super) segments: Vec<Segment>,
    pub(super) closed: bool,
}

/// A filled path as it is read, mm.
#[derive(Clone, Debug)]
pub(super) struct Filled {
    pub(super) colour: Rgb,
    pub(super) layer: Option<String>,
    /// Whether which way a ring runs tells if it is a hole.
    pub(super) nonzero: bool,
    pub(super) rings: Vec<Vec<Segment>>,
}

/// What a reader found.
#[derive(Default)]
pub(super) struct Found {
    pub(super) filled: Vec<Filled>,
    pub(super) lines: Vec<Raw>,
    pub(super) left_out: BTreeMap<&'static str, usize>,
    as_drawn: bool,
    pub(super) stop: Stop,
    segments: usize,
    steps: usize,
}

/// Elements, also such as are shown again, that are followed at most.
const STEPS: usize = 1_000_000;
/// Ends nearer than this are one, mm.
const SAME: f64 = 0.01;
/// Places where the sides of one filled path may cross.
const CROSSINGS: usize = 100_000;
/// Pairs of outlines of which one may lie in the other: how each is nested is still found in time.
const STACKED: usize = 2_000_000;
/// A page or a drawing is at most so long, mm.
const LONGEST: f64 = 1e6;

impl Found {
    pub(super) fn new(asked: &Asked) -> Self {
        Self {
            as_drawn: asked.as_drawn,
            stop: asked.stop.clone(),
            ..Self::default()
        }
    }

    pub(super) fn leave_out(&mut self, kind: &'static str) {
        *self.left_out.entry(kind).or_default() += 1;
    }

    /// The box around all of it; nothing is an empty one.
    pub(super) fn bounds(&self) -> Rect {
        let lines = self.lines.iter().map(|raw| &raw.segments);
        let fills = self.filled.iter().flat_map(|filled| &filled.rings);
        let boxes = lines.chain(fills).flatten().map(Segment::bounds);
        boxes.reduce(|a, b| a.union(b)).unwrap_or_default()
    }

    /// Counts segments before they are drawn.
    pub(super) fn count(&mut self, segments: usize) -> Result<(), VectorError> {
        self.stop.check()?;
        self.segments += segments;
        if self.segments > limits::SEGMENTS {
            return Err(VectorError::TooManySegments);
        }
        Ok(())
    }

    /// Counts an element before it is followed.
    pub(super) fn step(&mut self) -> Result<(), VectorError> {
        self.stop.check()?;
        self.steps += 1;
        if self.steps > STEPS {
            return Err(VectorError::TooMany {
                what: "elements, those shown again counted each time",
                limit: STEPS,
            });
        }
        Ok(())
    }
}

/// Joins, nests and sorts what a reader found; `page` is its size where it states one.
pub(super) fn finish(
    format: &'static str,
    found: Found,
    page: Option<[f64; 2]>,
    taken_for: Option<FileUnit>,
) -> Result<VectorFile, VectorError> {
    let bounds = found.bounds();
    let size = page.unwrap_or([bounds.width(), bounds.height()]);
    let longest = size[0].max(size[1]);
    if !longest.is_finite() || longest > LONGEST {
        return Err(VectorError::TooLarge {
            width_m: longest / 1000.0,
        });
    }
    let mut shades = Shades::default();
    let mut parts: Vec<VectorPart> = Vec::new();
    for filled in found.filled {
        found.stop.check()?;
        parts.push(VectorPart {
            colour: shades.of(filled.colour, filled.layer.as_ref()),
            pen: None,
            paths: paths(filled.rings, filled.nonzero, found.as_drawn)?,
            layer: filled.layer,
        });
    }
    let (lines, joined) = joined(found.lines, &mut shades, &found.stop)?;
    parts.extend(lines);
    parts.retain(|part| part.paths.iter().any(|p| p.segments().is_ok()));
    if parts.is_empty() {
        return Err(VectorError::Empty(found.left_out));
    }
    Ok(VectorFile {
        format,
        parts,
        size,
        taken_for,
        joined,
        left_out: found.left_out,
    })
}

/// The outlines of a filled path: its rings as they are where they neither cross nor depend on
/// which way they run.
fn paths(
    rings: Vec<Vec<Segment>>,
    nonzero: bool,
    as_drawn: bool,
) -> Result<Vec<PathData>, VectorError> {
    let rings: Vec<Ring> = rings
        .into_iter()
        .filter_map(closed)
        .filter_map(|r| Ring::new(r, Vec::new()))
        .collect();
    let all: Vec<&Ring> = rings.iter().collect();
    let simple = all.len() == 1 && all[0].segments().len() < 4 && straight(all[0]);
    if !simple && overlay::tangled(&all, CROSSINGS) {
        return Err(VectorError::TooMany {
            what: "crossings in a filled path",
            limit: CROSSINGS,
        });
    }
    let alone = all.len() == 1 || !nonzero;
    let as_it_is = simple || alone && (as_drawn || overlay::fault(&all).is_none());
    let data = |r: &Ring| PathData::of(r.segments(), true);
    if as_it_is {
        return Ok(rings.iter().map(data).collect());
    }
    let keep = if nonzero { Keep::Union } else { Keep::Odd };
    let whole = overlay::overlay(&all, &[], keep);
    let edges = whole.iter().flat_map(overlay::Rings::all);
    Ok(edges.map(data).collect())
}

fn straight(ring: &Ring) -> bool {
    let mut segments = ring.segments().iter();
    segments.all(|s| matches!(s, Segment::Line(_)))
}

/// A filled sub-path closed: the line back to its start belongs to it.
fn closed(mut segments: Vec<Segment>) -> Option<Vec<Segment>> {
    let (start, end) = (segments.first()?.start(), segments.last()?.end());
    if start.distance(end) > SAME / 100.0 {
        segments.push(Segment::Line(kurbo::Line::new(end, start)));
    }
    Some(segments)
}

/// Lines drawn alike.
#[derive(PartialEq, Eq, PartialOrd, Ord)]
struct Alike {
    colour: [u8; 3],
    layer: Option<String>,
    /// Bits of the width.
    pen: u64,
}

/// Lines drawn alike joined where they share ends, those that close as outlines; how many pairs of
/// ends met. More outlines over each other than can be told apart in time are refused.
fn joined(
    lines: Vec<Raw>,
    shades: &mut Shades,
    stop: &Stop,
) -> Result<(Vec<VectorPart>, usize), VectorError> {
    let mut groups: Vec<(Rgb, Option<String>, f64, Vec<Path>)> = Vec::new();
    let mut known: BTreeMap<Alike, usize> = BTreeMap::new();
    for raw in lines {
        let alike = Alike {
            colour: raw.colour.0,
            layer: raw.layer.clone(),
            pen: raw.pen.to_bits(),
        };
        let group = *known.entry(alike).or_insert_with(|| {
            groups.push((raw.colour, raw.layer, raw.pen, Vec::new()));
            groups.len() - 1
        });
        groups[group].3.push(Path::new(raw.segments, raw.closed));
    }
    let (mut parts, mut joined) = (Vec::new(), 0);
    for (colour, layer, pen, paths) in groups {
        stop.check()?;
        let colour = shades.of(colour, layer.as_ref());
        let (chains, pairs) = chained(&paths, SAME);
        joined += pairs;
        let (closed, open): (Vec<Path>, Vec<Path>) = chains.into_iter().partition(|p| p.closed);
        let data = |p: &Path| PathData::of(&p.segments, p.closed);
        let part = |pen, paths| VectorPart {
            colour,
            layer: layer.clone(),
            pen,
            paths,
        };
        if stacked(&closed, STACKED) {
            return Err(VectorError::TooMany {
                what: "outlines over each other",
                limit: STACKED,
            });
        }
        if !closed.is_empty() {
            parts.push(part(None, closed.iter().map(data).collect()));
        }
        let pen = Some(if pen > 0.0 { pen } else { PEN });
        parts.extend(open.iter().map(|p| part(pen, vec![data(p)])));
    }
    Ok((parts, joined))
}

/// Colours by layer: two layers of one colour get shades that only a program tells apart.
#[derive(Default)]
struct Shades {
    taken: BTreeSet<[u8; 3]>,
    given: BTreeMap<([u8; 3], Option<String>), Rgb>,
}

impl Shades {
    fn of(&mut self, colour: Rgb, layer: Option<&String>) -> Rgb {
        let key = (colour.0, layer.cloned());
        if let Some(&known) = self.given.get(&key) {
            return known;
        }
        let near = |by: i32| {
            let [r, g, b] = colour.0;
            let moved = i32::from(b) + by;
            u8::try_from(moved).ok().map(|b| [r, g, b])
        };
        let steps = (0..256).flat_map(|n| [n, -n]).filter_map(near);
        // Layers without a name, as in SVG, are told apart by colour alone.
        let free = steps
            .into_iter()
            .find(|c| layer.is_none() || !self.taken.contains(c));
        let shade = free.unwrap_or(colour.0);
        self.taken.insert(shade);
        self.given.insert(key, Rgb(shade));
        Rgb(shade)
    }
}
