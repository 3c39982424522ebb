//! Tour: the order in which the tool goes from path to path, with little travel between them.
//!
//! ```text
//!   start ┈┈► ▣──visit──▣ ┈┈travel┈┈► ▣──visit──▣ ┈┈► … ┈┈► end
//! ```
//!
//! A visit has two ends, or one where a closed path begins and ends; open paths may be run either
//! way. A visit inside another comes before it. Nearest neighbour first, then 2-opt and Or-opt over
//! the nearest ends, then the same again after small kicks (two neighbouring pieces change places),
//! kept where they helped. The work is counted in kicks, not in seconds, so the answer is always the
//! same. Every change is a row of reversals, which makes it easy to take back.
//!
//! Sources: Croes 1958 (2-opt); Or 1976; Johnson & McGeoch 1997, "The traveling salesman problem: a
//! case study in local optimization" (neighbour lists, don't-look bits, kicks by segments).

mod moves;

use std::collections::VecDeque;

use kurbo::Point;
use rstar::RTree;
use rstar::primitives::GeomWithData;

use crate::random::Random;

/// A path to be visited.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Visit {
    /// Where it begins.
    pub from: Point,
    /// Where it ends.
    pub to: Point,
    /// The visit that has to come later: the ring around this one.
    pub before: Option<usize>,
}

/// A visit in its turn.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Turn {
    /// Number of the visit.
    pub visit: usize,
    /// Whether it is run from its end.
    pub backwards: bool,
}

/// Ends that are looked at around each.
const NEIGHBOURS: usize = 8;
/// Greatest number of visits moved together.
const OR: usize = 3;
/// Greatest length of the pieces that a kick exchanges, visits.
const KICK: usize = 40;
/// A reversal moves at most so many visits.
const LONGEST: usize = 25_000;
/// Below this a change is none, mm.
const GAIN: f64 = 1e-7;

/// An order of all visits from `start`, and back to `end` where there is one, found with `kicks`
/// kicks after the local search.
#[must_use]
pub fn tour(visits: &[Visit], start: Point, end: Option<Point>, kicks: usize) -> Vec<Turn> {
    let mut tour = Tour::nearest(visits, start, end);
    tour.improve(kicks);
    tour.turns()
}

/// An order made better, from one that was good before ends were moved.
#[must_use]
pub(crate) fn improved(
    visits: &[Visit],
    turns: &[Turn],
    start: Point,
    end: Option<Point>,
    kicks: usize,
) -> Vec<Turn> {
    let mut tour = Tour::of(visits, turns, start, end);
    tour.improve(kicks);
    tour.turns()
}

/// Length travelled between the visits, mm.
#[must_use]
pub fn travel(visits: &[Visit], turns: &[Turn], start: Point, end: Option<Point>) -> f64 {
    let mut at = start;
    let mut sum = 0.0;
    for turn in turns {
        let visit = &visits[turn.visit];
        let (from, to) = match turn.backwards {
            false => (visit.from, visit.to),
            true => (visit.to, visit.from),
        };
        sum += at.distance(from);
        at = to;
    }
    sum + end.map_or(0.0, |end| at.distance(end))
}

type PathEnd = GeomWithData<[f64; 2], usize>;

struct Tour<'a> {
    visits: &'a [Visit],
    start: Point,
    end: Option<Point>,
    order: Vec<usize>,
    /// By visit.
    backwards: Vec<bool>,
    /// Where each visit stands.
    at: Vec<usize>,
    /// Visits that come before each.
    first: Vec<Vec<usize>>,
    ordered: bool,
    neighbours: Vec<Vec<usize>>,
    done: Vec<(usize, usize)>,
    random: Random,
}

impl<'a> Tour<'a> {
    /// Always to the nearest visit that may come next.
    fn nearest(visits: &'a [Visit], start: Point, end: Option<Point>) -> Self {
        let mut waits = vec![0_usize; visits.len()];
        for around in visits.iter().filter_map(|v| v.before) {
            waits[around] += 1;
        }
        let places = |n: usize| {
            let Visit { from, to, .. } = visits[n];
            [
                PathEnd::new([from.x, from.y], n),
                PathEnd::new([to.x, to.y], n),
            ]
        };
        let free = (0..visits.len()).filter(|&n| waits[n] == 0);
        let mut tree = RTree::bulk_load(free.flat_map(places).collect());
        let mut at = start;
        let mut turns = Vec::with_capacity(visits.len());
        while let Some(next) = tree.nearest_neighbor([at.x, at.y]).map(|p| p.data) {
            for place in places(next) {
                tree.remove(&place);
            }
            let visit = visits[next];
            let backwards = at.distance(visit.to) < at.distance(visit.from);
            at = if backwards { visit.from } else { visit.to };
            turns.push(Turn {
                visit: next,
                backwards,
            });
            if let Some(around) = visit.before {
                waits[around] -= 1;
                if waits[around] == 0 {
                    places(around).into_iter().for_each(|p| tree.insert(p));
                }
            }
        }
        Self::of(visits, &turns, start, end)
    }

