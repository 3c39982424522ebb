//! Ground: how light the paper is at every place, and how much darker the darkest ink on it.
//!
//! ```text
//!   tones ──► squares ──► the tone of each square's own ground, gaps filled from around ──► smooth
//! ```
//!
//! Light multiplies what paper *and* ink send back. So on a light ground the part of the light that
//! is missing says how much ink a pixel holds, in a shadow as well as outside; on a dark ground
//! light ink adds to it.

use crate::fine::plane::Plane;
use crate::otsu::between_tones;

/// Squares along the shorter side, and the least side of one, px.
const SQUARES: usize = 8;
const LEAST_SIDE: usize = 12;
/// Share of a square that must be ground for it to tell.
const LEAST_SHARE: f64 = 0.6;
/// The ground of a square is this part of the way up its tones: blurred edges lie below.
const HIGH: f64 = 0.85;
/// Grounds that differ by less than this are one, beside the grain, 0 to 255.
const EVEN: f32 = 5.0;
/// A ground lighter than this is paper, which light falls on, 0 to 255.
const LIGHT: f32 = 60.0;
/// Share of the ink's pixels that are darkest: the first guess of full ink.
const DARKEST: f64 = 0.03;

/// A picture as ink on ground.
pub(super) struct OnGround {
    /// How much ink each pixel shows: 0 at the ground.
    pub seen: Plane,
    /// The most it can show: black on paper, white on a dark ground.
    pub most: f64,
    /// What the darkest pixels show.
    pub amount: f64,
    /// Whether the ink is darker than the ground.
    pub dark_ink: bool,
    /// What one step of 255 is in what is seen.
    pub level: f64,
    /// How much darker the darkest ground is than the brightest, 0 to 1.
    pub fall: f64,
}

/// Parts tones, 0 to 255, into ground and ink; `None` where there are no two tones.
pub(super) fn part(tones: &Plane, grain: f64) -> Option<OnGround> {
    let mut histogram = [0u64; 256];
    for &v in &tones.values {
        histogram[v.round().clamp(0.0, 255.0) as usize] += 1;
    }
    let (threshold, dark, light) = between_tones(&histogram)?;
    if light.saturating_sub(dark) < LEAST_CONTRAST {
        return None;
    }
    let threshold = threshold as f32;
    let dark_ink = is_light(tones, threshold);
    let ground = grounds(tones, threshold, dark_ink, grain);
    let (least, most) = ground
        .values
        .iter()
        .fold((f32::MAX, 0.0f32), |(l, m), &v| (l.min(v), m.max(v)));
    let pairs = tones.values.iter().zip(&ground.values);
    let paper = dark_ink && least > LIGHT;
    let values: Vec<f32> = match (dark_ink, paper) {
        (true, true) => pairs.map(|(&v, &g)| 1.0 - v / g).collect(),
        (true, false) => pairs.map(|(&v, &g)| (g - v) / 255.0).collect(),
        (false, _) => pairs.map(|(&v, &g)| (v - g) / 255.0).collect(),
    };
    let most_seen = match (dark_ink, paper) {
        (true, true) => 1.0,
        (true, false) => f64::from(most) / 255.0,
        (false, _) => 1.0 - f64::from(least) / 255.0,
    };
    let level = if paper {
        1.0 / f64::from(most)
    } else {
        1.0 / 255.0
    };
    let amount = darkest(&values).min(most_seen);
    Some(OnGround {
        seen: Plane { values, ..*tones },
        most: most_seen,
        amount,
        dark_ink,
        level,
        fall: if paper {
            f64::from(1.0 - least / most)
        } else {
            0.0
        },
    })
}

/// Least difference of two tones, 0 to 255.
const LEAST_CONTRAST: u8 = 12;

/// Whether the ground is the lighter of two tones: most of the border is.
fn is_light(tones: &Plane, threshold: f32) -> bool {
    let (w, h) = (tones.width, tones.height);
    let light = |v: &&f32| **v >= threshold;
    let rows = [0, h - 1].map(|y| tones.row(y).iter().filter(light).count());
    let sides = (0..h).flat_map(|y| [tones.row(y)[0], tones.row(y)[w - 1]]);
    let sides = sides.filter(|v| *v >= threshold).count();
    rows[0] + rows[1] + sides >= w + h
}

/// The ground's tone at every pixel.
fn grounds(tones: &Plane, threshold: f32, light: bool, grain: f64) -> Plane {
    let (w, h) = (tones.width, tones.height);
    let side = (w.min(h) / SQUARES).max(LEAST_SIDE);
    let (across, down) = (w.div_ceil(side), h.div_ceil(side));
    let mut known: Vec<Option<f32>> = (0..across * down)
        .map(|at| {
            let (x0, y0) = (at % across * side, at / across * side);
            let rows = y0..(y0 + side).min(h);
            let columns = x0..(x0 + side).min(w);
            let all = rows.clone().len() * columns.len();
            let mut tones: Vec<f32> = rows
                .flat_map(|y| tones.row(y)[columns.clone()].iter().copied())
                .filter(|&v| (v >= threshold) == light)
                .collect();
            if (tones.len() as f64) < LEAST_SHARE * all as f64 {
                return None;
            }
            let part = if light { HIGH } else { 1.0 - HIGH };
            let at = ((tones.len() - 1) as f64 * part) as usize;
            Some(*tones.select_nth_unstable_by(at, f32::total_cmp).1)
        })
        .collect();
    fill(&mut known, across, down);
    let squares = Plane {
        width: across,
        height: down,
        values: known.into_iter().map(|v| v.unwrap_or(255.0)).collect(),
    };
    let mut sorted = squares.values.clone();
    sorted.sort_by(f32::total_cmp);
    let (least, most) = (
        sorted[sorted.len() / 20],
        sorted[sorted.len() - 1 - sorted.len() / 20],
    );
    if most - least < EVEN + grain as f32 {
        return Plane::filled(w, h, sorted[sorted.len() / 2]);
    }
    let squares = squares.blurred(0.7);
    squares.spread_over(side, w, h)
}

/// Squares without a ground of their own take the mean of those around that have one.
fn fill(known: &mut [Option<f32>], across: usize, down: usize) {
    while known.iter().any(Option::is_none) && known.iter().any(Option::is_some) {
        let before = known.to_vec();
        for (at, ground) in known.iter_mut().enumerate().filter(|(_, k)| k.is_none()) {
            let (x, y) = (at % across, at / across);
            let rows = y.saturating_sub(1)..(y + 2).min(down);
            let near = rows.flat_map(|y| {
                (x.saturating_sub(1)..(x + 2).min(across)).map(move |x| y * across + x)
            });
            let near: Vec<f32> = near.filter_map(|n| before[n]).collect();
            if !near.is_empty() {
                *ground = Some(near.iter().sum::<f32>() / near.len() as f32);
            }
        }
    }
}

/// What the darkest part of the ink shows.
fn darkest(seen: &[f32]) -> f64 {
    let most = seen.iter().copied().fold(0.0f32, f32::max);
    let mut ink: Vec<f32> = seen.iter().copied().filter(|&v| v > 0.3 * most).collect();
    ink.sort_by(|a, b| b.total_cmp(a));
    let at = (ink.len() as f64 * DARKEST) as usize;
    f64::from(ink.get(at).copied().unwrap_or(most))
}
