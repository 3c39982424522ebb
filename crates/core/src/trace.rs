//! The whole way, from a picture and a recipe to a design.
//!
//! [`trace`] runs every stage. A caller that keeps the values in between calls the stages itself
//! with the same functions and the same [`settings`], and so gets the same outlines.

use crate::boundary::{self, Bounded};
use crate::centre::{self, CentreLines};
use crate::clean::{self, CleanError, Cleaned};
use crate::fit::{self, FittedMap};
use crate::inks::{self, Solid};
use crate::picture::Picture;
use crate::recipe::{Recipe, RecipeError};
use crate::settings::{Settings, settings};
use crate::shapes::{self, Design, Edges, Parts};
use crate::stop::{Stop, Stopped};
use crate::tidy::{Drawing, EditError};

/// A stage that was finished, for those who watch.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stage {
    /// Clean-up.
    Clean,
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
    /// A clean-up step that cannot be done.
    #[error(transparent)]
    Clean(#[from] CleanError),
    /// An edit of the outlines that cannot be done.
    #[error("edit {0}: {1}")]
    Edit(usize, EditError),
    /// Given up for a newer request.
    #[error(transparent)]
    Stopped(#[from] Stopped),
}

/// A design with what led to it.
#[derive(Clone, Debug)]
pub struct Traced {
    /// The cleaned artwork.
    pub cleaned: Cleaned,
    /// The solid picture.
    pub solid: Solid,
    /// Specks merged, boundaries mapped.
    pub bounded: Bounded,
    /// Every choice resolved.
    pub settings: Settings,
    /// The outlines.
    pub design: Design,
}

/// The stroke lines of the kept inks, for a recipe that asks for them.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub fn centre_lines(
    recipe: &Recipe,
    solid: &Solid,
    bounded: &Bounded,
    settings: &Settings,
    stop: &Stop,
) -> Result<Option<CentreLines>, Stopped> {
    if recipe.trace.edges != Edges::CentreLine {
        return Ok(None);
    }
    let kept = solid.kept(&recipe.inks);
    centre::lines(bounded, &kept, settings.placement, settings.fit, stop).map(Some)
}

/// The map with those inks merged that count as another; `None` where none does.
#[must_use]
pub fn merged(recipe: &Recipe, solid: &Solid, bounded: &Bounded) -> Option<Bounded> {
    let counts_as = solid.counts_as(&recipe.inks);
    let same = (0..).zip(&counts_as).all(|(i, ink)| ink.0 == i);
    (!same).then(|| bounded.merged(&counts_as))
}

/// The last stage: shapes and strokes of the kept inks.
#[must_use]
pub fn design(
    recipe: &Recipe,
    solid: &Solid,
    bounded: &Bounded,
    fitted: &FittedMap,
    centre: Option<&CentreLines>,
) -> Design {
    let parts = Parts {
        map: &bounded.map,
        fitted,
        inks: &solid.inks,
        kept: &solid.kept(&recipe.inks),
        paints: &solid.paints(&recipe.inks),
        counts_as: &solid.counts_as(&recipe.inks),
        centre,
    };
    shapes::assemble(parts, recipe.trace.edges, recipe.size)
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
    let whole = recipe;
    let recipe = &whole.traced();
    let cleaned = clean::replay(picture, &recipe.clean, stop)?;
    done(Stage::Clean);
    let solid = inks::separate(&cleaned.picture, &recipe.asked(&cleaned.frame), stop)?;
    let settings = settings(recipe, &solid);
    done(Stage::Inks);
    let mut bounded = boundary::map(&solid, settings.min_part_px, stop)?;
    if let Some(merged) = merged(recipe, &solid, &bounded) {
        bounded = merged;
    }
    done(Stage::Boundary);
    let fitted = fit::fit(&bounded.map, settings.placement, settings.fit, stop)?;
    let centre = centre_lines(recipe, &solid, &bounded, &settings, stop)?;
    done(Stage::Fit);
    let mut design = design(recipe, &solid, &bounded, &fitted, centre.as_ref());
    if let Some(tidy) = &whole.tidy {
        let mut drawing = Drawing::of(&design);
        for (n, edit) in tidy.edits.iter().enumerate() {
            stop.check()?;
            let changed = drawing.after(edit);
            drawing = changed.map_err(|e| TraceError::Edit(n + 1, e))?.drawing;
        }
        design.size = whole.size;
        design = drawing.design(&design, &whole.inks);
    }
    done(Stage::Shapes);
    Ok(Traced {
        cleaned,
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
        nothing_found(&self.solid, &self.bounded)
    }
}

/// Why a solid picture gives no shape and what to try, as a sentence.
#[must_use]
pub fn nothing_found(solid: &Solid, bounded: &Bounded) -> String {
    if let Some(percent) = bounded.too_fine {
        return format!(
            "the picture is noise or fine texture: edges run past {percent} % of its pixels; \
             denoise it, choose another threshold or fewer inks, or keep only larger parts"
        );
    }
    let inks::EdgeField::Tone {
        tone, threshold, ..
    } = &solid.field
    else {
        return "every ink is dropped or smaller than the smallest part; keep an ink in the list"
            .to_owned();
    };
    let (dark, light) = tone
        .iter()
        .fold((255, 0), |(d, l), &v| (v.min(d), v.max(l)));
    let percent = |v: f32| f64::from(v) / 2.55;
    let (dark, light) = (percent(f32::from(dark)), percent(f32::from(light)));
    let at = percent(*threshold);
    let local = matches!(solid.reason, inks::InkReason::Local { .. });
    if dark < at && (local || light >= at) {
        "every part is smaller than the smallest part to keep; make that smaller".to_owned()
    } else if local {
        "no place is darker than its surroundings; choose one threshold for all".to_owned()
    } else if dark >= at {
        format!(
            "no pixel is darker than {at:.0} % of full white (the darkest has {dark:.0} %); \
             raise the threshold or invert"
        )
    } else {
        format!(
            "every pixel is darker than {at:.0} % of full white (the lightest has {light:.0} %); \
             lower the threshold or invert"
        )
    }
}
