//! Screens: a picture with gradients as rows whose width, or dots whose size, follows its tones.
//!
//! ```text
//!   rows   ▔▔▀▀▀▀▔▔   each as wide as its place is dark    dots   · • ● ◖◗   as large as the place is dark,
//!          ▔▔▔▀▀▔▔▔   a row thinner than can be made               ○ between them where it is darker than half
//!          ─ ─  ─ ─   is broken into dashes                        too small a dot is left out now and then
//! ```
//!
//! What is black is as much of every small square as the picture is dark there, in values as stored. In: a [`Picture`]
//! and what is [`Asked`]. Out: one tone, its edges where a smooth function of the place passes nought.

mod dots;
mod rows;

use rayon::prelude::*;
use serde::{Deserialize, Serialize};

use crate::inks::counted::counted;
use crate::inks::{EdgeField, Ink, InkReason, Rgb, Solid, tones};
use crate::picture::Picture;
use crate::stop::{Stop, Stopped};

/// What follows the tones.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Screen {
    /// Rows of changing width.
    #[default]
    Rows,
    /// Dots of changing size.
    Dots,
}

/// What is asked of a screen; lengths as parts of the picture's width.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Asked {
    /// Rows or dots.
    pub screen: Screen,
    /// From one row or dot to the next.
    pub pitch: f64,
    /// How far rows are turned from lying level, radians.
    pub angle: f64,
    /// Narrowest stroke.
    pub stroke: f64,
    /// Narrowest gap.
    pub gap: f64,
    /// How much local contrast is evened out, 0 to 1.
    pub even: f64,
    /// Whether light is drawn instead of dark.
    pub invert: bool,
}

/// Places of the grid from one row to the next, and across the narrowest stroke.
const ACROSS: f64 = 8.0;
const ACROSS_STROKE: f64 = 2.2;
const ACROSS_DRAFT: f64 = 4.0;
/// Most places of the grid.
const MOST_PLACES: f64 = 3_000_000.0;
const MOST_DRAFT: f64 = 350_000.0;
/// How much of the pitch tones are blurred by.
const BLUR: f64 = 0.25;
/// Widest blur, places.
const WIDEST_BLUR: f64 = 24.0;
/// Levels of the drawn field for each place that an edge is away.
const STEEP: f32 = 40.0;
/// The level at an edge.
const EDGE: f32 = 127.5;

/// A place of the screen: along a row and across it, in pitches, and how dark the picture is there, 0 to 1.
#[derive(Clone, Copy)]
struct Spot {
    along: f64,
    across: f64,
    dark: f64,
}

/// Narrowest stroke and gap, in pitches.
#[derive(Clone, Copy)]
struct Narrowest {
    stroke: f64,
    gap: f64,
}

/// Draws a picture as a screen; a draft on a coarser grid.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(super) fn part(
    picture: &Picture,
    (asked, draft): (&Asked, bool),
    stop: &Stop,
) -> Result<Solid, Stopped> {
    let (w, h) = (f64::from(picture.width()), f64::from(picture.height()));
    let finest = asked.stroke.min(asked.gap).max(1e-6);
    let (across, most) = if draft {
        (ACROSS_DRAFT, MOST_DRAFT)
    } else {
        (ACROSS, MOST_PLACES)
    };
    let least = (across / asked.pitch).powi(2) * h / w;
    let wanted = least.max((ACROSS_STROKE / finest).powi(2) * h / w);
    let k = (wanted.min(most) / (w * h)).sqrt();
    let side = |px: f64| ((px * k).round() as usize).max(1);
    let (width, height) = (side(w), side(h));
    let pitch = asked.pitch * width as f64;
    let (tone, cover) = tones::seen(picture, (width, height), draft);
    let tone = tones::evened(&tone, &cover, asked.even).blurred((BLUR * pitch).min(WIDEST_BLUR));
    stop.check()?;
    let narrowest = Narrowest {
        stroke: (asked.stroke / asked.pitch)
            .max(ACROSS_STROKE / pitch)
            .min(0.5),
        gap: (asked.gap / asked.pitch)
            .max(ACROSS_STROKE / pitch)
            .min(0.5),
    };
    let inside: fn(Spot, Narrowest) -> f64 = match asked.screen {
        Screen::Rows => rows::inside,
        Screen::Dots => dots::inside,
    };
    let (sin, cos) = asked.angle.sin_cos();
    let mut field = vec![255; width * height];
    field
        .par_chunks_mut(width)
        .enumerate()
        .for_each(|(y, out)| {
            for (x, out) in out.iter_mut().enumerate() {
                let i = y * width + x;
                let (u, v) = (x as f64 + 0.5, y as f64 + 0.5);
                let dark = 1.0 - f64::from(tone.values[i]) / 255.0;
                let spot = Spot {
                    along: (u * cos + v * sin) / pitch,
                    across: (v * cos - u * sin) / pitch,
                    dark: if asked.invert { 1.0 - dark } else { dark },
                };
                let inside = if cover.values[i] < 0.5 {
                    -1.0
                } else {
                    (inside(spot, narrowest) * pitch) as f32
                };
                *out = (EDGE - STEEP * inside).round().clamp(0.0, 255.0) as u8;
            }
        });
    stop.check()?;
    let reason = InkReason::Screen {
        screen: asked.screen,
        coarse: least > 2.0 * MOST_PLACES,
    };
    let picture_px = (picture.width(), picture.height());
    Ok(drawn(field, (width, height), picture_px, reason))
}

