//! Clean-up steps as the page asks for them, applied to a recipe.

use inky_core::clean::{Action, Frame, Step};
use inky_core::recipe::Recipe;
use inky_core::units::Unit;
use inky_store::Job;
use kurbo::Point;
use serde::Deserialize;
use serde_json::{Map, Value};

use crate::error::{WebError, wrong};
use crate::job::clean::squared;

/// One change of the list of steps, as the page sends it. Places are mm on the piece.
#[derive(Deserialize)]
#[serde(tag = "op", rename_all = "kebab-case")]
enum Edit {
    Add {
        action: Action,
        /// What follows from it.
        #[serde(default)]
        then: Vec<Action>,
    },
    Replace {
        index: usize,
        action: Action,
    },
    Change {
        index: usize,
        set: Map<String, Value>,
    },
    Switch {
        index: usize,
        on: bool,
    },
    Move {
        index: usize,
        by: isize,
    },
    Remove {
        index: usize,
    },
}

/// From mm on the piece to px of the original.
pub(crate) fn to_original(recipe: &Recipe, job: &Job) -> impl Fn(Point) -> Point + use<> {
    let frame = recipe.frame((job.width_px, job.height_px));
    let (across, down) = recipe.size.mm_per_px(frame.width, frame.height);
    move |mm| {
        let [x, y] = frame.from(Point::new(mm.x / across, mm.y / down));
        Point::new(x, y)
    }
}

/// From px of the original to mm on the piece.
pub(crate) fn to_piece(recipe: &Recipe, job: &Job) -> impl Fn(Point) -> Point + use<> {
    let frame = recipe.frame((job.width_px, job.height_px));
    let (across, down) = recipe.size.mm_per_px(frame.width, frame.height);
    move |px| {
        let at = frame.to([px.x, px.y]);
        Point::new(at.x * across, at.y * down)
    }
}

/// The recipe with a change of its steps, told as JSON.
pub(crate) fn edited(
    recipe: &Recipe,
    job: &Job,
    text: &str,
    unit: Unit,
) -> Result<Recipe, WebError> {
    let edit: Edit = serde_json::from_str(text).map_err(|e| {
        wrong(
            "clean",
            format!("this step could not be read ({e}); try it again"),
        )
    })?;
    let mut steps = recipe.clean.clone();
    let gone = || wrong("clean", "this step is no longer there; reload the page");
    match edit {
        Edit::Add { action, then } => {
            let action = action.moved(to_original(recipe, job));
            match (steps.last_mut(), action) {
                // Areas drawn one after the other belong together.
                (
                    Some(Step {
                        on: true,
                        action: Action::Areas { areas },
                    }),
                    Action::Areas { areas: more },
                ) => areas.extend(more),
                // Strokes mend the subject that was found.
                (
                    Some(Step {
                        on: true,
                        action: Action::Subject { strokes },
                    }),
                    Action::Subject { strokes: more },
                ) if !more.is_empty() => strokes.extend(more),
                (_, action) => steps.push(Step { on: true, action }),
            }
            let after = then.into_iter();
            steps.extend(after.map(|action| Step { on: true, action }));
        }
        Edit::Replace { index, action } => {
            let step = steps.get_mut(index).ok_or_else(gone)?;
            let action = action.moved(to_original(recipe, job));
            step.action = squared::in_place_of(&step.action, action);
            step.on = true;
        }
        Edit::Change { index, set } => {
            let step = steps.get_mut(index).ok_or_else(gone)?;
            step.action = match &step.action {
                Action::Square(old) => {
                    let size = (job.width_px, job.height_px);
                    Action::Square(squared::changed(old, &set, size, unit)?)
                }
                other => changed(other, set)?,
            };
        }
        Edit::Switch { index, on } => steps.get_mut(index).ok_or_else(gone)?.on = on,
        Edit::Move { index, by } => {
            let to = index.checked_add_signed(by).filter(|&to| to < steps.len());
            let to = to.filter(|_| index < steps.len()).ok_or_else(gone)?;
            steps.swap(index, to);
        }
        Edit::Remove { index } => {
            if index >= steps.len() {
                return Err(gone());
            }
            steps.remove(index);
        }
    }
    Ok(recipe.with_clean(steps, (job.width_px, job.height_px)))
}

/// An action with some of its figures set anew.
fn changed(action: &Action, set: Map<String, Value>) -> Result<Action, WebError> {
    let unusable = || wrong("clean", "this figure is not a number that can be used here");
    if let Some(left_top_size) = action.crop_box() {
        // The sides of a crop are figures of the page, not of the step.
        let mut sides = left_top_size;
        for (side, key) in sides.iter_mut().zip(["left", "top", "width", "height"]) {
            if let Some(value) = set.get(key) {
                *side = value
                    .as_f64()
                    .filter(|v| v.is_finite())
                    .ok_or_else(unusable)?;
            }
        }
        return Ok(Action::crop(sides));
    }
    let mut value = serde_json::to_value(action)?;
    if let Value::Object(old) = &mut value {
        // Only the figures, so that a change stays the same action.
        old.extend(set.into_iter().filter(|(k, _)| k != "kind" && k != "tool"));
    }
    let mut new: Action = serde_json::from_value(value).map_err(|_| unusable())?;
    if let (Action::Brush { size: old, .. }, Action::Brush { size, dabs, .. }) = (action, &mut new)
    {
        // A wider brush went the same way, with the same pressure.
        for dab in dabs {
            dab[2] *= *size / *old;
        }
    }
    Ok(new)
}

/// A place on the piece, mm, typed as `x,y`, in px of the original.
pub(crate) fn place(recipe: &Recipe, job: &Job, text: &str) -> Option<[f64; 2]> {
    let (x, y) = text.split_once(',')?;
    let (x, y): (f64, f64) = (x.trim().parse().ok()?, y.trim().parse().ok()?);
    let p = to_original(recipe, job)(Point::new(x, y));
    (p.x.is_finite() && p.y.is_finite()).then_some([p.x, p.y])
}

/// The frame of a job's cleaned artwork.
pub(crate) fn frame(recipe: &Recipe, job: &Job) -> Frame {
    recipe.frame((job.width_px, job.height_px))
}
