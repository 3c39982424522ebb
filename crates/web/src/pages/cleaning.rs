//! Clean-up steps: what the page asks for, applied to a recipe; and what the program finds by itself.

use actix_web::{HttpResponse, get, web};
use inky_core::clean::{self, Action, Frame, Levels, Pointed, Region, Step};
use inky_core::inks::{Rgb, Tone, noise_sigma};
use inky_core::recipe::Recipe;
use inky_core::stop::Stop;
use inky_formats::png;
use inky_store::{Job, JobId};
use kurbo::{Affine, Point};
use serde::Deserialize;
use serde_json::{Map, Value, json};

use crate::Shop;
use crate::error::{WebError, wrong};
use crate::pages::job::loaded;

/// One change of the list of steps, as the page sends it. Places are mm on the piece.
#[derive(Deserialize)]
#[serde(tag = "op", rename_all = "kebab-case")]
enum Edit {
    Add {
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
pub(crate) fn to_original(recipe: &Recipe, job: &Job) -> Affine {
    let frame = recipe.frame((job.width_px, job.height_px));
    let (across, down) = recipe.size.mm_per_px(frame.width, frame.height);
    frame.place.inverse() * Affine::scale_non_uniform(1.0 / across, 1.0 / down)
}

/// The recipe with a change of its steps, told as JSON.
pub(crate) fn edited(recipe: &Recipe, job: &Job, text: &str) -> Result<Recipe, WebError> {
    let edit: Edit = serde_json::from_str(text).map_err(|e| {
        wrong(
            "clean",
            format!("this step could not be read ({e}); try it again"),
        )
    })?;
    let mut steps = recipe.clean.clone();
    let gone = || wrong("clean", "this step is no longer there; reload the page");
    match edit {
        Edit::Add { action } => {
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
                (_, action) => steps.push(Step { on: true, action }),
            }
        }
        Edit::Change { index, set } => {
            let step = steps.get_mut(index).ok_or_else(gone)?;
            step.action = changed(&step.action, set)?;
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

#[derive(Deserialize)]
struct Asked {
    what: String,
    #[serde(default)]
    x: f64,
    #[serde(default)]
    y: f64,
}

/// What the program finds in the cleaned artwork: a step to take, or the colour at a place.
#[get("/jobs/{id}/found")]
async fn found(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    asked: web::Query<Asked>,
) -> Result<HttpResponse, WebError> {
    let now = loaded(&shop, *id).await?;
    let (job, asked) = (*id, asked.into_inner());
    let answer = shop
        .workshop
        .run(move |stages| {
            let arrived = stages.artwork(job)?;
            let (cleaned, _) = stages.cleaned(&arrived, &now.recipe.clean, &Stop::new())?;
            let picture = &cleaned.picture;
            Ok(match asked.what.as_str() {
                "skew" => {
                    let degrees = clean::skew(picture).ok_or_else(|| {
                        wrong(
                            "clean",
                            "no straight edges say how it lies; draw a line along one instead",
                        )
                    })?;
                    if degrees.abs() < 0.05 {
                        return Err(wrong("clean", "it lies straight already"));
                    }
                    json!({ "kind": "turn", "degrees": degrees, "found": true })
                }
                "levels" => step_value(&Action::Levels(stretched(picture)))?,
                "denoise" => {
                    let grain = noise_sigma(picture).clamp(2.5, 40.0);
                    step_value(&Action::Denoise {
                        grain: (grain * 10.0).round() / 10.0,
                    })?
                }
                _ => {
                    let (across, down) =
                        now.recipe.size.mm_per_px(picture.width(), picture.height());
                    let at = ((asked.x / across) as u32, (asked.y / down) as u32);
                    let colour = colour_at(picture, at).ok_or_else(|| {
                        wrong("clean", "there is no picture here; point inside it")
                    })?;
                    json!({ "colour": colour })
                }
            })
        })
        .await?;
    Ok(HttpResponse::Ok().json(answer))
}

fn step_value(action: &Action) -> Result<Value, WebError> {
    Ok(serde_json::to_value(action)?)
}

/// Levels that spread all but a whisker of the tones over the whole range.
fn stretched(picture: &inky_core::picture::Picture) -> Levels {
    const LEFT_OUT: f64 = 0.005;
    let histogram = Tone::of(picture).histogram;
    let most = histogram.iter().sum::<u64>() as f64 * LEFT_OUT;
    let black = reach(histogram.iter().enumerate(), most) as f64 / 2.55;
    let white = reach(histogram.iter().enumerate().rev(), most) as f64 / 2.55;
    let black = black.round().min(98.0);
    Levels {
        black,
        white: white.round().clamp(black + 2.0, 100.0),
        ..Levels::NONE
    }
}

/// The first tone at which more than `most` pixels have been passed.
fn reach<'a>(tones: impl Iterator<Item = (usize, &'a u64)>, most: f64) -> usize {
    let mut sum = 0.0;
    let mut tones = tones;
    let passed = tones.find(|&(_, &n)| {
        sum += n as f64;
        sum > most
    });
    passed.map_or(0, |(tone, _)| tone)
}

fn colour_at(picture: &inky_core::picture::Picture, (x, y): (u32, u32)) -> Option<Rgb> {
    if x >= picture.width() || y >= picture.height() {
        return None;
    }
    let [r, g, b, _] = picture.pixels()[(y * picture.width() + x) as usize];
    Some(Rgb([r, g, b]))
}

#[derive(Deserialize)]
struct Hovered {
    x: f64,
    y: f64,
    tolerance: f64,
    #[serde(default)]
    everywhere: bool,
}

/// Pixels of the copy in which a region is shown before it is chosen.
const SHOWN_PX: u64 = 1_000_000;

/// The region that would be cleared or filled, as a picture that is clear elsewhere.
#[get("/jobs/{id}/region.png")]
async fn region(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    at: web::Query<Hovered>,
) -> Result<HttpResponse, WebError> {
    let now = loaded(&shop, *id).await?;
    let job = *id;
    let bytes = shop
        .workshop
        .run(move |stages| {
            let arrived = stages.artwork(job)?;
            let stop = Stop::new();
            let (cleaned, key) = stages.cleaned(&arrived, &now.recipe.clean, &stop)?;
            let small = stages.reduced(&cleaned, &key, SHOWN_PX)?;
            let size = now.recipe.size;
            let (across, down) = size.mm_per_px(small.width(), small.height());
            let pointed = Pointed {
                at: [at.x / across, at.y / down],
                tolerance: at.tolerance,
                everywhere: at.everywhere,
            };
            let on = Region::find(&small, pointed, &stop)?.map(|region| region.on);
            let on = on.unwrap_or_else(|| vec![false; small.pixels().len()]);
            Ok(png::write_mask((small.width(), small.height()), &on)?)
        })
        .await?;
    Ok(HttpResponse::Ok().content_type("image/png").body(bytes))
}

/// A place on the piece, mm, typed as `x,y`, in px of the original.
pub(crate) fn place(recipe: &Recipe, job: &Job, text: &str) -> Option<[f64; 2]> {
    let (x, y) = text.split_once(',')?;
    let (x, y): (f64, f64) = (x.trim().parse().ok()?, y.trim().parse().ok()?);
    let p = to_original(recipe, job) * Point::new(x, y);
    (p.x.is_finite() && p.y.is_finite()).then_some([p.x, p.y])
}

/// The frame of a job's cleaned artwork.
pub(crate) fn frame(recipe: &Recipe, job: &Job) -> Frame {
    recipe.frame((job.width_px, job.height_px))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(found).service(region);
}
