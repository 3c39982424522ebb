//! Specks: regions smaller than the smallest part, merged into the neighbour they share most of
//! their edge with.
//!
//! Where two inks are hardly farther apart than the flat places scatter around them, compression
//! and noise make larger specks of one in the other; there the smallest part counts for more. The
//! same holds along the edge of a third ink far from both: compression leaves waves there.

use crate::boundary::RegionId;
use crate::boundary::runs::Runs;
use crate::inks::{Ink, Solid};
use crate::stop::{Stop, Stopped};

/// Greatest number of rounds of merging: each round at least halves chains of specks in specks.
const ROUNDS: usize = 6;

/// Merges every region smaller than `min_px` (px²); returns the regions left and how many went.
pub(super) fn merged(
    solid: &Solid,
    labels: &mut [u8],
    min_px: f64,
    stop: &Stop,
) -> Result<(Runs, usize), Stopped> {
    let mut gone = 0;
    for _ in 0..ROUNDS {
        let runs = Runs::connect(solid, labels, stop)?;
        let into = neighbours_of_small(&runs, solid, min_px);
        let changed = into.iter().flatten().count();
        if changed == 0 {
            return Ok((runs, gone));
        }
        let width = solid.width as usize;
        for (y, row) in labels.chunks_mut(width).enumerate() {
            for (run, region) in runs.row(y) {
                if let Some(ink) = into[region as usize] {
                    row[run.start as usize..run.end as usize].fill(ink);
                }
            }
        }
        gone += changed;
    }
    Ok((Runs::connect(solid, labels, stop)?, gone))
}

/// For every small region the ink it is merged into; ties go to the larger neighbour.
fn neighbours_of_small(runs: &Runs, solid: &Solid, min_px: f64) -> Vec<Option<u8>> {
    let height = solid.height as usize;
    let weights = Weights::of(solid);
    let most = min_px * weights.most;
    let small = |r: RegionId| (runs.px[r as usize] as f64) < most;
    let mut into: Vec<Option<u8>> = vec![None; runs.px.len()];
    if !(0..runs.px.len() as RegionId).any(small) {
        return into;
    }
    // (small region, neighbouring region, length of edge): summed by sorting.
    let mut borders: Vec<(RegionId, RegionId, u32)> = Vec::new();
    let mut note = |r: RegionId, s: RegionId, length: u32| {
        if r != s && small(r) {
            borders.push((r, s, length));
        }
        if r != s && small(s) {
            borders.push((s, r, length));
        }
    };
    for y in 0..height {
        let row: Vec<_> = runs.row(y).collect();
        for pair in row.windows(2) {
            note(pair[0].1, pair[1].1, 1);
        }
        if y == 0 {
            continue;
        }
        let mut above = runs.row(y - 1).peekable();
        for (run, region) in row {
            while let Some(&(other, other_region)) = above.peek() {
                let shared = run
                    .end
                    .min(other.end)
                    .saturating_sub(run.start.max(other.start));
                if shared > 0 {
                    note(region, other_region, shared);
                }
                if other.end > run.end {
                    break;
                }
                above.next();
            }
        }
    }
    borders.sort_unstable();
    for group in borders.chunk_by(|a, b| a.0 == b.0) {
        let label = group[0].0;
        let ink = |r: RegionId| usize::from(runs.inks[r as usize]);
        let around: Vec<usize> = group
            .chunk_by(|a, b| a.1 == b.1)
            .map(|side| ink(side[0].1))
            .collect();
        let mut best: Option<(u32, u64, u8)> = None;
        for side in group.chunk_by(|a, b| a.1 == b.1) {
            let other = side[0].1;
            let other_px = runs.px[other as usize];
            // Two specks beside each other: only the smaller gives way, so that they do not swap.
            let stronger = (other_px, std::cmp::Reverse(other))
                > (runs.px[label as usize], std::cmp::Reverse(label));
            let length = side.iter().map(|s| s.2).sum();
            let weight = weights.between(ink(label), ink(other), &around);
            let small = (runs.px[label as usize] as f64) < min_px * weight;
            if stronger && small && best.is_none_or(|b| (length, other_px) > (b.0, b.1)) {
                best = Some((length, other_px, runs.inks[other as usize]));
            }
        }
        into[label as usize] = best.map(|b| b.2);
    }
    into
}

/// Scatters that two inks must be apart for the smallest part to count as it is.
const CLEARLY_APART: f64 = 22.0;
/// Greatest weight.
const MOST_WEIGHT: f64 = 24.0;

/// Height of the waves that compression leaves beside an edge, as a part of its contrast.
const WAVES: f64 = 0.012;
/// Scatter from which a picture is taken to be compressed.
const COMPRESSED: f64 = 0.4;

/// By how much the smallest part is larger between two inks.
struct Weights {
    contrast: Vec<Vec<f64>>,
    scatter: f64,
    most: f64,
}

impl Weights {
    fn of(solid: &Solid) -> Self {
        let contrast = |a: &Ink, b: &Ink| b.contrast(a).max(1.0);
        let mut specks = Self {
            contrast: solid
                .inks
                .iter()
                .map(|a| solid.inks.iter().map(|b| contrast(a, b)).collect())
                .collect(),
            scatter: solid.scatter,
            most: 1.0,
        };
        let all: Vec<usize> = (0..solid.inks.len()).collect();
        for i in 0..all.len() {
            for j in i + 1..all.len() {
                specks.most = specks.most.max(specks.between(i, j, &all));
            }
        }
        specks
    }

    /// For a region of `ink` that may be merged into `other`, with these inks around it.
    fn between(&self, ink: usize, other: usize, around: &[usize]) -> f64 {
        let edges = around.iter().map(|&k| self.contrast[other][k]);
        let waves = if self.scatter > COMPRESSED {
            WAVES * edges.fold(0.0, f64::max)
        } else {
            0.0
        };
        (CLEARLY_APART * (self.scatter + waves) / self.contrast[ink][other])
            .powi(2)
            .clamp(1.0, MOST_WEIGHT)
    }
}
