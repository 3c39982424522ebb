//! Machines and their runs in words and figures.

use inky_core::units::Unit;

use crate::job::sheet::shown::duration;
use crate::machines::drawn::Drawn;
use crate::machines::kept::{Does, Kind, Listed, Machine};
use crate::machines::marks::shown::{self as marks, Lying, MarksShown};
use crate::machines::state::{Phase, Run};
use crate::text;

/// A machine in the list.
pub(crate) struct Card {
    pub(crate) id: i64,
    pub(crate) name: String,
    pub(crate) told: String,
    pub(crate) does: String,
    pub(crate) open: bool,
}

/// A row of a name and what it is.
pub(crate) type Fact = (&'static str, String);

/// A stop of the run that is looked at.
pub(crate) struct StopRow {
    pub(crate) name: String,
    pub(crate) told: String,
    /// `done`, `now` or `later`.
    pub(crate) state: &'static str,
}

/// The run that a machine is at, or has to do next.
pub(crate) struct Work {
    pub(crate) run: i64,
    pub(crate) job: Option<i64>,
    pub(crate) title: String,
    pub(crate) phase: &'static str,
    pub(crate) stops: Vec<StopRow>,
    /// What is to be done now, in a sentence.
    pub(crate) ask: String,
    pub(crate) go: &'static str,
    pub(crate) why: String,
    /// The path to go on with, from 1, and how many there are.
    pub(crate) next: usize,
    pub(crate) paths: usize,
    /// Whether it can be gone on with in the midst.
    pub(crate) in_paths: bool,
    pub(crate) unit: &'static str,
    /// The marks of the printed page that it begins with.
    pub(crate) marks: Option<MarksShown>,
}

/// Figures that change while it runs.
pub(crate) struct Figures {
    pub(crate) machine: i64,
    /// How it is known what is done; empty where nothing is drawn of it.
    pub(crate) by: &'static str,
    /// Whether what was done last could not be kept.
    pub(crate) unkept: bool,
    pub(crate) phase: &'static str,
    pub(crate) lasts: bool,
    pub(crate) percent: u32,
    pub(crate) told: String,
    pub(crate) drawn: Drawn,
    pub(crate) farthest: String,
    /// The printed sheet that lies on it.
    pub(crate) lying: Option<Lying>,
}

/// A run that is over.
pub(crate) struct RunRow {
    pub(crate) id: i64,
    pub(crate) title: String,
    pub(crate) told: String,
}

const fn word(phase: Phase) -> &'static str {
    match phase {
        Phase::Ready => "ready",
        Phase::Running => "running",
        Phase::Paused => "paused",
        Phase::Broken => "broken",
        Phase::Finished => "finished",
        Phase::Left => "left",
    }
}

/// The list.
pub(crate) fn card(listed: &Listed, open: bool, run: Option<&Run>) -> Card {
    let machine = &listed.machine;
    let does = match run.map(|r| r.state.phase) {
        None => "free",
        Some(Phase::Ready) => "waits for you",
        Some(Phase::Running) => "at work",
        Some(Phase::Paused) => "paused",
        Some(_) => "stands still",
    };
    Card {
        id: listed.id,
        name: machine.name.clone(),
        told: match machine.address.as_str() {
            "" => format!("simulated {}", machine.kind.word()),
            address => format!("{} at {address}", machine.kind.word()),
        },
        does: does.to_owned(),
        open,
    }
}

/// What a machine is and has loaded.
pub(crate) fn facts(listed: &Listed, address: &str, unit: Unit) -> Vec<Fact> {
    let machine = &listed.machine;
    let [first, second] = machine.reach.map(|mm| unit.length(mm, 0));
    let reach = match machine.kind {
        Kind::Cutter => format!("{second} wide, {first} long"),
        Kind::Laser => format!("{first} × {second}"),
        Kind::Printer => format!("{first} wide, {second} long"),
    };
    let loaded = match &machine.loaded {
        None => "nothing yet".to_owned(),
        Some(l) => match l.left {
            Some(left) => format!("{}, {} left", l.name, unit.length(left, 0)),
            None => l.name.clone(),
        },
    };
    let address = match machine.mute {
        true => format!("{address}, answers nothing"),
        false => address.to_owned(),
    };
    let facts = [
        ("Address", address),
        ("Reaches", reach),
        ("Fastest", format!("{:.0} mm/s", machine.speed)),
        // Paper is not kept count of.
        match machine.kind {
            Kind::Printer => (
                "Leaves white",
                format!("{} at each edge", unit.length(machine.white, 0)),
            ),
            Kind::Cutter | Kind::Laser => ("Loaded", loaded),
        },
    ];
    facts.into()
}

