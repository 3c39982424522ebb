//! HPGL to what the pen draws: moves, arcs, curves, rectangles, wedges, polygons, packed lines.
//!
//! What draws nothing is passed over; what would draw and cannot be followed is counted. Source:
//! HP-GL/2 and HP RTL Reference Guide (Hewlett-Packard 5961-3526). One unit is 0.025 mm, y up.

mod instructions;
mod packed;
mod scale;

use inky_core::limits;
use inky_core::segment::{Arc, Segment};
use inky_core::stop::Stop;
use kurbo::{Affine, CubicBez, Line, Point, Vec2};

use super::UNITS_PER_MM;
use crate::toolpath::{Run, Toolpath};
use crate::vector::VectorError;
use instructions::{Instruction, Instructions, after_escapes, shown};
use packed::Step;
use scale::Scale;

/// Coordinates beyond this are no places, mm.
const FAR: f64 = 1e6;

fn broken(why: impl Into<String>) -> VectorError {
    VectorError::Broken {
        format: "HPGL",
        why: why.into(),
    }
}

/// Whether bytes look like HPGL.
#[must_use]
pub fn is_hpgl(bytes: &[u8]) -> bool {
    let head = latin(&bytes[..bytes.len().min(512)]).to_ascii_uppercase();
    let idle = |c: char| c.is_whitespace() || c == ';';
    let head = after_escapes(head.trim_start_matches(idle)).trim_start_matches(idle);
    let first: String = head.chars().take(2).collect();
    let known = [
        "IN", "DF", "SP", "PU", "PA", "PD", "VS", "BP", "PG", "IP", "IW", "RO", "CO", "SC", "DT",
    ];
    let next = head.chars().nth(2);
    let ends = next.is_none_or(|c| {
        matches!(c, ';' | ',' | '-' | '"' | '*')
            || c.is_whitespace()
            || c.is_ascii_digit()
            || c.is_ascii_uppercase()
    });
    known.contains(&first.as_str()) && ends && head.contains(';')
}

/// A byte a character: packed lines use all of them.
fn latin(bytes: &[u8]) -> String {
    bytes.iter().map(|b| char::from(*b)).collect()
}

/// Reads HPGL.
///
/// # Errors
/// When it is no text, has units scaled to an unknown page, draws nothing, or too much.
pub fn read(bytes: &[u8]) -> Result<Toolpath, VectorError> {
    read_until(bytes, &Stop::new())
}

/// Reads HPGL as long as it is wanted.
pub(crate) fn read_until(bytes: &[u8], stop: &Stop) -> Result<Toolpath, VectorError> {
    let text = latin(bytes);
    let mut pen = Pen::default();
    let mut instructions = Instructions::of(&text);
    while let Some(instruction) = instructions.next()? {
        stop.check()?;
        pen.does(&instruction)?;
    }
    pen.lift();
    if pen.path.runs.is_empty() {
        return Err(VectorError::Empty(pen.path.left_out));
    }
    Ok(pen.path)
}

/// The pen, and what it has drawn. Places are mm.
#[derive(Default)]
struct Pen {
    path: Toolpath,
    scale: Scale,
    at: Point,
    down: bool,
    relative: bool,
    layer: usize,
    speed: Option<f64>,
    drawn: Vec<Segment>,
    /// The polygon that is being taken down, its closed parts and the one at hand.
    polygon: Option<Vec<Vec<Segment>>>,
    /// Whether the next place is where its next part begins.
    begins: bool,
    /// The last one that was.
    taken: Vec<Vec<Segment>>,
    segments: usize,
}

impl Pen {
    /// From the file's figures to mm.
    fn map(&self) -> Affine {
        Affine::scale(1.0 / UNITS_PER_MM) * self.scale.map()
    }

