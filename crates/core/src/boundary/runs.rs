//! Rows as runs of one ink, and runs joined to connected regions.
//!
//! ```text
//!   row y − 1   A A A│B B B B│A A       three runs
//!   row y       A A│B B B│A A A A       runs of one ink that touch are one region
//! ```
//!
//! Pixels hold together across their sides, and across a corner where the corner rule says so; the
//! walk along the boundaries follows the same rule, so every ring borders one region. There are
//! far fewer runs than pixels, so all that follows costs little more than finding them.

use rayon::prelude::*;

use crate::boundary::RegionId;
use crate::boundary::blocks::{Block, Diagonal};
use crate::inks::Solid;
use crate::stop::{Stop, Stopped};

/// A stretch of one row with one ink.
#[derive(Clone, Copy, Debug)]
pub(super) struct Run {
    /// First pixel.
    pub start: u32,
    /// One past the last pixel.
    pub end: u32,
    /// Its ink.
    pub ink: u8,
}

/// All runs of a picture and the regions they make up.
pub(super) struct Runs {
    all: Vec<Run>,
    /// Number of the first run of every row, and one past the last.
    first: Vec<usize>,
    region: Vec<RegionId>,
    /// Pixels of every region, numbered in reading order.
    pub px: Vec<u64>,
    /// Ink of every region.
    pub inks: Vec<u8>,
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
    parent[a.max(b) as usize] = a.min(b);
}

/// Runs of one row.
fn runs_of(row: &[u8]) -> Vec<Run> {
    let mut runs = Vec::new();
    let mut start = 0;
    for group in row.chunk_by(|a, b| a == b) {
        let end = start + group.len() as u32;
        runs.push(Run {
            start,
            end,
            ink: group[0],
        });
        start = end;
    }
    runs
}

impl Runs {
    /// Finds the runs of `labels` and joins them.
    pub(super) fn connect(solid: &Solid, labels: &[u8], stop: &Stop) -> Result<Self, Stopped> {
        let width = solid.width as usize;
        let rows: Vec<Vec<Run>> = labels.par_chunks(width).map(runs_of).collect();
        stop.check()?;
        let mut first = Vec::with_capacity(rows.len() + 1);
        let mut all = Vec::with_capacity(rows.iter().map(Vec::len).sum());
        first.push(0);
        for row in rows {
            all.extend(row);
            first.push(all.len());
        }
        let block = Block::new(solid, labels);
        let mut parent: Vec<u32> = (0..all.len() as u32).collect();
        for y in 1..first.len() - 1 {
            if y % 256 == 0 {
                stop.check()?;
            }
            let mut above = first[y - 1];
            for n in first[y]..first[y + 1] {
                let run = all[n];
                while above > first[y - 1] && all[above].end > run.start {
                    above -= 1;
                }
                while above < first[y] && all[above].end < run.start {
                    above += 1;
                }
                let mut k = above;
                while k < first[y] && all[k].start <= run.end {
                    let other = all[k];
                    let touch = other.ink == run.ink
                        && if other.end == run.start {
                            block.diagonal(run.start as usize, y) == Diagonal::Main
                        } else if other.start == run.end {
                            block.diagonal(run.end as usize, y) == Diagonal::Anti
                        } else {
                            true
                        };
                    if touch {
                        join(&mut parent, n, k);
                    }
                    k += 1;
                }
            }
        }
        Ok(Self::numbered(all, first, parent))
    }

    fn numbered(all: Vec<Run>, first: Vec<usize>, mut parent: Vec<u32>) -> Self {
        let (mut px, mut inks) = (Vec::new(), Vec::new());
        let mut region = vec![0; all.len()];
        for (n, run) in all.iter().enumerate() {
            let r = root(&mut parent, n as u32) as usize;
            if r == n {
                region[n] = px.len() as RegionId;
                px.push(0);
                inks.push(run.ink);
            } else {
                region[n] = region[r];
            }
            px[region[n] as usize] += u64::from(run.end - run.start);
        }
        Self {
            all,
            first,
            region,
            px,
            inks,
        }
    }

    /// Runs of a row with their regions.
    pub(super) fn row(&self, y: usize) -> impl Iterator<Item = (Run, RegionId)> {
        let range = self.first[y]..self.first[y + 1];
        range.map(|n| (self.all[n], self.region[n]))
    }

    /// Region of a pixel.
    pub(super) fn region_at(&self, x: usize, y: usize) -> RegionId {
        let row = self.first[y]..self.first[y + 1];
        let n = self.all[row.clone()].partition_point(|r| r.end <= x as u32);
        self.region[row.start + n]
    }

    /// How many links between pixels the edges inside the picture cross.
    pub(super) fn edge_points(&self, height: usize) -> u64 {
        let across = (self.all.len() - height) as u64;
        let down: u64 = (1..height)
            .into_par_iter()
            .map(|y| {
                let mut above = self.row(y - 1).peekable();
                let mut same = 0u64;
                for (run, _) in self.row(y) {
                    while let Some(&(other, _)) = above.peek() {
                        let shared = run
                            .end
                            .min(other.end)
                            .saturating_sub(run.start.max(other.start));
                        if other.ink == run.ink {
                            same += u64::from(shared);
                        }
                        if other.end > run.end {
                            break;
                        }
                        above.next();
                    }
                }
                let width = self.all[self.first[y + 1] - 1].end;
                u64::from(width) - same
            })
            .sum();
        across + down
    }

    /// Columns at which one run of a row ends and the next begins, both ends of the row included.
    pub(super) fn walls(&self, y: usize) -> impl Iterator<Item = usize> {
        let range = self.first[y]..self.first[y + 1];
        let starts = range.clone().map(|n| self.all[n].start as usize);
        starts.chain(range.last().map(|n| self.all[n].end as usize))
    }
}
