//! Whether edges are soft: drawn with mixed pixels that say where the edge is, or hard steps.

use crate::inks::EdgeField;
use crate::inks::tone::{between_tones, histogram_of};

/// A pixel this far from its ink is a mix, on the scale 0 to 255.
const MIXED: f32 = 16.0;

/// Share of the links between different inks that have a mixed pixel at an end, 0 to 1.
///
/// A smooth rendering gives nearly 1, a picture without soft edges 0; without any edge it is 1.
pub(super) fn edge_softness(width: usize, labels: &[u8], field: &EdgeField) -> f64 {
    let mixed: Box<dyn Fn(usize) -> bool> = match field {
        EdgeField::Tone { tone, .. } => {
            let Some((_, dark, light)) = between_tones(&histogram_of(tone)) else {
                return 1.0;
            };
            let off = move |v: u8, from: u8| (f32::from(v) - f32::from(from)).abs();
            Box::new(move |i| off(tone[i], dark).min(off(tone[i], light)) > MIXED)
        }
        EdgeField::Colours {
            pixels,
            inks: colours,
        } => Box::new(|i| {
            let ink = colours[usize::from(labels[i])];
            let apart = |(p, c): (&u8, &f32)| (f32::from(*p) - c).abs();
            pixels[i].iter().zip(&ink).map(apart).fold(0.0, f32::max) > MIXED
        }),
    };
    let (mut links, mut soft) = (0u64, 0u64);
    for (y, row) in labels.chunks(width).enumerate() {
        for x in 1..row.len() {
            if row[x] != row[x - 1] {
                links += 1;
                let i = y * width + x;
                soft += u64::from(mixed(i) || mixed(i - 1));
            }
        }
    }
    if links == 0 {
        1.0
    } else {
        soft as f64 / links as f64
    }
}
