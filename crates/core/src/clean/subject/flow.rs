//! The least cut of a grid between two terminals.
//!
//! ```text
//!   subject ══► ▒─▒─▒        Two trees grow from the terminals over links that still have room. Where they meet, as much
//!               ▒─▒╎▒        flows as the way lets through; what it fills is cut off and taken in again elsewhere. When
//!               ▒╎▒─▒ ══► ground   no way is left, what the first tree holds is on its side of the least cut.
//! ```
//!
//! Source: Boykov & Kolmogorov 2004, "An experimental comparison of min-cut/max-flow algorithms for energy minimization in
//! vision" (IEEE Trans. PAMI 26(9), 1124–1137). Own code: a library's general flow took a minute where this takes a
//! part of a second, see docs/decisions.

use std::collections::VecDeque;

use crate::stop::{Stop, Stopped};

/// Steps to the eight neighbours; a direction and the one with its lowest bit turned over are opposite.
const WAYS: [(isize, isize); 8] = [
    (1, 0),
    (-1, 0),
    (0, 1),
    (0, -1),
    (1, 1),
    (-1, -1),
    (1, -1),
    (-1, 1),
];
/// What a node hangs on instead of a neighbour.
const TERMINAL: u8 = 8;
const NOTHING: u8 = 9;

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Tree {
    Free,
    Subject,
    Ground,
}

/// A grid whose nodes are linked to their eight neighbours and to one of two terminals.
pub(super) struct Flow {
    width: usize,
    height: usize,
    /// Room from each node to each neighbour.
    room: Vec<[u32; 8]>,
    /// Room from the subject's terminal; below nought to the ground's.
    end: Vec<i64>,
    tree: Vec<Tree>,
    /// The way from each node to the one it hangs on.
    up: Vec<u8>,
    /// Nodes whose neighbours are still to be looked at.
    active: VecDeque<usize>,
    waiting: Vec<bool>,
    orphans: VecDeque<usize>,
    /// When a node was last known to hang on a terminal, and by how many steps.
    known: Vec<u32>,
    far: Vec<u32>,
    now: u32,
}

impl Flow {
    /// `ends`: what the subject's terminal gives each node, or below nought what the ground's takes; `link` says how
    /// much a node and its neighbour in one of the [`WAYS`] hold together, the same both ways.
    pub(super) fn new(width: usize, ends: Vec<i64>, link: impl Fn(usize, usize) -> u32) -> Self {
        let count = ends.len();
        let mut flow = Self {
            width,
            height: count / width.max(1),
            room: vec![[0; 8]; count],
            end: ends,
            tree: vec![Tree::Free; count],
            up: vec![NOTHING; count],
            active: VecDeque::new(),
            waiting: vec![false; count],
            orphans: VecDeque::new(),
            known: vec![0; count],
            far: vec![0; count],
            now: 0,
        };
        for i in 0..count {
            for way in 0..WAYS.len() {
                if let Some(j) = flow.beside(i, way) {
                    flow.room[i][way] = link(i, j);
                }
            }
        }
        flow
    }

    /// Which nodes are on the subject's side of the least cut.
    ///
    /// # Errors
    /// [`Stopped`] when `stop` was set.
    pub(super) fn cut(mut self, stop: &Stop) -> Result<Vec<bool>, Stopped> {
        for i in 0..self.end.len() {
            if self.end[i] != 0 {
                self.tree[i] = if self.end[i] > 0 {
                    Tree::Subject
                } else {
                    Tree::Ground
                };
                self.up[i] = TERMINAL;
                self.far[i] = 1;
                self.wake(i);
            }
        }
        let mut rounds = 0_u32;
        while let Some(&at) = self.active.front() {
            rounds += 1;
            if rounds.is_multiple_of(4096) {
                stop.check()?;
            }
            match self.grow(at) {
                Some((from, way)) => {
                    self.now += 1;
                    self.send(from, way);
                    self.adopt();
                }
                None => {
                    self.active.pop_front();
                    self.waiting[at] = false;
                }
            }
        }
        Ok(self.tree.iter().map(|&t| t == Tree::Subject).collect())
    }

