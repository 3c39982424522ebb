//! A printed page that lies on a cutter: shifted, turned, stretched and skewed as printers and hands do it, and what the
//! cutter's eye sees of its marks.
//!
//! ```text
//!   as it was meant ──► as it lies        ▭ ──► ▱
//!                        └─ eye ─► places of the marks, a little off, or none
//! ```
//!
//! mm, y up: as it was meant from the page's first mark, as it lies from the cutter's lower left corner.

use std::f64::consts::TAU;

use kurbo::{Affine, Point, Vec2};

/// How a page lies.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Lying {
    /// From as it was meant to as it lies.
    pub map: Affine,
}

/// What an eye sees amiss.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Eye {
    /// A place is told wrong by so much at most, mm.
    pub noise: f64,
    /// The mark that it does not find, from nought.
    pub blind_to: Option<usize>,
}

/// Greatest shift, mm, turn, degrees, stretch either way and skew of a page at random.
const SHIFT: f64 = 8.0;
const TURN: f64 = 3.0;
const STRETCH: f64 = 0.005;
const SKEW: f64 = 0.003;
/// Sets the numbers of an eye apart from those of the page it looks at.
const EYE: u64 = 0x9e37_79b9_7f4a_7c15;

impl Lying {
    /// A page that was to be laid at a place, mm, and lies somehow; the same number lays it the same way.
    #[must_use]
    pub fn at_random(seed: u64, at: Vec2) -> Self {
        let mut numbers = Numbers(seed);
        let mut within = |most: f64| (2.0 * numbers.next() - 1.0) * most;
        let shift = at + Vec2::new(within(SHIFT), within(SHIFT));
        let turn = within(TURN).to_radians();
        let stretch = [1.0 + within(STRETCH), 1.0 + within(STRETCH)];
        Self {
            map: Affine::translate(shift)
                * Affine::rotate(turn)
                * Affine::skew(within(SKEW), 0.0)
                * Affine::scale_non_uniform(stretch[0], stretch[1]),
        }
    }
}

impl Eye {
    /// What it tells of a mark, which is the so-manieth from nought that it looks at.
    #[must_use]
    pub fn tells(&self, at: Point, number: usize) -> Option<Point> {
        self.told((number, at), &mut Numbers(number as u64 ^ EYE))
    }

    fn told(&self, (number, at): (usize, Point), numbers: &mut Numbers) -> Option<Point> {
        let off = Vec2::from_angle(numbers.next() * TAU) * (numbers.next().sqrt() * self.noise);
        (self.blind_to != Some(number)).then_some(at + off)
    }

    /// Where it finds marks that were meant to lie at `meant`; the same number sees the same.
    #[must_use]
    pub fn finds(&self, meant: &[Point], lying: &Lying, seed: u64) -> Vec<Option<Point>> {
        let mut numbers = Numbers(seed ^ EYE);
        let places = meant.iter().map(|p| lying.map * *p).enumerate();
        places.map(|mark| self.told(mark, &mut numbers)).collect()
    }
}

/// Numbers from nought to one (SplitMix64; Steele, Lea & Flood 2014, "Fast splittable pseudorandom number generators").
struct Numbers(u64);

impl Numbers {
    fn next(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        ((z ^ (z >> 31)) >> 11) as f64 / (1_u64 << 53) as f64
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_eye_is_off_by_its_noise_at_most_and_may_miss_a_mark() {
        let meant = [
            Point::ORIGIN,
            Point::new(174.0, 0.0),
            Point::new(0.0, 231.0),
        ];
        let mut farthest = 0.0_f64;
        for seed in 0..200 {
            let lying = Lying::at_random(seed, Vec2::new(40.0, 40.0));
            let eye = Eye {
                noise: 0.1,
                blind_to: Some(1),
            };
            let found = eye.finds(&meant, &lying, seed);
            assert!(found[1].is_none());
            for n in [0, 2] {
                let off = found[n].map_or(9.0, |p| p.distance(lying.map * meant[n]));
                farthest = farthest.max(off);
            }
            let exact = Eye::default().finds(&meant, &lying, seed);
            assert_eq!(exact[2], Some(lying.map * meant[2]));
        }
        assert!(farthest < 0.1 + 1e-9 && farthest > 0.09, "{farthest}");
    }
}
