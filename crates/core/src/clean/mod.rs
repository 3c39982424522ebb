//! Clean-up: an ordered list of steps on the artwork, replayed from the untouched original.
//!
//! ```text
//!   original ──crop──► ──turn──► ──erase──► ──clear──► … ──► cleaned picture
//!      ▲                  ▲                                   │
//!      └── every place is kept in px of the original ◄── Frame (from original to cleaned px)
//! ```
//!
//! Places are stored in pixels of the original and moved through the [`Frame`] of the steps before,
//! so a step can be changed, switched off, moved or taken out without the others losing their
//! place. A step is a pure function of the picture before it and of its own figures; who keeps the
//! pictures in between runs only what lies after a change ([`after`]).

mod action;
mod brush;
mod frame;
pub(crate) mod ground;
mod isolate;
mod levels;
mod raster;
mod region;
pub(crate) mod resample;
mod skew;
pub mod square;
mod subject;

use crate::inks;
use crate::picture::{Picture, PictureError};
use crate::stop::{Stop, Stopped};

use square::Squared;

pub use action::{Action, Dab, Pointed, Step, Tip, Tool};
pub use frame::Frame;
pub use ground::Ground;
pub use levels::Levels;
pub use region::Region;
pub use skew::skew;
pub use subject::Told;

/// The artwork after some steps.
#[derive(Clone, Debug)]
pub struct Cleaned {
    /// Its pixels.
    pub picture: Picture,
    /// Where the original's pixels have come to lie.
    pub frame: Frame,
}

/// Why a step could not be done; nothing of the artwork is lost by it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum CleanError {
    /// Given up for a newer request.
    #[error(transparent)]
    Stopped(#[from] Stopped),
    /// Nothing stands out as a subject.
    #[error(
        "no subject stands out from its ground here; draw over what is the subject, and over what is ground"
    )]
    NoSubject,
    /// The picture would grow above the limits.
    #[error(transparent)]
    Picture(#[from] PictureError),
}

impl Cleaned {
    /// The artwork as it came.
    #[must_use]
    pub fn original(picture: &Picture) -> Self {
        Self {
            picture: picture.clone(),
            frame: Frame::new(picture.width(), picture.height()),
        }
    }
}

/// The original as it lies in a frame, whatever else was done to it.
///
/// # Errors
/// [`CleanError::Stopped`].
pub fn placed(original: &Picture, frame: &Frame, stop: &Stop) -> Result<Picture, CleanError> {
    let own = Frame::new(original.width(), original.height());
    Ok(resample::seen_from_the_front(original, &own, frame, stop)?)
}

/// What squares something up in a picture: the step, and one that levels its light where that falls off by more than can be
/// overlooked.
#[must_use]
pub fn squaring(picture: &Picture, squared: Squared) -> Vec<Action> {
    /// Pixels of the copy that is looked at for the light, and how much levelling has to change it, levels.
    const ENOUGH: u64 = 200_000;
    const SEEN: f64 = 5.0;
    let small = picture.reduced(ENOUGH);
    let k = f64::from(small.width()) / f64::from(picture.width());
    let square = Action::Square(squared);
    let step = Step {
        on: true,
        action: square.moved(|p| (p.to_vec2() * k).to_point()),
    };
    let apart = replay(&small, &[step], &Stop::new()).map(|Cleaned { picture, .. }| {
        let level = inks::even_light(&picture);
        let pairs = picture.pixels().iter().zip(level.pixels());
        let apart: f64 = pairs.map(|(a, b)| f64::from(a[1].abs_diff(b[1]))).sum();
        apart / picture.pixels().len() as f64
    });
    if apart.is_ok_and(|apart| apart > SEEN) {
        vec![square, Action::Even]
    } else {
        vec![square]
    }
}

/// Replays the steps that are switched on.
///
/// # Errors
/// [`CleanError`].
pub fn replay(original: &Picture, steps: &[Step], stop: &Stop) -> Result<Cleaned, CleanError> {
    let mut now = Cleaned::original(original);
    for n in 0..steps.len() {
        now = after(original, &steps[..=n], &now, stop)?;
    }
    Ok(now)
}

/// The artwork after the last of `steps`, `before` being the artwork after all others.
///
/// # Errors
/// [`CleanError`].
pub fn after(
    original: &Picture,
    steps: &[Step],
    before: &Cleaned,
    stop: &Stop,
) -> Result<Cleaned, CleanError> {
    stop.check()?;
    let Some((step, earlier)) = steps.split_last().filter(|(last, _)| last.on) else {
        return Ok(before.clone());
    };
    let frame = before.frame.after(&step.action);
    Picture::check_size(frame.width, frame.height)?;
    let picture = &before.picture;
    let picture = match &step.action {
        Action::Crop { .. } | Action::Quarter { .. } | Action::Flip { .. } => {
            before.frame.moved(picture, &step.action)
        }
        Action::Turn { degrees, .. } => resample::turned(picture, *degrees, &frame, stop)?,
        Action::Square(_) if frame == before.frame => picture.clone(),
        Action::Square(_) => {
            // From the untouched original where nothing but places has changed since.
            let moved_only = earlier.iter().all(|s| !s.on || s.action.only_moves());
            let (from, way) = if moved_only {
                (original, Frame::new(original.width(), original.height()))
            } else {
                (picture, before.frame)
            };
            resample::seen_from_the_front(from, &way, &frame, stop)?
        }
        Action::Enlarge { factor } => resample::enlarged(picture, *factor, stop)?,
        Action::Brush {
            tool, tip, dabs, ..
        } => {
            // What was there before anything was taken away, for the brush that brings it back.
            let kept = match tool {
                Tool::Restore => {
                    let kept: Vec<Step> = earlier
                        .iter()
                        .filter(|s| !s.action.takes_away())
                        .cloned()
                        .collect();
                    Some(replay(original, &kept, stop)?.picture)
                }
                Tool::Erase | Tool::Paint { .. } => None,
            };
            brush::stroked(
                picture,
                kept.as_ref(),
                (*tool, *tip),
                dabs,
                before.frame,
                stop,
            )?
        }
        Action::Clear { pointed } => region::cleared(picture, pointed.moved(&before.frame), stop)?,
        Action::Fill { pointed, colour } => {
            region::filled(picture, pointed.moved(&before.frame), *colour, stop)?
        }
        Action::MainOnly => isolate::main_only(picture, stop)?,
        Action::Subject { strokes } => {
            subject::cut_out(picture, strokes, &before.frame, stop)?.ok_or(CleanError::NoSubject)?
        }
        Action::Areas { areas } => isolate::areas_only(picture, areas, &before.frame, stop)?,
        Action::Levels(levels) => levels.applied(picture),
        Action::Denoise { grain } => inks::denoised(picture, *grain),
        Action::Even => inks::even_light(picture),
    };
    Ok(Cleaned { picture, frame })
}
