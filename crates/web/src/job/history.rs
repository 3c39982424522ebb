//! The history of a job as a list: what was done, by whom and when, with a small picture of each step; a step
//! is gone back to, or set beside what is now.

use actix_web::{HttpResponse, get, post, web};
use inky_core::stop::Stop;
use inky_formats::png;
use inky_store::{History, JobId};
use serde::Deserialize;

use crate::error::WebError;
use crate::job::line::Line;
use crate::job::request::{Answer, JobRequest};
use crate::job::saving;
use crate::text;

/// A step as the list shows it.
pub(crate) struct PastStep {
    pub(crate) number: i64,
    /// What was done and by whom.
    pub(crate) told: String,
    pub(crate) made: String,
    /// Whether it is the one in force.
    pub(crate) now: bool,
    /// Whether it was taken back and can be done again.
    pub(crate) taken_back: bool,
    /// What its picture was made from; empty where the artwork was another one.
    pub(crate) picture: String,
}

/// The steps of a job, the latest first.
pub(crate) fn steps(history: &History) -> Vec<PastStep> {
    let at = history.at;
    let step = |step: &inky_store::Past| PastStep {
        number: step.number,
        told: step.told(),
        made: text::moment(step.made),
        now: step.number == at,
        taken_back: step.number > at,
        picture: if step.of_this_artwork {
            step.made.to_string()
        } else {
            String::new()
        },
    };
    history.steps.iter().rev().map(step).collect()
}

/// Side of a step's picture, px: twice what it is shown at.
const SIDE: u32 = 112;

/// The picture of a step, kept under the moment it was made.
#[get("/jobs/{id}/steps/{number}/{made}.png")]
async fn picture(
    asked: JobRequest,
    path: web::Path<(JobId, i64, String)>,
) -> Result<HttpResponse, WebError> {
    let (id, number, made) = path.into_inner();
    let store = asked.shop.store.clone();
    let drawn = asked.run(move |stages| {
        let (recipe, from) = saving::recipe_at(&store, id, number)?;
        if from.to_string() != made {
            return Err(WebError::NoPage);
        }
        let kind = format!("step {number}");
        if let Some(kept) = store.result(id, &kind, &made)? {
            return Ok(kept);
        }
        let outcome = stages.outcome(id, &recipe, false, &Stop::new())?;
        let small = png::write_small(&outcome.design, SIDE)?;
        store.keep_result(id, &kind, &made, &small)?;
        Ok(small)
    });
    Ok(HttpResponse::Ok()
        .content_type("image/png")
        .insert_header(("Cache-Control", "private, max-age=31536000, immutable"))
        .body(drawn.await?))
}

/// A press beside a step.
#[derive(Deserialize)]
struct Chosen {
    revision: i64,
    line: Line,
    step: i64,
}

/// Goes to a step; those after it stay until something new is done.
#[post("/jobs/{id}/go")]
async fn go(asked: JobRequest, form: web::Form<Chosen>) -> Result<HttpResponse, WebError> {
    let (store, id) = (asked.shop.store.clone(), asked.id);
    let Chosen {
        revision,
        line,
        step,
    } = form.into_inner();
    web::block(move || {
        let at = store.history(id)?.at;
        store.move_step(id, revision, step.saturating_sub(at))
    })
    .await??;
    asked.shown(line, Answer::Reshaped).await
}

/// Sets a step beside what is now, as the remembered result.
#[post("/jobs/{id}/compare")]
async fn compare(asked: JobRequest, form: web::Form<Chosen>) -> Result<HttpResponse, WebError> {
    let (store, id) = (asked.shop.store.clone(), asked.id);
    let Chosen { line, step, .. } = form.into_inner();
    let (recipe, _) = web::block(move || saving::recipe_at(&store, id, step)).await??;
    asked.remember(Some(recipe)).await?;
    asked.shown(line, Answer::Kept).await
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(picture).service(go).service(compare);
}
