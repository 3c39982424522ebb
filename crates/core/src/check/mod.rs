//! Checks: whether a design can be cut, seen on the geometry as it will be cut.
//!
//! ```text
//!   Built ──each layer──► chords ──► widths, gaps, crossings, doubled lines ┐
//!     └──── all layers, the stock ──► seams, size, place, mirroring ────────┴──► findings, the worst first
//! ```
//!
//! In: [`Built`] layers and the [`LayerChoice`] that they were made with. Every [`Finding`] has a
//! place, a figure and the limit of the material that it breaks; what can be done about it is in
//! [`remedy`].

mod chords;
mod finding;
mod kind;
mod lines;
mod odd;
mod parts;
mod region;
pub mod remedy;
mod remedy_kind;
mod weeding;
mod whole;
pub mod width;

use kurbo::Point;
use rayon::prelude::*;

use crate::assembly::{Built, Layer};
use crate::layers::LayerChoice;
use crate::shapes::{Ring, Shape};

pub use finding::{Finding, Measure};
pub use kind::{Kind, Severity};
pub use remedy_kind::Remedy;
pub use weeding::{Weeding, weeding};
pub use whole::{box_on_stock, inside, place, to_fit, told};
use width::{Narrow, Side};

/// Greatest number of findings of one kind on one layer.
const MOST: usize = 200;

/// Holds layers against what their materials, the stock and the trade ask for. The worst come first.
#[must_use]
pub fn check(built: &Built, choice: &LayerChoice) -> Vec<Finding> {
    let layers = built.layers.par_iter().enumerate();
    let (by_layer, mut found) = rayon::join(
        || -> Vec<Vec<Finding>> { layers.map(|(n, layer)| of_layer(layer, n)).collect() },
        || of_all(built, choice),
    );
    found.extend(by_layer.into_iter().flatten());
    found.sort_by_key(|f| (f.severity(), f.kind, f.layer));
    found
}

/// What concerns all layers together.
fn of_all(built: &Built, choice: &LayerChoice) -> Vec<Finding> {
    let mut found = Vec::new();
    whole::empty(built, &mut found);
    whole::on_stock(built, choice, &mut found);
    whole::mirrored(built, choice, &mut found);
    whole::seams(built, &mut found);
    whole::hidden(built, &mut found);
    whole::unregistered(built, choice, &mut found);
    found
}

/// Whether nothing stands in the way.
#[must_use]
pub fn ok(findings: &[Finding]) -> bool {
    findings.iter().all(|f| f.severity() == Severity::Note)
}

fn of_layer(layer: &Layer, number: usize) -> Vec<Finding> {
    let mut found = Vec::new();
    if !layer.cut || layer.is_empty() {
        return found;
    }
    if layer.stones.is_some() {
        webs(layer, number, &mut found);
        return found;
    }
    parts::over_noded(layer, number, &mut found);
    if !layer.operation.cuts() {
        return found;
    }
    open(layer, number, &mut found);
    parts::small(layer, number, &mut found);
    parts::islands(layer, number, &mut found);
    parts::spikes(layer, number, &mut found);
    many(layer, number, &mut found);
    let limits = &layer.material.limits;
    // As fine as the finer of both limits asks for.
    let finer = limits.stroke.min(limits.gap).max(0.05);
    let wide = limits.stroke.max(limits.gap).max(0.05);
    let chords = chords::Chords::of(layer.rings(), finer / 3.0);
    crossed(layer, number, &chords, &mut found);
    let crossings = found.iter();
    let crossings: Vec<Point> = crossings
        .filter(|f| matches!(f.kind, Kind::SelfCrossing | Kind::Crossing))
        .map(|f| f.at)
        .collect();
    // Where lines cross it is as thin as nothing, which need not be told too.
    let crosses = |n: &Narrow| crossings.iter().any(|c| c.distance(n.at) < 2.0 * wide);
    for (kind, side, limit) in [
        (Kind::Thin, Side::Inside, limits.stroke),
        (Kind::Gap, Side::Outside, limits.gap),
    ] {
        if limit <= 0.0 {
            continue;
        }
        // Far greater than the other, it has chords of its own: many small ones would be looked at.
        let apart = (limit > 4.0 * finer).then(|| width::chords_for(layer.rings(), limit));
        let chords = apart.as_ref().unwrap_or(&chords);
        let places = width::places(chords, side, limit, limits.corner);
        let told = places
            .into_iter()
            .filter(|n| !n.tapers && !tiny(layer, n) && !crosses(n));
        found.extend(told.take(MOST).map(|n| Finding {
            kind,
            layer: Some(number),
            at: n.at,
            value: n.width,
            limit,
            measure: Measure::Mm,
            source: layer.material.name.clone(),
            touching: n.touching.to_vec(),
            extent: n.middles,
        }));
    }
    found
}

