//! Pieces: the fewest straight lines, circular arcs and cubics along a run, within the tolerance.
//!
//! ```text
//!   ·──────────────·────.      1  from each joint the farthest-reaching piece, directions free
//!   line            arc  `.    2  a direction for every joint: that of its line or arc, else
//!                          ·      between those of its two cubics
//!                 cubic   ;    3  cubics fitted again along these directions, so joints are smooth
//! ```
//!
//! A piece is taken only after its distance from every boundary point was measured, and after it
//! was seen to stay by them. A step from one point to the next always holds, so this ends.

use std::ops::Range;

use kurbo::{Line, ParamCurveNearest, Point, Vec2};

use crate::fit::FittedEdge;
use crate::fit::circle::{self, Circle};
use crate::fit::corners::Run;
use crate::fit::cubic::{self, Directions};
use crate::segment::{Arc, Segment};

/// Part of the tolerance for lines and arcs, which say more than a cubic does …
const STRICT: f64 = 0.4;
/// … and wobbles that they may leave.
const WOBBLES: f64 = 2.6;
/// A line is worth taking when it reaches this part of the way that a cubic does, and this far, px.
const LINE_WORTH: f64 = 0.6;
const LINE_PX: f64 = 6.0;
/// The same for an arc.
const ARC_WORTH: f64 = 0.85;
const ARC_PX: f64 = 4.0;
/// Least and greatest angle of an arc, radians.
const ARC_SWEEP: Range<f64> = 0.35..3.5;
/// Directions that differ by more than this at a joint are a corner that was missed, as a cosine.
const KINK_COS: f64 = 0.9;
/// The same where one of the two is a line (10°).
const LINE_KINK_COS: f64 = 0.985;
/// An arc whose neighbour goes on in another direction than this is drawn as a cubic (3°).
const ARC_KINK_COS: f64 = 0.9986;
/// Points on each side that tell in which direction a joint is passed.
const PASSING: usize = 5;
/// Points that the first piece tried runs along.
const FIRST_LENGTH: usize = 12;
/// Runs of fewer points than this are drawn point by point.
const FEW_POINTS: usize = 4;

/// What a run is fitted with, mm.
#[derive(Clone, Copy)]
pub(super) struct Limits {
    pub tolerance: f64,
    /// Typical wobble of the edge.
    pub wobble: f64,
    /// Side of a pixel.
    pub px: f64,
}

impl Limits {
    /// How closely lines and arcs are held.
    fn strict(&self) -> f64 {
        (STRICT * self.tolerance)
            .max(WOBBLES * self.wobble)
            .min(self.tolerance)
    }
}

/// A piece along a stretch of points, and how far each of them lies off.
#[derive(Clone)]
struct Piece {
    stretch: Range<usize>,
    segment: Segment,
    off: Vec<f32>,
}

/// Places where only a part of the tolerance may be used, since curves would cross there.
#[derive(Clone, Debug, Default)]
pub(super) struct Tight {
    /// The places, mm, and the part that holds around each.
    pub places: Vec<(Point, f32)>,
}

/// Below this part of the tolerance corners are not restored and wobble is not smoothed.
const KEPT: f32 = 0.3;
/// The part of the tolerance holds so far around a place, px.
const TIGHT_PX: f64 = 5.0;

impl Tight {
    fn parts(&self, points: &[Point], px: f64) -> Vec<f32> {
        if self.places.is_empty() {
            return Vec::new();
        }
        points.iter().map(|&p| self.part(p, px)).collect()
    }

    /// The part of the tolerance that holds at a point.
    pub(super) fn part(&self, p: Point, px: f64) -> f32 {
        let near = |place: Point| p.distance_squared(place) < (TIGHT_PX * px).powi(2);
        let around = self.places.iter().filter(|place| near(place.0));
        around.fold(1.0, |least: f32, place| least.min(place.1))
    }

    /// Whether edges are so close here that their points are left where they are.
    pub(super) fn keeps(&self, p: Point, px: f64) -> bool {
        self.part(p, px) < KEPT
    }
}

/// Points to follow, and where a joint would lie at each of them.
#[derive(Clone, Copy)]
struct Guide<'a> {
    points: &'a [Point],
    joints: &'a [Point],
    /// Part of the tolerance that holds at each point; empty where it is all of it everywhere.
    parts: &'a [f32],
}

