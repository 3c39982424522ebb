//! Differences: what was painted held against what is seen, pixel by pixel, and the places where they
//! differ clearly.

use kurbo::Point;
use rayon::prelude::*;

use crate::agreement::mask::Mask;
use crate::agreement::painted::Painted;
use crate::agreement::{Disagreement, Missed, MissedMap};
use crate::fine::Plane;

/// A difference below this part of the contrast is the picture's own unevenness, beside the grain.
const LEAST: f32 = 0.08;
/// Part of the contrast from which a pixel is told as lost or invented.
const TOLD: f32 = 0.3;
/// Pixels of a place that is told.
const LEAST_PX: usize = 3;
/// A place with less painted ink than this around it was left out altogether.
const LEFT_OUT: f32 = 0.15;

/// A painted picture held against the one that is seen.
pub(super) struct Differences {
    /// How far every pixel differs, as a part of the contrast, 0 to 1; less than nothing where the
    /// picture has more ink than was painted.
    off: Plane,
    /// Below this a difference says nothing.
    least: f32,
}

impl Differences {
    /// Holds one against the other; nothing differs where inks were dropped on purpose.
    pub(super) fn new(seen: &[Plane; 3], painted: &Painted, mask: &Mask) -> Self {
        let values: Vec<f32> = (0..seen[0].values.len())
            .into_par_iter()
            .map(|i| {
                if mask.dropped[i] {
                    return 0.0;
                }
                let colour = [0, 1, 2].map(|c| seen[c].values[i]);
                let drawn = [0, 1, 2].map(|c| painted.channels[c].values[i]);
                let apart = colour.iter().zip(drawn).map(|(a, b)| (a - b) * (a - b));
                let part = (apart.sum::<f32>().sqrt() / painted.contrast).min(1.0);
                if painted.above_ground(i, colour) > painted.above_ground(i, drawn) {
                    -part
                } else {
                    part
                }
            })
            .collect();
        let least = LEAST + 2.5 * typical(&values);
        let off = Plane { values, ..seen[0] };
        Self { off, least }
    }

    /// The sum of squared differences.
    pub(super) fn far(&self) -> f64 {
        self.off.values.iter().map(|v| f64::from(v * v)).sum()
    }

    /// How much of the ink differs beyond the grain, px².
    pub(super) fn area(&self) -> f64 {
        let beyond = |v: f32| (v.abs() - self.least).max(0.0) / (1.0 - self.least).max(0.1);
        self.off.values.iter().map(|&v| f64::from(beyond(v))).sum()
    }

    /// What differs beyond the grain.
    pub(super) fn map(&self) -> MissedMap {
        let value = |&v: &f32| {
            if v.abs() < self.least {
                0
            } else {
                (v * 127.0).round() as i8
            }
        };
        MissedMap {
            width: self.off.width as u32,
            height: self.off.height as u32,
            values: self.off.values.iter().map(value).collect(),
        }
    }

    /// Connected places that differ clearly.
    pub(super) fn places(&self, covers: &[Plane], (across, down): (f64, f64)) -> Vec<Disagreement> {
        let (w, h) = (self.off.width, self.off.height);
        let told = TOLD.max(1.5 * self.least);
        let kind = |i: usize| match self.off.values[i] {
            v if v > told => Some(Missed::Invented),
            v if v < -told => Some(Missed::Lost),
            _ => None,
        };
        let mut seen = vec![false; w * h];
        let mut found = Vec::new();
        for start in 0..w * h {
            let Some(missed) = kind(start).filter(|_| !seen[start]) else {
                continue;
            };
            seen[start] = true;
            let mut places = vec![start];
            let mut next = 0;
            while let Some(&i) = places.get(next) {
                next += 1;
                let (x, y) = (i % w, i / w);
                for y in y.saturating_sub(1)..(y + 2).min(h) {
                    for x in x.saturating_sub(1)..(x + 2).min(w) {
                        let j = y * w + x;
                        if !seen[j] && kind(j) == Some(missed) {
                            seen[j] = true;
                            places.push(j);
                        }
                    }
                }
            }
            if places.len() < LEAST_PX {
                continue;
            }
            let count = places.len() as f64;
            let (x, y) = places.iter().fold((0.0, 0.0), |(x, y), &i| {
                (x + (i % w) as f64 + 0.5, y + (i / w) as f64 + 0.5)
            });
            let painted: f32 = places
                .iter()
                .map(|&i| covers.iter().map(|c| c.values[i]).sum::<f32>())
                .sum();
            let area: f64 = places
                .iter()
                .map(|&i| f64::from(self.off.values[i].abs()))
                .sum();
            let whole = missed == Missed::Lost && painted / (count as f32) < LEFT_OUT;
            // A faint ink that was left out is as large as a strong one.
            let area = if whole { count } else { area };
            found.push(Disagreement {
                at: Point::new(x / count * across, y / count * down),
                area: area * across * down,
                missed,
                whole,
            });
        }
        found
    }
}

/// The middle magnitude of what differs where hardly anything does: the grain.
fn typical(off: &[f32]) -> f32 {
    let mut all: Vec<f32> = off
        .iter()
        .step_by((off.len() / 50_000).max(1))
        .map(|v| v.abs())
        .collect();
    let middle = all.len() / 2;
    *all.select_nth_unstable_by(middle, f32::total_cmp).1
}
