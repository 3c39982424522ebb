//! Rows: pieces side by side in the order they come, a new row where one is full.
//!
//! ```text
//!   ┌─────────────────┐
//!   │ ▣ ▣ ▣   gap     │     The highest of a row says how far down the next one begins.
//!   │ ▣ ▣             │
//!   └─────────────────┘
//! ```

use kurbo::Rect;

use super::piece::Spot;

/// Spots for boxes of the given sizes within `room`, from `top` down; `None` where there is no room left.
pub(super) fn rows(sizes: &[[f64; 2]], room: Rect, top: f64, gap: f64) -> Vec<Option<Spot>> {
    let (mut x, mut y, mut high) = (room.x0, top, 0.0_f64);
    let mut spots = Vec::with_capacity(sizes.len());
    for &[w, h] in sizes {
        if x > room.x0 && x + w > room.x1 + 1e-6 {
            (x, y, high) = (room.x0, y + high + gap, 0.0);
        }
        let fits = x + w <= room.x1 + 1e-6 && y + h <= room.y1 + 1e-6;
        spots.push(fits.then_some(Spot { x, y, turn: 0.0 }));
        if fits {
            x += w + gap;
            high = high.max(h);
        }
    }
    spots
}

/// How many boxes lie side by side in a width.
pub(super) fn across(width: f64, room: f64, gap: f64) -> usize {
    ((room + gap + 1e-6) / (width + gap)).floor().max(0.0) as usize
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_row_is_filled_before_the_next_one_begins() {
        let room = Rect::new(10.0, 10.0, 110.0, 100.0);
        let spots = rows(&[[30.0, 20.0]; 7], room, 10.0, 5.0);
        let at = |n: usize| spots[n].map(|s| [s.x, s.y]);
        assert_eq!(at(2), Some([80.0, 10.0]));
        assert_eq!(at(3), Some([10.0, 35.0]));
        assert_eq!(at(6), Some([10.0, 60.0]));
        assert_eq!(rows(&[[101.0, 5.0]], room, 10.0, 5.0), [None]);
        // (100 + 5) / 35 = 3.
        assert_eq!(across(30.0, 100.0, 5.0), 3);
        assert_eq!(across(100.0, 100.0, 5.0), 1);
        assert_eq!(across(100.1, 100.0, 5.0), 0);
    }
}
