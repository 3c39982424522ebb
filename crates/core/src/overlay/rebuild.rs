//! Rebuild: labelled sides back to curves, cut where the curves themselves meet.

use kurbo::{Line, Point};

use crate::segment::Segment;
use crate::shapes::Ring;

use super::chords::Chords;
use super::label::Side;

/// Two curves that cross squarely meet no farther from where their chords do than so many times what
/// these may leave them; the flatter they cross the farther …
const NEAR: f64 = 4.0;
/// … down to this sine of their angle.
const FLATTEST: f64 = 0.01;
/// Parts shorter than this are left out, mm: where curves meet flatly, one may overshoot the other so far.
const SHORTEST: f64 = 1e-5;

/// A place on a source: number of the segment and parameter.
#[derive(Clone, Copy, Debug)]
struct On {
    segment: usize,
    t: f64,
    /// Whether it is a corner of the polygon, so that it lies on the curve exactly.
    exact: bool,
}

/// A stretch along one source, or a straight step where rounding hid the source.
#[derive(Clone, Copy, Debug)]
struct Run {
    source: Option<usize>,
    forward: bool,
    from: On,
    to: On,
    ends: [Point; 2],
    /// Whether it stays within one segment.
    short: bool,
}

/// The curves of a contour, and whether it was cut at all; `None` where nothing is left of it.
pub(super) fn ring(chords: &Chords, sources: &[&Ring], sides: &[Side]) -> Option<(Ring, bool)> {
    let n = sides.len();
    let goes_on = |i: usize| {
        let (a, b) = (sides[i].on, sides[(i + 1) % n].on);
        a.zip(b).is_some_and(|(a, b)| chords.goes_on(a, b))
    };
    let Some(start) = (0..n).find(|&i| !goes_on((i + n - 1) % n)) else {
        let (side, forward) = sides.first()?.on?;
        let source = sources[chords.chord(side).ring as usize];
        return Some((untouched(source, forward), false));
    };
    let mut runs: Vec<Run> = Vec::new();
    let mut from = start;
    while from < start + n {
        let mut to = from;
        while to + 1 < start + n && goes_on(to % n) {
            to += 1;
        }
        runs.push(run(chords, sides[from % n], sides[to % n]));
        from = to + 1;
    }
    meet(sources, &mut runs, chords.flat);
    let (mut segments, mut strayed) = (Vec::new(), Vec::new());
    for run in &runs {
        emit(sources, run, &mut segments, &mut strayed);
    }
    let keep: Vec<bool> = segments
        .iter()
        .map(|s: &Segment| s.length() > SHORTEST)
        .collect();
    let mut kept = keep.iter();
    segments.retain(|_| kept.next() == Some(&true));
    let mut kept = keep.iter();
    strayed.retain(|_| kept.next() == Some(&true));
    let ring = Ring::new(segments, strayed)?;
    (ring.signed_area().abs() > super::SPECK_MM2).then_some((ring, true))
}

fn untouched(source: &Ring, forward: bool) -> Ring {
    if forward {
        source.clone()
    } else {
        source.reversed()
    }
}

fn run(chords: &Chords, first: Side, last: Side) -> Run {
    let on = |side: Side, end: usize| {
        let number = side.on.map_or(0, |(number, _)| number);
        let chord = chords.chord(number);
        let [a, b] = chords.ends(number);
        let p = side.ends[end];
        let (t, exact) = if p == a {
            (chord.from, true)
        } else if p == b {
            (chord.to, true)
        } else {
            let (way, gone) = (
                chords.point(b) - chords.point(a),
                chords.point(p) - chords.point(a),
            );
            let part = (gone.dot(way) / way.hypot2()).clamp(0.0, 1.0);
            (chord.from + part * (chord.to - chord.from), false)
        };
        On {
            segment: chord.segment as usize,
            t,
            exact,
        }
    };
    let forward = first.on.is_none_or(|(_, forward)| forward);
    let (from, to) = (on(first, 0), on(last, 1));
    let ahead = if forward {
        from.t <= to.t
    } else {
        from.t >= to.t
    };
    Run {
        short: from.segment == to.segment && ahead,
        source: first.on.map(|(side, _)| chords.chord(side).ring as usize),
        forward,
        from,
        to,
        ends: [chords.point(first.ends[0]), chords.point(last.ends[1])],
    }
}

