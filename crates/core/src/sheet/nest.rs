//! Nesting: true shapes laid close together on a strip, as short as can be found.
//!
//! ```text
//!   order, turns ──first fit on a coarse grid──► length ──change, try again──► …
//!     now and then ──first fit on a fine grid──► ──slide, chord by chord──► spots, the shortest is kept
//! ```
//!
//! Pieces are put down one by one, each where it ends highest up, then farthest left, in the best of its
//! turns; also in holes. A row in which a piece found no place is not asked again for the same piece and
//! turn, since places only fill. Orders are tried in batches that all threads share and that are compared
//! in order, so the same number of tries gives the same answer. Own construction on the principle of
//! "bottom-left fill" (Baker, Coffman & Rivest 1980; Burke et al. 2006).

use kurbo::Rect;
use rayon::prelude::*;

use super::clash::{Outline, clash};
use super::mask::{Mask, Taken};
use super::piece::{Piece, Spot};
use crate::random::Random;
use crate::stop::Stop;

/// What is to be nested.
#[derive(Clone, Copy, Debug)]
pub struct Nesting<'a> {
    /// The pieces in hand; several may be the same.
    pub pieces: &'a [Piece],
    /// The piece of each item.
    pub items: &'a [usize],
    /// Where they may lie, mm.
    pub room: Rect,
    /// Between any two, mm.
    pub gap: f64,
    /// Turns that are tried, degrees.
    pub turns: &'a [f64],
}

/// A found arrangement.
#[derive(Clone, Debug, PartialEq)]
pub struct Nested {
    /// A spot for each item; `None` where it found no room.
    pub spots: Vec<Option<Spot>>,
    /// How far down it reaches from the top of the room, mm.
    pub length: f64,
    /// How many orders were tried.
    pub tries: usize,
}

/// Measures of size by which pieces are put in order to begin with: area, longer side, shorter side, both.
const SIZES: [fn([f64; 2]) -> f64; 4] = [
    |[w, h]| w * h,
    |[w, h]| w.max(h),
    |[w, h]| w.min(h),
    |[w, h]| w + h,
];
/// Orders that are tried at once.
const BATCH: usize = 4;
/// Cells of the coarse and of the fine grid along the smaller side of a usual piece.
const CELLS: [f64; 2] = [14.0, 48.0];
/// The least size of a cell, mm.
const LEAST: f64 = 0.4;
/// Cells across the strip at most.
const MOST: f64 = 2400.0;
/// A longer order is gone on from when it is at most so much longer, of all; after so many batches without
/// a better one the best is taken up again.
const PATIENCE: (f64, usize) = (0.006, 60);
/// After so many batches the order in hand is finished: laid on the fine grid and slid together.
const FINISHED: usize = 6;
/// How many of those that end farthest down are put down earlier.
const LOWEST: usize = 6;
/// Below this a length is no shorter, mm.
const GAIN: f64 = 1e-6;
/// Rounds of sliding, and its smallest step, mm.
const SLIDES: (usize, f64) = (7, 0.03);

/// Looks for a short arrangement: at most `tries` orders, or until `stop` is set. `told` hears how many were tried
/// after every batch, and of every better arrangement.
pub fn nest(
    asked: &Nesting<'_>,
    tries: usize,
    stop: &Stop,
    told: &mut dyn FnMut(Option<&Nested>, usize),
) -> Nested {
    let usual = usual(asked);
    let [coarse, fine] = CELLS.map(|cells| Search::new(asked, usual / cells));
    let finished = |order: &Vec<Turned>, tries: usize| {
        let mut spots = fine.laid(order).spots;
        slide(asked, &mut spots);
        Nested {
            length: reach(asked, &spots),
            spots,
            tries,
        }
    };
    let left_out = |n: &Nested| n.spots.iter().filter(|s| s.is_none()).count();
    let better = |a: &Nested, b: &Nested| (left_out(a), a.length + GAIN) < (left_out(b), b.length);
    // Several measures of size are good to begin with, each for other pieces.
    let firsts: Vec<(Vec<Turned>, Laid, Nested)> = SIZES
        .into_par_iter()
        .map(|size| {
            let order = coarse.by_size(size);
            let laid = coarse.laid(&order);
            let nested = finished(&order, 1);
            (order, laid, nested)
        })
        .collect();
    let mut firsts = firsts.into_iter();
    let Some((order, laid, mut best)) = firsts.next() else {
        return Nested {
            spots: Vec::new(),
            length: 0.0,
            tries: 0,
        };
    };
    let mut current = (order, laid.cost, laid.lowest);
    for (order, laid, nested) in firsts {
        if laid.cost < current.1 {
            current = (order, laid.cost, laid.lowest);
        }
        if better(&nested, &best) {
            best = nested;
        }
    }
    let mut shortest = current.clone();
    told(Some(&best), 1);
    let mut random = Random::new(0x2545_f491_4f6c_dd1d);
    let (mut done, mut since, mut batches) = (1, 0, 0);
    while done < tries && stop.check().is_ok() && asked.items.len() > 1 {
        let changed = (0..BATCH).map(|_| coarse.changed(&current.0, &current.2, &mut random));
        let orders: Vec<Vec<Turned>> = changed.collect();
        let laid: Vec<Laid> = orders.par_iter().map(|o| coarse.laid(o)).collect();
        (done, since, batches) = (done + BATCH, since + 1, batches + 1);
        let next = orders.into_iter().zip(laid);
        let next = next.map(|(order, laid)| (order, laid.cost, laid.lowest));
        let next = next.min_by(|a, b| a.1.total_cmp(&b.1));
        if let Some(next) = next.filter(|n| n.1 < current.1 + shortest.1 * PATIENCE.0) {
            current = next;
        }
        let shorter = current.1 < shortest.1 - GAIN;
        if shorter {
            shortest = current.clone();
            since = 0;
        }
        let mut improved = false;
        if shorter || batches % FINISHED == 0 {
            // The one in hand and one beside it, so that both cores have something to do.
            let beside = coarse.changed(&current.0, &current.2, &mut random);
            let both = [current.0.clone(), beside];
            let made: Vec<Nested> = both.par_iter().map(|o| finished(o, done)).collect();
            for own in made {
                if better(&own, &best) {
                    best = own;
                    improved = true;
                }
            }
        }
        told(improved.then_some(&best), done);
        if since > PATIENCE.1 {
            current = shortest.clone();
            since = 0;
        }
    }
    best.tries = done;
    best
}