    fn of(visits: &'a [Visit], turns: &[Turn], start: Point, end: Option<Point>) -> Self {
        let mut first = vec![Vec::new(); visits.len()];
        for (n, visit) in visits.iter().enumerate() {
            if let Some(around) = visit.before {
                first[around].push(n);
            }
        }
        let order: Vec<usize> = turns.iter().map(|t| t.visit).collect();
        let (mut at, mut backwards) = (vec![0; visits.len()], vec![false; visits.len()]);
        for (place, turn) in turns.iter().enumerate() {
            at[turn.visit] = place;
            backwards[turn.visit] = turn.backwards;
        }
        Self {
            start,
            end,
            ordered: first.iter().any(|f| !f.is_empty()),
            first,
            order,
            backwards,
            at,
            neighbours: neighbours(visits),
            visits,
            done: Vec::new(),
            random: Random::new(0x9e37_79b9_7f4a_7c15),
        }
    }

    fn turns(&self) -> Vec<Turn> {
        let turn = |&visit: &usize| Turn {
            visit,
            backwards: self.backwards[visit],
        };
        self.order.iter().map(turn).collect()
    }

    /// Where the tool arrives at the visit of a place in the order.
    fn entry(&self, place: usize) -> Point {
        let n = self.order[place];
        let visit = &self.visits[n];
        if self.backwards[n] {
            visit.to
        } else {
            visit.from
        }
    }

    fn exit(&self, place: usize) -> Point {
        let n = self.order[place];
        let visit = &self.visits[n];
        if self.backwards[n] {
            visit.from
        } else {
            visit.to
        }
    }

    /// Where the tool comes from before a place.
    fn from(&self, place: usize) -> Point {
        match place {
            0 => self.start,
            _ => self.exit(place - 1),
        }
    }

    /// Travel from a point to what follows a place; nothing after the last one without an end.
    fn on(&self, from: Point, place: usize) -> f64 {
        match (self.order.get(place + 1), self.end) {
            (Some(_), _) => from.distance(self.entry(place + 1)),
            (None, Some(end)) => from.distance(end),
            (None, None) => 0.0,
        }
    }

    /// Turns a piece of the order around.
    fn reverse(&mut self, i: usize, j: usize) {
        self.order[i..=j].reverse();
        for place in i..=j {
            let n = self.order[place];
            self.at[n] = place;
            self.backwards[n] = !self.backwards[n];
        }
        self.done.push((i, j));
    }

    fn take_back(&mut self) {
        while let Some((i, j)) = self.done.pop() {
            self.reverse(i, j);
            self.done.pop();
        }
    }

    /// Whether a piece holds a ring and what lies in it, so that it cannot be turned around.
    fn bound(&self, i: usize, j: usize) -> bool {
        self.ordered
            && (i..=j).any(|place| {
                let around = self.visits[self.order[place]].before;
                around.is_some_and(|a| (i..=j).contains(&self.at[a]))
            })
    }

    /// Whether one of the shorter piece has to stay on its side of the other; `i..=m` lies before `m+1..=j`.
    fn bound_between(&self, i: usize, m: usize, j: usize) -> bool {
        if !self.ordered {
            return false;
        }
        if m - i < j - m {
            (i..=m).any(|place| {
                let around = self.visits[self.order[place]].before;
                around.is_some_and(|a| (m + 1..=j).contains(&self.at[a]))
            })
        } else {
            (m + 1..=j).any(|place| {
                let inside = &self.first[self.order[place]];
                inside.iter().any(|&n| (i..=m).contains(&self.at[n]))
            })
        }
    }

