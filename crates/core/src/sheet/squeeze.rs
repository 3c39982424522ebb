//! Squeezing: a strip is made shorter than its pieces fit, and they are pushed apart until they fit again.
//!
//! ```text
//!   ┌────────┐    ┌──────┐    ┌──────┐
//!   │▙ ▟█  ▄ │ ─► │▙▟█▓▄ │ ─► │▙▟█▐▄ │ ─► shorter again …
//!   └────────┘    └──────┘    └──────┘
//!     fits         overlaps     fits
//! ```
//!
//! A piece that overlaps others goes to the place, of many tried, where it overlaps least. Pairs that go on
//! overlapping weigh more from round to round, so that in the end one of them gives way. Own implementation of
//! guided local search for strip packing (Egeblad, Nielsen & Odgaard 2007, "Fast neighborhood search for two-
//! and three-dimensional nesting problems"; Umetani et al. 2009), overlaps counted in the cells of masks.

use rayon::prelude::*;

use super::bits::Bits;
use super::mask::Mask;
use super::nesting::Nesting;
use super::piece::Spot;
use crate::random::Random;
use crate::stop::Stop;

/// Places tried for a piece: anywhere, and near where it is.
const ANYWHERE: usize = 40;
const NEAR: usize = 20;
/// The best so many of them are followed to where they overlap least.
const FOLLOWED: usize = 3;
/// In a round every piece that overlaps is moved once. The search stops after so many rounds, and before that
/// once so many in a row brought no less overlap.
const ROUNDS: usize = 160;
const PATIENCE: usize = 50;
/// After a round the weight of each pair that overlaps is multiplied by a factor between these two: the pair
/// that overlaps most by the second, one that hardly does by the first.
/// The weight of a pair that does not overlap is multiplied by [`SHRINK`].
const GROW: [f64; 2] = [1.2, 2.0];
const SHRINK: f64 = 0.95;
/// A piece is moved by one step in one of these directions while that lessens its overlap.
const WAYS: [(i64, i64); 8] = [
    (1, 0),
    (-1, 0),
    (0, 1),
    (0, -1),
    (1, 1),
    (1, -1),
    (-1, 1),
    (-1, -1),
];

/// A turn, and the cell of a mask's corner.
#[derive(Clone, Copy, Debug, PartialEq)]
struct At {
    turn: usize,
    x: usize,
    y: usize,
}

/// Pieces on a grid, in all their turns.
pub(super) struct Squeeze<'a> {
    asked: &'a Nesting<'a>,
    cell: f64,
    /// How far masks reach past the room, mm.
    around: f64,
    /// Cells across.
    wide: usize,
    /// By piece, then by turn; `None` where it is wider than the strip.
    bits: Vec<Vec<Option<Bits>>>,
    /// What no item may take: it counts as one more that lies where it is.
    blocked: Option<Bits>,
}

/// Where all items lie, how much each pair overlaps and what that weighs.
#[derive(Clone)]
pub(super) struct Lying {
    at: Vec<At>,
    /// First and last column and row of each, the last not counted; behind them those of what is blocked.
    boxes: Vec<[u32; 4]>,
    /// Rows that may be used.
    rows: usize,
    /// Of every pair, both ways, what is blocked counted as one: its weight, and the cells it shares.
    weight: Vec<f64>,
    overlap: Vec<u32>,
}

