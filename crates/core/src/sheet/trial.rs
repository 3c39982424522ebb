//! Trial cuts: a small square with a triangle in it for a blade; a grid over power and speed for a laser.
//!
//! ```text
//!   ┌─────┐     speed ►  40  30  20  10   mm/s
//!   │  △  │       100 %  ▢   ▢   ▢   ▢        Every field is cut with its own settings, labelled in
//!   └─────┘        80 %  ▢   ▢   ▢   ▢        engraved figures.
//! ```
//!
//! Common practice, no source: the square shows whether a film is cut through cleanly, the triangle
//! whether corners come off with the waste.

use kurbo::{Line, Point, Vec2};

use crate::assembly::{polygon, rectangle};
use crate::cutting::{CutLayer, CutLine, Cutting};
use crate::inks::Rgb;
use crate::material::{Laser, Material, Operation, Tool};
use crate::overlay::Rings;
use crate::segment::Segment;

/// Side of the square, and of a field of the grid, mm.
const SIDE: f64 = 10.0;
/// Fields in each direction.
pub const FIELDS: usize = 5;
/// The space between them, mm.
const SPACE: f64 = 3.0;
/// Height of figures, mm.
const FIGURE: f64 = 3.0;
/// Space for labels at the left and above, mm.
const LABELS: f64 = 14.0;
/// How trial cuts are drawn.
const INK: Rgb = Rgb([30, 30, 70]);

/// The trial cut that a material asks for.
#[must_use]
pub fn trial(material: &Material) -> Vec<CutLayer> {
    match (material.tool, &material.laser) {
        (Tool::Laser, Some(laser)) => grid(material, laser),
        _ => vec![square(material)],
    }
}

pub(super) fn layer(material: &Material, operation: Operation, name: String) -> CutLayer {
    CutLayer {
        name,
        letter: "T".to_owned(),
        colour: INK,
        material: material.clone(),
        stock_colour: None,
        operation,
        shapes: Vec::new(),
        lines: Vec::new(),
    }
}

/// A square with a triangle in it.
fn square(material: &Material) -> CutLayer {
    let mut cut = layer(material, material.operation, "Trial cut".to_owned());
    let b = kurbo::Rect::new(0.0, 0.0, SIDE, SIDE);
    let middle = b.center();
    let corner = |n: usize| {
        let angle = std::f64::consts::TAU * n as f64 / 3.0 - std::f64::consts::FRAC_PI_2;
        middle + Vec2::from_angle(angle) * SIDE * 0.3
    };
    let triangle = polygon(&[corner(0), corner(1), corner(2)]);
    cut.shapes = vec![Rings {
        outer: rectangle(b),
        holes: vec![triangle.reversed()],
    }];
    cut
}

/// What the fields of a grid are cut with.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Grid {
    /// Power of each row, %.
    pub powers: [f64; FIELDS],
    /// Speed of each column, mm/s: from half of what is set to one and a half times.
    pub speeds: [f64; FIELDS],
}

impl Grid {
    /// Around what a laser is set to.
    #[must_use]
    pub fn of(laser: &Laser) -> Self {
        Self {
            powers: std::array::from_fn(|n| 100.0 - 20.0 * n as f64),
            speeds: std::array::from_fn(|n| nice(laser.cut.speed * (0.5 + 0.25 * n as f64))),
        }
    }
}

/// The grid of a material on a page of its own; `None` without settings for a laser.
#[must_use]
pub fn grid_alone(material: &Material) -> Option<Cutting> {
    let side = LABELS + (SIDE + SPACE) * FIELDS as f64 - SPACE;
    Some(Cutting {
        size: [side, side],
        layers: grid(material, material.laser.as_ref()?),
    })
}

/// Squares over power, down, and speed, across.
fn grid(material: &Material, laser: &Laser) -> Vec<CutLayer> {
    let at = |n: usize| LABELS + (SIDE + SPACE) * n as f64;
    let Grid { powers, speeds } = Grid::of(laser);
    let mut labels = layer(material, Operation::Score, "Trial figures".to_owned());
    for (n, (power, speed)) in powers.iter().zip(&speeds).enumerate() {
        let beside = Point::new(0.0, at(n) + SIDE / 2.0 - FIGURE / 2.0);
        labels.lines.extend(figures(&format!("{power}"), beside));
        let above = Point::new(at(n), LABELS - FIGURE - 3.0);
        labels.lines.extend(figures(&format!("{speed}"), above));
    }
    let mut layers = vec![labels];
    for (down, &power) in powers.iter().enumerate() {
        for (across, &speed) in speeds.iter().enumerate() {
            let mut stronger = material.clone();
            if let Some(l) = &mut stronger.laser {
                (l.cut.most, l.cut.least, l.cut.speed) = (power, power, speed);
            }
            let name = format!("Trial {power} % {speed} mm/s");
            let mut field = layer(&stronger, Operation::CutThrough, name);
            let b = kurbo::Rect::from_origin_size((at(across), at(down)), (SIDE, SIDE));
            field.shapes = vec![Rings {
                outer: rectangle(b),
                holes: Vec::new(),
            }];
            layers.push(field);
        }
    }
    layers
}

/// Rounded to two figures.
fn nice(value: f64) -> f64 {
    let size = 10_f64.powf(value.max(1e-3).log10().floor() - 1.0);
    let rounded = (value / size).round() * size;
    (rounded * 100.0).round() / 100.0
}

/// Which of the seven strokes each figure has: top, upper right, lower right, bottom, lower left, upper left,
/// middle.
const STROKES: [[bool; 7]; 10] = {
    const O: bool = false;
    const I: bool = true;
    [
        [I, I, I, I, I, I, O],
        [O, I, I, O, O, O, O],
        [I, I, O, I, I, O, I],
        [I, I, I, I, O, O, I],
        [O, I, I, O, O, I, I],
        [I, O, I, I, O, I, I],
        [I, O, I, I, I, I, I],
        [I, I, I, O, O, O, O],
        [I, I, I, I, I, I, I],
        [I, I, I, I, O, I, I],
    ]
};

/// A number in seven strokes, with a point where it has one.
pub(super) fn figures(text: &str, at: Point) -> Vec<CutLine> {
    let (h, w) = (FIGURE, FIGURE / 2.0);
    let ends = [
        [(0.0, 0.0), (w, 0.0)],
        [(w, 0.0), (w, h / 2.0)],
        [(w, h / 2.0), (w, h)],
        [(w, h), (0.0, h)],
        [(0.0, h), (0.0, h / 2.0)],
        [(0.0, h / 2.0), (0.0, 0.0)],
        [(0.0, h / 2.0), (w, h / 2.0)],
    ];
    let mut x = at.x;
    let mut lines = Vec::new();
    for c in text.chars() {
        let mut line = |a: (f64, f64), b: (f64, f64)| {
            let by = Vec2::new(x, at.y);
            let ends = (Point::from(a) + by, Point::from(b) + by);
            lines.push(CutLine {
                segments: vec![Segment::Line(Line::new(ends.0, ends.1))],
                closed: false,
                width: 0.2,
            });
        };
        match c.to_digit(10) {
            Some(digit) => {
                for (stroke, on) in ends.iter().zip(STROKES[digit as usize]) {
                    if on {
                        line(stroke[0], stroke[1]);
                    }
                }
                x += w + 1.0;
            }
            None => {
                line((0.0, h - 0.3), (0.0, h));
                x += 1.0;
            }
        }
    }
    lines
}
