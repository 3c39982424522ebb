//! Open: where several inks meet, and how much of each every fine step holds there.
//!
//! ```text
//!   a row of pixels   r r r │ r/w  r/w │ r/w/b  r/w/b │ w w w      inks around each
//!                     whole   a stretch     another     whole
//! ```
//!
//! Only stretches of a row with the same inks around them have covers of their own, for these inks
//! only; a pixel elsewhere is wholly the one ink around it.

use std::ops::Range;

use rayon::prelude::*;

use crate::fine::plane::Plane;
use crate::fine::rest::LONGEST;
use crate::fine::seam::add_areas;

/// Pixels around a place whose inks may have a cover there.
const AROUND: usize = 2;
/// An ink of which a step holds more than this is there.
const HELD: f32 = 0.25;

/// What a fine step holds to begin with: a part of one ink, the rest of another.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Cover {
    /// One ink.
    pub ink: u8,
    /// The other; may be the same.
    pub other: u8,
    /// Part of the first, 0 to 1.
    pub part: f32,
}

impl Cover {
    /// All of one ink.
    pub(crate) fn whole(ink: u8) -> Self {
        Self {
            ink,
            other: ink,
            part: 1.0,
        }
    }
}

/// A stretch of a row of pixels with several inks around it.
pub(super) struct Open {
    /// The pixels of the row, and its fine steps along it.
    pub pixels: Range<usize>,
    pub steps: Range<usize>,
    /// The inks around them, also as bits.
    pub inks: Vec<usize>,
    around: u32,
    /// Where the covers of the stretch begin in those of its row.
    from: usize,
}

impl Open {
    /// How many of its inks come before this one; `None` where it is not around.
    fn place(&self, ink: usize) -> Option<usize> {
        let before = (1 << ink) - 1;
        (self.around >> ink & 1 == 1).then(|| (self.around & before).count_ones() as usize)
    }

    /// Where the parts of the ink at this place lie in the covers of its row: those of the fine row
    /// `inner` of the pixels.
    pub(super) fn part(&self, place: usize, inner: usize) -> Range<usize> {
        let scale = self.steps.len() / self.pixels.len();
        let from = self.from + (place * scale + inner) * self.steps.len();
        from..from + self.steps.len()
    }
}

/// Where which inks are.
pub(super) struct Layout {
    /// Pixels across and down, fine steps in one, and inks.
    width: usize,
    height: usize,
    scale: usize,
    inks: usize,
    /// For every pixel the inks around it, as bits.
    pub around: Vec<u32>,
    /// For every row its stretches from the left.
    pub rows: Vec<Vec<Open>>,
}

/// A fine row, and a stretch of it from which on is looked.
#[derive(Clone, Copy)]
pub(super) struct Near {
    pub fine: usize,
    pub first: usize,
}

/// Covers by a [`Layout`]: for every row of pixels those of its stretches, 0 to 1.
pub(super) type Rows = Vec<Vec<f32>>;

impl Layout {
    /// The layout of covers to begin with, one for every fine step.
    pub(super) fn of(begin: &[Cover], (w, h): (usize, usize), scale: usize, inks: usize) -> Self {
        let bits_of: Vec<u32> = (0..w * h)
            .into_par_iter()
            .map(|i| {
                let (x, y) = (i % w * scale, i / w * scale);
                let rows = y..y + scale;
                rows.flat_map(|y| &begin[y * w * scale + x..][..scale])
                    .fold(0, |bits, c| {
                        let held = |ink: u8, part: f32| u32::from(part > HELD) << (ink & 31);
                        bits | held(c.ink, c.part) | held(c.other, 1.0 - c.part)
                    })
            })
            .collect();
        let around: Vec<u32> = (0..w * h)
            .into_par_iter()
            .map(|i| {
                let (x, y) = (i % w, i / w);
                let columns = x.saturating_sub(AROUND)..(x + AROUND + 1).min(w);
                let rows = y.saturating_sub(AROUND)..(y + AROUND + 1).min(h);
                rows.flat_map(|y| &bits_of[y * w + columns.start..y * w + columns.end])
                    .fold(0, |bits, bit| bits | bit)
            })
            .collect();
        let rows = around.par_chunks(w).map(|row| stretches(row, scale));
        Self {
            width: w,
            height: h,
            scale,
            inks,
            rows: rows.collect(),
            around,
        }
    }

