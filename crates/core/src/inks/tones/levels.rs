//! Levels: where one tone ends and the next begins.

use serde::{Deserialize, Serialize};

use super::Asked;
use crate::fine::Plane;
use crate::otsu::levels;

/// How the levels between tones are chosen.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", tag = "kind")]
pub enum Levels {
    /// Where tones are parted best, by multi-level Otsu.
    #[default]
    Found,
    /// So that each tone has the same area.
    Equal,
    /// By hand.
    Hand {
        /// Percent of full white, rising.
        percents: Vec<f64>,
    },
}

/// The levels in percent of full white, from the lightest: what is darker than the first is more than
/// what is darker than the second.
pub(super) fn found(tone: &Plane, cover: &Plane, asked: &Asked) -> Vec<f64> {
    let between = asked.count.saturating_sub(1);
    let mut percents = match &asked.levels {
        _ if between == 0 => Vec::new(),
        Levels::Hand { percents } => percents.clone(),
        Levels::Equal => equal(&histogram(tone, cover), between),
        Levels::Found => {
            let found = levels(&histogram(tone, cover), between);
            found.iter().map(|&v| (f64::from(v) + 0.5) / 2.55).collect()
        }
    };
    percents.sort_by(|a, b| b.total_cmp(a));
    percents
}

/// How often each tone is seen where it is not clear.
pub(super) fn histogram(tone: &Plane, cover: &Plane) -> [u64; 256] {
    let mut histogram = [0; 256];
    for (&v, &c) in tone.values.iter().zip(&cover.values) {
        if c >= 0.5 {
            histogram[v.round().clamp(0.0, 255.0) as usize] += 1;
        }
    }
    histogram
}

/// Levels with as many pixels between each two, as nearly as the tones allow.
fn equal(histogram: &[u64; 256], between: usize) -> Vec<f64> {
    let total: u64 = histogram.iter().sum();
    let part = |k: usize| {
        let wanted = total as f64 * k as f64 / (between + 1) as f64;
        let mut seen = 0.0;
        for (v, &n) in histogram.iter().enumerate() {
            let n = n as f64;
            if n > 0.0 && seen + n >= wanted {
                return (v as f64 + (wanted - seen) / n - 0.5).max(0.0) / 2.55;
            }
            seen += n;
        }
        100.0
    };
    (1..=between).map(part).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn equal_areas_part_a_slope_evenly() {
        let histogram = [10; 256];
        let found = equal(&histogram, 3);
        for (percent, wanted) in found.iter().zip([25.0, 50.0, 75.0]) {
            assert!((percent - wanted).abs() < 0.3, "{percent} for {wanted}");
        }
    }
}
