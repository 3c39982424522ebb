//! The flat colours of the artwork, from its interior pixels only.
//!
//! A pixel counts when its four neighbours have nearly its colour, so the mixes along soft edges
//! never become inks. The counted colours are gathered in cells of a coarse table:
//!
//! ```text
//!   pixels of a cell        ▂▅█▃▁  ▁▃▁      a cell leans on its fullest neighbour, so what noise
//!                           → → ↑ ←  ↑      and compression scatter around an ink stays with it;
//!   colour                  ──────────►     what leans on nothing is an ink
//! ```
//!
//! Inks closer than a CIEDE2000 distance are one.

use rayon::prelude::*;

use crate::inks::{Rgb, difference};
use crate::limits;
use crate::picture::Picture;

/// Colours closer than this look like one (CIEDE2000; about 1 is just noticeable).
pub(super) const SAME_INK: f64 = 4.0;
/// A colour that was pointed at is the ink found when they differ by less.
const SAME_ADDED: f64 = 1.0;
/// A cell leans on a neighbour of which it holds at most this part.
const LEAN: f64 = 0.6;
/// Least share of the interior for an ink found by itself.
const LEAST_SHARE: f64 = 0.0015;
/// Greatest number of inks found by itself.
const MOST_FOUND: usize = 12;
/// Candidates that are merged down to the number asked for.
const MOST_CANDIDATES: usize = 64;
/// Alpha below which a pixel is clear, and above which its colour counts.
const CLEAR: u8 = 16;
const OPAQUE: u8 = 240;

/// Cell of pixels that are not flat.
pub(super) const NOT_FLAT: u16 = u16::MAX;
/// Cell of clear pixels.
pub(super) const CLEAR_CELL: u16 = 1 << 15;
const CELLS: usize = 1 << 15;

#[derive(Clone, Copy, Default)]
struct Cell {
    sum: [u64; 3],
    count: u64,
}

/// Every pixel sorted by its colour, where it is flat.
pub(super) struct Cells {
    /// Cell of every pixel: 5 bits of each of r, g, b, or [`NOT_FLAT`], or [`CLEAR_CELL`].
    pub of: Vec<u16>,
    table: Vec<Cell>,
    clear: u64,
}

/// Colour of an ink, and whether it is transparency.
pub(super) type Colour = (Rgb, bool);

/// Flat colours and how much of the picture lies on them.
pub(super) struct Flat {
    /// The colours.
    pub colours: Vec<Colour>,
    /// Share of all pixels that are interior and on one of the colours, 0 to 1.
    pub share: f64,
}

/// The up to 26 cells around a cell.
fn neighbours(cell: usize) -> impl Iterator<Item = usize> {
    let axis = move |shift: usize| {
        let v = (cell >> shift & 31) as isize;
        (v - 1..=v + 1)
            .filter(|v| (0..32).contains(v))
            .map(|v| v as usize)
    };
    axis(10)
        .flat_map(move |r| axis(5).flat_map(move |g| axis(0).map(move |b| r << 10 | g << 5 | b)))
        .filter(move |&c| c != cell)
}

/// Adds a run of pixels of one value to its cell.
fn count(table: &mut [Cell], cell: u16, value: [u8; 4], run: u64) {
    let entry = &mut table[usize::from(cell)];
    entry.count += run;
    for (s, v) in entry.sum.iter_mut().zip(value) {
        *s += run * u64::from(v);
    }
}

/// The rows above, at and below a place; at the picture's border its own row stands for what lies
/// outside.
struct Rows<'a> {
    /// How far away they lie, px.
    reach: usize,
    above: &'a [[u8; 4]],
    here: &'a [[u8; 4]],
    below: &'a [[u8; 4]],
}