    /// Covers to begin with, `part` telling how much of its first ink a step holds.
    pub(super) fn covers(&self, begin: &[Cover], part: impl Fn(&Cover) -> f32 + Sync) -> Rows {
        let width = self.width * self.scale;
        let row = |(y, row): (usize, &Vec<Open>)| {
            let all: usize = row.iter().map(|o| o.inks.len() * o.steps.len()).sum();
            let mut covers = vec![0.0; all * self.scale];
            for open in row {
                for inner in 0..self.scale {
                    let line = &begin[(y * self.scale + inner) * width..][open.steps.clone()];
                    let place = |ink: u8| open.place(usize::from(ink));
                    for (x, cover) in line.iter().enumerate() {
                        // A step holds only inks that may be there; both may be the same.
                        let (at_ink, other) = (place(cover.ink), place(cover.other));
                        let part = match (at_ink, other) {
                            (Some(_), Some(_)) => part(cover),
                            (at_ink, _) => f32::from(u8::from(at_ink.is_some())),
                        };
                        for (ink, part) in [(at_ink, part), (other, 1.0 - part)] {
                            if let Some(ink) = ink {
                                covers[open.part(ink, inner).start + x] += part;
                            }
                        }
                    }
                }
            }
            covers
        };
        self.rows.par_iter().enumerate().map(row).collect()
    }

    /// Where the stretches of a fine row begin that do not end before this step.
    pub(super) fn first(&self, fine: usize, step: usize) -> Near {
        let row = &self.rows[fine / self.scale];
        Near {
            fine,
            first: row.partition_point(|o| o.steps.end <= step),
        }
    }

    /// How much of an ink each of these steps of a fine row holds.
    pub(super) fn line(
        &self,
        covers: &Rows,
        ink: usize,
        Near { fine, first }: Near,
        steps: Range<usize>,
        out: &mut [f32],
    ) {
        let (y, inner) = (fine / self.scale, fine % self.scale);
        let row = &self.rows[y];
        let mut at = steps.start;
        let places = |range: Range<usize>| range.start - steps.start..range.end - steps.start;
        let near = row[first..]
            .iter()
            .skip_while(|o| o.steps.end <= steps.start);
        for open in near.take_while(|o| o.steps.start < steps.end) {
            let shared = open.steps.start.max(at)..open.steps.end.min(steps.end);
            self.whole(ink, y, at..shared.start, &mut out[places(at..shared.start)]);
            at = shared.end;
            let out = &mut out[places(shared.clone())];
            match open.place(ink) {
                Some(place) => {
                    let from = open.part(place, inner).start + shared.start - open.steps.start;
                    out.copy_from_slice(&covers[y][from..from + shared.len()]);
                }
                None => out.fill(0.0),
            }
        }
        self.whole(ink, y, at..steps.end, &mut out[places(at..steps.end)]);
    }

    /// The same where there is one ink only.
    fn whole(&self, ink: usize, y: usize, steps: Range<usize>, out: &mut [f32]) {
        let around = &self.around[y * self.width..];
        for (x, to) in steps.zip(out) {
            *to = f32::from(u8::from(around[x / self.scale] == 1 << ink));
        }
    }

    /// The area of every ink in every pixel.
    pub(super) fn areas(&self, covers: &Rows) -> Vec<Plane> {
        let part = 1.0 / (self.scale * self.scale) as f32;
        let of = |ink: usize| {
            let mut area = Plane::filled(self.width, self.height, 0.0);
            let rows = area.values.par_chunks_mut(self.width).enumerate();
            rows.for_each(|(y, area)| {
                let whole = &self.around[y * self.width..];
                for (area, whole) in area.iter_mut().zip(whole) {
                    *area = f32::from(u8::from(*whole == 1 << ink));
                }
                for open in &self.rows[y] {
                    if let Some(place) = open.place(ink) {
                        for inner in 0..self.scale {
                            let line = &covers[y][open.part(place, inner)];
                            add_areas(&mut area[open.pixels.clone()], line, self.scale, part);
                        }
                    }
                }
            });
            area
        };
        (0..self.inks).map(of).collect()
    }
}

/// The stretches of a row of pixels with the same inks around them, several.
fn stretches(row: &[u32], scale: usize) -> Vec<Open> {
    let (mut at, mut from) = (0, 0);
    let mut found = Vec::new();
    for alike in row
        .chunk_by(|a, b| a == b)
        .flat_map(|all| all.chunks(LONGEST))
    {
        let pixels = at..at + alike.len();
        at = pixels.end;
        let inks: Vec<usize> = (0..32).filter(|k| alike[0] >> k & 1 == 1).collect();
        if inks.len() > 1 {
            let size = inks.len() * pixels.len() * scale * scale;
            found.push(Open {
                steps: pixels.start * scale..pixels.end * scale,
                pixels,
                inks,
                around: alike[0],
                from,
            });
            from += size;
        }
    }
    found
}
