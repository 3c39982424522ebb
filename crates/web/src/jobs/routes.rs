//! The Jobs page: jobs found, copied, deleted and brought back.

use actix_web::{HttpRequest, HttpResponse, Responder, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::units::Unit;
use inky_formats::png;
use inky_store::{JobFilter, JobId, JobOrder, Store, StoreError};
use serde::de::Error;
use serde::{Deserialize, Deserializer};

use crate::door::Person;
use crate::error::WebError;
use crate::job::request::JobRequest;
use crate::jobs::shown::{JobCard, card};
use crate::jobs::state::{self, State};
use crate::reader::Reader;
use crate::workshop::code;
use crate::{Shop, samples};

#[derive(Template, WebTemplate)]
#[template(path = "jobs/page.html")]
struct JobsPage {
    list: List,
    unit: &'static str,
    /// A sheet that pictures may be fitted to, in the reader's unit.
    sheet: [&'static str; 3],
    person: Person,
    /// What is said of the backups.
    backups: Option<String>,
    /// Deleted jobs that can still be brought back.
    binned: i64,
}

#[derive(Template, WebTemplate)]
#[template(path = "jobs/_list.html")]
struct List {
    page: Page,
    /// How many jobs there are in all, found or not.
    all: i64,
}

/// Some of the cards, and where the next ones begin.
#[derive(Template, WebTemplate)]
#[template(path = "jobs/_cards.html")]
struct Page {
    cards: Vec<JobCard>,
    words: String,
    order: JobOrder,
    next: Option<u32>,
}

impl Page {
    /// The order's word in addresses.
    fn order(&self) -> &'static str {
        let mut all = ORDERS.iter().filter(|(order, ..)| *order == self.order);
        all.next().map_or("latest", |(_, word, _)| word)
    }
}

/// What is left to do of one job.
#[derive(Template, WebTemplate)]
#[template(path = "jobs/_left.html")]
struct Left {
    id: JobId,
    state: State,
}

#[derive(Template, WebTemplate)]
#[template(path = "jobs/_deleted.html")]
struct Deleted {
    id: JobId,
    title: String,
    list: List,
}

/// In which orders jobs are listed, with their words in addresses and on the page.
const ORDERS: [(JobOrder, &str, &str); 4] = [
    (JobOrder::Latest, "latest", "changed last"),
    (JobOrder::Oldest, "oldest", "made first"),
    (JobOrder::Title, "title", "title"),
    (JobOrder::Client, "client", "client"),
];

/// The order that a word in an address names.
fn order<'de, D: Deserializer<'de>>(from: D) -> Result<JobOrder, D::Error> {
    let word = String::deserialize(from)?;
    let found = ORDERS.iter().find(|(_, own, _)| *own == word);
    found
        .map(|(order, ..)| *order)
        .ok_or_else(|| D::Error::custom("there is no such order"))
}

#[derive(Deserialize)]
struct Search {
    #[serde(default)]
    q: String,
    #[serde(default, deserialize_with = "order")]
    order: JobOrder,
    /// How many cards are on the page already.
    #[serde(default)]
    from: u32,
}

impl Search {
    /// Everything, as the page begins.
    const fn all() -> Self {
        Self {
            q: String::new(),
            order: JobOrder::Latest,
            from: 0,
        }
    }
}

/// Cards that are sent at once.
const CARDS: u32 = 60;

fn some(store: &Store, search: Search, unit: Unit) -> Result<Page, WebError> {
    let Search { q, order, from } = search;
    let mut jobs = store.jobs(&JobFilter {
        words: q.clone(),
        order,
        from,
        // One more tells whether there are others.
        most: CARDS + 1,
    })?;
    let next = (jobs.len() > CARDS as usize).then_some(from.saturating_add(CARDS));
    jobs.truncate(CARDS as usize);
    let cards = jobs
        .iter()
        .map(|job| card(store, job, store.step(job.id).ok().as_ref(), unit));
    Ok(Page {
        cards: cards.collect::<Result<_, _>>()?,
        words: q,
        order,
        next,
    })
}

fn list(store: &Store, search: Search, unit: Unit) -> Result<List, WebError> {
    Ok(List {
        page: some(store, search, unit)?,
        all: store.count_jobs()?,
    })
}

/// The code of a printed page, typed by a scanner or by hand, opens its job.
async fn opened_by_code(
    shop: &web::Data<Shop>,
    typed: &str,
    request: &HttpRequest,
) -> Result<Option<HttpResponse>, WebError> {
    let Some(id) = code::job_of(typed) else {
        return Ok(None);
    };
    let shop = shop.clone();
    let is_there = web::block(move || shop.store.job(id).is_ok()).await?;
    let opened = |header| {
        let mut answer = match header {
            "HX-Redirect" => HttpResponse::NoContent(),
            _ => HttpResponse::SeeOther(),
        };
        answer
            .insert_header((header, format!("/jobs/{id}")))
            .finish()
    };
    let by_page = request.headers().contains_key("HX-Request");
    Ok(is_there.then(|| opened(if by_page { "HX-Redirect" } else { "Location" })))
}

#[get("/")]
async fn page(
    request: HttpRequest,
    shop: web::Data<Shop>,
    search: web::Query<Search>,
    reader: Reader,
    person: Person,
) -> Result<HttpResponse, WebError> {
    let (search, unit) = (search.into_inner(), reader.0);
    if let Some(opened) = opened_by_code(&shop, &search.q, &request).await? {
        return Ok(opened);
    }
    let (backups, more) = (shop.backups.told(), search.from > 0);
    let found = web::block(move || {
        let binned = shop.store.count_bin()?;
        Ok::<_, WebError>((list(&shop.store, search, unit)?, binned))
    });
    let (list, binned) = found.await??;
    if request.headers().contains_key("HX-Request") {
        return Ok(if more {
            list.page.respond_to(&request).map_into_boxed_body()
        } else {
            list.respond_to(&request).map_into_boxed_body()
        });
    }
    Ok(JobsPage {
        list,
        person,
        backups,
        binned,
        unit: unit.symbol(),
        sheet: match unit {
            Unit::Mm => ["600", "300", "150"],
            Unit::In => ["24", "12", "6"],
        },
    }
    .respond_to(&request)
    .map_into_boxed_body())
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
        list(&shop.store, Search::all(), reader.0)
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
            list: list(&shop.store, Search::all(), reader.0)?,
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
        list(&shop.store, Search::all(), reader.0)
    })
    .await?
}

/// Looks at a job for its card, where nobody has since it was changed.
#[get("/jobs/{id}/state")]
async fn looked_at(asked: JobRequest) -> Result<HttpResponse, WebError> {
    match asked.base().await {
        // Deleted meanwhile: its card is gone.
        Err(WebError::Store(StoreError::NoJob)) => return Ok(HttpResponse::NoContent().finish()),
        made => made?,
    };
    let (store, id) = (asked.shop.store.clone(), asked.id);
    let state = web::block(move || state::state(&store, &store.job(id)?)).await??;
    Ok(asked.page(Left { id, state }))
}

/// Side of a thumbnail, px.
const THUMBNAIL: u32 = 320;

#[get("/jobs/{id}/thumbnail.png")]
async fn thumbnail(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    person: Person,
) -> Result<HttpResponse, WebError> {
    let store = shop.store.clone();
    let id = *id;
    let bytes = shop
        .workshop
        .run(&person, move |stages| {
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
    super::arrival::routes(config);
    super::bin::routes(config);
    config
        .service(page)
        .service(demo)
        .service(duplicate)
        .service(delete)
        .service(restore)
        .service(looked_at)
        .service(thumbnail);
}
