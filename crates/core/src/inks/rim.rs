//! Rim: of a solid shape only a band along its edge, or the shape pulled in by a width.
//!
//! ```text
//!   tone ──iso-line──► distance of every pixel from the edge, + inside ──► a new tone whose
//!   edge lies where the distance is the width:      ▁▂▄█████▄▂▁  ──►  ▁▂▄▂▁▁▁▂▄▂▁
//! ```
//!
//! Distances are those to the sub-pixel edge: the nearest cell of it is found by [lower envelopes](Envelope),
//! then the nearest of the pieces of edge in and around that cell.

use kurbo::{Line, ParamCurveNearest, Point};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};

use crate::envelope::Envelope;
use crate::inks::{EdgeField, Solid};
use crate::stop::{Stop, Stopped};
use crate::units::Mm;

/// What is left of a shape.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum RimKind {
    /// A band along the edge, inside it.
    Band,
    /// All but that band.
    PulledIn,
}

/// A rim asked for.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Rim {
    /// What is left.
    pub kind: RimKind,
    /// Width of the band, mm of the piece.
    pub width: Mm,
}

/// No cell of the edge.
const NONE: u32 = u32::MAX;
/// Grey levels for each px of distance in the new tone: two px to each side of the edge.
const LEVELS: f64 = 60.0;

/// How wrong a rough distance may be, px: half a diagonal for the cell's middle, and as much for the piece in it.
const ROUGH: f64 = 1.5;

/// Applies a rim of a width in px to one tone; several inks stay as they are. A draft looks at the
/// nearest cell of the edge alone, which errs by a part of a pixel at corners.
pub(super) fn apply(
    solid: &mut Solid,
    (kind, width): (RimKind, f64),
    draft: bool,
    stop: &Stop,
) -> Result<(), Stopped> {
    let (w, h) = (solid.width as usize, solid.height as usize);
    let EdgeField::Tone {
        tone, threshold, ..
    } = &solid.field
    else {
        return Ok(());
    };
    // The inks are numbered by share: ink is the darker one.
    let ink = u8::from(solid.inks[0].colour > solid.inks[1].colour);
    let edge = Edge {
        tone,
        threshold: f64::from(*threshold),
        w,
        h,
    };
    let nearest = edge.nearest_cells();
    stop.check()?;
    let values: Vec<u8> = (0..w * h)
        .into_par_iter()
        .map(|i| {
            let inside = solid.labels[i] == ink;
            let kept = |away: f64| {
                let depth = if inside { away } else { -away };
                match kind {
                    RimKind::PulledIn => depth - width,
                    RimKind::Band => depth.min(width - depth),
                }
            };
            // Far from every edge of the rim a rough distance gives the same tone.
            let rough = kept(edge.rough(i, nearest[i]));
            let kept = if rough.abs() > ROUGH + 127.5 / LEVELS {
                rough
            } else {
                kept(edge.distance(i, &nearest, if draft { 0 } else { 2 }))
            };
            (127.5 - LEVELS * kept).round().clamp(0.0, 255.0) as u8
        })
        .collect();
    stop.check()?;
    solid
        .labels
        .par_iter_mut()
        .zip(&values)
        .for_each(|(l, &v)| {
            *l = if v < 128 { ink } else { 1 - ink };
        });
    solid.field = EdgeField::Tone {
        tone: values,
        threshold: 127.5,
        levels: None,
    };
    Ok(())
}

/// The sub-pixel edge of a tone; cell (x, y) lies between the centres of pixels (x, y) and
/// (x + 1, y + 1).
struct Edge<'a> {
    tone: &'a [u8],
    threshold: f64,
    w: usize,
    h: usize,
}