    /// The pieces `i..=m` and `m+1..=j` change places; each may be turned around.
    fn exchange(&mut self, i: usize, m: usize, j: usize, turn_first: bool, turn_second: bool) {
        let middle = i + (j - m);
        self.reverse(i, j);
        if !turn_second {
            self.reverse(i, middle - 1);
        }
        if !turn_first {
            self.reverse(middle, j);
        }
    }

    /// Local search from every visit, then kicks.
    fn improve(&mut self, kicks: usize) {
        if self.order.len() < 2 {
            return;
        }
        let mut waiting: VecDeque<usize> = self.order.iter().copied().collect();
        let mut listed = vec![true; self.order.len()];
        self.settle(&mut waiting, &mut listed);
        self.done.clear();
        for _ in 0..kicks {
            let Some((mut gain, touched)) = self.kick() else {
                continue;
            };
            for n in touched {
                if !std::mem::replace(&mut listed[n], true) {
                    waiting.push_back(n);
                }
            }
            gain += self.settle(&mut waiting, &mut listed);
            if gain < -GAIN {
                self.take_back();
            }
            self.done.clear();
        }
    }

    /// Two neighbouring pieces change places. What it gained, and who stands at the new joints.
    fn kick(&mut self) -> Option<(f64, Vec<usize>)> {
        let n = self.order.len();
        let longest = KICK.min(n / 2);
        let i = self.random.below(n);
        let m = i + self.random.below(longest);
        let j = m + 1 + self.random.below(longest);
        if j >= n || self.bound_between(i, m, j) {
            return None;
        }
        let before = self.from(i).distance(self.entry(i))
            + self.exit(m).distance(self.entry(m + 1))
            + self.on(self.exit(j), j);
        let after = self.from(i).distance(self.entry(m + 1))
            + self.exit(j).distance(self.entry(i))
            + self.on(self.exit(m), j);
        let joints = [i.saturating_sub(1), i, m, m + 1, j, (j + 1).min(n - 1)];
        let touched = joints.map(|place| self.order[place]).to_vec();
        self.exchange(i, m, j, false, false);
        Some((before - after, touched))
    }

    /// Improves until nothing near a waiting visit does. What it gained.
    fn settle(&mut self, waiting: &mut VecDeque<usize>, listed: &mut [bool]) -> f64 {
        let mut gained = 0.0;
        while let Some(n) = waiting.pop_front() {
            listed[n] = false;
            while let Some((gain, touched)) = self.step(n) {
                gained += gain;
                for t in touched {
                    if t != n && !std::mem::replace(&mut listed[t], true) {
                        waiting.push_back(t);
                    }
                }
            }
        }
        gained
    }

    /// The first change found that brings a visit nearer to one of its neighbours.
    fn step(&mut self, n: usize) -> Option<(f64, [usize; 4])> {
        let place = self.at[n];
        if let Some(found) = self.turn_around(place, place) {
            return Some(found);
        }
        let before = self.from(place).distance(self.entry(place));
        let reach = before.max(self.on(self.exit(place), place));
        for k in 0..self.neighbours[n].len() {
            let m = self.neighbours[n][k];
            // A change that gains has a new way shorter than one that it takes out.
            if self.apart(n, m) >= reach {
                continue;
            }
            let found = self.two_opt(n, m).or_else(|| self.or_opt(n, m));
            if found.is_some() {
                return found;
            }
        }
        None
    }
}

/// For each visit the others whose ends are nearest to its own.
fn neighbours(visits: &[Visit]) -> Vec<Vec<usize>> {
    let places = visits.iter().enumerate().flat_map(|(n, v)| {
        let one = v.from == v.to;
        let from = PathEnd::new([v.from.x, v.from.y], n);
        let to = (!one).then(|| PathEnd::new([v.to.x, v.to.y], n));
        std::iter::once(from).chain(to)
    });
    let tree = RTree::bulk_load(places.collect());
    let near = |p: Point, n: usize| {
        let found = tree.nearest_neighbor_iter([p.x, p.y]);
        let others = found.map(|place| place.data).filter(move |&m| m != n);
        others.take(NEIGHBOURS).collect::<Vec<_>>()
    };
    let all = |(n, v): (usize, &Visit)| {
        let mut found = near(v.from, n);
        if v.from != v.to {
            found.extend(near(v.to, n));
        }
        let mut seen = Vec::with_capacity(found.len());
        for m in found {
            if !seen.contains(&m) {
                seen.push(m);
            }
        }
        seen
    };
    visits.iter().enumerate().map(all).collect()
}
