//! Changes of an arrangement: one address, one change each.

use actix_web::{HttpResponse, post, web};
use askama::Template;
use askama_web::WebTemplate;
use serde::Deserialize;

use crate::error::WebError;
use crate::job::kept::Kept;
use crate::job::line::Line;
use crate::job::request::JobRequest;
use crate::job::sheet::asked::Change;
use crate::materials::offcut::rest;
use crate::refusal::Refusal;

#[derive(Deserialize)]
struct Form {
    revision: i64,
    #[serde(flatten)]
    change: Change,
}

#[post("/jobs/{id}/sheet")]
async fn change(asked: JobRequest, form: web::Form<Form>) -> Result<HttpResponse, WebError> {
    let Form { revision, change } = form.into_inner();
    asked
        .change(revision, Line::Sheet, move |_, base| {
            let field = change.field();
            let mut recipe = base.recipe;
            let (sheet, name) = change.apply(&recipe.sheet, &base.laid, base.unit)?;
            sheet.check().map_err(|e| e.beside(field))?;
            recipe.sheet = sheet;
            Ok((recipe, name))
        })
        .await
}

#[derive(Template, WebTemplate)]
#[template(path = "job/sheet/_rest.html")]
struct RestKept {
    kept: rest::Kept,
}

/// Keeps what is left of a plate as stock.
#[post("/jobs/{id}/sheets/{key}/{n}/rest")]
async fn keep_rest(kept: Kept) -> Result<RestKept, WebError> {
    let made = kept.of_sheet(|store, on| rest::keep(store, &on.sheet));
    Ok(RestKept { kept: made.await? })
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(change).service(keep_rest);
}
