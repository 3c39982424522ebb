//! A job sent to a machine: what that comes to, and the press.

use actix_web::{HttpResponse, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_store::{MachineId, NewRun};
use serde::Deserialize;

use crate::door::Person;
use crate::error::{WebError, wrong};
use crate::job::request::JobRequest;
use crate::job::sheet::shown::duration;
use crate::machines::stops::Stop;
use crate::machines::{Run, State, go, kept, now, stops, to};
use crate::text;

/// The machine that a job is for, and the one that cuts what it prints.
#[derive(Deserialize)]
struct For {
    machine: MachineId,
    #[serde(default)]
    then: String,
}

/// The machine that is looked at; the first that suits where none is.
#[derive(Deserialize)]
struct LookedAt {
    machine: Option<MachineId>,
}

/// What sending a job to a machine comes to.
#[derive(Template, WebTemplate)]
#[template(path = "job/send/_machine_told.html")]
struct Told {
    job: i64,
    /// Number, name, whether it is the one that is told of.
    machines: Vec<(MachineId, String, bool)>,
    stops: Vec<(String, String)>,
    in_the_way: Vec<String>,
    waits: usize,
    loaded: String,
    prints: bool,
    /// Whether it is the artwork itself that is printed.
    page: bool,
    /// Machines that can cut it afterwards; the first is offered.
    cutters: Vec<(MachineId, String)>,
}

#[get("/jobs/{id}/machine")]
async fn what_is_sent(asked: JobRequest, to: web::Query<LookedAt>) -> Result<Told, WebError> {
    let (_, base) = asked.base().await?;
    let (unit, job, shop) = (asked.unit, asked.id, asked.shop.clone());
    asked
        .run(move |_| {
            let tool = base.recipe.layers.material().tool;
            let mut all = kept::usual_for(&shop.store, tool)?;
            let page = base.recipe.print.is_some();
            if page {
                // Printed first, cut afterwards.
                all.sort_by_key(|m| m.machine.kind != kept::Kind::Printer);
            }
            let asked_for = all.iter().find(|m| Some(m.id) == to.machine);
            let listed = asked_for.or(all.first()).ok_or(WebError::NoPage)?.clone();
            let in_the_way = stops::in_the_way(&base.outcome, &base.laid, &listed.machine, unit);
            let stops = match in_the_way.as_slice() {
                [] => stops::stops(
                    &shop.store,
                    &base.laid,
                    &base.recipe.layers.material(),
                    &listed.machine,
                    unit,
                )?,
                _ => Vec::new(),
            };
            let prints = listed.machine.kind == kept::Kind::Printer;
            let cuts = |m: &&kept::Listed| page && prints && m.machine.kind.holds(tool);
            let cutters = all.iter().filter(cuts);
            let loaded = listed.machine.loaded.as_ref().map(|l| l.name.clone());
            Ok(Told {
                job,
                machines: all
                    .iter()
                    .map(|m| (m.id, m.machine.name.clone(), m.id == listed.id))
                    .collect(),
                stops: stops
                    .iter()
                    .map(|s| {
                        let trial = if s.trial { ", trial piece" } else { "" };
                        let paths = text::some(s.paths, listed.machine.kind.counts());
                        let told = format!("{paths} · {}", duration(s.seconds));
                        (format!("{}, {}{trial}", s.stock, s.size), told)
                    })
                    .collect(),
                in_the_way,
                page,
                cutters: cutters.map(|m| (m.id, m.machine.name.clone())).collect(),
                waits: shop.store.queue(Some(listed.id))?.len(),
                loaded: loaded.unwrap_or_default(),
                prints,
            })
        })
        .await
}

/// Puts a job into a machine's queue; it begins at once where its stock is loaded and nothing else waits.
#[post("/jobs/{id}/machine")]
async fn send(
    asked: JobRequest,
    person: Person,
    form: web::Form<For>,
) -> Result<HttpResponse, WebError> {
    let (job, base) = asked.base().await?;
    let (unit, id, shop) = (asked.unit, asked.id, asked.shop.clone());
    let title = job.job.details.title;
    let For { machine, then } = form.into_inner();
    let then = match then.as_str() {
        "" | "none" => None,
        number => Some(
            number
                .parse()
                .map_err(|_| wrong("send", "choose a machine"))?,
        ),
    };
    asked
        .run(move |_| {
            // Both can take it before either is given it.
            let mut given = Vec::new();
            for machine in std::iter::once(machine).chain(then) {
                let listed = kept::one(&shop.store, machine)?;
                let in_the_way =
                    stops::in_the_way(&base.outcome, &base.laid, &listed.machine, unit);
                if let Some(first) = in_the_way.first() {
                    return Err(wrong("send", first));
                }
                let material = base.recipe.layers.material();
                let stops =
                    stops::stops(&shop.store, &base.laid, &material, &listed.machine, unit)?;
                given.push((listed, stops));
            }
            for (listed, stops) in given {
                let waits = !shop.store.queue(Some(listed.id))?.is_empty();
                let run = shop.store.add_run(&NewRun {
                    machine: listed.id,
                    job: Some(id),
                    title: &title,
                    person: &person.name,
                    stops: &serde_json::to_string(&stops)?,
                    state: &serde_json::to_string(&State::ready(0))?,
                    asked: now(),
                })?;
                // A printer asks for paper by itself.
                let printed =
                    listed.machine.kind == kept::Kind::Printer && base.recipe.print.is_some();
                let lies_in = |s: &Stop| {
                    listed.machine.does_for(&s.stock, s.used) == kept::Does::Well
                        && s.marks.is_none()
                };
                if !waits && (printed || stops.first().is_some_and(lies_in)) {
                    go(&shop, &listed, Run::one(&shop.store, run)?, "")?;
                }
            }
            Ok(())
        })
        .await?;
    // What is next is to lay the page into the cutter.
    Ok(to(then.unwrap_or(machine)))
}

pub(super) fn routes(config: &mut web::ServiceConfig) {
    config.service(what_is_sent).service(send);
}
