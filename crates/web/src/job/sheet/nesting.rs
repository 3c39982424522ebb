//! Nesting in the background: begun, looked at while it goes on, stopped, and kept as a step.

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use actix_web::{HttpResponse, get, post, web};
use inky_core::recipe::Recipe;
use inky_core::sheet::choice::{Arrange, Placed, SheetChoice};
use inky_core::sheet::{Load, lay, nested};
use inky_core::stop::Stop;
use inky_store::JobId;
use serde::{Deserialize, Serialize};

use crate::Shop;
use crate::error::{WebError, wrong};
use crate::job::line::Line;
use crate::job::request::JobRequest;

/// Longest search for one sheet unless it is stopped.
const LONGEST: Duration = Duration::from_secs(20);
/// How often the parts of one sheet are pushed together at most.
const TRIES: usize = 4000;
/// Searches that run at once.
const AT_ONCE: usize = 2;

/// What is told of a search.
#[derive(Clone, Debug, Default, Serialize)]
struct Told {
    /// Part that is done, 0 to 1.
    part: f64,
    done: bool,
    /// Sheet that is worked on.
    sheet: String,
    /// Length used, mm, and part of it covered.
    length: f64,
    covered: f64,
    /// How many better arrangements were found.
    better: usize,
}

struct Search {
    stop: Stop,
    told: Told,
    /// What it is a search for: a later choice makes it worthless.
    choice: SheetChoice,
    placed: Vec<Placed>,
}

/// Searches that run or wait to be kept, by job.
#[derive(Clone, Default)]
pub(crate) struct Searches(Arc<Mutex<BTreeMap<JobId, Search>>>);

impl Searches {
    fn with<T>(&self, job: JobId, f: impl FnOnce(&mut Search) -> T) -> Option<T> {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        all.get_mut(&job).map(f)
    }

    fn begin(&self, job: JobId, choice: SheetChoice) -> Result<Stop, WebError> {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(older) = all.remove(&job) {
            older.stop.set();
        }
        if all.values().filter(|s| !s.told.done).count() >= AT_ONCE {
            return Err(WebError::Busy);
        }
        let stop = Stop::new();
        all.insert(
            job,
            Search {
                stop: stop.clone(),
                told: Told::default(),
                choice,
                placed: Vec::new(),
            },
        );
        Ok(stop)
    }

    fn take(&self, job: JobId) -> Option<Search> {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        all.remove(&job)
    }
}

/// Searches sheet by sheet; what is found goes into the job's search as long as it is this one.
fn search(searches: &Searches, job: JobId, loads: &[Load], choice: &SheetChoice, stop: &Stop) {
    for (n, load) in loads.iter().enumerate() {
        let until = Instant::now() + LONGEST;
        let started = Instant::now();
        let enough = Stop::new();
        let placed = nested(load, choice, TRIES, &enough, &mut |progress| {
            let time = started.elapsed().as_secs_f64() / LONGEST.as_secs_f64();
            let part = (n as f64 + progress.part.max(time).min(1.0)) / loads.len() as f64;
            let figures = progress.spots.as_ref().map(|spots| {
                let kept = SheetChoice {
                    placed: vec![Placed {
                        sheet: load.name.clone(),
                        spots: spots.clone(),
                        sizes: Vec::new(),
                    }],
                    weed_box: None,
                    relief: None,
                    ..choice.clone()
                };
                let sheet = lay(load, &kept);
                (sheet.left.used_length, sheet.yield_())
            });
            searches.with(job, |s| {
                s.told.part = part;
                s.told.sheet.clone_from(&load.name);
                if let Some((length, covered)) = figures {
                    (s.told.length, s.told.covered) = (length, covered);
                    s.told.better += 1;
                }
            });
            // What there is by now is polished and kept.
            if Instant::now() > until || stop.check().is_err() {
                enough.set();
            }
        });
        searches.with(job, |s| s.placed.push(placed));
    }
    searches.with(job, |s| {
        s.told.done = true;
        s.told.part = 1.0;
    });
}

/// What a search for a recipe's sheets is asked for.
fn to_nest(recipe: &Recipe) -> SheetChoice {
    SheetChoice {
        arrange: Arrange::Nested,
        ..recipe.sheet.laid_anew()
    }
}

#[post("/jobs/{id}/nest")]
async fn begin(asked: JobRequest) -> Result<HttpResponse, WebError> {
    let (_, base) = asked.base().await?;
    let choice = to_nest(&base.recipe);
    let loads: Vec<Load> = base.laid.sheets.iter().map(|s| s.load.clone()).collect();
    if loads.is_empty() {
        return Err(wrong(
            "sheet",
            "there is nothing to nest; switch a layer on",
        ));
    }
    let id = asked.id;
    let stop = asked.shop.searches.begin(id, choice.clone())?;
    let searches = asked.shop.searches.clone();
    std::thread::spawn(move || search(&searches, id, &loads, &choice, &stop));
    Ok(HttpResponse::Accepted().finish())
}

#[get("/jobs/{id}/nest.json")]
async fn look(shop: web::Data<Shop>, id: web::Path<JobId>) -> Result<HttpResponse, WebError> {
    // Nothing where no search runs or waits to be kept.
    Ok(HttpResponse::Ok().json(shop.searches.with(*id, |s| s.told.clone())))
}

/// The search ends soon, with the best so far.
#[post("/jobs/{id}/nest/stop")]
async fn end(shop: web::Data<Shop>, id: web::Path<JobId>) -> Result<HttpResponse, WebError> {
    shop.searches
        .with(*id, |s| s.stop.set())
        .ok_or(WebError::Gone)?;
    Ok(HttpResponse::NoContent().finish())
}

#[derive(Deserialize)]
struct Revision {
    revision: i64,
}

/// Keeps what a search found as a step.
#[post("/jobs/{id}/nested")]
async fn done(asked: JobRequest, form: web::Form<Revision>) -> Result<HttpResponse, WebError> {
    let found = asked.shop.searches.take(asked.id).ok_or(WebError::Gone)?;
    asked
        .change(form.revision, Line::Sheet, move |_, base| {
            let mut recipe = base.recipe;
            if to_nest(&recipe) != found.choice {
                return Err(wrong(
                    "sheet",
                    "the sheet was changed while it was nested; nest it again",
                ));
            }
            recipe.sheet = SheetChoice {
                placed: found.placed,
                ..found.choice
            };
            Ok((recipe, "Nested".to_owned()))
        })
        .await
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(begin)
        .service(look)
        .service(end)
        .service(done);
}
