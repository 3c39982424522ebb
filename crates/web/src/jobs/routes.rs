//! The Jobs page: bring artwork in, find, copy and delete jobs.

use actix_multipart::form::MultipartForm;
use actix_multipart::form::tempfile::TempFile;
use actix_multipart::form::text::Text;
use actix_web::{HttpRequest, HttpResponse, Responder, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::expression::parse_length;
use inky_core::limits;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::units::{DEFAULT_PPI, Length, Mm, Unit};
use inky_formats::picture::{self, ReadError};
use inky_formats::{png, vector};
use inky_store::{JobDetails, JobFilter, JobId, JobOrder, NewJob, Store, StoreError};
use serde::Deserialize;

use crate::door::Person;
use crate::error::WebError;
use crate::job::request::JobRequest;
use crate::job::tidy::vectors;
use crate::jobs::shown::{JobCard, card};
use crate::jobs::state::{self, State};
use crate::reader::Reader;
use crate::{Shop, samples};

#[derive(Template, WebTemplate)]
#[template(path = "jobs/page.html")]
struct JobsPage {
    list: List,
    unit: &'static str,
    /// A sheet that pictures may be fitted to, in the reader's unit.
    sheet: [&'static str; 3],
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
    order: Order,
    next: Option<u32>,
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

/// In which order jobs are listed, by its word in addresses.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Order {
    #[default]
    Latest,
    Oldest,
    Title,
    Client,
}

impl Order {
    /// All of them with their words, in addresses and on the page.
    const ALL: [(Self, &'static str, &'static str); 4] = [
        (Self::Latest, "latest", "changed last"),
        (Self::Oldest, "oldest", "made first"),
        (Self::Title, "title", "title"),
        (Self::Client, "client", "client"),
    ];

    fn word(self) -> &'static str {
        let mut all = Self::ALL.iter();
        all.find(|(order, ..)| *order == self)
            .map_or("latest", |(_, word, _)| word)
    }

    const fn of_jobs(self) -> JobOrder {
        match self {
            Self::Latest => JobOrder::Latest,
            Self::Oldest => JobOrder::Oldest,
            Self::Title => JobOrder::Title,
            Self::Client => JobOrder::Client,
        }
    }
}

#[derive(Deserialize)]
struct Search {
    #[serde(default)]
    q: String,
    #[serde(default)]
    order: Order,
    /// How many cards are on the page already.
    #[serde(default)]
    from: u32,
}

impl Search {
    /// Everything, as the page begins.
    const fn all() -> Self {
        Self {
            q: String::new(),
            order: Order::Latest,
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
        order: order.of_jobs(),
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

#[get("/")]
async fn page(
    request: HttpRequest,
    shop: web::Data<Shop>,
    search: web::Query<Search>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let (search, unit) = (search.into_inner(), reader.0);
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

#[derive(MultipartForm)]
struct Upload {
    #[multipart(rename = "file", limit = "65 MiB")]
    files: Vec<TempFile>,
    /// `ppi`, `fit` or `width`.
    arrive: Option<Text<String>>,
    fit_width: Option<Text<String>>,
    fit_height: Option<Text<String>>,
    arrive_width: Option<Text<String>>,
}

/// The finished size of a picture as it arrives.
#[derive(Clone, Copy)]
enum Arrival {
    /// By the pixels per inch that its file states.
    Stated,
    /// As large as fits.
    Fit(Mm, Mm),
    /// So wide.
    Wide(Mm),
}

impl Arrival {
    fn of(form: &Upload, unit: Unit) -> Result<Self, WebError> {
        let length = |text: &Option<Text<String>>| {
            let text = text.as_ref().map_or("", |t| t.0.as_str());
            match parse_length(text, unit) {
                Ok(Length::Mm(mm)) if limits::SIDE_MM.contains(&mm) => Ok(Mm::new(mm)),
                Ok(_) => Err("a size on arrival is a length between 1 mm and 20 m".to_owned()),
                Err(e) => Err(e.to_string()),
            }
            .map_err(|message| WebError::Field {
                field: "file",
                message,
            })
        };
        Ok(match form.arrive.as_ref().map(|t| t.0.as_str()) {
            Some("fit") => Self::Fit(length(&form.fit_width)?, length(&form.fit_height)?),
            Some("width") => Self::Wide(length(&form.arrive_width)?),
            _ => Self::Stated,
        })
    }

    /// The size of a picture of so many px.
    fn size(self, (w, h): (u32, u32), stated: Option<f64>) -> Size {
        let size = Size::at_ppi(w, h, stated.unwrap_or(DEFAULT_PPI));
        match self {
            Self::Stated => size,
            Self::Wide(width) => size.with_width(width, w, h),
            Self::Fit(width, height) => {
                let by_width = size.with_width(width, w, h);
                if by_width.height.get() <= height.get() {
                    by_width
                } else {
                    size.with_height(height, w, h)
                }
            }
        }
    }
}

/// Makes one job of one file.
fn bring_in(
    store: &Store,
    (name, bytes): (&str, &[u8]),
    arrival: Arrival,
    person: &Person,
    stop: &Stop,
) -> Result<JobId, WebError> {
    let artwork = picture::read_until(bytes, stop)?;
    let size_px = (artwork.picture.width(), artwork.picture.height());
    let size = arrival.size(size_px, artwork.ppi);
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
        by: &person.name,
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
    reader: Reader,
    person: Person,
) -> Result<HttpResponse, WebError> {
    let form = form.into_inner();
    let arrival = Arrival::of(&form, reader.0)?;
    let files = form.files;
    if files.is_empty() || files.iter().all(|f| f.size == 0) {
        return Err(ReadError::Empty.into());
    }
    let (store, by) = (shop.store.clone(), person.clone());
    let made: Vec<JobId> = shop
        .workshop
        .arrive(&person, move |stages, stop| {
            let mut made = Vec::new();
            for file in &files {
                let name = file
                    .file_name
                    .clone()
                    .unwrap_or_else(|| "pasted.png".to_owned());
                let bytes = std::fs::read(file.file.path())
                    .map_err(|e| WebError::Internal(e.to_string()))?;
                let brought = bring_in(&store, (&name, &bytes), arrival, &by, stop);
                let brought = brought.and_then(|job| {
                    if vector::is_vector(&bytes) {
                        vectors::take_outlines(&store, stages, (job, &by), &bytes, stop)?;
                    }
                    Ok(job)
                });
                let job = brought.map_err(|e| match e {
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
    super::bin::routes(config);
    config
        .service(page)
        .service(create)
        .service(demo)
        .service(duplicate)
        .service(delete)
        .service(restore)
        .service(looked_at)
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
    fn a_picture_arrives_as_large_as_fits() {
        let mm = |size: Size| (size.width.get().round(), size.height.get().round());
        let fit = Arrival::Fit(Mm::new(600.0), Mm::new(300.0));
        assert_eq!(mm(fit.size((200, 100), None)), (600.0, 300.0));
        assert_eq!(mm(fit.size((200, 200), None)), (300.0, 300.0));
        assert_eq!(mm(fit.size((400, 100), None)), (600.0, 150.0));
        assert_eq!(
            mm(Arrival::Wide(Mm::new(80.0)).size((200, 100), None)),
            (80.0, 40.0)
        );
        assert_eq!(
            mm(Arrival::Stated.size((254, 127), Some(254.0))),
            (25.0, 13.0)
        );
    }

    #[test]
    fn a_one_pixel_picture_gets_a_size_that_can_be_made() {
        let size = fitting(Size::at_ppi(1, 3, 96.0));
        assert!((size.width.get() - 1.0).abs() < 1e-9 && (size.height.get() - 3.0).abs() < 1e-9);
    }
}
