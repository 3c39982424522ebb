//! What a machine's drives really do, found from how long its runs took.
//!
//! ```text
//!   what was sent ──dry run with drives so far──► seconds ◄─compared─► seconds it took
//!                        └────── drives that fit better ◄──────┘
//! ```
//!
//! The runs are gone through again on a simulated machine whose drives are changed until the times agree best, by least
//! squares of their ratios. What the runs say nothing of stays as it was: runs of different kinds (long straight lines, many
//! small parts, round ones) say most.

use inky_core::least_squares;
use serde::{Deserialize, Serialize};

use crate::cutter::{self, Cutter};
use crate::dry;
use crate::laser::{self, Laser};
use crate::machine::Machine;
use crate::motion::Dynamics;
use crate::sender::Language;

/// What the drives of a machine do.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Drives {
    /// Acceleration, mm/s².
    pub acceleration: f64,
    /// Greatest jump of the velocity at a corner, mm/s.
    pub corner: f64,
    /// Time to lower or to raise the tool, s.
    pub lift: f64,
    /// Greatest speed, mm/s.
    pub speed: f64,
}

/// A run that was measured.
#[derive(Clone, Copy, Debug)]
pub struct Ran<'a> {
    /// What was sent.
    pub text: &'a str,
    /// How long it took, s.
    pub seconds: f64,
}

/// Drives that were found.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Found {
    /// What they do.
    pub drives: Drives,
    /// The greatest difference of a run's time from what they say, as a part of it.
    pub farthest: f64,
}

/// Runs that are needed at least.
pub const FEWEST: usize = 3;
/// How much a figure that the runs say little of is held where it was: a tenfold change of it counts as much as a time
/// that is wrong by this part, times 2.3.
const HELD: f64 = 0.003;
/// Where it is begun, times what the drives were taken for; the best so many of these places are gone on from.
const ACCELERATIONS: [f64; 5] = [0.1, 0.3, 1.0, 3.0, 8.0];
const CORNERS: [f64; 3] = [0.3, 1.0, 3.0];
const TRIED: usize = 3;
/// Where nothing ends, mm: a dry run asks only for the time.
const ENDLESS: f64 = 1e6;

impl Drives {
    /// Those of the machines that ship with the program; of others, a first guess.
    #[must_use]
    pub fn usual(language: Language) -> Self {
        let (
            Dynamics {
                acceleration,
                corner,
            },
            lift,
            speed,
        ) = match language {
            Language::Hpgl => {
                let model = cutter::Model::default();
                (model.dynamics, model.lift, model.speed)
            }
            Language::Gcode => {
                let model = laser::Model::default();
                (model.dynamics, 0.0, model.speed)
            }
        };
        Self {
            acceleration,
            corner,
            lift,
            speed,
        }
    }

    /// A machine with these drives.
    #[must_use]
    pub fn machine(&self, language: Language) -> Machine {
        let dynamics = Dynamics {
            acceleration: self.acceleration,
            corner: self.corner,
        };
        let speed = self.speed;
        match language {
            Language::Hpgl => Machine::Cutter(Box::new(Cutter::new(cutter::Model {
                dynamics,
                speed,
                lift: self.lift,
                size: [ENDLESS; 2],
                ..cutter::Model::default()
            }))),
            Language::Gcode => Machine::Laser(Laser::new(laser::Model {
                dynamics,
                speed,
                bed: [ENDLESS; 2],
                ..laser::Model::default()
            })),
        }
    }

    /// How long a text takes, s.
    #[must_use]
    pub fn seconds(&self, language: Language, text: &str) -> f64 {
        dry::seconds(&mut self.machine(language), text)
    }

    /// What is to be found, as logarithms, so that none falls below nought.
    fn unknowns(&self) -> [f64; 3] {
        // A tool that needs no time to come down has nothing to be found.
        [self.acceleration, self.corner, self.lift.max(1e-3)].map(f64::ln)
    }

