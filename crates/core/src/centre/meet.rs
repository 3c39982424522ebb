//! Meetings: which lines run on through a place where several meet, and where the others stop.
//!
//! ```text
//!        │                 │        The skeleton bends towards the middle of a crossing (left).
//!    ──╮ │ ╭──    ──►  ────┼────    Its arms tell better where the lines go (right): two that
//!      ╰─┼─╯               │        lead into one another are one stroke, and one that finds no
//!        │                 │        partner goes on to the stroke it meets.
//! ```
//!
//! Two lines that cross at a small angle share a stretch of skeleton between two nodes; nodes so
//! close, or with so thick a line between them, are one meeting.

use std::collections::BTreeMap;

use kurbo::{Point, Vec2};

use crate::centre::arm::{Arm, first_on, meeting_point};
use crate::centre::graph::{End, Graph, Ridge};
use crate::centre::midline::{Middle, median};

/// What became of the ends of the branches that come to nodes.
#[derive(Debug, Default)]
pub(super) struct Meetings {
    /// Ends that run on in another one, with the points between them, px.
    pub links: BTreeMap<End, (End, Vec<Point>)>,
    /// Ends that stop at a point, px, and the end of the stroke they stop at, if they do.
    pub stops: BTreeMap<End, (Point, Option<End>)>,
    /// Branches that are only the inside of a meeting.
    pub inner: Vec<bool>,
}

/// Greatest turn by which a stroke runs on, radians.
const TURN: f64 = 0.85;
/// The most arms for which every way to pair them is looked at.
const MOST_ARMS: usize = 8;
/// Nodes are one when they are nearer than this part of their reaches …
const NEAR: f64 = 1.7;
/// … or so many widths while the line between them is so much thicker than lines are.
const SHARED: f64 = 8.0;
const THICK: f64 = 1.1;
/// A stop lies at most so many reaches from the middle of the meeting.
const STOP: f64 = 2.5;

/// Sorts out every meeting of a graph; `middles` are the points of every branch.
pub(super) fn meetings(graph: &Graph, middles: &[Vec<Middle>]) -> Meetings {
    let inner = near(graph, middles);
    let of_node = clusters(&inner, graph.nodes.len());
    let mut found = Meetings {
        inner: vec![false; graph.branches.len()],
        ..Meetings::default()
    };
    for &(_, branch) in inner.values() {
        found.inner[branch] = true;
    }
    let mut arms: BTreeMap<usize, Vec<Arm>> = BTreeMap::new();
    for (b, branch) in graph.branches.iter().enumerate() {
        for (e, node) in branch.nodes.into_iter().enumerate() {
            let Some(node) = node.filter(|_| !found.inner[b]) else {
                continue;
            };
            let arm = Arm::of((b, e), &middles[b], graph.nodes[node].at);
            arms.entry(of_node[node]).or_default().push(arm);
        }
    }
    let mut nodes: BTreeMap<usize, Vec<Ridge>> = BTreeMap::new();
    for (&cluster, &node) in of_node.iter().zip(&graph.nodes) {
        nodes.entry(cluster).or_default().push(node);
    }
    for (cluster, arms) in arms {
        found.sort_out(&nodes[&cluster], &arms);
    }
    found
}

/// The branch between two nodes that are one meeting, by these nodes; the shortest, if several are.
type Inner = BTreeMap<(usize, usize), (f64, usize)>;

/// Nodes that are one meeting, and the branches between them.
fn near(graph: &Graph, middles: &[Vec<Middle>]) -> Inner {
    let width = |m: &Middle| m.width;
    let typical = median(middles.iter().flatten().map(width).collect());
    let mut inner = Inner::new();
    for (n, branch) in graph.branches.iter().enumerate() {
        let [Some(a), Some(b)] = branch.nodes else {
            continue;
        };
        let reach = graph.nodes[a].radius + graph.nodes[b].radius;
        let length = branch.length() + 2.0;
        let thick = median(middles[n].iter().map(width).collect()) > THICK * typical;
        if a != b && (length < NEAR * reach || (thick && length < SHARED * typical)) {
            let best = inner.entry((a.min(b), a.max(b))).or_insert((length, n));
            if length < best.0 {
                *best = (length, n);
            }
        }
    }
    inner
}

/// For every node the least node that belongs to the same meeting.
fn clusters(inner: &Inner, nodes: usize) -> Vec<usize> {
    let mut of_node: Vec<usize> = (0..nodes).collect();
    let mut changed = true;
    while std::mem::take(&mut changed) {
        for &(a, b) in inner.keys() {
            let least = of_node[a].min(of_node[b]);
            changed |= of_node[a] != least || of_node[b] != least;
            (of_node[a], of_node[b]) = (least, least);
        }
    }
    of_node
}

