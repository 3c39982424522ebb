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
        assert_eq!((parts(&mask, true), parts(&mask, false)), (1, 2));
        let on = (0..mask.on.len()).filter(|&i| mask.on[i]);
        let left = |i: &usize| SIMPLE[usize::from(mask.neighbours(*i))];
        assert!(
            on.filter(left)
                .all(|i| mask.neighbours(i).count_ones() == 1)
        );
    }

    /// Name, width, parts, holes, rows of a picture and rows of its skeleton, each row as the
    /// columns at which it changes; by `scripts/reference/skeleton.py` with scikit-image 0.26.
    type Reference = (
        &'static str,
        usize,
        usize,
        usize,
        &'static [&'static [usize]],
        &'static [&'static [usize]],
    );
    const REFERENCE: &[Reference] = include!("../../tests/reference/skeleton.in");

    fn on(rows: &[&[usize]], x: usize, y: usize) -> bool {
        rows[y].partition_point(|&change| change <= x) % 2 == 1
    }

    /// Parts of what is on (together across corners) or off (across sides) in a mask.
    fn parts(mask: &Mask, lit: bool) -> usize {
        let steps = mask.around();
        let mut seen = vec![false; mask.on.len()];
        let mut count = 0;
        for i in 0..mask.on.len() {
            if seen[i] || mask.on[i] != lit {
                continue;
            }
            count += 1;
            let mut open = vec![i];
            seen[i] = true;
            while let Some(i) = open.pop() {
                let (x, y) = (i % mask.width, i / mask.width);
                for (k, step) in steps.into_iter().enumerate() {
                    let rim = x == 0 || y == 0 || x + 1 == mask.width || y + 1 == mask.height;
                    if (!lit && k % 2 == 1) || (rim && lit) {
                        continue;
                    }
                    let j = i.wrapping_add_signed(step);
                    let near = j < seen.len() && (j % mask.width).abs_diff(x) <= 1;
                    if near && !seen[j] && mask.on[j] == lit {
                        seen[j] = true;
                        open.push(j);
                    }
                }
            }
        }
        count
    }

    #[test]
    fn skeletons_of_published_pictures_run_where_published_thinning_has_them() {
        for &(name, width, lines, holes, picture, reference) in REFERENCE {
            let mut mask = Mask::new(width, picture.len(), |x, y| on(picture, x, y)).unwrap();
            let (first, wide) = (mask.centre(0), mask.width);
            let distance = thin(&mut mask, &Stop::new()).unwrap();
            assert_eq!(parts(&mask, true), lines, "{name}");
            assert_eq!(parts(&mask, false), holes + 1, "{name}");
            let marked: Vec<_> = (0..mask.on.len())
                .filter(|&i| mask.on[i])
                .map(|i| mask.centre(i))
                .collect();
            let theirs: Vec<_> = (0..picture.len())
                .flat_map(|y| (0..width).map(move |x| (x, y)))
                .filter(|&(x, y)| on(reference, x, y))
                .map(|(x, y)| kurbo::Point::new(x as f64 + 0.5, y as f64 + 0.5))
                .collect();
            // Published thinning peels evenly, so in wide places it does not keep to the middle.
            let near = |p: &&kurbo::Point| {
                let (x, y) = ((p.x - first.x) as usize, (p.y - first.y) as usize);
                let most = 2.1 + 0.2 * f64::from(distance[y * wide + x]).sqrt();
                marked.iter().any(|q| q.distance(**p) <= most)
            };
            let share = theirs.iter().filter(near).count() as f64 / theirs.len() as f64;
            assert!(share > 0.95, "{name}: {share:.3} near");
        }
    }

    #[test]
    fn parts_and_holes_of_any_mask_stay() {
        let mut random = 3u32;
        for share in [3, 6, 8, 11, 13] {
            let cells: Vec<bool> = (0..40 * 40)
                .map(|_| {
                    random = random.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
                    random >> 28 < share
                })
                .collect();
            let mut mask = Mask::new(40, 40, |x, y| cells[y * 40 + x]).unwrap();
            let before = (parts(&mask, true), parts(&mask, false));
            thin(&mut mask, &Stop::new()).unwrap();
            assert_eq!((parts(&mask, true), parts(&mask, false)), before);
        }
    }
}
