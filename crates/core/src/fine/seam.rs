//! The seam between ink and ground: what holds a cover together while it goes down.
//!
//! A cover costs ε/2 |∇u|² + 2/ε u² (1 − u)² at every step (Modica & Mortola 1977, "Un esempio di
//! Γ-convergenza"): least where it is 0 or 1 but for a seam of the width ε along its edge, and the
//! shorter the edge, the less.

use std::ops::Range;

/// Width of the seam, fine steps.
pub(super) const SEAM: f32 = 0.8;

/// A stretch of one row of a cover, with the rows beside it and what pulls at it.
pub(super) struct Stretch<'a> {
    /// The rows, whole.
    pub own: &'a [f32],
    pub above: &'a [f32],
    pub below: &'a [f32],
    /// Steps of the row.
    pub steps: Range<usize>,
    /// What pulls at each step of the stretch.
    pub pull: &'a [f32],
}

impl Stretch<'_> {
    /// One step down, the seam weighing so much, into `out`.
    ///
    /// The outermost steps of a row have a neighbour on one side only.
    pub(super) fn descend(&self, step: f32, seam: f32, out: &mut [f32]) {
        let Range { start, end } = self.steps;
        let last = self.own.len() - 1;
        let down = |left: f32, u: f32, right: f32, above: f32, below: f32, pull: f32| {
            let bend = left + right + above + below - 4.0 * u;
            let well = 4.0 / SEAM * u * (1.0 - u) * (1.0 - 2.0 * u);
            u - step * (pull + seam * (well - SEAM * bend))
        };
        let inner = start.max(1)..end.min(last).max(start.max(1));
        let n = inner.len();
        let at = inner.start - start;
        let to = &mut out[at..at + n];
        let pull = &self.pull[at..at + n];
        let own = &self.own[inner.clone()];
        let left = &self.own[inner.start - 1..][..n];
        let right = &self.own[(inner.start + 1).min(last)..][..n];
        let (above, below) = (&self.above[inner.clone()], &self.below[inner]);
        for i in 0..n {
            to[i] = down(left[i], own[i], right[i], above[i], below[i], pull[i]);
        }
        for x in [0, last].into_iter().filter(|x| self.steps.contains(x)) {
            let (left, right) = (x.saturating_sub(1), (x + 1).min(last));
            let own = |x: usize| self.own[x];
            let (above, below, pull) = (self.above[x], self.below[x], self.pull[x - start]);
            out[x - start] = down(own(left), own(x), own(right), above, below, pull);
        }
    }
}
