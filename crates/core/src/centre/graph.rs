//! The skeleton as a graph: nodes where lines meet, branches between them.
//!
//! ```text
//!   end ────branch────● node ────branch──── end      A node is a cluster of skeleton pixels that
//!                     │                              each have three neighbours or more; it knows
//!                   branch                           how far the ink reaches around it.
//! ```
//!
//! Spurs go: branches that only lead from the middle of a line into a corner of its outline. They
//! grow thinner in step with their length, which a drawn line does not.

use std::collections::BTreeMap;

/// An end of a branch: its number, and 0 for its start or 1 for its end.
pub(super) type End = (usize, usize);

use kurbo::Point;

use crate::centre::mask::Mask;

/// A point of the skeleton, px, and how far the ink reaches around it, px.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Ridge {
    pub at: Point,
    pub radius: f64,
}

/// A line of the skeleton.
#[derive(Clone, Debug)]
pub(super) struct Branch {
    /// Its points in order, those of its nodes left out. A closed one does not repeat its first.
    pub points: Vec<Ridge>,
    /// The nodes at its start and its end; `None` where it ends free.
    pub nodes: [Option<usize>; 2],
    /// Whether it is a loop without a node.
    pub closed: bool,
}

/// Lines of a skeleton and where they meet.
#[derive(Clone, Debug, Default)]
pub(super) struct Graph {
    pub branches: Vec<Branch>,
    pub nodes: Vec<Ridge>,
    /// Nodes at which no more than two branches are left, which have become part of a line.
    gone: Vec<bool>,
}

/// A spur ends so near to its node that it hardly leaves the ink around it …
const NEAR: f64 = 1.3;
/// … or loses more than this part of its length in reach (a corner of 90° makes it lose 0.7).
const TAPERS: f64 = 0.42;
/// Half the width of a line of single pixels, px.
const BRIDGE_PX: f64 = 0.5;

impl Branch {
    /// Length along its points, px.
    pub(super) fn length(&self) -> f64 {
        self.points
            .windows(2)
            .map(|p| p[0].at.distance(p[1].at))
            .sum()
    }

    fn reversed(mut self) -> Self {
        self.points.reverse();
        self.nodes.reverse();
        self
    }

    /// Whether it only crosses the notch where two lines part: pixels that touch by a corner.
    fn is_bridge(&self, nodes: &[Ridge]) -> bool {
        let [Some(a), Some(b)] = self.nodes else {
            return false;
        };
        let (a, b) = (nodes[a].radius, nodes[b].radius);
        let least = self
            .points
            .iter()
            .map(|r| r.radius)
            .fold(f64::MAX, f64::min);
        least <= BRIDGE_PX && a.min(b) > 4.0 * BRIDGE_PX && self.length() < 2.0 * (a + b)
    }

    /// Whether it only leads from a node into a corner of the outline.
    fn is_spur(&self, nodes: &[Ridge]) -> bool {
        let (node, tip) = match self.nodes {
            [Some(n), None] => (nodes[n], self.points.last()),
            [None, Some(n)] => (nodes[n], self.points.first()),
            _ => return false,
        };
        let Some(tip) = tip else { return true };
        let length = self.length() + 1.0;
        let reach = length + tip.radius;
        reach < NEAR * node.radius + 1.0 || node.radius - tip.radius > TAPERS * length
    }
}

impl Graph {
    /// Reads the graph off a skeleton; `distance` is the squared one of every pixel from outside.
    pub(super) fn of(skeleton: &Mask, distance: &[u32]) -> Self {
        let mut walk = Walk {
            skeleton,
            distance,
            node_of: BTreeMap::new(),
            seen: vec![false; skeleton.on.len()],
            graph: Self::default(),
        };
        let on: Vec<usize> = (0..skeleton.on.len()).filter(|&i| skeleton.on[i]).collect();
        for &i in &on {
            if walk.meets(i) {
                walk.cluster(i);
            }
        }
        let starts: Vec<usize> = walk.node_of.keys().copied().collect();
        for i in starts {
            for j in walk.next(i) {
                if !walk.seen[j] && !walk.node_of.contains_key(&j) {
                    walk.branch(j, walk.node_of.get(&i).copied(), i);
                }
            }
        }
        // Lines that end free at both sides, then loops.
        for loops in [false, true] {
            for &i in &on {
                let ends = skeleton.neighbours(i).count_ones() < 2;
                if !walk.seen[i] && !walk.node_of.contains_key(&i) && (ends || loops) {
                    walk.branch(i, None, i);
                }
            }
        }
        walk.graph
    }

