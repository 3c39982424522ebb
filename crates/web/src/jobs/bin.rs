//! The bin: deleted jobs brought back, or taken away for good.

use actix_web::{HttpResponse, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_store::{Binned, JobId, KEPT_DAYS};

use crate::error::WebError;
use crate::reader::Reader;
use crate::{Shop, text};

#[derive(Template, WebTemplate)]
#[template(path = "jobs/bin.html")]
struct BinPage {
    rows: Vec<Row>,
    days: i64,
    unit: &'static str,
}

/// A deleted job.
struct Row {
    id: JobId,
    title: String,
    client: String,
    deleted: String,
    gone: String,
}

impl Row {
    fn of(binned: Binned) -> Self {
        Self {
            id: binned.job.id,
            title: binned.job.details.title,
            client: binned.job.details.client,
            deleted: text::moment(binned.deleted),
            gone: text::moment(binned.gone),
        }
    }
}

#[get("/bin")]
async fn page(shop: web::Data<Shop>, reader: Reader) -> Result<BinPage, WebError> {
    let rows = web::block(move || shop.store.bin()).await??;
    Ok(BinPage {
        rows: rows.into_iter().map(Row::of).collect(),
        days: KEPT_DAYS,
        unit: reader.0.symbol(),
    })
}

fn on_to(address: String) -> HttpResponse {
    HttpResponse::NoContent()
        .insert_header(("HX-Redirect", address))
        .finish()
}

#[post("/bin/{id}/restore")]
async fn restore(shop: web::Data<Shop>, id: web::Path<JobId>) -> Result<HttpResponse, WebError> {
    let id = *id;
    web::block(move || shop.store.restore_job(id)).await??;
    Ok(on_to(format!("/jobs/{id}")))
}

#[post("/bin/{id}/delete")]
async fn delete(shop: web::Data<Shop>, id: web::Path<JobId>) -> Result<HttpResponse, WebError> {
    web::block(move || shop.store.delete_for_good(*id)).await??;
    Ok(on_to("/bin".to_owned()))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(page).service(restore).service(delete);
}
