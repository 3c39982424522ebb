//! DXF of a page, ASCII, y up, the page's lower left corner at 0, 0.
//!
//! ```text
//!   HEADER   version, unit, extents          AC1015 (2000): LWPOLYLINE with bulges, SPLINE of degree 3
//!   TABLES   one layer of the file a layer   AC1009 (R12): POLYLINE, VERTEX, SEQEND with bulges
//!   ENTITIES one for every ring and line, closed ones flagged; nothing twice, no hatch, no block
//! ```
//!
//! Bulge = tan(sweep / 4). A ring with cubics is one closed SPLINE; on wish, and always in R12, its cubics
//! become arcs within [`ARC_TOLERANCE`]. No date and no random handle: the same page gives the same bytes.
//! Source: DXF Reference (Autodesk), group codes of AC1009 and AC1015.

mod spline;
mod tables;

use std::fmt::Write as _;

use inky_core::cutting::Cutting;
use inky_core::segment::Segment;
use inky_core::units::Unit;
use kurbo::{Affine, Point};

use crate::arcs::as_arcs;
use crate::names;

/// Greatest distance of arcs from the cubics they stand for, mm.
pub const ARC_TOLERANCE: f64 = 0.005;

/// Which DXF is written.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Version {
    /// AC1015, cubics as splines.
    #[default]
    Splines,
    /// AC1015, cubics as arcs.
    Arcs,
    /// AC1009, which knows arcs alone.
    R12,
}

/// Pairs of group code and value.
pub(crate) struct Groups {
    text: String,
    handle: u32,
}

impl Groups {
    fn put(&mut self, code: u32, value: impl std::fmt::Display) {
        // Writing into a string cannot fail.
        let _ = write!(self.text, "{code:>3}\r\n{value}\r\n");
    }

    /// A coordinate: shortest text that reads back as the same number to 1e-7 mm.
    fn number(&mut self, code: u32, value: f64) {
        let rounded = (value * 1e7).round() / 1e7;
        let rounded = if rounded == 0.0 { 0.0 } else { rounded };
        self.put(code, format_args!("{rounded:?}"));
    }

    fn handle(&mut self) -> String {
        self.handle += 1;
        format!("{:X}", self.handle)
    }
}

/// Writes a page as DXF.
#[must_use]
pub fn write(cutting: &Cutting, version: Version, unit: Unit) -> String {
    let scale = 1.0 / unit.in_mm();
    let up = Affine::new([scale, 0.0, 0.0, -scale, 0.0, cutting.size[1] * scale]);
    let names = names::unique(cutting.layers.iter().map(|l| names::plain(&l.name)));
    let mut out = Groups {
        text: String::new(),
        handle: 0x100,
    };
    let old = version == Version::R12;
    let entities = entities(cutting, &names, version, up);
    let size = cutting.size.map(|side| side * scale);
    tables::header(&mut out, old, unit, size);
    let colours: Vec<u8> = cutting
        .layers
        .iter()
        .map(|l| tables::index(l.colour))
        .collect();
    tables::tables(&mut out, old, &names, &colours);
    out.put(0, "SECTION");
    out.put(2, "ENTITIES");
    for entity in &entities {
        entity.put(&mut out, old);
    }
    out.put(0, "ENDSEC");
    if !old {
        tables::objects(&mut out);
    }
    out.put(0, "EOF");
    out.text
}

/// An entity before it has its handle.
struct Entity<'a> {
    layer: &'a str,
    closed: bool,
    segments: Vec<Segment>,
    spline: bool,
}

fn entities<'a>(
    cutting: &Cutting,
    names: &'a [String],
    version: Version,
    up: Affine,
) -> Vec<Entity<'a>> {
    let mut found = Vec::new();
    for (layer, name) in cutting.layers.iter().zip(names) {
        let rings = layer.rings().map(|r| (r.segments(), true));
        let lines = layer
            .lines
            .iter()
            .map(|l| (l.segments.as_slice(), l.closed));
        for (segments, closed) in rings.chain(lines) {
            let cubics = segments.iter().any(|s| matches!(s, Segment::Cubic(_)));
            let spline = cubics && version == Version::Splines;
            let simple = if cubics && !spline {
                as_arcs(segments, ARC_TOLERANCE)
            } else {
                segments.to_vec()
            };
            found.push(Entity {
                layer: name,
                closed,
                segments: simple.iter().flat_map(|s| s.moved(up)).collect(),
                spline,
            });
        }
    }
    found
}

impl Entity<'_> {
    fn put(&self, out: &mut Groups, old: bool) {
        match (old, self.spline) {
            (true, _) => self.polyline(out),
            (false, true) => spline::put(out, self.layer, &self.segments, self.closed),
            (false, false) => self.light_polyline(out),
        }
    }

    /// Corners with the bulge of what follows each; an open line has its end too.
    fn corners(&self) -> Vec<(Point, f64)> {
        let bulge = |s: &Segment| match s {
            Segment::Arc(a) => a.bulge,
            _ => 0.0,
        };
        let corners = self.segments.iter().map(|s| (s.start(), bulge(s)));
        let end = self.segments.last().map(|s| (s.end(), 0.0));
        corners.chain(end.filter(|_| !self.closed)).collect()
    }

    fn light_polyline(&self, out: &mut Groups) {
        let corners = self.corners();
        out.put(0, "LWPOLYLINE");
        entity_head(out, self.layer);
        out.put(100, "AcDbPolyline");
        out.put(90, corners.len());
        out.put(70, u8::from(self.closed));
        for (p, bulge) in corners {
            out.number(10, p.x);
            out.number(20, p.y);
            if bulge.abs() > 0.0 {
                out.number(42, bulge);
            }
        }
    }

    fn polyline(&self, out: &mut Groups) {
        out.put(0, "POLYLINE");
        out.put(8, self.layer);
        out.put(66, 1);
        for code in [10, 20, 30] {
            out.number(code, 0.0);
        }
        out.put(70, u8::from(self.closed));
        for (p, bulge) in self.corners() {
            out.put(0, "VERTEX");
            out.put(8, self.layer);
            out.number(10, p.x);
            out.number(20, p.y);
            out.number(30, 0.0);
            if bulge.abs() > 0.0 {
                out.number(42, bulge);
            }
        }
        out.put(0, "SEQEND");
        out.put(8, self.layer);
    }
}

/// What every entity of AC1015 begins with.
fn entity_head(out: &mut Groups, layer: &str) {
    let handle = out.handle();
    out.put(5, handle);
    out.put(330, tables::MODEL);
    out.put(100, "AcDbEntity");
    out.put(8, layer);
}
