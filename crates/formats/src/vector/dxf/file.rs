//! A DXF file sorted: its unit, its layers, its blocks, its entities.

use std::collections::BTreeMap;

use kurbo::Vec2;

use super::pairs::Pair;
use crate::vector::FileUnit;

/// An entity: its kind and its pairs.
#[derive(Clone, Copy)]
pub(super) struct Entity<'a> {
    pub(super) kind: &'a str,
    pub(super) pairs: &'a [Pair<'a>],
}

/// Figures beyond this are none.
const FAR: f64 = 1e12;

/// The figure a value states, if it is one.
pub(super) fn figure(value: &str) -> Option<f64> {
    let value = value.trim().parse::<f64>().ok();
    value.filter(|v| v.is_finite() && v.abs() < FAR)
}

impl<'a> Entity<'a> {
    /// The text of a code.
    pub(super) fn text(&self, code: i32) -> Option<&'a str> {
        self.pairs.iter().find(|p| p.0 == code).map(|p| &*p.1)
    }

    /// The figure of a code, if it is one.
    pub(super) fn figure(&self, code: i32) -> Option<f64> {
        figure(self.text(code)?)
    }

    pub(super) fn or(&self, code: i32, default: f64) -> f64 {
        self.figure(code).unwrap_or(default)
    }

    pub(super) fn flags(&self, code: i32) -> i64 {
        self.or(code, 0.0) as i64
    }

    /// Name of its layer.
    pub(super) fn layer(&self) -> &'a str {
        self.text(8).unwrap_or("0")
    }

    /// Whether it belongs to a page for printing instead of the drawing.
    pub(super) fn on_paper(&self) -> bool {
        self.flags(67) == 1
    }
}

/// Entities of a stretch of pairs.
fn entities<'a>(pairs: &'a [Pair<'a>]) -> Vec<Entity<'a>> {
    let starts: Vec<usize> = (0..pairs.len()).filter(|&n| pairs[n].0 == 0).collect();
    let ends = starts.iter().skip(1).copied().chain([pairs.len()]);
    let one = |(&from, to): (&usize, usize)| Entity {
        kind: &pairs[from].1,
        pairs: &pairs[from + 1..to],
    };
    starts.iter().zip(ends).map(one).collect()
}

pub(super) struct Layer {
    pub(super) colour: i64,
    pub(super) true_colour: Option<f64>,
    pub(super) hidden: bool,
}

pub(super) struct Block<'a> {
    pub(super) base: Vec2,
    pub(super) entities: Vec<Entity<'a>>,
}

/// A file, sorted. Names are looked up whatever their case.
#[derive(Default)]
pub(super) struct File<'a> {
    pub(super) layers: BTreeMap<String, Layer>,
    pub(super) blocks: BTreeMap<String, Block<'a>>,
    pub(super) entities: Vec<Entity<'a>>,
    /// Millimetres in a unit, where it is stated.
    pub(super) unit: Option<f64>,
    /// Whether a drawing that states no unit is one in inches.
    pub(super) imperial: bool,
}

/// A name as it is looked up.
pub(super) fn known_as(name: &str) -> String {
    name.trim().to_uppercase()
}

/// Millimetres in the units of `$INSUNITS`.
///
/// Source: the published DXF reference; light year and parsec by the IAU's definitions, those of
/// the US survey by the foot of 1200/3937 m.
fn unit(code: i64) -> Option<f64> {
    const SURVEY_FOOT: f64 = 1_200_000.0 / 3937.0;
    Some(match code {
        1 => 25.4,
        2 => 304.8,
        3 => 1_609_344.0,
        4 => 1.0,
        5 => 10.0,
        6 => 1000.0,
        7 => 1e6,
        8 => 25.4e-6,
        9 => 0.0254,
        10 => 914.4,
        11 => 1e-7,
        12 => 1e-6,
        13 => 1e-3,
        14 => 100.0,
        15 => 1e4,
        16 => 1e5,
        17 => 1e12,
        18 => 149_597_870_700_000.0,
        19 => 9_460_730_472_580_800_000.0,
        20 => 3.085_677_581_491_367e19,
        21 => SURVEY_FOOT,
        22 => SURVEY_FOOT / 12.0,
        23 => SURVEY_FOOT * 3.0,
        24 => SURVEY_FOOT * 5280.0,
        _ => return None,
    })
}

impl<'a> File<'a> {
    pub(super) fn sorted(pairs: &'a [Pair<'a>]) -> Self {
        let mut file = Self::default();
        let is = |n: usize, word: &str| pairs[n].0 == 0 && pairs[n].1 == word;
        let mut at = 0;
        while at < pairs.len() {
            if !is(at, "SECTION") {
                at += 1;
                continue;
            }
            let from = at + 1;
            at = from;
            while at < pairs.len() && !is(at, "ENDSEC") && !is(at, "SECTION") {
                at += 1;
            }
            file.take(&pairs[from..at]);
        }
        file
    }

    fn take(&mut self, body: &'a [Pair<'a>]) {
        match body.first().map(|p| &*p.1) {
            Some("HEADER") => {
                let variable = |name: &str| -> Option<i64> {
                    let at = body.iter().position(|p| p.0 == 9 && p.1 == name)?;
                    Some(figure(&body.get(at + 1)?.1)? as i64)
                };
                self.unit = variable("$INSUNITS").and_then(unit);
                self.imperial = variable("$MEASUREMENT") == Some(0);
            }
            Some("TABLES") => {
                for layer in entities(body).iter().filter(|e| e.kind == "LAYER") {
                    let colour = layer.flags(62);
                    let known = Layer {
                        colour: colour.abs(),
                        true_colour: layer.figure(420),
                        hidden: colour < 0 || layer.flags(70) & 1 == 1,
                    };
                    self.layers
                        .insert(known_as(layer.text(2).unwrap_or("")), known);
                }
            }
            Some("BLOCKS") => self.take_blocks(body),
            Some("ENTITIES") => self.entities.extend(entities(body)),
            _ => {}
        }
    }

    fn take_blocks(&mut self, body: &'a [Pair<'a>]) {
        let mut now: Option<(String, Block<'a>)> = None;
        for entity in entities(body) {
            match entity.kind {
                "BLOCK" => {
                    let block = Block {
                        base: Vec2::new(entity.or(10, 0.0), entity.or(20, 0.0)),
                        entities: Vec::new(),
                    };
                    now = Some((known_as(entity.text(2).unwrap_or("")), block));
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

    /// Millimetres in a unit, and what it was taken for where the file does not say.
    pub(super) fn scale(&self, asked: Option<FileUnit>) -> (f64, Option<FileUnit>) {
        match (asked, self.unit) {
            (Some(asked), _) => (asked.in_mm(), None),
            (None, Some(stated)) => (stated, None),
            (None, None) => {
                let guess = if self.imperial {
                    FileUnit::In
                } else {
                    FileUnit::Mm
                };
                (guess.in_mm(), Some(guess))
            }
        }
    }
}
