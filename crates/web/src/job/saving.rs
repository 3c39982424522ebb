//! Recipes to and from the store: the history keeps every edit once, a recipe all that are in force.

use inky_core::recipe::Recipe;
use inky_core::tidy::{DrawingData, Edit};
use inky_store::{Edits, JobId, Millis, NewStep, Step, Store};
use serde::Serialize;
use serde::de::DeserializeOwned;
use sha2::{Digest, Sha256};

use crate::door::Person;
use crate::error::{WebError, wrong};

/// The recipe in force, with its edits; the last one that can be read.
pub(crate) fn recipe(store: &Store, id: JobId) -> Result<Recipe, WebError> {
    Ok(last_readable(store, &store.step(id)?, id)?.1)
}

/// The recipe in force, with its edits, and what has to be said of it: a job whose newest step cannot be
/// read goes back to the last one that can.
pub(crate) fn readable(store: &Store, id: JobId) -> Result<(Recipe, Option<String>), WebError> {
    let newest = store.step(id)?;
    let (number, recipe) = last_readable(store, &newest, id)?;
    if number == newest.number {
        return Ok((recipe, None));
    }
    store.fall_back(id, newest.number, number)?;
    let said = format!(
        "The step “{}” could not be read; the job is as it was before it.",
        newest.name
    );
    Ok((recipe, Some(said)))
}

/// The number and the recipe of a step, or of the last one before it that can be read.
fn last_readable(store: &Store, newest: &Step, id: JobId) -> Result<(i64, Recipe), WebError> {
    let error = match read(newest) {
        Ok(recipe) => return Ok((newest.number, recipe)),
        Err(error) => error,
    };
    tracing::warn!(job = id, step = newest.number, %error, "a step cannot be read");
    for number in (0..newest.number).rev() {
        if let Ok(recipe) = read(&store.step_numbered(id, number)?) {
            return Ok((number, recipe));
        }
    }
    Err(error.into())
}

/// The recipe of a step by its number, with its edits, and the moment it was made.
pub(crate) fn recipe_at(
    store: &Store,
    id: JobId,
    number: i64,
) -> Result<(Recipe, Millis), WebError> {
    let step = store.step_numbered(id, number)?;
    Ok((read(&step)?, step.made))
}

fn read(step: &Step) -> Result<Recipe, serde_json::Error> {
    let mut recipe: Recipe = serde_json::from_str(&step.recipe)?;
    if let Some(tidy) = &mut recipe.tidy {
        let edits = step.edits.iter().map(|e| serde_json::from_str(e));
        tidy.edits = edits.collect::<Result<_, _>>()?;
    }
    Ok(recipe)
}

/// A recipe as the store keeps it: without its edits.
pub(crate) fn stored(recipe: &Recipe) -> Result<String, WebError> {
    let mut recipe = recipe.clone();
    if let Some(tidy) = &mut recipe.tidy {
        tidy.edits.clear();
    }
    kept(&recipe)
}

/// What is kept as text, once it was read back: JSON has no word for what is not a number.
fn kept<T: Serialize + DeserializeOwned>(value: &T) -> Result<String, WebError> {
    let text = serde_json::to_string(value)?;
    if serde_json::from_str::<T>(&text).is_err() {
        return Err(wrong(
            "notice",
            "this leads to a figure that is too great to be kept, so nothing was changed",
        ));
    }
    Ok(text)
}

/// Adds a step from the recipe in force to another one. Of edits there may be more, or none.
pub(crate) fn add_step(
    store: &Store,
    (job, revision): (JobId, i64),
    (name, person): (&str, &Person),
    (old, new): (&Recipe, &Recipe),
) -> Result<(), WebError> {
    let before = old.tidy.as_ref().map_or(0, |t| t.edits.len());
    let json = stored(new)?;
    let more: Vec<String> = match &new.tidy {
        Some(tidy) => {
            let more = tidy.edits.get(before..).unwrap_or_default().iter();
            more.map(kept).collect::<Result<_, _>>()?
        }
        None => Vec::new(),
    };
    let edits = match (&new.tidy, more.is_empty()) {
        (None, _) if old.tidy.is_none() => Edits::Same,
        (None, _) => Edits::SetAside,
        (Some(_), true) => Edits::Same,
        (Some(_), false) => Edits::More(&more),
    };
    let step = NewStep {
        name,
        recipe: &json,
        by: &person.name,
    };
    Ok(store.add_step(job, revision, step, edits)?)
}

