//! HPGL to what the pen draws: IN, DF, SP, PU, PD, PA, PR, AA, AR, CI, EA, VS; the rest is counted.
//!
//! Source: HP-GL/2 and HP RTL Reference Guide (Hewlett-Packard 5961-3526). One unit is 0.025 mm, y up.

use inky_core::limits;
use inky_core::segment::{Arc, Segment};
use kurbo::{Line, Point, Vec2};

use super::UNITS_PER_MM;
use crate::toolpath::{Run, Toolpath};
use crate::vector::VectorError;

/// Coordinates beyond this are no places, mm.
const FAR: f64 = 1e6;
/// The end of a label.
const ETX: char = '\u{3}';

fn broken(why: impl Into<String>) -> VectorError {
    VectorError::Broken {
        format: "HPGL",
        why: why.into(),
    }
}

/// Whether bytes look like HPGL.
#[must_use]
pub fn is_hpgl(bytes: &[u8]) -> bool {
    let head = String::from_utf8_lossy(&bytes[..bytes.len().min(256)]);
    let head = after_escapes(head.trim_start());
    let first: String = head.chars().take(2).collect();
    let known = [
        "IN", "DF", "SP", "PU", "PA", "PD", "VS", "BP", "PG", "IP", "IW", "RO", "CO",
    ];
    let next = head.chars().nth(2);
    let ends = next.is_none_or(|c| {
        c == ';'
            || c == ','
            || c.is_whitespace()
            || c.is_ascii_digit()
            || c.is_ascii_uppercase()
            || c == '-'
            || c == '"'
    });
    known.contains(&first.as_str()) && ends && head.contains(';')
}

/// Text after switches from another language, `ESC % … A` or `B`, and a reset, `ESC E`.
fn after_escapes(mut text: &str) -> &str {
    while let Some(rest) = text.strip_prefix('\u{1b}') {
        let end = rest.find(|c: char| c.is_ascii_uppercase());
        text = end.map_or("", |n| &rest[n + 1..]).trim_start();
    }
    text
}

struct Pen {
    path: Toolpath,
    at: Point,
    down: bool,
    relative: bool,
    layer: usize,
    speed: Option<f64>,
    drawn: Vec<Segment>,
    segments: usize,
}

/// Reads HPGL.
///
/// # Errors
/// When it is no text, has scaled units, draws nothing, or too much.
pub fn read(bytes: &[u8]) -> Result<Toolpath, VectorError> {
    let text = String::from_utf8_lossy(bytes);
    let mut pen = Pen {
        path: Toolpath::default(),
        at: Point::ORIGIN,
        down: false,
        relative: false,
        layer: 0,
        speed: None,
        drawn: Vec::new(),
        segments: 0,
    };
    let mut rest = text.as_ref();
    loop {
        rest = rest.trim_start_matches(|c: char| c.is_whitespace() || c == ';');
        rest = after_escapes(rest);
        let mut letters = rest.char_indices();
        let word = match (letters.next(), letters.next()) {
            (Some((_, a)), Some((n, b))) if a.is_ascii_alphabetic() && b.is_ascii_alphabetic() => {
                let word = format!("{}{}", a.to_ascii_uppercase(), b.to_ascii_uppercase());
                rest = &rest[n + b.len_utf8()..];
                word
            }
            (None, _) => break,
            _ => return Err(broken(format!("'{}' is no instruction", shown(rest)))),
        };
        let end = match word.as_str() {
            "LB" => rest.find(ETX).map_or(rest.len(), |n| n + 1),
            "CO" => {
                let open = rest.find('"').map(|n| n + 1);
                let close = open.and_then(|n| rest[n..].find('"').map(|m| n + m + 1));
                close.unwrap_or(rest.len())
            }
            _ => rest
                .find(|c: char| c == ';' || c.is_ascii_alphabetic() || c == '\u{1b}')
                .unwrap_or(rest.len()),
        };
        pen.does(&word, &rest[..end])?;
        rest = &rest[end..];
    }
    pen.lift();
    if pen.path.runs.is_empty() {
        return Err(VectorError::Empty(pen.path.left_out));
    }
    Ok(pen.path)
}

fn shown(text: &str) -> String {
    text.chars().take(12).filter(|c| !c.is_control()).collect()
}

fn figures(word: &str, text: &str) -> Result<Vec<f64>, VectorError> {
    let parts = text.split(|c: char| c == ',' || c.is_whitespace());
    let parts = parts.filter(|p| !p.is_empty());
    let figure = |p: &str| match p.parse::<f64>() {
        Ok(v) if v.is_finite() && v.abs() / UNITS_PER_MM < FAR => Ok(v),
        _ => Err(broken(format!("'{}' after {word} is no figure", shown(p)))),
    };
    parts.map(figure).collect()
}

