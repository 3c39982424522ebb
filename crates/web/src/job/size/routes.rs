//! Changes of size and stock: one address, one change each.

use actix_web::{HttpResponse, post, web};
use serde::Deserialize;

use crate::error::WebError;
use crate::job::changing::Changing;
use crate::job::line::Line;
use crate::job::request::JobRequest;
use crate::job::size::asked::Change;

#[derive(Deserialize)]
struct Form {
    revision: i64,
    #[serde(flatten)]
    change: Change,
}

#[post("/jobs/{id}/size")]
async fn change(asked: JobRequest, form: web::Form<Form>) -> Result<HttpResponse, WebError> {
    let Form { revision, change } = form.into_inner();
    let store = asked.shop.store.clone();
    asked
        .change(revision, Line::Size, move |_, base| {
            Changing::done((base, store), "stock", |to| change.apply(to))
        })
        .await
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(change);
}
