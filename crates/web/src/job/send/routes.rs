//! Files to take away: every format, of the design or of its sheets, and what each will hold, in words.

use actix_web::http::header::{ContentDisposition, DispositionParam, DispositionType};
use actix_web::{HttpResponse, get, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_formats::names;

use crate::error::WebError;
use crate::job::request::JobRequest;
use crate::job::saving;
use crate::job::send::asked::{Paper, What, Wish};
use crate::job::send::made::{Job, Told};
use crate::job::send::to_machine;
use crate::jobs::state::Sent;

/// A file to take away.
pub(crate) fn download(name: &str, ending: &str, media_type: &str, body: Vec<u8>) -> HttpResponse {
    let disposition = ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![DispositionParam::Filename(format!(
            "{}.{ending}",
            names::file(name)
        ))],
    };
    HttpResponse::Ok()
        .content_type(media_type)
        .insert_header(disposition)
        .body(body)
}

async fn current(asked: &JobRequest) -> Result<Job, WebError> {
    let (now, base) = asked.base().await?;
    Ok(Job {
        revision: now.job.revision,
        title: now.job.details.title,
        client: now.job.details.client,
        recipe: base.recipe,
        outcome: base.outcome,
        laid: base.laid,
    })
}

async fn file(asked: &JobRequest, wish: Wish) -> Result<HttpResponse, WebError> {
    let (job, unit) = (current(asked).await?, asked.unit);
    let (format, title) = (wish.format(), job.title.clone());
    // Papers about the job are no cutting of it.
    let told = matches!(
        wish.paper(),
        Some(Paper::Order | Paper::Proof | Paper::Chart)
    );
    let cut = wish.what() != What::Design && !told;
    let revision = job.revision;
    let (ending, bytes) = asked.run(move |_| job.files(&wish, unit)).await?;
    if cut {
        let sent = Sent {
            format: format.word().to_owned(),
            at: jiff::Timestamp::now().as_millisecond(),
            revision,
        };
        let (store, id) = (asked.shop.store.clone(), asked.id);
        if let Err(error) = web::block(move || sent.keep(&store, id)).await? {
            tracing::warn!(job = id, %error, "that it was sent was not kept");
        }
    }
    let media = match ending {
        "zip" => "application/zip",
        _ => format.media_type(),
    };
    Ok(download(&title, ending, media, bytes))
}

#[get("/jobs/{id}/file")]
async fn any_file(asked: JobRequest, wish: web::Query<Wish>) -> Result<HttpResponse, WebError> {
    file(&asked, wish.into_inner()).await
}

/// The design as one SVG, under a short address.
#[get("/jobs/{id}/cut.svg")]
async fn cut_svg(asked: JobRequest, wish: web::Query<Wish>) -> Result<HttpResponse, WebError> {
    file(&asked, wish.into_inner()).await
}

#[derive(Template, WebTemplate)]
#[template(path = "job/send/_told.html")]
struct Telling {
    told: Told,
}

#[get("/jobs/{id}/told")]
async fn tell(asked: JobRequest, wish: web::Query<Wish>) -> Result<Telling, WebError> {
    let (job, wish, unit) = (current(&asked).await?, wish.into_inner(), asked.unit);
    let told = asked.run(move |_| job.told(&wish, unit)).await?;
    Ok(Telling { told })
}

#[get("/jobs/{id}/recipe.json")]
async fn recipe(asked: JobRequest) -> Result<HttpResponse, WebError> {
    let (title, recipe) = web::block(move || -> Result<_, WebError> {
        let store = &asked.shop.store;
        let recipe = saving::recipe(store, asked.id)?;
        Ok((store.job(asked.id)?.details.title, recipe))
    })
    .await??;
    let body = serde_json::to_vec_pretty(&recipe)?;
    Ok(download(&title, "json", "application/json", body))
}

#[get("/jobs/{id}/original")]
async fn original(asked: JobRequest) -> Result<HttpResponse, WebError> {
    let (name, original) = web::block(move || -> Result<_, WebError> {
        let store = &asked.shop.store;
        Ok((store.job(asked.id)?.file_name, store.original(asked.id)?))
    })
    .await??;
    let (stem, ending) = name.rsplit_once('.').unwrap_or((&name, "bin"));
    Ok(download(
        stem,
        ending,
        "application/octet-stream",
        original.bytes,
    ))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(any_file)
        .service(cut_svg)
        .service(tell)
        .service(recipe)
        .service(original);
    to_machine::routes(config);
}
