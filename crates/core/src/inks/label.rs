//! Every pixel given to one ink, mixes included.
//!
//! ```text
//!   flat pixels        seeds: the nearest ink
//!   thin parts         never flat: seeds where no mix of the inks around explains the colour
//!   all others         grown from the seeds, likest pixel first
//! ```
//!
//! Growing lets only the inks *on its sides* have an edge pixel, those seeded within a few px, so
//! half way from red to white never becomes a rim of pink; and the likest pixel first means that
//! both sides of an edge meet where the pixel is half of each.
//! Source: Adams & Bischof 1994, "Seeded region growing" (IEEE Trans. PAMI 16(6) 641–647).

use std::sync::Arc;

use rayon::prelude::*;

use crate::inks::Rgb;
use crate::inks::flat::{CLEAR_CELL, Cells, Colour, NOT_FLAT, SAME_INK};
use crate::inks::mixes::{Place, Values, distance_sq, mix, place, place_of_ink};
use crate::inks::{difference, thin};
use crate::picture::Picture;
use crate::stop::{Stop, Stopped};

/// Not labelled yet.
pub(super) const OPEN: u8 = 255;

/// The picture to be labelled.
pub(super) struct Canvas<'a> {
    /// Premultiplied pixels.
    pub pixels: &'a [[u8; 4]],
    /// The same as luma and chroma, where the file stores those.
    pub stored: Option<&'a [[u8; 4]]>,
    /// Width, px.
    pub width: usize,
    /// Height, px.
    pub height: usize,
}

impl<'a> Canvas<'a> {
    /// An opaque picture, with what its file stores.
    pub(super) fn of(picture: &'a Picture, stored: Option<&'a Arc<Vec<[u8; 4]>>>) -> Self {
        Self {
            pixels: picture.pixels(),
            stored: stored.map(|s| s.as_slice()),
            width: picture.width() as usize,
            height: picture.height() as usize,
        }
    }

    /// The place of a pixel.
    pub(super) fn place(&self, i: usize) -> Place {
        match self.stored {
            Some(stored) => Values::Stored.place(stored[i]),
            None => place(self.pixels[i]),
        }
    }
}

/// Every pixel labelled.
pub(super) struct Labelled {
    /// Ink of every pixel.
    pub labels: Vec<u8>,
    /// How far flat pixels lie from their ink, root mean square, 0 to 255.
    pub scatter: f32,
}

/// Labels every pixel; adds inks that are found in thin parts only, up to `most` in all.
pub(super) fn label(
    canvas: &Canvas<'_>,
    cells: &Cells,
    colours: &mut Vec<Colour>,
    most: usize,
    noisy: bool,
    stop: &Stop,
) -> Result<Labelled, Stopped> {
    let mut labels = seeds(cells, colours);
    stop.check()?;
    let mut scatter = self::scatter(canvas, &labels, &places(colours));
    let mut open = Open::new(canvas, &labels, unlabelled(&labels), scatter);
    let flat = colours.len();
    while colours.len() < most {
        stop.check()?;
        let places = places(colours);
        let Some(found) = thin::missed_ink(canvas, &open, &places) else {
            break;
        };
        let known = |c: &Colour| !c.1 && difference(c.0, found) < 1.5 * SAME_INK;
        if colours.iter().any(known) {
            break;
        }
        colours.push((found, false));
    }
    if colours.len() > flat {
        // The middles of its thickest parts may be flat, and went to the inks known before.
        labels = seeds(cells, colours);
        scatter = self::scatter(canvas, &labels, &places(colours));
        open = Open::new(canvas, &labels, unlabelled(&labels), scatter);
    }
    let places = places(colours);
    if thin::seed(canvas, &mut labels, &open, &places, scatter, noisy) {
        open = Open::new(canvas, &labels, open.pixels, scatter);
    }
    stop.check()?;
    grow(canvas, &mut labels, &open, &places, stop)?;
    Ok(Labelled { labels, scatter })
}

/// Pixels that have no ink yet.
fn unlabelled(labels: &[u8]) -> Vec<u32> {
    let pixels = labels.par_iter().enumerate();
    let open = pixels.filter(|&(_, &l)| l == OPEN);
    open.map(|(i, _)| i as u32).collect()
}

/// The inks as places.
pub(super) fn places(colours: &[Colour]) -> Vec<Place> {
    colours
        .iter()
        .map(|&(c, clear)| place_of_ink(c, clear))
        .collect()
}

/// Number of the nearest ink, and its squared distance.
pub(super) fn nearest(p: Place, inks: &[Place]) -> (u8, f32) {
    let mut best = (0, f32::INFINITY);
    for (i, &ink) in inks.iter().enumerate() {
        let d = distance_sq(p, ink);
        if d < best.1 {
            best = (i as u8, d);
        }
    }
    best
}

