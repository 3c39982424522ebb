//! Drawn: small pictures that were drawn pixel by pixel, in a few inks each pixel of which counts.
//!
//! ```text
//!   ■ ■ ■ ■      a mouth of two rows is nowhere flat, but its colour is no mix of two others:
//!   □ ■ ■ □      it is an ink, and each of its pixels says so
//! ```
//!
//! What is left when a picture was enlarged by repeating its pixels ([`super::enlarged`]) may be such a
//! drawing, or lettering with soft edges, whose greys are all mixes. Own method.

use std::collections::BTreeMap;

use crate::inks::flat::{Colour, SAME_INK};
use crate::inks::mixes::{Mixes, Values, mix, place_of_ink, places_of};
use crate::inks::parted::Parted;
use crate::inks::{EdgeField, InkReason, Rgb, difference, label};
use crate::picture::Picture;

/// Most colours of a picture drawn pixel by pixel, and pixels of one that counts.
const MOST_COLOURS: usize = 64;
const LEAST_PX: usize = 3;
/// Colours this near to the line between two others are their mixes, 0 to 255.
const MIXED: f32 = 9.0;
/// Inks of such a picture at most.
const MOST_INKS: usize = 8;

/// The inks of a small picture that was drawn pixel by pixel: its frequent colours but for mixes of
/// two others, of which soft edges are full. None where there are too many colours.
fn inks(small: &Picture) -> Vec<Rgb> {
    let mut counts: BTreeMap<[u8; 3], usize> = BTreeMap::new();
    for &[r, g, b, _] in small.pixels() {
        *counts.entry([r, g, b]).or_default() += 1;
        if counts.len() > MOST_COLOURS {
            return Vec::new();
        }
    }
    let mut order: Vec<(Rgb, usize)> = counts.into_iter().map(|(c, n)| (Rgb(c), n)).collect();
    order.sort_by_key(|&(_, count)| std::cmp::Reverse(count));
    let place = |ink: Rgb| place_of_ink(ink, false);
    let is_mix = |colour: Rgb| {
        let far = |ink: &&(Rgb, usize)| difference(ink.0, colour) >= SAME_INK;
        let others: Vec<Rgb> = order.iter().filter(far).map(|ink| ink.0).collect();
        others.iter().enumerate().any(|(n, &a)| {
            let mut rest = others[n + 1..].iter();
            rest.any(|&b| mix(place(colour), place(a), place(b)).1 < MIXED * MIXED)
        })
    };
    let mut found: Vec<Rgb> = Vec::new();
    for &(colour, count) in &order {
        let known = found.iter().any(|&ink| difference(ink, colour) < SAME_INK);
        if count >= LEAST_PX && !known && found.len() < MOST_INKS && !is_mix(colour) {
            found.push(colour);
        }
    }
    found
}

/// A small picture that was drawn pixel by pixel in three inks or more, each pixel given to the ink
/// it is nearest to; `None` where it was not, or holds transparency.
pub(super) fn parted(small: &Picture) -> Option<Parted<Colour>> {
    if small.pixels().iter().any(|p| p[3] < 255) {
        return None;
    }
    let colours: Vec<Colour> = inks(small).into_iter().map(|ink| (ink, false)).collect();
    if colours.len() < 3 {
        return None;
    }
    let places = label::places(&colours);
    let found: Vec<(u8, f32)> = places_of(small)
        .into_iter()
        .map(|p| label::nearest(p, &places))
        .collect();
    let exact = found.iter().filter(|(_, far)| *far < 1.0).count();
    let share = exact as f64 / found.len() as f64;
    Some(Parted {
        labels: found.into_iter().map(|(ink, _)| ink).collect(),
        size: (small.width() as usize, small.height() as usize),
        detail: 1.0,
        scatter: 0.0,
        rough: 0.0,
        field: EdgeField::Colours {
            pixels: small.shared_pixels(),
            mixes: Mixes::new(&places, Values::Premultiplied),
        },
        reason: InkReason::of_flat(None, colours.len(), share),
        inks: colours,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_inks_of_a_picture_drawn_by_pixels_are_its_colours_but_for_mixes() {
        let colours = [[32, 40, 64], [232, 192, 64], [144, 32, 32], [132, 116, 64]];
        // Ground, a field, a mouth of two rows, and half-mixes of ground and field.
        let pixels = (0..32 * 32).map(|i: usize| {
            let (x, y) = (i % 32, i / 32);
            let n = match (x, y) {
                (10..22, 20..22) => 2,
                (4, 4..28) => 3,
                (5..28, 4..28) => 1,
                _ => 0,
            };
            let [r, g, b] = colours[n];
            [r, g, b, 255]
        });
        let small = Picture::new(32, 32, pixels.collect()).unwrap();
        let found = parted(&small).unwrap();
        let mut inks: Vec<[u8; 3]> = found.inks.iter().map(|ink| ink.0.0).collect();
        inks.sort_unstable();
        assert_eq!(inks, [colours[0], colours[2], colours[1]]);
        let mouth = usize::from(found.labels[20 * 32 + 15]);
        assert_eq!(found.inks[mouth].0.0, colours[2]);
    }

    #[test]
    fn soft_lettering_is_no_drawing_by_pixels() {
        let greys = (0..24 * 24).map(|i: usize| {
            let v = [255, 200, 128, 60, 0][i % 5];
            [v, v, v, 255]
        });
        assert!(parted(&Picture::new(24, 24, greys.collect()).unwrap()).is_none());
    }
}