impl<'a> Guide<'a> {
    fn own(&self, stretch: &Range<usize>) -> (&'a [Point], [Point; 2]) {
        (
            &self.points[stretch.start..=stretch.end],
            [self.joints[stretch.start], self.joints[stretch.end]],
        )
    }

    /// A piece, if it holds where only a part of the tolerance is left.
    fn held(&self, piece: Piece, tolerance: f64) -> Option<Piece> {
        let parts = self.parts.get(piece.stretch.start..=piece.stretch.end);
        let tight = parts.unwrap_or_default().iter().zip(&piece.off);
        let holds = tight
            .into_iter()
            .all(|(part, off)| off <= &(part * tolerance as f32));
        holds.then_some(piece)
    }

    /// The least part of the tolerance along a stretch.
    fn tightest(&self, stretch: &Range<usize>) -> f64 {
        let parts = self.parts.get(stretch.start..=stretch.end);
        parts
            .unwrap_or_default()
            .iter()
            .fold(1.0, |m, &p| m.min(p.into()))
    }
}

/// Fits one run and adds its pieces and deviations to `edge`; `joints` are where pieces may meet,
/// one for each of its points.
pub(super) fn fit_run(
    run: &Run,
    joints: &[Point],
    limits: Limits,
    tight: &Tight,
    edge: &mut FittedEdge,
) {
    let points = &run.points[..];
    let parts = tight.parts(points, limits.px);
    let guide = Guide {
        points,
        joints,
        parts: &parts,
    };
    let last = points.len() - 1;
    if run.smooth_loop {
        if points.len() <= 2 * FEW_POINTS {
            return polyline(points, edge);
        }
    } else {
        let line = Segment::Line(Line::new(points[0], points[last]));
        if let Some(off) = distances(points, &line, limits.tolerance)
            && let Some(piece) = guide.held(
                Piece {
                    stretch: 0..last,
                    segment: line,
                    off,
                },
                limits.tolerance,
            )
        {
            return add(piece, edge);
        }
        if points.len() < FEW_POINTS {
            return polyline(points, edge);
        }
    }
    let mut pieces = Vec::new();
    let mut at = 0;
    while at < last {
        let piece = with_room(guide, farthest(guide, at, limits), limits);
        at = piece.stretch.end;
        pieces.push(piece);
    }
    // Where free pieces do not join smoothly they are split; a piece more from the start may do
    // with fewer in all.
    let mut best: Option<Vec<Piece>> = None;
    for more in 0..=MOST_MORE {
        let even = evened(guide, &pieces, more, limits);
        let even = without_odd_arcs(guide, &even, run.smooth_loop, limits);
        let count = even.len();
        let found = joined(guide, &even, run.smooth_loop, limits);
        let split = found.len() > count;
        if best.as_ref().is_none_or(|b| found.len() < b.len()) {
            best = Some(found);
        }
        if !split {
            break;
        }
    }
    for piece in best.unwrap_or_default() {
        add(piece, edge);
    }
}

/// Pieces that are added at most to each row of cubics so that their joints come smooth.
const MOST_MORE: usize = 2;

fn add(piece: Piece, edge: &mut FittedEdge) {
    edge.segments.push(piece.segment);
    edge.strayed
        .push(piece.off.iter().copied().fold(0.0, f32::max));
    edge.deviation.extend(piece.off);
}

/// Part of the tolerance within which a circle lies, root mean square.
const ROUND: f64 = 0.3;

