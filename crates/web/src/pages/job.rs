//! The job page: its ticket line by line, and every choice, tried or kept.

use std::sync::Arc;

use actix_web::{HttpRequest, HttpResponse, Responder, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::recipe::Recipe;
use inky_core::units::Unit;
use inky_store::{History, Job, JobId, Store};
use serde::Deserialize;

use crate::Shop;
use crate::error::WebError;
use crate::pages::choices::{Choices, name_of_change};
use crate::pages::units::Reader;
use crate::view::{Line, LineBody, Ticket, same_controls, ticket};
use crate::workshop::{Outcome, Wanted};

#[derive(Template, WebTemplate)]
#[template(path = "job/page.html")]
struct Page {
    t: Ticket,
    swap: bool,
}

/// What changes on the page after a choice. Controls are left alone, so that nobody's typing is
/// lost; only where others are needed (`reshaped`) are they drawn anew.
#[derive(Template, WebTemplate)]
#[template(path = "job/_update.html")]
struct Update {
    t: Ticket,
    swap: bool,
    /// Whether this is a step now; a preview says nothing of history or revision.
    kept: bool,
    reshaped: bool,
}

/// The whole ticket, for opening another line.
#[derive(Template, WebTemplate)]
#[template(path = "job/_opened.html")]
struct Opened {
    t: Ticket,
    swap: bool,
}

struct Loaded {
    job: Job,
    history: History,
    recipe: Recipe,
}

impl Loaded {
    /// The ticket of a recipe, in force or tried, with its outcome.
    fn ticket(&self, recipe: &Recipe, outcome: &Outcome, line: Line, unit: Unit) -> Ticket {
        ticket(&self.job, &self.history, recipe, outcome, line, unit)
    }
}

fn load(store: &Store, id: JobId) -> Result<Loaded, WebError> {
    let recipe = serde_json::from_str(&store.step(id)?.recipe)?;
    Ok(Loaded {
        job: store.job(id)?,
        history: store.history(id)?,
        recipe,
    })
}

async fn loaded(shop: &web::Data<Shop>, id: JobId) -> Result<Loaded, WebError> {
    let shop = shop.clone();
    web::block(move || load(&shop.store, id)).await?
}

async fn show(
    shop: &web::Data<Shop>,
    id: JobId,
    line: Line,
    unit: Unit,
) -> Result<Ticket, WebError> {
    let now = loaded(shop, id).await?;
    let outcome = shop
        .workshop
        .trace(id, now.recipe.clone(), Wanted::Kept)
        .await?;
    Ok(ticket(
        &now.job,
        &now.history,
        &now.recipe,
        &outcome,
        line,
        unit,
    ))
}

#[get("/jobs/{id}")]
async fn first(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    reader: Reader,
) -> Result<Page, WebError> {
    Ok(Page {
        t: show(&shop, *id, Line::Trace, reader.0).await?,
        swap: false,
    })
}

#[get("/jobs/{id}/{line}")]
async fn one_line(
    request: HttpRequest,
    shop: web::Data<Shop>,
    path: web::Path<(JobId, String)>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let (id, slug) = path.into_inner();
    let line = Line::from_slug(&slug).ok_or(WebError::NoPage)?;
    let t = show(&shop, id, line, reader.0).await?;
    Ok(if request.headers().contains_key("HX-Request") {
        Opened { t, swap: false }
            .respond_to(&request)
            .map_into_boxed_body()
    } else {
        Page { t, swap: false }
            .respond_to(&request)
            .map_into_boxed_body()
    })
}

/// Answers with what changed, and tells the bench which result to draw.
fn answer(request: &HttpRequest, t: Ticket, kept: bool, reshaped: bool) -> HttpResponse {
    let traced = serde_json::json!({ "traced": {
        "key": t.key, "solid": t.solid_key, "width": t.width_mm, "height": t.height_mm,
        "shown": t.shown,
    }});
    let mut response = Update {
        t,
        swap: true,
        kept,
        reshaped,
    }
    .respond_to(request)
    .map_into_boxed_body();
    if let Ok(value) = traced.to_string().parse() {
        response.headers_mut().insert(
            actix_web::http::header::HeaderName::from_static("hx-trigger"),
            value,
        );
    }
    response
}

/// The job as it is, its recipe with the form's choices, and what that gives.
async fn tried(
    shop: &web::Data<Shop>,
    id: JobId,
    form: &Choices,
    unit: Unit,
    wanted: Wanted,
) -> Result<(Loaded, Recipe, Arc<Outcome>), WebError> {
    let now = loaded(shop, id).await?;
    let recipe = form.apply(&now.recipe, &now.job, unit)?;
    let outcome = shop.workshop.trace(id, recipe.clone(), wanted).await?;
    Ok((now, recipe, outcome))
}

#[post("/jobs/{id}/try")]
async fn preview(
    request: HttpRequest,
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    form: web::Form<Choices>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let (now, recipe, outcome) = tried(&shop, *id, &form, reader.0, Wanted::Preview).await?;
    Ok(answer(
        &request,
        now.ticket(&recipe, &outcome, form.line(), reader.0),
        false,
        false,
    ))
}

#[post("/jobs/{id}/choose")]
async fn choose(
    request: HttpRequest,
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    form: web::Form<Choices>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    // Traced before it is stored: a recipe that cannot be traced never becomes a step.
    let (now, recipe, outcome) = tried(&shop, *id, &form, reader.0, Wanted::Kept).await?;
    let reshaped = !same_controls(&now.recipe, &recipe);
    let Some(name) = name_of_change(&now.recipe, &recipe, reader.0) else {
        return Ok(answer(
            &request,
            now.ticket(&recipe, &outcome, form.line(), reader.0),
            true,
            false,
        ));
    };
    let (revision, json) = (form.revision, serde_json::to_string(&recipe)?);
    let job = *id;
    let store = shop.store.clone();
    let after = web::block(move || {
        store.add_step(job, revision, &name, &json)?;
        load(&store, job)
    })
    .await??;
    Ok(answer(
        &request,
        after.ticket(&recipe, &outcome, form.line(), reader.0),
        true,
        reshaped,
    ))
}

#[derive(Deserialize)]
struct Move {
    revision: i64,
    #[serde(default)]
    line: String,
}

async fn moved(
    request: HttpRequest,
    shop: web::Data<Shop>,
    id: JobId,
    form: Move,
    by: i64,
    unit: Unit,
) -> Result<HttpResponse, WebError> {
    let store = shop.store.clone();
    web::block(move || store.move_step(id, form.revision, by)).await??;
    let line = Line::from_slug(&form.line).unwrap_or(Line::Trace);
    Ok(answer(
        &request,
        show(&shop, id, line, unit).await?,
        true,
        true,
    ))
}

#[post("/jobs/{id}/undo")]
async fn undo(
    request: HttpRequest,
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    form: web::Form<Move>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    moved(request, shop, *id, form.into_inner(), -1, reader.0).await
}

#[post("/jobs/{id}/redo")]
async fn redo(
    request: HttpRequest,
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    form: web::Form<Move>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    moved(request, shop, *id, form.into_inner(), 1, reader.0).await
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(first)
        .service(preview)
        .service(choose)
        .service(undo)
        .service(redo)
        .service(one_line);
}
