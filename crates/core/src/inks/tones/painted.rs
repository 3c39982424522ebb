//! Tones painted as flat greys whose blurred edges say where the outlines run.

use std::sync::Arc;

use rayon::prelude::*;

use crate::fine::Plane;
use crate::inks::counted::counted;
use crate::inks::flat::Colour;
use crate::inks::mixes::{Mixes, Values};
use crate::inks::{EdgeField, Ink, InkReason, Rgb, Solid, label, softness};

/// By which edges are blurred, steps.
const EDGE: f64 = 1.2;
/// Grey of the lightest tone and of the darkest.
const GREYS: [f64; 2] = [236.0, 28.0];

/// The grey that stands for a tone, counted from the lightest: equally far apart, so that it is the same ink however
/// the levels are moved.
#[must_use]
pub fn grey(tone: usize, of: usize) -> Rgb {
    let t = tone as f64 / (of.max(2) - 1) as f64;
    let v = GREYS[0] + (GREYS[1] - GREYS[0]) * t;
    Rgb([v.round() as u8; 3])
}

/// Tones painted flat, with blurred edges.
pub(super) struct Painted {
    size: (usize, usize),
    labels: Vec<u8>,
    pixels: Vec<[u8; 4]>,
    /// From the lightest; what is clear comes last.
    inks: Vec<Colour>,
    reason: InkReason,
}

/// So many tones, by how many of the masks hold each place.
pub(super) fn painted(
    depth: &[u8],
    (width, height): (usize, usize),
    count: usize,
    reason: InkReason,
) -> Painted {
    // A silhouette has the darkest of two.
    let colour = |d: usize| {
        if count == 1 {
            grey(1, 2)
        } else {
            grey(d - 1, count)
        }
    };
    let plane = |value: &(dyn Fn(u8) -> f32 + Sync)| {
        let values = depth.par_iter().map(|&d| value(d)).collect();
        let plane = Plane {
            width,
            height,
            values,
        };
        plane.blurred(EDGE).values
    };
    let has_clear = depth.contains(&0);
    let greys = plane(&|d| {
        if d == 0 {
            0.0
        } else {
            f32::from(colour(usize::from(d)).0[0])
        }
    });
    let alpha = if has_clear {
        plane(&|d| if d == 0 { 0.0 } else { 255.0 })
    } else {
        vec![255.0; depth.len()]
    };
    let byte = |v: f32| v.round().clamp(0.0, 255.0) as u8;
    let pixel = |(&grey, &alpha): (&f32, &f32)| [byte(grey), byte(grey), byte(grey), byte(alpha)];
    let pixels = greys.par_iter().zip(&alpha).map(pixel).collect();
    let mut inks: Vec<Colour> = (1..=count).map(|d| (colour(d), false)).collect();
    if has_clear {
        inks.push((Rgb::WHITE, true));
    }
    let label = |&d: &u8| d.checked_sub(1).unwrap_or(count as u8);
    Painted {
        size: (width, height),
        labels: depth.par_iter().map(label).collect(),
        pixels,
        inks,
        reason,
    }
}

impl Painted {
    /// As a solid picture.
    pub(super) fn of(self, picture_px: (u32, u32)) -> Solid {
        let counted = counted(&self.labels, self.size);
        let field = EdgeField::Colours {
            pixels: Arc::new(self.pixels),
            mixes: Mixes::new(&label::places(&self.inks), Values::Premultiplied),
        };
        let ink = |(n, &(colour, clear)): (usize, &Colour)| Ink {
            colour,
            clear,
            enclosed: false,
            tone: (!clear).then_some(n as u8),
            share: counted.all[n] as f64 / self.labels.len() as f64,
            border_px: counted.border[n],
        };
        let edges = softness::edges(self.size.0, &self.labels, &field);
        let inks = self.inks.iter().enumerate().map(ink).collect();
        Solid {
            softness: edges.share,
            edge_width: edges.width,
            ..Solid::made(self.size, picture_px, self.labels, inks, field, self.reason)
        }
    }
}