/// A closed edge (its first point not repeated) that is a circle, as two halves.
pub(super) fn whole_circle(own: &[Point], limits: Limits) -> Option<FittedEdge> {
    let circle = circle::taubin(own)?;
    let distance = |p: &Point| (p.distance(circle.centre) - circle.radius).abs();
    let square = own.iter().map(|p| distance(p).powi(2)).sum::<f64>();
    let typical = (square / own.len() as f64).sqrt();
    if own.len() < 2 * FEW_POINTS
        || circle.off(own) > limits.tolerance
        || typical > (ROUND * limits.tolerance).max(1.2 * limits.wobble)
    {
        return None;
    }
    let out = own[0] - circle.centre;
    let (p0, p1) = (
        circle.centre + out * (circle.radius / out.hypot()),
        circle.centre - out * (circle.radius / out.hypot()),
    );
    let area: f64 = own
        .iter()
        .zip(own[1..].iter().chain(&own[..1]))
        .map(|(a, b)| a.to_vec2().cross(b.to_vec2()))
        .sum();
    let bulge = area.signum();
    let halves = [
        Arc { p0, p1, bulge },
        Arc {
            p0: p1,
            p1: p0,
            bulge,
        },
    ];
    let greatest = circle.off(own) as f32;
    Some(FittedEdge {
        segments: halves.map(Segment::Arc).to_vec(),
        deviation: own.iter().map(|p| distance(p) as f32).collect(),
        strayed: vec![greatest; 2],
    })
}

/// The piece that reaches farthest from a point on; lines and arcs count for more.
fn farthest(guide: Guide<'_>, from: usize, limits: Limits) -> Piece {
    let reach = |piece: &Option<Piece>| {
        piece.as_ref().map_or(0.0, |p| {
            guide.points[p.stretch.end].distance(guide.points[from])
        })
    };
    let most = guide.points.len() - 1 - from;
    let line = longest(from, most, |s| line(guide, s, limits));
    let arc = longest(from, most, |s| arc(guide, s, limits));
    let curve = longest(from, most, |s| {
        free_cubic(
            guide,
            s,
            Directions::default(),
            limits.tolerance,
            WHILE_TRYING,
        )
    });
    let far = reach(&curve).max(reach(&arc)).max(reach(&line));
    let (line_reach, arc_reach) = (reach(&line), reach(&arc));
    match (line, arc) {
        (Some(line), _) if line_reach >= (LINE_WORTH * far).max(LINE_PX * limits.px) => {
            trimmed(guide, line, limits)
        }
        (_, Some(arc)) if arc_reach >= (ARC_WORTH * far).max(ARC_PX * limits.px) => arc,
        // A step from one point to the next always holds.
        _ => curve.unwrap_or_else(|| step(guide, from..from + 1)),
    }
}

/// Points that are left at least for the piece after a cubic: fewer say little of its direction.
const LEAST_REST: usize = 10;

/// A cubic that would leave only a stub of the run, drawn back so that two good ones fit.
fn with_room(guide: Guide<'_>, piece: Piece, limits: Limits) -> Piece {
    let Range { start, end } = piece.stretch;
    let last = guide.points.len() - 1;
    let rest = last - end;
    if !matches!(piece.segment, Segment::Cubic(_)) || rest == 0 || rest >= LEAST_REST {
        return piece;
    }
    let to = start + (last - start) / 2;
    let none = Directions::default();
    free_cubic(guide, start..to, none, limits.tolerance, IN_THE_END).unwrap_or(piece)
}

fn step(guide: Guide<'_>, stretch: Range<usize>) -> Piece {
    let (own, [start, end]) = guide.own(&stretch);
    let off = [start.distance(own[0]), end.distance(own[own.len() - 1])];
    Piece {
        segment: Segment::Line(Line::new(start, end)),
        off: off.map(|d| d as f32).to_vec(),
        stretch,
    }
}

/// The longest stretch of at most `most` steps from a point on for which `fit` holds.
///
/// The length is doubled while a piece holds, then searched by halves: as many fits as the length
/// has binary digits.
fn longest(from: usize, most: usize, fit: impl Fn(Range<usize>) -> Option<Piece>) -> Option<Piece> {
    let (mut holds, mut fails) = (1, most + 1);
    let mut best = None;
    let mut length = FIRST_LENGTH.min(most);
    while holds < length && length < fails {
        match fit(from..from + length) {
            Some(found) => (holds, best) = (length, Some(found)),
            None => fails = length,
        }
        length = if fails > most {
            (2 * length).min(most)
        } else {
            (holds + fails) / 2
        };
    }
    best
}

fn line(guide: Guide<'_>, stretch: Range<usize>, limits: Limits) -> Option<Piece> {
    let (own, [start, end]) = guide.own(&stretch);
    let segment = Segment::Line(Line::new(start, end));
    let off = distances(own, &segment, limits.strict())?;
    let piece = Piece {
        stretch,
        segment,
        off,
    };
    guide.held(piece, limits.tolerance)
}

