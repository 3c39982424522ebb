//! The Machines page: one machine open at a time, what it is at, what waits for it, what it did.

use actix_web::{HttpResponse, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_store::{MachineId, RunId};
use serde::Deserialize;

use crate::Shop;
use crate::error::{WebError, wrong};
use crate::machines::asked::{Added, ByHand};
use crate::machines::bench::{BenchAlone, MachinesPage, figures, page};
use crate::machines::gathered;
use crate::machines::kept;
use crate::machines::marks;
use crate::machines::pace;
use crate::machines::runs;
use crate::machines::shown::Figures;
use crate::machines::state::Run;
use crate::machines::tray;
use crate::reader::Reader;

#[derive(Template, WebTemplate)]
#[template(path = "machines/_figures.html")]
struct FiguresAlone {
    f: Figures,
}

#[get("/machines")]
async fn any(shop: web::Data<Shop>, reader: Reader) -> Result<MachinesPage, WebError> {
    web::block(move || page(&shop, None, reader.0)).await?
}

#[get("/machines/{id}")]
async fn opened(
    shop: web::Data<Shop>,
    id: web::Path<MachineId>,
    reader: Reader,
) -> Result<MachinesPage, WebError> {
    web::block(move || page(&shop, Some(*id), reader.0)).await?
}

/// Leads the browser to a machine.
pub(crate) fn to(machine: MachineId) -> HttpResponse {
    HttpResponse::NoContent()
        .insert_header(("HX-Redirect", format!("/machines/{machine}")))
        .finish()
}

#[post("/machines/new")]
async fn add(
    shop: web::Data<Shop>,
    form: web::Form<Added>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let machine = form.machine(reader.0)?;
    let body = serde_json::to_string(&machine)?;
    let id = web::block(move || shop.store.add_machine(&body)).await??;
    Ok(to(id))
}

#[post("/machines/{id}/remove")]
async fn remove(shop: web::Data<Shop>, id: web::Path<MachineId>) -> Result<HttpResponse, WebError> {
    let gone = web::block(move || shop.store.remove_machine(*id)).await??;
    if !gone {
        return Err(wrong("notice", "it has runs to do; leave them first"));
    }
    Ok(HttpResponse::NoContent()
        .insert_header(("HX-Redirect", "/machines"))
        .finish())
}

/// What is done to a simulated machine by hand.
#[post("/machines/{id}/hands")]
async fn by_hand(
    shop: web::Data<Shop>,
    id: web::Path<MachineId>,
    form: web::Form<ByHand>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let (hands, faults) = (form.hands()?, form.faults(reader.0)?);
    web::block(move || {
        let listed = kept::one(&shop.store, *id)?;
        let one = shop.simulated.of(&listed.machine);
        let one = one.ok_or(WebError::NoPage)?;
        *one.hands() = hands;
        one.set_faults(faults);
        Ok::<_, WebError>(())
    })
    .await??;
    Ok(HttpResponse::NoContent().finish())
}

#[get("/machines/{id}/bench")]
async fn bench_alone(
    shop: web::Data<Shop>,
    id: web::Path<MachineId>,
    reader: Reader,
) -> Result<BenchAlone, WebError> {
    web::block(move || BenchAlone::of(&shop, *id, reader.0)).await?
}

/// The phase that a page shows.
#[derive(Deserialize)]
struct Seen {
    run: RunId,
    phase: String,
}

/// How far a run is; a page that shows another phase is told to look again.
#[get("/machines/{id}/figures")]
async fn figures_alone(
    shop: web::Data<Shop>,
    id: web::Path<MachineId>,
    seen: web::Query<Seen>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let phase = seen.phase.clone();
    let (changed, body) = web::block(move || -> Result<_, WebError> {
        let listed = kept::one(&shop.store, *id)?;
        let run = Run::one(&shop.store, seen.run)?;
        let run = shop.under_way.now(run, listed.machine.kind);
        let f = figures(&shop, &listed, &run, reader.0);
        let changed = f.phase != phase;
        let body = FiguresAlone { f }.render();
        Ok((
            changed,
            body.map_err(|e| WebError::Internal(e.to_string()))?,
        ))
    })
    .await??;
    let mut answer = HttpResponse::Ok();
    answer.content_type("text/html; charset=utf-8");
    if changed {
        answer.insert_header(("HX-Trigger", "run-changed"));
    }
    Ok(answer.body(body))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(any)
        .service(add)
        .service(bench_alone)
        .service(figures_alone)
        .service(by_hand)
        .service(remove);
    gathered::routes(config);
    marks::routes::routes(config);
    pace::routes(config);
    runs::routes(config);
    tray::routes(config);
    config.service(opened);
}