/// Flat pixels take the ink nearest to their cell.
pub(super) fn seeds(cells: &Cells, colours: &[Colour]) -> Vec<u8> {
    let mut ink_of_cell = vec![OPEN; usize::from(CLEAR_CELL) + 1];
    let solid: Vec<(u8, Rgb)> = colours
        .iter()
        .enumerate()
        .filter(|(_, c)| !c.1)
        .map(|(i, c)| (i as u8, c.0))
        .collect();
    for (cell, colour) in cells.colours() {
        let d = |c: &(u8, Rgb)| difference(c.1, colour);
        if let Some(ink) = solid.iter().min_by(|a, b| d(a).total_cmp(&d(b))) {
            ink_of_cell[cell] = ink.0;
        }
    }
    if let Some(clear) = colours.iter().position(|c| c.1) {
        ink_of_cell[usize::from(CLEAR_CELL)] = clear as u8;
    }
    let own = |&cell: &u16| {
        if cell == NOT_FLAT {
            OPEN
        } else {
            ink_of_cell[usize::from(cell)]
        }
    };
    cells.of.par_iter().map(own).collect()
}

/// Pixels that are enough to tell how far they scatter, and how far off one counts at most.
const ENOUGH: usize = 200_000;
const FAR: f32 = 40.0;

/// How far flat pixels lie from their ink, root mean square.
fn scatter(canvas: &Canvas<'_>, labels: &[u8], inks: &[Place]) -> f32 {
    let step = (labels.len() / ENOUGH).max(1) | 1;
    let (mut sum, mut count) = (0.0f64, 0u32);
    for (i, &l) in labels.iter().enumerate().step_by(step) {
        if l != OPEN {
            sum += f64::from(distance_sq(canvas.place(i), inks[usize::from(l)]).min(FAR * FAR));
            count += 1;
        }
    }
    (sum / f64::from(count.max(1))).sqrt() as f32
}

/// How far a pixel looks for labelled neighbours, px.
const REACH: usize = 3;
/// The same where flat places scatter by so much, 0 to 255, and it finds only one ink so near:
/// compression leaves a wide rim that is not flat.
const SCATTERED: f32 = 0.4;
const FAR_REACH: usize = 8;

/// Rows that are looked at for the width of edges.
const EDGE_ROWS: usize = 300;
/// Widest edge that is told from a part of its own, px.
const WIDEST: usize = 16;

/// Typical width of what is not flat from one ink to another, px: more than a few where the picture
/// was blurred or enlarged.
fn edge_px(labels: &[u8], width: usize) -> usize {
    let mut counts = [0u32; WIDEST + 1];
    let step = (labels.len() / width / EDGE_ROWS).max(1);
    for row in labels.chunks(width).step_by(step) {
        let mut last = None;
        for (x, &l) in row.iter().enumerate() {
            if l == OPEN {
                continue;
            }
            if let Some((from, ink)) = last.replace((x, l))
                && ink != l
                && x - from - 1 <= WIDEST
            {
                counts[x - from - 1] += 1;
            }
        }
    }
    // Edges along the row look wide: the lower third tells.
    let (all, mut seen) = (counts.iter().sum::<u32>(), 0);
    let third = counts.iter().position(|&n| {
        seen += n;
        seen * 3 >= all
    });
    third.unwrap_or(0)
}

/// Pixels that are not in flat places, in reading order, with the inks seeded around each.
pub(super) struct Open {
    /// Index of every such pixel.
    pub pixels: Vec<u32>,
    /// Inks labelled within [`REACH`] of it, as bits.
    pub sides: Vec<u32>,
    /// Where every row begins in the two lists, and where the last ends.
    rows: Vec<usize>,
    width: usize,
}

impl Open {
    /// The inks seeded around each of `pixels`, farther away where flat places scatter.
    fn new(canvas: &Canvas<'_>, labels: &[u8], pixels: Vec<u32>, scatter: f32) -> Self {
        let (width, height) = (canvas.width, canvas.height);
        let seeded = |i: u32, reach: usize| {
            let (x, y) = (i as usize % width, i as usize / width);
            let (left, right) = (x.saturating_sub(reach), (x + reach + 1).min(width));
            let mut mask = 0u64;
            for yy in y.saturating_sub(reach)..(y + reach + 1).min(height) {
                for &l in &labels[yy * width + left..yy * width + right] {
                    mask |= 1 << (l & 63);
                }
            }
            // The bit of what is still open lies beyond those of the inks.
            mask as u32
        };
        let far = if scatter > SCATTERED {
            FAR_REACH
        } else {
            edge_px(labels, width).min(FAR_REACH)
        };
        // Where hardly anything is flat there is no rim, but noise.
        let rims = far > REACH && 2 * pixels.len() < labels.len();
        let sides = pixels
            .par_iter()
            .map(|&i| {
                let near = seeded(i, REACH);
                if rims && near.count_ones() == 1 {
                    seeded(i, far)
                } else {
                    near
                }
            })
            .collect();
        let rows = (0..=height)
            .map(|y| pixels.partition_point(|&i| (i as usize) < y * width))
            .collect();
        Self {
            pixels,
            sides,
            rows,
            width,
        }
    }

