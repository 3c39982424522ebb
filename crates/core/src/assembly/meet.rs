//! How layers meet: the lower one grows under the upper, never the upper.
//!
//! ```text
//!   flush     overlap, margin m      stacked
//!   ▓▓│░░     ▓▓▓│░░  ▓ reaches      ▓▓▓▓▓  ▓ goes on under all of ░ that
//!             ──►├m┤  under ░         ░░    lies in it, else as overlap
//! ```
//!
//! Tones that are stacked lie one within the other: the lower one goes on under all of the darker ones, wherever these
//! reach.

use kurbo::{Point, Rect, Shape as _};
use rayon::prelude::*;

use super::Layer;
use crate::inks::Rgb;
use crate::layers::{LayerChoice, Meet};
use crate::offset::{self, Join};
use crate::overlay::{self, Keep, Rings};
use crate::shapes::{Ring, Shape};

/// A layer after it met those above it.
#[derive(Debug, Default)]
pub(super) struct Met {
    /// Its shapes, where they changed.
    pub(super) shapes: Option<Vec<Shape>>,
    /// What was added.
    pub(super) under: Vec<Rings>,
}

/// What layer `n` becomes where others lie over it.
pub(super) fn met(layers: &[Layer], n: usize, choice: &LayerChoice) -> Met {
    let lower = &layers[n];
    if !lower.lies() || lower.shapes.is_empty() {
        return Met::default();
    }
    let mut under: Vec<Rings> = Vec::new();
    for (meet, margin, uppers) in groups(layers, n, choice) {
        if meet == Meet::Stacked && lower.tone.is_some() {
            let darker = uppers.iter().filter(|&&u| layers[u].tone.is_some());
            let whole = darker.flat_map(|&u| layers[u].shapes.iter().map(as_rings));
            under.extend(whole);
        }
        let is_tone = |u: &&usize| lower.tone.is_some() && layers[**u].tone.is_some();
        let others = uppers
            .iter()
            .filter(|u| meet != Meet::Stacked || !is_tone(u));
        let above: Vec<&Ring> = others.flat_map(|&u| layers[u].rings()).collect();
        if above.is_empty() {
            continue;
        }
        if meet == Meet::Stacked {
            let outlines: Vec<&Ring> = lower.shapes.iter().map(|s| &s.outer).collect();
            under.extend(overlay::overlay(&outlines, &above, Keep::Both));
        }
        let rings: Vec<&Ring> = lower.rings().collect();
        let grown = offset::offset(&rings, margin, Join::Round);
        let grown: Vec<&Ring> = grown.iter().flat_map(Rings::all).collect();
        under.extend(overlay::overlay(&grown, &above, Keep::Both));
    }
    if under.is_empty() {
        return Met::default();
    }
    let added: Vec<&Ring> = under.iter().flat_map(Rings::all).collect();
    let rings: Vec<&Ring> = lower.rings().collect();
    let whole = overlay::overlay(&rings, &added, Keep::Union);
    let found = whole.len();
    if lower.tone.is_some() {
        return Met {
            shapes: Some(super::shapes(lower.ink, whole)),
            under,
        };
    }
    // What it would reach only across a gap does not hang together with it.
    let starts: Vec<Point> = lower.shapes.iter().map(|s| s.outer.beside()).collect();
    let whole = holding(whole, &starts);
    if whole.len() < found {
        let parts: Vec<Point> = under.iter().map(|r| r.outer.beside()).collect();
        let inside: Vec<bool> = covered(&whole, &parts);
        let mut inside = inside.into_iter();
        under.retain(|_| inside.next().unwrap_or(false));
    }
    Met {
        shapes: Some(super::shapes(lower.ink, whole)),
        under,
    }
}

fn as_rings(shape: &Shape) -> Rings {
    Rings {
        outer: shape.outer.clone(),
        holes: shape.holes.clone(),
    }
}

/// The shapes that hold any of some places.
fn holding(shapes: Vec<Rings>, places: &[Point]) -> Vec<Rings> {
    let holds = |shape: &Rings| {
        let around = shape.outer.bounds();
        let mut near = places.iter().filter(|p| around.contains(**p));
        near.any(|&p| covers(shape, p))
    };
    shapes.into_par_iter().filter(holds).collect()
}

/// Of each place, whether any shape holds it.
fn covered(shapes: &[Rings], places: &[Point]) -> Vec<bool> {
    let boxes: Vec<Rect> = shapes.iter().map(|s| s.outer.bounds()).collect();
    let held = |&p: &Point| {
        let mut near = shapes.iter().zip(&boxes).filter(|(_, b)| b.contains(p));
        near.any(|(shape, _)| covers(shape, p))
    };
    places.par_iter().map(held).collect()
}

fn covers(shape: &Rings, p: Point) -> bool {
    shape.all().map(|r| r.path().winding(p)).sum::<i32>() != 0
}

/// The layers above one, by how they are met.
fn groups(layers: &[Layer], n: usize, choice: &LayerChoice) -> Vec<(Meet, f64, Vec<usize>)> {
    let mut groups: Vec<(Meet, f64, Vec<usize>)> = Vec::new();
    for (upper, layer) in layers.iter().enumerate().skip(n + 1) {
        if !layer.lies() {
            continue;
        }
        let ends: [Rgb; 2] = [layers[n].colour, layer.colour];
        let (meet, margin) = choice.meets(ends[0], ends[1]);
        if meet == Meet::Flush {
            continue;
        }
        let same = |g: &&mut (Meet, f64, Vec<usize>)| g.0 == meet && (g.1 - margin).abs() < 1e-9;
        match groups.iter_mut().find(same) {
            Some(group) => group.2.push(upper),
            None => groups.push((meet, margin, vec![upper])),
        }
    }
    groups
}
