//! Rays from a middle, which have to meet all edges of a mark.

use std::f64::consts::TAU;

use kurbo::{Point, Vec2};

use super::SeenMark;
use super::grey::Grey;
use super::pattern::Pattern;

/// Rays from a middle.
const RAYS: usize = 48;
/// Rays that have to meet all edges, as a part.
const MET: f64 = 0.95;
/// An edge may lie so far from its proportion, as a part of the outer radius.
const PROPORTION: f64 = 0.12;
/// Middles of edges may lie apart by this, and edges beside their ellipse by that, as parts of the outer radius.
const APART: f64 = 0.1;
const ROUND: f64 = 0.05;
/// Around a mark it is light up to so many times its radius; else it is the inner part of another mark.
const QUIET: f64 = 1.65;
/// A middle is never better known than this, px: uneven light and what a camera's own sharpening does to edges.
const KNOWN: f64 = 0.05;

impl Grey {
    /// A mark around a place, where every ray from it meets the pattern's edges.
    pub(super) fn mark(
        &self,
        pattern: &Pattern,
        near: Point,
        radius: f64,
        level: f32,
    ) -> Option<SeenMark> {
        let mut middle = near;
        let mut edges = self.edges(pattern, middle, radius, level)?;
        for _ in 0..6 {
            let by = shift(&edges);
            middle += by;
            edges = self.edges(pattern, middle, radius, level)?;
            if by.hypot() < 1e-3 {
                break;
            }
        }
        let outer = edges.last()?;
        let mean = |edge: &[f64]| edge.iter().sum::<f64>() / edge.len() as f64;
        let size = mean(outer);
        let in_place = edges.iter().zip(&pattern.radii).all(|(edge, part)| {
            (mean(edge) / size - part).abs() < PROPORTION
                && of_edge(edge).hypot() < APART * size
                && beside(edge) < ROUND * size
        });
        let error = edges.iter().map(|e| beside(e)).sum::<f64>() / edges.len() as f64;
        in_place.then(|| SeenMark {
            at: middle,
            kind: pattern.kind,
            radius: size,
            off: KNOWN.hypot(error / ((RAYS * edges.len()) as f64 / 2.0).sqrt()),
        })
    }

    /// How far each ray has to each edge, edge by edge, px; `None` where too few rays meet them all.
    fn edges(
        &self,
        pattern: &Pattern,
        middle: Point,
        radius: f64,
        level: f32,
    ) -> Option<Vec<Vec<f64>>> {
        const STEP: f64 = 0.25;
        let steps = (1.8 * radius / STEP).ceil() as usize + 8;
        let mut rays: Vec<Option<Vec<f64>>> = Vec::with_capacity(RAYS);
        let mut missed = 0;
        for n in 0..RAYS {
            let way = Vec2::from_angle(n as f64 / RAYS as f64 * TAU);
            // As far as the picture goes.
            let profile: Vec<f32> = (0..steps)
                .map_while(|k| self.at(middle + way * (k as f64 * STEP)))
                .collect();
            let met = crossings(&profile, pattern, level);
            missed += usize::from(met.is_none());
            if missed as f64 > (1.0 - MET) * RAYS as f64 {
                return None;
            }
            rays.push(met.map(|all| all.iter().map(|v| v * STEP).collect()));
        }
        // A ray that missed has what its neighbours have on average.
        let edges = pattern.radii.len();
        let filled = |k: usize| {
            (0..RAYS)
                .map(|n| {
                    let near = |step: usize| {
                        (1..RAYS).find_map(|d| rays[(n + step * d) % RAYS].as_ref().map(|r| r[k]))
                    };
                    match &rays[n] {
                        Some(ray) => ray[k],
                        None => near(1)
                            .zip(near(RAYS - 1))
                            .map_or(radius, |(a, b)| (a + b) / 2.0),
                    }
                })
                .collect()
        };
        Some((0..edges).map(filled).collect())
    }
}

/// Where a profile from the middle outwards turns from dark to light and back, as the pattern has it, in steps.
fn crossings(profile: &[f32], pattern: &Pattern, level: f32) -> Option<Vec<f64>> {
    let (least, most) = profile
        .iter()
        .fold((f32::MAX, f32::MIN), |(a, b), &v| (a.min(v), b.max(v)));
    if most - least < 24.0 {
        return None;
    }
    let level = least + (most - least) * level;
    let mut dark = pattern.dark;
    if profile.is_empty() || (profile[0] < level) != dark {
        return None;
    }
    let mut found = Vec::with_capacity(pattern.radii.len());
    for (n, pair) in profile.windows(2).enumerate() {
        if (pair[1] < level) == dark {
            continue;
        }
        found.push(n as f64 + f64::from((level - pair[0]) / (pair[1] - pair[0])));
        dark = !dark;
        if found.len() == pattern.radii.len() {
            let quiet = (found[found.len() - 1] * QUIET) as usize;
            let around = &profile[n + 1..quiet.clamp(n + 1, profile.len())];
            return around.iter().all(|v| *v >= level).then_some(found);
        }
    }
    None
}

/// How far the middle of an edge lies from where its rays begin, px.
fn of_edge(edge: &[f64]) -> Vec2 {
    let sum = edge.iter().enumerate().fold(Vec2::ZERO, |sum, (n, r)| {
        sum + Vec2::from_angle(n as f64 / edge.len() as f64 * TAU) * *r
    });
    sum * (2.0 / edge.len() as f64)
}

/// The same of all edges, the outer ones counting more.
fn shift(edges: &[Vec<f64>]) -> Vec2 {
    let weight = |edge: &Vec<f64>| edge.iter().sum::<f64>();
    let all: f64 = edges.iter().map(weight).sum();
    edges.iter().fold(Vec2::ZERO, |sum, edge| {
        sum + of_edge(edge) * (weight(edge) / all)
    })
}

/// How far an edge lies beside an ellipse around its middle: the root mean square of what is left of its radii without
/// their mean and their second and fourth waves, px.
fn beside(edge: &[f64]) -> f64 {
    let n = edge.len() as f64;
    let mut left = edge.to_vec();
    for wave in [0.0, 1.0, 2.0, 4.0] {
        let angle = |k: usize| wave * k as f64 / n * TAU;
        let part = |f: fn(f64) -> f64| {
            let scale = if wave == 0.0 { 1.0 } else { 2.0 };
            edge.iter()
                .enumerate()
                .map(|(k, r)| r * f(angle(k)))
                .sum::<f64>()
                * scale
                / n
        };
        let (cos, sin) = (part(f64::cos), part(f64::sin));
        for (k, r) in left.iter_mut().enumerate() {
            *r -= cos * angle(k).cos() + sin * angle(k).sin();
        }
    }
    (left.iter().map(|r| r * r).sum::<f64>() / n).sqrt()
}