    /// Takes spurs out and joins what runs on where one has gone, until nothing changes.
    pub(super) fn prune(&mut self) {
        loop {
            let before = self.branches.len();
            let nodes = std::mem::take(&mut self.nodes);
            self.branches
                .retain(|b| !b.is_spur(&nodes) && !b.is_bridge(&nodes));
            self.nodes = nodes;
            let spurs = before - self.branches.len();
            if self.join_through() + spurs == 0 {
                return;
            }
        }
    }

    /// Joins the two branches of every node that has no more than two; returns how many.
    fn join_through(&mut self) -> usize {
        let mut arms = self.arms();
        let mut slots: Vec<Option<Branch>> = self.branches.drain(..).map(Some).collect();
        self.gone.resize(self.nodes.len(), false);
        let mut joined = 0;
        for node in (0..arms.len())
            .filter(|&n| !std::mem::replace(&mut self.gone[n], true))
            .collect::<Vec<_>>()
        {
            let at = self.nodes[node];
            match arms[node][..] {
                // Nothing but spurs: a dot.
                [] => slots.push(Some(Branch {
                    points: vec![at],
                    nodes: [None, None],
                    closed: false,
                })),
                [(b, e)] => {
                    // A free end now: the node becomes its last point.
                    let Some(own) = &mut slots[b] else { continue };
                    own.nodes[e] = None;
                    let place = if e == 0 { 0 } else { own.points.len() };
                    own.points.insert(place, at);
                }
                [(a, _), (b, _)] if a == b => {
                    let Some(own) = &mut slots[a] else { continue };
                    own.nodes = [None, None];
                    own.points.push(at);
                    own.closed = true;
                }
                [(a, ea), (b, eb)] => {
                    let (Some(first), Some(second)) = (slots[a].take(), slots[b].take()) else {
                        continue;
                    };
                    let mut first = if ea == 1 { first } else { first.reversed() };
                    let second = if eb == 0 { second } else { second.reversed() };
                    first.points.push(at);
                    first.points.extend(second.points);
                    first.nodes[1] = second.nodes[1];
                    for (e, far) in first.nodes.into_iter().enumerate() {
                        let Some(far) = far else { continue };
                        for arm in &mut arms[far] {
                            if (arm.0 == a && e == 0 && arm.1 == 1 - ea)
                                || (arm.0 == b && e == 1 && arm.1 == 1 - eb)
                            {
                                *arm = (a, e);
                            }
                        }
                    }
                    slots[a] = Some(first);
                }
                _ => {
                    self.gone[node] = false;
                    continue;
                }
            }
            arms[node].clear();
            joined += 1;
        }
        self.branches = slots.into_iter().flatten().collect();
        joined
    }

    /// Parts that hang together: for every branch the number of its part, from nought.
    pub(super) fn parts(&self) -> Vec<usize> {
        let mut part_of_node: Vec<usize> = (0..self.nodes.len()).collect();
        loop {
            let mut changed = false;
            for branch in &self.branches {
                if let [Some(a), Some(b)] = branch.nodes {
                    let least = part_of_node[a].min(part_of_node[b]);
                    changed |= part_of_node[a] != least || part_of_node[b] != least;
                    (part_of_node[a], part_of_node[b]) = (least, least);
                }
            }
            if !changed {
                break;
            }
        }
        let ends = self.branches.iter().enumerate().map(|(n, b)| {
            let node = b.nodes.into_iter().flatten().next();
            node.map_or(self.nodes.len() + n, |i| part_of_node[i])
        });
        ends.collect()
    }

    /// Branch ends at every node: the branch, and 0 for its start or 1 for its end.
    pub(super) fn arms(&self) -> Vec<Vec<(usize, usize)>> {
        let mut arms = vec![Vec::new(); self.nodes.len()];
        for (b, branch) in self.branches.iter().enumerate() {
            for (e, node) in branch.nodes.into_iter().enumerate() {
                if let Some(n) = node {
                    arms[n].push((b, e));
                }
            }
        }
        arms
    }
}

struct Walk<'a> {
    skeleton: &'a Mask,
    distance: &'a [u32],
    node_of: BTreeMap<usize, usize>,
    seen: Vec<bool>,
    graph: Graph,
}