/// The smaller side of a usual piece, mm.
fn usual(asked: &Nesting<'_>) -> f64 {
    let side = |&i: &usize| asked.pieces[i].size[0].min(asked.pieces[i].size[1]);
    let mut sides: Vec<f64> = asked.items.iter().map(side).collect();
    sides.sort_by(f64::total_cmp);
    sides.get(sides.len() / 2).copied().unwrap_or(10.0)
}

/// An item with the turn it is put down in; `None` leaves it open.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Turned {
    item: usize,
    turn: Option<usize>,
}

#[derive(Clone)]
struct Laid {
    spots: Vec<Option<Spot>>,
    cost: f64,
    /// Places in the order of the items that end farthest down.
    lowest: Vec<usize>,
}

struct Search<'a> {
    asked: &'a Nesting<'a>,
    cell: f64,
    wide: usize,
    last: usize,
    /// By piece, then by turn.
    masks: Vec<Vec<Mask>>,
}

impl<'a> Search<'a> {
    fn new(asked: &'a Nesting<'a>, cell: f64) -> Self {
        let cell = cell.max(LEAST).max(asked.room.width() / MOST);
        let mask = |piece: &Piece| {
            let turned = asked.turns.iter();
            turned
                .map(|t| Mask::of(piece, *t, cell, asked.gap))
                .collect()
        };
        let masks: Vec<Vec<Mask>> = asked.pieces.par_iter().map(mask).collect();
        // Masks reach past the room by as much as they are grown.
        let around = masks.iter().flatten().map(|m| m.inset).fold(0.0, f64::max);
        let cells = |side: f64| ((side + 2.0 * around) / cell + 1e-6).floor().max(0.0) as usize;
        Self {
            asked,
            cell,
            wide: cells(asked.room.width()),
            last: cells(asked.room.height()),
            masks,
        }
    }

    /// The largest first, by a measure of a piece's sides.
    fn by_size(&self, size: fn([f64; 2]) -> f64) -> Vec<Turned> {
        let mut order: Vec<usize> = (0..self.asked.items.len()).collect();
        let own = |i: usize| size(self.asked.pieces[self.asked.items[i]].size);
        order.sort_by(|&a, &b| own(b).total_cmp(&own(a)).then(a.cmp(&b)));
        let open = |item| Turned { item, turn: None };
        order.into_iter().map(open).collect()
    }

    /// An order with some of its items elsewhere or turned; `lowest` are the places in it of those that end
    /// farthest down, and are put down earlier every other time.
    fn changed(&self, order: &[Turned], lowest: &[usize], random: &mut Random) -> Vec<Turned> {
        let mut new = order.to_vec();
        let n = new.len();
        for _ in 0..1 + random.below(2) {
            let (mut a, mut b) = (random.below(n), random.below(n));
            if random.below(2) == 0 && !lowest.is_empty() {
                a = lowest[random.below(lowest.len())];
                b = random.below(a + 1);
            }
            match random.below(4) {
                0 => new.swap(a, b),
                1 | 2 => {
                    let moved = new.remove(a);
                    new.insert(b, moved);
                }
                _ => {
                    let turns = self.asked.turns.len();
                    new[a].turn = Some(random.below(turns + 1)).filter(|t| *t < turns);
                }
            }
        }
        new
    }

