//! Which pixels are the subject's: colours are likely on both sides, and the border runs along edges.
//!
//! Sources: Boykov & Jolly 2001, "Interactive graph cuts" (ICCV 1, 105–112); Rother, Kolmogorov & Blake 2004, "GrabCut"
//! (ACM TOG 23(3), 309–314), whose weights of neighbours these are, and whose way to learn colours anew from each cut.

use super::colours::Colours;
use super::flow::Flow;
use crate::stop::{Stop, Stopped};

/// What is known of a pixel.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Mark {
    /// Nothing.
    Open,
    /// It was pointed at as the subject.
    Subject,
    /// It was pointed at as ground.
    Ground,
}

/// How much a border between two equal pixels costs against colours, and neighbours across a corner.
const BORDER: f32 = 30.0;
const CORNER: f32 = std::f32::consts::FRAC_1_SQRT_2;
/// Parts of a cost are whole numbers, so that the flow is exact.
const WHOLE: f32 = 16.0;
/// What no colour outweighs.
const CERTAIN: i64 = 1_000_000;
/// How often colours are learnt anew, at most, and of how many pixels one changes when it is done.
const ROUNDS: usize = 5;
const SETTLED: usize = 500;
/// A subject is rather in the middle and hardly at the sides or the top: where it begins, and what that is worth.
const RIM: f32 = 0.92;
const MIDDLE: f32 = 0.75;
const AT_RIM: f32 = 2.0;
const OFF_MIDDLE: f32 = 0.6;

/// Where a pixel lies: how near to the sides and the top, and how far from the middle; 1 at the border.
fn lies(i: usize, width: usize, height: usize) -> (f32, f32) {
    let part = |v: usize, of: usize| (v as f32 + 0.5) / of as f32 * 2.0 - 1.0;
    let (x, y) = (part(i % width, width), part(i / width, height));
    (x.abs().max(-y), x.hypot(y))
}

/// The subject's pixels; colours are luma and two chromas.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(super) fn subject(
    width: usize,
    pixels: &[[f32; 3]],
    marks: &[Mark],
    stop: &Stop,
) -> Result<Vec<bool>, Stopped> {
    let height = pixels.len() / width.max(1);
    let near = likeness(width, pixels);
    let first = |i: usize| {
        let (rim, off) = lies(i, width, height);
        match marks[i] {
            Mark::Subject => Some(true),
            Mark::Ground => Some(false),
            Mark::Open if rim < RIM && off < MIDDLE => Some(true),
            Mark::Open if rim > RIM => Some(false),
            Mark::Open => None,
        }
    };
    let mut sides: Vec<Option<bool>> = (0..pixels.len()).map(first).collect();
    for _ in 0..ROUNDS {
        let of = |side: bool| {
            let own = (0..pixels.len()).filter(|&i| sides[i] == Some(side));
            // What was pointed at counts for more than what was found.
            Colours::of(own.map(|i| (pixels[i], if marks[i] == Mark::Open { 1.0 } else { 4.0 })))
        };
        let (subject, ground) = (of(true), of(false));
        let end = |i: usize| {
            let (rim, off) = lies(i, width, height);
            let place = if rim > RIM {
                AT_RIM
            } else {
                OFF_MIDDLE * (off - MIDDLE)
            };
            let colour = subject.log(pixels[i]) - ground.log(pixels[i]);
            match marks[i] {
                Mark::Subject => CERTAIN,
                Mark::Ground => -CERTAIN,
                Mark::Open => ((colour - place) * WHOLE).round() as i64,
            }
        };
        let ends = (0..pixels.len()).map(end).collect();
        let found = Flow::new(width, ends, &near).cut(stop)?;
        let changed = found
            .iter()
            .zip(&sides)
            .filter(|(f, s)| Some(**f) != **s)
            .count();
        sides = found.into_iter().map(Some).collect();
        if changed * SETTLED < pixels.len() {
            break;
        }
    }
    Ok(sides.into_iter().map(|s| s == Some(true)).collect())
}

/// How much neighbours hold together: less, the more they differ against what neighbours usually do.
fn likeness(width: usize, pixels: &[[f32; 3]]) -> impl Fn(usize, usize) -> u32 {
    let apart =
        |a: usize, b: usize| -> f32 { (0..3).map(|c| (pixels[a][c] - pixels[b][c]).powi(2)).sum() };
    let beside = (0..pixels.len()).filter(|i| (i + 1) % width != 0);
    let below = (0..pixels.len().saturating_sub(width)).map(|i| f64::from(apart(i, i + width)));
    let all = beside.map(|i| f64::from(apart(i, i + 1))).chain(below);
    let (sum, count) = all.fold((0.0, 0_u32), |(s, n), v| (s + v, n + 1));
    let fall = 1.0 / (2.0 * (sum / f64::from(count.max(1))).max(1e-3)) as f32;
    move |a, b| {
        let straight = a / width == b / width || a % width == b % width;
        let near = if straight { 1.0 } else { CORNER };
        let weight = BORDER * near * (-fall * apart(a, b)).exp();
        (weight * WHOLE).round().max(1.0) as u32
    }
}
