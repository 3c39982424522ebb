//! DXF, text or binary, to outlines: sections, layers, blocks in blocks.
//!
//! ```text
//!   bytes ─pairs─► File: unit, layers, blocks, entities ─draw─► entity, hatch ─plane─► Found, mm
//! ```
//!
//! Source: the published DXF reference (group codes; `$INSUNITS`; `INSERT` with columns and rows).
//! The drawing itself is read, not the pages for printing it. y is turned over; what is drawn
//! begins at 0, 0.

mod colour;
mod entity;
mod file;
mod hatch;
mod pairs;
mod plane;
mod spline;

use inky_core::inks::Rgb;
use inky_core::limits;
use inky_core::segment::Segment;
use kurbo::{Affine, Vec2};

use self::entity::Drawn;
use self::file::{Entity, File, known_as};
use super::{Asked, Filled, Found, Raw, TEXTS, VectorError, VectorFile, finish};

pub(super) use pairs::is_dxf;

fn broken(why: impl ToString) -> VectorError {
    VectorError::Broken {
        format: "DXF",
        why: why.to_string(),
    }
}

/// How far a curve that becomes cubics may leave its own, mm.
const ACCURACY: f64 = 1e-3;
/// A map that makes areas so much smaller shows them on edge.
const ON_EDGE: f64 = 1e-12;

/// What the entities of a block take from where it is inserted.
#[derive(Clone, Copy)]
struct Place<'n> {
    /// From the block to mm, y down.
    map: Affine,
    colour: Rgb,
    layer: &'n str,
    /// How many blocks it lies in.
    depth: usize,
}

struct Draw<'a> {
    file: &'a File<'a>,
    found: Found,
}

impl<'a> Draw<'a> {
    fn colour(&self, entity: &Entity<'_>, layer: &str, place: Place<'_>) -> Rgb {
        if let Some(stated) = entity.figure(420) {
            return colour::true_colour(stated);
        }
        match entity.figure(62).map_or(256, |c| c as i64) {
            0 => place.colour,
            256 => {
                let layer = self.file.layers.get(&known_as(layer));
                match layer.and_then(|l| l.true_colour) {
                    Some(stated) => colour::true_colour(stated),
                    None => colour::numbered(layer.map_or(7, |l| l.colour)),
                }
            }
            number => colour::numbered(number),
        }
    }