/// A line without the ends by which it runs into a bend.
///
/// The farthest-reaching line leaves the straight for a little way; it is measured against its own
/// middle part, and goes back to where it was still on it.
fn trimmed(guide: Guide<'_>, piece: Piece, limits: Limits) -> Piece {
    let Range { start, end } = piece.stretch;
    let (count, last) = (end - start, guide.points.len() - 1);
    if end == last || count < 8 {
        return piece;
    }
    let (a, b) = (
        guide.joints[start + count / 8],
        guide.joints[end - count / 4],
    );
    let along = (b - a).normalize();
    let off = |p: Point| (p - a).cross(along).abs();
    let held = (0.3 * limits.strict()).max(limits.wobble);
    let mut to = end;
    while to > end - count / 4 && off(guide.joints[to]) > held {
        to -= 1;
    }
    line(guide, start..to, limits).unwrap_or(piece)
}

fn arc(guide: Guide<'_>, stretch: Range<usize>, limits: Limits) -> Option<Piece> {
    let (own, ends) = guide.own(&stretch);
    if own.len() < 5 {
        return None;
    }
    let circle: Circle = circle::taubin(own)?;
    let strict = limits.strict();
    if circle.off(own) > strict {
        return None;
    }
    let arc = circle.arc(ends, own[own.len() / 2])?;
    if !ARC_SWEEP.contains(&arc.sweep().abs()) {
        // Too short to be told from a cubic: the search for longer ones goes on.
        return (arc.sweep().abs() < ARC_SWEEP.start).then(|| Piece {
            off: Vec::new(),
            segment: Segment::Line(Line::new(own[0], own[0])),
            stretch: stretch.start..stretch.start,
        });
    }
    let segment = Segment::Arc(arc);
    let off = distances(own, &segment, strict)?;
    let piece = Piece {
        stretch,
        segment,
        off,
    };
    guide.held(piece, limits.tolerance)
}

/// How good a cubic must be, as a part of the tolerance, to be looked at no more: while lengths
/// are tried, and in the end.
const WHILE_TRYING: f64 = 0.9;
const IN_THE_END: f64 = 0.3;

fn free_cubic(
    guide: Guide<'_>,
    stretch: Range<usize>,
    directions: Directions,
    tolerance: f64,
    enough: f64,
) -> Option<Piece> {
    let (own, ends) = guide.own(&stretch);
    let enough = enough * guide.tightest(&stretch);
    let fitted = cubic::fit(own, ends, directions, tolerance, enough)?;
    let piece = Piece {
        stretch,
        segment: Segment::Cubic(fitted.cubic),
        off: fitted.off,
    };
    guide.held(piece, tolerance)
}

/// Neighbouring cubics with their joints moved so that each is about as long as the next, where
/// that holds: the last of a run would be a stub otherwise.
fn evened(guide: Guide<'_>, pieces: &[Piece], more: usize, limits: Limits) -> Vec<Piece> {
    let is_cubic = |p: &Piece| matches!(p.segment, Segment::Cubic(_));
    let mut out: Vec<Piece> = Vec::new();
    for group in pieces.chunk_by(|a, b| is_cubic(a) && is_cubic(b)) {
        let (start, count) = (group[0].stretch.start, group.len() + more);
        let length = group[group.len() - 1].stretch.end - start;
        let cut = |n: usize| start + length * n / count;
        let even: Option<Vec<Piece>> = (0..count)
            .map(|n| {
                let stretch = cut(n)..cut(n + 1);
                let none = Directions::default();
                free_cubic(guide, stretch, none, limits.tolerance, IN_THE_END)
            })
            .collect();
        match even {
            Some(even) if is_cubic(&group[0]) => out.extend(even),
            _ => out.extend(group.iter().cloned()),
        }
    }
    out
}

