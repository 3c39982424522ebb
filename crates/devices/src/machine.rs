//! One machine or another, for what only passes bytes and time on.

use std::sync::Arc;

use kurbo::Point;

use crate::cutter::eye::Laid;
use crate::cutter::{Cutter, Faults};
use crate::laser::{Burn, Laser, State};
use crate::printer::{Printer, Sheet};

/// A simulated machine.
#[derive(Clone, Debug)]
pub enum Machine {
    /// A roll cutter.
    Cutter(Box<Cutter>),
    /// A laser.
    Laser(Laser),
    /// A printer.
    Printer(Printer),
}

impl Machine {
    /// Takes so many of the bytes; the rest is for later.
    pub fn receive(&mut self, bytes: &[u8]) -> usize {
        match self {
            Self::Cutter(cutter) => cutter.receive(bytes),
            Self::Laser(laser) => {
                laser.receive(bytes);
                bytes.len()
            }
            Self::Printer(printer) => {
                printer.receive(bytes);
                bytes.len()
            }
        }
    }

    /// Lets time go by, s.
    pub fn advance(&mut self, seconds: f64) {
        match self {
            Self::Cutter(cutter) => cutter.advance(seconds),
            Self::Laser(laser) => laser.advance(seconds),
            Self::Printer(printer) => printer.advance(seconds),
        }
    }

    /// What it answered since it was asked last.
    pub fn answers(&mut self) -> Vec<u8> {
        match self {
            Self::Cutter(cutter) => cutter.answers(),
            Self::Laser(laser) => laser.answers(),
            Self::Printer(_) => Vec::new(),
        }
    }

    /// Whether nothing is left to do.
    #[must_use]
    pub fn is_idle(&self) -> bool {
        match self {
            Self::Cutter(cutter) => cutter.is_idle(),
            Self::Laser(laser) => laser.state() == State::Idle,
            Self::Printer(printer) => printer.is_idle(),
        }
    }

    /// The line to it is gone: a laser puts its beam out, a cutter does what its buffer holds, a printer takes what came
    /// for a file.
    pub fn unplugged(&mut self) {
        match self {
            Self::Cutter(_) => {}
            Self::Laser(laser) => {
                laser.stop();
                laser.answers();
            }
            Self::Printer(printer) => printer.line_closed(),
        }
    }

    /// What lies in the tray of a printer, the latest last.
    #[must_use]
    pub fn tray(&self) -> Vec<Arc<Sheet>> {
        match self {
            Self::Cutter(_) | Self::Laser(_) => Vec::new(),
            Self::Printer(printer) => printer.tray(),
        }
    }

    /// Puts its faults in force; the others know none but being slow.
    pub fn set_faults(&mut self, faults: Faults) {
        match self {
            Self::Cutter(cutter) => *cutter.faults() = faults,
            Self::Laser(laser) => laser.slow_down(faults.slow),
            Self::Printer(printer) => printer.slow_down(faults.slow),
        }
    }

    /// The same machine with fresh stock, nothing done yet; a printer keeps what lies in its tray.
    pub fn renew(&mut self) {
        *self = match self {
            Self::Printer(_) => return,
            Self::Cutter(cutter) => {
                let mut fresh = Cutter::new(cutter.model().clone());
                *fresh.faults() = *cutter.faults();
                Self::Cutter(Box::new(fresh))
            }
            Self::Laser(laser) => {
                let mut fresh = Laser::new(laser.model().clone());
                fresh.slow_down(laser.times_slower());
                Self::Laser(fresh)
            }
        };
    }

    /// Lays a printed sheet on a cutter; the others hold none.
    pub fn lay(&mut self, laid: Option<Laid>) {
        if let Self::Cutter(cutter) = self {
            cutter.lay(laid);
        }
    }

    /// The printed sheet that lies on a cutter.
    #[must_use]
    pub fn laid(&self) -> Option<&Laid> {
        match self {
            Self::Cutter(cutter) => cutter.laid(),
            Self::Laser(_) | Self::Printer(_) => None,
        }
    }

    /// How long it moved, s.
    #[must_use]
    pub fn seconds(&self) -> f64 {
        match self {
            Self::Cutter(cutter) => cutter.record().seconds,
            Self::Laser(laser) => laser.record().seconds,
            Self::Printer(printer) => printer.seconds(),
        }
    }

    /// Where the tool went while it was in the material, mm, y up.
    #[must_use]
    pub fn strokes(&self) -> Vec<Vec<Point>> {
        match self {
            Self::Cutter(cutter) => {
                let strokes = cutter.record().strokes.iter();
                strokes.map(|s| s.points.clone()).collect()
            }
            Self::Laser(laser) => joined(&laser.record().burns),
            Self::Printer(_) => Vec::new(),
        }
    }

    /// The same, and forgets them: what it does next is told alone.
    pub fn take_strokes(&mut self) -> Vec<Vec<Point>> {
        match self {
            Self::Cutter(cutter) => {
                let strokes = cutter.take_strokes().into_iter();
                strokes.map(|s| s.points).collect()
            }
            Self::Laser(laser) => joined(&laser.take_burns()),
            Self::Printer(_) => Vec::new(),
        }
    }

    /// What it did so far, in a sentence.
    #[must_use]
    pub fn told(&self) -> String {
        let (strokes, word, way, seconds) = match self {
            Self::Cutter(c) => (
                c.record().strokes.len(),
                "cut",
                c.record().cut,
                c.record().seconds,
            ),
            Self::Laser(l) => (
                self.strokes().len(),
                "burned",
                l.record().burned,
                l.record().seconds,
            ),
            Self::Printer(p) => {
                return match p.tray().last() {
                    Some(sheet) if !sheet.told.is_empty() => sheet.told.clone(),
                    _ => format!("{} sheets in the tray", p.tray().len()),
                };
            }
        };
        format!(
            "{strokes} strokes, {:.3} m {word} in {seconds:.0} s",
            way / 1000.0
        )
    }
}

/// Burns that go on from each other as one stroke.
fn joined(burns: &[Burn]) -> Vec<Vec<Point>> {
    let mut strokes: Vec<Vec<Point>> = Vec::new();
    for burn in burns {
        match strokes.last_mut() {
            Some(last) if last.last() == Some(&burn.from) => last.push(burn.to),
            _ => strokes.push(vec![burn.from, burn.to]),
        }
    }
    strokes
}
