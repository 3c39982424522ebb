//! ASCII DXF to outlines: pairs of group codes and values, sections, layers, blocks.
//!
//! Source: the published DXF reference (group codes; `$INSUNITS`; `INSERT` with columns and rows).
//! y is turned over; what is drawn begins at 0, 0.

use std::collections::BTreeMap;

use inky_core::inks::Rgb;
use inky_core::limits;
use kurbo::{Affine, Vec2};

use super::dxf_entity::{self, Drawn};
use super::{Found, Raw, VectorError, VectorFile, finish};

/// A group code and its value.
pub(super) type Pair<'a> = (i32, &'a str);

/// An entity: its kind and its pairs.
#[derive(Clone, Copy)]
pub(super) struct Entity<'a> {
    pub(super) kind: &'a str,
    pub(super) pairs: &'a [Pair<'a>],
}

impl<'a> Entity<'a> {
    /// The text of a code.
    pub(super) fn text(&self, code: i32) -> Option<&'a str> {
        self.pairs.iter().find(|p| p.0 == code).map(|p| p.1)
    }

    /// The figure of a code, if it is one.
    pub(super) fn figure(&self, code: i32) -> Option<f64> {
        let value = self.text(code)?.parse::<f64>().ok();
        value.filter(|v| v.is_finite() && v.abs() < 1e9)
    }

    pub(super) fn or(&self, code: i32, default: f64) -> f64 {
        self.figure(code).unwrap_or(default)
    }

    pub(super) fn flags(&self, code: i32) -> i64 {
        self.or(code, 0.0) as i64
    }
}

fn broken(why: impl ToString) -> VectorError {
    VectorError::Broken {
        format: "DXF",
        why: why.to_string(),
    }
}

fn pairs(text: &str) -> Result<Vec<Pair<'_>>, VectorError> {
    let mut lines = text.lines();
    let mut pairs = Vec::new();
    while let Some(code) = lines.next() {
        let code = code.trim();
        if code.is_empty() && lines.clone().next().is_none() {
            break;
        }
        let number = code
            .parse()
            .map_err(|_| broken(format!("line {} is no group code", 2 * pairs.len() + 1)))?;
        let value = lines
            .next()
            .ok_or_else(|| broken("it ends in the middle of a pair"))?;
        pairs.push((number, value.trim()));
    }
    Ok(pairs)
}

/// Entities of a stretch of pairs.
fn entities<'a>(pairs: &'a [Pair<'a>]) -> Vec<Entity<'a>> {
    let starts: Vec<usize> = (0..pairs.len()).filter(|&n| pairs[n].0 == 0).collect();
    let ends = starts.iter().skip(1).copied().chain([pairs.len()]);
    let one = |(&from, to): (&usize, usize)| Entity {
        kind: pairs[from].1,
        pairs: &pairs[from + 1..to],
    };
    starts.iter().zip(ends).map(one).collect()
}

struct Layer {
    colour: i64,
    hidden: bool,
}

struct Block<'a> {
    base: Vec2,
    entities: Vec<Entity<'a>>,
}

/// A file, sorted.
struct File<'a> {
    layers: BTreeMap<&'a str, Layer>,
    blocks: BTreeMap<&'a str, Block<'a>>,
    entities: Vec<Entity<'a>>,
    /// Millimetres in a unit, where it is stated.
    unit: Option<f64>,
}

/// Millimetres in the units of `$INSUNITS`.
fn unit(code: i64) -> Option<f64> {
    Some(match code {
        1 => 25.4,
        2 => 304.8,
        4 => 1.0,
        5 => 10.0,
        6 => 1000.0,
        8 => 25.4e-6,
        9 => 0.0254,
        10 => 914.4,
        13 => 1e-3,
        14 => 100.0,
        _ => return None,
    })
}

