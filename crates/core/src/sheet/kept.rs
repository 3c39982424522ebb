//! Kept: the spots of a sheet that was nested or moved by hand, for the parts that lie there now.
//!
//! Spots are kept part by part in turn. When the design was edited since, parts may have gone, come or
//! changed; each part is known again by the size it had.

use super::choice::Placed;
use super::piece::Spot;

/// Two parts of the same design are the same within this part of their size.
const SAME: f64 = 0.005;
/// After an edit, or at another finished size, a part is still itself within this.
const LIKE: f64 = 0.25;

/// The spots for parts of these sizes, width and height, mm, or `None` where the parts are others.
pub(super) fn kept(placed: &Placed, sizes: &[[f64; 2]]) -> Option<Vec<Option<Spot>>> {
    let old = &placed.sizes;
    if placed.spots.len() != old.len() {
        // Kept before sizes were: all that is known is how many there are.
        return (placed.spots.len() == sizes.len()).then(|| placed.spots.clone());
    }
    if old.len() == sizes.len() {
        let scale = total(sizes) / total(old).max(1e-9);
        let mut both = old.iter().zip(sizes);
        if both.all(|(a, b)| like(a.map(|s| s * scale), *b, LIKE)) {
            return Some(placed.spots.clone());
        }
    }
    // Parts that went leave the others where they are.
    let mut left = old.iter().zip(&placed.spots);
    let spots = sizes
        .iter()
        .map(|size| left.find(|(a, _)| like(**a, *size, SAME)).map(|(_, s)| *s));
    spots.collect()
}

fn total(sizes: &[[f64; 2]]) -> f64 {
    sizes.iter().map(|[w, h]| w + h).sum()
}

fn like(a: [f64; 2], b: [f64; 2], within: f64) -> bool {
    let near = |a: f64, b: f64| (a - b).abs() <= within * a.max(b) + 1e-6;
    near(a[0], b[0]) && near(a[1], b[1])
}

#[cfg(test)]
mod tests {
    use super::*;

    fn placed(sizes: &[[f64; 2]]) -> Placed {
        let spot = |n: usize| Spot {
            x: n as f64 * 100.0,
            y: 5.0,
            turn: 0.0,
        };
        Placed {
            sheet: "A".to_owned(),
            spots: (0..sizes.len()).map(|n| Some(spot(n))).collect(),
            sizes: sizes.to_vec(),
        }
    }

    fn lie_at(placed: &Placed, sizes: &[[f64; 2]]) -> Option<Vec<f64>> {
        let spots = kept(placed, sizes)?;
        Some(spots.into_iter().flatten().map(|s| s.x).collect())
    }

    #[test]
    fn parts_keep_their_spots_when_another_one_goes() {
        let sizes = [[30.0, 20.0], [12.0, 12.0], [40.0, 8.0]];
        let placed = placed(&sizes);
        assert_eq!(lie_at(&placed, &sizes), Some(vec![0.0, 100.0, 200.0]));
        let gone = [sizes[0], sizes[2]];
        assert_eq!(lie_at(&placed, &gone), Some(vec![0.0, 200.0]));
        // One gone and another one come: the same number of parts, but not the same parts.
        assert_eq!(lie_at(&placed, &[sizes[1], sizes[2], [90.0, 70.0]]), None);
    }

    #[test]
    fn an_edited_or_larger_part_is_still_itself() {
        let sizes = [[30.0, 20.0], [12.0, 12.0], [40.0, 8.0]];
        let placed = placed(&sizes);
        let larger = sizes.map(|s| s.map(|side| side * 3.0));
        assert!(lie_at(&placed, &larger).is_some());
        let edited = [[33.0, 20.0], sizes[1], sizes[2]];
        assert!(lie_at(&placed, &edited).is_some());
    }
}
