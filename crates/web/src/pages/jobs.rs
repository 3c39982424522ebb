//! The Jobs page: bring artwork in, find, copy and delete jobs.

use actix_multipart::form::MultipartForm;
use actix_multipart::form::tempfile::TempFile;
use actix_web::{HttpRequest, HttpResponse, Responder, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::limits;
use inky_core::recipe::{Recipe, Size};
use inky_core::units::{DEFAULT_PPI, Unit};
use inky_formats::picture::{self, ReadError};
use inky_formats::png;
use inky_store::{JobDetails, JobFilter, JobId, NewJob, Store};
use serde::Deserialize;

use crate::error::WebError;
use crate::pages::units::Reader;
use crate::view::{JobCard, card};
use crate::{Shop, samples};

#[derive(Template, WebTemplate)]
#[template(path = "jobs/page.html")]
struct Page {
    cards: Vec<JobCard>,
    words: String,
    any: bool,
    unit: &'static str,
}

#[derive(Template, WebTemplate)]
#[template(path = "jobs/_list.html")]
struct List {
    cards: Vec<JobCard>,
    words: String,
    any: bool,
}

#[derive(Template, WebTemplate)]
#[template(path = "jobs/_deleted.html")]
struct Deleted {
    id: JobId,
    title: String,
    list: List,
}

#[derive(Deserialize)]
struct Search {
    #[serde(default)]
    q: String,
}

fn list(store: &Store, words: String, unit: Unit) -> Result<List, WebError> {
    let jobs = store.jobs(&JobFilter {
        words: words.clone(),
    })?;
    let cards = jobs
        .iter()
        .map(|job| card(job, store.step(job.id).ok().as_ref(), unit))
        .collect();
    Ok(List {
        cards,
        words,
        any: store.count_jobs()? > 0,
    })
}

#[get("/")]
async fn page(
    request: HttpRequest,
    shop: web::Data<Shop>,
    search: web::Query<Search>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let (words, unit) = (search.into_inner().q, reader.0);
    let found = web::block(move || list(&shop.store, words, unit)).await??;
    if request.headers().contains_key("HX-Request") {
        return Ok(found.respond_to(&request).map_into_boxed_body());
    }
    let List { cards, words, any } = found;
    Ok(Page {
        cards,
        words,
        any,
        unit: unit.symbol(),
    }
    .respond_to(&request)
    .map_into_boxed_body())
}

#[derive(MultipartForm)]
struct Upload {
    #[multipart(rename = "file", limit = "65 MiB")]
    files: Vec<TempFile>,
}

/// Makes one job of one file.
fn bring_in(store: &Store, name: &str, bytes: &[u8]) -> Result<JobId, WebError> {
    let artwork = picture::read(bytes)?;
    let size_px = (artwork.picture.width(), artwork.picture.height());
    let size = Size::at_ppi(size_px.0, size_px.1, artwork.ppi.unwrap_or(DEFAULT_PPI));
    let recipe = Recipe::automatic(fitting(size));
    let details = JobDetails {
        title: title(name),
        ..JobDetails::default()
    };
    let recipe = serde_json::to_string(&recipe)?;
    Ok(store.create_job(NewJob {
        bytes,
        file_name: name,
        size_px,
        details: &details,
        recipe: &recipe,
    })?)
}

/// A size within what can be made: a one-pixel picture is still a millimetre.
fn fitting(size: Size) -> Size {
    let (w, h) = (size.width.get(), size.height.get());
    let factor = (limits::SIDE_MM.start() / w.min(h))
        .max(1.0)
        .min(limits::SIDE_MM.end() / w.max(h));
    let clamp = |v: f64| {
        inky_core::units::Mm::new(
            (v * factor).clamp(*limits::SIDE_MM.start(), *limits::SIDE_MM.end()),
        )
    };
    Size {
        width: clamp(w),
        height: clamp(h),
        ..size
    }
}

/// A title from a file name: `old_lock-sign.final.png` becomes `Old lock sign final`.
fn title(file_name: &str) -> String {
    let stem = file_name
        .rsplit_once('.')
        .map_or(file_name, |(stem, _)| stem);
    let words: String = stem
        .chars()
        .map(|c| if "-_.".contains(c) { ' ' } else { c })
        .collect();
    let words = words.split_whitespace().collect::<Vec<_>>().join(" ");
    let mut chars = words.chars();
    match chars.next() {
        Some(first) => first.to_uppercase().collect::<String>() + chars.as_str(),
        None => "Untitled".to_owned(),
    }
}

#[post("/jobs")]
async fn create(
    shop: web::Data<Shop>,
    form: MultipartForm<Upload>,
) -> Result<HttpResponse, WebError> {
    let files = form.into_inner().files;
    if files.is_empty() || files.iter().all(|f| f.size == 0) {
        return Err(ReadError::Empty.into());
    }
    let store = shop.store.clone();
    let made: Vec<JobId> = shop
        .workshop
        .run(move |_| {
            let mut made = Vec::new();
            for file in &files {
                let name = file
                    .file_name
                    .clone()
                    .unwrap_or_else(|| "pasted.png".to_owned());
                let bytes = std::fs::read(file.file.path())
                    .map_err(|e| WebError::Internal(e.to_string()))?;
                let job = bring_in(&store, &name, &bytes).map_err(|e| match e {
                    WebError::Picture(why) => {
                        let before = if made.is_empty() {
                            String::new()
                        } else {
                            format!(" The {} before it are in the list.", made.len())
                        };
                        WebError::Field {
                            field: "file",
                            message: format!("{name}: {why}.{before}"),
                        }
                    }
                    other => other,
                })?;
                made.push(job);
            }
            Ok(made)
        })
        .await?;
    let target = match made.as_slice() {
        [one] => format!("/jobs/{one}"),
        _ => "/".to_owned(),
    };
    Ok(HttpResponse::Created()
        .insert_header(("HX-Redirect", target.clone()))
        .insert_header(("Location", target))
        .finish())
}

#[post("/demo")]
async fn demo(shop: web::Data<Shop>) -> Result<HttpResponse, WebError> {
    web::block(move || samples::fill(&shop.store)).await??;
    Ok(HttpResponse::NoContent()
        .insert_header(("HX-Redirect", "/"))
        .finish())
}

#[post("/jobs/{id}/duplicate")]
async fn duplicate(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    reader: Reader,
) -> Result<List, WebError> {
    web::block(move || {
        shop.store.duplicate_job(*id)?;
        list(&shop.store, String::new(), reader.0)
    })
    .await?
}

#[post("/jobs/{id}/delete")]
async fn delete(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    reader: Reader,
) -> Result<Deleted, WebError> {
    web::block(move || {
        let title = shop.store.job(*id)?.details.title;
        shop.store.delete_job(*id)?;
        Ok(Deleted {
            id: *id,
            title,
            list: list(&shop.store, String::new(), reader.0)?,
        })
    })
    .await?
}

#[post("/jobs/{id}/restore")]
async fn restore(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    reader: Reader,
) -> Result<List, WebError> {
    web::block(move || {
        shop.store.restore_job(*id)?;
        list(&shop.store, String::new(), reader.0)
    })
    .await?
}

/// Side of a thumbnail, px.
const THUMBNAIL: u32 = 320;

#[get("/jobs/{id}/thumbnail.png")]
async fn thumbnail(shop: web::Data<Shop>, id: web::Path<JobId>) -> Result<HttpResponse, WebError> {
    let store = shop.store.clone();
    let id = *id;
    let bytes = shop
        .workshop
        .run(move |stages| {
            let made_from = format!("{}/{THUMBNAIL}", store.job(id)?.original);
            if let Some(kept) = store.result(id, "thumbnail", &made_from)? {
                return Ok(kept);
            }
            let small = png::write_thumbnail(&stages.artwork(id)?.artwork.picture, THUMBNAIL)?;
            store.keep_result(id, "thumbnail", &made_from, &small)?;
            Ok(small)
        })
        .await?;
    Ok(HttpResponse::Ok()
        .content_type("image/png")
        .insert_header(("Cache-Control", "private, max-age=3600"))
        .body(bytes))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(page)
        .service(create)
        .service(demo)
        .service(duplicate)
        .service(delete)
        .service(restore)
        .service(thumbnail);
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn titles_come_from_file_names() {
        assert_eq!(title("old_lock-sign.final.png"), "Old lock sign final");
        assert_eq!(title(".png"), "Untitled");
    }

    #[test]
    fn a_one_pixel_picture_gets_a_size_that_can_be_made() {
        let size = fitting(Size::at_ppi(1, 3, 96.0));
        assert!((size.width.get() - 1.0).abs() < 1e-9 && (size.height.get() - 3.0).abs() < 1e-9);
    }
}
