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

use rayon::prelude::*;

use crate::inks::Rgb;
use crate::inks::canvas::{Canvas, OPEN, Open};
use crate::inks::flat::{CLEAR_CELL, Cells, Colour, NOT_FLAT, SAME_INK};
use crate::inks::mixes::{Tint, distance_sq, place_of_ink};
use crate::inks::{difference, thin};
use crate::stop::{Stop, Stopped};

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
pub(super) fn places(colours: &[Colour]) -> Vec<Tint> {
    colours
        .iter()
        .map(|&(c, clear)| place_of_ink(c, clear))
        .collect()
}

/// Number of the nearest ink, and its squared distance.
pub(super) fn nearest(p: Tint, inks: &[Tint]) -> (u8, f32) {
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
    let tally = |&cell: &u16| {
        if cell == NOT_FLAT {
            OPEN
        } else {
            ink_of_cell[usize::from(cell)]
        }
    };
    cells.of.par_iter().map(tally).collect()
}

/// Pixels that are enough to tell how far they scatter, and how far off one counts at most.
const ENOUGH: usize = 200_000;
const FAR: f32 = 40.0;

/// How far flat pixels lie from their ink, root mean square.
fn scatter(canvas: &Canvas<'_>, labels: &[u8], inks: &[Tint]) -> f32 {
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
    inks: &[Tint],
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
