//! How long runs really took, and the drives that this speaks for.

use actix_web::{HttpResponse, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::units::Unit;
use inky_devices::drives::{self, Drives, FEWEST, Found, Ran};
use inky_store::{MachineId, Store};

use crate::Shop;
use crate::error::{WebError, wrong};
use crate::job::sheet::shown::duration;
use crate::machines::kept::{self, Listed, Machine};
use crate::machines::simulated::Simulated;
use crate::machines::state::{Phase, Run, Took};
use crate::reader::Reader;

/// Less time on our clock tells little: that all is done is noticed a tenth of a second later, s.
const LEAST: f64 = 4.0;
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
struct Measured {
    title: String,
    text: String,
    planned: f64,
    took: f64,
}

/// The latest of a machine, the last one first.
fn measured(store: &Store, machine: MachineId) -> Result<Vec<Measured>, WebError> {
    let mut all = Vec::new();
    let waiting = store.queue(Some(machine))?;
    for stored in waiting.into_iter().chain(store.ended_runs(machine, 50)?) {
        let run = Run::of(stored)?;
        for took in run.state.took.iter().rev() {
            if let Some(stop) = run.stops.get(took.stop) {
                all.push(Measured {
                    title: match run.stops.len() {
                        1 => run.stored.title.clone(),
                        _ => format!("{}, {}", run.stored.title, stop.stock),
                    },
                    text: stop.text.clone(),
                    planned: stop.seconds,
                    took: took.seconds,
                });
            }
        }
        if all.len() >= LOOKED_AT {
            break;
        }
    }
    all.truncate(LOOKED_AT);
    Ok(all)
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

pub(super) fn shown(shop: &Shop, listed: &Listed, unit: Unit) -> Result<Pace, WebError> {
    let all = measured(&shop.store, listed.id)?;
    let rows = all.iter().map(|m| TookRow {
        title: m.title.clone(),
        told: format!("told {}, took {}", duration(m.planned), duration(m.took)),
    });
    Ok(Pace {
        enough: all.len() >= FEWEST,
        fewest: FEWEST,
        rows: rows.collect(),
        known: listed
            .machine
            .drives
            .map_or_else(String::new, |d| told(&d, unit)),
    })
}

fn find(shop: &Shop, listed: &Listed) -> Result<Found, WebError> {
    let all = measured(&shop.store, listed.id)?;
    let ran = all.iter().map(|m| Ran {
        text: &m.text,
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
            told: told(&found.drives, reader.0),
            within: format!("{:.1} %", found.farthest * 100.0),
        })
    })
    .await?
}

/// What is found is what times are told by from now on.
#[post("/machines/{id}/pace")]
async fn take(shop: web::Data<Shop>, id: web::Path<MachineId>) -> Result<HttpResponse, WebError> {
    let id = *id;
    web::block(move || {
        let mut listed = kept::one(&shop.store, id)?;
        listed.machine.drives = Some(find(&shop, &listed)?.drives);
        kept::keep(&shop.store, &listed)
    })
    .await??;
    Ok(super::to(id))
}

pub(super) fn routes(config: &mut web::ServiceConfig) {
    config.service(reckon).service(take);
}
