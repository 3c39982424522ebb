//! Nesting: true shapes laid close together on a strip, as short as can be found.
//!
//! ```text
//!   sizes ──first fit──► ──slide──► length ──a little shorter: squeeze, coarse, then exact──► fits? ──slide──► …
//!                                     ▲                                                        │
//!                                     └── yes: from there;   no: again, in the end less short ─┘
//! ```
//!
//! Pieces are pushed apart on a coarse grid first, where little is lost and little is certain, then on a fine
//! one that keeps the gap. Searches of one round run at once and are compared in order, so the same number of
//! tries gives the same answer.

use kurbo::Rect;
use rayon::prelude::*;

use super::first_fit::{FirstFit, SIZES};
use super::mask;
use super::nesting::Nesting;
use super::piece::{Piece, Spot};
use super::slide::{reach, slide};
use super::squeeze::{Lying, Squeeze};
use super::walls::Walls;
use crate::random::Random;
use crate::stop::Stop;

/// A spot for each item; `None` where it found no room.
pub type Spots = Vec<Option<Spot>>;

/// A found arrangement.
#[derive(Clone, Debug, PartialEq)]
pub struct Nested {
    /// Where all lie.
    pub spots: Spots,
    /// How far down it reaches from the top of the room, mm.
    pub length: f64,
    /// How many times pieces were pushed apart, the first fit counted as one.
    pub tries: usize,
}

/// Cells along the smaller side of a usual piece: of the first fit, and of the two grids of squeezing.
const CELLS: [f64; 3] = [14.0, 28.0, 160.0];
/// The least size of a cell of each, mm.
const LEAST: [f64; 3] = [0.4, 0.3, 0.1];
/// Cells across the strip at most.
const MOST: f64 = 2400.0;
/// On the coarse grid masks are grown by this part of a cell more than by the gap.
const GROWN: f64 = 0.05;
/// More items than this are not squeezed.
const MOST_ITEMS: usize = 1000;
/// More items than this lie as the grid says where they come in turn.
const SLID: usize = 200;
/// Searches that run at once.
const AT_ONCE: usize = 2;
/// The strip is made shorter by this part to begin with, and by half as much after so many rounds that failed
/// in a row, down to the least; then it begins again.
const SHORTER: [f64; 2] = [0.02, 0.0005];
const PATIENCE: usize = 6;
/// After so many times from the greatest part to the least without a shorter strip it is given up.
const GIVEN_UP: usize = 8;
/// Below this a length is no shorter, mm.
const GAIN: f64 = 1e-6;

/// Looks for a short arrangement: at most `tries` times, or until `stop` is set. `told` hears how often it was
/// tried after every round, and of every better arrangement.
pub fn nest(
    asked: &Nesting<'_>,
    tries: usize,
    stop: &Stop,
    told: &mut dyn FnMut(Option<&Nested>, usize),
) -> Nested {
    let mut best = first(asked);
    told(Some(&best), 1);
    // What found no room is squeezed in from a strip that is long enough for all.
    let mut long = *asked;
    let mut start = best.clone();
    if best.spots.iter().any(Option::is_none) {
        let sides = asked.items.iter().map(|&p| asked.pieces[p].size);
        long.room.y1 += sides.map(|[w, h]| w.max(h) + asked.gap).sum::<f64>();
        start = first(&long);
    }
    let placed: Vec<usize> = (0..asked.items.len())
        .filter(|&n| start.spots[n].is_some())
        .collect();
    let items: Vec<usize> = placed.iter().map(|&n| asked.items[n]).collect();
    let spots: Vec<Spot> = start.spots.iter().flatten().copied().collect();
    if items.len() < 2 || items.len() > MOST_ITEMS || tries < 2 || stop.check().is_err() {
        return best;
    }
    let asked_here = Nesting {
        items: &items,
        ..long
    };
    let mut search = Search::new(&asked_here, &spots, start.length);
    let mut fits = best.spots.iter().flatten().count() == placed.len();
    while best.tries < tries && stop.check().is_ok() && search.circles < GIVEN_UP {
        let found = search.round(stop);
        best.tries += AT_ONCE;
        let found = found.filter(|(_, length)| *length <= asked.room.height() + GAIN);
        let better = found.filter(|(_, length)| !fits || *length < best.length - GAIN);
        if let Some((spots, length)) = &better {
            fits = true;
            best.length = *length;
            best.spots = vec![None; asked.items.len()];
            for (&n, spot) in placed.iter().zip(spots) {
                best.spots[n] = *spot;
            }
        }
        told(better.is_some().then_some(&best), best.tries);
    }
    best
}

/// Items put down one by one as they come, each where it fits first, without being turned, `gap` mm apart.
pub(super) fn in_turn(
    pieces: &[Piece],
    items: &[usize],
    (room, gap): (Rect, f64),
    walls: &Walls,
) -> Spots {
    let asked = Nesting {
        pieces,
        items,
        room,
        gap,
        turns: &[0.0],
        walls: Some(walls),
    };
    let mut spots = FirstFit::new(&asked, cell(&asked, 0)).laid(|_| 0.0);
    if items.len() <= SLID {
        slide(&asked, &mut spots);
    }
    spots
}