/// The direction at the joint of two pieces; `None` where they form a corner.
fn direction(before: &Piece, after: &Piece) -> Option<Vec2> {
    let unit = |v: Vec2| if v.hypot2() > 0.0 { v.normalize() } else { v };
    let (a, b) = (
        unit(before.segment.tangent(true)),
        unit(after.segment.tangent(false)),
    );
    if a.dot(b) < KINK_COS {
        return None;
    }
    let rigid = |p: &Piece| !matches!(p.segment, Segment::Cubic(_));
    // A single step says nothing of the direction.
    if [before, after]
        .iter()
        .any(|p| rigid(p) && p.stretch.len() <= 2)
    {
        return None;
    }
    // A line does not give way: where a curve leaves it at an angle there is a corner.
    let is_line = |p: &Piece| matches!(p.segment, Segment::Line(_));
    if (is_line(before) || is_line(after)) && a.dot(b) < LINE_KINK_COS {
        return None;
    }
    Some(match (rigid(before), rigid(after)) {
        (true, false) => a,
        (false, true) => b,
        // The longer of two cubics knows its direction better.
        _ => {
            let weight = |p: &Piece| p.stretch.len().min(40) as f64;
            unit(a * weight(before) + b * weight(after))
        }
    })
}

/// The direction in which the points themselves pass a joint.
fn passing(guide: Guide<'_>, at: usize, closed: bool) -> Option<Vec2> {
    let last = guide.points.len() - 1;
    let reach = PASSING.min(last / 3);
    let (before, after) = if closed && (at == 0 || at == last) {
        (last - reach, reach)
    } else {
        (at.checked_sub(reach)?, at + reach)
    };
    let way = *guide.joints.get(after)? - guide.joints[before];
    (way.hypot2() > 0.0).then(|| way.normalize())
}

/// Pieces with those arcs as cubics that would have to meet their neighbours at an angle.
fn without_odd_arcs(
    guide: Guide<'_>,
    pieces: &[Piece],
    closed: bool,
    limits: Limits,
) -> Vec<Piece> {
    let count = pieces.len();
    let kinked = |a: &Piece, b: &Piece| {
        let (u, v) = (a.segment.tangent(true), b.segment.tangent(false));
        let lengths = u.hypot() * v.hypot();
        let cos = if lengths > 0.0 {
            u.dot(v) / lengths
        } else {
            1.0
        };
        (KINK_COS..ARC_KINK_COS).contains(&cos)
    };
    let at = |n: usize| {
        let piece = &pieces[n];
        let inner = |m: usize| closed || (1..count).contains(&m);
        let before = inner(n) && kinked(&pieces[(n + count - 1) % count], piece);
        let after = inner(n + 1) && kinked(piece, &pieces[(n + 1) % count]);
        if matches!(piece.segment, Segment::Arc(_)) && (before || after) {
            let none = Directions::default();
            let own = piece.stretch.clone();
            free_cubic(guide, own, none, limits.tolerance, IN_THE_END)
        } else {
            None
        }
    };
    (0..count)
        .map(|n| at(n).unwrap_or_else(|| pieces[n].clone()))
        .collect()
}

/// Directions that a joint of two cubics may have, the likeliest first.
fn ways(guide: Guide<'_>, before: &Piece, after: &Piece, closed: bool) -> Vec<Vec2> {
    let (a, b) = (before.segment.tangent(true), after.segment.tangent(false));
    if a.hypot2() <= 0.0 || b.hypot2() <= 0.0 {
        return Vec::new();
    }
    let (a, b) = (a.normalize(), b.normalize());
    let between = [0.5, 0.0, 1.0, 0.25, 0.75, -0.5, 1.5].map(|t| a.lerp(b, t).normalize());
    passing(guide, after.stretch.start, closed)
        .into_iter()
        .chain(between)
        .collect()
}

