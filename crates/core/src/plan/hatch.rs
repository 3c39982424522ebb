//! Hatch: an engraved area as rows, run both ways.
//!
//! ```text
//!   ──► ▬▬▬▬▬  ▬▬▬ ──►      A row lies half an interval inside the top and every interval below it;
//!   ◄── ▬▬▬▬▬▬▬▬▬▬ ◄──      its spans are where it is inside by the even-odd rule.
//! ```

use kurbo::Point;

use crate::overlay::Rings;

/// A row of an engraved area, mm.
#[derive(Clone, Debug, PartialEq)]
pub struct Row {
    /// How far down it lies.
    pub y: f64,
    /// Where it is burnt, from left to right.
    pub spans: Vec<[f64; 2]>,
}

/// Chords err by at most this, mm.
const TOLERANCE: f64 = 0.01;
/// A shape has at most so many rows; beyond them they lie farther apart.
const MOST: f64 = 50_000.0;

/// The rows of a shape, `interval` mm apart, from the top.
#[must_use]
pub fn rows(shape: &Rings, interval: f64) -> Vec<Row> {
    let bounds = shape.outer.bounds();
    let interval = interval.max(bounds.height() / MOST).max(1e-3);
    let count = (bounds.height() / interval).round().max(1.0) as usize;
    let first = bounds.y0 + (bounds.height() - interval * (count - 1) as f64) / 2.0;
    let at: Vec<f64> = (0..count).map(|n| first + n as f64 * interval).collect();
    rows_at(shape, &at)
}

/// The rows of a shape at given heights, which rise.
pub(crate) fn rows_at(shape: &Rings, at: &[f64]) -> Vec<Row> {
    let mut crossings: Vec<Vec<f64>> = vec![Vec::new(); at.len()];
    for ring in shape.all() {
        let mut points: Vec<Point> = vec![ring.segments()[0].start()];
        for segment in ring.segments() {
            segment.flatten(TOLERANCE, &mut points);
        }
        for w in points.windows(2) {
            let (a, b) = if w[0].y < w[1].y {
                (w[0], w[1])
            } else {
                (w[1], w[0])
            };
            // Half open, so that a corner on a row counts once.
            let from = at.partition_point(|y| *y < a.y);
            let to = at.partition_point(|y| *y < b.y);
            for n in from..to {
                crossings[n].push(a.x + (b.x - a.x) * (at[n] - a.y) / (b.y - a.y));
            }
        }
    }
    let row = |(n, mut xs): (usize, Vec<f64>)| {
        xs.sort_by(f64::total_cmp);
        let spans = xs.chunks_exact(2).map(|pair| [pair[0], pair[1]]);
        let spans: Vec<[f64; 2]> = spans.filter(|s| s[1] - s[0] > 1e-4).collect();
        (!spans.is_empty()).then_some(Row { y: at[n], spans })
    };
    crossings.into_iter().enumerate().filter_map(row).collect()
}