impl Edge<'_> {
    fn value(&self, x: usize, y: usize) -> f64 {
        f64::from(self.tone[y * self.w + x]) - self.threshold
    }

    /// The pieces of edge in a cell, px.
    fn pieces(&self, x: usize, y: usize) -> impl Iterator<Item = Line> + use<> {
        let corners = [(x, y), (x + 1, y), (x + 1, y + 1), (x, y + 1)];
        let mut crossings = [Point::ZERO; 4];
        let mut n = 0;
        for k in 0..4 {
            let (a, b) = (corners[k], corners[(k + 1) % 4]);
            let (va, vb) = (self.value(a.0, a.1), self.value(b.0, b.1));
            if (va < 0.0) != (vb < 0.0) {
                let t = va / (va - vb);
                let place = |a: usize, b: usize| a as f64 + (b as f64 - a as f64) * t + 0.5;
                crossings[n] = Point::new(place(a.0, b.0), place(a.1, b.1));
                n += 1;
            }
        }
        (0..n / 2).map(move |k| Line::new(crossings[2 * k], crossings[2 * k + 1]))
    }

    /// Number of the nearest cell with edge for the cell at every pixel; [`NONE`] without any.
    fn nearest_cells(&self) -> Vec<u32> {
        let (w, h) = (self.w, self.h);
        let has = |x: usize, y: usize| {
            if x + 1 >= w || y + 1 >= h {
                return false;
            }
            let first = self.value(x, y) < 0.0;
            [(x + 1, y), (x, y + 1), (x + 1, y + 1)]
                .iter()
                .any(|&(x, y)| (self.value(x, y) < 0.0) != first)
        };
        // Down and up the columns: the row of the nearest cell.
        let mut row_of = vec![NONE; w * h];
        for y in 0..h {
            for x in 0..w {
                let i = y * w + x;
                row_of[i] = if has(x, y) {
                    y as u32
                } else if y > 0 {
                    row_of[i - w]
                } else {
                    NONE
                };
            }
        }
        for y in (0..h.saturating_sub(1)).rev() {
            for x in 0..w {
                let (i, below) = (y * w + x, row_of[(y + 1) * w + x]);
                let away = |row: u32| (row != NONE).then(|| row.abs_diff(y as u32));
                let farther = match (away(row_of[i]), away(below)) {
                    (Some(own), Some(other)) => other < own,
                    (None, Some(_)) => true,
                    _ => false,
                };
                if farther {
                    row_of[i] = below;
                }
            }
        }
        // Along every row: the lower envelope of the columns' parabolas.
        let mut cells = vec![NONE; w * h];
        cells.par_chunks_mut(w).enumerate().for_each(|(y, out)| {
            let rows = &row_of[y * w..(y + 1) * w];
            let height = |x: usize| {
                let off = |row: u32| f64::from(row.abs_diff(y as u32)).powi(2);
                (rows[x] != NONE).then(|| off(rows[x]))
            };
            let envelope = Envelope::of(w, height);
            for (cell, root) in out.iter_mut().zip(envelope.lowest()) {
                *cell = rows[root] * w as u32 + root as u32;
            }
        });
        cells
    }

    /// Distance of a pixel from its nearest cell with edge, px.
    fn rough(&self, pixel: usize, cell: u32) -> f64 {
        if cell == NONE {
            return f64::INFINITY;
        }
        let cell = cell as usize;
        let off = |a: usize, b: usize| a.abs_diff(b) as f64;
        off(pixel % self.w, cell % self.w).hypot(off(pixel / self.w, cell / self.w))
    }

    /// Distance of a pixel's centre from the edge in so many cells around the nearest one, px.
    fn distance(&self, pixel: usize, nearest: &[u32], around: usize) -> f64 {
        let cell = nearest[pixel];
        if cell == NONE {
            return f64::INFINITY;
        }
        let (cx, cy) = (cell as usize % self.w, cell as usize / self.w);
        let p = Point::new((pixel % self.w) as f64 + 0.5, (pixel / self.w) as f64 + 0.5);
        let mut best = f64::INFINITY;
        for y in cy.saturating_sub(around)..(cy + around + 1).min(self.h.saturating_sub(1)) {
            for x in cx.saturating_sub(around)..(cx + around + 1).min(self.w.saturating_sub(1)) {
                // A cell that is its own nearest has edge.
                let i = y * self.w + x;
                if nearest[i] as usize != i {
                    continue;
                }
                for piece in self.pieces(x, y) {
                    best = best.min(piece.nearest(p, 1e-6).distance_sq);
                }
            }
        }
        best.sqrt()
    }
}
