//! Plan: in which order and how fast the lines of a page are run, and how long that takes.
//!
//! ```text
//!   Cutting ──paths──► groups ──tour, starts──► order ──lead, overcut──► Plan ──motion──► seconds
//!             engrave │ draw │ score │ kiss cut │ cut through; within each by layer, inside before outside
//! ```
//!
//! In: a [`Cutting`], mm, y down. Out: a [`Plan`], every path with the way to it. The tool starts at
//! the lower left of the page and goes back there. What was pulled by hand comes last and is kept.
//! Not here: the words of a machine (`formats`), pulling the blade ([`blade::holder`]).

pub mod blade;
pub mod hatch;
mod lead;
mod marks;
pub mod motion;
pub mod page;
mod paths;
mod starts;
pub mod tour;

use kurbo::{Line, Point};
use serde::{Deserialize, Serialize};

use crate::cutting::{CutLayer, Cutting};
use crate::material::{Beam, Laser, Material, Operation, Tool};
use crate::segment::Segment;
use hatch::Row;
pub use marks::Mark;
use marks::Marks;
use motion::Motion;
use starts::Start;
use tour::{Turn, Visit};

/// Names a path of a page: its layer, and its number among the layer's rings and lines.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct PathKey {
    /// Number of the layer.
    pub layer: usize,
    /// Number of the path in it.
    pub path: usize,
}

/// A path pulled earlier or later by hand. Its marks say which paths are meant when the page has changed
/// since; without them the numbers do.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Pull {
    /// The path.
    pub path: PathKey,
    /// The one it is run before; `None` is the end.
    pub before: Option<PathKey>,
    /// What the path was like.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub path_mark: Option<Mark>,
    /// What the other one was like.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub before_mark: Option<Mark>,
}

impl Pull {
    /// A path of a plan pulled before another one, or to the end.
    #[must_use]
    pub fn of(plan: &Plan, path: PathKey, before: Option<PathKey>) -> Self {
        let marks = Marks::of(&plan.steps);
        Self {
            path,
            before,
            path_mark: marks.mark(path),
            before_mark: before.and_then(|key| marks.mark(key)),
        }
    }

    /// The paths that are meant on a page now; `None` where they are no more.
    fn found(&self, page: &Marks) -> Option<(PathKey, Option<PathKey>)> {
        let find = |key: PathKey, mark: &Option<Mark>| match mark {
            Some(mark) => page.find(mark, key),
            None => page.mark(key).map(|_| key),
        };
        let before = match self.before {
            Some(key) => Some(find(key, &self.before_mark)?),
            None => None,
        };
        Some((find(self.path, &self.path_mark)?, before))
    }
}

/// What is chosen of a plan.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct PlanChoice {
    /// What was pulled by hand, in turn.
    pub pulled: Vec<Pull>,
    /// Length of a laser's lead-in, mm; `None` is [`LEAD`], nought is none.
    pub lead: Option<f64>,
}

/// What the tool follows.
#[derive(Clone, Debug, PartialEq)]
pub enum Course {
    /// A line.
    Line(Vec<Segment>),
    /// The rows of an engraved area, from where it is begun.
    Rows(Vec<Row>),
}

/// A path in its turn.
#[derive(Clone, Debug, PartialEq)]
pub struct PlannedPath {
    /// Which path it is.
    pub key: PathKey,
    /// What is done.
    pub operation: Operation,
    /// What is followed, from where it is begun.
    pub course: Course,
    /// Whether it ends where it begins.
    pub closed: bool,
    /// The way onto it from the waste.
    pub lead: Option<Line>,
    /// What is cut once more past the end.
    pub over: Vec<Segment>,
    /// How often it is run.
    pub passes: u32,
    /// Speed, mm/s.
    pub speed: f64,
    /// The way to it, mm.
    pub travel: f64,
    /// Time for that way and the tool's lifting, s.
    pub travel_seconds: f64,
    /// Length that is run in all passes, mm.
    pub length: f64,
    /// Time for that, s.
    pub seconds: f64,
}

