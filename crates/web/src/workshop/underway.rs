//! How far the results are that are being made, told to pages that wait for them.

use std::collections::BTreeMap;
use std::sync::{Mutex, PoisonError};

use inky_store::JobId;
use serde::Serialize;

/// What is done for a result, in its order.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Stage {
    Reading,
    Cleaning,
    Inks,
    Edges,
    Curves,
    Agreement,
    Edits,
    Checks,
    Sheets,
}

impl Stage {
    /// How many there are.
    const ALL: u8 = Self::Sheets as u8 + 1;

    const fn words(self) -> &'static str {
        match self {
            Self::Reading => "reading the artwork",
            Self::Cleaning => "cleaning up",
            Self::Inks => "finding the inks",
            Self::Edges => "finding the edges",
            Self::Curves => "fitting curves",
            Self::Agreement => "held against the artwork",
            Self::Edits => "doing the edits again",
            Self::Checks => "building the layers and checking them",
            Self::Sheets => "laying out the sheets",
        }
    }
}

/// How far something is.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub(crate) struct Far {
    /// What is done now.
    pub(crate) words: &'static str,
    /// Stages that are done, of 1.
    pub(crate) share: f64,
}

/// The stages that are under way, by job; of several at once the newest is told.
#[derive(Debug, Default)]
pub(super) struct Underway(Mutex<BTreeMap<JobId, (Stage, usize)>>);

impl Underway {
    /// Something is made for a job, until what this gives is dropped.
    pub(super) fn begin(&self, job: JobId, stage: Stage) -> Going<'_> {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let going = all.entry(job).or_insert((stage, 0));
        *going = (stage, going.1 + 1);
        Going { all: self, job }
    }

    /// How far a job's result is; nothing where none is made.
    pub(super) fn far(&self, job: JobId) -> Option<Far> {
        let all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        all.get(&job).map(|&(stage, _)| Far {
            words: stage.words(),
            share: f64::from(stage as u8) / f64::from(Stage::ALL),
        })
    }
}

/// Something that is being made.
pub(super) struct Going<'a> {
    all: &'a Underway,
    job: JobId,
}

impl Going<'_> {
    pub(super) fn at(&self, stage: Stage) {
        let mut all = self.all.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(going) = all.get_mut(&self.job) {
            going.0 = stage;
        }
    }
}

impl Drop for Going<'_> {
    fn drop(&mut self) {
        let mut all = self.all.0.lock().unwrap_or_else(PoisonError::into_inner);
        let left = all.get_mut(&self.job).map(|going| {
            going.1 -= 1;
            going.1
        });
        if left == Some(0) {
            all.remove(&self.job);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_newest_stage_is_told_until_all_are_done() {
        let underway = Underway::default();
        assert_eq!(underway.far(1), None);
        let first = underway.begin(1, Stage::Reading);
        let second = underway.begin(1, Stage::Checks);
        first.at(Stage::Curves);
        let far = underway.far(1).unwrap();
        assert_eq!(far.words, "fitting curves");
        assert!((far.share - 4.0 / 9.0).abs() < 1e-9);
        assert_eq!(underway.far(2), None);
        drop(first);
        assert!(underway.far(1).is_some());
        drop(second);
        assert_eq!(underway.far(1), None);
    }
}