/// The pieces with smooth joints.
fn joined(guide: Guide<'_>, pieces: &[Piece], closed: bool, limits: Limits) -> Vec<Piece> {
    let count = pieces.len();
    let mut at: Vec<Option<Vec2>> = (0..=count)
        .map(|n| match n {
            0 if closed => direction(&pieces[count - 1], &pieces[0]),
            0 => None,
            n if n == count => closed
                .then(|| direction(&pieces[count - 1], &pieces[0]))
                .flatten(),
            n => direction(&pieces[n - 1], &pieces[n]),
        })
        .collect();
    let is_cubic = |n: usize| matches!(pieces[n].segment, Segment::Cubic(_));
    let held = |n: usize, at: &[Option<Vec2>]| {
        let directions = Directions {
            start: at[n],
            end: at[n + 1],
        };
        free_cubic(
            guide,
            pieces[n].stretch.clone(),
            directions,
            limits.tolerance,
            IN_THE_END,
        )
    };
    let mut found: Vec<Option<Piece>> = (0..count)
        .map(|n| is_cubic(n).then(|| held(n, &at)).flatten())
        .collect();
    // Where a piece does not hold, other directions at its joints may hold for it and its neighbour.
    for joint in usize::from(!closed)..count {
        let (before, after) = ((joint + count - 1) % count, joint);
        let both_cubic = is_cubic(before) && is_cubic(after) && before != after;
        if !both_cubic || at[joint].is_none() || (found[before].is_some() && found[after].is_some())
        {
            continue;
        }
        let mut most = usize::from(found[before].is_some()) + usize::from(found[after].is_some());
        for way in ways(guide, &pieces[before], &pieces[after], closed) {
            let mut tried = at.clone();
            tried[joint] = Some(way);
            if joint == 0 {
                tried[count] = Some(way);
            }
            let (first, second) = (held(before, &tried), held(after, &tried));
            let holding = usize::from(first.is_some()) + usize::from(second.is_some());
            if holding > most {
                at = tried;
                (found[before], found[after]) = (first, second);
                most = holding;
            }
            if most == 2 {
                break;
            }
        }
    }
    // A curve that cannot come into a line smoothly meets it at a slight corner.
    let is_line = |n: usize| matches!(pieces[n].segment, Segment::Line(_));
    for joint in usize::from(!closed)..count {
        let (before, after) = ((joint + count - 1) % count, joint);
        let curve = if is_line(before) { after } else { before };
        if is_line(before) == is_line(after) || !is_cubic(curve) || found[curve].is_some() {
            continue;
        }
        let mut tried = at.clone();
        tried[joint] = None;
        if joint == 0 {
            tried[count] = None;
        }
        if let Some(piece) = held(curve, &tried) {
            at = tried;
            found[curve] = Some(piece);
        }
    }
    let mut out = Vec::with_capacity(count);
    for (n, (piece, found)) in pieces.iter().zip(found).enumerate() {
        match (piece.segment, found) {
            (_, Some(found)) => out.push(found),
            (Segment::Cubic(_), None) => {
                let directions = Directions {
                    start: at[n],
                    end: at[n + 1],
                };
                smooth(guide, piece.stretch.clone(), directions, limits, &mut out);
            }
            (segment, None) => out.push(Piece {
                stretch: piece.stretch.clone(),
                segment,
                off: piece.off.clone(),
            }),
        }
    }
    out
}

/// A cubic along given directions; where none holds, two, and so on.
fn smooth(
    guide: Guide<'_>,
    stretch: Range<usize>,
    directions: Directions,
    limits: Limits,
    out: &mut Vec<Piece>,
) {
    if let Some(piece) = free_cubic(
        guide,
        stretch.clone(),
        directions,
        limits.tolerance,
        IN_THE_END,
    ) {
        return out.push(piece);
    }
    if stretch.len() < 8 {
        for part in [
            Directions {
                end: None,
                ..directions
            },
            Directions {
                start: None,
                ..directions
            },
            Directions::default(),
        ] {
            if let Some(piece) =
                free_cubic(guide, stretch.clone(), part, limits.tolerance, IN_THE_END)
            {
                return out.push(piece);
            }
        }
        return out.extend(stretch.clone().map(|i| step(guide, i..i + 1)));
    }
    let middle = stretch.start + stretch.len() / 2;
    let free = free_cubic(
        guide,
        stretch.clone(),
        Directions::default(),
        limits.tolerance,
        IN_THE_END,
    );
    let reach = (stretch.len() / 6).clamp(2, 6);
    let way = match free {
        Some(Piece {
            segment: Segment::Cubic(c),
            ..
        }) => {
            let t = 0.5;
            let handle = kurbo::ParamCurveDeriv::deriv(&c);
            kurbo::ParamCurve::eval(&handle, t).to_vec2()
        }
        _ => guide.joints[middle + reach] - guide.joints[middle - reach],
    };
    let way = (way.hypot2() > 0.0).then(|| way.normalize());
    smooth(
        guide,
        stretch.start..middle,
        Directions {
            end: way,
            ..directions
        },
        limits,
        out,
    );
    smooth(
        guide,
        middle..stretch.end,
        Directions {
            start: way,
            ..directions
        },
        limits,
        out,
    );
}

