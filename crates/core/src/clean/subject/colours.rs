//! Colours of a subject and of its ground: how likely each colour is in either.
//!
//! Histograms of luma and chroma, spread a little so that a colour like those that were seen is likely too.

/// Bins along each of the three axes.
const BINS: usize = 16;
/// Every colour counts as seen so often, as a part of one bin's fair share.
const FLOOR: f32 = 0.02;

/// How likely each colour is.
pub(super) struct Colours {
    likely: Vec<f32>,
}

/// Luma and the two chromas, each 0 to 255, stretched over the bins.
fn bin(colour: [f32; 3]) -> [usize; 3] {
    colour.map(|v| ((v / 256.0 * BINS as f32) as usize).min(BINS - 1))
}

fn index([a, b, c]: [usize; 3]) -> usize {
    (a * BINS + b) * BINS + c
}

impl Colours {
    /// Of some colours, each with what it counts.
    pub(super) fn of(all: impl Iterator<Item = ([f32; 3], f32)>) -> Self {
        let mut counts = vec![0.0f32; BINS * BINS * BINS];
        for (colour, weight) in all {
            counts[index(bin(colour))] += weight;
        }
        for axis in 0..3 {
            counts = spread(&counts, axis);
        }
        let total: f32 = counts.iter().sum::<f32>().max(1e-6);
        let floor = FLOOR / (BINS * BINS * BINS) as f32;
        let likely = counts.iter().map(|n| n / total + floor).collect();
        Self { likely }
    }

    /// The logarithm of how likely a colour is.
    pub(super) fn log(&self, colour: [f32; 3]) -> f32 {
        self.likely[index(bin(colour))].ln()
    }
}

/// A quarter, a half and a quarter along an axis.
fn spread(counts: &[f32], axis: usize) -> Vec<f32> {
    let step = [BINS * BINS, BINS, 1][axis];
    let place = |i: usize| i / step % BINS;
    (0..counts.len())
        .map(|i| {
            let before = if place(i) > 0 { counts[i - step] } else { 0.0 };
            let after = if place(i) + 1 < BINS {
                counts[i + step]
            } else {
                0.0
            };
            0.5 * counts[i] + 0.25 * (before + after)
        })
        .collect()
}