    fn with(&self, unknowns: &[f64; 3]) -> Self {
        let [acceleration, corner, lift] = unknowns.map(f64::exp);
        Self {
            acceleration,
            corner,
            lift,
            ..*self
        }
    }
}

/// The acceleration, corners and lifts that runs on a machine speak for, from those it was taken to have; its greatest
/// speed stays. `None` of fewer than [`FEWEST`] runs.
#[must_use]
pub fn found(language: Language, runs: &[Ran<'_>], start: Drives) -> Option<Found> {
    if runs.len() < FEWEST || runs.iter().any(|r| r.seconds <= 0.0) {
        return None;
    }
    let ratios = |drives: &Drives| -> Vec<f64> {
        let each = runs.iter();
        let each = each.map(|r| drives.seconds(language, r.text).max(1e-3) / r.seconds);
        each.collect()
    };
    let from = start.unknowns();
    let errors = |unknowns: &[f64; 3]| -> Vec<f64> {
        let off = ratios(&start.with(unknowns)).into_iter().map(f64::ln);
        let held = unknowns.iter().zip(&from);
        let held = held.map(|(now, was)| HELD * (now - was));
        off.chain(held).collect()
    };
    let far = |unknowns: &[f64; 3]| errors(unknowns).iter().map(|e| e * e).sum::<f64>();
    // Far from the truth the least squares may end in a hollow beside it: they begin at the best of some places.
    let [acceleration, corner, lift] = from;
    let places = ACCELERATIONS
        .iter()
        .flat_map(|a| CORNERS.iter().map(move |c| (a, c)));
    let mut places: Vec<[f64; 3]> = places
        .map(|(a, c)| [acceleration + a.ln(), corner + c.ln(), lift])
        .collect();
    places.sort_by_cached_key(|place| (far(place) * 1e12) as u64);
    let found = places
        .iter()
        .take(TRIED)
        .map(|place| least_squares::fitted(*place, errors));
    let best = found.min_by(|a, b| far(a).total_cmp(&far(b)))?;
    let drives = start.with(&best);
    let off = ratios(&drives).into_iter().map(|r| (r - 1.0).abs());
    Some(Found {
        drives,
        farthest: off.fold(0.0, f64::max),
    })
}

#[cfg(test)]
mod tests {
    use std::fmt::Write as _;

    use proptest::prelude::*;

    use super::*;

    /// Rings of so many sides and so many mm across, in rows.
    fn rings(count: usize, sides: usize, width: f64, speed: u32) -> String {
        let mut text = format!("IN;SP1;VS{speed};");
        for n in 0..count {
            let (x, y) = ((n % 10) as f64, (n / 10) as f64);
            let at = |k: usize| {
                let angle = std::f64::consts::TAU * k as f64 / sides as f64;
                let place = |middle: f64, out: f64| {
                    ((middle + 0.5) * 1.3 * width + out * width / 2.0) * 40.0
                };
                (place(x, angle.cos()).round(), place(y, angle.sin()).round())
            };
            let (x, y) = at(0);
            let _ = write!(text, "PU{x},{y};PD");
            let corners: Vec<String> = (1..=sides)
                .map(|k| format!("{},{}", at(k).0, at(k).1))
                .collect();
            let _ = write!(text, "{};", corners.join(","));
        }
        text + "PU;SP0;"
    }

    /// The same for a laser.
    fn fields(count: usize, width: f64, feed: u32) -> String {
        let mut text = format!("G21 G90\nM4 S500\nF{feed}\n");
        for n in 0..count {
            let (x, y) = ((n % 8) as f64 * 1.4 * width, (n / 8) as f64 * 1.4 * width);
            let _ = writeln!(text, "G0 X{x:.3} Y{y:.3}");
            for (across, up) in [(1.0, 0.0), (1.0, 1.0), (0.0, 1.0), (0.0, 0.0)] {
                let _ = writeln!(text, "G1 X{:.3} Y{:.3}", x + across * width, y + up * width);
            }
            let _ = writeln!(
                text,
                "G0 X{:.3} Y{y:.3}\nG2 X{:.3} Y{y:.3} I{:.3} J0",
                x + width / 4.0,
                x + width * 0.75,
                width / 4.0
            );
        }
        text + "M5\nM2\n"
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(4))]

        /// Whatever a cutter's drives are: three measured runs, then another job's time is told within 5 %.
        #[test]
        fn a_cutters_times_are_told_after_three_runs(
            acceleration in 400.0..15_000.0, corner in 3.0..60.0, lift in 0.01..0.15, speed in 150.0..1200.0,
            noise in prop::array::uniform3(0.997..1.003),
        ) {
            let truth = Drives { acceleration, corner, lift, speed };
            let texts = [rings(12, 3, 80.0, 60), rings(60, 24, 5.0, 40), rings(60, 4, 6.0, 30)];
            let runs: Vec<(f64, &String)> = texts.iter().zip(noise).map(|(t, by)| (truth.seconds(Language::Hpgl, t) * by, t)).collect();
            let runs: Vec<Ran<'_>> = runs.iter().map(|(seconds, text)| Ran { text, seconds: *seconds }).collect();
            let start = Drives { speed, ..Drives::usual(Language::Hpgl) };
            let found = found(Language::Hpgl, &runs, start).unwrap();
            prop_assert!(found.farthest < 0.03, "{found:?}");
            for other in [rings(20, 3, 30.0, 45), rings(40, 90, 9.0, 30)] {
                let ratio = found.drives.seconds(Language::Hpgl, &other) / truth.seconds(Language::Hpgl, &other);
                prop_assert!((ratio - 1.0).abs() < 0.05, "{ratio}: {found:?}");
            }
        }

        #[test]
        fn a_lasers_times_are_told_after_three_runs(
            acceleration in 300.0..10_000.0, corner in 3.0..50.0, speed in 150.0..1000.0,
            noise in prop::array::uniform3(0.997..1.003),
        ) {
            let truth = Drives { acceleration, corner, speed, lift: 0.0 };
            let texts = [fields(20, 10.0, 1800), fields(12, 40.0, 6000), fields(30, 4.0, 3000)];
            let runs: Vec<(f64, &String)> = texts.iter().zip(noise).map(|(t, by)| (truth.seconds(Language::Gcode, t) * by, t)).collect();
            let runs: Vec<Ran<'_>> = runs.iter().map(|(seconds, text)| Ran { text, seconds: *seconds }).collect();
            let start = Drives { speed, ..Drives::usual(Language::Gcode) };
            let found = found(Language::Gcode, &runs, start).unwrap();
            let other = fields(16, 18.0, 4500);
            let ratio = found.drives.seconds(Language::Gcode, &other) / truth.seconds(Language::Gcode, &other);
            prop_assert!((ratio - 1.0).abs() < 0.05, "{ratio}: {found:?}");
        }
    }

    #[test]
    fn two_runs_are_too_few() {
        let text = rings(3, 4, 10.0, 30);
        let ran = Ran {
            text: &text,
            seconds: 4.0,
        };
        let start = Drives::usual(Language::Hpgl);
        assert_eq!(found(Language::Hpgl, &[ran; 2], start), None);
        assert_eq!(
            found(
                Language::Hpgl,
                &[
                    ran,
                    ran,
                    Ran {
                        seconds: 0.0,
                        ..ran
                    }
                ],
                start
            ),
            None
        );
        assert!(found(Language::Hpgl, &[ran; 3], start).is_some());
    }

    /// One leg of 100 mm at 100 mm/s and 1000 mm/s²: 1.1 s of even acceleration, and the blade down and up again.
    #[test]
    fn a_time_is_that_of_even_acceleration() {
        let drives = Drives {
            acceleration: 1000.0,
            corner: 10.0,
            lift: 0.05,
            speed: 500.0,
        };
        let seconds = drives.seconds(Language::Hpgl, "IN;SP1;VS10;PD4000,0;PU;");
        assert!((seconds - 1.2).abs() < 1e-9, "{seconds}");
    }
}
