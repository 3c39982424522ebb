//! Runs of one machine gathered: another one's job is laid on the sheet of the run that comes first.

use actix_web::{post, web};
use inky_core::recipe::Recipe;
use inky_core::sheet::choice::{Copies, Guest};
use inky_store::{JobId, RunId};

use crate::Shop;
use crate::error::{WebError, wrong};
use crate::job::line::Line;
use crate::job::request::JobRequest;
use crate::job::saving;
use crate::machines::bench::BenchAlone;
use crate::machines::kept::{self, Listed};
use crate::machines::state::{Phase, Run};
use crate::machines::stops;
use crate::machines::waiting::is_untouched;
use crate::refusal::Refusal;
use crate::workshop::Wanted;

/// What comes together.
struct Both {
    machine: Listed,
    first: Run,
    guest: Run,
    /// The guest's job.
    job: JobId,
    copies: u32,
}

impl Both {
    /// The first run of a machine, which is of this job, and one that waits behind it.
    fn found(shop: &Shop, job: JobId, guest: RunId) -> Result<Self, WebError> {
        let guest = Run::one(&shop.store, guest)?;
        let machine = kept::one(&shop.store, guest.stored.machine)?;
        let first = shop.store.queue(Some(machine.id))?.into_iter().next();
        let first = first.map(Run::of).transpose()?;
        let first = first.filter(|f| f.stored.job == Some(job) && is_untouched(f));
        let own = guest.stored.job.filter(|&own| own != job);
        match (first, own) {
            (Some(first), Some(own)) if is_untouched(&guest) && guest.stored.ended.is_none() => {
                let sheet = saving::recipe(&shop.store, own)?.sheet;
                Ok(Self {
                    copies: match sheet.copies {
                        Copies::Number(n) => n,
                        _ => 1,
                    },
                    machine,
                    first,
                    guest,
                    job: own,
                })
            }
            _ => Err(wrong(
                "run",
                "one of them was begun, or waits no more; reload the page",
            )),
        }
    }

    /// What the run is called, and who asked for it.
    fn words(&self) -> (String, String) {
        let title = format!("{} + {}", self.first.stored.title, self.guest.stored.title);
        let mut who: Vec<&str> = self.first.stored.person.split(", ").collect();
        if !who.contains(&self.guest.stored.person.as_str()) {
            who.push(&self.guest.stored.person);
        }
        who.retain(|name| !name.is_empty());
        (title, who.join(", "))
    }
}

/// The recipe with the guest on its sheet.
fn with_guest(recipe: &Recipe, both: &Both) -> Result<Recipe, WebError> {
    let mut recipe = recipe.clone();
    let guests = &mut recipe.sheet.guests;
    match guests.iter_mut().find(|g| g.job == both.job) {
        Some(guest) => guest.copies += both.copies,
        None => guests.push(Guest {
            job: both.job,
            copies: both.copies,
        }),
    }
    recipe.sheet.check().map_err(|e| e.beside("run"))?;
    Ok(recipe)
}

/// Lays the job of a run on the sheet of the one that comes first, whose job this is; that run then cuts both, and the
/// other one is left.
#[post("/jobs/{id}/gathered/{run}")]
async fn gather(
    asked: JobRequest,
    path: web::Path<(JobId, RunId)>,
) -> Result<BenchAlone, WebError> {
    let (_, guest) = path.into_inner();
    let (now, base) = asked.base().await?;
    let (shop, id, unit) = (asked.shop.clone(), asked.id, asked.unit);
    let found = web::block({
        let shop = shop.clone();
        move || Both::found(&shop, id, guest)
    });
    let both = found.await??;
    let recipe = with_guest(&base.recipe, &both)?;
    let outcome = asked.outcome(&recipe, Wanted::Kept).await?;
    let laid = asked.laid(&recipe, &outcome).await?;
    let machine = &both.machine.machine;
    if let Some(first) = stops::in_the_way(&outcome, &laid, machine, unit).first() {
        return Err(wrong("run", first));
    }
    let stops = stops::stops(&shop.store, &laid, &recipe.layers.material(), machine, unit)?;
    let name = format!("Gathered with {}", both.guest.stored.title);
    asked
        .keep(now.job.revision, (base.recipe, recipe), (name, Line::Sheet))
        .await?;
    let unit = asked.unit;
    web::block(move || {
        let (title, person) = both.words();
        let (first, machine) = (both.first.stored.id, both.machine.id);
        let stops = serde_json::to_string(&stops)?;
        shop.store.change_run(first, (&title, &person), &stops)?;
        let said = format!("laid on the sheet of run {first}\n");
        let left = both.guest.state.at(Phase::Left);
        left.keep(&shop.store, both.guest.stored.id, &said)?;
        BenchAlone::of(&shop, machine, unit)
    })
    .await?
}

pub(super) fn routes(config: &mut web::ServiceConfig) {
    config.service(gather);
}
