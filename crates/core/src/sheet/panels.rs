//! Panels: work wider than the stock in strips that lap over each other, with marks to line them up.
//!
//! ```text
//!      ▽      ▽          ▽: the same mark on both neighbours, in the middle of their lap, above and
//!   ┌──────┬┬──────┐     below the work. Laid mark on mark, the strips lie as designed.
//!   │  1   ││  2   │
//!   └──────┴┴──────┘
//! ```

use kurbo::{Point, Rect};

use super::piece::Piece;
use crate::assembly::{polygon, rectangle};
use crate::cutting::{CutLayer, CutLine};
use crate::overlay::{self, Keep, Rings};
use crate::segment::Segment;
use crate::shapes::Ring;

/// Height of a mark, mm, and its distance from the work.
const MARK: f64 = 4.0;
const AWAY: f64 = 2.0;
/// Open lines are clipped at steps of this, mm.
const STEP: f64 = 0.05;

/// Where strips of at most `room` mm begin and end across a width, lapping by `lap`; one strip where it fits.
#[must_use]
pub fn strips(width: f64, room: f64, lap: f64) -> Vec<[f64; 2]> {
    if width <= room + 1e-6 || room <= lap {
        return vec![[0.0, width]];
    }
    // As few as needed, all of the same width.
    let count = ((width - lap) / (room - lap)).ceil();
    let panel = (width + lap * (count - 1.0)) / count;
    let strip = |n: usize| {
        let from = (panel - lap) * n as f64;
        [from, from + panel]
    };
    (0..count as usize).map(strip).collect()
}

/// The piece as panels no wider than `room` mm; itself where it fits.
pub(super) fn panels(piece: &Piece, room: f64, lap: f64) -> Vec<Piece> {
    let strips = strips(piece.size[0], room, lap);
    if strips.len() < 2 {
        return vec![piece.clone()];
    }
    let high = piece.size[1];
    let mut made = Vec::new();
    for (n, &[from, to]) in strips.iter().enumerate() {
        let window = Rect::new(from, -1.0, to, high + 1.0);
        let mut layers: Vec<CutLayer> = piece.layers.iter().map(|l| clipped(l, window)).collect();
        let laps = [
            (n > 0).then(|| from + lap / 2.0),
            (n + 1 < strips.len()).then(|| to - lap / 2.0),
        ];
        if let Some(first) = layers.first_mut() {
            for x in laps.into_iter().flatten() {
                first.shapes.extend(marks(x, high));
            }
        }
        made.extend(Piece::of(&layers));
    }
    made
}

/// What of a layer lies in a window.
fn clipped(layer: &CutLayer, window: Rect) -> CutLayer {
    let plate = rectangle(window);
    let rings: Vec<&Ring> = layer.rings().collect();
    let mut out = layer.empty();
    if !rings.is_empty() {
        out.shapes = overlay::overlay(&rings, &[&plate], Keep::Both);
    }
    for line in &layer.lines {
        out.lines.extend(clipped_line(line, window));
    }
    out
}

/// The stretches of a line that lie in a window.
fn clipped_line(line: &CutLine, window: Rect) -> Vec<CutLine> {
    let b = line.segments.iter().map(Segment::bounds);
    let whole = b.reduce(|a, b| a.union(b)).unwrap_or_default();
    if window.union(whole) == window {
        return vec![line.clone()];
    }
    let mut found: Vec<Vec<Segment>> = vec![Vec::new()];
    for segment in &line.segments {
        let steps = (segment.length() / STEP).ceil().clamp(1.0, 20_000.0);
        let inside = |n: usize| window.contains(segment.eval((n as f64 + 0.5) / steps));
        let mut from: Option<usize> = None;
        for n in 0..=steps as usize {
            let on = n < steps as usize && inside(n);
            match (on, from) {
                (true, None) => from = Some(n),
                (false, Some(start)) => {
                    let part = segment.part(start as f64 / steps, n as f64 / steps);
                    if let Some(last) = found.last_mut() {
                        last.push(part);
                    }
                    from = None;
                    if n < steps as usize {
                        found.push(Vec::new());
                    }
                }
                (false, None) if found.last().is_some_and(|l| !l.is_empty()) => {
                    found.push(Vec::new());
                }
                _ => {}
            }
        }
    }
    let line = |segments: Vec<Segment>| CutLine {
        segments,
        closed: false,
        width: line.width,
    };
    found
        .into_iter()
        .filter(|s| !s.is_empty())
        .map(line)
        .collect()
}

/// A mark above and one below the work, pointing at it.
fn marks(x: f64, high: f64) -> [Rings; 2] {
    let mark = |tip: f64, away: f64| Rings {
        outer: {
            let base = tip + away;
            let corners = [
                Point::new(x, tip),
                Point::new(x - MARK / 2.0, base),
                Point::new(x + MARK / 2.0, base),
            ];
            let ring = polygon(&corners);
            if ring.signed_area() > 0.0 {
                ring
            } else {
                ring.reversed()
            }
        },
        holes: Vec::new(),
    };
    [mark(-AWAY, -MARK), mark(high + AWAY, MARK)]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn strips_cover_the_width_with_their_lap() {
        for (width, room, lap, count) in [
            (500.0, 600.0, 10.0, 1),
            (1000.0, 600.0, 10.0, 2),
            (1800.0, 600.0, 10.0, 4),
        ] {
            let strips = strips(width, room, lap);
            assert_eq!(strips.len(), count);
            assert!((strips[count - 1][1] - width).abs() < 1e-9 && strips[0][0] == 0.0);
            assert!(strips.iter().all(|s| s[1] - s[0] <= room + 1e-9));
            for w in strips.windows(2) {
                assert!((w[0][1] - w[1][0] - lap).abs() < 1e-9);
            }
        }
    }
}