impl Pen {
    fn does(&mut self, word: &str, text: &str) -> Result<(), VectorError> {
        let mm = |v: f64| v / UNITS_PER_MM;
        match word {
            "IN" | "DF" => {
                self.lift();
                self.relative = false;
            }
            "PU" => {
                self.lift();
                self.moves(word, text)?;
            }
            "PD" => {
                self.down = true;
                if text.trim().is_empty() {
                    return Ok(());
                }
                self.moves(word, text)?;
            }
            "PA" | "PR" => {
                self.relative = word == "PR";
                self.moves(word, text)?;
            }
            "SP" => {
                self.lift();
                let pen = figures(word, text)?.first().copied().unwrap_or(0.0);
                self.layer = (pen.max(1.0) as usize).saturating_sub(1);
            }
            "VS" => {
                // Centimetres a second.
                self.speed = figures(word, text)?.first().map(|v| v * 10.0);
            }
            "AA" | "AR" => {
                let said = figures(word, text)?;
                let [x, y, angle] = said
                    .get(..3)
                    .and_then(|f| f.try_into().ok())
                    .ok_or_else(|| broken(format!("{word} needs a middle and an angle")))?;
                let base = if word == "AR" {
                    self.at.to_vec2()
                } else {
                    Vec2::ZERO
                };
                self.arc(Point::new(mm(x), mm(y)) + base, angle)?;
            }
            "CI" => {
                let radius = figures(word, text)?.first().copied().map(mm);
                let radius = radius.ok_or_else(|| broken("CI needs a radius"))?;
                let (middle, was) = (self.at, self.down);
                self.lift();
                self.at = middle + Vec2::new(radius, 0.0);
                self.down = true;
                self.arc(middle, 360.0)?;
                self.lift();
                (self.at, self.down) = (middle, was);
            }
            "EA" => {
                let said = figures(word, text)?;
                let [x, y] = said
                    .get(..2)
                    .and_then(|f| f.try_into().ok())
                    .ok_or_else(|| broken("EA needs the corner across"))?;
                let (a, c) = (self.at, Point::new(mm(x), mm(y)));
                let was = self.down;
                self.lift();
                self.down = true;
                for p in [Point::new(c.x, a.y), c, Point::new(a.x, c.y), a] {
                    self.go(p)?;
                }
                self.lift();
                self.down = was;
            }
            "SC" if !text.trim().is_empty() => {
                return Err(broken(
                    "its units are scaled (SC); write it in plotter units",
                ));
            }
            "LB" => self.path.leave_out("labels"),
            "PE" => self.path.leave_out("packed lines (PE)"),
            "PM" | "FP" | "EP" | "RA" | "WG" | "EW" | "RR" => {
                self.path.leave_out("filled areas");
            }
            // Force, pen width, page, comment and the like draw nothing.
            _ => {}
        }
        Ok(())
    }

    fn moves(&mut self, word: &str, text: &str) -> Result<(), VectorError> {
        for pair in figures(word, text)?.chunks(2) {
            let [x, y] = *pair else {
                return Err(broken(format!("{word} has an x without its y")));
            };
            let to = Vec2::new(x, y) / UNITS_PER_MM;
            let to = if self.relative {
                self.at + to
            } else {
                to.to_point()
            };
            self.go(to)?;
        }
        Ok(())
    }

    fn go(&mut self, to: Point) -> Result<(), VectorError> {
        if self.down {
            self.count()?;
            self.drawn.push(Segment::Line(Line::new(self.at, to)));
        }
        self.at = to;
        Ok(())
    }

    fn arc(&mut self, middle: Point, degrees: f64) -> Result<(), VectorError> {
        let from = self.at - middle;
        let halves = (degrees.abs() / 180.0).ceil().max(1.0);
        let each = degrees.to_radians() / halves;
        for n in 1..=halves as usize {
            let (sin, cos) = (each * n as f64).sin_cos();
            let to = middle + Vec2::new(from.x * cos - from.y * sin, from.x * sin + from.y * cos);
            if self.down && self.at.distance(to) > 1e-9 {
                self.count()?;
                let bulge = (each / 4.0).tan();
                self.drawn.push(Segment::Arc(Arc {
                    p0: self.at,
                    p1: to,
                    bulge,
                }));
            }
            self.at = to;
        }
        Ok(())
    }

    fn count(&mut self) -> Result<(), VectorError> {
        self.segments += 1;
        if self.segments > limits::SEGMENTS {
            return Err(VectorError::TooManySegments);
        }
        Ok(())
    }

    fn lift(&mut self) {
        self.down = false;
        let segments = std::mem::take(&mut self.drawn);
        if !segments.is_empty() {
            self.path.runs.push(Run {
                layer: self.layer,
                speed: self.speed,
                segments,
            });
        }
    }
}
