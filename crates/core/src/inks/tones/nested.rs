//! What is darker than each level as it can be cut, every set within the one before.
//!
//! Opening and closing by a disc keep one set within another; where that is not enough, a gap is made as wide as it has
//! to be, and the darker set is kept within the lighter.

use rayon::prelude::*;

use super::mask::Mask;
use super::{Asked, parts};
use crate::fine::Plane;

/// Strokes are made so much wider than the least, and so many steps more, for what the curves may take away.
const WIDER: f64 = 1.06;
const MARGIN: f64 = 1.0;
/// Largest radius of a disc, steps: a stroke three quarters as wide as the picture.
const MOST_DISC: f64 = 200.0;
/// How often strokes and gaps are mended in turn: mending one may narrow the other.
const ROUNDS: usize = 5;
/// Bands between two edges narrower than this are none, strokes' widths.
const SLIVER: f64 = 0.5;

/// What a material allows, in places of the grid.
struct Allowed {
    stroke: f64,
    gap: f64,
    part: f64,
    hole: f64,
}

impl Allowed {
    fn of(asked: &Asked, step: f64) -> Self {
        let disc = |width: f64| {
            (width > 0.0).then(|| (WIDER * width / step / 2.0 + MARGIN).min(MOST_DISC))
        };
        let across = |part: f64| WIDER * part / step + 2.0 * MARGIN;
        Self {
            stroke: disc(asked.stroke).unwrap_or(0.0),
            gap: disc(asked.gap).unwrap_or(0.0),
            part: across(asked.part),
            hole: across(asked.hole),
        }
    }

    /// A mask as it can be cut: nothing too narrow or too small, and nothing too narrow between.
    fn mended(&self, mask: &Mask) -> Mask {
        let mut mended = parts::without_small(mask, self.part, self.hole);
        mended = mended.opened(self.stroke).closed(self.gap);
        for _ in 0..ROUNDS {
            mended = parts::without_small(&mended.opened(self.stroke), self.part, self.hole);
            // Where mending one narrows the other, the gap is made as wide as it has to be.
            let narrow = mended.closed(self.gap).without(&mended);
            if narrow.is_empty() {
                break;
            }
            mended = mended.without(&narrow.grown(self.gap));
        }
        parts::without_small(&mended.opened(self.stroke), self.part, 0.0)
    }
}

/// What is not clear, then what is darker than each level, every one within the one before.
pub(super) fn nested(tone: &Plane, cover: &Plane, percents: &[f64], asked: &Asked) -> Vec<Mask> {
    let step = 1.0 / tone.width as f64;
    let allowed = Allowed::of(asked, step);
    let there = |i: usize| cover.values[i] >= 0.5;
    let (width, height) = (tone.width, tone.height);
    let mut all: Vec<Mask> = (0..=percents.len())
        .into_par_iter()
        .map(
            |n| match n.checked_sub(1).map(|n| (percents[n] * 2.55) as f32) {
                None if (0..width * height).all(there) => Mask::of(width, height, |_| true),
                None => allowed.mended(&Mask::of(width, height, there)),
                Some(level) => {
                    let darker = |i| there(i) && tone.values[i] < level;
                    allowed.mended(&Mask::of(width, height, darker))
                }
            },
        )
        .collect();
    let apart = if asked.side_by_side {
        allowed.stroke
    } else {
        SLIVER * allowed.stroke
    };
    for n in 1..all.len() {
        let (lighter, darker) = all.split_at_mut(n);
        let (lighter, darker) = (&lighter[n - 1], &mut darker[0]);
        darker.keep_within(lighter);
        // A band too narrow to be one goes to the darker side, up to the edge of the lighter tone.
        let band = lighter.without(darker).opened(apart);
        *darker = allowed.mended(&lighter.without(&band));
        darker.keep_within(lighter);
    }
    all
}

/// How many of the nested masks hold each place: 0 where it is clear.
pub(super) fn depths(nested: &[Mask]) -> Vec<u8> {
    let Some(first) = nested.first() else {
        return Vec::new();
    };
    let rows = (0..first.height).into_par_iter();
    rows.flat_map_iter(|y| {
        let depth = move |x| nested.iter().filter(|m| m.has(x, y)).count() as u8;
        (0..first.width).map(depth)
    })
    .collect()
}
