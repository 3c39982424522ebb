//! One job in the list.

use inky_core::recipe::Recipe;
use inky_core::units::Unit;
use inky_demo::{PHOTOGRAPHS, SAMPLES};
use inky_store::{Job, Step, Store};

use crate::error::WebError;
use crate::jobs::state::{self, State};
use crate::text;

/// What an example shows; nothing for a job of one's own.
fn shows(job: &Job) -> &'static str {
    let samples = SAMPLES.iter().map(|s| (s.file_name, s.client, s.shows));
    let taken = PHOTOGRAPHS.iter().map(|p| (p.file_name, p.client, p.shows));
    let mut all = samples.chain(taken);
    let own = (job.file_name.as_str(), job.details.client.as_str());
    all.find(|&(file, client, _)| (file, client) == own)
        .map_or("", |(.., shows)| shows)
}

/// A card of the Jobs page.
pub(crate) struct JobCard {
    pub(crate) id: i64,
    pub(crate) title: String,
    pub(crate) client: String,
    pub(crate) tags: Vec<String>,
    pub(crate) size: String,
    pub(crate) saved: String,
    pub(crate) state: State,
    /// What it shows, where it is one of the examples.
    pub(crate) shows: &'static str,
}

pub(crate) fn card(
    store: &Store,
    job: &Job,
    step: Option<&Step>,
    unit: Unit,
) -> Result<JobCard, WebError> {
    let recipe = step.and_then(|s| serde_json::from_str::<Recipe>(&s.recipe).ok());
    let size = recipe.map_or_else(String::new, |r| {
        let side = |mm: f64| text::length(mm, unit, 1);
        format!(
            "{} × {} {}",
            side(r.size.width.get()),
            side(r.size.height.get()),
            unit.symbol()
        )
    });
    Ok(JobCard {
        state: state::state(store, job)?,
        shows: shows(job),
        id: job.id,
        title: job.details.title.clone(),
        client: job.details.client.clone(),
        tags: job
            .details
            .tags
            .split(',')
            .map(|t| t.trim().to_owned())
            .filter(|t| !t.is_empty())
            .collect(),
        size,
        saved: text::moment(job.saved),
    })
}