impl Meetings {
    /// Pairs the arms of one meeting, the straightest first, and stops those that are left.
    fn sort_out(&mut self, nodes: &[Ridge], arms: &[Arm]) {
        let sum = nodes.iter().fold(Vec2::ZERO, |s, n| s + n.at.to_vec2());
        let middle = (sum / nodes.len() as f64).to_point();
        let spread = nodes.iter().map(|n| n.radius + n.at.distance(middle));
        let reach = spread.fold(1.0, f64::max);
        let mut taken = vec![false; arms.len()];
        let mut bridges: Vec<(End, Vec<Point>)> = Vec::new();
        for (i, j) in pairs(arms, reach) {
            (taken[i], taken[j]) = (true, true);
            let (a, b) = (arms[i], arms[j]);
            let bridge = a.bridge(&b);
            let back: Vec<Point> = bridge.iter().rev().copied().collect();
            let before = [a.at - a.along * reach, a.at].into_iter();
            let after = [b.at, b.at - b.along * reach];
            let whole = before.chain(bridge.iter().copied()).chain(after);
            bridges.push((a.end, whole.collect()));
            self.links.insert(a.end, (b.end, bridge));
            self.links.insert(b.end, (a.end, back));
        }
        let left: Vec<Arm> = arms
            .iter()
            .zip(&taken)
            .filter(|(_, taken)| !**taken)
            .map(|(arm, _)| *arm)
            .collect();
        let meet = meeting_point(&left).filter(|p| p.distance(middle) <= STOP * reach);
        for arm in &left {
            let most = arm.at.distance(middle) + STOP * reach;
            let ahead = bridges
                .iter()
                .filter_map(|(end, bridge)| Some((first_on(arm, bridge, most)?, *end)));
            let ahead = ahead.min_by(|a, b| arm.at.distance(a.0).total_cmp(&arm.at.distance(b.0)));
            let beside = || {
                let points = bridges
                    .iter()
                    .flat_map(|(end, b)| b.iter().map(|p| (*p, *end)));
                points.min_by(|a, b| middle.distance(a.0).total_cmp(&middle.distance(b.0)))
            };
            let stop = match ahead.or_else(beside) {
                Some((at, end)) => (at, Some(end)),
                None => (meet.unwrap_or(middle), None),
            };
            self.stops.insert(arm.end, stop);
        }
    }
}

/// Which arms lead into one another: as many and as straight as can be, by the sum of the squares
/// of the turns, an arm without a partner counted as half the greatest turn squared.
fn pairs(arms: &[Arm], reach: f64) -> Vec<(usize, usize)> {
    if arms.len() == 2 {
        return vec![(0, 1)];
    }
    let turn = |i: usize, j: usize| arms[i].turn(&arms[j], reach);
    let costs: Vec<Vec<f64>> = (0..arms.len())
        .map(|i| (0..arms.len()).map(|j| turn(i, j).powi(2)).collect())
        .collect();
    let all: Vec<usize> = (0..arms.len()).collect();
    if arms.len() <= MOST_ARMS {
        return paired(&all, &costs).1;
    }
    let mut order: Vec<(usize, usize)> = all
        .iter()
        .flat_map(|&i| (i + 1..arms.len()).map(move |j| (i, j)))
        .filter(|&(i, j)| costs[i][j] <= TURN * TURN)
        .collect();
    order.sort_by(|a, b| costs[a.0][a.1].total_cmp(&costs[b.0][b.1]));
    let mut taken = vec![false; arms.len()];
    order.retain(|&(i, j)| {
        let free = !taken[i] && !taken[j];
        if free {
            (taken[i], taken[j]) = (true, true);
        }
        free
    });
    order
}

/// The cheapest way to pair some arms, and what it costs.
fn paired(arms: &[usize], costs: &[Vec<f64>]) -> (f64, Vec<(usize, usize)>) {
    let Some((&first, rest)) = arms.split_first() else {
        return (0.0, Vec::new());
    };
    let mut best = paired(rest, costs);
    best.0 += TURN * TURN / 2.0;
    for (n, &other) in rest.iter().enumerate() {
        let cost = costs[first][other];
        if cost > TURN * TURN {
            continue;
        }
        let others: Vec<usize> = [&rest[..n], &rest[n + 1..]].concat();
        let (more, mut pairs) = paired(&others, costs);
        if cost + more < best.0 {
            pairs.push((first, other));
            best = (cost + more, pairs);
        }
    }
    best
}
