//! A job as it is now: its recipe with the edits in force, its history, and what the shop offers it.

use inky_core::material::Material;
use inky_core::recipe::Recipe;
use inky_core::units::Unit;
use inky_store::{History, Job, JobFilter, JobId, SetAside, Store};

use crate::error::WebError;
use crate::job::controls::ShopAround;
use crate::job::line::Line;
use crate::job::saving;
use crate::job::ticket::{Ticket, ticket};
use crate::machines::kept::{self, Listed};
use crate::materials::stocked;
use crate::workshop::{Laid, Outcome};

/// What a ticket is made of: the outcome of its recipe, one to compare it with, and its sheets.
#[derive(Clone, Copy)]
pub(crate) struct Results<'a> {
    pub(crate) outcome: &'a Outcome,
    pub(crate) beside: Option<&'a Outcome>,
    /// Not for quick answers.
    pub(crate) laid: Option<&'a Laid>,
}

/// A job and what is around it.
pub(crate) struct Now {
    pub(crate) job: Job,
    pub(crate) recipe: Recipe,
    /// What has to be said of how it was read.
    said: Option<String>,
    history: History,
    set_aside: Vec<SetAside>,
    /// The shop's materials that are offered.
    materials: Vec<Material>,
    /// The shop's machines.
    machines: Vec<Listed>,
    /// Number, title and client of other jobs, the latest first.
    others: Vec<(JobId, String, String)>,
}

/// Other jobs that are offered for a sheet.
const OTHERS: usize = 200;

impl Now {
    pub(crate) fn load(store: &Store, id: JobId) -> Result<Self, WebError> {
        let others = store.jobs(&JobFilter::default())?.into_iter();
        let machines = kept::all(store)?;
        // First of all: it may change which step is in force.
        let (recipe, said) = saving::readable(store, id)?;
        Ok(Self {
            recipe,
            said,
            others: others
                .filter(|j| j.id != id)
                .take(OTHERS)
                .map(|j| (j.id, j.details.title, j.details.client))
                .collect(),
            job: store.job(id)?,
            history: store.history(id)?,
            set_aside: store.set_aside(id)?,
            machines,
            materials: stocked::all(store)?
                .into_iter()
                .filter(|m| !m.retired)
                .map(|m| m.material)
                .collect(),
        })
    }

    /// The ticket of a recipe, in force or tried, with its results.
    pub(crate) fn ticket(
        &self,
        recipe: &Recipe,
        results: Results<'_>,
        line: Line,
        unit: Unit,
    ) -> Ticket {
        let shop = ShopAround {
            materials: &self.materials,
            machines: &self.machines,
            others: &self.others,
            laid: results.laid,
        };
        let mine = (&self.job, &self.history);
        let mut ticket = ticket(mine, shop, recipe, results.outcome, line, unit);
        ticket.compare_with(results.beside, unit);
        ticket.list_set_aside(&self.set_aside);
        if let Some(said) = &self.said {
            ticket.nothing = Some(("notice", said.clone()));
        }
        ticket
    }
}
