//! How far a job is, as its card on the Jobs page says it: what the checks found when it was last looked at, and
//! which file was taken away last.

use inky_core::check::Severity;
use inky_store::{Job, JobId, Millis, Store};
use serde::{Deserialize, Serialize};

use crate::error::WebError;
use crate::text;
use crate::workshop::Outcome;

/// Kinds under which the store keeps it.
const FOUND: &str = "found";
const SENT: &str = "sent";

/// What is there to cut and what the checks say of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Found {
    /// Shapes and strokes.
    parts: usize,
    /// Kinds of findings that stand in the way.
    stops: usize,
    /// Kinds of findings to look at.
    warnings: usize,
}

impl Found {
    /// Of an outcome that was checked.
    pub(crate) fn of(outcome: &Outcome) -> Option<Self> {
        let checked = outcome.if_checked()?;
        Some(Self {
            parts: outcome.design.shapes.len() + outcome.design.strokes.len(),
            stops: checked.kinds(|s| s == Severity::Stop),
            warnings: checked.kinds(|s| s == Severity::Warn),
        })
    }

    /// Keeps it for a revision of the job.
    pub(crate) fn keep(&self, store: &Store, job: JobId, revision: i64) -> Result<(), WebError> {
        let (made_from, body) = (revision.to_string(), serde_json::to_vec(self)?);
        if store.result(job, FOUND, &made_from)?.as_ref() != Some(&body) {
            store.keep_result(job, FOUND, &made_from, &body)?;
        }
        Ok(())
    }
}

/// A file that was taken away.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Sent {
    /// Its format, as the page calls it.
    pub(crate) format: String,
    pub(crate) at: Millis,
    /// The revision it was made of.
    pub(crate) revision: i64,
}

impl Sent {
    /// Keeps it as the latest.
    pub(crate) fn keep(&self, store: &Store, job: JobId) -> Result<(), WebError> {
        Ok(store.keep_result(job, SENT, SENT, &serde_json::to_vec(self)?)?)
    }
}

/// What a card says.
pub(crate) struct State {
    /// `stop`, `warn`, `ready`, `sent`, or `unknown` where nobody has looked yet.
    pub(crate) word: &'static str,
    pub(crate) told: String,
}

/// How far a job is.
pub(crate) fn state(store: &Store, job: &Job) -> Result<State, WebError> {
    let read = |kind: &str, made_from: &str| store.result(job.id, kind, made_from);
    let found = read(FOUND, &job.revision.to_string())?;
    let found: Option<Found> = found.and_then(|body| serde_json::from_slice(&body).ok());
    let sent: Option<Sent> = read(SENT, SENT)?.and_then(|body| serde_json::from_slice(&body).ok());
    Ok(words(found, sent.as_ref(), job.revision))
}

fn words(found: Option<Found>, sent: Option<&Sent>, revision: i64) -> State {
    let state = |word, told: String| State { word, told };
    let Some(found) = found else {
        return state("unknown", "not looked at yet".to_owned());
    };
    let as_it_is = sent.filter(|s| s.revision == revision);
    let changed = match sent {
        Some(s) if s.revision != revision => {
            format!(", changed since it was sent {}", text::moment(s.at))
        }
        _ => String::new(),
    };
    if found.parts == 0 {
        state("stop", "nothing to cut yet".to_owned())
    } else if let Some(s) = as_it_is {
        state(
            "sent",
            format!("sent as {}, {}", s.format, text::moment(s.at)),
        )
    } else if found.stops > 0 {
        let things = text::some(found.stops, "check");
        state("stop", format!("{things} in the way of cutting{changed}"))
    } else if found.warnings > 0 {
        let checks = text::some(found.warnings, "check");
        state("warn", format!("{checks} to look at{changed}"))
    } else {
        state("ready", format!("ready to cut{changed}"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_card_says_what_is_left_to_do() {
        let found = |parts, stops, warnings| {
            Some(Found {
                parts,
                stops,
                warnings,
            })
        };
        let sent = |revision| Sent {
            format: "HPGL".to_owned(),
            at: 0,
            revision,
        };
        for (state, word, told) in [
            (words(None, None, 3), "unknown", "not looked at yet"),
            (words(found(0, 0, 0), None, 3), "stop", "nothing to cut yet"),
            (
                words(found(4, 1, 2), None, 3),
                "stop",
                "1 check in the way of cutting",
            ),
            (
                words(found(4, 0, 2), None, 3),
                "warn",
                "2 checks to look at",
            ),
            (words(found(4, 0, 0), None, 3), "ready", "ready to cut"),
            (
                words(found(4, 0, 2), Some(&sent(3)), 3),
                "sent",
                "sent as HPGL, 1 Jan 1970",
            ),
            (
                words(found(4, 0, 0), Some(&sent(2)), 3),
                "ready",
                "ready to cut, changed since it was sent 1 Jan 1970",
            ),
        ] {
            assert_eq!((state.word, state.told.as_str()), (word, told));
        }
    }
}