    fn does(&mut self, instruction: &Instruction<'_>) -> Result<(), VectorError> {
        let word = String::from_iter(instruction.word);
        let word = word.as_str();
        let text = instruction.text;
        let said = || figures(word, text);
        let needs = |n: usize, what: &str| -> Result<Vec<f64>, VectorError> {
            let said = figures(word, text)?;
            if said.len() < n {
                return Err(broken(format!("{word} needs {what}")));
            }
            Ok(said)
        };
        match word {
            "IN" | "DF" => {
                self.lift();
                (self.relative, self.polygon) = (false, None);
                self.scale = Scale::default();
            }
            "PU" | "PD" => {
                if word == "PU" {
                    self.lift();
                }
                self.down = word == "PD";
                self.moves(word, text)?;
            }
            "PA" | "PR" => {
                self.relative = word == "PR";
                self.moves(word, text)?;
            }
            "PE" => self.packed(text)?,
            "SP" => {
                self.lift();
                let pen = said()?.first().copied().unwrap_or(0.0);
                self.layer = (pen.max(1.0) as usize).saturating_sub(1);
            }
            // Centimetres a second.
            "VS" => self.speed = said()?.first().map(|v| v * 10.0),
            "IP" => self.scale.corners(&said()?),
            "SC" => self.scale.units(&said()?)?,
            "RO" => {
                let turn = said()?.first().copied().unwrap_or(0.0);
                self.scale.turned(turn);
            }
            "IW" if !said()?.is_empty() => self.path.leave_out("windows (nothing is clipped)"),
            "LT" if !said()?.is_empty() => self.path.leave_out("dashes (drawn through)"),
            "AA" | "AR" => {
                let said = needs(3, "a middle and an angle")?;
                let middle = self.place(said[0], said[1], word == "AR");
                self.arc(middle, self.turn(said[2]))?;
            }
            "AT" | "RT" => {
                let said = needs(4, "two places")?;
                let by = word == "RT";
                let (over, to) = (
                    self.place(said[0], said[1], by),
                    self.place(said[2], said[3], by),
                );
                self.arc_through(over, to)?;
            }
            "BZ" | "BR" => {
                let said = needs(6, "three places a curve")?;
                for curve in said.as_chunks::<6>().0 {
                    let p = |n: usize| self.place(curve[n], curve[n + 1], word == "BR");
                    let (a, b, to) = (p(0), p(2), p(4));
                    self.follow(Segment::Cubic(CubicBez::new(self.at, a, b, to)))?;
                }
            }
            "CI" => {
                let radius = needs(1, "a radius")?[0];
                let middle = self.at;
                let way = self.way(radius, 0.0);
                self.closed(|pen| {
                    pen.at = middle + way;
                    pen.arc(middle, 360.0)
                })?;
            }
            "EA" | "ER" | "RA" | "RR" => {
                let said = needs(2, "the corner across")?;
                let (a, c) = (self.at, self.place(said[0], said[1], word.ends_with('R')));
                // Its sides run along the page's axes, which may be turned.
                let map = self.map();
                let across = map.inverse() * c - map.inverse() * a;
                let side = self.way(across.x, 0.0);
                let corners = [a + side, c, c - side, a];
                self.closed(|pen| corners.iter().try_for_each(|p| pen.go(*p)))?;
            }
            "EW" | "WG" => {
                let said = needs(3, "a radius and two angles")?;
                let middle = self.at;
                let from = Vec2::from_angle(said[1].to_radians()) * said[0];
                let start = middle + self.way(from.x, from.y);
                let turn = self.turn(said[2]);
                self.closed(|pen| {
                    if turn.abs() < 360.0 {
                        pen.go(start)?;
                        pen.arc(middle, turn)?;
                        pen.go(middle)
                    } else {
                        pen.at = start;
                        pen.arc(middle, 360.0)
                    }
                })?;
            }
            "PM" => self.polygon(said()?.first().copied().unwrap_or(0.0)),
            "EP" | "FP" => {
                for part in self.taken.clone() {
                    self.lift();
                    for segment in &part {
                        self.count()?;
                        self.drawn.push(*segment);
                    }
                    self.lift();
                }
            }
            "LB" => self.path.leave_out("labels"),
            _ if SILENT.contains(&word) => {}
            _ => self.path.leave_out("instructions that are not known"),
        }
        Ok(())
    }

    fn polygon(&mut self, step: f64) {
        let start = |parts: &[Vec<Segment>]| parts.last()?.first().map(Segment::start);
        match (step as i64, &mut self.polygon) {
            (0, _) => {
                self.lift();
                (self.polygon, self.begins) = (Some(vec![Vec::new()]), false);
            }
            (1, Some(parts)) => {
                if let Some(home) = start(parts) {
                    close(parts, home, self.at);
                    parts.push(Vec::new());
                    (self.at, self.begins) = (home, true);
                }
            }
            (2, Some(parts)) => {
                if let Some(home) = start(parts) {
                    close(parts, home, self.at);
                }
                let mut parts = std::mem::take(parts);
                parts.retain(|part| !part.is_empty());
                (self.taken, self.polygon) = (parts, None);
            }
            _ => {}
        }
    }

    /// Draws something closed wherever the pen is, and brings it back.
    fn closed(
        &mut self,
        draw: impl FnOnce(&mut Self) -> Result<(), VectorError>,
    ) -> Result<(), VectorError> {
        let (at, was) = (self.at, self.down);
        self.lift();
        self.down = true;
        draw(self)?;
        self.lift();
        (self.at, self.down) = (at, was);
        Ok(())
    }

    fn way(&self, x: f64, y: f64) -> Vec2 {
        let map = self.map();
        map * Point::new(x, y) - map * Point::ORIGIN
    }

    fn place(&self, x: f64, y: f64, relative: bool) -> Point {
        if relative {
            self.at + self.way(x, y)
        } else {
            self.map() * Point::new(x, y)
        }
    }

    /// An angle as it turns on the page: units may run the other way.
    fn turn(&self, degrees: f64) -> f64 {
        degrees * self.map().determinant().signum()
    }