/// Moves the ends of runs to where their curves meet.
fn meet(sources: &[&Ring], runs: &mut [Run], flat: f64) {
    let n = runs.len();
    for i in 0..n {
        let (before, after) = (runs[i], runs[(i + 1) % n]);
        let (Some(a), Some(b)) = (before.source, after.source) else {
            continue;
        };
        let curve = |source: usize, on: On| sources[source].segments()[on.segment];
        let (one, two) = (curve(a, before.to), curve(b, after.from));
        let guess = (before.to.t, after.from.t);
        let found = match (before.to.exact, after.from.exact) {
            (true, true) => Some((guess.0, guess.1)),
            (true, false) => Some((guess.0, two.nearest_parameter(one.eval(guess.0)))),
            (false, true) => Some((one.nearest_parameter(two.eval(guess.1)), guess.1)),
            (false, false) => crossing(&one, &two, guess, (before.ends[1], flat)),
        };
        let (t, u) = found.unwrap_or_else(|| {
            let p = before.ends[1];
            (one.nearest_parameter(p), two.nearest_parameter(p))
        });
        let meeting = if after.from.exact && !before.to.exact {
            two.eval(u)
        } else {
            one.eval(t)
        };
        runs[i].to.t = t;
        runs[i].ends[1] = meeting;
        let next = &mut runs[(i + 1) % n];
        next.from.t = u;
        next.ends[0] = meeting;
    }
}

/// Where two curves meet near a place, by Newton's method.
fn crossing(
    one: &Segment,
    two: &Segment,
    (mut t, mut u): (f64, f64),
    (near, flat): (Point, f64),
) -> Option<(f64, f64)> {
    let mut sine = 1.0;
    for _ in 0..20 {
        let gap = two.eval(u) - one.eval(t);
        let (along, across) = (one.derivative(t), two.derivative(u));
        let det = along.cross(across);
        sine = det.abs() / (along.hypot() * across.hypot()).max(1e-12);
        if sine < 1e-9 {
            return None;
        }
        if gap.hypot() < 1e-11 {
            break;
        }
        t = (t + gap.cross(across) / det).clamp(0.0, 1.0);
        u = (u + gap.cross(along) / det).clamp(0.0, 1.0);
    }
    let meets = one.eval(t).distance(two.eval(u)) < 1e-6;
    let reach = NEAR * flat / sine.max(FLATTEST);
    (meets && one.eval(t).distance(near) < reach).then_some((t, u))
}

/// The segments of a run.
fn emit(sources: &[&Ring], run: &Run, segments: &mut Vec<Segment>, strayed: &mut Vec<f32>) {
    let ahead = if run.forward {
        run.from.t <= run.to.t
    } else {
        run.from.t >= run.to.t
    };
    // Where both ends of a short stretch met others, they may have passed each other.
    let passed = run.short && !ahead;
    let Some(source) = run.source.map(|s| sources[s]).filter(|_| !passed) else {
        segments.push(Segment::Line(Line::new(run.ends[0], run.ends[1])));
        strayed.push(0.0);
        return;
    };
    let count = source.segments().len();
    let (mut from, to) = (run.from, run.to);
    let mut first = true;
    loop {
        let segment = source.segments()[from.segment];
        let ahead = if run.forward {
            from.t <= to.t
        } else {
            from.t >= to.t
        };
        let last = from.segment == to.segment && (ahead || !first);
        let end = if last {
            to.t
        } else if run.forward {
            1.0
        } else {
            0.0
        };
        let (low, high) = if run.forward {
            (from.t, end)
        } else {
            (end, from.t)
        };
        if high - low > 1e-12 {
            let whole = low <= 0.0 && high >= 1.0;
            let part = if whole {
                segment
            } else {
                segment.part(low, high)
            };
            segments.push(if run.forward { part } else { part.reverse() });
            strayed.push(source.strayed()[from.segment]);
        }
        if last {
            return;
        }
        first = false;
        from.segment = if run.forward {
            (from.segment + 1) % count
        } else {
            (from.segment + count - 1) % count
        };
        from.t = if run.forward { 0.0 } else { 1.0 };
    }
}
