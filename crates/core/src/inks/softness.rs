//! Whether edges are soft: drawn with mixed pixels that say where the edge is, or hard steps.

use crate::inks::EdgeField;
use crate::otsu::{between_tones, histogram_of};

/// A pixel holding between this part of an ink and one less this part is a mix.
const MIXED: f32 = 0.06;
/// Rows that are looked at: enough for a share.
const ROWS: usize = 300;

/// How edges are drawn.
pub(super) struct Softness {
    /// Share of the links between different inks that have a mixed pixel at an end, 0 to 1: a
    /// smooth rendering gives nearly 1, a picture without soft edges 0; without any edge it is 1.
    pub share: f64,
    /// Typical number of mixed pixels from one ink to the other, px: about 1 for a smooth
    /// rendering, more for a blurred one.
    pub width: f64,
}

/// Mixed pixels looked for on each side of an edge.
const WIDEST: usize = 6;

/// Measures the edges along the rows.
pub(super) fn edges(width: usize, labels: &[u8], field: &EdgeField) -> Softness {
    let none = Softness {
        share: 1.0,
        width: 1.0,
    };
    let part: Box<dyn Fn(usize, u8, u8) -> f32> = match field {
        EdgeField::Tone { tone, levels, .. } => {
            let levels = levels.or_else(|| {
                between_tones(&histogram_of(tone)).map(|(_, d, l)| [f32::from(d), f32::from(l)])
            });
            let Some([dark, light]) = levels else {
                return none;
            };
            Box::new(move |i, _, _| (f32::from(tone[i]) - dark) / (light - dark))
        }
        EdgeField::Colours { pixels, mixes } => Box::new(|i, a, b| mixes.part(pixels[i], a, b)),
    };
    let mixed = |i: usize, a: u8, b: u8| (MIXED..1.0 - MIXED).contains(&part(i, a, b));
    let (mut links, mut soft) = (0u64, 0u64);
    let mut widths = [0u64; 2 * WIDEST + 1];
    let step = (labels.len() / width.max(1) / ROWS).max(1);
    for (y, row) in labels.chunks(width).enumerate().step_by(step) {
        for x in 1..row.len() {
            let (a, b) = (row[x - 1], row[x]);
            if a == b {
                continue;
            }
            let at = |x: usize| mixed(y * width + x, a, b);
            let left = (0..WIDEST.min(x)).take_while(|k| row[x - 1 - k] == a && at(x - 1 - k));
            let right = (0..WIDEST.min(row.len() - x)).take_while(|k| row[x + k] == b && at(x + k));
            let count = left.count() + right.count();
            links += 1;
            soft += u64::from(count > 0);
            widths[count] += 1;
        }
    }
    if links == 0 {
        return none;
    }
    // Where edges run along the row they look wide: the lower third tells how wide they are.
    let mut seen = 0;
    let width = widths.iter().position(|&n| {
        seen += n;
        seen * 3 >= links
    });
    Softness {
        share: soft as f64 / links as f64,
        width: width.unwrap_or(1) as f64,
    }
}
