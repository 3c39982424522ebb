//! The whole way, from a picture and a recipe to a design.
//!
//! [`trace`] runs every stage. A caller that keeps the values in between calls the stages itself
//! with the same functions and the same [`settings`], and so gets the same outlines.

use crate::boundary::{self, Bounded, MapError};
use crate::fit::{self, DEFAULT_CORNER, FitSettings, FittedMap, Placement};
use crate::inks::{self, Solid};
use crate::picture::Picture;
use crate::recipe::{Recipe, RecipeError};
use crate::shapes::{self, Design};
use crate::stop::{Stop, Stopped};
use crate::units::{Mm, SquareMm};

/// A figure the program chose, with the reason to tell.
#[derive(Clone, Debug, PartialEq)]
pub struct Chosen<T> {
    /// The figure.
    pub value: T,
    /// Whether it was left to the program.
    pub automatic: bool,
    /// Why this one, as a sentence.
    pub why: String,
}

/// What the trace holds to, every choice resolved.
#[derive(Clone, Debug, PartialEq)]
pub struct Settings {
    /// Greatest deviation.
    pub tolerance: Chosen<Mm>,
    /// Smallest part.
    pub min_part: Chosen<SquareMm>,
    /// Length below which wobble of an edge is smoothed.
    pub smooth: Chosen<Mm>,
    /// For the fit.
    pub fit: FitSettings,
    /// From px to mm.
    pub placement: Placement,
    /// Smallest part, px².
    pub min_part_px: f64,
}

/// A stage that was finished, for those who watch.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stage {
    /// Inks and labels.
    Inks,
    /// The planar map.
    Boundary,
    /// The curves.
    Fit,
    /// Rings and shapes.
    Shapes,
}