impl<'a> File<'a> {
    fn sorted(pairs: &'a [Pair<'a>]) -> Self {
        let mut file = Self {
            layers: BTreeMap::new(),
            blocks: BTreeMap::new(),
            entities: Vec::new(),
            unit: None,
        };
        let section = |n: usize| pairs[n] == (0, "SECTION");
        let starts = (0..pairs.len()).filter(|&n| section(n));
        for start in starts {
            let end = (start..pairs.len()).find(|&n| pairs[n] == (0, "ENDSEC"));
            let body = &pairs[start + 1..end.unwrap_or(pairs.len())];
            match body.first().map(|p| p.1) {
                Some("HEADER") => {
                    let at = body.iter().position(|p| *p == (9, "$INSUNITS"));
                    let code = at.and_then(|n| body.get(n + 1)?.1.parse().ok());
                    file.unit = code.and_then(unit);
                }
                Some("TABLES") => {
                    for layer in entities(body).iter().filter(|e| e.kind == "LAYER") {
                        let colour = layer.flags(62);
                        let hidden = colour < 0 || layer.flags(70) & 1 == 1;
                        let colour = colour.abs();
                        file.layers
                            .insert(layer.text(2).unwrap_or(""), Layer { colour, hidden });
                    }
                }
                Some("BLOCKS") => file.take_blocks(body),
                Some("ENTITIES") => file.entities = entities(body),
                _ => {}
            }
        }
        file
    }

    fn take_blocks(&mut self, body: &'a [Pair<'a>]) {
        let mut now: Option<(&str, Block<'a>)> = None;
        for entity in entities(body) {
            match entity.kind {
                "BLOCK" => {
                    let base = Vec2::new(entity.or(10, 0.0), entity.or(20, 0.0));
                    let block = Block {
                        base,
                        entities: Vec::new(),
                    };
                    now = Some((entity.text(2).unwrap_or(""), block));
                }
                "ENDBLK" => self.blocks.extend(now.take()),
                _ => {
                    if let Some((_, block)) = &mut now {
                        block.entities.push(entity);
                    }
                }
            }
        }
    }

    fn colour(&self, entity: &Entity<'_>, inherited: Rgb) -> Rgb {
        if let Some(true_colour) = entity.figure(420) {
            let v = true_colour as u32;
            return Rgb([(v >> 16) as u8, (v >> 8) as u8, v as u8]);
        }
        match entity.figure(62).map_or(256, |c| c as i64) {
            0 => inherited,
            256 => {
                let layer = self.layers.get(entity.text(8).unwrap_or("0"));
                dxf_entity::colour(layer.map_or(7, |l| l.colour))
            }
            number => dxf_entity::colour(number),
        }
    }

    /// Draws entities, blocks exploded; `depth` is how many blocks they lie in.
    fn draw(
        &self,
        list: &[Entity<'a>],
        map: Affine,
        (inherited, depth): (Rgb, usize),
        found: &mut Found,
    ) -> Result<(), VectorError> {
        if depth > limits::NESTING {
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
            if ["SEQEND", "ATTRIB", "ATTDEF", "VIEWPORT", "SECTION"].contains(&entity.kind) {
                continue;
            }
            let layer = self.layers.get(entity.text(8).unwrap_or("0"));
            if layer.is_some_and(|l| l.hidden) || entity.flags(60) == 1 {
                found.leave_out("things on hidden layers");
                continue;
            }
            let colour = self.colour(&entity, inherited);
            if entity.kind == "INSERT" {
                self.insert(&entity, map, (colour, depth), found)?;
                continue;
            }
            match dxf_entity::drawn(&entity, vertices) {
                Drawn::Path {
                    segments,
                    closed,
                    mirrored,
                } => {
                    let map = if mirrored { map * Affine::FLIP_X } else { map };
                    let segments: Vec<_> = segments.iter().flat_map(|s| s.moved(map)).collect();
                    found.count(segments.len())?;
                    if !segments.is_empty() {
                        found.lines.push((
                            Raw {
                                colour,
                                segments,
                                closed,
                            },
                            0.0,
                        ));
                    }
                }
                Drawn::Other(kind) => found.leave_out(kind),
            }
        }
        Ok(())
    }

    fn insert(
        &self,
        entity: &Entity<'_>,
        map: Affine,
        (colour, depth): (Rgb, usize),
        found: &mut Found,
    ) -> Result<(), VectorError> {
        let Some(block) = self.blocks.get(entity.text(2).unwrap_or("")) else {
            found.leave_out("blocks that are not in the file");
            return Ok(());
        };
        let count = |code| entity.or(code, 1.0).clamp(1.0, 10_000.0) as usize;
        let (columns, rows) = (count(70), count(71));
        let insertion = Affine::translate((entity.or(10, 0.0), entity.or(20, 0.0)))
            * Affine::rotate(entity.or(50, 0.0).to_radians());
        let scale = Affine::scale_non_uniform(entity.or(41, 1.0), entity.or(42, 1.0));
        for row in 0..rows {
            for column in 0..columns {
                let by = (
                    column as f64 * entity.or(44, 0.0),
                    row as f64 * entity.or(45, 0.0),
                );
                let placed =
                    insertion * Affine::translate(by) * scale * Affine::translate(-block.base);
                if placed.determinant().abs() < 1e-12 {
                    found.leave_out("blocks of no size");
                    continue;
                }
                found.count(1)?;
                self.draw(&block.entities, map * placed, (colour, depth + 1), found)?;
            }
        }
        Ok(())
    }
}

pub(super) fn read(bytes: &[u8]) -> Result<VectorFile, VectorError> {
    let text = String::from_utf8_lossy(bytes);
    let text = text.trim_start_matches('\u{feff}');
    let pairs = pairs(text)?;
    let file = File::sorted(&pairs);
    let mm = file.unit.unwrap_or(1.0);
    let mut found = Found::default();
    let turned = Affine::scale_non_uniform(mm, -mm);
    let black = (Rgb([0, 0, 0]), 0);
    file.draw(&file.entities, turned, black, &mut found)?;
    let boxes = found
        .lines
        .iter()
        .flat_map(|(raw, _)| &raw.segments)
        .map(|s| s.bounds());
    if let Some(bounds) = boxes.reduce(|a, b| a.union(b)) {
        let to_origin = Affine::translate(-bounds.origin().to_vec2());
        for (raw, _) in &mut found.lines {
            raw.segments = raw
                .segments
                .iter()
                .flat_map(|s| s.moved(to_origin))
                .collect();
        }
    }
    finish("DXF", found, None, file.unit.is_some())
}
