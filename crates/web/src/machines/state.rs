//! How a run stands.

use inky_devices::line::Address;
use inky_devices::sender::Known;
use inky_store::{Millis, Store, StoredRun};
use serde::{Deserialize, Serialize};

use crate::error::WebError;
use crate::machines::kept::{self, Kind};
use crate::machines::stops::Stop;
use crate::machines::under_way::Begin;

/// Where a run is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum Phase {
    /// Before a stop: the stock is to be loaded, or the trial piece looked at.
    Ready,
    /// Paths are being sent and done.
    Running,
    /// Nothing is sent until it goes on.
    Paused,
    /// Ended in the middle, by hand or by trouble.
    Broken,
    /// All is done.
    Finished,
    /// Left by somebody.
    Left,
}

/// How a run stands.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct State {
    pub(crate) phase: Phase,
    /// Number of the stop it is at.
    pub(crate) stop: usize,
    /// Paths of the stop that are done, and those that the machine has at least the beginning of.
    pub(crate) done: usize,
    pub(crate) begun: usize,
    /// The path to go on with where it is broken.
    #[serde(default)]
    pub(crate) next: usize,
    /// Time in which this stop ran, s.
    pub(crate) seconds: f64,
    /// Why it is broken, or what is done about a line that is gone, for people.
    #[serde(default)]
    pub(crate) why: String,
    /// Whether the tool may stand anywhere, see [`Known::cut_short`].
    #[serde(default)]
    pub(crate) cut_short: bool,
    /// How long stops took that ran through without a break.
    #[serde(default)]
    pub(crate) took: Vec<Took>,
}

/// How long a stop took.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Took {
    pub(crate) stop: usize,
    /// On the machine's own clock, s.
    pub(crate) seconds: f64,
}

impl State {
    /// Before a stop.
    pub(crate) const fn ready(stop: usize) -> Self {
        Self {
            phase: Phase::Ready,
            stop,
            done: 0,
            begun: 0,
            next: 0,
            seconds: 0.0,
            why: String::new(),
            cut_short: false,
            took: Vec::new(),
        }
    }

    /// Before another stop of the same run.
    pub(crate) fn before(&self, stop: usize) -> Self {
        Self {
            took: self.took.clone(),
            ..Self::ready(stop)
        }
    }

    /// The same in another phase.
    pub(crate) fn at(&self, phase: Phase) -> Self {
        Self {
            phase,
            ..self.clone()
        }
    }

    /// Broken off by a stop, with what is done as the place to go on from.
    pub(crate) fn broken(&self, why: impl ToString) -> Self {
        Self {
            next: self.done,
            cut_short: true,
            why: why.to_string(),
            ..self.at(Phase::Broken)
        }
    }

    /// Broken off with nobody at the line: what a cutter holds it cuts all the same, a laser puts its beam out.
    pub(crate) fn left_alone(&self, kind: Kind, why: impl ToString) -> Self {
        let next = match kind {
            Kind::Cutter => self.begun,
            Kind::Laser | Kind::Printer => self.done,
        };
        Self {
            next,
            cut_short: false,
            ..self.broken(why)
        }
    }

    /// How it goes on where it is broken.
    pub(crate) const fn where_it_stands(&self) -> Begin {
        Begin::WhereItStands(Known {
            certain: self.done,
            likely: self.next,
            cut_short: self.cut_short,
        })
    }

    /// Keeps it, with what was said since it was kept last.
    pub(crate) fn keep(&self, store: &Store, run: i64, said: &str) -> Result<(), WebError> {
        let ended = matches!(self.phase, Phase::Finished | Phase::Left).then(now);
        Ok(store.keep_run(run, &serde_json::to_string(self)?, ended, said)?)
    }
}

/// Milliseconds since 1970 (UTC).
pub(crate) fn now() -> Millis {
    jiff::Timestamp::now().as_millisecond()
}

/// A run with what it sends and how it stands.
#[derive(Clone, Debug)]
pub(crate) struct Run {
    pub(crate) stored: StoredRun,
    pub(crate) stops: Vec<Stop>,
    pub(crate) state: State,
}

impl Run {
    pub(crate) fn of(stored: StoredRun) -> Result<Self, WebError> {
        Ok(Self {
            stops: serde_json::from_str(&stored.stops)?,
            state: serde_json::from_str(&stored.state)?,
            stored,
        })
    }

    /// One by its number.
    pub(crate) fn one(store: &Store, id: i64) -> Result<Self, WebError> {
        Self::of(store.run(id)?.ok_or(WebError::NoPage)?)
    }

    /// Keeps what it sends, as it is now.
    pub(crate) fn keep_stops(&self, store: &Store) -> Result<(), WebError> {
        Ok(store.change_stops(self.stored.id, &serde_json::to_string(&self.stops)?)?)
    }

    /// The stop it is at; the last where all are done.
    pub(crate) fn stop(&self) -> Option<&Stop> {
        self.stops.get(self.state.stop).or(self.stops.last())
    }

    /// Whether that lies on the stock whose trial piece was cut right before.
    pub(crate) fn follows_its_trial(&self) -> bool {
        let before = self.state.stop.checked_sub(1);
        let before = before.and_then(|n| self.stops.get(n));
        let stop = self.stop().map(|s| &s.stock);
        before.is_some_and(|b| b.trial && Some(&b.stock) == stop)
    }
}

/// What ran when the program ended did not go on: it is said so, and nothing starts by itself.
pub(crate) fn interrupted(store: &Store) -> Result<(), WebError> {
    for stored in store.queue(None)? {
        let run = Run::of(stored)?;
        if matches!(run.state.phase, Phase::Running | Phase::Paused) {
            let machine = kept::one(store, run.stored.machine)?.machine;
            let address: Result<Address, _> = machine.address.parse();
            let why = "the program was ended while it ran";
            let state = State {
                cut_short: address.is_ok_and(|a| a.parts_instructions()),
                ..run.state.left_alone(machine.kind, why)
            };
            state.keep(store, run.stored.id, "the program was ended\n")?;
        }
    }
    Ok(())
}
