//! The skeleton: a mask thinned to lines one pixel wide, along the ridge of its distances.
//!
//! ```text
//!   # # # # # # #        . . . . . . .    Pixels go from the border inwards, each only if the
//!   # # # # # # #   ──►  . # # # # # .    mask around it holds together without it and no new
//!   # # # # # # #        . . . . . . .    hole opens; the end of a line stays.
//! ```
//!
//! So the skeleton has as many parts and holes as the mask. Parts hold together across corners,
//! the ground only across sides. Source: distance-ordered homotopic thinning, Pudney 1998 (CVIU
//! 72(3) 404–413); the count of parts around a pixel, Yokoi, Toriwaki & Fukumura 1975.

use crate::centre::distance;
use crate::centre::mask::Mask;
use crate::stop::{Stop, Stopped};

/// Whether a pixel with such neighbours can go without a change of parts or holes.
const SIMPLE: [bool; 256] = simple();

/// The sides of a pixel among its neighbours: up, down, left, right.
const SIDES: [usize; 4] = [6, 2, 4, 0];

const fn simple() -> [bool; 256] {
    let mut table = [false; 256];
    let mut bits = 0;
    while bits < 256 {
        // Yokoi's number for parts that hold together across corners.
        let mut parts = 0;
        let mut k = 0;
        while k < 8 {
            let side = bits >> k & 1 == 0;
            let corner = bits >> ((k + 1) % 8) & 1 == 0;
            let next = bits >> ((k + 2) % 8) & 1 == 0;
            if side && !(corner && next) {
                parts += 1;
            }
            k += 2;
        }
        table[bits] = parts == 1;
        bits += 1;
    }
    table
}

/// Thins a mask to its skeleton and tells the squared distance of every pixel from outside, px².
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(super) fn thin(mask: &mut Mask, stop: &Stop) -> Result<Vec<u32>, Stopped> {
    let distance = distance::squared(mask);
    stop.check()?;
    let mut order: Vec<(u32, u32)> = (0..mask.on.len())
        .filter(|&i| mask.on[i])
        .map(|i| (distance[i], i as u32))
        .collect();
    order.sort_unstable();
    let around = mask.around();
    for layer in order.chunk_by(|a, b| a.0 == b.0) {
        stop.check()?;
        let depth = layer[0].0;
        let mut work: Vec<usize> = layer.iter().map(|&(_, i)| i as usize).collect();
        while !work.is_empty() {
            let mut met = Vec::new();
            for side in SIDES {
                // One side at a time, or a line two pixels wide would go from its end on.
                let open = |i: &usize| mask.on[*i] && !mask.on[i.wrapping_add_signed(around[side])];
                let border: Vec<usize> = work.iter().copied().filter(open).collect();
                for i in border {
                    let bits = mask.neighbours(i);
                    if SIMPLE[usize::from(bits)] && bits.count_ones() != 1 {
                        mask.on[i] = false;
                        met.extend(around.map(|step| i.wrapping_add_signed(step)));
                    }
                }
            }
            // What was looked at before may be able to go now.
            met.retain(|&i| mask.on[i] && distance[i] <= depth);
            met.sort_unstable();
            met.dedup();
            work = met;
        }
    }
    Ok(distance)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn thinned(rows: &[&str]) -> Mask {
        let on = |x: usize, y: usize| rows[y].as_bytes()[x] == b'#';
        let mut mask = Mask::new(rows[0].len(), rows.len(), on).unwrap();
        thin(&mut mask, &Stop::new()).unwrap();
        mask
    }

    #[test]
    fn a_bar_becomes_its_middle_row() {
        let mask = thinned(&["#########", "#########", "#########"]);
        let on: Vec<usize> = (0..mask.on.len()).filter(|&i| mask.on[i]).collect();
        assert!(on.len() >= 6);
        assert!(on.iter().all(|&i| (mask.centre(i).y - 1.5).abs() < 1.1));
    }

    #[test]
    fn a_ring_stays_a_ring_and_is_one_pixel_wide() {
        let mask = thinned(&["#####", "#####", "##.##", "#####", "#####"]);
        let on: Vec<usize> = (0..mask.on.len()).filter(|&i| mask.on[i]).collect();
        assert_eq!(on.len(), 4, "the four sides of the hole");
        assert!(on.iter().all(|&i| mask.neighbours(i).count_ones() == 2));
    }
}
