//! Sliding: what a grid's rounding left between pieces is taken out, chord by chord.

use super::clash::{Outline, clash};
use super::nesting::Nesting;
use super::piece::Spot;
use super::walls::Walls;

/// Rounds of sliding, and its smallest step, mm.
const SLIDES: (usize, f64) = (7, 0.03);

/// How far down an arrangement reaches, mm.
pub(super) fn reach(asked: &Nesting<'_>, spots: &[Option<Spot>]) -> f64 {
    let ends = spots.iter().zip(asked.items).filter_map(|(spot, &piece)| {
        let spot = (*spot)?;
        Some(spot.y + asked.pieces[piece].turned_size(spot.turn)[1])
    });
    (ends.fold(asked.room.y0, f64::max) - asked.room.y0).max(0.0)
}

/// Moves every piece up and aside as far as it goes, so that the grid's rounding is taken out: to the left
/// in one round, to the right in the next, since what one way closes the other opens.
pub(super) fn slide(asked: &Nesting<'_>, spots: &mut [Option<Spot>]) {
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
                let lane = lane(&outlines, n, way, asked.gap);
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
                    let meets = |m: &usize| {
                        let other = outlines[*m].as_ref();
                        other.is_some_and(|o| clash(&outline, o, asked.gap))
                    };
                    let stays = (next.x - spot.x).abs() + (next.y - spot.y).abs() < 1e-9;
                    let meets_wall = |w: &Walls| w.meet(&outline);
                    if stays || asked.walls.is_some_and(meets_wall) || lane.iter().any(meets) {
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

/// The pieces that one may meet on its way straight up or aside.
fn lane(outlines: &[Option<Outline>], n: usize, way: [f64; 2], gap: f64) -> Vec<usize> {
    let Some(own) = outlines[n].as_ref().map(|o| o.bounds.inflate(gap, gap)) else {
        return Vec::new();
    };
    let beside = |o: &Outline| {
        let b = o.bounds;
        if way[0] == 0.0 {
            b.x0 <= own.x1 && b.x1 >= own.x0
        } else {
            b.y0 <= own.y1 && b.y1 >= own.y0
        }
    };
    let others = (0..outlines.len()).filter(|&m| m != n);
    others
        .filter(|&m| outlines[m].as_ref().is_some_and(beside))
        .collect()
}
