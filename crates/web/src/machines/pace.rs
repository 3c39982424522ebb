//! How long runs really took, and the drives that this speaks for.

use actix_web::{HttpResponse, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::units::Unit;
use inky_devices::drives::{self, Drives, FEWEST, Found, Ran};
use inky_store::MachineId;

use crate::Shop;
use crate::error::{WebError, wrong};
use crate::job::sheet::shown::duration;
use crate::machines::bench;
use crate::machines::kept::{self, Listed, Machine};
use crate::machines::simulated::Simulated;
use crate::machines::state::{Phase, Run, Took};
use crate::reader::Reader;

/// Less time on our clock tells little: that all is done is noticed a tenth of a second later, s.
const LEAST: f64 = 4.0;
/// Figures of drives that can be.
const FIGURES: std::ops::RangeInclusive<f64> = 1e-9..=1e7;
/// The latest runs that are looked at.
const LOOKED_AT: usize = 4;

/// The clock of a machine: a simulated one may go faster than ours.
pub(super) struct Clock {
    simulated: Option<(Simulated, Machine)>,
    /// Time gone on our clock, and on the machine's, s.
    ours: f64,
    its: f64,
    /// Whether it began with the first path and was never held.
    whole: bool,
}

impl Clock {
    pub(super) fn of(simulated: &Simulated, machine: &Machine, whole: bool) -> Self {
        let ships = machine.address.is_empty();
        Self {
            simulated: ships.then(|| (simulated.clone(), machine.clone())),
            ours: 0.0,
            its: 0.0,
            // What answers nothing is done before it has begun.
            whole: whole && !machine.mute && machine.kind.language().is_some(),
        }
    }

    /// So many seconds went by on our clock.
    pub(super) fn goes(&mut self, seconds: f64, phase: Phase) {
        self.whole &= phase == Phase::Running;
        let one = self.simulated.as_ref().and_then(|(all, m)| all.of(m));
        let pace = one.map_or(1.0, |one| one.hands().pace);
        self.ours += seconds;
        self.its += seconds * pace;
    }

    /// How long a stop took, where that tells something.
    pub(super) fn took(&self, stop: usize) -> Option<Took> {
        let tells = self.whole && self.ours >= LEAST;
        tells.then_some(Took {
            stop,
            seconds: self.its,
        })
    }
}

/// A stop that was measured.
struct Measured<'a> {
    title: String,
    text: &'a str,
    planned: f64,
    took: f64,
}

/// The latest stops that were measured, of runs from the latest on.
fn measured<'a>(runs: impl Iterator<Item = &'a Run>) -> Vec<Measured<'a>> {
    let all = runs.flat_map(|run| {
        run.state.took.iter().rev().filter_map(move |took| {
            let stop = run.stops.get(took.stop)?;
            Some(Measured {
                title: match run.stops.len() {
                    1 => run.stored.title.clone(),
                    _ => format!("{}, {}", run.stored.title, stop.stock),
                },
                text: &stop.text,
                planned: stop.seconds,
                took: took.seconds,
            })
        })
    });
    all.take(LOOKED_AT).collect()
}

/// A run with the time it was told to take and the time it took.
pub(crate) struct TookRow {
    pub(crate) title: String,
    pub(crate) told: String,
}

/// What the page says of a machine's pace.
pub(crate) struct Pace {
    pub(crate) rows: Vec<TookRow>,
    /// Whether there are enough of them.
    pub(crate) enough: bool,
    pub(crate) fewest: usize,
    /// Whether its drives were found before.
    pub(crate) known: String,
}

/// Drives in words.
fn told(drives: &Drives, unit: Unit) -> String {
    let speed = |mm: f64| format!("{}/s", unit.length(mm, 0));
    let lift = match drives.lift {
        ..0.002 => String::new(),
        lift => format!(", {lift:.2} s to lower or raise the tool"),
    };
    format!(
        "{} at most, {} round a corner, {}² of acceleration{lift}",
        speed(drives.speed),
        speed(drives.corner),
        speed(drives.acceleration),
    )
}

/// What is told of the runs of a machine, from the latest on.
pub(super) fn shown<'a>(listed: &Listed, runs: impl Iterator<Item = &'a Run>, unit: Unit) -> Pace {
    let all = measured(runs);
    let rows = all.iter().map(|m| TookRow {
        title: m.title.clone(),
        told: format!("told {}, took {}", duration(m.planned), duration(m.took)),
    });
    Pace {
        enough: all.len() >= FEWEST,
        fewest: FEWEST,
        rows: rows.collect(),
        known: listed
            .machine
            .drives
            .map_or_else(String::new, |d| told(&d, unit)),
    }
}

fn find(shop: &Shop, listed: &Listed) -> Result<Found, WebError> {
    let runs = bench::over(shop, listed)?;
    let all = measured(runs.iter());
    let ran = all.iter().map(|m| Ran {
        text: m.text,
        seconds: m.took,
    });
    let ran: Vec<Ran<'_>> = ran.collect();
    let machine = &listed.machine;
    let language = machine.kind.language();
    let found = language.and_then(|l| drives::found(l, &ran, machine.drives()));
    found.ok_or_else(|| {
        wrong(
            "pace",
            format!("{FEWEST} runs that went through without a break are needed"),
        )
    })
}

/// What was found, to be taken over.
#[derive(Template, WebTemplate)]
#[template(path = "machines/_pace_found.html")]
struct FoundAlone {
    machine: MachineId,
    told: String,
    within: String,
    /// What is sent when it is taken over.
    values: String,
}

#[get("/machines/{id}/pace")]
async fn reckon(
    shop: web::Data<Shop>,
    id: web::Path<MachineId>,
    reader: Reader,
) -> Result<FoundAlone, WebError> {
    web::block(move || {
        let listed = kept::one(&shop.store, *id)?;
        let found = find(&shop, &listed)?;
        Ok(FoundAlone {
            machine: *id,
            values: serde_json::to_string(&found.drives)?,
            told: told(&found.drives, reader.0),
            within: format!("{:.1} %", found.farthest * 100.0),
        })
    })
    .await?
}

/// What was found is what times are told by from now on.
#[post("/machines/{id}/pace")]
async fn take(
    shop: web::Data<Shop>,
    id: web::Path<MachineId>,
    form: web::Form<Drives>,
) -> Result<HttpResponse, WebError> {
    let (id, drives) = (*id, *form);
    let figures = [
        drives.acceleration,
        drives.corner,
        drives.lift,
        drives.speed,
    ];
    if !figures.iter().all(|v| FIGURES.contains(v)) {
        return Err(wrong(
            "pace",
            "no machine moves like that; find its speed again",
        ));
    }
    web::block(move || {
        let mut listed = kept::one(&shop.store, id)?;
        listed.machine.drives = Some(drives);
        kept::keep(&shop.store, &listed)
    })
    .await??;
    Ok(super::to(id))
}

pub(super) fn routes(config: &mut web::ServiceConfig) {
    config.service(reckon).service(take);
}
