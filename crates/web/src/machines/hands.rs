//! What can be done by hand to a simulated machine, as its page shows it.

use inky_core::units::Unit;

use crate::machines::kept::Kind;
use crate::machines::simulated::One;
use crate::text;

/// What can be done to a simulated machine.
pub(crate) struct Hands {
    /// Value, words, whether it is chosen.
    pub(crate) paces: Vec<(&'static str, &'static str, bool)>,
    pub(crate) unplugged: bool,
    pub(crate) garbled: bool,
    pub(crate) slow: bool,
    pub(crate) overruns: bool,
    /// Whether it can lose steps and run out of stock.
    pub(crate) blade: bool,
    /// Whether it answers at all.
    pub(crate) answers: bool,
    pub(crate) astray: String,
    pub(crate) media_end: String,
    /// How far its eye is off, and the mark that it misses.
    pub(crate) eye_off: String,
    pub(crate) eye_misses: String,
}

/// The switches of a simulated machine.
pub(crate) fn hands(one: &One, kind: Kind, unit: Unit) -> Hands {
    let (now, faults) = (*one.hands(), one.faults());
    let shown = |mm: f64| text::length(mm, unit, 2);
    Hands {
        paces: [
            ("1", "as fast as a real one", 1.0),
            ("10", "10 times as fast", 10.0),
            ("100", "100 times as fast", 100.0),
            ("1000", "1000 times as fast", 1000.0),
        ]
        .map(|(value, words, pace)| (value, words, (now.pace - pace).abs() < 1e-9))
        .to_vec(),
        unplugged: now.unplugged,
        garbled: now.garbled,
        slow: faults.slow > 1.0,
        overruns: faults.overruns,
        blade: kind == Kind::Cutter,
        answers: kind != Kind::Printer,
        astray: match faults.astray[0] {
            0.0 => String::new(),
            mm => shown(mm),
        },
        media_end: faults.media_end.map(shown).unwrap_or_default(),
        eye_off: match faults.eye.noise {
            0.0 => String::new(),
            mm => shown(mm),
        },
        eye_misses: faults
            .eye
            .blind_to
            .map_or_else(String::new, |n| (n + 1).to_string()),
    }
}
