//! Strokes: branches chained into the lines that a pen would draw.

use kurbo::{Point, Vec2};

use crate::centre::ends;
use crate::centre::graph::End;
use crate::centre::graph::Graph;
use crate::centre::meet::Meetings;
use crate::centre::midline::Middle;
use crate::centre::outline::Outline;

/// A line as a pen would draw it, before it is fitted.
#[derive(Debug)]
pub(super) struct Drawn {
    /// Its points, px. A closed one does not repeat its first.
    pub points: Vec<Point>,
    /// Width of the line and length along which it holds, px, for every point that knows it.
    pub widths: Vec<f64>,
    /// Whether it closes.
    pub closed: bool,
    /// For its start and its end, the branch end of the stroke at which it stops.
    pub stops_at: [Option<End>; 2],
    /// The branches it is made of.
    pub branches: Vec<usize>,
}

/// Chains the branches of a graph; those that are dots are left out.
pub(super) fn chained(
    graph: &Graph,
    middles: &[Vec<Middle>],
    meetings: &Meetings,
    outline: &Outline,
) -> Vec<Drawn> {
    let mut seen: Vec<bool> = meetings.inner.clone();
    let mut strokes = Vec::new();
    // Strokes with ends first, then those that lead back into themselves.
    for loops in [false, true] {
        for b in 0..graph.branches.len() {
            for e in [0, 1] {
                let starts = !meetings.links.contains_key(&(b, e));
                if !seen[b] && (starts || loops) {
                    strokes.push(chain((b, e), graph, middles, meetings, outline, &mut seen));
                }
            }
        }
    }
    strokes
}

/// The stroke that begins with an end of a branch.
fn chain(
    start: End,
    graph: &Graph,
    middles: &[Vec<Middle>],
    meetings: &Meetings,
    outline: &Outline,
    seen: &mut [bool],
) -> Drawn {
    let mut drawn = Drawn {
        points: Vec::new(),
        widths: Vec::new(),
        closed: false,
        stops_at: [None, None],
        branches: Vec::new(),
    };
    if let Some(&(at, on)) = meetings.stops.get(&start) {
        drawn.points.push(at);
        drawn.stops_at[0] = on;
    }
    let mut at = start;
    loop {
        let (b, e) = at;
        seen[b] = true;
        drawn.branches.push(b);
        let branch = &graph.branches[b];
        let mut line = middles[b].clone();
        if e == 1 {
            line.reverse();
        }
        drawn.closed |= branch.closed;
        if !branch.closed && line.len() > 1 {
            if branch.nodes[1 - e].is_none() {
                ends::extend(&mut line, outline);
            }
            if branch.nodes[e].is_none() {
                line.reverse();
                ends::extend(&mut line, outline);
                line.reverse();
            }
        }
        drawn.points.extend(line.iter().map(|m| m.at));
        drawn.widths.extend(line.iter().map(|m| m.width));
        let out = (b, 1 - e);
        if let Some((next, bridge)) = meetings.links.get(&out) {
            drawn.points.extend(bridge);
            if *next == start {
                drawn.closed = true;
                break;
            }
            if seen[next.0] {
                break;
            }
            at = *next;
        } else {
            if let Some(&(at, on)) = meetings.stops.get(&out) {
                drawn.points.push(at);
                drawn.stops_at[1] = on;
            }
            break;
        }
    }
    drawn.points.dedup_by(|a, b| a.distance_squared(*b) < 1e-12);
    drawn
}

impl Drawn {
    /// Length, px.
    pub(super) fn length(&self) -> f64 {
        self.points.windows(2).map(|p| p[0].distance(p[1])).sum()
    }

    /// The same as a dot: its middle alone.
    pub(super) fn dot(mut self) -> Self {
        let sum = self.points.iter().fold(Vec2::ZERO, |s, p| s + p.to_vec2());
        self.points = vec![(sum / self.points.len() as f64).to_point()];
        self.stops_at = [None, None];
        self
    }

    /// Mean width, px.
    pub(super) fn width(&self) -> f64 {
        self.widths.iter().sum::<f64>() / self.widths.len().max(1) as f64
    }
}
