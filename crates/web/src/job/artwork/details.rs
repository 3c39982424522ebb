//! Title, client and tags of a job.

use actix_web::{post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_store::{JobDetails, JobId};
use serde::Deserialize;

use crate::Shop;
use crate::error::WebError;

#[derive(Deserialize)]
struct Details {
    revision: i64,
    title: String,
    #[serde(default)]
    client: String,
    #[serde(default)]
    tags: String,
}

#[derive(Template, WebTemplate)]
#[template(path = "job/artwork/_title.html")]
struct Title {
    title: String,
    client: String,
    revision: i64,
}

/// Greatest length of a typed text, characters.
const MOST: usize = 200;

#[post("/jobs/{id}/details")]
async fn change(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    form: web::Form<Details>,
) -> Result<Title, WebError> {
    let short = |text: &str| {
        text.trim()
            .chars()
            .filter(|c| !c.is_control())
            .take(MOST)
            .collect::<String>()
    };
    let details = JobDetails {
        title: short(&form.title),
        client: short(&form.client),
        tags: short(&form.tags),
    };
    if details.title.is_empty() {
        return Err(WebError::Field {
            field: "title",
            message: "a job needs a title; the old one was kept".to_owned(),
        });
    }
    web::block(move || {
        shop.store.set_details(*id, form.revision, &details)?;
        Ok(Title {
            title: details.title,
            client: details.client,
            revision: form.revision + 1,
        })
    })
    .await?
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(change);
}
