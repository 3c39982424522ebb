//! A load nested zone by zone, below its trial cut and within its weed box.

use kurbo::Rect;

use super::choice::{Placed, SheetChoice};
use super::load::Load;
use super::nesting::Nesting;
use super::piece::{Piece, Spot};
use super::{nest, trial};
use crate::stop::Stop;

/// Nests a load, zone by zone: at most `tries` times for each, or until `stop` is set. `told` hears of every
/// better arrangement.
pub fn nested(
    load: &Load,
    choice: &SheetChoice,
    tries: usize,
    stop: &Stop,
    told: &mut dyn FnMut(&Progress),
) -> Placed {
    let items = load.items(choice);
    let trial = choice
        .trial
        .then(|| Piece::of(&trial::trial(&load.material)));
    let below = load.below(trial.flatten().as_ref(), choice);
    let away = choice.weed_box.unwrap_or(0.0);
    let room = load.stock.usable().inset(-away);
    let mut top = below + away;
    let walls = load.walls(away);
    let turns = choice.turns.degrees(choice.grain);
    let mut spots: Vec<Option<Spot>> = vec![None; items.len()];
    // Pieces that are the same, and may lie in each other's places, are one.
    let (pieces, of) = load.pieces(&items);
    let zones = load.zones(&items, choice);
    for (n, zone) in zones.iter().enumerate() {
        let in_zone: Vec<usize> = zone.iter().map(|&i| of[i]).collect();
        let asked = Nesting {
            pieces: &pieces,
            items: &in_zone,
            room: Rect::new(room.x0, top.min(room.y1), room.x1, room.y1),
            gap: choice.gap(),
            turns: &turns,
            walls: walls.as_ref(),
        };
        let found = nest::nest(&asked, tries, stop, &mut |better, tried| {
            let mut all = spots.clone();
            if let Some(better) = better {
                for (&i, spot) in zone.iter().zip(&better.spots) {
                    all[i] = *spot;
                }
            }
            told(&Progress {
                spots: better.is_some().then_some(all),
                part: (n as f64 + tried as f64 / tries as f64) / zones.len() as f64,
            });
        });
        for (&i, spot) in zone.iter().zip(&found.spots) {
            spots[i] = *spot;
        }
        top += found.length + choice.gap();
    }
    Placed {
        sheet: load.name.clone(),
        spots,
        sizes: load.sizes(choice),
    }
}

/// How far nesting is.
#[derive(Clone, Debug, PartialEq)]
pub struct Progress {
    /// A better arrangement, where one was found.
    pub spots: Option<Vec<Option<Spot>>>,
    /// Part of the tries that are done, 0 to 1.
    pub part: f64,
}
