//! The workshop: tracing on threads of its own, with every stage kept for the next change.
//!
//! The queue is bounded: when it is full a request is turned away with a word. A newer preview of
//! a job stops the older one for real, since the core asks the [`Stop`] token as it goes.

mod laid;
mod outcome;
mod shelf;
mod stages;

use std::collections::BTreeMap;
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::sync::{Arc, Mutex, PoisonError};

use inky_core::recipe::Recipe;
use inky_core::stop::Stop;
use inky_store::{JobId, Store};
use tokio::sync::oneshot;

pub(crate) use laid::{Laid, OnSheet};
pub(crate) use outcome::{Checked, Outcome};
pub(crate) use stages::Stages;

use crate::error::WebError;

type Task = Box<dyn FnOnce(&Stages) + Send>;

/// Threads that compute. Each trace uses all cores for its parallel parts anyway.
const THREADS: usize = 2;
/// Sheets with more parts are planned when the plan is asked for.
const PLANNED: usize = 60;
/// Tasks that may wait.
const QUEUE: usize = 64;

/// Why a trace runs, which decides whether a newer one stops it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Wanted {
    /// For a page, a file or a step: always finished and checked; older previews of the job are
    /// stopped.
    Kept,
    /// For an edit: always finished; the checks are asked for afterwards.
    Edited,
    /// While a control moves: a newer preview of the same job stops it.
    Preview,
}

/// Handle to the threads and what they keep.
#[derive(Clone)]
pub(crate) struct Workshop {
    queue: SyncSender<Task>,
    previews: Arc<Mutex<BTreeMap<JobId, Stop>>>,
}

impl Workshop {
    pub(crate) fn new(store: Store) -> Self {
        let (queue, tasks) = sync_channel::<Task>(QUEUE);
        let tasks = Arc::new(Mutex::new(tasks));
        let stages = Arc::new(Stages::new(store));
        for _ in 0..THREADS {
            let (tasks, stages) = (Arc::clone(&tasks), Arc::clone(&stages));
            std::thread::spawn(move || work(&tasks, &stages));
        }
        Self {
            queue,
            previews: Arc::default(),
        }
    }

    /// Runs `f` on a thread of the workshop.
    pub(crate) async fn run<T: Send + 'static>(
        &self,
        f: impl FnOnce(&Stages) -> Result<T, WebError> + Send + 'static,
    ) -> Result<T, WebError> {
        let (reply, answer) = oneshot::channel();
        let task: Task = Box::new(move |stages| {
            // The asker may have gone; then nobody misses the answer.
            let _ = reply.send(f(stages));
        });
        self.queue.try_send(task).map_err(|_| WebError::Busy)?;
        answer
            .await
            .map_err(|_| WebError::Internal("a task ended without an answer".to_owned()))?
    }

    /// The outcome of a recipe for a job's artwork.
    pub(crate) async fn trace(
        &self,
        job: JobId,
        recipe: Recipe,
        wanted: Wanted,
    ) -> Result<Arc<Outcome>, WebError> {
        let stop = Stop::new();
        {
            let mut previews = self.previews.lock().unwrap_or_else(PoisonError::into_inner);
            if let Some(older) = previews.remove(&job) {
                older.set();
            }
            if wanted == Wanted::Preview {
                previews.insert(job, stop.clone());
            }
        }
        let quick = wanted == Wanted::Preview;
        self.run(move |stages| {
            let outcome = stages.outcome(job, &recipe, quick, &stop)?;
            if wanted == Wanted::Kept {
                outcome.checked();
            }
            Ok(outcome)
        })
        .await
    }

    /// The sheets of an outcome, planned where that takes no time.
    pub(crate) async fn laid(
        &self,
        job: JobId,
        recipe: Recipe,
        outcome: Arc<Outcome>,
    ) -> Result<Arc<Laid>, WebError> {
        self.run(move |stages| {
            let laid = stages.laid(job, &recipe, &outcome)?;
            for on in &laid.sheets {
                if on.sheet.items.len() <= PLANNED {
                    on.planned();
                }
            }
            Ok(laid)
        })
        .await
    }
}

fn work(tasks: &Mutex<Receiver<Task>>, stages: &Stages) {
    loop {
        let task = tasks.lock().unwrap_or_else(PoisonError::into_inner).recv();
        let Ok(task) = task else { return };
        // A panic is a fault of ours; it must cost one answer, not the workshop.
        let run = std::panic::AssertUnwindSafe(|| task(stages));
        if std::panic::catch_unwind(run).is_err() {
            tracing::error!("a task panicked");
        }
    }
}