/// All paths in their order.
#[derive(Clone, Debug, PartialEq)]
pub struct Plan {
    /// Where the tool waits before and after.
    pub home: Point,
    /// The paths in turn.
    pub steps: Vec<PlannedPath>,
    /// The way back at the end, mm.
    pub back: f64,
    /// Time for it, s.
    pub back_seconds: f64,
    /// How many pulls by hand were about paths that are no more, and were left out.
    pub forgotten: usize,
}

/// Length of a lead-in unless it is chosen, mm.
pub const LEAD: f64 = 2.0;
/// Speed of a tool that no material names a speed for, mm/s.
const SPEED: f64 = 100.0;
/// Kicks for each path, and at most in all.
const KICKS: (usize, usize) = (12, 6_000);
/// Points along a line err by at most this when its time is taken, mm.
const TOLERANCE: f64 = 0.02;

/// How a layer's lines are run: speed, mm/s, and passes.
#[must_use]
pub fn run(material: &Material, operation: Operation) -> (f64, u32) {
    match (material.tool, &material.blade, &material.laser) {
        (Tool::Blade, Some(b), _) => (b.speed, b.passes),
        (Tool::Laser, _, Some(l)) => {
            let beam = beam(l, operation);
            (beam.speed, beam.passes)
        }
        _ => (SPEED, 1),
    }
}

/// What a laser is set to for an operation.
#[must_use]
pub const fn beam(laser: &Laser, operation: Operation) -> &Beam {
    if operation.cuts() {
        &laser.cut
    } else {
        &laser.engrave
    }
}

/// Where the tool waits: the lower left of the page.
fn home(cutting: &Cutting) -> Point {
    Point::new(0.0, cutting.size[1])
}

/// Plans the lines of a page.
#[must_use]
pub fn plan(cutting: &Cutting, choice: &PlanChoice) -> Plan {
    let home = home(cutting);
    let mut at = home;
    let mut steps: Vec<PlannedPath> = Vec::new();
    let mut groups: Vec<(usize, &CutLayer)> = cutting.layers.iter().enumerate().collect();
    let rank = |o: Operation| Operation::ALL.iter().position(|&a| a == o);
    groups.sort_by_key(|(n, layer)| (rank(layer.operation), *n));
    let leads = Leads {
        waste: lead::Waste::of(cutting),
        length: choice.lead.unwrap_or(LEAD),
    };
    let last = groups.len();
    for (turn, (number, layer)) in groups.into_iter().enumerate() {
        let end = (turn + 1 == last).then_some(home);
        let made = group(paths::of(number, layer), layer, (at, end), &leads);
        if let Some(step) = made.last() {
            at = step.end();
        }
        steps.extend(made);
    }
    let forgotten = pull(&mut steps, &choice.pulled);
    Plan {
        forgotten,
        ..timed(cutting, home, steps)
    }
}

/// The paths of one layer in their order.
fn group(
    paths: Vec<paths::Path>,
    layer: &CutLayer,
    (from, end): (Point, Option<Point>),
    leads: &Leads,
) -> Vec<PlannedPath> {
    if paths.is_empty() {
        return Vec::new();
    }
    let visit = |path: &paths::Path, place: &Start| Visit {
        from: place.from,
        to: place.to,
        before: path.before,
    };
    let mut visits: Vec<Visit> = paths.iter().map(|p| visit(p, &p.places[0])).collect();
    let kicks = (KICKS.0 * paths.len()).min(KICKS.1);
    let mut turns = tour::tour(&visits, from, end, kicks / 4);
    let mut chosen = vec![0; paths.len()];
    for round in 0..2 {
        choose(&paths, &turns, (from, end), &mut chosen);
        for (n, path) in paths.iter().enumerate() {
            visits[n] = visit(path, &path.places[chosen[n]]);
        }
        let kicks = if round == 0 { kicks } else { kicks / 4 };
        turns = tour::improved(&visits, &turns, from, end, kicks);
    }
    choose(&paths, &turns, (from, end), &mut chosen);
    let (speed, passes) = run(&layer.material, layer.operation);
    let step = |turn: &Turn| {
        let path = &paths[turn.visit];
        let first = path.places[chosen[turn.visit]].segment;
        let course = match &path.course {
            Course::Line(s) if path.closed => Course::Line(paths::begun(s, first)),
            Course::Line(s) if turn.backwards => Course::Line(paths::turned(s)),
            Course::Line(s) => Course::Line(s.clone()),
            Course::Rows(rows) if turn.backwards => {
                Course::Rows(rows.iter().rev().cloned().collect())
            }
            Course::Rows(rows) => Course::Rows(rows.clone()),
        };
        PlannedPath {
            key: path.key,
            operation: layer.operation,
            lead: leads.of(layer, path, &course),
            over: overcut(layer, path, &course),
            course,
            closed: path.closed,
            passes,
            speed,
            travel: 0.0,
            travel_seconds: 0.0,
            length: 0.0,
            seconds: 0.0,
        }
    };
    turns.iter().map(step).collect()
}