impl<'a> Rows<'a> {
    fn of(pixels: &'a [[u8; 4]], width: usize, y: usize, reach: usize) -> Self {
        let row = |y: usize| &pixels[y * width..(y + 1) * width];
        let last = pixels.len() / width - 1;
        Self {
            reach,
            above: row(y.saturating_sub(reach)),
            here: row(y),
            below: row((y + reach).min(last)),
        }
    }

    /// Whether each pixel is the very same as its four neighbours: nearly all of a flat picture,
    /// found for many pixels at once.
    fn same(&self, found: &mut Vec<bool>) {
        let value = |p: &[u8; 4]| u32::from_ne_bytes(*p);
        found.clear();
        let column = self.here.iter().zip(self.above).zip(self.below);
        found.extend(column.map(|((p, a), b)| value(p) == value(a) && value(p) == value(b)));
        for (x, pair) in self.here.windows(2).enumerate() {
            let same = value(&pair[0]) == value(&pair[1]);
            found[x] &= same;
            found[x + 1] &= same;
        }
    }

    /// Whether pixel `x` is like its four neighbours within `tolerance` in every channel.
    fn is_flat(&self, x: usize, tolerance: i32) -> bool {
        let p = self.here[x];
        let like =
            |q: &[u8; 4]| (0..4).all(|c| (i32::from(p[c]) - i32::from(q[c])).abs() <= tolerance);
        like(&self.above[x])
            && like(&self.below[x])
            && like(&self.here[x.saturating_sub(self.reach)])
            && like(&self.here[(x + self.reach).min(self.here.len() - 1)])
    }
}

impl Cells {
    /// Sorts every pixel; `noise` is a standard deviation on the scale 0 to 255.
    /// A pixel is held against those `reach` pixels away: more than 1 in a picture that was
    /// enlarged, where soft edges rise slowly.
    pub(super) fn gather(picture: &Picture, noise: f64, reach: usize) -> Self {
        let size = (picture.width() as usize, picture.height() as usize);
        let (w, h) = size;
        let pixels = picture.pixels();
        let tolerance = (10.0 + 2.0 * noise).min(48.0) as i32;
        let mut of = vec![NOT_FLAT; pixels.len()];
        // A few bands: each has a table of its own, and whole numbers add up alike in any order.
        let band = h.div_ceil(8).max(1);
        let tables: Vec<(Vec<Cell>, u64)> = of
            .par_chunks_mut(band * w)
            .enumerate()
            .map(|(n, part)| {
                let (mut table, mut clear) = (vec![Cell::default(); CELLS], 0);
                // Flat places are long runs of one value: each run is counted at once.
                let (mut value, mut cell_of_value, mut run) = ([0; 4], 0u16, 0u64);
                let mut same = Vec::with_capacity(w);
                for (k, row) in part.chunks_mut(w).enumerate() {
                    let rows = Rows::of(pixels, w, n * band + k, reach);
                    rows.same(&mut same);
                    for (x, cell) in row.iter_mut().enumerate() {
                        let p = rows.here[x];
                        if p[3] < CLEAR {
                            clear += 1;
                            *cell = CLEAR_CELL;
                        } else if p[3] > OPAQUE
                            && ((same[x] && reach == 1) || rows.is_flat(x, tolerance))
                        {
                            if run == 0 || p != value {
                                count(&mut table, cell_of_value, value, run);
                                let [r, g, b] = [p[0], p[1], p[2]].map(|v| u16::from(v) >> 3);
                                (value, cell_of_value, run) = (p, r << 10 | g << 5 | b, 0);
                            }
                            run += 1;
                            *cell = cell_of_value;
                        }
                    }
                }
                count(&mut table, cell_of_value, value, run);
                (table, clear)
            })
            .collect();
        let (mut table, mut clear) = (vec![Cell::default(); CELLS], 0);
        for (strip, strip_clear) in tables {
            clear += strip_clear;
            for (to, from) in table.iter_mut().zip(strip) {
                to.count += from.count;
                for (t, f) in to.sum.iter_mut().zip(from.sum) {
                    *t += f;
                }
            }
        }
        Self { of, table, clear }
    }

