//! Apart: what lies on the table, told from the table by its colour, as one dark shape for the tracer.
//!
//! ```text
//!   photograph ──off the table's own colour, place by place──► grey ──the sheet painted out──► traced
//! ```
//!
//! Half way between table and piece is where the edge lies: how far a blurred edge's colour is off the table's grows
//! evenly from the one to the other.

use crate::clean::ground::Ground;
use crate::clean::square::{Quad, holds};
use crate::otsu::otsu;
use crate::picture::Picture;
use kurbo::Point;

/// What is nearer to the table's colour than this, 0 to 255, is told from it by nothing.
const LEAST: usize = 22;
/// The sheet is painted out as far past its sides as this part of them: its shadow and the blur of its edge.
const PAST: f64 = 0.012;
/// Around it is looked at as far as this part of its sides.
const AROUND: f64 = 0.05;
/// Of what lies around the sheet so much has to be the same.
const SAME: f64 = 0.9;

/// What became of a photograph.
pub(super) enum Apart {
    /// The piece dark on white.
    Piece(Picture),
    /// Nothing differs from the table but the sheet.
    Nothing,
    /// The sheet lies across an edge.
    Across,
}

/// What differs from the table; the sheet counts as what it lies on.
pub(super) fn apart(picture: &Picture, sheet: Quad) -> Apart {
    let w = picture.width() as usize;
    let ground = Ground::of(picture);
    let mut off: Vec<u8> = picture
        .pixels()
        .iter()
        .enumerate()
        .map(|(i, p)| length(ground.at(i % w, i / w), *p))
        .collect();
    let (near, around) = (grown(sheet, PAST), grown(sheet, AROUND));
    let place = |i: usize| Point::new((i % w) as f64 + 0.5, (i / w) as f64 + 0.5);
    let mut counts = [0u64; 256];
    let mut beside = [0u64; 256];
    for (i, &v) in off.iter().enumerate() {
        if !holds(near, place(i)) {
            counts[usize::from(v)] += 1;
            if holds(around, place(i)) {
                beside[usize::from(v)] += 1;
            }
        }
    }
    let Some(level) = otsu(&counts).map(usize::from) else {
        return Apart::Nothing;
    };
    let piece = median(&counts[level + 1..]).map_or(0, |v| v + level + 1);
    let table = median(&counts[..=level]).unwrap_or(0);
    if piece < table + LEAST {
        return Apart::Nothing;
    }
    let half = usize::midpoint(piece, table);
    let all: u64 = beside.iter().sum();
    let on_piece = beside[half..].iter().sum::<u64>() as f64 / all.max(1) as f64;
    if (1.0 - SAME..SAME).contains(&on_piece) {
        return Apart::Across;
    }
    let filled = if on_piece > 0.5 { piece } else { table } as u8;
    for (i, v) in off.iter_mut().enumerate() {
        if holds(near, place(i)) {
            *v = filled;
        }
    }
    let grey = |v: u8| {
        let part = (f64::from(v) - table as f64) / (piece - table) as f64;
        let tone = (255.0 * (1.0 - part.clamp(0.0, 1.0))).round() as u8;
        [tone, tone, tone, 255]
    };
    let grey = off.into_iter().map(grey).collect();
    match Picture::new(picture.width(), picture.height(), grey) {
        Ok(picture) => Apart::Piece(picture),
        Err(_) => Apart::Nothing,
    }
}

/// How far two colours lie from each other, 0 to 255.
fn length(a: [u8; 4], b: [u8; 4]) -> u8 {
    let square: f32 = (0..3).map(|c| f32::from(a[c].abs_diff(b[c])).powi(2)).sum();
    (square / 3.0).sqrt().round() as u8
}

/// The value below which half of what was counted lies.
fn median(counts: &[u64]) -> Option<usize> {
    let all: u64 = counts.iter().sum();
    let mut below = 0;
    counts.iter().position(|n| {
        below += n;
        all > 0 && below * 2 >= all
    })
}

/// Corners moved away from their middle by a part of how far they are from it.
fn grown(corners: Quad, by: f64) -> Quad {
    let sum = corners
        .iter()
        .fold(kurbo::Vec2::ZERO, |sum, p| sum + p.to_vec2());
    let middle = (sum / 4.0).to_point();
    // A side lies about 0.7 of that away.
    corners.map(|p| p + (p - middle) * (by * 2.0))
}