/// Why there is no design.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum TraceError {
    /// A choice out of range.
    #[error(transparent)]
    Recipe(#[from] RecipeError),
    /// Given up for a newer request.
    #[error(transparent)]
    Stopped(#[from] Stopped),
    /// No map of the picture's edges.
    #[error(transparent)]
    Map(#[from] MapError),
}

/// A design with what led to it.
#[derive(Clone, Debug)]
pub struct Traced {
    /// The solid picture.
    pub solid: Solid,
    /// Specks merged, boundaries mapped.
    pub bounded: Bounded,
    /// Every choice resolved.
    pub settings: Settings,
    /// The outlines.
    pub design: Design,
}

/// Default tolerance, px.
const TOLERANCE_PX: f64 = 0.28;
/// More of it for each grey level of noise, px.
const TOLERANCE_EACH_PX: f64 = 0.04;
/// The same where edges are hard steps, so that the steps are not followed, px.
const TOLERANCE_HARD_PX: f64 = 0.65;
/// Share of mixed edges below which edges count as hard steps.
const HARD: f64 = 0.25;
/// No cutter follows more closely than this, mm.
const LEAST_TOLERANCE_MM: f64 = 0.01;
/// Default smallest part, px²: a spot of two by two pixels is kept.
const MIN_PART_PX: f64 = 3.5;
/// The same for a picture that compression or a lens has spoilt a little, px².
const MIN_PART_LOSSY_PX: f64 = 8.0;
/// The same for a noisy picture, px².
const MIN_PART_NOISY_PX: f64 = 12.0;
/// Noise from which a picture counts as noisy, on the scale 0 to 255.
const NOISY: f64 = 2.5;

/// Resolves what the recipe leaves to the program.
#[must_use]
pub fn settings(recipe: &Recipe, solid: &Solid) -> Settings {
    let (across, down) = recipe.size.mm_per_px(solid.width, solid.height);
    let placement = Placement { across, down };
    let px = placement.px();
    let tolerance = match recipe.trace.tolerance {
        Some(value) => Chosen {
            value,
            automatic: false,
            why: String::new(),
        },
        None => {
            let stray = solid.noise.max(solid.scatter);
            let (pixels, edges) = if solid.softness < HARD {
                (TOLERANCE_HARD_PX, "Edges are hard steps")
            } else if stray > SCATTERED {
                let more = TOLERANCE_EACH_PX * stray.min(10.0);
                (TOLERANCE_PX + more, "Edges are soft but noisy")
            } else {
                (TOLERANCE_PX, "Edges are soft")
            };
            let value = (pixels * px).max(LEAST_TOLERANCE_MM);
            let why = format!(
                "{edges} and one pixel is {px:.3} mm here, so lines follow within {value:.3} mm."
            );
            Chosen {
                value: Mm::new(value),
                automatic: true,
                why,
            }
        }
    };
    let min_part = match recipe.trace.min_part {
        Some(value) => Chosen {
            value,
            automatic: false,
            why: String::new(),
        },
        None => {
            let noisy = solid.noise.max(solid.scatter) > SCATTERED;
            let pixels = if solid.noise > NOISY {
                MIN_PART_NOISY_PX
            } else if noisy {
                MIN_PART_LOSSY_PX
            } else {
                MIN_PART_PX
            };
            let value = px * px * pixels;
            let why = if noisy {
                format!("The picture is noisy, so parts under {value:.2} mm² are taken for specks.")
            } else {
                format!("Parts under {value:.2} mm², less than 2 × 2 px, are taken for specks.")
            };
            Chosen {
                value: SquareMm::new(value),
                automatic: true,
                why,
            }
        }
    };
    let smooth = smoothing(recipe, solid, px);
    Settings {
        fit: FitSettings {
            tolerance: tolerance.value.get(),
            corner: recipe.trace.corner.unwrap_or(DEFAULT_CORNER),
            smooth: smooth.value.get(),
            edge_width: solid.edge_width,
        },
        smooth,
        placement,
        min_part_px: min_part.value.get() / (across * down),
        tolerance,
        min_part,
    }
}

/// Wobble shorter than this is smoothed where edges are hard steps, px.
const SMOOTH_HARD_PX: f64 = 12.0;
/// The same for the least of noise, and with every grey level of it, px.
const SMOOTH_NOISE_PX: f64 = 8.0;
const SMOOTH_EACH_PX: f64 = 0.5;
/// Scatter of flat places from which edges are taken to wobble, 0 to 255.
const SCATTERED: f64 = 0.7;

fn smoothing(recipe: &Recipe, solid: &Solid, px: f64) -> Chosen<Mm> {
    if let Some(value) = recipe.trace.smooth {
        return Chosen {
            value,
            automatic: false,
            why: String::new(),
        };
    }
    let stray = solid.noise.max(solid.scatter);
    let (pixels, why) = if solid.softness < HARD {
        (SMOOTH_HARD_PX, "Edges are hard steps")
    } else if stray > SCATTERED {
        let pixels = SMOOTH_NOISE_PX + SMOOTH_EACH_PX * stray.min(10.0);
        (pixels, "Noise or compression makes edges waver")
    } else {
        (0.0, "Edges are clean")
    };
    let value = pixels * px;
    let why = if pixels > 0.0 {
        format!("{why}, so wobble shorter than {value:.2} mm is smoothed.")
    } else {
        format!("{why}, so nothing is smoothed.")
    };
    Chosen {
        value: Mm::new(value),
        automatic: true,
        why,
    }
}

/// The last stage: shapes of the kept inks.
#[must_use]
pub fn design(recipe: &Recipe, solid: &Solid, bounded: &Bounded, fitted: &FittedMap) -> Design {
    let kept = solid.kept(&recipe.inks);
    shapes::assemble(
        &bounded.map,
        fitted,
        &solid.inks,
        &kept,
        recipe.trace.edges,
        recipe.size,
    )
}

/// Runs every stage; `done` is told as each is finished.
///
/// # Errors
/// A choice out of range, or [`Stopped`].
pub fn trace(
    picture: &Picture,
    recipe: &Recipe,
    stop: &Stop,
    done: &mut dyn FnMut(Stage),
) -> Result<Traced, TraceError> {
    recipe.check()?;
    let solid = inks::separate(picture, recipe.inks.mode(), stop)?;
    let settings = settings(recipe, &solid);
    done(Stage::Inks);
    let bounded = boundary::map(&solid, settings.min_part_px, stop)?;
    done(Stage::Boundary);
    let fitted = fit::fit(&bounded.map, settings.placement, settings.fit, stop)?;
    done(Stage::Fit);
    let design = design(recipe, &solid, &bounded, &fitted);
    done(Stage::Shapes);
    Ok(Traced {
        solid,
        bounded,
        settings,
        design,
    })
}

impl Traced {
    /// Why there is no shape and what to try, as a sentence.
    #[must_use]
    pub fn nothing_found(&self) -> String {
        nothing_found(&self.solid)
    }
}

/// Why a solid picture gives no shape and what to try, as a sentence.
#[must_use]
pub fn nothing_found(solid: &Solid) -> String {
    match &solid.field {
        inks::EdgeField::Tone {
            tone, threshold, ..
        } => {
            let percent = |v: f32| f64::from(v) / 2.55;
            let (dark, light) = tone
                .iter()
                .fold((255, 0), |(d, l), &v| (v.min(d), v.max(l)));
            let (dark, light) = (percent(f32::from(dark)), percent(f32::from(light)));
            let at = percent(*threshold);
            if dark >= at {
                format!(
                    "no pixel is darker than {at:.0} % of full white (the darkest has {dark:.0} %); \
                     raise the threshold or invert"
                )
            } else if light < at {
                format!(
                    "every pixel is darker than {at:.0} % of full white (the lightest has {light:.0} %); \
                     lower the threshold or invert"
                )
            } else {
                "every part is smaller than the smallest part to keep; make that smaller".to_owned()
            }
        }
        inks::EdgeField::Colours { .. } => {
            "every ink is dropped or smaller than the smallest part; keep an ink in the list"
                .to_owned()
        }
    }
}
