//! Changes of an arrangement: one address, one change each.

use actix_web::{HttpResponse, post, web};
use serde::Deserialize;

use crate::error::WebError;
use crate::job::line::Line;
use crate::job::request::JobRequest;
use crate::job::sheet::asked::Change;
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

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(change);
}