    /// Mean colour of every cell that holds pixels.
    pub(super) fn colours(&self) -> impl Iterator<Item = (usize, Rgb)> {
        let full = self.table.iter().enumerate().filter(|(_, c)| c.count > 0);
        full.map(|(i, c)| (i, Cluster::from(c).colour()))
    }

    /// Cells with all that leans on them, the fullest first.
    fn peaks(&self) -> Vec<Cluster> {
        let mut order: Vec<usize> = (0..CELLS).filter(|&i| self.table[i].count > 0).collect();
        order.sort_by_key(|&i| (std::cmp::Reverse(self.table[i].count), i));
        let mut peak_of = vec![usize::MAX; CELLS];
        let mut peaks: Vec<Cluster> = Vec::new();
        for i in order {
            let count = self.table[i].count;
            let fullest = neighbours(i)
                .filter(|&j| peak_of[j] != usize::MAX)
                .max_by_key(|&j| (self.table[j].count, std::cmp::Reverse(j)));
            match fullest {
                // Of two nearly equally full neighbours neither leans on the other.
                Some(j) if count as f64 <= LEAN * self.table[j].count as f64 => {
                    peak_of[i] = peak_of[j];
                    peaks[peak_of[j]].add(&Cluster::from(&self.table[i]));
                }
                _ => {
                    peak_of[i] = peaks.len();
                    peaks.push(Cluster::from(&self.table[i]));
                }
            }
        }
        sort(&mut peaks);
        peaks
    }

    /// The flat colours: their number by itself, or at most `count`.
    pub(super) fn flat_colours(&self, count: Option<usize>) -> Flat {
        let total = self.of.len() as f64;
        let clear = self.clear as f64;
        let interior = self.table.iter().map(|c| c.count).sum::<u64>() as f64;
        let has_clear = clear > LEAST_SHARE * total;
        let wanted = count.map(|n| n - usize::from(has_clear && n > 1));
        let mut clusters = seed(&self.peaks(), SAME_INK);
        match wanted {
            Some(n) => merge_to(&mut clusters, n),
            None => {
                clusters.retain(|c| c.count >= LEAST_SHARE * interior.max(1.0));
                clusters.truncate(MOST_FOUND);
            }
        }
        let on: f64 = clusters.iter().map(|c| c.count).sum::<f64>() + clear;
        let mut colours: Vec<Colour> = clusters.iter().map(|c| (c.colour(), false)).collect();
        if has_clear {
            colours.push((Rgb::WHITE, true));
        }
        Flat {
            colours,
            share: on / total,
        }
    }
}

/// Adds colours that were pointed at, but for those that are known.
pub(super) fn add(colours: &mut Vec<Colour>, added: &[Rgb]) {
    for &colour in added {
        let known = |c: &Colour| !c.1 && difference(c.0, colour) < SAME_ADDED;
        if colours.len() < *limits::INKS.end() && !colours.iter().any(known) {
            colours.push((colour, false));
        }
    }
}

#[derive(Clone, Copy)]
struct Cluster {
    sum: [f64; 3],
    count: f64,
}

impl From<&Cell> for Cluster {
    fn from(cell: &Cell) -> Self {
        Self {
            sum: cell.sum.map(|s| s as f64),
            count: cell.count as f64,
        }
    }
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

/// The fullest first.
fn sort(clusters: &mut [Cluster]) {
    clusters.sort_by(|a, b| {
        b.count
            .total_cmp(&a.count)
            .then(a.colour().cmp(&b.colour()))
    });
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
    sort(&mut clusters);
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
                let apart = difference(colours[i], colours[j]);
                // Shades of one ink go first, however large; then what is both near and small.
                let shade = if apart < SAME_INK { 0.1 } else { 1.0 };
                let loss = apart * share.powf(0.25) * shade;
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