    /// Puts all items down in their order.
    fn laid(&self, order: &[Turned]) -> Laid {
        let mut taken = Taken::new(self.wide);
        let mut spots = vec![None; order.len()];
        let turns = self.asked.turns.len();
        let mut from = vec![0; self.asked.pieces.len() * turns];
        let (mut length, mut sum, mut missing) = (0.0_f64, 0.0, 0);
        let mut ends: Vec<(f64, usize)> = Vec::with_capacity(order.len());
        for (at, Turned { item, turn }) in order.iter().enumerate() {
            let piece = self.asked.items[*item];
            let open = match turn {
                Some(t) => *t..*t + 1,
                None => 0..turns,
            };
            let mut best: Option<(f64, usize, usize, usize)> = None;
            for t in open {
                let mask = &self.masks[piece][t];
                let Some(mut last) = self.last.checked_sub(mask.high) else {
                    continue;
                };
                if let Some((end, ..)) = best {
                    // It has to end above the best one so far.
                    let most = (end / self.cell).ceil() as usize;
                    let Some(most) = most.checked_sub(mask.high - 1) else {
                        continue;
                    };
                    last = last.min(most);
                }
                let known = &mut from[piece * turns + t];
                let place = taken.first_fit(mask, *known, last);
                let Some((x, y)) = place else {
                    *known = (*known).max(last + 1);
                    continue;
                };
                *known = y;
                let end = y as f64 * self.cell + mask.size[1];
                if best.is_none_or(|(e, bx, ..)| end < e - 1e-9 || (end < e + 1e-9 && x < bx)) {
                    best = Some((end, x, y, t));
                }
            }
            let Some((end, x, y, t)) = best else {
                missing += 1;
                continue;
            };
            let mask = &self.masks[piece][t];
            taken.take(mask, (x, y));
            let around = self.around();
            let room = self.asked.room;
            let place = |cells: usize| cells as f64 * self.cell + mask.inset - around;
            spots[*item] = Some(Spot {
                x: room.x0 + place(x).max(0.0),
                y: room.y0 + place(y).max(0.0),
                turn: self.asked.turns[t],
            });
            length = length.max(end);
            sum += end;
            ends.push((end, at));
        }
        ends.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
        let n = order.len().max(1) as f64;
        Laid {
            spots,
            lowest: ends.iter().take(LOWEST).map(|e| e.1).collect(),
            // Missing pieces weigh most, then the length, then how high up all lie.
            cost: missing as f64 * 1e6 + length + 0.02 * sum / n,
        }
    }

    /// How far masks reach past the room.
    fn around(&self) -> f64 {
        let all = self.masks.iter().flatten();
        all.map(|m| m.inset).fold(0.0, f64::max)
    }
}

/// How far down an arrangement reaches, mm.
fn reach(asked: &Nesting<'_>, spots: &[Option<Spot>]) -> f64 {
    let ends = spots.iter().zip(asked.items).filter_map(|(spot, &piece)| {
        let spot = (*spot)?;
        Some(spot.y + asked.pieces[piece].turned_size(spot.turn)[1])
    });
    (ends.fold(asked.room.y0, f64::max) - asked.room.y0).max(0.0)
}

/// Moves every piece up and aside as far as it goes, so that the grid's rounding is taken out: to the left
/// in one round, to the right in the next, since what one way closes the other opens.
fn slide(asked: &Nesting<'_>, spots: &mut [Option<Spot>]) {
    let at = |n: usize, spot: Spot| Outline::of(asked.pieces[asked.items[n]].placed(spot));
    let mut outlines: Vec<Option<Outline>> = spots
        .iter()
        .enumerate()
        .map(|(n, s)| s.map(|s| at(n, s)))
        .collect();
    let mut order: Vec<usize> = (0..spots.len()).filter(|&n| spots[n].is_some()).collect();
    for round in 0..SLIDES.0 {
        let aside = if round % 2 == 0 { -1.0 } else { 1.0 };
        let top = |n: &usize| spots[*n].map_or(0.0, |s| s.y);
        order.sort_by(|a, b| top(a).total_cmp(&top(b)).then(a.cmp(b)));
        let mut moved = 0.0;
        for &n in &order {
            for way in [[0.0, -1.0], [aside, 0.0]] {
                let mut step = asked.gap.max(4.0);
                while step > SLIDES.1 {
                    let Some(spot) = spots[n] else { break };
                    let wide = asked.pieces[asked.items[n]].turned_size(spot.turn)[0];
                    let right = (asked.room.x1 - wide).max(asked.room.x0);
                    let next = Spot {
                        x: (spot.x + way[0] * step).clamp(asked.room.x0, right),
                        y: (spot.y + way[1] * step).max(asked.room.y0),
                        ..spot
                    };
                    let outline = at(n, next);
                    let meets = |m: usize| {
                        let other = outlines[m].as_ref();
                        m != n && other.is_some_and(|o| clash(&outline, o, asked.gap))
                    };
                    let stays = (next.x - spot.x).abs() + (next.y - spot.y).abs() < 1e-9;
                    if stays || order.iter().any(|&m| meets(m)) {
                        step /= 2.0;
                    } else {
                        moved += step;
                        spots[n] = Some(next);
                        outlines[n] = Some(outline);
                    }
                }
            }
        }
        if moved < 1.0 {
            break;
        }
    }
}
