//! Levels: which tones become black and white, and where the middle lies.

use serde::{Deserialize, Serialize};

use crate::limits::{OutOfRange, within};
use crate::picture::Picture;

/// Black point, white point and middle tone.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Levels {
    /// Tone that becomes black, percent of full white.
    pub black: f64,
    /// Tone that becomes white, percent.
    pub white: f64,
    /// Tone half way between the two that becomes 50 %, percent.
    pub middle: f64,
}

impl Levels {
    /// Tones left as they are.
    pub const NONE: Self = Self {
        black: 0.0,
        white: 100.0,
        middle: 50.0,
    };

    /// Least distance between black and white, percent.
    const LEAST_RANGE: f64 = 2.0;

    /// Every channel of every pixel moved.
    #[must_use]
    pub(super) fn applied(&self, picture: &Picture) -> Picture {
        let range = (self.white - self.black).max(Self::LEAST_RANGE);
        // The power under which the middle tone becomes one half.
        let middle = ((self.middle / 100.0).clamp(0.02, 0.98)).ln();
        let power = 0.5f64.ln() / middle;
        let table: [u8; 256] = std::array::from_fn(|v| {
            let part = ((v as f64 / 2.55 - self.black) / range).clamp(0.0, 1.0);
            (part.powf(power) * 255.0).round() as u8
        });
        let move_tone = |&[r, g, b, a]: &[u8; 4]| {
            let [r, g, b] = [r, g, b].map(|v| table[usize::from(v)]);
            [r, g, b, a]
        };
        picture.repixelled(picture.pixels().iter().map(move_tone).collect())
    }

    /// # Errors
    /// The first figure out of range.
    pub(super) fn check(&self) -> Result<(), OutOfRange> {
        let least = self.black + Self::LEAST_RANGE;
        within("a black point", self.black, &(0.0..=98.0), "%")?;
        within("a white point", self.white, &(least..=100.0), "%")?;
        within("a middle tone", self.middle, &(5.0..=95.0), "%")
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tones_between_the_points_are_spread_over_the_whole_range() {
        let pixels = [51u8, 128, 204].map(|v| [v, v, v, 255]).to_vec();
        let picture = Picture::new(3, 1, pixels).unwrap();
        let levels = Levels {
            black: 20.0,
            white: 80.0,
            middle: 50.0,
        };
        let found: Vec<u8> = levels
            .applied(&picture)
            .pixels()
            .iter()
            .map(|p| p[0])
            .collect();
        assert_eq!(found, [0, 128, 255]);
        assert_eq!(Levels::NONE.applied(&picture).pixels(), picture.pixels());
        let lighter = Levels {
            middle: 30.0,
            ..Levels::NONE
        };
        let thirty = Picture::new(1, 1, vec![[77, 77, 77, 255]]).unwrap();
        assert!(lighter.applied(&thirty).pixels()[0][0].abs_diff(128) <= 1);
    }
}
