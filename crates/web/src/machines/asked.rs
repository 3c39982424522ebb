//! What the forms of the Machines page send.

use inky_core::units::Unit;
use inky_devices::cutter::Faults;
use inky_devices::line::{Address, Hands};
use inky_devices::printed::Eye;
use serde::Deserialize;

use crate::error::{WebError, wrong};
use crate::form::Tick;
use crate::machines::kept::{Kind, Machine};
use crate::typed::{mm, mm_or_none};

/// A machine that is added.
#[derive(Debug, Deserialize)]
pub(crate) struct Added {
    name: String,
    kind: Kind,
    address: String,
    first: String,
    second: String,
    speed: String,
    /// What a printer leaves white at its edges.
    #[serde(default)]
    white: String,
    #[serde(default)]
    mute: Tick,
}

/// Letters of a machine's name.
const NAME: usize = 40;
/// How far a machine reaches, mm.
const REACH: std::ops::RangeInclusive<f64> = 10.0..=100_000.0;
/// Speeds of machines, mm/s.
const SPEED: std::ops::RangeInclusive<f64> = 1.0..=10_000.0;

impl Added {
    /// The machine, where all of it can be used.
    pub(crate) fn machine(&self, unit: Unit) -> Result<Machine, WebError> {
        let name = self.name.trim();
        if name.is_empty() || name.chars().count() > NAME {
            return Err(wrong("name", format!("a name has 1 to {NAME} letters")));
        }
        let address = self.address.trim();
        if let Err(why) = address.parse::<Address>() {
            return Err(wrong("address", why));
        }
        let reach = |field, text| {
            let found = mm(field, text, unit)?;
            if REACH.contains(&found) {
                return Ok(found);
            }
            let [least, most] = [REACH.start(), REACH.end()].map(|v| unit.length(*v, 0));
            Err(wrong(field, format!("a machine reaches {least} to {most}")))
        };
        let speed = crate::typed::number("speed", &self.speed, "400")?;
        if !SPEED.contains(&speed) {
            return Err(wrong("speed", "a speed is 1 to 10000 mm/s"));
        }
        let white = match self.white.trim() {
            "" => 0.0,
            typed => mm("white", typed, unit)?,
        };
        if !(0.0..=100.0).contains(&white) {
            let most = unit.length(100.0, 0);
            return Err(wrong(
                "white",
                format!("a printer leaves {most} white at most"),
            ));
        }
        Ok(Machine {
            name: name.to_owned(),
            kind: self.kind,
            address: address.to_owned(),
            reach: [reach("first", &self.first)?, reach("second", &self.second)?],
            speed,
            mute: self.mute.is_on(),
            loaded: None,
            drives: None,
            white,
            bed: None,
        })
    }
}

/// What is done to a simulated machine by hand.
#[derive(Debug, Deserialize)]
#[serde(default)]
pub(crate) struct ByHand {
    pace: f64,
    unplugged: Tick,
    garbled: Tick,
    slow: Tick,
    overruns: Tick,
    /// Far astray with each stroke, typed; empty for not at all.
    astray: String,
    /// Where the media ends, typed; empty for nowhere.
    media_end: String,
    /// How far its eye tells places beside, typed; empty for not at all.
    eye_off: String,
    /// The mark that its eye does not see, from 1; empty for none.
    eye_misses: String,
}

impl Default for ByHand {
    fn default() -> Self {
        Self {
            pace: 1.0,
            unplugged: Tick::default(),
            garbled: Tick::default(),
            slow: Tick::default(),
            overruns: Tick::default(),
            astray: String::new(),
            media_end: String::new(),
            eye_off: String::new(),
            eye_misses: String::new(),
        }
    }
}

/// How many times slower a slow machine goes.
const SLOW: f64 = 4.0;

impl ByHand {
    pub(crate) fn hands(&self) -> Result<Hands, WebError> {
        if !(0.1..=1000.0).contains(&self.pace) {
            return Err(wrong(
                "hands",
                "a pace is 0.1 to 1000 times that of a real machine",
            ));
        }
        Ok(Hands {
            pace: self.pace,
            unplugged: self.unplugged.is_on(),
            garbled: self.garbled.is_on(),
        })
    }

    pub(crate) fn faults(&self, unit: Unit) -> Result<Faults, WebError> {
        let end = mm_or_none("hands", &self.media_end, unit)?;
        let astray = mm_or_none("hands", &self.astray, unit)?;
        if !(0.0..=100_000.0).contains(&end) || !(-10.0..=10.0).contains(&astray) {
            let [most, far] = [(100_000.0, 0), (10.0, 0)].map(|(mm, n)| unit.length(mm, n));
            return Err(wrong(
                "hands",
                format!("stock ends within {most}, and a stroke goes astray by {far} at most"),
            ));
        }
        let noise = mm_or_none("hands", &self.eye_off, unit)?;
        if !(0.0..=5.0).contains(&noise) {
            let most = unit.length(5.0, 0);
            return Err(wrong("hands", format!("an eye is off by {most} at most")));
        }
        let blind_to = match self.eye_misses.trim() {
            "" => None,
            typed => match typed.parse::<usize>() {
                Ok(n @ 1..=4) => Some(n - 1),
                _ => return Err(wrong("hands", "an eye misses mark 1, 2, 3 or 4")),
            },
        };
        Ok(Faults {
            eye: Eye { noise, blind_to },
            slow: if self.slow.is_on() { SLOW } else { 1.0 },
            astray: [astray, 0.0],
            media_end: (end > 0.0).then_some(end),
            overruns: self.overruns.is_on(),
        })
    }
}