/// Distance of every point from a line or an arc; `None` once one is beyond the tolerance.
fn distances(points: &[Point], segment: &Segment, tolerance: f64) -> Option<Vec<f32>> {
    points
        .iter()
        .map(|&p| {
            let d = match segment {
                Segment::Line(l) => l.nearest(p, 1e-9).distance_sq.sqrt(),
                other => other.distance(p, 0.01 * tolerance),
            };
            (d <= tolerance).then_some(d as f32)
        })
        .collect()
}

fn polyline(points: &[Point], edge: &mut FittedEdge) {
    for pair in points.windows(2) {
        if pair[0] != pair[1] {
            edge.segments
                .push(Segment::Line(Line::new(pair[0], pair[1])));
            edge.strayed.push(0.0);
        }
        edge.deviation.push(0.0);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn fitted(run: &Run, tolerance: f64) -> FittedEdge {
        let mut edge = FittedEdge::default();
        let limits = Limits {
            tolerance,
            wobble: 0.0,
            px: 1.0,
        };
        fit_run(run, &run.points, limits, &Tight::default(), &mut edge);
        edge
    }

    fn ellipse(a: f64, b: f64, n: usize) -> Run {
        let points = (0..=n)
            .map(|i| {
                let (sin, cos) = ((i % n) as f64 / n as f64 * std::f64::consts::TAU).sin_cos();
                Point::new(a * cos, b * sin)
            })
            .collect();
        Run {
            points,
            smooth_loop: true,
        }
    }

    #[test]
    fn no_point_is_farther_off_than_the_tolerance() {
        for tolerance in [0.5, 0.1, 0.02, 0.002] {
            let run = ellipse(40.0, 25.0, 300);
            let edge = fitted(&run, tolerance);
            let worst = run.points.iter().map(|&p| {
                edge.segments
                    .iter()
                    .map(|s| s.distance(p, 1e-6))
                    .fold(f64::INFINITY, f64::min)
            });
            let worst = worst.fold(0.0, f64::max);
            assert!(worst <= tolerance + 1e-6, "{tolerance}: {worst}");
            let told = edge.deviation.iter().copied().fold(0.0, f32::max);
            assert!(f64::from(told) + 1e-6 >= worst, "told {told}, is {worst}");
        }
    }

    #[test]
    fn a_circle_is_two_arcs() {
        let points = ellipse(40.0, 40.0, 300).points;
        let limits = Limits {
            tolerance: 0.1,
            wobble: 0.0,
            px: 1.0,
        };
        let edge = whole_circle(&points[..300], limits).unwrap();
        assert!(matches!(
            edge.segments.as_slice(),
            [Segment::Arc(_), Segment::Arc(_)]
        ));
        let area: f64 = edge.segments.iter().map(Segment::signed_area).sum();
        assert!((area / (1600.0 * std::f64::consts::PI) - 1.0).abs() < 1e-3);
    }

    #[test]
    fn joints_of_a_smooth_loop_are_smooth() {
        let edge = fitted(&ellipse(60.0, 22.0, 400), 0.05);
        let n = edge.segments.len();
        assert!(n <= 8, "{n}");
        for i in 0..n {
            let (a, b) = (
                edge.segments[i].tangent(true),
                edge.segments[(i + 1) % n].tangent(false),
            );
            assert!(a.normalize().dot(b.normalize()) > 0.9999, "joint {i}");
        }
    }

    #[test]
    fn a_straight_run_is_one_line() {
        let points = (0..50)
            .map(|i| Point::new(f64::from(i), 0.05 * f64::from(i % 2)))
            .collect();
        let run = Run {
            points,
            smooth_loop: false,
        };
        assert!(matches!(
            fitted(&run, 0.1).segments.as_slice(),
            [Segment::Line(_)]
        ));
    }
}
