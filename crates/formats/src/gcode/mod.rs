//! G-code of a plan: RS-274 in mm, y up, the page's lower left corner at X0 Y0.
//!
//! ```text
//!   G21 G90 G94   M5                      mm, absolute, feed by the minute; beam off
//!   (A teal score)  M3 S180               power as a part of the controller's greatest value
//!   G0 X Y        G1 X Y F    G2/G3 X Y I J        travel with S0 or the beam off; lines and arcs
//!   M5  G0 X0 Y0  M2
//! ```
//!
//! Arcs stay arcs, cubics become arcs within [`TOLERANCE`]. A beam whose power may fall with its speed is `M4`,
//! else `M3`. Engraved areas are rows run both ways that begin before and end after what is burnt. A
//! machine with an axis lifts its tool with `G0 Z` before the first move and between paths.
//! Source: NIST IR 6556, "The NIST RS274NGC Interpreter, version 3", sections 3.5 and 3.6.

mod read;

use std::fmt::Write as _;

use inky_core::cutting::{CutLayer, Cutting};
use inky_core::material::{Beam, Tool};
use inky_core::plan::hatch::Row;
use inky_core::plan::motion::Motion;
use inky_core::plan::{Course, Plan, PlannedPath, overscan};
use inky_core::segment::{Arc, Segment};
use kurbo::{Affine, Point};

use crate::arcs::as_arcs;
use crate::names::ascii;

pub(crate) use read::read_until;
pub use read::{is_gcode, read, read_as};

/// Greatest distance of arcs from their cubics, mm.
pub const TOLERANCE: f64 = 0.005;
/// Passes of a beam that no material gives figures for: a faint line.
const FAINT: Beam = Beam {
    speed: 100.0,
    least: 5.0,
    most: 10.0,
    passes: 1,
};

/// A tool goes down at this part of the feed along the line … (common practice, no source).
const PLUNGE: f64 = 1.0 / 3.0;
/// … and no faster than this, mm/min.
const FASTEST_PLUNGE: f64 = 300.0;

/// What the controller expects.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Controller {
    /// The `S` that is full power.
    pub full: f64,
    /// How high a machine with an axis lifts its tool, mm.
    pub lift: f64,
}

impl Default for Controller {
    fn default() -> Self {
        Self {
            full: 1000.0,
            lift: 5.0,
        }
    }
}

/// Writes a plan as G-code.
#[must_use]
pub fn write(cutting: &Cutting, plan: &Plan, controller: Controller) -> String {
    let mut out = Writer {
        text: String::from("G21 G90 G94\nG17\n"),
        up: Affine::new([1.0, 0.0, 0.0, -1.0, 0.0, cutting.size[1]]),
        width: cutting.size[0],
        controller,
        tool: None,
        at: None,
    };
    let mut layer = None;
    for step in &plan.steps {
        let cut_layer = &cutting.layers[step.key.layer];
        if layer != Some(step.key.layer) {
            out.begin(cut_layer);
            layer = Some(step.key.layer);
        }
        out.step(step, cut_layer);
    }
    out.end();
    out.text
}

struct Writer {
    text: String,
    up: Affine,
    /// Width of the page, mm.
    width: f64,
    controller: Controller,
    tool: Option<Tool>,
    /// What was written last as a place.
    at: Option<[String; 2]>,
}

impl Writer {
    fn line(&mut self, text: std::fmt::Arguments<'_>) {
        // Writing into a string cannot fail.
        let _ = writeln!(self.text, "{text}");
    }

    fn begin(&mut self, layer: &CutLayer) {
        let material = &layer.material;
        match material.tool {
            Tool::Laser => self.line(format_args!("M5")),
            _ => self.line(format_args!("G0 Z{}", number(self.controller.lift))),
        }
        self.tool = Some(material.tool);
        let (speed, passes) = inky_core::plan::run(material, layer.operation);
        let power = match (material.tool, &material.laser) {
            (Tool::Laser, Some(_)) => format!(", {} percent power", number(beam(layer).most)),
            _ => String::new(),
        };
        let words = format!(
            "{}, {}{power}, {} mm/s, {passes} pass{}",
            layer.name,
            material.name,
            number(speed),
            if passes == 1 { "" } else { "es" }
        );
        self.line(format_args!("({})", ascii(&words)));
    }

    fn step(&mut self, step: &PlannedPath, layer: &CutLayer) {
        for _ in 0..step.passes.max(1) {
            match &step.course {
                Course::Line(segments) => self.run(step, segments, layer),
                Course::Rows(rows) => self.rows(rows, layer, step.speed),
            }
        }
    }