/// Whether a narrow place is all of a part or hole that is told of as too small anyway.
fn tiny(layer: &Layer, place: &Narrow) -> bool {
    let limits = &layer.material.limits;
    let around = |ring: &Ring, limit: f64| {
        parts::across(ring) < limit && ring.bounds().inflate(1e-6, 1e-6).contains(place.at)
    };
    layer.shapes.iter().any(|s: &Shape| {
        around(&s.outer, limits.part) || s.holes.iter().any(|h| around(h, limits.hole))
    })
}

/// What is left between two holes of a template.
fn webs(layer: &Layer, number: usize, found: &mut Vec<Finding>) {
    let limit = layer.material.limits.gap;
    let mut holes: Vec<(Point, f64)> = layer
        .lines()
        .iter()
        .map(|s| s.outer.bounds())
        .map(|b| (b.center(), b.width() / 2.0))
        .collect();
    holes.sort_by(|a, b| a.0.x.total_cmp(&b.0.x).then(a.0.y.total_cmp(&b.0.y)));
    let widest = holes.iter().map(|h| h.1).fold(0.0, f64::max);
    for (n, &(a, radius)) in holes.iter().enumerate() {
        let beside = |b: &&(Point, f64)| b.0.x - a.x < radius + widest + limit;
        for &(b, other) in holes[n + 1..].iter().take_while(beside) {
            let value = a.distance(b) - radius - other;
            if value < limit - 1e-6 && found.len() < MOST {
                let middle = a.midpoint(b);
                found.push(Finding {
                    kind: Kind::Web,
                    layer: Some(number),
                    at: middle,
                    value: value.max(0.0),
                    limit,
                    measure: Measure::Mm,
                    source: layer.material.name.clone(),
                    touching: vec![middle],
                    extent: vec![vec![a, b]],
                });
            }
        }
    }
}

fn open(layer: &Layer, number: usize, found: &mut Vec<Finding>) {
    for stroke in layer.strokes.iter().filter(|s| !s.closed) {
        let ends = stroke.segments.first().zip(stroke.segments.last());
        let Some((first, last)) = ends else { continue };
        let (a, b) = (first.start(), last.end());
        found.push(Finding {
            kind: Kind::Open,
            layer: Some(number),
            at: b,
            value: a.distance(b),
            limit: 0.0,
            measure: Measure::Mm,
            source: layer.material.name.clone(),
            touching: vec![a, b],
            extent: vec![vec![a, b]],
        });
    }
}

fn many(layer: &Layer, number: usize, found: &mut Vec<Finding>) {
    let (parts, limit) = (layer.shapes.len(), layer.material.limits.parts);
    if parts > limit {
        let at = layer.bounds().map_or(Point::ORIGIN, |b| b.center());
        found.push(Finding {
            kind: Kind::ManyParts,
            layer: Some(number),
            at,
            value: parts as f64,
            limit: limit as f64,
            measure: Measure::Count,
            source: layer.material.name.clone(),
            touching: Vec::new(),
            extent: Vec::new(),
        });
    }
}

fn crossed(layer: &Layer, number: usize, chords: &chords::Chords, found: &mut Vec<Finding>) {
    let finding = |kind, at: Point, value| Finding {
        kind,
        layer: Some(number),
        at,
        value,
        limit: 0.0,
        measure: Measure::Mm,
        source: layer.material.name.clone(),
        touching: vec![at],
        extent: Vec::new(),
    };
    for crossing in lines::crossings(chords).into_iter().take(MOST) {
        let same_ring = crossing.rings[0] == crossing.rings[1];
        let kind = if same_ring {
            Kind::SelfCrossing
        } else {
            Kind::Crossing
        };
        found.push(finding(kind, crossing.at, 0.0));
    }
    let owner: Vec<u32> = (0..chords.starts.len() as u32).collect();
    for shared in lines::shared(chords, &owner, false).into_iter().take(MOST) {
        found.push(finding(Kind::Doubled, shared.at, shared.length));
    }
}
