//! The job page: its ticket line by line, and its history.

use actix_web::{HttpResponse, get, guard, post, web};
use askama::Template;
use askama_web::WebTemplate;
use serde::Deserialize;

use crate::error::WebError;
use crate::job::body::LineBody;
use crate::job::line::Line;
use crate::job::request::{Answer, JobRequest};
use crate::job::ticket::Ticket;

#[derive(Template, WebTemplate)]
#[template(path = "job/page.html")]
struct JobPage {
    t: Ticket,
    swap: bool,
    reshaped: bool,
}

impl JobPage {
    const fn of(t: Ticket) -> Self {
        Self {
            t,
            swap: false,
            reshaped: true,
        }
    }
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

#[get("/jobs/{id}")]
async fn first(asked: JobRequest) -> Result<JobPage, WebError> {
    Ok(JobPage::of(asked.ticket(Line::Trace).await?))
}

async fn one_line(
    asked: JobRequest,
    path: web::Path<(String, String)>,
) -> Result<HttpResponse, WebError> {
    let line = Line::from_slug(&path.1).ok_or(WebError::NoPage)?;
    let t = asked.ticket(line).await?;
    Ok(if asked.is_htmx() {
        asked.page(Opened {
            t,
            swap: false,
            reshaped: true,
        })
    } else {
        asked.page(JobPage::of(t))
    })
}

#[get("/jobs/{id}/late")]
async fn late(asked: JobRequest) -> Result<Late, WebError> {
    let t = asked.ticket(Line::Tidy).await?;
    Ok(Late { t, swap: true })
}

/// How far the result is that a page waits for.
#[get("/jobs/{id}/underway")]
async fn underway(asked: JobRequest) -> HttpResponse {
    match asked.shop.workshop.far(asked.id) {
        Some(far) => HttpResponse::Ok().json(far),
        None => HttpResponse::NoContent().finish(),
    }
}

/// A press of a button that says nothing but where it was pressed.
#[derive(Deserialize)]
struct Press {
    revision: i64,
    line: Line,
}

async fn moved(asked: JobRequest, form: Press, by: i64) -> Result<HttpResponse, WebError> {
    let (store, id) = (asked.shop.store.clone(), asked.id);
    web::block(move || store.move_step(id, form.revision, by)).await??;
    // The tools of Tidy are the same whatever was edited, and what is picked stays picked.
    let how = match form.line {
        Line::Tidy => Answer::Kept,
        _ => Answer::Reshaped,
    };
    let mut t = asked.ticket(form.line).await?;
    t.gone = if by < 0 {
        t.redo.as_ref().map(|step| format!("Taken back: {step}"))
    } else {
        t.undo.as_ref().map(|step| format!("Done again: {step}"))
    };
    Ok(asked.update(t, how))
}

#[post("/jobs/{id}/undo")]
async fn undo(asked: JobRequest, form: web::Form<Press>) -> Result<HttpResponse, WebError> {
    moved(asked, form.into_inner(), -1).await
}

#[post("/jobs/{id}/redo")]
async fn redo(asked: JobRequest, form: web::Form<Press>) -> Result<HttpResponse, WebError> {
    moved(asked, form.into_inner(), 1).await
}

/// Remembers the result in force, or forgets the one remembered.
#[post("/jobs/{id}/remember")]
async fn remember(asked: JobRequest, form: web::Form<Press>) -> Result<HttpResponse, WebError> {
    let forget = asked.remembered().await?.is_some();
    let recipe = asked.now().await?.recipe;
    asked.remember((!forget).then_some(recipe)).await?;
    asked.shown(form.line, Answer::Kept).await
}

/// The ticket's own addresses. The last of them would match many of the lines' own.
pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(first)
        .service(undo)
        .service(redo)
        .service(remember)
        .service(late)
        .service(underway)
        // A line alone: an address that only takes what is sent is none that there is not.
        .service(
            web::resource(Line::address())
                .guard(guard::Get())
                .to(one_line),
        );
}