/// A field as a solid picture of one tone.
fn drawn(
    tone: Vec<u8>,
    (width, height): (usize, usize),
    picture_px: (u32, u32),
    reason: InkReason,
) -> Solid {
    let labels: Vec<u8> = (tone.par_iter().map(|&v| u8::from(f32::from(v) < EDGE))).collect();
    let counted = counted(&labels, (width, height));
    let ink = |(n, colour): (usize, Rgb)| Ink {
        colour,
        clear: false,
        enclosed: false,
        tone: None,
        share: counted.all[n] as f64 / labels.len() as f64,
        border_px: counted.border[n],
    };
    let inks = [Rgb::WHITE, Rgb::BLACK].into_iter().enumerate().map(ink);
    let inks = inks.collect();
    let field = EdgeField::Tone {
        tone,
        threshold: EDGE,
        levels: None,
    };
    Solid::made((width, height), picture_px, labels, inks, field, reason)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A slope from black to white, and how far the mean of each square of some pitches is from that of the screen.
    fn farthest(screen: Screen, stroke: f64) -> f64 {
        let (w, h) = (400, 300);
        let tone = |i: u32| (i % w * 255 / (w - 1)) as u8;
        let pixels = (0..w * h)
            .map(|i| [tone(i), tone(i), tone(i), 255])
            .collect();
        let picture = Picture::new(w, h, pixels).unwrap();
        let asked = Asked {
            screen,
            pitch: 1.0 / 100.0,
            angle: 0.0,
            stroke,
            gap: stroke,
            even: 0.0,
            invert: false,
        };
        let solid = part(&picture, (&asked, false), &Stop::new()).unwrap();
        let EdgeField::Tone { tone: field, .. } = &solid.field else {
            unreachable!("a screen is one tone")
        };
        let wide = solid.width as usize;
        let side = wide / 20;
        let mut most = 0.0_f64;
        for top in (0..solid.height as usize - side).step_by(side) {
            for left in (0..wide - side).step_by(side) {
                let places = (0..side * side).map(|i| (left + i % side, top + i / side));
                // Beside an edge the field says how much of the place is black.
                let black = |(x, y): (usize, usize)| {
                    ((EDGE - f32::from(field[y * wide + x])) / STEEP + 0.5).clamp(0.0, 1.0)
                };
                let mean = places.map(|p| f64::from(black(p))).sum::<f64>() / (side * side) as f64;
                let middle = (left as f64 + side as f64 / 2.0) / wide as f64;
                most = most.max((1.0 - mean - middle).abs());
            }
        }
        most
    }

    #[test]
    fn a_screen_is_as_dark_as_the_picture_in_every_square_of_five_pitches() {
        for screen in [Screen::Rows, Screen::Dots] {
            for stroke in [0.0, 0.001, 0.002] {
                let most = farthest(screen, stroke);
                assert!(most < 0.03, "{screen:?} with {stroke}: {most}");
            }
        }
    }
}
