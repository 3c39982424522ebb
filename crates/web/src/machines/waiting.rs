//! The queue of a machine: what waits, when it may be done, and where it can be moved to.

use inky_store::{Millis, RunId};

use crate::job::sheet::shown::duration;
use crate::machines::now;
use crate::machines::shown::{left_of_stop, who};
use crate::machines::state::{Phase, Run};
use crate::text;

/// A run that waits.
pub(crate) struct Waiting {
    pub(crate) id: RunId,
    pub(crate) title: String,
    pub(crate) told: String,
    /// Where it goes when it is moved up or down by one; empty where it cannot be.
    pub(crate) up: String,
    pub(crate) down: String,
    /// Where it is asked to lie on the sheet of the run that comes first; empty where it cannot.
    pub(crate) gather: String,
}

/// Time that a run still takes, s, the loading of stock not counted.
fn left(run: &Run) -> f64 {
    let later = run.stops.iter().skip(run.state.stop + 1);
    left_of_stop(run) + later.map(|s| s.seconds).sum::<f64>()
}

/// Whether nothing of it was begun.
pub(super) fn is_untouched(run: &Run) -> bool {
    run.state.phase == Phase::Ready && run.state.stop == 0
}

/// The runs that wait behind the first.
pub(super) fn rows(first: Option<&Run>, queue: &[Run]) -> Vec<Waiting> {
    let before = |id: RunId, other: &Run| format!("/runs/{id}/before/{}", other.stored.id);
    let mut ends = now() as f64 + 1000.0 * first.map_or(0.0, left);
    let rows = queue.iter().enumerate().map(|(n, run)| {
        ends += 1000.0 * left(run);
        let id = run.stored.id;
        let above = match n.checked_sub(1) {
            Some(above) => queue.get(above),
            None => first.filter(|f| f.state.phase == Phase::Ready),
        };
        let down = match (queue.get(n + 1), queue.get(n + 2)) {
            (None, _) => String::new(),
            (Some(_), Some(after)) => before(id, after),
            (Some(_), None) => format!("/runs/{id}/last"),
        };
        let gather = first
            .filter(|f| is_untouched(f) && is_untouched(run))
            .and_then(|f| f.stored.job)
            .filter(|&job| run.stored.job.is_some_and(|own| own != job));
        Waiting {
            id,
            title: run.stored.title.clone(),
            told: format!(
                "{}{} · {} · done about {}",
                who(run),
                text::some(run.stops.len(), "stop"),
                duration(left(run)),
                text::moment(ends as Millis)
            ),
            up: above.map_or_else(String::new, |other| before(id, other)),
            down,
            gather: gather.map_or_else(String::new, |job| format!("/jobs/{job}/gathered/{id}")),
        }
    });
    rows.collect()
}
