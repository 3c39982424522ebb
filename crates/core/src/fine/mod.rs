//! Fine: one tone at the scale that its narrowest strokes need.
//!
//! ```text
//!   tones ──ground──► how much ink each pixel shows ──phase──► cover, several times as fine
//! ```
//!
//! Lettering of a few pixels has strokes narrower than a pixel, and none of its pixels is wholly
//! ink: labels on pixel centres would lose it. What is kept in the pixels is the *area* of ink, and
//! [`phase`] finds the outline that has these areas. Its result takes the place of the tones, so all
//! that comes after works on it as on a picture of so many more pixels.
//!
//! In: tones, 0 to 255. Out: [`Fine`]. Own method; sources in [`phase`].

mod boxed;
mod ground;
mod guided;
mod inks;
mod open;
mod phase;
mod plane;
mod rest;
mod seam;
mod start;

pub(crate) use boxed::box_means;
pub(crate) use inks::{Covers, Mixture, Value};
pub(crate) use open::Cover;
pub(crate) use plane::Plane;

use crate::stop::{Stop, Stopped};

/// Fine steps that one picture may have at most.
const MOST_STEPS: usize = 4_200_000;
/// Weight of the seam without grain, and more of it with grain, for each part of the amount.
const SEAM: f64 = 0.08;
const SEAM_GRAIN: f64 = 6.0;
const MOST_SEAM: f64 = 0.8;
/// Blur within which differences are averaged where pixels were rounded to a tone, px.
const ROUNDED: f64 = 0.7;
/// Softness to begin with, px.
const SPREAD: f64 = 0.5;

/// One tone, finer than its pixels.
pub(crate) struct Fine {
    /// Fine steps in a pixel.
    pub scale: usize,
    /// Part of ink, 0 to 1, `scale` times as fine as the tones.
    pub cover: Plane,
    /// Whether the ink is darker than the ground.
    pub dark_ink: bool,
    /// Standard deviation of the picture's softness, px.
    pub spread: f64,
    /// What the cover leaves unexplained at edges, root mean square, as a part of the contrast.
    pub rough: f64,
    /// How much darker the darkest ground is than the brightest, 0 to 1.
    pub fall: f64,
}

/// Fine steps in a pixel for a picture of so many pixels; 1 where it is too large.
pub(crate) fn scale(pixels: usize) -> usize {
    let fits = |s: &usize| pixels * s * s <= MOST_STEPS;
    let wanted = match pixels {
        0..60_000 => 4,
        60_000..200_000 => 3,
        _ => 2,
    };
    (2..=wanted).rev().find(fits).unwrap_or(1)
}

/// Finds one tone at a finer scale, tones being `rounded` to a palette or not; `None` where there are
/// no two tones, strokes are wide, or the picture is too large.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(crate) fn one_tone(
    tones: &Plane,
    grain: f64,
    rounded: bool,
    stop: &Stop,
) -> Result<Option<Fine>, Stopped> {
    let scale = scale(tones.values.len());
    let Some(on) = ground::part(tones, grain).filter(|_| scale > 1) else {
        return Ok(None);
    };
    stop.check()?;
    if !phase::is_thin(&on.seen, on.amount) {
        return Ok(None);
    }
    let hard = rounded || phase::is_hard(&on.seen, on.amount);
    let grain = grain * on.level;
    let given = phase::Given {
        scale,
        amount: on.amount,
        free: false,
        most: on.most,
        spread: if hard { 0.0 } else { SPREAD },
        grain,
        rounds: phase::ROUNDS,
        seam: (SEAM + SEAM_GRAIN * grain / on.amount).min(MOST_SEAM) as f32,
        rounded: if hard { ROUNDED } else { 0.0 },
    };
    let given = if hard {
        given
    } else {
        start::best(&on.seen, given, stop)?
    };
    let solved = phase::solve(&on.seen, given, stop)?;
    Ok(Some(Fine {
        scale,
        cover: solved.cover,
        dark_ink: on.dark_ink,
        spread: solved.spread,
        rough: solved.rough,
        fall: on.fall,
    }))
}
