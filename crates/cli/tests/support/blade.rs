//! What the blade of a simulated cutter really does with a file, held against the lines that it was made of.

use anyhow::Result;
use inky_devices::cutter::{Cutter, Model};
use inky_formats::vector;
use kurbo::{Line, ParamCurveNearest, Point};

/// The lines of a vector file as chords, mm from the lower left corner of its page, y up.
pub(crate) fn lines(file: &[u8]) -> Result<Vec<Line>> {
    let file = vector::read(file)?;
    let mut sides = Vec::new();
    for path in file.parts.iter().flat_map(|p| &p.paths) {
        let segments = path.segments()?;
        let mut points = vec![segments[0].start()];
        for segment in &segments {
            segment.flatten(0.002, &mut points);
        }
        let up = |p: &Point| Point::new(p.x, file.size[1] - p.y);
        sides.extend(points.windows(2).map(|w| Line::new(up(&w[0]), up(&w[1]))));
    }
    Ok(sides)
}

/// Where the blade was while it was down, mm.
pub(crate) fn blade(file: &[u8]) -> Vec<Point> {
    let mut cutter = Cutter::new(Model::default());
    let mut rest = file;
    for _ in 0..1_000_000 {
        let taken = cutter.receive(rest);
        rest = &rest[taken..];
        cutter.advance(0.5);
        if rest.is_empty() && cutter.is_idle() {
            break;
        }
    }
    let strokes = cutter.record().strokes.iter();
    strokes.flat_map(|s| s.points.clone()).collect()
}

/// The greatest distance of some 60 of the places from lines, mm.
pub(crate) fn off(places: &[Point], lines: &[Line]) -> f64 {
    let step = (places.len() / 60).max(1);
    let nearest = |p: &Point| {
        let away = lines.iter().map(|l| l.nearest(*p, 1e-6).distance_sq);
        away.fold(f64::INFINITY, f64::min).sqrt()
    };
    places.iter().step_by(step).map(nearest).fold(0.0, f64::max)
}