    fn beside(&self, i: usize, way: usize) -> Option<usize> {
        let (dx, dy) = WAYS[way];
        let x = (i % self.width).checked_add_signed(dx)?;
        let y = (i / self.width).checked_add_signed(dy)?;
        (x < self.width && y < self.height).then(|| y * self.width + x)
    }

    /// The same where there is known to be one.
    fn next(&self, i: usize, way: usize) -> usize {
        let (dx, dy) = WAYS[way];
        i.wrapping_add_signed(dy * self.width as isize + dx)
    }

    fn wake(&mut self, i: usize) {
        if !self.waiting[i] {
            self.waiting[i] = true;
            self.active.push_back(i);
        }
    }

    /// Room along the tree of `i` between it and a neighbour: away from the subject's terminal, towards the ground's.
    fn room_down(&self, i: usize, j: usize, way: usize) -> u32 {
        match self.tree[i] {
            Tree::Ground => self.room[j][way ^ 1],
            Tree::Subject | Tree::Free => self.room[i][way],
        }
    }

    /// Takes free neighbours in; a link between the trees where there is one, from the subject's side.
    fn grow(&mut self, at: usize) -> Option<(usize, usize)> {
        if self.tree[at] == Tree::Free {
            return None;
        }
        for way in 0..WAYS.len() {
            let Some(next) = self.beside(at, way) else {
                continue;
            };
            if self.room_down(at, next, way) == 0 {
                continue;
            }
            if self.tree[next] == Tree::Free {
                self.tree[next] = self.tree[at];
                self.up[next] = (way ^ 1) as u8;
                self.known[next] = self.known[at];
                self.far[next] = self.far[at] + 1;
                self.wake(next);
            } else if self.tree[next] != self.tree[at] {
                return Some(match self.tree[at] {
                    Tree::Subject => (at, way),
                    _ => (next, way ^ 1),
                });
            }
        }
        None
    }

    /// The nodes from one up to its terminal, each with the way up.
    fn chain(&self, from: usize) -> (Vec<(usize, usize)>, usize) {
        let (mut chain, mut at) = (Vec::new(), from);
        while self.up[at] < TERMINAL {
            let way = usize::from(self.up[at]);
            chain.push((at, way));
            let Some(next) = self.beside(at, way) else {
                break;
            };
            at = next;
        }
        (chain, at)
    }

    /// Sends as much as fits over a link between the trees.
    fn send(&mut self, from: usize, way: usize) {
        let Some(to) = self.beside(from, way) else {
            return;
        };
        let (subject, first) = self.chain(from);
        let (ground, last) = self.chain(to);
        let links: Vec<(usize, usize)> = subject
            .iter()
            .map(|&(i, w)| (self.next(i, w), w ^ 1))
            .chain([(from, way)])
            .chain(ground.iter().copied())
            .collect();
        let rooms = links.iter().map(|&(i, w)| i64::from(self.room[i][w]));
        let most = rooms
            .chain([self.end[first], -self.end[last]])
            .min()
            .unwrap_or(0);
        let sent = u32::try_from(most).unwrap_or(0);
        for &(i, w) in &links {
            self.room[i][w] -= sent;
            let j = self.next(i, w);
            self.room[j][w ^ 1] += sent;
        }
        self.end[first] -= most;
        self.end[last] += most;
        // What hangs on a link without room is cut off.
        for &(i, w) in &subject {
            let parent = self.next(i, w);
            if self.room[parent][w ^ 1] == 0 {
                self.cut_off(i);
            }
        }
        for &(i, w) in &ground {
            if self.room[i][w] == 0 {
                self.cut_off(i);
            }
        }
        for end in [first, last] {
            if self.end[end] == 0 {
                self.cut_off(end);
            }
        }
    }

