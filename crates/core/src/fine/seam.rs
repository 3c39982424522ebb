//! The seam between ink and ground: what holds a cover together while it goes down.
//!
//! A cover costs ε/2 |∇u|² + 2/ε u² (1 − u)² at every step (Modica & Mortola 1977, "Un esempio di
//! Γ-convergenza"): least where it is 0 or 1 but for a seam of the width ε along its edge, and the
//! shorter the edge, the less.

/// Width of the seam, fine steps.
pub(super) const SEAM: f32 = 0.8;

/// A stretch of one row of a cover, with the rows beside it and what pulls at it.
pub(super) struct Stretch<'a> {
    /// The row itself, with one more step on either side.
    pub own: &'a [f32],
    pub above: &'a [f32],
    pub below: &'a [f32],
    /// What pulls at each step.
    pub pull: &'a [f32],
}

impl Stretch<'_> {
    /// One step down, the seam weighing so much, into `out`.
    pub(super) fn descend(&self, step: f32, seam: f32, out: &mut [f32]) {
        let n = out.len();
        let (left, own, right) = (&self.own[..n], &self.own[1..=n], &self.own[2..n + 2]);
        let (above, below, pull) = (&self.above[..n], &self.below[..n], &self.pull[..n]);
        for at in 0..n {
            let u = own[at];
            let bend = left[at] + right[at] + above[at] + below[at] - 4.0 * u;
            let well = 4.0 / SEAM * u * (1.0 - u) * (1.0 - 2.0 * u);
            out[at] = u - step * (pull[at] + seam * (well - SEAM * bend));
        }
    }
}

/// Adds to the areas of pixels what a line holds of each, `scale` steps; a step is so much of a pixel.
pub(super) fn add_areas(areas: &mut [f32], line: &[f32], scale: usize, part: f32) {
    match scale {
        2 => add::<2>(areas, line, part),
        3 => add::<3>(areas, line, part),
        4 => add::<4>(areas, line, part),
        _ => {
            for (area, steps) in areas.iter_mut().zip(line.chunks_exact(scale)) {
                *area += steps.iter().sum::<f32>() * part;
            }
        }
    }
}

/// The same, for a scale known beforehand.
fn add<const SCALE: usize>(areas: &mut [f32], line: &[f32], part: f32) {
    let (steps, _) = line.as_chunks::<SCALE>();
    for (area, steps) in areas.iter_mut().zip(steps) {
        *area += steps.iter().sum::<f32>() * part;
    }
}
