//! Runs under way: a thread for each, that speaks to its machine and keeps what is really done as it goes.

use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, OnceLock};
use std::time::{Duration, Instant};

use inky_devices::line::{self, Address, Lost, Said, Wish};
use inky_devices::sender::{Known, Program, Sender, Stand};
use inky_store::{MachineId, RunId, Store};

use crate::Shop;
use crate::error::{WebError, wrong};
use crate::machines::drawn::Paths;
use crate::machines::kept::{self, Kind, Loaded, Machine};
use crate::machines::lock;
use crate::machines::pace::Clock;
use crate::machines::printing;
use crate::machines::state::{Phase, Run, State};

/// A run that a machine is at.
#[derive(Debug)]
pub(crate) struct Live {
    pub(crate) run: RunId,
    wish: Mutex<Wish>,
    state: Mutex<State>,
    /// Whether what it did last could not be kept.
    unkept: AtomicBool,
    paths: OnceLock<Paths>,
}

/// With which path a stop begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Begin {
    /// With this one.
    At(usize),
    /// With the one that the machine says, asked where it stands.
    WhereItStands(Known),
}

impl Begin {
    const fn path(self) -> usize {
        match self {
            Self::At(path) | Self::WhereItStands(Known { likely: path, .. }) => path,
        }
    }

    const fn certain(self) -> usize {
        match self {
            Self::At(path) | Self::WhereItStands(Known { certain: path, .. }) => path,
        }
    }
}

/// What every machine is at.
#[derive(Clone, Debug, Default)]
pub(crate) struct UnderWay(Arc<Mutex<BTreeMap<MachineId, Arc<Live>>>>);

/// How often what is done is kept.
const KEEP: Duration = Duration::from_millis(200);

impl Live {
    /// How it stands at this moment.
    pub(crate) fn state(&self) -> State {
        lock(&self.state).clone()
    }

    /// Whether what it did last could not be kept: it goes on, and that is kept later.
    pub(crate) fn is_unkept(&self) -> bool {
        self.unkept.load(Ordering::Relaxed)
    }

    /// What it sends, made when it is first looked at.
    pub(crate) fn paths(&self, make: impl FnOnce() -> Paths) -> &Paths {
        self.paths.get_or_init(make)
    }

    /// What is wanted of it.
    pub(super) fn wished(&self) -> Wish {
        *lock(&self.wish)
    }

    /// It runs, or is paused.
    pub(super) fn is_at(&self, phase: Phase) {
        lock(&self.state).phase = phase;
    }

    /// What somebody wants of it; a stop stays one.
    pub(crate) fn wish(&self, wish: Wish) {
        let mut now = lock(&self.wish);
        if *now != Wish::Stop {
            *now = wish;
        }
    }
}

impl UnderWay {
    /// The run that a machine is at.
    pub(crate) fn of(&self, machine: MachineId) -> Option<Arc<Live>> {
        lock(&self.0).get(&machine).cloned()
    }

    /// A run as it stands at this moment. One that runs by what was kept of it, and is at no machine, ended without
    /// that being kept.
    pub(crate) fn now(&self, mut run: Run, kind: Kind) -> Run {
        let live = self.of(run.stored.machine);
        match live.filter(|l| l.run == run.stored.id) {
            Some(live) => run.state = live.state(),
            None if matches!(run.state.phase, Phase::Running | Phase::Paused) => {
                run.state = run.state.left_alone(kind, "how it ended could not be kept");
            }
            None => {}
        }
        run
    }

    /// Sends the stop that a run is at, while nothing else is sent to that machine.
    pub(crate) fn begin(
        &self,
        shop: &Shop,
        run: &Run,
        begin: Begin,
        address: &Address,
        machine: &Machine,
    ) -> Result<(), WebError> {
        let (store, kind, mute) = (&shop.store, machine.kind, machine.mute);
        let mut clock = Clock::of(&shop.simulated, machine, begin == Begin::At(0));
        let machine = run.stored.machine;
        let stop = run.stop().ok_or(WebError::NoPage)?;
        let program = kind
            .language()
            .map(|language| Program::of(language, &stop.text));
        let state = State {
            phase: Phase::Running,
            done: begin.certain(),
            begun: begin.path(),
            why: String::new(),
            ..run.state.clone()
        };
        let live = Arc::new(Live {
            run: run.stored.id,
            wish: Mutex::new(Wish::GoOn),
            state: Mutex::new(state.clone()),
            unkept: AtomicBool::new(false),
            paths: OnceLock::new(),
        });
        {
            let mut all = lock(&self.0);
            if all.contains_key(&machine) {
                return Err(wrong(
                    "run",
                    "the machine is at another run; wait until that ends",
                ));
            }
            all.insert(machine, Arc::clone(&live));
        }
        // Whatever becomes of the run, the machine is free after it.
        let left = Free(self.clone(), machine);
        let said = format!(
            "stop {} from path {} to {address}\n",
            state.stop + 1,
            begin.path() + 1
        );
        state.keep(store, run.stored.id, &said)?;
        let (store, run, address) = (store.clone(), run.clone(), address.clone());
        let sender = program.map(|program| match begin {
            // It cannot say where it stands.
            _ if mute => Sender::to_mute(program, begin.path()),
            Begin::At(path) => Sender::new(program, path),
            Begin::WhereItStands(known) => Sender::going_on(program, known),
        });
        let spawned = std::thread::Builder::new()
            .name("run".to_owned())
            .spawn(move || {
                let (state, said) = match sender {
                    Some(sender) => {
                        let to = (&address, kind, &mut clock);
                        speak(&store, &run, sender, to, &live)
                    }
                    None => printing::hand_over(&run, &address, &live),
                };
                let kept = ended(&store, &run, state, &said);
                if let Err(error) = kept {
                    tracing::error!(run = run.stored.id, %error, "how a run ended was not kept");
                }
                drop(left);
            });
        spawned
            .map(drop)
            .map_err(|e| WebError::Internal(e.to_string()))
    }
}