impl<'a> Squeeze<'a> {
    /// Masks of cells of `cell` mm, grown by `reach` mm.
    pub(super) fn new(asked: &'a Nesting<'a>, cell: f64, reach: f64) -> Self {
        let turned = |piece: &_| -> Vec<Mask> {
            let turns = asked.turns.iter();
            turns.map(|t| Mask::of(piece, *t, cell, reach)).collect()
        };
        let masks: Vec<Vec<Mask>> = asked.pieces.par_iter().map(turned).collect();
        let around = masks.iter().flatten().map(|m| m.inset).fold(0.0, f64::max);
        let wide = ((asked.room.width() + 2.0 * around) / cell + 1e-6).floor() as usize;
        let fits = |m: &Mask| (m.wide <= wide).then(|| Bits::of(m));
        let blocked = asked.walls.map(|walls| {
            let high = ((asked.room.height() + 2.0 * around) / cell).ceil() as usize;
            let grid = asked.grid(cell, around, (wide, high));
            Bits::of(&walls.blocked(&grid, asked.gap, reach - asked.gap / 2.0))
        });
        Self {
            blocked,
            asked,
            cell,
            around,
            wide,
            bits: masks.iter().map(|m| m.iter().map(fits).collect()).collect(),
        }
    }

    /// The side of a cell, mm.
    pub(super) fn cell(&self) -> f64 {
        self.cell
    }

    fn bits(&self, item: usize, turn: usize) -> Option<&Bits> {
        self.bits[self.asked.items[item]][turn].as_ref()
    }

    /// Items in the cells nearest to where they lie, on a strip of some length, mm; `None` where one has no
    /// place on it.
    pub(super) fn lying(&self, spots: &[Spot], length: f64) -> Option<Lying> {
        let n = spots.len();
        let room = self.asked.room;
        let cells = |v: f64| (v / self.cell).round().max(0.0) as usize;
        let at = spots.iter().enumerate().map(|(item, spot)| {
            let mut turns = self.asked.turns.iter();
            let turn = turns.position(|t| (t - spot.turn).abs() < 1e-9)?;
            Some(At {
                turn,
                x: cells(spot.x - room.x0).min(self.wide - self.bits(item, turn)?.wide),
                y: cells(spot.y - room.y0),
            })
        });
        let blocked = self.blocked.iter();
        let blocked = blocked.map(|b| [0, b.wide, 0, b.high].map(|v| v as u32));
        let boxes: Vec<[u32; 4]> = vec![[0; 4]; n].into_iter().chain(blocked).collect();
        let all = boxes.len();
        let mut lying = Lying {
            at: at.collect::<Option<_>>()?,
            boxes,
            rows: 0,
            weight: vec![1.0; all * all],
            overlap: vec![0; all * all],
        };
        self.shorten(&mut lying, length).then_some(lying)
    }

    /// Makes the strip so long, mm: what reaches past its end is moved up. Whether every item finds room.
    pub(super) fn shorten(&self, lying: &mut Lying, length: f64) -> bool {
        lying.rows = ((length + 2.0 * self.around) / self.cell + 1e-6).floor() as usize;
        for item in 0..lying.at.len() {
            let bits = self.bits(item, lying.at[item].turn);
            let Some(last) = bits.and_then(|b| lying.rows.checked_sub(b.high)) else {
                return false;
            };
            lying.at[item].y = lying.at[item].y.min(last);
            lying.boxes[item] = self.box_of(item, lying.at[item]);
        }
        for item in 0..lying.at.len() {
            self.count(lying, item);
        }
        true
    }

    fn box_of(&self, item: usize, at: At) -> [u32; 4] {
        let bits = self.bits(item, at.turn);
        let (wide, high) = bits.map_or((0, 0), |b| (b.wide, b.high));
        [at.x, at.x + wide, at.y, at.y + high].map(|v| v as u32)
    }

    /// Moves an item.
    fn put(&self, lying: &mut Lying, item: usize, at: At) {
        lying.at[item] = at;
        lying.boxes[item] = self.box_of(item, at);
        self.count(lying, item);
    }

    /// Counts what an item overlaps.
    fn count(&self, lying: &mut Lying, item: usize) {
        let n = lying.boxes.len();
        let met: Vec<(usize, u32)> = self.met(lying, item, lying.at[item]).collect();
        for other in 0..n {
            lying.overlap[item * n + other] = 0;
            lying.overlap[other * n + item] = 0;
        }
        for (other, both) in met {
            lying.overlap[item * n + other] = both;
            lying.overlap[other * n + item] = both;
        }
    }

