//! Sheets of a job as they are laid out, with the jobs that are gathered on them, and their plans.

use std::sync::{Arc, OnceLock};

use inky_core::cutting::Cutting;
use inky_core::layers::LayerChoice;
use inky_core::material::Material;
use inky_core::plan::page::Page;
use inky_core::plan::{Plan, PlanChoice};
use inky_core::recipe::Recipe;
use inky_core::sheet::choice::{Copies, SheetChoice};
use inky_core::sheet::{Group, Load, Sheet, groups, lay};
use inky_core::stock::{Stock, StockKind};
use inky_core::stop::Stop;
use inky_store::{JobDetails, JobId};

use super::outcome::Outcome;
use super::stages::{Stages, digest};
use crate::error::WebError;
use crate::job::saving;

/// All sheets of a job.
pub(crate) struct Laid {
    /// Names this arrangement in addresses.
    pub(crate) key: String,
    pub(crate) sheets: Vec<OnSheet>,
}

/// One of them.
pub(crate) struct OnSheet {
    /// What lies on it, for nesting.
    pub(crate) load: Load,
    pub(crate) sheet: Sheet,
    choice: PlanChoice,
    gap: f64,
    page: OnceLock<Arc<Page>>,
}

/// Sheets with more parts are planned when the plan is asked for.
const PLANNED: usize = 60;
/// Width of a roll where a material has no stock in its list, mm.
const ROLL: f64 = 600.0;

impl OnSheet {
    /// Its lines, which every file and the run-through are made of.
    pub(crate) fn page(&self) -> Arc<Page> {
        Arc::clone(self.lines())
    }

    fn lines(&self) -> &Arc<Page> {
        self.page
            .get_or_init(|| Arc::new(Page::new(self.sheet.cutting(), self.choice.clone())))
    }

    /// Its lines and the order they are run in; made at the first call, which is not for the
    /// server's own threads.
    pub(crate) fn planned(&self) -> (&Cutting, &Plan) {
        let page = self.lines();
        (page.cutting(), page.plan())
    }

    /// Between any two parts, mm.
    pub(crate) const fn gap(&self) -> f64 {
        self.gap
    }

    /// The same where it was made already.
    pub(crate) fn if_planned(&self) -> Option<(&Cutting, &Plan)> {
        let page = self.page.get()?;
        Some((page.cutting(), page.if_planned()?))
    }
}

/// The stock that a group is cut from.
fn stock(layers: &LayerChoice, material: &Material) -> Stock {
    let chosen = if material.name == layers.material().name {
        layers.stock()
    } else {
        material.stocks.first().cloned()
    };
    chosen.unwrap_or_else(|| Stock {
        name: String::new(),
        kind: StockKind::Roll,
        width: ROLL,
        length: 0.0,
        margin: 0.0,
        shape: None,
    })
}

/// A job that lies on the sheets.
struct Lying {
    title: String,
    owner: String,
    groups: Vec<Group>,
    copies: Copies,
}

/// What the sheets of a job alone are made of, in words.
fn named(
    outcome: &Outcome,
    choice: &SheetChoice,
    details: &JobDetails,
) -> Result<Vec<String>, WebError> {
    Ok(vec![
        outcome.key.clone(),
        serde_json::to_string(choice)?,
        details.title.clone(),
        details.client.clone(),
    ])
}

fn key(parts: &[String]) -> String {
    digest(&parts.iter().map(String::as_str).collect::<Vec<_>>())
}

impl Laid {
    /// Plans the sheets where that takes no time.
    pub(super) fn plan_small(&self) {
        self.small().for_each(|on| {
            on.planned();
        });
    }

    fn small(&self) -> impl Iterator<Item = &OnSheet> {
        let sheets = self.sheets.iter();
        sheets.filter(|on| on.sheet.items.len() <= PLANNED)
    }
}

impl Stages {
    /// The sheets of an outcome where they are at hand and planned; those with other jobs on them are
    /// looked up in turn.
    pub(super) fn laid_before(
        &self,
        job: JobId,
        recipe: &Recipe,
        outcome: &Outcome,
    ) -> Result<Option<Arc<Laid>>, WebError> {
        if !recipe.sheet.guests.is_empty() {
            return Ok(None);
        }
        let details = self.store().job(job)?.details;
        let found = self
            .sheets()
            .get(&key(&named(outcome, &recipe.sheet, &details)?));
        Ok(found.filter(|laid| laid.small().all(|on| on.if_planned().is_some())))
    }

    /// The sheets of an outcome, with the jobs gathered on them.
    pub(crate) fn laid(
        &self,
        job: JobId,
        recipe: &Recipe,
        outcome: &Outcome,
    ) -> Result<Arc<Laid>, WebError> {
        let choice = &recipe.sheet;
        let details = self.store().job(job)?.details;
        let mut parts = named(outcome, choice, &details)?;
        let mut guests = Vec::new();
        for guest in &choice.guests {
            // A job that was deleted since lies on no sheet any more.
            let Ok(found) = self.store().job(guest.job) else {
                continue;
            };
            let recipe = saving::recipe(self.store(), guest.job)?;
            let theirs = self.outcome(guest.job, &recipe, false, &Stop::new())?;
            parts.extend([
                found.details.title.clone(),
                found.details.client.clone(),
                theirs.key.clone(),
            ]);
            guests.push((found.details, theirs, guest.copies));
        }
        let key = key(&parts);
        self.sheets().get_or_make(&key.clone(), || {
            let mut lying = vec![Lying {
                title: details.title,
                owner: details.client,
                groups: groups(&outcome.design, &outcome.checked().built),
                copies: choice.copies,
            }];
            for (details, theirs, copies) in guests {
                lying.push(Lying {
                    title: details.title,
                    owner: details.client,
                    groups: groups(&theirs.design, &theirs.checked().built),
                    copies: Copies::Number(copies),
                });
            }
            Ok(Laid {
                key,
                sheets: sheets(&lying, &recipe.layers, choice),
            })
        })
    }
}

/// A sheet for each material and colour of all jobs, those of the first job first.
fn sheets(lying: &[Lying], layers: &LayerChoice, choice: &SheetChoice) -> Vec<OnSheet> {
    let mut loads: Vec<Load> = Vec::new();
    for job in lying {
        for group in &job.groups {
            let known = loads.iter().position(|l| l.name == group.name);
            let n = known.unwrap_or_else(|| {
                loads.push(Load {
                    name: group.name.clone(),
                    material: group.material.clone(),
                    stock: stock(layers, &group.material),
                    sources: Vec::new(),
                });
                loads.len() - 1
            });
            let mut source = group.source((&job.title, &job.owner), &loads[n].stock, choice);
            source.copies = job.copies;
            loads[n].sources.push(source);
        }
    }
    let on_sheet = |load: Load| OnSheet {
        sheet: lay(&load, choice),
        choice: choice.plan(&load.name),
        gap: choice.gap(),
        page: OnceLock::new(),
        load,
    };
    loads.into_iter().map(on_sheet).collect()
}