    fn cut_off(&mut self, i: usize) {
        self.up[i] = NOTHING;
        self.orphans.push_back(i);
    }

    /// How many steps a node hangs below a terminal; `None` where it hangs on nothing.
    fn depth(&mut self, from: usize) -> Option<u32> {
        let (mut at, mut steps) = (from, 0);
        let depth = loop {
            if self.known[at] == self.now && self.up[at] != NOTHING {
                break steps + self.far[at];
            }
            match self.up[at] {
                TERMINAL => {
                    self.known[at] = self.now;
                    self.far[at] = 1;
                    break steps + 1;
                }
                NOTHING => return None,
                way => {
                    steps += 1;
                    at = self.beside(at, usize::from(way))?;
                }
            }
        };
        let (mut at, mut far) = (from, depth);
        while self.known[at] != self.now {
            self.known[at] = self.now;
            self.far[at] = far;
            far -= 1;
            at = self.beside(at, usize::from(self.up[at]))?;
        }
        Some(depth)
    }

    /// Hangs what was cut off on a neighbour of its tree that hangs on its terminal, or lets it go.
    fn adopt(&mut self) {
        while let Some(i) = self.orphans.pop_front() {
            let tree = self.tree[i];
            let mut best: Option<(u32, usize)> = None;
            for way in 0..WAYS.len() {
                let Some(j) = self.beside(i, way) else {
                    continue;
                };
                if self.tree[j] != tree || self.room_down(j, i, way ^ 1) == 0 {
                    continue;
                }
                if let Some(depth) = self.depth(j)
                    && best.is_none_or(|(least, _)| depth < least)
                {
                    best = Some((depth, way));
                }
            }
            if let Some((depth, way)) = best {
                self.up[i] = way as u8;
                self.known[i] = self.now;
                self.far[i] = depth + 1;
                continue;
            }
            for way in 0..WAYS.len() {
                let Some(j) = self.beside(i, way) else {
                    continue;
                };
                if self.tree[j] != tree {
                    continue;
                }
                if self.room_down(j, i, way ^ 1) > 0 {
                    self.wake(j);
                }
                if usize::from(self.up[j]) == way ^ 1 {
                    self.cut_off(j);
                }
            }
            self.tree[i] = Tree::Free;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::random::Random;

    /// What a way to part the nodes costs.
    fn cost(width: usize, ends: &[i64], links: &[[u32; 8]], subject: &[bool]) -> i64 {
        let flow = Flow::new(width, ends.to_vec(), |_, _| 0);
        let mut sum = 0;
        for (i, &end) in ends.iter().enumerate() {
            sum += if subject[i] {
                (-end).max(0)
            } else {
                end.max(0)
            };
            for (way, &link) in links[i].iter().enumerate() {
                if let Some(j) = flow.beside(i, way)
                    && subject[i]
                    && !subject[j]
                {
                    sum += i64::from(link);
                }
            }
        }
        sum
    }

    #[test]
    fn the_cut_costs_no_more_than_the_best_of_all() {
        let mut random = Random::new(21);
        for (width, height) in [(3, 4), (4, 3), (2, 6), (12, 1)] {
            for _ in 0..40 {
                let count = width * height;
                let ends: Vec<i64> = (0..count).map(|_| random.below(41) as i64 - 20).collect();
                let strength: Vec<u32> = (0..count * count)
                    .map(|_| random.below(12) as u32)
                    .collect();
                let link = |a: usize, b: usize| strength[a.min(b) * count + a.max(b)];
                let flow = Flow::new(width, ends.clone(), link);
                let links = flow.room.clone();
                let found = flow.cut(&Stop::new()).unwrap();
                let all = (0..1_u32 << count).map(|bits| {
                    let subject: Vec<bool> = (0..count).map(|i| bits >> i & 1 == 1).collect();
                    cost(width, &ends, &links, &subject)
                });
                assert_eq!(Some(cost(width, &ends, &links, &found)), all.min());
            }
        }
    }
}