    /// Draws entities, blocks exploded.
    fn all(&mut self, list: &[Entity<'a>], place: Place<'_>) -> Result<(), VectorError> {
        if place.depth > limits::NESTING {
            return Err(VectorError::TooDeep);
        }
        let mut at = 0;
        while at < list.len() {
            let entity = list[at];
            at += 1;
            // The vertices of an older polyline follow it.
            let mut vertices: &[Entity<'_>] = &[];
            if entity.kind == "POLYLINE" {
                let end = list[at..].iter().position(|e| e.kind != "VERTEX");
                let end = at + end.unwrap_or(list.len() - at);
                vertices = &list[at..end];
                at = end;
            }
            self.one(&entity, vertices, place)?;
        }
        Ok(())
    }

    fn one(
        &mut self,
        entity: &Entity<'a>,
        vertices: &[Entity<'_>],
        place: Place<'_>,
    ) -> Result<(), VectorError> {
        if ["SEQEND", "ATTDEF", "VERTEX"].contains(&entity.kind) {
            return Ok(());
        }
        self.found.step()?;
        if entity.on_paper() {
            if entity.kind != "VIEWPORT" {
                self.found.leave_out("things on pages for printing");
            }
            return Ok(());
        }
        // What lies on layer 0 of a block lies on the layer of its insertion.
        let layer = match entity.layer() {
            "0" if place.depth > 0 => place.layer,
            own => own,
        };
        let known = self.file.layers.get(&known_as(layer));
        if known.is_some_and(|l| l.hidden) || entity.flags(60) == 1 {
            self.found.leave_out("things on hidden layers");
            return Ok(());
        }
        let place = Place {
            colour: self.colour(entity, layer, place),
            layer,
            ..place
        };
        match entity.kind {
            "INSERT" => return self.insert(entity, place),
            "HATCH" => return self.hatch(entity, place),
            "ATTRIB" => {
                self.found.leave_out(TEXTS);
                return Ok(());
            }
            _ => {}
        }
        let scale = place.map.determinant().abs().sqrt().max(1e-12);
        match entity::drawn(entity, vertices, ACCURACY / scale) {
            Drawn::Path(path) => {
                for kind in path.changed {
                    self.found.leave_out(kind);
                }
                let map = place.map * path.plane;
                if map.determinant().abs() < ON_EDGE {
                    self.found.leave_out("things that stand on edge");
                    return Ok(());
                }
                let segments: Vec<_> = path.segments.iter().flat_map(|s| s.moved(map)).collect();
                self.found.count(segments.len())?;
                if segments.is_empty() {
                    self.found.leave_out("things of no size");
                    return Ok(());
                }
                let layer = Some(layer.to_owned());
                if path.filled {
                    self.found.filled.push(Filled {
                        colour: place.colour,
                        layer,
                        nonzero: false,
                        rings: vec![segments],
                    });
                } else {
                    self.found.lines.push(Raw {
                        colour: place.colour,
                        layer,
                        pen: path.width * scale,
                        segments,
                        closed: path.closed,
                    });
                }
            }
            Drawn::Other(kind) => self.found.leave_out(kind),
        }
        Ok(())
    }

    fn hatch(&mut self, entity: &Entity<'_>, place: Place<'_>) -> Result<(), VectorError> {
        let scale = place.map.determinant().abs().sqrt().max(1e-12);
        let Some(rings) = hatch::rings(entity, ACCURACY / scale) else {
            self.found.leave_out("hatches that cannot be read");
            return Ok(());
        };
        if rings.is_empty() {
            self.found.leave_out("hatches whose outline is drawn too");
            return Ok(());
        }
        let plane = plane::from_above(plane::normal(entity), entity.or(30, 0.0));
        let map = place.map * plane;
        if map.determinant().abs() < ON_EDGE {
            self.found.leave_out("things that stand on edge");
            return Ok(());
        }
        let moved = |ring: Vec<Segment>| ring.iter().flat_map(|s| s.moved(map)).collect::<Vec<_>>();
        let rings: Vec<Vec<Segment>> = rings.into_iter().map(moved).collect();
        self.found.count(rings.iter().map(Vec::len).sum())?;
        self.found.filled.push(Filled {
            colour: place.colour,
            layer: Some(place.layer.to_owned()),
            nonzero: false,
            rings,
        });
        Ok(())
    }

    fn insert(&mut self, entity: &Entity<'a>, place: Place<'_>) -> Result<(), VectorError> {
        let file = self.file;
        let name = known_as(entity.text(2).unwrap_or(""));
        let Some(block) = file.blocks.get(&name) else {
            self.found.leave_out("blocks that are not in the file");
            return Ok(());
        };
        let plane = plane::from_above(plane::normal(entity), entity.or(30, 0.0));
        let corner = Affine::translate((entity.or(10, 0.0), entity.or(20, 0.0)))
            * Affine::rotate(entity.or(50, 0.0).to_radians());
        let scale = Affine::scale_non_uniform(entity.or(41, 1.0), entity.or(42, 1.0));
        let outer = place.map * plane * corner;
        if (outer * scale).determinant().abs() < ON_EDGE {
            self.found.leave_out("blocks of no size");
            return Ok(());
        }
        if block.entities.is_empty() {
            return Ok(());
        }
        let count = |code| entity.or(code, 1.0).clamp(1.0, 1e6) as u64;
        let (columns, rows) = (count(70), count(71));
        let apart = Vec2::new(entity.or(44, 0.0), entity.or(45, 0.0));
        for n in 0..columns * rows {
            self.found.step()?;
            let (column, row) = ((n % columns) as f64, (n / columns) as f64);
            let by = Vec2::new(column * apart.x, row * apart.y);
            let map = outer * Affine::translate(by) * scale * Affine::translate(-block.base);
            let inner = Place {
                map,
                depth: place.depth + 1,
                ..place
            };
            self.all(&block.entities, inner)?;
        }
        Ok(())
    }
}

pub(super) fn read(bytes: &[u8], asked: &Asked) -> Result<VectorFile, VectorError> {
    let text;
    let pairs = if pairs::is_binary(bytes) {
        pairs::of_binary(bytes)?
    } else {
        text = pairs::decoded(bytes);
        pairs::of_text(&text)?
    };
    let file = File::sorted(&pairs);
    let (mm, taken_for) = file.scale(asked.unit);
    let mut draw = Draw {
        file: &file,
        found: Found::new(asked),
    };
    let place = Place {
        map: Affine::scale_non_uniform(mm, -mm),
        colour: Rgb([0, 0, 0]),
        layer: "0",
        depth: 0,
    };
    draw.all(&file.entities, place)?;
    finish("DXF", at_origin(draw.found), None, taken_for)
}

/// What was found, moved so that it begins at 0, 0.
fn at_origin(mut found: Found) -> Found {
    let moved = Affine::translate(-found.bounds().origin().to_vec2());
    let lines = found.lines.iter_mut().map(|raw| &mut raw.segments);
    let fills = found.filled.iter_mut().flat_map(|filled| &mut filled.rings);
    for segments in lines.chain(fills) {
        *segments = segments.iter().flat_map(|s| s.moved(moved)).collect();
    }
    found
}
