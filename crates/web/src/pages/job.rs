//! The job page: its ticket line by line, and every choice, tried or kept.

use std::sync::Arc;

use actix_web::{HttpRequest, HttpResponse, Responder, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::material::Material;
use inky_core::recipe::Recipe;
use inky_core::stop::Stop;
use inky_core::units::Unit;
use inky_store::{History, Job, JobFilter, JobId, Store};
use serde::Deserialize;

use crate::Shop;
use crate::error::WebError;
use crate::pages::change::name_of_change;
use crate::pages::choices::Choices;
use crate::pages::saving;
use crate::pages::stocked;
use crate::pages::units::Reader;
use crate::view::{Line, LineBody, Ticket, same_controls, ticket};
use crate::workshop::{Laid, Outcome, Wanted};

#[derive(Template, WebTemplate)]
#[template(path = "job/page.html")]
struct JobPage {
    t: Ticket,
    swap: bool,
    reshaped: bool,
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
    reshaped: bool,
}

/// What the checks say, for a page whose edit was answered before they were done.
#[derive(Template, WebTemplate)]
#[template(path = "job/_late.html")]
struct Late {
    t: Ticket,
    swap: bool,
}

/// What a ticket is made of: the outcome of its recipe, one to compare it with, and its sheets.
#[derive(Clone, Copy)]
pub(crate) struct Results<'a> {
    pub(crate) outcome: &'a Outcome,
    pub(crate) beside: Option<&'a Outcome>,
    /// Not for quick answers.
    pub(crate) laid: Option<&'a Laid>,
}

pub(crate) struct Loaded {
    pub(crate) job: Job,
    history: History,
    pub(crate) recipe: Recipe,
    /// The shop's materials that are offered.
    materials: Vec<Material>,
    /// Number, title and client of other jobs, the latest first.
    others: Vec<(JobId, String, String)>,
}

/// Other jobs that are offered for a sheet.
const OTHERS: usize = 200;

impl Loaded {
    /// The ticket of a recipe, in force or tried, with its outcome.
    pub(crate) fn ticket(
        &self,
        recipe: &Recipe,
        results: Results<'_>,
        line: Line,
        unit: Unit,
    ) -> Ticket {
        let around = (
            self.materials.as_slice(),
            self.others.as_slice(),
            results.laid,
        );
        let own = (&self.job, &self.history);
        let mut ticket = ticket(own, around, recipe, results.outcome, line, unit);
        ticket.compare_with(results.beside, unit);
        ticket
    }
}

pub(crate) fn load(store: &Store, id: JobId) -> Result<Loaded, WebError> {
    let others = store.jobs(&JobFilter::default())?.into_iter();
    Ok(Loaded {
        others: others
            .filter(|j| j.id != id)
            .take(OTHERS)
            .map(|j| (j.id, j.details.title, j.details.client))
            .collect(),
        job: store.job(id)?,
        history: store.history(id)?,
        recipe: saving::recipe(store, id)?,
        materials: stocked::all(store)?
            .into_iter()
            .filter(|m| !m.retired)
            .map(|m| m.material)
            .collect(),
    })
}

pub(crate) async fn loaded(shop: &web::Data<Shop>, id: JobId) -> Result<Loaded, WebError> {
    let shop = shop.clone();
    web::block(move || load(&shop.store, id)).await?
}

pub(crate) async fn show(
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
    let beside = remembered(shop, id).await?;
    let laid = laid(shop, id, &now.recipe, &outcome).await?;
    let results = Results {
        outcome: &outcome,
        beside: beside.as_deref(),
        laid: Some(&laid),
    };
    Ok(now.ticket(&now.recipe, results, line, unit))
}

/// The sheets of a recipe and its outcome.
pub(crate) async fn laid(
    shop: &web::Data<Shop>,
    id: JobId,
    recipe: &Recipe,
    outcome: &Arc<Outcome>,
) -> Result<Arc<Laid>, WebError> {
    let outcome = Arc::clone(outcome);
    shop.workshop.laid(id, recipe.clone(), outcome).await
}

/// Kind under which the recipe of a remembered result is kept.
const REMEMBERED: &str = "remembered";

/// The recipe that was remembered to compare others with.
pub(crate) async fn remembered_recipe(
    shop: &web::Data<Shop>,
    id: JobId,
) -> Result<Option<Recipe>, WebError> {
    let store = shop.store.clone();
    let kept = web::block(move || store.result(id, REMEMBERED, REMEMBERED)).await??;
    Ok(kept.and_then(|json| serde_json::from_slice(&json).ok()))
}

