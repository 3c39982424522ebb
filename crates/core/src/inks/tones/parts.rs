//! Parts and holes of a mask that are too small: across is the longer side of the box around one, as for the checks.

use super::mask::Mask;
use crate::sets::Sets;

/// Without parts that are less than so many places across, then without holes that are less than that.
pub(super) fn without_small(mask: &Mask, part: f64, hole: f64) -> Mask {
    let mut kept = mask.clone();
    clear_small(&mut kept, part, true);
    clear_small(&mut kept, hole, false);
    kept
}

/// Changes those parts of what is set, or of what is not, that are too small. What reaches the border is no hole.
fn clear_small(mask: &mut Mask, least: f64, set: bool) {
    if least <= 1.0 {
        return;
    }
    let rows: Vec<Vec<std::ops::Range<usize>>> =
        (0..mask.height).map(|y| mask.runs(y, set)).collect();
    let first: Vec<usize> = rows
        .iter()
        .scan(0, |sum, runs| {
            let first = *sum;
            *sum += runs.len();
            Some(first)
        })
        .collect();
    let count = rows.iter().map(Vec::len).sum();
    let mut sets = Sets::new(count);
    for y in 1..rows.len() {
        let mut above = 0;
        for (n, run) in rows[y].iter().enumerate() {
            while above < rows[y - 1].len() && rows[y - 1][above].end <= run.start {
                above += 1;
            }
            let mut k = above;
            while k < rows[y - 1].len() && rows[y - 1][k].start < run.end {
                sets.join(first[y - 1] + k, first[y] + n);
                k += 1;
            }
        }
    }
    // Columns and rows from and to, of each part.
    let mut boxes = vec![[usize::MAX, 0, usize::MAX, 0]; count];
    for (y, runs) in rows.iter().enumerate() {
        for (n, run) in runs.iter().enumerate() {
            let [left, right, top, bottom] = &mut boxes[sets.find(first[y] + n)];
            (*left, *right) = ((*left).min(run.start), (*right).max(run.end));
            (*top, *bottom) = ((*top).min(y), (*bottom).max(y + 1));
        }
    }
    let is_small = |&[left, right, top, bottom]: &[usize; 4]| {
        let at_border = left == 0 || top == 0 || right == mask.width || bottom == mask.height;
        (set || !at_border) && ((right - left).max(bottom - top) as f64) < least
    };
    let small: Vec<bool> = (0..count).map(|n| is_small(&boxes[sets.find(n)])).collect();
    for (y, runs) in rows.iter().enumerate() {
        for (n, run) in runs.iter().enumerate() {
            if small[first[y] + n] {
                mask.fill(y, run.clone(), !set);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn small_parts_go_and_small_holes_are_filled_but_not_what_opens_to_the_border() {
        // A square of 20 with a hole of 2 × 2, a notch from the border, a speck of 3 × 1.
        let mask = Mask::of(40, 40, |i| {
            let (x, y) = (i % 40, i / 40);
            let square = (10..30).contains(&x) && y < 20;
            let hole = (15..17).contains(&x) && (8..10).contains(&y);
            let notch = (20..22).contains(&x) && y < 3;
            let speck = (33..36).contains(&x) && y == 30;
            (square && !hole && !notch) || speck
        });
        let kept = without_small(&mask, 4.0, 3.0);
        assert!(kept.has(15, 8) && !kept.has(20, 1) && !kept.has(34, 30) && kept.has(12, 5));
        assert_eq!(without_small(&mask, 0.0, 0.0), mask);
    }
}
