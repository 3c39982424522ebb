//! What machines answer, and what it says of the paths.

use super::{Awaited, Known, LISTENED, Language, Sender, Stand, Trouble};

/// Bytes that are kept ahead of a cutter at most, so that a pause comes soon.
const KEPT_AHEAD: usize = 1024;
/// A place may be told this much beside, in the plotter's units.
const NEAR: i64 = 2;
/// A longer answer is none.
const LONGEST_ANSWER: usize = 200;

impl Sender {
    /// Takes what the machine said, s after the beginning.
    pub fn hear(&mut self, bytes: &[u8], now: f64) {
        if self.mute {
            return;
        }
        // However slowly it answers, it answers.
        let since = now - self.listened.replace(now).unwrap_or(now);
        self.quiet = match bytes {
            [] => self.quiet + since.min(LISTENED),
            _ => 0.0,
        };
        for &byte in bytes {
            if byte != b'\r' && byte != b'\n' {
                self.heard.push(byte);
                if self.heard.len() > LONGEST_ANSWER {
                    self.fail_for_garbage();
                }
                continue;
            }
            let line = std::mem::take(&mut self.heard);
            let line = String::from_utf8_lossy(&line).trim().to_owned();
            if !line.is_empty() {
                self.understand(&line, now);
            }
        }
    }

    fn fail_for_garbage(&mut self) {
        let said = String::from_utf8_lossy(&self.heard);
        let said: String = said.chars().filter(|c| !c.is_control()).take(40).collect();
        self.heard.clear();
        self.fail(Trouble::Garbage(said));
    }

    fn fail(&mut self, why: Trouble) {
        if matches!(self.stand, Stand::Running | Stand::Paused) {
            self.stop();
            self.stand = Stand::Failed(why);
        }
    }

    fn understand(&mut self, line: &str, now: f64) {
        let understood = match self.program.language {
            Language::Hpgl => self.plotter_said(line, now),
            Language::Gcode => self.laser_said(line),
        };
        if !understood {
            let said = line.chars().filter(|c| !c.is_control()).take(40).collect();
            self.fail(Trouble::Garbage(said));
        }
        if self.ended
            && self.pieces.is_empty()
            && self.done == self.paths()
            && self.stand == Stand::Running
        {
            self.stand = Stand::Finished;
        }
    }

    /// Free bytes, or where a path ended.
    fn plotter_said(&mut self, line: &str, now: f64) -> bool {
        if let Ok(free) = line.parse::<usize>() {
            let asked = self.awaited.iter().position(|a| *a == Awaited::Free);
            let Some(at) = asked else { return false };
            self.awaited.remove(at);
            // Its buffer is as large as it was when it was emptiest.
            self.buffer = self.buffer.max(free);
            let ahead = self.buffer - free;
            if ahead > 0 {
                self.progress = now;
            }
            self.free = KEPT_AHEAD.saturating_sub(ahead).min(free);
            return true;
        }
        let said: Result<Vec<i64>, _> = line.split(',').map(|v| v.trim().parse()).collect();
        let place = match said.as_deref() {
            Ok(&[x, y, _]) => Some([x, y]),
            _ => None,
        };
        if let Some(known) = self.finding {
            if place.is_some() {
                self.stood = place;
            } else if let Some(place) = self.stood {
                self.awaited.retain(|a| *a != Awaited::Name);
                let next = self.program.next_at(place, known);
                self.stands_at(next);
            }
            return place.is_some() || self.stood.is_some();
        }
        if place.is_none() {
            return false;
        }
        let path = self
            .awaited
            .iter()
            .position(|a| matches!(a, Awaited::Done(_)));
        let Some(Awaited::Done(number)) = path.and_then(|at| self.awaited.remove(at)) else {
            return false;
        };
        self.progress = now;
        if let (Some(place), Some(end)) = (place, self.program.end_of(number)) {
            let is_there = (0..2).all(|k| (place[k] - end[k]).abs() <= NEAR);
            if self.tells_places && !is_there {
                self.fail(Trouble::Elsewhere { path: number + 1 });
                return true;
            }
            self.tells_places |= is_there;
        }
        self.done = number + 1;
        true
    }

    /// The answer to a line, or its state.
    fn laser_said(&mut self, line: &str) -> bool {
        if let Some(state) = line.strip_prefix('<').and_then(|s| s.strip_suffix('>')) {
            let mut parts = state.split('|');
            let idle = parts.next() == Some("Idle");
            let under_way = parts.find_map(|p| p.strip_prefix("Ln:")?.parse::<usize>().ok());
            let Some(under_way) = under_way else {
                return false;
            };
            if let Some(Known { certain, .. }) = self.finding {
                // The line it was at is of a path that was broken off, if it is one of these.
                let stood = under_way.saturating_sub(1);
                let known = under_way > 0 && (certain..self.paths()).contains(&stood);
                self.stands_at(known.then_some(stood));
                return true;
            }
            // The path before the one under way is done.
            self.done = self.done.max(under_way.saturating_sub(1)).min(self.paths());
            if idle && self.ended && self.pieces.is_empty() && self.awaited.is_empty() {
                self.done = self.paths();
            }
            return true;
        }
        if line != "ok" && !line.starts_with("error") {
            // What it says when it is switched on, before anything was asked of it.
            return self.awaited.is_empty();
        }
        let Some(Awaited::Line(sent)) = self.awaited.pop_front() else {
            return false;
        };
        if line != "ok" {
            let why = line
                .trim_start_matches("error")
                .trim_start_matches(':')
                .trim();
            self.fail(Trouble::Refused {
                line: sent,
                why: why.to_owned(),
            });
        }
        true
    }
}
