//! A request about one job: who asks, what the job is now, and the answer that every line of the ticket
//! gives.

use std::future::{Ready, ready};
use std::sync::Arc;

use actix_web::dev::Payload;
use actix_web::{FromRequest, HttpRequest, HttpResponse, Responder, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::recipe::Recipe;
use inky_core::stop::Stop;
use inky_core::tidy::DrawingData;
use inky_core::units::Unit;
use inky_store::{JobId, StoreError};

use crate::Shop;
use crate::door::Person;
use crate::error::WebError;
use crate::job::body::LineBody;
use crate::job::line::Line;
use crate::job::now::{Now, Results};
use crate::job::saving;
use crate::job::ticket::Ticket;
use crate::jobs::state::Found;
use crate::reader::Reader;
use crate::workshop::{Laid, Outcome, Stages, Wanted};

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

/// How far an answer goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Answer {
    /// While a control moves: nothing is a step, sheets are not laid.
    Preview,
    /// After an edit: checks and sheets are asked for by the page afterwards.
    Edited,
    /// A step, with the controls left alone.
    Kept,
    /// A step that needs other controls.
    Reshaped,
}

/// What a change is made on.
pub(crate) struct Base {
    pub(crate) recipe: Recipe,
    pub(crate) outcome: Arc<Outcome>,
    pub(crate) laid: Arc<Laid>,
    pub(crate) unit: Unit,
}

/// A request about a job.
#[derive(Clone)]
pub(crate) struct JobRequest {
    http: HttpRequest,
    pub(crate) shop: web::Data<Shop>,
    pub(crate) id: JobId,
    pub(crate) unit: Unit,
    pub(crate) person: Person,
}

impl FromRequest for JobRequest {
    type Error = actix_web::Error;
    type Future = Ready<Result<Self, Self::Error>>;

    fn from_request(http: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let id = http.match_info().get("id").and_then(|id| id.parse().ok());
        let (Some(id), Some(shop)) = (id, http.app_data::<web::Data<Shop>>()) else {
            return ready(Err(WebError::NoPage.into()));
        };
        let reader = Reader::from_request(http, payload).into_inner();
        let person = Person::from_request(http, payload).into_inner();
        ready(reader.and_then(|Reader(unit)| {
            Ok(Self {
                http: http.clone(),
                shop: shop.clone(),
                id,
                unit,
                person: person?,
            })
        }))
    }
}

impl JobRequest {
    /// The job as it is now.
    pub(crate) async fn now(&self) -> Result<Now, WebError> {
        let (shop, id) = (self.shop.clone(), self.id);
        web::block(move || Now::load(&shop.store, id)).await?
    }

    /// The job as it is now, where that is what the page shows: a page that is out of date is told so
    /// before anything is computed for it.
    pub(crate) async fn now_at(&self, revision: i64) -> Result<Now, WebError> {
        let now = self.now().await?;
        if now.job.revision == revision {
            Ok(now)
        } else {
            Err(StoreError::Stale.into())
        }
    }

