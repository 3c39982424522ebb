//! Changes of layers and materials: one address, one change each.

use actix_web::{HttpResponse, post, web};
use serde::Deserialize;

use crate::error::WebError;
use crate::job::changing::Changing;
use crate::job::layers::asked::Change;
use crate::job::line::Line;
use crate::job::request::JobRequest;

#[derive(Deserialize)]
struct Form {
    revision: i64,
    line: Option<Line>,
    #[serde(flatten)]
    change: Change,
}

#[post("/jobs/{id}/layers")]
async fn change(asked: JobRequest, form: web::Form<Form>) -> Result<HttpResponse, WebError> {
    let Form {
        revision,
        line,
        change,
    } = form.into_inner();
    let store = asked.shop.store.clone();
    let line = line.unwrap_or(Line::Layers);
    asked
        .change(revision, line, move |_, base| {
            Changing::done((base, store), "layers", |to| change.apply(to))
        })
        .await
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(change);
}