/// Takes a machine's run off when it goes.
struct Free(UnderWay, MachineId);

impl Drop for Free {
    fn drop(&mut self) {
        lock(&self.0.0).remove(&self.1);
    }
}

/// Sends, and keeps now and then how far it is; how it ended, with what was not kept yet.
fn speak(
    store: &Store,
    run: &Run,
    mut sender: Sender,
    (address, kind, clock): (&Address, Kind, &mut Clock),
    live: &Live,
) -> (State, String) {
    let began = Instant::now();
    let (mut said, mut kept, mut last) = (String::new(), began, began);
    let mut wish = || live.wished();
    let mut told = |sender: &Sender, words: Said<'_>| {
        write_down(&mut said, began.elapsed(), words);
        let mut state = lock(&live.state);
        (state.done, state.begun) = (sender.done(), sender.begun());
        let phase = match sender.stand() {
            Stand::Paused => Phase::Paused,
            _ => Phase::Running,
        };
        let turned = phase != state.phase;
        state.phase = phase;
        clock.goes(last.elapsed().as_secs_f64(), phase);
        if phase == Phase::Running {
            state.seconds += last.elapsed().as_secs_f64();
        }
        last = Instant::now();
        if turned || kept.elapsed() > KEEP {
            let now = state.clone();
            // Nobody waits for the disk.
            drop(state);
            kept = Instant::now();
            let is_kept = now.keep(store, run.stored.id, &said);
            live.unkept.store(is_kept.is_err(), Ordering::Relaxed);
            match is_kept {
                Ok(()) => said.clear(),
                Err(error) => {
                    tracing::error!(run = run.stored.id, %error, "how far a run is was not kept");
                }
            }
        }
    };
    let gone = line::speak(&mut sender, address, &mut wish, &mut told);
    let mut state = live.state();
    (state.done, state.begun) = (sender.done(), sender.begun());
    let state = match (gone, sender.stand()) {
        (Err(why @ Lost::Gone), _) => {
            let known = Known {
                certain: sender.done(),
                likely: sender.begun(),
                cut_short: address.parts_instructions(),
            };
            lock(&live.state).why = format!("{why}; it is asked where it stands");
            let mut told =
                |_: &Sender, words: Said<'_>| write_down(&mut said, began.elapsed(), words);
            let found = match run.stop().zip(kind.language()) {
                Some((stop, language)) if !sender.is_mute() => {
                    let program = Program::of(language, &stop.text);
                    line::ask_again(program, known, address, &mut wish, &mut told)
                }
                _ => None,
            };
            match found {
                Some(done) => State { done, ..state }.broken(format!(
                    "{why}; it is back, and the machine has told where it stands"
                )),
                None => State {
                    // A stop raised the tool wherever it was.
                    cut_short: known.cut_short || live.wished() == Wish::Stop,
                    ..state.left_alone(kind, why)
                },
            }
        }
        (Err(why), _) => state.broken(why),
        (Ok(()), Stand::Failed(why)) => state.broken(why),
        (Ok(()), Stand::Finished) => {
            state.took.extend(clock.took(state.stop));
            state.at(Phase::Finished)
        }
        (Ok(()), _) => state.broken("by hand"),
    };
    (state, said)
}

/// One line for what was written, one for what was heard.
fn write_down(said: &mut String, at: Duration, words: Said<'_>) {
    for (way, bytes) in [('>', words.written), ('<', words.heard)] {
        if !bytes.is_empty() {
            // A string takes whatever is written to it.
            let _ = writeln!(
                said,
                "{:9.3} {way} {}",
                at.as_secs_f64(),
                bytes.escape_ascii()
            );
        }
    }
}

/// A stop is over: the next one waits for its stock, or the run is finished. What was used is gone from the roll.
fn ended(store: &Store, run: &Run, state: State, said: &str) -> Result<(), WebError> {
    let last = state.stop + 1 >= run.stops.len();
    let used = match (state.phase, run.stop()) {
        (Phase::Finished, Some(stop)) if !stop.trial => stop.used,
        _ => 0.0,
    };
    let next = match state.phase {
        Phase::Finished if !last => state.before(state.stop + 1),
        _ => state,
    };
    next.keep(store, run.stored.id, said)?;
    if used > 0.0 {
        let mut machine = kept::one(store, run.stored.machine)?;
        if let Some(Loaded {
            left: Some(left), ..
        }) = &mut machine.machine.loaded
        {
            *left = (*left - used).max(0.0);
            kept::keep(store, &machine)?;
        }
    }
    Ok(())
}