    /// Runs `f` on a thread of the workshop.
    pub(crate) async fn run<T: Send + 'static>(
        &self,
        f: impl FnOnce(&Stages) -> Result<T, WebError> + Send + 'static,
    ) -> Result<T, WebError> {
        self.shop.workshop.run(&self.person, f).await
    }

    /// What a recipe gives for this job.
    pub(crate) async fn outcome(
        &self,
        recipe: &Recipe,
        wanted: Wanted,
    ) -> Result<Arc<Outcome>, WebError> {
        let workshop = &self.shop.workshop;
        let trace = workshop.trace(&self.person, self.id, recipe.clone(), wanted);
        trace.await
    }

    /// The sheets of a recipe and its outcome.
    pub(crate) async fn laid(
        &self,
        recipe: &Recipe,
        outcome: &Arc<Outcome>,
    ) -> Result<Arc<Laid>, WebError> {
        let outcome = Arc::clone(outcome);
        let workshop = &self.shop.workshop;
        let laid = workshop.laid(&self.person, self.id, recipe.clone(), outcome);
        laid.await
    }

    /// The job with its outcome and its sheets.
    pub(crate) async fn base(&self) -> Result<(Now, Base), WebError> {
        let now = self.now().await?;
        let base = self.base_of(&now).await?;
        Ok((now, base))
    }

    async fn base_of(&self, now: &Now) -> Result<Base, WebError> {
        let outcome = self.outcome(&now.recipe, Wanted::Kept).await?;
        let laid = self.laid(&now.recipe, &outcome).await?;
        self.note(now, &outcome).await?;
        Ok(Base {
            recipe: now.recipe.clone(),
            outcome,
            laid,
            unit: self.unit,
        })
    }

    /// Keeps what the job's card says of it. It is no more than told: a store that takes nothing just now
    /// stands in nobody's way.
    async fn note(&self, now: &Now, outcome: &Outcome) -> Result<(), WebError> {
        let Some(found) = Found::of(outcome) else {
            return Ok(());
        };
        let (store, id, revision) = (self.shop.store.clone(), self.id, now.job.revision);
        let kept = web::block(move || found.keep(&store, id, revision)).await?;
        if let Err(error) = kept {
            tracing::warn!(job = id, %error, "what the checks found was not kept");
        }
        Ok(())
    }

    /// The ticket as it is now, with a line open.
    pub(crate) async fn ticket(&self, line: Line) -> Result<Ticket, WebError> {
        let (now, base) = self.base().await?;
        let beside = self.remembered().await?;
        let results = Results {
            outcome: &base.outcome,
            beside: beside.as_deref(),
            laid: Some(&base.laid),
        };
        Ok(now.ticket(&base.recipe, results, line, self.unit))
    }

    /// Changes the recipe in the workshop, keeps it as a step, and answers with what changed. `change`
    /// gives the new recipe and the name of the step; what cannot be made never becomes a step.
    pub(crate) async fn change(
        &self,
        revision: i64,
        line: Line,
        change: impl FnOnce(&Stages, Base) -> Result<(Recipe, String), WebError> + Send + 'static,
    ) -> Result<HttpResponse, WebError> {
        let now = self.now_at(revision).await?;
        let base = self.base_of(&now).await?;
        let before = Arc::clone(&base.outcome);
        let (recipe, name) = self.run(move |stages| change(stages, base)).await?;
        if recipe == now.recipe {
            return self
                .answer(&now, (&recipe, &before), line, Answer::Reshaped)
                .await;
        }
        self.keep(revision, (now.recipe, recipe), (name, line))
            .await
    }

    /// Keeps a recipe as a step and answers with what changed.
    pub(crate) async fn keep(
        &self,
        revision: i64,
        (old, mut new): (Recipe, Recipe),
        (name, line): (String, Line),
    ) -> Result<HttpResponse, WebError> {
        self.keep_first(&old, &mut new).await?;
        let outcome = self.outcome(&new, Wanted::Kept).await?;
        let after = self.step(revision, name, (old, new.clone())).await?;
        self.answer(&after, (&new, &outcome), line, Answer::Reshaped)
            .await
    }

    /// Keeps the traced drawing with the first edit of it, so that edits find the shapes they name.
    pub(crate) async fn keep_first(&self, old: &Recipe, new: &mut Recipe) -> Result<(), WebError> {
        let Some(tidy) = new.tidy.as_mut().filter(|_| old.tidy.is_none()) else {
            return Ok(());
        };
        let before = self.outcome(old, Wanted::Edited).await?;
        let store = self.shop.store.clone();
        let data = DrawingData::of(&before.drawing());
        let kept = web::block(move || saving::keep_traced(&store, &data)).await??;
        tidy.kept = Some(kept);
        Ok(())
    }

    /// Adds a step from one recipe to another, and reads the job again.
    pub(crate) async fn step(
        &self,
        revision: i64,
        name: String,
        (old, new): (Recipe, Recipe),
    ) -> Result<Now, WebError> {
        let (store, id, person) = (self.shop.store.clone(), self.id, self.person.clone());
        web::block(move || {
            let named = (name.as_str(), &person);
            saving::add_step(&store, (id, revision), named, (&old, &new))?;
            Now::load(&store, id)
        })
        .await?
    }

    /// Answers with what changed, and tells the bench which result to draw.
    pub(crate) async fn answer(
        &self,
        now: &Now,
        (recipe, outcome): (&Recipe, &Arc<Outcome>),
        line: Line,
        how: Answer,
    ) -> Result<HttpResponse, WebError> {
        let beside = self.remembered().await?;
        let laid = match how {
            Answer::Preview | Answer::Edited => None,
            Answer::Kept | Answer::Reshaped => {
                self.note(now, outcome).await?;
                Some(self.laid(recipe, outcome).await?)
            }
        };
        let results = Results {
            outcome,
            beside: beside.as_deref(),
            laid: laid.as_deref(),
        };
        let ticket = now.ticket(recipe, results, line, self.unit);
        Ok(self.update(ticket, how))
    }

    /// The ticket as it is now, with a line open, in the place of what the page shows.
    pub(crate) async fn shown(&self, line: Line, how: Answer) -> Result<HttpResponse, WebError> {
        Ok(self.update(self.ticket(line).await?, how))
    }

    /// Answers with a ticket in the place of what the page shows.
    pub(crate) fn update(&self, mut t: Ticket, how: Answer) -> HttpResponse {
        if how != Answer::Preview {
            t.tell_step();
        }
        let traced = serde_json::json!({ "traced": {
            "key": t.key, "solid": t.solid_key, "width": t.width_mm, "height": t.height_mm,
            "cleaned": t.cleaned_key, "frame": t.frame, "remembered": t.remembered, "shown": t.shown,
        }});
        let update = Update {
            t,
            swap: true,
            kept: how != Answer::Preview,
            reshaped: how == Answer::Reshaped,
        };
        let mut response = update.respond_to(&self.http).map_into_boxed_body();
        if let Ok(value) = traced.to_string().parse() {
            let name = actix_web::http::header::HeaderName::from_static("hx-trigger");
            response.headers_mut().insert(name, value);
        }
        response
    }

    /// Whether a script asks for a part of the page.
    pub(crate) fn is_htmx(&self) -> bool {
        self.http.headers().contains_key("HX-Request")
    }

    /// A whole page, or a part of one.
    pub(crate) fn page(&self, page: impl Responder) -> HttpResponse {
        page.respond_to(&self.http).map_into_boxed_body()
    }

    /// The result that was remembered to compare others with.
    pub(crate) async fn remembered(&self) -> Result<Option<Arc<Outcome>>, WebError> {
        let (store, id) = (self.shop.store.clone(), self.id);
        let kept = web::block(move || saving::remembered(&store, id)).await??;
        let Some(recipe) = kept else { return Ok(None) };
        // Of an artwork that was replaced since there may be none.
        let made = self
            .run(move |stages| stages.outcome(id, &recipe, false, &Stop::new()))
            .await;
        Ok(made.ok())
    }

    /// Keeps a recipe to compare others with, or forgets the one that is kept.
    pub(crate) async fn remember(&self, recipe: Option<Recipe>) -> Result<(), WebError> {
        let (store, id) = (self.shop.store.clone(), self.id);
        web::block(move || saving::remember(&store, id, recipe.as_ref())).await?
    }
}