    /// One pass along a line.
    fn run(&mut self, step: &PlannedPath, segments: &[Segment], layer: &CutLayer) {
        let feed = number(step.speed * 60.0);
        self.travel(step.start());
        let beam = beam(layer);
        let falls = beam.least < beam.most;
        if layer.material.tool == Tool::Laser {
            let power = number(beam.most / 100.0 * self.controller.full);
            let word = if falls { "M4" } else { "M3" };
            self.line(format_args!("{word} S{power}"));
        } else {
            let plunge = number((step.speed * 60.0 * PLUNGE).min(FASTEST_PLUNGE));
            self.line(format_args!("G1 Z0 F{plunge}"));
        }
        self.line(format_args!("F{feed}"));
        let lead = step.lead.map(Segment::Line);
        let whole: Vec<Segment> = lead
            .into_iter()
            .chain(segments.iter().copied())
            .chain(step.over.iter().copied())
            .collect();
        for segment in as_arcs(&whole, TOLERANCE) {
            self.follow(&segment);
        }
        self.lift();
    }

    fn lift(&mut self) {
        match self.tool {
            Some(Tool::Laser) => self.line(format_args!("M5")),
            _ => self.line(format_args!("G0 Z{}", number(self.controller.lift))),
        }
    }

    fn travel(&mut self, to: Point) {
        let [x, y] = self.place(to);
        if self.at.as_ref() != Some(&[x.clone(), y.clone()]) {
            self.line(format_args!("G0 X{x} Y{y}"));
        }
        self.at = Some([x, y]);
    }

    fn place(&self, p: Point) -> [String; 2] {
        let p = self.up * p;
        [number(p.x), number(p.y)]
    }

    fn follow(&mut self, segment: &Segment) {
        for moved in segment.moved(self.up) {
            match moved {
                Segment::Arc(arc) if arc.sweep().abs() > 3.0 => {
                    // Two halves: a full circle has no ends to tell it from none.
                    for (from, to) in [(0.0, 0.5), (0.5, 1.0)] {
                        if let Segment::Arc(half) = Segment::Arc(arc).part(from, to) {
                            self.arc(&half);
                        }
                    }
                }
                Segment::Arc(arc) => self.arc(&arc),
                other => self.to(other.end(), "G1", ""),
            }
        }
    }

    fn arc(&mut self, arc: &Arc) {
        let centre = arc.centre() - arc.p0;
        // y is up here, so what turns from x towards y runs against the clock.
        let word = if arc.bulge > 0.0 { "G3" } else { "G2" };
        let [i, j] = [number(centre.x), number(centre.y)];
        if i == "0" && j == "0" {
            // So small that its middle is lost in the digits.
            return self.to(arc.p1, "G1", "");
        }
        self.to(arc.p1, word, &format!(" I{i} J{j}"));
    }

    /// A move to a place that is already turned up.
    fn to(&mut self, p: Point, word: &str, more: &str) {
        let place = [number(p.x), number(p.y)];
        if self.at.as_ref() == Some(&place) {
            return;
        }
        self.line(format_args!("{word} X{} Y{}{more}", place[0], place[1]));
        self.at = Some(place);
    }

    /// One pass over an engraved area.
    fn rows(&mut self, rows: &[Row], layer: &CutLayer, speed: f64) {
        let width = self.width;
        let over = overscan(speed, &Motion::of(Tool::Laser));
        let beam = beam(layer);
        let power = number(beam.most / 100.0 * self.controller.full);
        let feed = number(speed * 60.0);
        for (n, row) in rows.iter().enumerate() {
            let mut spans = row.spans.clone();
            if n % 2 == 1 {
                spans.reverse();
                spans.iter_mut().for_each(|s| s.reverse());
            }
            let (first, last) = (spans[0][0], spans[spans.len() - 1][1]);
            let ahead = if n % 2 == 1 { -over } else { over };
            // Where the page ends there is less way to come up to speed.
            let on_page = |x: f64| x.clamp(0.0, width);
            self.travel(Point::new(on_page(first - ahead), row.y));
            self.line(format_args!("M3 S0"));
            self.line(format_args!("F{feed}"));
            for span in &spans {
                self.to(self.up * Point::new(span[0], row.y), "G1", " S0");
                let burn = format!(" S{power}");
                self.to(self.up * Point::new(span[1], row.y), "G1", &burn);
            }
            let past = on_page(last + ahead);
            self.to(self.up * Point::new(past, row.y), "G1", " S0");
            self.line(format_args!("M5"));
        }
    }

    fn end(&mut self) {
        self.line(format_args!("M5"));
        self.line(format_args!("G0 X0 Y0"));
        self.line(format_args!("M2"));
    }
}

fn beam(layer: &CutLayer) -> Beam {
    let laser = layer.material.laser.as_ref();
    laser.map_or(FAINT, |l| *inky_core::plan::beam(l, layer.operation))
}

/// A number with at most four decimals, never `-0`.
fn number(value: f64) -> String {
    crate::svg::number(value)
}
