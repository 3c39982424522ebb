//! The workshop: tracing on threads of its own, with every stage kept for the next change.
//!
//! Who waits is served in [turns](turns), and turned away with a word where too many wait. A newer
//! preview of a job stops the older one for real, since the core asks the [`Stop`] token as it goes.
//! Files that come in are read on a thread beside those that serve job pages.

pub(crate) mod code;
mod laid;
mod outcome;
mod shelf;
mod stages;
mod turns;
mod underway;
mod weights;

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};

use actix_web::web;
use inky_core::recipe::Recipe;
use inky_core::stop::Stop;
use inky_store::{JobId, Store};
use tokio::sync::oneshot;

pub(crate) use laid::{Art, Laid, OnSheet, PrintedSheet};
pub(crate) use outcome::{Checked, Outcome};
pub(crate) use stages::Stages;
pub(crate) use underway::Far;

use turns::Turns;
use underway::Stage;

use crate::door::Person;
use crate::error::WebError;

type Task = Box<dyn FnOnce(&Stages) + Send>;

/// Threads that compute. Each trace uses all cores for its parallel parts anyway.
const THREADS: usize = 2;

/// Why a trace runs, which decides whether a newer one stops it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Wanted {
    /// For a page, a file or a step: finished and checked, unless whoever asked goes away; older previews of the
    /// job are stopped.
    Kept,
    /// For an edit: finished likewise; the checks are asked for afterwards.
    Edited,
    /// While a control moves: a newer preview of the same job stops it.
    Preview,
}

/// Handle to the threads and what they keep.
#[derive(Clone)]
pub(crate) struct Workshop {
    pages: Arc<Turns<Task>>,
    arrivals: Arc<Turns<Task>>,
    stages: Arc<Stages>,
    previews: Arc<Mutex<BTreeMap<JobId, Stop>>>,
}

impl Workshop {
    pub(crate) fn new(store: Store) -> Self {
        let [pages, arrivals] = [(), ()].map(|()| Arc::new(Turns::new()));
        let stages = Arc::new(Stages::new(store));
        let served = [&pages; THREADS].into_iter().chain([&arrivals]);
        for turns in served {
            let (turns, stages) = (Arc::clone(turns), Arc::clone(&stages));
            std::thread::spawn(move || work(&turns, &stages));
        }
        Self {
            pages,
            arrivals,
            stages,
            previews: Arc::default(),
        }
    }

    /// Runs `f` on a thread of the workshop when it is the person's turn.
    pub(crate) async fn run<T: Send + 'static>(
        &self,
        person: &Person,
        f: impl FnOnce(&Stages) -> Result<T, WebError> + Send + 'static,
    ) -> Result<T, WebError> {
        run_in(&self.pages, person, f).await
    }

    /// Whether a result or its sheets are at hand.
    pub(crate) fn holds(&self, key: &str) -> bool {
        self.stages.holds(key)
    }

    /// Runs `f`, which takes no time, beside the workshop's threads.
    pub(crate) async fn beside<T: Send + 'static>(
        &self,
        f: impl FnOnce(&Stages) -> Result<T, WebError> + Send + 'static,
    ) -> Result<T, WebError> {
        let stages = Arc::clone(&self.stages);
        web::block(move || f(&stages)).await?
    }

    /// How far a job's result is; nothing where none is made.
    pub(crate) fn far(&self, job: JobId) -> Option<Far> {
        self.stages.underway.far(job)
    }

    /// Reads files that a person brings in, beside what pages ask for. Whoever goes away meanwhile stops it.
    pub(crate) async fn arrive<T: Send + 'static>(
        &self,
        person: &Person,
        read: impl FnOnce(&Stages, &Stop) -> Result<T, WebError> + Send + 'static,
    ) -> Result<T, WebError> {
        let waited = Waited(Stop::new());
        let stop = waited.0.clone();
        run_in(&self.arrivals, person, move |stages| read(stages, &stop)).await
    }

    /// The outcome of a recipe for a job's artwork. Whoever goes away meanwhile stops it.
    pub(crate) async fn trace(
        &self,
        person: &Person,
        job: JobId,
        recipe: Recipe,
        wanted: Wanted,
    ) -> Result<Arc<Outcome>, WebError> {
        let waited = Waited(Stop::new());
        let stop = waited.0.clone();
        {
            let mut previews = self.previews.lock().unwrap_or_else(PoisonError::into_inner);
            if let Some(older) = previews.remove(&job) {
                older.set();
            }
            if wanted == Wanted::Preview {
                previews.insert(job, stop.clone());
            }
        }
        // What is at hand waits for nobody's turn.
        let asked = recipe.clone();
        let found = self.beside(move |stages| Ok(stages.at_hand(job, &asked)));
        if let Some(found) = found.await? {
            return Ok(found);
        }
        let quick = wanted == Wanted::Preview;
        self.run(person, move |stages| {
            let outcome = stages.outcome(job, &recipe, quick, &stop)?;
            if wanted == Wanted::Kept {
                stop.check()?;
                let _going = stages.underway.begin(job, Stage::Checks);
                outcome.checked();
            }
            Ok(outcome)
        })
        .await
    }

    /// The sheets of an outcome, planned where that takes no time.
    pub(crate) async fn laid(
        &self,
        person: &Person,
        job: JobId,
        recipe: Recipe,
        outcome: Arc<Outcome>,
    ) -> Result<Arc<Laid>, WebError> {
        let (asked, made) = (recipe.clone(), Arc::clone(&outcome));
        let found = self.beside(move |stages| stages.laid_before(job, &asked, &made));
        if let Some(found) = found.await? {
            return Ok(found);
        }
        self.run(person, move |stages| {
            let _going = stages.underway.begin(job, Stage::Sheets);
            let laid = stages.laid(job, &recipe, &outcome)?;
            laid.plan_small();
            Ok(laid)
        })
        .await
    }
}

/// Stops what is done for somebody who no longer waits for it.
struct Waited(Stop);

impl Drop for Waited {
    fn drop(&mut self) {
        self.0.set();
    }
}

async fn run_in<T: Send + 'static>(
    turns: &Turns<Task>,
    person: &Person,
    f: impl FnOnce(&Stages) -> Result<T, WebError> + Send + 'static,
) -> Result<T, WebError> {
    let (reply, answer) = oneshot::channel();
    let task: Task = Box::new(move |stages| {
        // The asker may have gone; then nobody misses the answer.
        if reply.is_closed() {
            return;
        }
        let _ = reply.send(f(stages));
    });
    turns.wait(&person.seat, task).map_err(|_| WebError::Busy)?;
    answer
        .await
        .map_err(|_| WebError::Internal("a task ended without an answer".to_owned()))?
}

fn work(turns: &Turns<Task>, stages: &Stages) {
    loop {
        let task = turns.next();
        // A panic is a fault of ours; it must cost one answer, not the workshop.
        let run = std::panic::AssertUnwindSafe(|| task(stages));
        if std::panic::catch_unwind(run).is_err() {
            tracing::error!("a task panicked");
        }
    }
}