/// The result that was remembered.
pub(crate) async fn remembered(
    shop: &web::Data<Shop>,
    id: JobId,
) -> Result<Option<Arc<Outcome>>, WebError> {
    let Some(recipe) = remembered_recipe(shop, id).await? else {
        return Ok(None);
    };
    // Of an artwork that was replaced since there may be none.
    let made = shop
        .workshop
        .run(move |stages| stages.outcome(id, &recipe, false, &Stop::new()))
        .await;
    Ok(made.ok())
}

/// Keeps a recipe to compare others with, or forgets the one that is kept.
async fn remember_recipe(
    shop: &web::Data<Shop>,
    job: JobId,
    recipe: Option<&Recipe>,
) -> Result<(), WebError> {
    let json = recipe
        .map(serde_json::to_vec)
        .transpose()?
        .unwrap_or_default();
    let store = shop.store.clone();
    web::block(move || store.keep_result(job, REMEMBERED, REMEMBERED, &json)).await??;
    Ok(())
}

/// Adds a step from one recipe to another, and reads the job again.
pub(crate) async fn stepped(
    shop: &web::Data<Shop>,
    at: (JobId, i64),
    name: String,
    (old, new): (Recipe, Recipe),
) -> Result<Loaded, WebError> {
    let store = shop.store.clone();
    web::block(move || {
        saving::add_step(&store, at, &name, (&old, &new))?;
        load(&store, at.0)
    })
    .await?
}

/// Remembers the result in force, or forgets the one remembered.
#[post("/jobs/{id}/remember")]
async fn remember(
    request: HttpRequest,
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    form: web::Form<Move>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let now = loaded(&shop, *id).await?;
    let job = *id;
    let forget = remembered(&shop, job).await?.is_some();
    remember_recipe(&shop, job, (!forget).then_some(&now.recipe)).await?;
    let line = Line::from_slug(&form.line).unwrap_or(Line::Trace);
    let t = show(&shop, job, line, reader.0).await?;
    Ok(answer(&request, t, true, false))
}

#[get("/jobs/{id}/late")]
async fn late(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    reader: Reader,
) -> Result<Late, WebError> {
    let t = show(&shop, *id, Line::Tidy, reader.0).await?;
    Ok(Late { t, swap: true })
}

#[get("/jobs/{id}")]
async fn first(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    reader: Reader,
) -> Result<JobPage, WebError> {
    Ok(JobPage {
        t: show(&shop, *id, Line::Trace, reader.0).await?,
        swap: false,
        reshaped: true,
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
        Opened {
            t,
            swap: false,
            reshaped: true,
        }
        .respond_to(&request)
        .map_into_boxed_body()
    } else {
        JobPage {
            t,
            swap: false,
            reshaped: true,
        }
        .respond_to(&request)
        .map_into_boxed_body()
    })
}

/// Answers with what changed, and tells the bench which result to draw.
pub(crate) fn answer(request: &HttpRequest, t: Ticket, kept: bool, reshaped: bool) -> HttpResponse {
    let traced = serde_json::json!({ "traced": {
        "key": t.key, "solid": t.solid_key, "width": t.width_mm, "height": t.height_mm,
        "cleaned": t.cleaned_key, "frame": t.frame, "remembered": t.remembered, "shown": t.shown,
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
    let mut recipe = form.apply(&now.recipe, &now.job, unit)?;
    saving::carry_edits(&now.recipe, &mut recipe);
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
        now.ticket(
            &recipe,
            Results {
                outcome: &outcome,
                beside: remembered(&shop, *id).await?.as_deref(),
                laid: None,
            },
            form.line(),
            reader.0,
        ),
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
    // Edits that a new trace sets aside are kept beside it.
    let aside = now.recipe.tidy.is_some() && recipe.tidy.is_none();
    if aside {
        remember_recipe(&shop, *id, Some(&now.recipe)).await?;
    }
    let beside = remembered(&shop, *id).await?;
    let laid = laid(&shop, *id, &recipe, &outcome).await?;
    let both = Results {
        outcome: &outcome,
        beside: beside.as_deref(),
        laid: Some(&laid),
    };
    let reshaped = aside || !same_controls(&now.recipe, &recipe);
    let Some(name) = name_of_change(&now.recipe, &recipe, reader.0) else {
        return Ok(answer(
            &request,
            now.ticket(&recipe, both, form.line(), reader.0),
            true,
            reshaped,
        ));
    };
    let name = if aside {
        format!("{name}, edits set aside")
    } else {
        name
    };
    let after = stepped(
        &shop,
        (*id, form.revision),
        name,
        (now.recipe, recipe.clone()),
    )
    .await?;
    Ok(answer(
        &request,
        after.ticket(&recipe, both, form.line(), reader.0),
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
    // The tools of Tidy are the same whatever was edited, and what is picked stays picked.
    let reshaped = line != Line::Tidy;
    let ticket = show(&shop, id, line, unit).await?;
    Ok(answer(&request, ticket, true, reshaped))
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
        .service(remember)
        .service(late)
        .service(one_line);
}