/// How a beam comes onto its lines.
struct Leads {
    waste: lead::Waste,
    length: f64,
}

impl Leads {
    /// The lead onto the edge of a part that a laser cuts through.
    fn of(&self, layer: &CutLayer, path: &paths::Path, course: &Course) -> Option<Line> {
        let beam = layer.material.tool == Tool::Laser;
        match course {
            Course::Line(segments)
                if beam && path.edge && layer.operation == Operation::CutThrough =>
            {
                self.waste.lead(segments, self.length)
            }
            _ => None,
        }
    }
}

/// How far a knife runs on past the end of a closed line.
fn overcut(layer: &CutLayer, path: &paths::Path, course: &Course) -> Vec<Segment> {
    match (course, &layer.material.blade) {
        (Course::Line(segments), Some(knife))
            if path.closed && layer.material.tool == Tool::Blade && layer.operation.cuts() =>
        {
            blade::overcut(segments, knife.overcut)
        }
        _ => Vec::new(),
    }
}

/// The best place for each path to begin, in the order there is.
fn choose(
    paths: &[paths::Path],
    turns: &[Turn],
    (from, end): (Point, Option<Point>),
    chosen: &mut [usize],
) {
    let turned: Vec<Vec<Start>> = turns
        .iter()
        .map(|t| {
            let flip = |s: &Start| match t.backwards {
                true => Start {
                    from: s.to,
                    to: s.from,
                    ..*s
                },
                false => *s,
            };
            paths[t.visit].places.iter().map(flip).collect()
        })
        .collect();
    let stages: Vec<&[Start]> = turned.iter().map(Vec::as_slice).collect();
    for (turn, place) in turns.iter().zip(starts::best(&stages, from, end)) {
        chosen[turn.visit] = place;
    }
}

/// Pulls paths as it was done by hand, in turn; how many were about paths that are no more.
fn pull(steps: &mut Vec<PlannedPath>, pulled: &[Pull]) -> usize {
    if pulled.is_empty() {
        return 0;
    }
    let page = Marks::of(steps);
    let place = |steps: &[PlannedPath], key: PathKey| steps.iter().position(|s| s.key == key);
    let mut forgotten = 0;
    for pull in pulled {
        let found = pull.found(&page);
        let at = found.and_then(|(path, before)| Some((place(steps, path)?, before)));
        let Some((from, before)) = at else {
            forgotten += 1;
            continue;
        };
        let step = steps.remove(from);
        let to = match before {
            None => steps.len(),
            // Before itself is where it was.
            Some(key) => place(steps, key).unwrap_or(from),
        };
        steps.insert(to, step);
    }
    forgotten
}

fn timed(cutting: &Cutting, home: Point, mut steps: Vec<PlannedPath>) -> Plan {
    let mut at = home;
    let mut motion = Motion::of(Tool::Blade);
    for step in &mut steps {
        let material = &cutting.layers[step.key.layer].material;
        motion = Motion::of(material.tool);
        step.travel = at.distance(step.start());
        step.travel_seconds = motion.straight(step.travel, motion.travel) + motion.lift;
        (step.length, step.seconds) = step.measured(&motion);
        at = step.end();
    }
    let back = at.distance(home);
    Plan {
        home,
        steps,
        back,
        back_seconds: motion.straight(back, motion.travel),
        forgotten: 0,
    }
}

