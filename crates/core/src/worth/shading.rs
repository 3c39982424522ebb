//! Shading: borders between inks where the picture has no edge, as in shadows and gradients.
//!
//! ```text
//!   ▓▓▓▓▒▒▒▒░░░░      a drawn border: the picture steps from ink to ink within a few pixels
//!       │   │         shading: it passes from one to the next as slowly as anywhere else
//! ```
//!
//! Own method.

use rayon::prelude::*;

use crate::inks::Solid;
use crate::picture::Picture;

/// Rows and columns that are looked at, each way.
const LINES: usize = 400;
/// Pixels on each side of a border within which it must step, beside half the width of an edge.
const REACH: usize = 3;
/// Half the width of an edge counts up to this, px: what is softer is no edge.
const SOFTEST: f64 = 2.0;
/// A border steps by this part of what its inks differ by.
const STEPS: f64 = 0.55;
/// Two inks shade into each other where this part of the borders between them has no edge, of so
/// many that were looked at.
const SOFT: f64 = 0.6;
const FEWEST: u64 = 24;

/// Borders looked at between every two inks: those without an edge, and all.
type Borders = Vec<(u64, u64)>;

/// The part of all borders that lie between inks which shade into each other, 0 to 1.
pub(super) fn shaded(picture: &Picture, solid: &Solid) -> f64 {
    let n = solid.inks.len();
    if n < 3 || solid.inks.iter().any(|ink| ink.clear) {
        return 0.0;
    }
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let larger = (w as f64 / f64::from(solid.width).max(1.0)).max(1.0);
    let blown_up = solid.enlarged.map_or(0.0, |how| how.factor);
    let soft = (solid.edge_width / 2.0).min(SOFTEST) * larger;
    let reach = REACH + (soft + blown_up).round() as usize;
    let across = lines(h).map(|y| (y * w, 1, w));
    let down = lines(w).map(|x| (x, w, h));
    let all: Vec<(usize, usize, usize)> = across.chain(down).collect();
    let add = |mut a: Borders, b: Borders| {
        for (to, from) in a.iter_mut().zip(b) {
            *to = (to.0 + from.0, to.1 + from.1);
        }
        a
    };
    let found: Borders = all
        .par_iter()
        .map(|&(first, step, length)| {
            let pixels: Vec<usize> = (0..length).map(|k| first + k * step).collect();
            borders(picture, solid, &pixels, reach)
        })
        .reduce(|| vec![(0, 0); n * n], add);
    let soft = |b: &&(u64, u64)| b.1 >= FEWEST && b.0 as f64 > SOFT * b.1 as f64;
    let shading: u64 = found.iter().filter(soft).map(|b| b.1).sum();
    let total: u64 = found.iter().map(|b| b.1).sum();
    shading as f64 / total.max(1) as f64
}

/// The borders along a line of pixels.
fn borders(picture: &Picture, solid: &Solid, pixels: &[usize], reach: usize) -> Borders {
    let n = solid.inks.len();
    let mut found = vec![(0, 0); n * n];
    let inks: Vec<usize> = pixels.iter().map(|&i| solid.ink_at(picture, i)).collect();
    for k in 1..inks.len() {
        let (a, b) = (inks[k - 1], inks[k]);
        if a == b {
            continue;
        }
        let before = (0..reach.min(k)).take_while(|d| inks[k - 1 - d] == a);
        let after = (0..reach.min(inks.len() - k)).take_while(|d| inks[k + d] == b);
        // A thin stroke may never come to its ink.
        if before.clone().count() < REACH || after.clone().count() < REACH {
            continue;
        }
        let way = |k: usize| {
            let p = picture.pixels()[pixels[k]];
            along(p, solid.inks[a].colour.0, solid.inks[b].colour.0)
        };
        let from = before.map(|d| way(k - 1 - d)).fold(f64::MAX, f64::min);
        let to = after.map(|d| way(k + d)).fold(f64::MIN, f64::max);
        let tally = &mut found[a.min(b) * n + a.max(b)];
        tally.0 += u64::from(to - from < STEPS);
        tally.1 += 1;
    }
    found
}

/// Some of the lines across a picture.
fn lines(all: usize) -> impl Iterator<Item = usize> {
    let step = (all / LINES).max(1);
    (step / 2..all).step_by(step)
}

/// How far a colour lies on the way from one ink to another: 0 at the first, 1 at the second.
fn along(p: [u8; 4], from: [u8; 3], to: [u8; 3]) -> f64 {
    let (mut dot, mut square) = (0.0, 0.0);
    for c in 0..3 {
        let way = f64::from(to[c]) - f64::from(from[c]);
        dot += way * (f64::from(p[c]) - f64::from(from[c]));
        square += way * way;
    }
    if square > 0.0 { dot / square } else { 1.0 }
}
