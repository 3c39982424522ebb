//! What the program finds in the cleaned artwork by itself: a step to take, a colour, a region.

use actix_web::{HttpResponse, get, web};
use inky_core::clean::{self, Action, Levels, Pointed, Region};
use inky_core::inks::{Rgb, Tone, noise_sigma};
use inky_core::stop::Stop;
use inky_formats::png;
use serde::Deserialize;
use serde_json::{Value, json};

use crate::error::{WebError, wrong};
use crate::job::clean::squared;
use crate::job::request::JobRequest;

/// What is looked for.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Sought {
    Skew,
    Levels,
    Denoise,
    Colour,
}

#[derive(Deserialize)]
struct Asked {
    what: Sought,
    #[serde(default)]
    x: f64,
    #[serde(default)]
    y: f64,
}

/// What the program finds in the cleaned artwork: a step to take, or the colour at a place.
#[get("/jobs/{id}/found")]
async fn found(job: JobRequest, asked: web::Query<Asked>) -> Result<HttpResponse, WebError> {
    let now = job.now().await?;
    let (id, asked) = (job.id, asked.into_inner());
    let answer = job
        .run(move |stages| {
            let arrived = stages.artwork(id)?;
            let (cleaned, _) = stages.cleaned(&arrived, &now.recipe.clean, &Stop::new())?;
            let picture = &cleaned.picture;
            Ok(match asked.what {
                Sought::Skew => {
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
                Sought::Levels => step_value(&Action::Levels(stretched(picture)))?,
                Sought::Denoise => {
                    let grain = noise_sigma(picture).clamp(2.5, 40.0);
                    step_value(&Action::Denoise {
                        grain: (grain * 10.0).round() / 10.0,
                    })?
                }
                Sought::Colour => {
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
async fn region(job: JobRequest, at: web::Query<Hovered>) -> Result<HttpResponse, WebError> {
    let now = job.now().await?;
    let id = job.id;
    let bytes = job
        .run(move |stages| {
            let arrived = stages.artwork(id)?;
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

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(found).service(region);
    squared::routes(config);
}