impl PlannedPath {
    /// Where the tool is lowered.
    #[must_use]
    pub fn start(&self) -> Point {
        match (&self.lead, &self.course) {
            (Some(lead), _) => lead.p0,
            (None, Course::Line(s)) => s[0].start(),
            (None, Course::Rows(rows)) => Point::new(rows[0].spans[0][0], rows[0].y),
        }
    }

    /// Where it is lifted.
    #[must_use]
    pub fn end(&self) -> Point {
        let line = |s: &[Segment]| s.last().map(Segment::end);
        let end = match &self.course {
            Course::Line(s) => line(&self.over).or_else(|| line(s)),
            Course::Rows(rows) => rows.last().map(|row| {
                let spans = &row.spans;
                let back = rows.len().is_multiple_of(2);
                let x = if back {
                    spans[0][0]
                } else {
                    spans[spans.len() - 1][1]
                };
                Point::new(x, row.y)
            }),
        };
        end.unwrap_or_else(|| self.start())
    }

    /// Points along it as it is run once, mm; engraved rows have none.
    #[must_use]
    pub fn points(&self, tolerance: f64) -> Vec<Point> {
        let Course::Line(segments) = &self.course else {
            return Vec::new();
        };
        let mut points = vec![self.start()];
        points.extend(self.lead.map(|l| l.p1));
        for segment in segments.iter().chain(&self.over) {
            segment.flatten(tolerance, &mut points);
        }
        points
    }

    /// Length, mm, and time, s, of all passes.
    fn measured(&self, motion: &Motion) -> (f64, f64) {
        let passes = f64::from(self.passes);
        match &self.course {
            Course::Line(segments) => {
                let points = self.points(TOLERANCE);
                let curves = segments.iter().chain(&self.over).map(Segment::length);
                let length = curves.sum::<f64>() + self.lead.map_or(0.0, |l| l.p0.distance(l.p1));
                let seconds = motion.times(&points, self.speed).last().copied();
                let mut seconds = seconds.unwrap_or(0.0) * passes;
                if !self.closed || self.lead.is_some() {
                    let back = points[0].distance(points[points.len() - 1]);
                    seconds += (passes - 1.0) * motion.straight(back, motion.travel);
                }
                (length * passes, seconds)
            }
            Course::Rows(rows) => {
                let over = overscan(self.speed, motion);
                let (mut length, mut seconds) = (0.0, 0.0);
                for row in rows {
                    let (first, last) = (row.spans[0][0], row.spans[row.spans.len() - 1][1]);
                    length += row.spans.iter().map(|s| s[1] - s[0]).sum::<f64>();
                    seconds += motion.straight(last - first + 2.0 * over, self.speed);
                }
                (length * passes, seconds * passes)
            }
        }
    }
}

/// How far a beam runs on past the end of a row, so that it has its speed where it burns, mm.
#[must_use]
pub fn overscan(speed: f64, motion: &Motion) -> f64 {
    speed * speed / (2.0 * motion.acceleration)
}

impl Plan {
    /// Length that is cut or marked, mm.
    #[must_use]
    pub fn length(&self) -> f64 {
        // A sum of nothing would be below nought.
        self.steps
            .iter()
            .map(|s| s.length)
            .fold(0.0, |sum, s| sum + s)
    }

    /// Length that is travelled between, mm.
    #[must_use]
    pub fn travel(&self) -> f64 {
        self.steps.iter().map(|s| s.travel).sum::<f64>() + self.back
    }

    /// Time in all, s.
    #[must_use]
    pub fn seconds(&self) -> f64 {
        let steps = self.steps.iter().map(|s| s.travel_seconds + s.seconds);
        steps.sum::<f64>() + self.back_seconds
    }

    /// Time of one layer with the ways to its paths, s.
    #[must_use]
    pub fn seconds_of(&self, layer: usize) -> f64 {
        let of_layer = self.steps.iter().filter(|s| s.key.layer == layer);
        of_layer.map(|s| s.travel_seconds + s.seconds).sum()
    }
}
