//! Choices of the ticket's controls, looked at while one moves and kept as a step when it rests.

use std::sync::Arc;

use actix_web::{HttpResponse, post, web};
use inky_core::recipe::Recipe;

use crate::error::WebError;
use crate::job::body::same_controls;
use crate::job::change::name_of_change;
use crate::job::choices::Choices;
use crate::job::now::Now;
use crate::job::request::{Answer, JobRequest};
use crate::job::saving;
use crate::workshop::{Outcome, Wanted};

/// The job's recipe with the form's choices, and what that gives.
async fn tried(
    asked: &JobRequest,
    now: &Now,
    form: &Choices,
    wanted: Wanted,
) -> Result<(Recipe, Arc<Outcome>), WebError> {
    let mut recipe = form.apply(&now.recipe, &now.job, asked.unit)?;
    saving::carry_edits(&now.recipe, &mut recipe);
    let outcome = asked.outcome(&recipe, wanted).await?;
    Ok((recipe, outcome))
}

#[post("/jobs/{id}/try")]
async fn preview(asked: JobRequest, form: web::Form<Choices>) -> Result<HttpResponse, WebError> {
    let now = asked.now().await?;
    let (recipe, outcome) = tried(&asked, &now, &form, Wanted::Preview).await?;
    asked
        .answer(&now, (&recipe, &outcome), form.line, Answer::Preview)
        .await
}

#[post("/jobs/{id}/choose")]
async fn choose(asked: JobRequest, form: web::Form<Choices>) -> Result<HttpResponse, WebError> {
    let now = asked.now_at(form.revision).await?;
    // Traced before it is stored: a recipe that cannot be traced never becomes a step.
    let (recipe, outcome) = tried(&asked, &now, &form, Wanted::Kept).await?;
    // The result whose edits a new trace sets aside can be compared with the new one.
    let aside = now.recipe.tidy.is_some() && recipe.tidy.is_none();
    if aside {
        asked.remember(Some(now.recipe.clone())).await?;
    }
    let how = if aside || !same_controls(&now.recipe, &recipe) {
        Answer::Reshaped
    } else {
        Answer::Kept
    };
    let Some(mut name) = name_of_change(&now.recipe, &recipe, asked.unit) else {
        return asked
            .answer(&now, (&recipe, &outcome), form.line, how)
            .await;
    };
    if aside {
        name.push_str(", edits set aside");
    }
    let after = asked
        .step(form.revision, name, (now.recipe, recipe.clone()))
        .await?;
    asked
        .answer(&after, (&recipe, &outcome), form.line, how)
        .await
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(preview).service(choose);
}
