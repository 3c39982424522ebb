//! What is to come and what is really done, as paths of a drawing in mm, y down.

use std::fmt::Write as _;

use inky_devices::drives::Drives;
use inky_devices::dry;
use inky_devices::sender::Program;
use kurbo::{Point, Rect};

use crate::machines::kept::Kind;
use crate::machines::state::{Phase, Run};

/// A drawing of a stop.
pub(crate) struct Drawn {
    /// Left, top, width and height, mm.
    pub(crate) view: String,
    /// What is to come.
    pub(crate) planned: String,
    /// What is done by the machine's answers.
    pub(crate) done: String,
    /// Where the tool really was in the material, of a simulated machine.
    pub(crate) really: String,
    /// The greatest distance of that from what was sent, mm.
    pub(crate) farthest: Option<f64>,
}

/// From a machine's places, y up, to the drawing: a roll lies as it does under Sheet, its width to the right.
fn shown(p: Point, kind: Kind) -> Point {
    match kind {
        Kind::Cutter => Point::new(p.y, p.x),
        Kind::Laser | Kind::Printer => Point::new(p.x, -p.y),
    }
}

/// Room around the drawing, as a part of its longer side.
const ROOM: f64 = 0.03;

/// Points from which on a drawing is made coarser, to such a part of its longer side, and not measured while it grows.
const MANY: usize = 20_000;
const FINE: f64 = 3_000.0;

/// The strokes of each path, mm, y up.
pub(crate) type Paths = Vec<Vec<Vec<Point>>>;

/// The strokes of the stops that lie on the same stock as the one a run is at, up to that one.
pub(crate) fn on_the_stock(run: &Run, kind: Kind) -> Paths {
    let at = run.state.stop.min(run.stops.len().saturating_sub(1));
    let stock = run.stops.get(at).map(|s| &s.stock);
    let first = (0..=at)
        .rev()
        .take_while(|&n| run.stops.get(n).map(|s| &s.stock) == stock);
    let first = first.last().unwrap_or(at);
    let stops = run.stops.get(first..=at).unwrap_or_default();
    let Some(language) = kind.language() else {
        return Vec::new();
    };
    let strokes = stops.iter().flat_map(|s| {
        let mut machine = Drives::usual(language).machine(language);
        dry::strokes(&mut machine, &Program::of(language, &s.text))
    });
    strokes.collect()
}

/// Number of paths on the stock that are done.
fn done(run: &Run, paths: usize) -> usize {
    let own = run.stop().map_or(0, |s| s.paths);
    match run.state.phase {
        Phase::Finished => paths,
        _ => paths.saturating_sub(own) + run.state.done.min(own),
    }
}

/// Draws the stock that a run is at, of its paths; `really` is what a simulated machine did.
pub(crate) fn drawn(
    run: &Run,
    (paths, kind): (&Paths, Kind),
    really: Option<&[Vec<Point>]>,
) -> Drawn {
    let done = done(run, paths.len());
    let planned: Vec<Vec<Point>> = paths.iter().flatten().cloned().collect();
    let all = planned.iter().chain(really.unwrap_or_default()).flatten();
    // The marks of a printed page are seen with what is cut of it.
    let marks = run.stop().and_then(|s| s.marks.as_ref());
    let marks = marks.iter().flat_map(|m| m.found.iter().flatten());
    let boxes = all.chain(marks).map(|&p| shown(p, kind));
    let boxes = boxes.map(|p| Rect::from_points(p, p));
    let bounds = boxes.reduce(|a, b| a.union(b));
    let bounds = bounds.unwrap_or(Rect::new(0.0, 0.0, 10.0, 10.0));
    let room = ROOM * bounds.width().max(bounds.height());
    let view = bounds.inset(room);
    let points = planned.iter().map(Vec::len).sum::<usize>();
    // Of very many points those are left out that nobody could tell apart.
    let fine = match points {
        MANY.. => bounds.width().max(bounds.height()) / FINE,
        _ => 0.0,
    };
    let flat = |strokes: &mut dyn Iterator<Item = &Vec<Point>>| {
        let mut d = String::new();
        for stroke in strokes {
            let mut drawn: Option<Point> = None;
            for (n, p) in stroke.iter().map(|&p| shown(p, kind)).enumerate() {
                let near = drawn.is_some_and(|last| last.distance(p) < fine);
                if near && n + 1 < stroke.len() {
                    continue;
                }
                drawn = Some(p);
                let letter = if n == 0 { 'M' } else { 'L' };
                // A string takes whatever is written to it.
                let _ = write!(d, "{letter}{:.2} {:.2}", p.x, p.y);
            }
        }
        d
    };
    Drawn {
        view: format!(
            "{:.2} {:.2} {:.2} {:.2}",
            view.x0,
            view.y0,
            view.width(),
            view.height()
        ),
        planned: flat(&mut paths.iter().skip(done).flatten()),
        done: flat(&mut paths.iter().take(done).flatten()),
        really: flat(&mut really.unwrap_or_default().iter()),
        farthest: really
            .filter(|_| points < MANY || !matches!(run.state.phase, Phase::Running))
            .and_then(|r| dry::farthest_off(r, &planned)),
    }
}