/// What a machine is at.
pub(crate) fn work(run: &Run, machine: &Machine, unit: Unit) -> Work {
    let (state, kind) = (&run.state, machine.kind);
    let stops = run.stops.iter().enumerate().map(|(n, stop)| StopRow {
        name: match stop.trial {
            true => format!("{}, trial piece", stop.stock),
            false => stop.stock.clone(),
        },
        told: format!(
            "{} · {}",
            text::some(stop.paths, kind.counts()),
            duration(stop.seconds)
        ),
        state: match n.cmp(&state.stop) {
            std::cmp::Ordering::Less => "done",
            std::cmp::Ordering::Equal if state.phase == Phase::Finished => "done",
            std::cmp::Ordering::Equal => "now",
            std::cmp::Ordering::Greater => "later",
        },
    });
    let stop = run.stop();
    let (ask, go) = match (state.phase, stop) {
        (Phase::Ready, Some(stop)) => {
            let does = machine.does_for(&stop.stock, stop.used);
            if run.follows_its_trial() {
                (
                    "Look at the trial piece. If it is cut as it should be, the rest follows."
                        .to_owned(),
                    "It is right: go on",
                )
            } else if let Some(marks) = &stop.marks {
                let ask = match (marks.all_found(), kind) {
                    (true, _) => {
                        "Its marks are found. The cut is moved to where the page lies.".to_owned()
                    }
                    (false, Kind::Cutter) => format!(
                        "Lay the printed page, {}, face up with its upper left corner in the corner of the cutter and its height along the roll.",
                        stop.size
                    ),
                    (false, _) => format!(
                        "Lay the printed page, {}, face up with its lower left corner in the corner of the bed.",
                        stop.size
                    ),
                };
                let go = match (marks.all_found(), kind) {
                    (true, _) => "Cut there",
                    (false, Kind::Cutter) if !machine.mute => {
                        "It lies there: find its marks, and cut"
                    }
                    _ => "Cut",
                };
                (ask, go)
            } else if stop.is_printed_page() {
                (
                    format!(
                        "Put paper in, {}. It is printed in its true size.",
                        stop.size
                    ),
                    "It is in: print",
                )
            } else if kind == Kind::Printer {
                (
                    format!(
                        "Put paper in for {}, {}. Its lines are printed in their true size.",
                        stop.stock, stop.size
                    ),
                    "It is in: print",
                )
            } else if let Does::TooLittle(left) = does {
                (
                    format!(
                        "{} is loaded, but {} are left of it, and {} are needed. Load {}.",
                        stop.stock,
                        unit.length(left, 0),
                        unit.length(stop.used.ceil(), 0),
                        stop.size
                    ),
                    "A new one is loaded: go on",
                )
            } else if does == Does::Well {
                (
                    format!(
                        "{} is loaded. Set the origin where the cut begins.",
                        stop.stock
                    ),
                    "Begin",
                )
            } else {
                (
                    format!(
                        "Load {}, {}, and set the origin where the cut begins.",
                        stop.stock, stop.size
                    ),
                    "It is loaded: go on",
                )
            }
        }
        (Phase::Paused, _) => (
            "Paused: what was begun is cut to its end, then the tool is up.".to_owned(),
            "Go on",
        ),
        (Phase::Broken, Some(_)) if kind == Kind::Printer => (
            "It was sent in part. Look what came out before you send it again.".to_owned(),
            "Send it again",
        ),
        (Phase::Broken, Some(stop)) => (
            format!(
                "{} of {} paths are done for certain. Look before you go on: what is done is not cut again unless you ask for an earlier path.",
                state.done, stop.paths
            ),
            "Go on",
        ),
        _ => (String::new(), ""),
    };
    Work {
        run: run.stored.id,
        job: run.stored.job,
        title: run.stored.title.clone(),
        phase: word(state.phase),
        stops: stops.collect(),
        ask,
        go,
        why: state.why.clone(),
        next: stop.map_or(1, |s| (state.next + 1).min(s.paths)),
        paths: stop.map_or(0, |s| s.paths),
        in_paths: kind.language().is_some(),
        unit: unit.symbol(),
        marks: marks::marks(run, machine, unit),
    }
}

/// Time that the stop it is at still takes, s: by the pace so far, once there is one.
pub(super) fn left_of_stop(run: &Run) -> f64 {
    let state = &run.state;
    let Some(stop) = run.stop().filter(|_| state.phase != Phase::Finished) else {
        return 0.0;
    };
    let share = state.done as f64 / stop.paths.max(1) as f64;
    match share {
        0.05.. if state.seconds > 0.0 => state.seconds * (1.0 - share) / share,
        _ => stop.seconds * (1.0 - share),
    }
}

/// How far it is.
pub(crate) fn figures(listed: &Listed, run: &Run, drawn: Drawn, unit: Unit) -> Figures {
    let state = &run.state;
    let paths = run.stop().map_or(0, |s| s.paths);
    let prints = listed.machine.kind == Kind::Printer;
    let what = listed.machine.kind.counts();
    let done = match state.phase {
        Phase::Finished => paths,
        _ => state.done,
    };
    let share = done as f64 / paths.max(1) as f64;
    let told = match state.phase {
        Phase::Running if !state.why.is_empty() => format!("{}.", state.why),
        Phase::Running | Phase::Paused => format!(
            "{done} of {} · about {} left",
            text::some(paths, what),
            duration(left_of_stop(run))
        ),
        _ => format!("{done} of {}", text::some(paths, what)),
    };
    let farthest = drawn.farthest.map_or_else(String::new, |mm| {
        format!(
            "Really cut: {} off what was sent, at most.",
            unit.length(mm, 3)
        )
    });
    Figures {
        machine: listed.id,
        by: match listed.machine.mute {
            _ if prints => "",
            true => "done, as far as the line took it",
            false => "done, by its answers",
        },
        unkept: false,
        phase: word(state.phase),
        lasts: matches!(state.phase, Phase::Running | Phase::Paused),
        percent: (share * 100.0).floor() as u32,
        told,
        drawn,
        farthest,
        lying: None,
    }
}

/// A run that is over.
pub(crate) fn row(run: &Run) -> RunRow {
    let who = who(run);
    let told = match (run.state.phase, run.stored.ended) {
        (Phase::Finished, Some(at)) => format!("{who}finished {}", text::moment(at)),
        (_, at) => format!(
            "{who}left {} after {}",
            at.map_or_else(String::new, text::moment),
            text::some(run.state.stop, "stop")
        ),
    };
    RunRow {
        id: run.stored.id,
        title: run.stored.title.clone(),
        told,
    }
}

/// Who asked for it, before what is told of it.
pub(super) fn who(run: &Run) -> String {
    match run.stored.person.as_str() {
        "" => String::new(),
        person => format!("{person} · "),
    }
}