/// The shortest first fit, with as few left out as can be.
fn first(asked: &Nesting<'_>) -> Nested {
    let fit = FirstFit::new(asked, cell(asked, 0));
    let found: Vec<Nested> = SIZES
        .into_par_iter()
        .map(|size| {
            let mut spots = fit.laid(size);
            slide(asked, &mut spots);
            Nested {
                length: reach(asked, &spots),
                spots,
                tries: 1,
            }
        })
        .collect();
    let left_out = |n: &Nested| n.spots.iter().filter(|s| s.is_none()).count();
    let found = found.into_iter();
    let shortest = found.min_by(|a, b| {
        let fewer = left_out(a).cmp(&left_out(b));
        fewer.then(a.length.total_cmp(&b.length))
    });
    shortest.unwrap_or(Nested {
        spots: Vec::new(),
        length: 0.0,
        tries: 1,
    })
}

/// The side of a cell of one of the grids, mm.
fn cell(asked: &Nesting<'_>, grid: usize) -> f64 {
    let side = |&i: &usize| asked.pieces[i].size[0].min(asked.pieces[i].size[1]);
    let mut sides: Vec<f64> = asked.items.iter().map(side).collect();
    sides.sort_by(f64::total_cmp);
    let usual = sides.get(sides.len() / 2).copied().unwrap_or(10.0);
    (usual / CELLS[grid])
        .max(LEAST[grid])
        .max(asked.room.width() / MOST)
}

/// Searches for a strip shorter than the one in hand.
struct Search<'a> {
    asked: &'a Nesting<'a>,
    coarse: Squeeze<'a>,
    fine: Squeeze<'a>,
    /// The last arrangement that fitted, and its length, mm.
    lying: Option<Lying>,
    length: f64,
    /// What the searches go on from.
    going: Vec<Lying>,
    shorter: f64,
    failed: usize,
    /// How often the part by which it is made shorter went from the greatest to the least.
    circles: usize,
    random: Random,
}

impl<'a> Search<'a> {
    fn new(asked: &'a Nesting<'a>, spots: &[Spot], length: f64) -> Self {
        let coarse = cell(asked, 1);
        let fine = cell(asked, 2).min(coarse);
        let mut new = Self {
            asked,
            coarse: Squeeze::new(asked, coarse, asked.gap / 2.0 + GROWN * coarse),
            fine: Squeeze::new(asked, fine, mask::kept(asked.gap, fine)),
            lying: None,
            length,
            going: Vec::new(),
            shorter: SHORTER[0],
            failed: 0,
            circles: 0,
            random: Random::new(0x2545_f491_4f6c_dd1d),
        };
        new.go_on_from(spots, length);
        new
    }

    fn go_on_from(&mut self, spots: &[Spot], length: f64) {
        self.length = length;
        self.lying = self.coarse.lying(spots, length);
        self.again();
    }

    /// All searches begin with the last arrangement that fitted.
    fn again(&mut self) {
        self.failed = 0;
        self.going = self.lying.iter().cycle().take(AT_ONCE).cloned().collect();
    }

    /// Tries once with each search. The shortest arrangement that fits, and its length, mm.
    fn round(&mut self, stop: &Stop) -> Option<(Spots, f64)> {
        let length = self.length * (1.0 - self.shorter);
        let going = std::mem::take(&mut self.going);
        let seeded: Vec<(u64, Lying)> = going
            .into_iter()
            .map(|l| (self.random.below(1 << 30) as u64 + 1, l))
            .collect();
        let fresh = self.failed == 0;
        let (tried, found): (Vec<Lying>, Vec<Option<Spots>>) = seeded
            .into_par_iter()
            .enumerate()
            .map(|(n, (seed, mut lying))| {
                let mut random = Random::new(seed);
                if !fresh || n > 0 {
                    self.coarse.exchange(&mut lying, &mut random);
                }
                let found = self.tried(&mut lying, length, &mut random, stop);
                (lying, found)
            })
            .unzip();
        let found = found.into_iter().flatten().map(|spots| {
            let length = reach(self.asked, &spots);
            (spots, length)
        });
        let shortest = found.min_by(|a, b| a.1.total_cmp(&b.1));
        if let Some((spots, found)) = &shortest {
            self.circles = 0;
            let spots: Vec<Spot> = spots.iter().flatten().copied().collect();
            self.go_on_from(&spots, found.min(length));
            return shortest;
        }
        self.going = tried;
        self.failed += 1;
        if self.failed >= PATIENCE {
            self.shorter /= 2.0;
            if self.shorter < SHORTER[1] {
                self.shorter = SHORTER[0] / 2.0;
                self.circles += 1;
            }
            self.again();
        }
        None
    }

    /// Pushes pieces apart on both grids and slides them together.
    fn tried(
        &self,
        lying: &mut Lying,
        length: f64,
        random: &mut Random,
        stop: &Stop,
    ) -> Option<Spots> {
        if !self.coarse.shorten(lying, length) || !self.coarse.part(lying, random, stop) {
            return None;
        }
        // What is lost to the fine grid is won back by sliding.
        let spots = self.coarse.spots(lying);
        let mut exact = self.fine.lying(&spots, length + self.coarse.cell())?;
        if !self.fine.part(&mut exact, random, stop) {
            return None;
        }
        let mut spots: Spots = self.fine.spots(&exact).into_iter().map(Some).collect();
        slide(self.asked, &mut spots);
        Some(spots)
    }
}