    fn packed(&mut self, text: &str) -> Result<(), VectorError> {
        let (steps, whole) = packed::steps(text);
        if !whole {
            self.path
                .leave_out("ends of packed lines (PE) that cannot be read");
        }
        for step in steps {
            match step {
                Step::Pen(pen) => {
                    self.lift();
                    self.layer = (pen.max(1.0) as usize).saturating_sub(1);
                }
                Step::To { xy, up, absolute } => {
                    if up {
                        self.lift();
                    }
                    self.down = !up;
                    self.go(self.place(xy[0], xy[1], !absolute))?;
                }
            }
        }
        Ok(())
    }

    fn moves(&mut self, word: &str, text: &str) -> Result<(), VectorError> {
        for pair in figures(word, text)?.chunks(2) {
            let [x, y] = *pair else {
                return Err(broken(format!("{word} has an x without its y")));
            };
            self.go(self.place(x, y, self.relative))?;
        }
        Ok(())
    }

    fn go(&mut self, to: Point) -> Result<(), VectorError> {
        self.follow(Segment::Line(Line::new(self.at, to)))
    }

    /// Moves along a segment, drawing it where the pen is down or a polygon is taken down.
    fn follow(&mut self, segment: Segment) -> Result<(), VectorError> {
        let to = segment.end();
        if !(to.x.abs() < FAR && to.y.abs() < FAR) {
            return Err(broken("it goes to where no material is"));
        }
        match &mut self.polygon {
            Some(_) if std::mem::take(&mut self.begins) => {}
            Some(parts) => {
                if segment.start() != to
                    && let Some(part) = parts.last_mut()
                {
                    part.push(segment);
                    self.count()?;
                }
            }
            None if self.down => {
                self.count()?;
                self.drawn.push(segment);
            }
            None => {}
        }
        self.at = to;
        Ok(())
    }

    fn arc(&mut self, middle: Point, degrees: f64) -> Result<(), VectorError> {
        // More than a turn draws nothing new.
        let degrees = degrees.clamp(-360.0, 360.0);
        let from = self.at - middle;
        let halves = (degrees.abs() / 180.0).ceil().max(1.0);
        let each = degrees.to_radians() / halves;
        let start = self.at;
        for n in 1..=halves as usize {
            let (sin, cos) = (each * n as f64).sin_cos();
            let way = Vec2::new(from.x * cos - from.y * sin, from.x * sin + from.y * cos);
            let whole = degrees.abs() >= 360.0 && n == halves as usize;
            let to = if whole { start } else { middle + way };
            if self.at.distance(to) > 1e-9 {
                let bulge = (each / 4.0).tan();
                self.follow(Segment::Arc(Arc {
                    p0: self.at,
                    p1: to,
                    bulge,
                }))?;
            }
        }
        Ok(())
    }

    /// The arc from here over one place to another.
    fn arc_through(&mut self, over: Point, to: Point) -> Result<(), VectorError> {
        let from = self.at;
        if from.distance(to) < 1e-9 {
            // Both ends in one place: a circle, the place between lies across.
            return self.arc(from.midpoint(over), 360.0);
        }
        let (a, b) = (over - from, to - over);
        // Half the turn is what the direction changes by at the place between.
        let half = a.cross(b).atan2(a.dot(b));
        let bulge = (half / 2.0).tan();
        if bulge.abs() < 1e-9 || !bulge.is_finite() {
            self.go(over)?;
            return self.go(to);
        }
        self.follow(Segment::Arc(Arc {
            p0: from,
            p1: to,
            bulge,
        }))
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

/// A side back to where the last part began.
fn close(parts: &mut [Vec<Segment>], home: Point, at: Point) {
    if let Some(part) = parts.last_mut().filter(|_| at.distance(home) > 1e-9) {
        part.push(Segment::Line(Line::new(at, home)));
    }
}

/// What sets the pen, the page or the type, or asks the machine, and draws nothing.
const SILENT: [&str; 48] = [
    "AC", "AD", "BP", "CF", "CO", "CP", "DI", "DR", "DT", "DV", "EC", "ES", "FI", "FN", "FR", "FS",
    "FT", "IR", "IW", "LA", "LO", "LT", "MC", "NP", "NR", "OE", "OH", "OI", "OP", "OS", "PC", "PG",
    "PP", "PS", "PW", "QL", "RF", "RP", "SA", "SB", "SD", "SI", "SL", "SM", "SR", "SS", "SV", "WU",
];

fn figures(word: &str, text: &str) -> Result<Vec<f64>, VectorError> {
    let parts = text.split(|c: char| c == ',' || c.is_whitespace());
    let parts = parts.filter(|p| !p.is_empty());
    let figure = |p: &str| match p.parse::<f64>() {
        Ok(v) if v.is_finite() && v.abs() / UNITS_PER_MM < FAR => Ok(v),
        _ => Err(broken(format!("'{}' after {word} is no figure", shown(p)))),
    };
    parts.map(figure).collect()
}
