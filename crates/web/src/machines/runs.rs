//! What is pressed of a run: begin, go on, pause, stop, start again, leave, put first; and what was said in it.

use std::str::FromStr;

use actix_web::{HttpResponse, get, post, web};
use inky_devices::line::{Address, Wish};
use inky_store::RunId;
use serde::Deserialize;

use crate::Shop;
use crate::error::{WebError, wrong};
use crate::job::download;
use crate::machines::bench::{BenchAlone, address};
use crate::machines::kept::{self, Does, Kind, Listed, Loaded};
use crate::machines::marks::{self, Marks};
use crate::machines::state::{Phase, Run, State};
use crate::machines::under_way::Begin;
use crate::reader::Reader;

/// A press on a run.
#[derive(Deserialize)]
#[serde(rename_all = "lowercase")]
enum Press {
    Go,
    Pause,
    Stop,
    Again,
    Leave,
}

/// With what to go on.
#[derive(Deserialize)]
struct From {
    /// Number of a path, from 1, typed.
    #[serde(default)]
    from: String,
}

/// Begins, goes on, pauses, stops, starts again or leaves a run.
#[post("/runs/{id}/{press}")]
async fn press(
    shop: web::Data<Shop>,
    path: web::Path<(RunId, Press)>,
    form: web::Form<From>,
    reader: Reader,
) -> Result<BenchAlone, WebError> {
    web::block(move || {
        let (id, press) = path.into_inner();
        let run = Run::one(&shop.store, id)?;
        let listed = kept::one(&shop.store, run.stored.machine)?;
        let run = shop.under_way.now(run, listed.machine.kind);
        let live = shop.under_way.of(listed.id).filter(|l| l.run == id);
        match (press, live) {
            (Press::Go, Some(live)) => live.wish(Wish::GoOn),
            (Press::Pause, Some(live)) => live.wish(Wish::Pause),
            (Press::Stop, Some(live)) => live.wish(Wish::Stop),
            (Press::Again | Press::Leave, Some(_)) => {
                return Err(wrong("run", "it is under way; stop it first"));
            }
            (_, None) if run.stored.ended.is_some() => {
                return Err(wrong("run", "this run is over; reload the page"));
            }
            (Press::Go, None) => go(&shop, &listed, run, &form.from)?,
            (Press::Again, None) => {
                let mut run = run;
                // Another page lies otherwise.
                for stop in &mut run.stops {
                    if let Some(marks) = &mut stop.marks {
                        marks.forgotten();
                        stop.text.clone_from(&marks.text);
                    }
                }
                run.keep_stops(&shop.store)?;
                State::ready(0).keep(&shop.store, id, "started again\n")?;
            }
            (Press::Leave, None) => run.state.at(Phase::Left).keep(&shop.store, id, "left\n")?,
            (Press::Pause | Press::Stop, None) => {
                return Err(wrong("run", "nothing is sent at the moment"));
            }
        }
        BenchAlone::of(&shop, listed.id, reader.0)
    })
    .await?
}

