//! The flat colours of the artwork, from its interior pixels only.
//!
//! A pixel counts when its four neighbours have nearly its colour, so the mixes along soft edges
//! never become inks. The counted colours are gathered in a coarse table, the fullest cells first
//! become inks, and inks closer than a CIEDE2000 distance are one.

use crate::inks::{Rgb, difference};
use crate::picture::Picture;

/// Colours closer than this look like one (CIEDE2000; about 1 is just noticeable).
const SAME_INK: f64 = 9.0;
/// Least share of the interior for an ink found by itself.
const LEAST_SHARE: f64 = 0.002;
/// Greatest number of inks found by itself.
const MOST_FOUND: usize = 12;
/// Candidates that are merged down to the number asked for.
const MOST_CANDIDATES: usize = 64;

/// Flat colours and how much of the picture lies on them.
pub(super) struct Flat {
    /// Colour, and whether it is transparency.
    pub colours: Vec<(Rgb, bool)>,
    /// Share of all pixels that are interior and on one of the colours, 0 to 1.
    pub share: f64,
}

#[derive(Clone, Copy)]
struct Cluster {
    sum: [f64; 3],
    count: f64,
}

impl Cluster {
    fn colour(&self) -> Rgb {
        Rgb(self
            .sum
            .map(|s| (s / self.count).round().clamp(0.0, 255.0) as u8))
    }

    fn add(&mut self, other: &Self) {
        for (a, b) in self.sum.iter_mut().zip(other.sum) {
            *a += b;
        }
        self.count += other.count;
    }
}

/// Finds the flat colours: their number by itself, or at most `count`.
pub(super) fn find(picture: &Picture, count: Option<usize>, noise: f64) -> Flat {
    let (cells, clear, interior) = gather(picture, noise);
    let total = picture.pixels().len() as f64;
    let has_clear = clear > LEAST_SHARE * total;
    let wanted = count.map(|n| n - usize::from(has_clear && n > 1));
    let mut clusters = seed(
        &cells,
        if wanted.is_some() {
            SAME_INK / 3.0
        } else {
            SAME_INK
        },
    );
    match wanted {
        Some(n) => merge_to(&mut clusters, n),
        None => {
            clusters.retain(|c| c.count >= LEAST_SHARE * interior.max(1.0));
            clusters.truncate(MOST_FOUND);
        }
    }
    let on: f64 = clusters.iter().map(|c| c.count).sum::<f64>() + clear;
    let mut colours: Vec<(Rgb, bool)> = clusters.iter().map(|c| (c.colour(), false)).collect();
    if has_clear {
        colours.push((Rgb::WHITE, true));
    }
    Flat {
        colours,
        share: on / total,
    }
}

/// Tells flat places: where a pixel is like its four neighbours.
pub(super) struct FlatPlaces {
    width: usize,
    height: usize,
    tolerance: i32,
}

impl FlatPlaces {
    /// For a picture of a size, px, with noise of a standard deviation on the scale 0 to 255.
    pub(super) fn new(width: usize, height: usize, noise: f64) -> Self {
        Self {
            width,
            height,
            tolerance: (10.0 + 2.0 * noise).min(48.0) as i32,
        }
    }

    /// Whether the pixel at (x, y) lies in a flat place.
    pub(super) fn is_at(&self, pixels: &[[u8; 4]], x: usize, y: usize) -> bool {
        let (w, i) = (self.width, y * self.width + x);
        let like = |j: usize| {
            let channels = pixels[i].iter().zip(&pixels[j]);
            channels
                .into_iter()
                .all(|(a, b)| (i32::from(*a) - i32::from(*b)).abs() <= self.tolerance)
        };
        (x == 0 || like(i - 1))
            && (x + 1 == w || like(i + 1))
            && (y == 0 || like(i - w))
            && (y + 1 == self.height || like(i + w))
    }
}

/// Interior colours in cells of 8 levels a channel, fullest first; clear pixels; interior pixels.
fn gather(picture: &Picture, noise: f64) -> (Vec<Cluster>, f64, f64) {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let pixels = picture.pixels();
    let flat = FlatPlaces::new(w, h, noise);
    let mut cells = vec![
        Cluster {
            sum: [0.0; 3],
            count: 0.0
        };
        32 * 32 * 32
    ];
    let (mut clear, mut interior) = (0.0, 0.0);
    for y in 0..h {
        for x in 0..w {
            let i = y * w + x;
            let p = pixels[i];
            if p[3] < 16 {
                clear += 1.0;
            } else if p[3] > 240 && flat.is_at(pixels, x, y) {
                interior += 1.0;
                let cell = (usize::from(p[0]) >> 3) << 10
                    | (usize::from(p[1]) >> 3) << 5
                    | usize::from(p[2]) >> 3;
                cells[cell].add(&Cluster {
                    sum: [p[0], p[1], p[2]].map(f64::from),
                    count: 1.0,
                });
            }
        }
    }
    let mut full: Vec<Cluster> = cells.into_iter().filter(|c| c.count > 0.0).collect();
    full.sort_by(|a, b| {
        b.count
            .total_cmp(&a.count)
            .then(a.colour().cmp(&b.colour()))
    });
    (full, clear, interior)
}

/// The fullest cells become clusters; every other cell joins the nearest within `same`.
fn seed(cells: &[Cluster], same: f64) -> Vec<Cluster> {
    let mut clusters: Vec<Cluster> = Vec::new();
    let mut colours: Vec<Rgb> = Vec::new();
    for cell in cells {
        let colour = cell.colour();
        let nearest = colours
            .iter()
            .map(|&c| difference(c, colour))
            .enumerate()
            .min_by(|a, b| a.1.total_cmp(&b.1));
        match nearest {
            Some((i, d)) if d < same || clusters.len() >= MOST_CANDIDATES => clusters[i].add(cell),
            _ => {
                clusters.push(*cell);
                colours.push(colour);
            }
        }
    }
    clusters.sort_by(|a, b| {
        b.count
            .total_cmp(&a.count)
            .then(a.colour().cmp(&b.colour()))
    });
    clusters
}

/// Merges the pair that is missed least until `wanted` are left: close together, or one of them tiny.
fn merge_to(clusters: &mut Vec<Cluster>, wanted: usize) {
    while clusters.len() > wanted.max(1) {
        let total: f64 = clusters.iter().map(|c| c.count).sum();
        let colours: Vec<Rgb> = clusters.iter().map(Cluster::colour).collect();
        let mut best = (f64::INFINITY, 0, 1);
        for i in 0..clusters.len() {
            for j in i + 1..clusters.len() {
                let share = clusters[i].count.min(clusters[j].count) / total;
                let loss = difference(colours[i], colours[j]) * share.powf(0.3);
                if loss < best.0 {
                    best = (loss, i, j);
                }
            }
        }
        let gone = clusters.remove(best.2);
        // Shades that only just differ are averaged; a tiny far colour must not tint a great one.
        if difference(gone.colour(), clusters[best.1].colour()) < SAME_INK {
            clusters[best.1].add(&gone);
        } else {
            let colour = clusters[best.1];
            let grown = colour.count + gone.count;
            clusters[best.1] = Cluster {
                sum: colour.sum.map(|s| s / colour.count * grown),
                count: grown,
            };
        }
    }
}
