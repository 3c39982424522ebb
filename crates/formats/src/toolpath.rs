//! Toolpath: what a machine's file makes its tool do, in the order of the file.
//!
//! Both readers of machine files give it: [`hpgl::read`](crate::hpgl::read) and
//! [`gcode::read`](crate::gcode::read). mm, y up, as machines have it.

use std::collections::BTreeMap;

use inky_core::segment::Segment;
use kurbo::Point;

use crate::vector::{FileUnit, listed};

/// One stroke with the tool down.
#[derive(Clone, Debug, PartialEq)]
pub struct Run {
    /// Which pen or which part of the file it belongs to, from nought.
    pub layer: usize,
    /// Speed, mm/s, where the file states it.
    pub speed: Option<f64>,
    /// What is followed, end to end; a dot is a line without length.
    pub segments: Vec<Segment>,
}

/// All strokes of a file.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Toolpath {
    /// In the order of the file.
    pub runs: Vec<Run>,
    /// Names of the layers, where the file tells them.
    pub names: BTreeMap<usize, String>,
    /// What its figures were taken for, where the file does not say.
    pub taken_for: Option<FileUnit>,
    /// Instructions that were not followed, by kind, with their count.
    pub left_out: BTreeMap<&'static str, usize>,
}

/// Places nearer than this are one, mm.
const SAME: f64 = 0.04;
/// What runs on past the start of a closed line has at most so many pieces.
const OVERCUT: usize = 256;

impl Toolpath {
    /// What was not followed, in words; empty where all was.
    #[must_use]
    pub fn report(&self) -> String {
        listed(&self.left_out)
    }

    pub(crate) fn leave_out(&mut self, kind: &'static str) {
        *self.left_out.entry(kind).or_default() += 1;
    }
}

impl Run {
    /// The closed line it draws, where it comes back to its start, without what runs on past that.
    #[must_use]
    pub fn closed(&self) -> Option<Vec<Segment>> {
        let start = self.segments.first()?.start();
        let ends = self.segments.iter().skip(1).map(Segment::end).enumerate();
        let late = self.segments.len().saturating_sub(OVERCUT);
        let mut home = ends.skip(late).filter(|(_, p)| p.distance(start) < SAME);
        let repeats = |&(n, _): &(usize, Point)| self.follows_itself(n + 2);
        let (n, _) = home.find(repeats)?;
        Some(self.segments[..n + 2].to_vec())
    }

    /// Whether everything from a segment on runs along the beginning once more.
    fn follows_itself(&self, from: usize) -> bool {
        let over = &self.segments[from.min(self.segments.len())..];
        let along = |p: Point| {
            let first = self.segments.iter().take(over.len() + 1);
            first
                .map(|s| s.distance(p, 1e-4))
                .fold(f64::INFINITY, f64::min)
                < SAME
        };
        over.iter().all(|s| along(s.end()) && along(s.eval(0.5)))
    }
}