/// Sends the stop a run is at: from its beginning with its stock loaded, or from where it broke.
pub(crate) fn go(shop: &Shop, listed: &Listed, mut run: Run, from: &str) -> Result<(), WebError> {
    let before = shop.store.queue(Some(listed.id))?;
    if before.first().is_some_and(|r| r.id != run.stored.id) {
        return Err(wrong(
            "run",
            "another run comes before it; move it up first",
        ));
    }
    if shop.under_way.of(listed.id).is_some() {
        return Err(wrong(
            "run",
            "the machine is at another run; wait until that ends",
        ));
    }
    if run.state.phase == Phase::Ready && !marks_found(shop, listed, &mut run)? {
        return Ok(());
    }
    let stop = run.stop().ok_or(WebError::NoPage)?.clone();
    let paths = stop.paths;
    let begin = match (run.state.phase, from.trim().parse::<usize>()) {
        (Phase::Ready, _) => Begin::At(0),
        // As it was offered, or nothing typed: the machine is asked.
        (_, Ok(number)) if number == run.state.next + 1 => run.state.where_it_stands(),
        (_, Err(_)) if from.trim().is_empty() => run.state.where_it_stands(),
        (_, Ok(number)) if (1..=paths).contains(&number) => Begin::At(number - 1),
        _ => {
            return Err(wrong(
                "run",
                format!("a path from 1 to {paths} is asked for"),
            ));
        }
    };
    let typed = address(shop, listed);
    let address = Address::from_str(&typed).map_err(|e| wrong("run", e))?;
    if run.state.phase == Phase::Ready {
        let mut listed = listed.clone();
        let does = listed.machine.does_for(&stop.stock, stop.used);
        if stop.marks.is_none() && does != Does::Well && listed.machine.kind != Kind::Printer {
            listed.machine.loaded = Some(Loaded {
                name: stop.stock.clone(),
                left: stop.length,
            });
            kept::keep(&shop.store, &listed)?;
        }
        if !run.follows_its_trial()
            && stop.marks.is_none()
            && let Some(one) = shop.simulated.of(&listed.machine)
        {
            one.renew();
        }
        run.state = run.state.before(run.state.stop);
    }
    shop.under_way
        .begin(shop, &run, begin, &address, &listed.machine)
}

/// Finds what is not found yet of the marks of a printed page with the machine's eye; whether its cut is moved to where
/// the page lies. Where not, the bench says what is missing.
fn marks_found(shop: &Shop, listed: &Listed, run: &mut Run) -> Result<bool, WebError> {
    let at = run.state.stop;
    if marks_at(run, at).is_some_and(|marks| !marks.all_found()) {
        marks::find::by_eye(shop, listed, run, false)?;
    }
    match marks_at(run, at).map(Marks::way) {
        None | Some(Some(Ok(_))) => Ok(true),
        Some(None) => Ok(false),
        Some(Some(Err(why))) => Err(why),
    }
}

fn marks_at(run: &Run, stop: usize) -> Option<&Marks> {
    run.stops.get(stop)?.marks.as_ref()
}

/// The run that is moved before another.
#[post("/runs/{id}/before/{other}")]
async fn put_before(
    shop: web::Data<Shop>,
    path: web::Path<(RunId, RunId)>,
    reader: Reader,
) -> Result<BenchAlone, WebError> {
    web::block(move || {
        let (id, other) = path.into_inner();
        let run = Run::one(&shop.store, id)?;
        if !shop.store.move_run(id, Some(other))? {
            return Err(wrong("run", "one of them waits no more; reload the page"));
        }
        BenchAlone::of(&shop, run.stored.machine, reader.0)
    })
    .await?
}

/// The run that is moved to the end of its queue.
#[post("/runs/{id}/last")]
async fn put_last(
    shop: web::Data<Shop>,
    id: web::Path<RunId>,
    reader: Reader,
) -> Result<BenchAlone, WebError> {
    web::block(move || {
        let run = Run::one(&shop.store, *id)?;
        if !shop.store.move_run(*id, None)? {
            return Err(wrong("run", "it waits no more; reload the page"));
        }
        BenchAlone::of(&shop, run.stored.machine, reader.0)
    })
    .await?
}

/// All that was said in a run.
#[get("/runs/{id}/log")]
async fn log(shop: web::Data<Shop>, id: web::Path<RunId>) -> Result<HttpResponse, WebError> {
    let (title, text) = web::block(move || -> Result<_, WebError> {
        let run = Run::one(&shop.store, *id)?;
        Ok((run.stored.title, shop.store.run_log(*id)?))
    })
    .await??;
    Ok(download(
        &format!("{title} log"),
        "txt",
        "text/plain; charset=utf-8",
        text.into_bytes(),
    ))
}

pub(super) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(put_before)
        .service(put_last)
        .service(log)
        .service(press);
}