impl Walk<'_> {
    fn ridge(&self, i: usize) -> Ridge {
        Ridge {
            at: self.skeleton.centre(i),
            radius: f64::from(self.distance[i]).sqrt() - 0.5,
        }
    }

    fn meets(&self, i: usize) -> bool {
        self.skeleton.neighbours(i).count_ones() > 2
    }

    /// Neighbours on the skeleton, those across a side first.
    fn next(&self, i: usize) -> Vec<usize> {
        let around = self.skeleton.around();
        let order = [0, 2, 4, 6, 1, 3, 5, 7];
        let met = order.map(|k| i.wrapping_add_signed(around[k]));
        met.into_iter().filter(|&j| self.skeleton.on[j]).collect()
    }

    /// Makes a node of the meeting pixels around one.
    fn cluster(&mut self, from: usize) {
        if self.node_of.contains_key(&from) {
            return;
        }
        let node = self.graph.nodes.len();
        let (mut open, mut all) = (vec![from], Vec::new());
        self.node_of.insert(from, node);
        while let Some(i) = open.pop() {
            all.push(i);
            for j in self.next(i) {
                if self.meets(j) && !self.node_of.contains_key(&j) {
                    self.node_of.insert(j, node);
                    open.push(j);
                }
            }
        }
        let ridges = all.iter().map(|&i| self.ridge(i));
        let sum = ridges
            .clone()
            .fold(kurbo::Vec2::ZERO, |s, r| s + r.at.to_vec2());
        self.graph.nodes.push(Ridge {
            at: (sum / all.len() as f64).to_point(),
            radius: ridges.fold(0.0, |most: f64, r| most.max(r.radius)),
        });
    }

    /// Walks a branch from its first pixel, `from` a pixel of the node it leaves.
    fn branch(&mut self, first: usize, node: Option<usize>, from: usize) {
        let mut points = Vec::new();
        let (mut at, mut before) = (first, from);
        let mut end = None;
        let mut closed = false;
        loop {
            self.seen[at] = true;
            points.push(self.ridge(at));
            let ahead = self.next(at);
            let nodes = ahead
                .iter()
                .filter_map(|j| Some((*j, *self.node_of.get(j)?)));
            // A branch of one pixel may lead back to the node it left by another pixel of it.
            let mut met =
                nodes.filter(|&(j, n)| j != before && (points.len() > 1 || Some(n) != node));
            if let Some((_, n)) = met.next_back() {
                end = Some(n);
                break;
            }
            let Some(&next) = ahead
                .iter()
                .find(|&&j| !self.seen[j] && !self.node_of.contains_key(&j))
            else {
                closed = node.is_none() && points.len() > 2 && ahead.contains(&first);
                break;
            };
            (before, at) = (at, next);
        }
        self.graph.branches.push(Branch {
            points,
            nodes: [node, end],
            closed,
        });
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::centre::skeleton::thin;
    use crate::stop::Stop;

    fn graph(width: usize, height: usize, on: impl Fn(f64, f64) -> bool) -> Graph {
        let on = |x: usize, y: usize| on(x as f64 + 0.5, y as f64 + 0.5);
        let mut mask = Mask::new(width, height, on).unwrap();
        let distance = thin(&mut mask, &Stop::new()).unwrap();
        let mut graph = Graph::of(&mask, &distance);
        graph.prune();
        graph
    }

    #[test]
    fn a_bar_is_one_branch_without_spurs_into_its_corners() {
        let found = graph(80, 30, |x, y| {
            (10.0..70.0).contains(&x) && (10.0..21.0).contains(&y)
        });
        assert_eq!(found.branches.len(), 1);
        assert_eq!(found.branches[0].nodes, [None, None]);
    }

    #[test]
    fn a_cross_has_four_arms_and_a_ring_is_closed() {
        let cross = graph(60, 60, |x, y| {
            (x - 30.0).abs() < 3.0 && (4.0..56.0).contains(&y)
                || (y - 30.0).abs() < 3.0 && (4.0..56.0).contains(&x)
        });
        assert_eq!(cross.branches.len(), 4);
        assert!(cross.branches.iter().all(|b| b.length() > 18.0));
        let ring = graph(60, 60, |x, y| {
            (17.0..23.0).contains(&(x - 30.0).hypot(y - 30.0))
        });
        assert_eq!(ring.branches.len(), 1);
        assert!(ring.branches[0].closed);
    }
}