/// Whether a changed recipe asks for another trace; what only paints, names or switches inks or
/// changes the size does not.
fn traces_anew(old: &Recipe, new: &Recipe) -> bool {
    let plain = |recipe: &Recipe| {
        let mut recipe = recipe.traced();
        recipe.size = old.size;
        recipe.layers = old.layers.clone();
        recipe.sheet = old.sheet.clone();
        recipe.inks.switched.clear();
        recipe.inks.names.clear();
        recipe.inks.repainted.clear();
        recipe
    };
    let on = |r: &Recipe| r.inks.switched.iter().filter(|s| s.kept).count();
    // An ink that was dropped when it was traced has no outlines yet.
    plain(old) != plain(new) || on(new) > on(old) && !only_back(old, new)
}

/// Whether inks that are switched on were switched off by hand after the trace.
fn only_back(old: &Recipe, new: &Recipe) -> bool {
    let since = |colour| {
        let traced = old.traced();
        let dropped = |r: &Recipe| {
            r.inks
                .switched
                .iter()
                .any(|s| s.colour == colour && !s.kept)
        };
        dropped(old) && !dropped(&traced)
    };
    let turned_on = new
        .inks
        .switched
        .iter()
        .filter(|s| s.kept && !old.inks.switched.contains(s));
    turned_on.into_iter().all(|s| since(s.colour))
}

/// Carries the edits over to a changed recipe: to another size by scaling what was edited; a new
/// trace begins without them. Tells whether they were set aside.
pub(crate) fn carry_edits(old: &Recipe, new: &mut Recipe) -> bool {
    if old.tidy.is_none() || old == new {
        return false;
    }
    if traces_anew(old, new) {
        new.tidy = None;
        return true;
    }
    let (a, b) = (old.size, new.size);
    let (across, down) = (
        b.width.get() / a.width.get(),
        b.height.get() / a.height.get(),
    );
    let same = (across - 1.0).abs() < 1e-12 && (down - 1.0).abs() < 1e-12;
    if let Some(tidy) = new.tidy.as_mut().filter(|_| !same) {
        tidy.edits.push(Edit::Resize { across, down });
    }
    false
}

/// Keeps the drawing that edits begin with; its name.
pub(crate) fn keep_traced(store: &Store, drawing: &DrawingData) -> Result<String, WebError> {
    let json = serde_json::to_string(drawing)?;
    let hash = Sha256::digest(json.as_bytes());
    let name: String = hash.iter().map(|b| format!("{b:02x}")).collect();
    store.keep_traced(&name, &json)?;
    Ok(name)
}

/// Kind under which the recipe of a remembered result is kept.
const REMEMBERED: &str = "remembered";

/// The recipe that was remembered to compare others with.
pub(crate) fn remembered(store: &Store, job: JobId) -> Result<Option<Recipe>, WebError> {
    let kept = store.result(job, REMEMBERED, REMEMBERED)?;
    Ok(kept.and_then(|json| serde_json::from_slice(&json).ok()))
}

/// Keeps a recipe to compare others with, or forgets the one that is kept.
pub(crate) fn remember(store: &Store, job: JobId, recipe: Option<&Recipe>) -> Result<(), WebError> {
    let json = recipe.map(serde_json::to_vec).transpose()?;
    let json = json.unwrap_or_default();
    Ok(store.keep_result(job, REMEMBERED, REMEMBERED, &json)?)
}
