//! An offcut of ply with a round hole and a knot, on a dark bench beside a sheet of A4.

use kurbo::{Point, Rect};

use crate::photograph::Camera;
use crate::{Raster, spoil};

/// The plate's true outline, mm.
pub const OUTLINE: [[f64; 2]; 8] = [
    [0.0, 0.0],
    [430.0, 0.0],
    [430.0, 120.0],
    [520.0, 120.0],
    [520.0, 340.0],
    [150.0, 340.0],
    [110.0, 290.0],
    [0.0, 290.0],
];
/// Its holes: middle and radius, mm; a sawn one and one where a knot fell out.
pub const HOLES: [([f64; 2], f64); 2] = [([140.0, 120.0], 52.0), ([455.0, 260.0], 9.0)];
/// The sheet beside it, mm: A4.
pub const SHEET: Rect = Rect::new(570.0, 20.0, 780.0, 317.0);
/// Size of the photograph, px.
pub const PLATE_PX: (u32, u32) = (1600, 1200);
/// Name of its file.
pub const FILE_NAME: &str = "ply-offcut.jpg";

const PAPER: [f64; 3] = [240.0, 241.0, 238.0];

/// The camera that took it.
#[must_use]
pub fn camera() -> Camera {
    Camera {
        angles: [14.0, -24.0, 3.0],
        lens: -2.0,
        blur: 0.8,
        grain: 2.0,
        dusk: 0.25,
        dusk_from: 200.0,
        seed: 52,
        ..Camera::before(Point::new(395.0, 175.0), 830.0, PLATE_PX)
    }
}

/// The photograph.
#[must_use]
pub fn photograph() -> Raster {
    camera().take(colour, [60.0; 3])
}

/// The file as it came in: JPEG bytes, the same on every call.
#[must_use]
pub fn file() -> Vec<u8> {
    spoil::jpeg(&photograph(), 88)
}

/// The plate as if seen from straight above, filling its box: JPEG bytes.
#[must_use]
pub fn picture() -> Vec<u8> {
    /// Pixels for each mm.
    const FINE: f64 = 1.2;
    let b = OUTLINE.map(|[x, y]| Rect::new(x, y, x, y));
    let b = b.into_iter().reduce(|a, b| a.union(b)).unwrap_or_default();
    let [width, height] = [b.width(), b.height()].map(|mm| (mm * FINE).round() as u32);
    let pixel = |i: u32| {
        let (x, y) = (f64::from(i % width) + 0.5, f64::from(i / width) + 0.5);
        colour(Point::new(x / FINE, y / FINE)).map(|v| v.round().clamp(0.0, 255.0) as u8)
    };
    let seen = Raster {
        width,
        height,
        pixels: (0..width * height).map(pixel).collect(),
    };
    spoil::jpeg(&seen, 88)
}

/// What lies at a place of the bench.
fn colour(p: Point) -> [f64; 3] {
    if SHEET.contains(p) {
        return PAPER;
    }
    let hole =
        |(middle, radius): &([f64; 2], f64)| p.distance(Point::new(middle[0], middle[1])) < *radius;
    if inside(p) && !HOLES.iter().any(hole) {
        return ply(p);
    }
    bench(p)
}

/// Birch: light bands along its grain.
fn ply(p: Point) -> [f64; 3] {
    let wave = (p.x * 0.012 + p.y * 0.02).sin() * 5.0;
    let band = ((p.y + wave) * 0.35).sin() * 4.0 + ((p.y + wave * 1.7) * 1.1).sin() * 2.0;
    [214.0 + band, 184.0 + band, 138.0 + band * 1.2]
}

/// A bench top of dark rubber.
fn bench(p: Point) -> [f64; 3] {
    let fleck = ((p.x * 0.9).sin() * (p.y * 1.1).cos() * 3.0).round();
    [58.0 + fleck, 66.0 + fleck, 70.0 + fleck]
}

fn inside(p: Point) -> bool {
    let next = OUTLINE.iter().cycle().skip(1);
    let crossed = |(a, b): &(&[f64; 2], &[f64; 2])| {
        (a[1] > p.y) != (b[1] > p.y) && p.x < a[0] + (b[0] - a[0]) * (p.y - a[1]) / (b[1] - a[1])
    };
    OUTLINE.iter().zip(next).filter(crossed).count() % 2 == 1
}