    /// The items that an item would overlap at a place, and in how many cells.
    fn met<'b>(
        &'b self,
        lying: &'b Lying,
        item: usize,
        at: At,
    ) -> impl Iterator<Item = (usize, u32)> + 'b {
        let [x0, x1, y0, y1] = self.box_of(item, at);
        let bits = self.bits(item, at.turn);
        let boxes = lying.boxes.iter().enumerate();
        boxes.filter_map(move |(other, b)| {
            if b[0] >= x1 || b[1] <= x0 || b[2] >= y1 || b[3] <= y0 || other == item {
                return None;
            }
            let (others, place) = match lying.at.get(other) {
                Some(to) => (self.bits(other, to.turn)?, (to.x, to.y)),
                None => (self.blocked.as_ref()?, (0, 0)),
            };
            let both = bits?.overlap((at.x, at.y), others, place);
            (both > 0).then_some((other, both))
        })
    }

    /// What an item's overlaps would weigh at a place; at least `most` where it is not less than that.
    fn cost(&self, lying: &Lying, item: usize, at: At, most: f64) -> f64 {
        let weights = &lying.weight[item * lying.boxes.len()..];
        let mut sum = 0.0;
        for (other, both) in self.met(lying, item, at) {
            sum += weights[other] * depth(both);
            if sum >= most {
                break;
            }
        }
        sum
    }

    /// The place, of many tried, at which an item's overlaps weigh least.
    fn least(&self, lying: &Lying, item: usize, random: &mut Random) -> At {
        let now = lying.at[item];
        let here = self.cost(lying, item, now, f64::INFINITY);
        // The best so far, the least first.
        let mut found: Vec<(f64, At)> = vec![(here, now)];
        for n in 0..ANYWHERE + NEAR {
            let near = n >= ANYWHERE;
            let turn = if near && random.below(2) == 0 {
                now.turn
            } else {
                random.below(self.asked.turns.len())
            };
            let Some(bits) = self.bits(item, turn) else {
                continue;
            };
            let Some(last) = lying.rows.checked_sub(bits.high) else {
                continue;
            };
            let across = self.wide - bits.wide;
            let reach = bits.wide.max(bits.high) / 2;
            let mut place = |now: usize, last: usize| {
                if near {
                    let from = now + random.below(2 * reach + 1);
                    from.saturating_sub(reach).min(last)
                } else {
                    random.below(last + 1)
                }
            };
            let (x, y) = (place(now.x, across), place(now.y, last));
            let at = At { turn, x, y };
            let most = found
                .get(FOLLOWED - 1)
                .map_or(f64::INFINITY, |worst| worst.0);
            let cost = self.cost(lying, item, at, most);
            if cost <= 0.0 {
                return at;
            }
            if cost < most {
                let place = found.partition_point(|f| f.0 <= cost);
                found.insert(place, (cost, at));
                found.truncate(FOLLOWED);
            }
        }
        let mut least = (here, now);
        for (cost, at) in found {
            let (cost, at) = self.followed(lying, item, at, cost);
            if cost < least.0 {
                least = (cost, at);
            }
        }
        least.1
    }

    /// Follows a place to where the overlaps weigh less, in steps that grow smaller.
    fn followed(&self, lying: &Lying, item: usize, mut at: At, mut cost: f64) -> (f64, At) {
        let Some(bits) = self.bits(item, at.turn) else {
            return (cost, at);
        };
        let (across, last) = (self.wide - bits.wide, lying.rows - bits.high);
        let mut step = (bits.wide.min(bits.high) / 6).max(1);
        while cost > 0.0 {
            let mut moved = false;
            for (dx, dy) in WAYS {
                let by = |v: usize, d: i64, last: usize| {
                    (v as i64 + d * step as i64).clamp(0, last as i64) as usize
                };
                let next = At {
                    x: by(at.x, dx, across),
                    y: by(at.y, dy, last),
                    ..at
                };
                if next == at {
                    continue;
                }
                let there = self.cost(lying, item, next, cost);
                if there < cost {
                    (at, cost, moved) = (next, there, true);
                }
            }
            if !moved {
                if step == 1 {
                    break;
                }
                step /= 2;
            }
        }
        (cost, at)
    }

    /// Pushes items apart. Whether all of them fit in the end; else they lie as they overlapped least.
    pub(super) fn part(&self, lying: &mut Lying, random: &mut Random, stop: &Stop) -> bool {
        let mut least = (f64::INFINITY, lying.clone());
        let mut since = 0;
        for _ in 0..ROUNDS {
            let sum = lying.sum();
            if sum <= 0.0 {
                return true;
            }
            since += 1;
            if sum < least.0 {
                least = (sum, lying.clone());
                since = 0;
            }
            if since > PATIENCE || stop.check().is_err() {
                break;
            }
            let mut order: Vec<usize> =
                (0..lying.at.len()).filter(|&i| lying.overlaps(i)).collect();
            for n in (1..order.len()).rev() {
                order.swap(n, random.below(n + 1));
            }
            for item in order {
                if lying.overlaps(item) {
                    let at = self.least(lying, item, random);
                    if at != lying.at[item] {
                        self.put(lying, item, at);
                    }
                }
            }
            lying.weigh();
        }
        *lying = least.1;
        false
    }

    /// Exchanges two items, about their middles. What they overlap there is not counted yet.
    pub(super) fn exchange(&self, lying: &mut Lying, random: &mut Random) {
        let n = lying.at.len();
        let (a, b) = (random.below(n), random.below(n));
        let middle = |item: usize| {
            let [x0, x1, y0, y1] = lying.boxes[item];
            [(x0 + x1) as usize / 2, (y0 + y1) as usize / 2]
        };
        for (item, [x, y]) in [(a, middle(b)), (b, middle(a))] {
            let turn = lying.at[item].turn;
            if let Some(bits) = self.bits(item, turn) {
                let x = x.saturating_sub(bits.wide / 2).min(self.wide - bits.wide);
                let y = y.saturating_sub(bits.high / 2);
                lying.at[item] = At { turn, x, y };
            }
        }
    }

    /// Where items lie, mm.
    pub(super) fn spots(&self, lying: &Lying) -> Vec<Spot> {
        let room = self.asked.room;
        let spot = |(item, at): (usize, &At)| {
            let inset = self.bits(item, at.turn)?.inset - self.around;
            let place = |cells: usize| (cells as f64 * self.cell + inset).max(0.0);
            Some(Spot {
                x: room.x0 + place(at.x),
                y: room.y0 + place(at.y),
                turn: self.asked.turns[at.turn],
            })
        };
        lying.at.iter().enumerate().filter_map(spot).collect()
    }
}

impl Lying {
    fn overlaps(&self, item: usize) -> bool {
        let n = self.boxes.len();
        let overlaps = &self.overlap[item * n..(item + 1) * n];
        overlaps.iter().any(|cells| *cells > 0)
    }

    /// What all overlaps come to, without weights.
    fn sum(&self) -> f64 {
        self.overlap.iter().map(|cells| depth(*cells)).sum()
    }

    fn weigh(&mut self) {
        let most = depth(self.overlap.iter().copied().max().unwrap_or(0));
        for (weight, cells) in self.weight.iter_mut().zip(&self.overlap) {
            *weight *= if *cells > 0 {
                GROW[0] + depth(*cells) / most * (GROW[1] - GROW[0])
            } else {
                SHRINK
            };
            *weight = weight.max(1.0);
        }
    }
}

/// About how deep pieces lie in each other that share so many cells, in cells.
fn depth(cells: u32) -> f64 {
    f64::from(cells).sqrt()
}
