//! Connected regions of one ink, and specks merged into their neighbours.
//!
//! Pixels hold together across their sides, and across a corner where the corner rule says so;
//! the walk along the boundaries follows the same rule, so every ring borders one region.

use crate::boundary::blocks::{Block, Diagonal};
use crate::boundary::{OUTSIDE, RegionId};
use crate::inks::Solid;
use crate::stop::{Stop, Stopped};

/// The region of every pixel.
pub struct Regions {
    /// Region number of every pixel, rows from the top, numbered in reading order.
    pub of: Vec<RegionId>,
    /// Pixels of every region.
    pub px: Vec<u64>,
}

/// Greatest number of rounds of merging: each round at least halves chains of specks in specks.
const ROUNDS: usize = 4;

/// Merges every region smaller than `min_px` into the neighbour it shares most of its edge with.
pub(super) fn without_specks(
    solid: &Solid,
    labels: &mut [u8],
    min_px: f64,
    stop: &Stop,
) -> Result<(Regions, usize), Stopped> {
    let mut merged = 0;
    for _ in 0..ROUNDS {
        let regions = connect(solid, labels, stop)?;
        let small = |r: RegionId| (regions.px[r as usize] as f64) < min_px;
        if !(0..regions.px.len() as u32).any(small) {
            return Ok((regions, merged));
        }
        let into = neighbours_of_small(solid, labels, &regions, min_px);
        let mut changed = 0;
        for (label, &region) in labels.iter_mut().zip(&regions.of) {
            if let Some(ink) = into[region as usize] {
                *label = ink;
            }
        }
        for ink in &into {
            changed += usize::from(ink.is_some());
        }
        if changed == 0 {
            return Ok((regions, merged));
        }
        merged += changed;
    }
    Ok((connect(solid, labels, stop)?, merged))
}

fn root(parent: &mut [u32], mut i: u32) -> u32 {
    while parent[i as usize] != i {
        parent[i as usize] = parent[parent[i as usize] as usize];
        i = parent[i as usize];
    }
    i
}

fn join(parent: &mut [u32], a: usize, b: usize) {
    let (a, b) = (root(parent, a as u32), root(parent, b as u32));
    // The smaller number stays, so that numbers follow reading order.
    let (low, high) = (a.min(b), a.max(b));
    parent[high as usize] = low;
}

fn connect(solid: &Solid, labels: &[u8], stop: &Stop) -> Result<Regions, Stopped> {
    let (w, h) = (solid.width as usize, solid.height as usize);
    let block = Block::new(solid, labels);
    let mut parent: Vec<u32> = (0..labels.len() as u32).collect();
    for y in 0..h {
        if y % 256 == 0 {
            stop.check()?;
        }
        for x in 0..w {
            let i = y * w + x;
            let label = labels[i];
            if x > 0 && labels[i - 1] == label {
                parent[i] = root(&mut parent, (i - 1) as u32);
            }
            if y > 0 && labels[i - w] == label {
                join(&mut parent, i, i - w);
            }
            // The block whose bottom right pixel this is.
            if x > 0
                && y > 0
                && labels[i - 1] != label
                && labels[i - w] != label
                && labels[i - w - 1] == label
                && block.diagonal(x, y) == Diagonal::Main
            {
                join(&mut parent, i, i - w - 1);
            }
            if x + 1 < w
                && y > 0
                && labels[i - w + 1] == label
                && labels[i - w] != label
                && labels[i + 1] != label
                && block.diagonal(x + 1, y) == Diagonal::Anti
            {
                join(&mut parent, i, i - w + 1);
            }
        }
    }
    let mut px: Vec<u64> = Vec::new();
    let mut of = vec![0; labels.len()];
    for i in 0..labels.len() {
        let r = root(&mut parent, i as u32) as usize;
        if r == i {
            of[i] = px.len() as u32;
            px.push(0);
        } else {
            of[i] = of[r];
        }
        px[of[i] as usize] += 1;
    }
    Ok(Regions { of, px })
}

/// For every small region the ink it is merged into; ties go to the smaller ink number.
fn neighbours_of_small(
    solid: &Solid,
    labels: &[u8],
    regions: &Regions,
    min_px: f64,
) -> Vec<Option<u8>> {
    let (w, h) = (solid.width as usize, solid.height as usize);
    let small = |r: RegionId| (regions.px[r as usize] as f64) < min_px;
    // (small region, neighbouring region): counted by sorting.
    let mut borders: Vec<(RegionId, RegionId)> = Vec::new();
    let mut note = |i: usize, j: usize| {
        let (r, s) = (regions.of[i], regions.of[j]);
        if r != s {
            if small(r) {
                borders.push((r, s));
            }
            if small(s) {
                borders.push((s, r));
            }
        }
    };
    for y in 0..h {
        for x in 0..w {
            let i = y * w + x;
            if x + 1 < w {
                note(i, i + 1);
            }
            if y + 1 < h {
                note(i, i + w);
            }
        }
    }
    borders.sort_unstable();
    let mut ink_of = vec![OUTSIDE; regions.px.len()];
    for (&label, &region) in labels.iter().zip(&regions.of) {
        ink_of[region as usize] = label;
    }
    let mut into: Vec<Option<u8>> = vec![None; regions.px.len()];
    for group in borders.chunk_by(|a, b| a.0 == b.0) {
        let own = group[0].0;
        let mut best: Option<(usize, u64, u8)> = None;
        for side in group.chunk_by(|a, b| a.1 == b.1) {
            let other = side[0].1;
            let other_px = regions.px[other as usize];
            // Two specks beside each other: only the smaller gives way, so that they do not swap.
            let stronger = (other_px, std::cmp::Reverse(other))
                > (regions.px[own as usize], std::cmp::Reverse(own));
            let candidate = (side.len(), other_px, ink_of[other as usize]);
            if stronger && best.is_none_or(|b| (candidate.0, candidate.1) > (b.0, b.1)) {
                best = Some(candidate);
            }
        }
        into[own as usize] = best.map(|b| b.2);
    }
    into
}