    /// Whether an ink may have a pixel.
    fn allows(&self, pixel: u32, ink: u8) -> bool {
        let y = pixel as usize / self.width;
        let row = self.rows[y]..self.rows[y + 1];
        self.pixels[row.clone()]
            .binary_search(&pixel)
            .is_ok_and(|n| {
                let sides = self.sides[row.start + n];
                sides == 0 || sides & bit(ink) != 0
            })
    }
}

/// The bit of an ink; there are at most 32.
pub(super) fn bit(ink: u8) -> u32 {
    1 << (ink & 31)
}

/// The inks whose bits are set.
pub(super) fn inks_of(mask: u32) -> impl Iterator<Item = u8> + Clone {
    (0..32).filter(move |&i| mask & bit(i) != 0)
}

/// Steps of likeness that are told apart while growing.
const STEPS: usize = 512;

/// Waiting pixels by likeness, the likest first, then the longest waiting.
struct Queue {
    steps: Vec<Vec<(u32, u8)>>,
    taken: Vec<usize>,
    from: usize,
}

impl Queue {
    fn new() -> Self {
        Self {
            steps: vec![Vec::new(); STEPS],
            taken: vec![0; STEPS],
            from: 0,
        }
    }

    fn push(&mut self, distance_sq: f32, pixel: u32, ink: u8) {
        let step = (distance_sq.sqrt() as usize).min(STEPS - 1);
        self.from = self.from.min(step);
        self.steps[step].push((pixel, ink));
    }

    fn pop(&mut self) -> Option<(u32, u8)> {
        while self.from < STEPS {
            let (step, taken) = (&mut self.steps[self.from], &mut self.taken[self.from]);
            if let Some(&next) = step.get(*taken) {
                *taken += 1;
                return Some(next);
            }
            step.clear();
            *taken = 0;
            self.from += 1;
        }
        None
    }
}

/// Grows the labelled regions over the open pixels.
fn grow(
    canvas: &Canvas<'_>,
    labels: &mut [u8],
    open: &Open,
    inks: &[Place],
    stop: &Stop,
) -> Result<(), Stopped> {
    let (w, h) = (canvas.width, canvas.height);
    let mut queue = Queue::new();
    let around = |i: usize| {
        let x = i % w;
        [
            (i >= w).then(|| i - w),
            (x > 0).then(|| i - 1),
            (x + 1 < w).then(|| i + 1),
            (i + w < w * h).then(|| i + w),
        ]
    };
    let away = |i: usize, ink: u8| distance_sq(canvas.place(i), inks[usize::from(ink)]);
    for &i in &open.pixels {
        let i = i as usize;
        if labels[i] != OPEN {
            continue;
        }
        let (mut near, mut n) = ([OPEN; 4], 0);
        for j in around(i).into_iter().flatten() {
            let l = labels[j];
            if l != OPEN && !near[..n].contains(&l) {
                near[n] = l;
                n += 1;
            }
        }
        near[..n].sort_unstable();
        for &l in near[..n].iter().filter(|&&l| open.allows(i as u32, l)) {
            queue.push(away(i, l), i as u32, l);
        }
    }
    let mut steps = 0u32;
    while let Some((pixel, ink)) = queue.pop() {
        let i = pixel as usize;
        if labels[i] != OPEN {
            continue;
        }
        steps = steps.wrapping_add(1);
        if steps.is_multiple_of(65_536) {
            stop.check()?;
        }
        labels[i] = ink;
        for j in around(i).into_iter().flatten() {
            if labels[j] == OPEN && open.allows(j as u32, ink) {
                queue.push(away(j, ink), j as u32, ink);
            }
        }
    }
    // No seed anywhere near: the nearest ink.
    for &i in &open.pixels {
        let i = i as usize;
        if labels[i] == OPEN {
            labels[i] = nearest(canvas.place(i), inks).0;
        }
    }
    Ok(())
}

/// Squared distance of a colour from the nearest mix of the inks whose bits are set.
pub(super) fn unexplained_sq(p: Place, inks: &[Place], around: u32) -> f32 {
    let mut best = f32::INFINITY;
    if around.count_ones() == 1 {
        return inks_of(around).fold(best, |_, i| distance_sq(p, inks[usize::from(i)]));
    }
    for i in inks_of(around) {
        // Only the inks after this one.
        for j in inks_of(around & !(bit(i) | (bit(i) - 1))) {
            best = best.min(mix(p, inks[usize::from(i)], inks[usize::from(j)]).1);
        }
    }
    best
}
