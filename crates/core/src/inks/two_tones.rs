//! Two tones: whether a picture's colours all lie on one line, and the picture as one tone.
//!
//! ```text
//!        ground ●────·──·───·─────● ink       mixes along soft edges lie on the line between them
//!                 ↕ off the line: a third ink
//! ```
//!
//! Such a picture has two inks whatever their hues, and is traced by its tone: how far each pixel
//! lies along the line. A third ink *on* the line shows as places that are flat half way.

use rayon::prelude::*;

use crate::fine::{self, Fine, Plane};
use crate::inks::flat::Colour;
use crate::inks::luma::luma;
use crate::inks::mixes::{Tint, places_of};
use crate::inks::noise::Grain;
use crate::inks::parted::Parted;
use crate::inks::{EdgeField, InkReason, Rgb};
use crate::picture::Picture;
use crate::stop::{Stop, Stopped};

/// A pixel off the line by this much holds a third ink, beside the grain, 0 to 255 …
const OFF: f32 = 12.0;
const OFF_GRAIN: f32 = 4.0;
/// … or by this part of the line's length.
const OFF_PART: f32 = 0.1;
/// Share of the pixels away from the ground that may lie off the line.
const MOST_OFF: f64 = 0.02;
/// Part of the line from which a pixel lies away from the ground.
const AWAY: f32 = 0.25;
/// Parts of the line between which flat places show a third ink, and how many of them do.
const BETWEEN: std::ops::Range<f32> = 0.06..0.8;
const BETWEEN_GRAIN: f32 = 0.06;
const LEAST_BETWEEN: usize = 12;
const BETWEEN_SHARE: f64 = 0.01;
/// Shortest line that tells two inks apart, 0 to 255.
const LEAST_LINE: f32 = 24.0;

/// A line through the colours of a picture.
struct Line {
    ground: Tint,
    /// Unit vector from the ground to the ink.
    along: Tint,
}

/// The tones of a picture of two inks, 0 to 255, ink 0; `None` where there are more, or none.
pub(super) fn tones(picture: &Picture, grain: f64) -> Option<Plane> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    if picture.pixels().iter().any(|p| p[3] < 255) {
        return None;
    }
    let places = places_of(picture);
    let ground = border(&places, w, h);
    let line = line(&places, ground)?;
    let told: Vec<(f32, f32)> = places.par_iter().map(|&p| line.at(p)).collect();
    let mut ends: Vec<f32> = told
        .iter()
        .map(|t| t.0)
        .filter(|&t| t > LEAST_LINE)
        .collect();
    if ends.len() * 1000 < told.len() {
        return None;
    }
    let far = ends.len() - 1 - ends.len() / 50;
    let length = *ends.select_nth_unstable_by(far, f32::total_cmp).1;
    let off = (OFF + OFF_GRAIN * grain as f32).max(OFF_PART * length);
    let away = told
        .iter()
        .filter(|t| t.0 > AWAY * length || t.1 > off)
        .count();
    let beside = told.iter().filter(|t| t.1 > off).count();
    let opposite = told.iter().filter(|t| t.0 < -off).count();
    if (beside + opposite) as f64 > MOST_OFF * away as f64 {
        return None;
    }
    let between = flat_between(&told, (w, h), length, grain as f32);
    if between > LEAST_BETWEEN && between as f64 > BETWEEN_SHARE * away as f64 {
        return None;
    }
    let most = furthest(picture, &told, length);
    let values = told.iter().map(|t| 255.0 * (1.0 - t.0 / most)).collect();
    Some(Plane {
        width: w,
        height: h,
        values,
    })
}

/// How far along the line a colour can lie at all: to where the first of red, green and blue has
/// nothing left or is full. Thin strokes never show it.
fn furthest(picture: &Picture, told: &[(f32, f32)], length: f32) -> f32 {
    let mean = |within: std::ops::Range<f32>| {
        let (mut sum, mut count) = ([0.0f32; 3], 0.0f32);
        let pixels = picture.pixels().iter().zip(told);
        for (p, _) in pixels.filter(|(_, t)| within.contains(&(t.0 / length))) {
            count += 1.0;
            for (s, &v) in sum.iter_mut().zip(p) {
                *s += f32::from(v);
            }
        }
        sum.map(|s| s / count.max(1.0))
    };
    let (ground, ink) = (mean(-0.1..0.1), mean(0.85..1.15));
    let room = ground.iter().zip(ink).map(|(&g, i)| {
        let step = (i - g) / length;
        let end = if step < 0.0 { 0.0 } else { 255.0 };
        if step.abs() > 0.05 {
            (end - g) / step
        } else {
            f32::INFINITY
        }
    });
    room.fold(MOST_LONGER * length, f32::min).max(length)
}

/// The line goes on no farther than this beyond the farthest colour seen.
const MOST_LONGER: f32 = 2.0;

/// The middle colour of the border.
fn border(places: &[Tint], w: usize, h: usize) -> Tint {
    let rows = (0..w).flat_map(|x| [x, (h - 1) * w + x]);
    let sides = (0..h).flat_map(|y| [y * w, y * w + w - 1]);
    let border: Vec<usize> = rows.chain(sides).collect();
    std::array::from_fn(|c| {
        let mut values: Vec<f32> = border.iter().map(|&i| places[i][c]).collect();
        let middle = values.len() / 2;
        *values.select_nth_unstable_by(middle, f32::total_cmp).1
    })
}

/// The line from the ground along which colours spread most, by the power method.
fn line(places: &[Tint], ground: Tint) -> Option<Line> {
    let mut spread = [[0.0f64; 4]; 4];
    for p in places {
        let d: [f64; 4] = std::array::from_fn(|c| f64::from(p[c] - ground[c]));
        if d.iter().map(|v| v * v).sum::<f64>() < f64::from(LEAST_LINE).powi(2) {
            continue;
        }
        for (row, a) in spread.iter_mut().zip(d) {
            for (cell, b) in row.iter_mut().zip(d) {
                *cell += a * b;
            }
        }
    }
    let mut along = [1.0, 0.3, 0.2, 0.0];
    for _ in 0..30 {
        let next: [f64; 4] = std::array::from_fn(|r| (0..4).map(|c| spread[r][c] * along[c]).sum());
        let length = next.iter().map(|v| v * v).sum::<f64>().sqrt();
        if length <= 0.0 {
            return None;
        }
        along = next.map(|v| v / length);
    }
    let mut along = along.map(|v| v as f32);
    let mean: f32 = places
        .iter()
        .map(|p| (0..4).map(|c| (p[c] - ground[c]) * along[c]).sum::<f32>())
        .sum();
    if mean < 0.0 {
        along = along.map(|v| -v);
    }
    Some(Line { ground, along })
}

impl Line {
    /// How far along it a colour lies, and how far beside it.
    fn at(&self, p: Tint) -> (f32, f32) {
        let d: Tint = std::array::from_fn(|c| p[c] - self.ground[c]);
        let t: f32 = (0..4).map(|c| d[c] * self.along[c]).sum();
        let square: f32 = d.iter().map(|v| v * v).sum();
        (t, (square - t * t).max(0.0).sqrt())
    }
}

/// Pixels half way along the line whose surroundings are like them.
fn flat_between(told: &[(f32, f32)], (w, h): (usize, usize), length: f32, grain: f32) -> usize {
    let like = 5.0 + 3.0 * grain;
    let between = (BETWEEN.start + BETWEEN_GRAIN * grain).min(0.15)..BETWEEN.end;
    let flat = |x: usize, y: usize| {
        let tone = told[y * w + x].0;
        between.contains(&(tone / length))
            && (y - 1..=y + 1)
                .all(|y| (x - 1..=x + 1).all(|x| (told[y * w + x].0 - tone).abs() < like))
    };
    let rows = 1..h.saturating_sub(1);
    rows.map(|y| (1..w.saturating_sub(1)).filter(|&x| flat(x, y)).count())
        .sum()
}

/// What a fine cover makes of a picture: labels, inks and where their edges are.
pub(super) fn parted(fine: Fine, inks: [Colour; 2], reason: InkReason) -> Parted<Colour> {
    let dark = fine.dark_ink;
    let tone: Vec<u8> = fine
        .cover
        .values
        .par_iter()
        .map(|&u| {
            let v = (255.0 * if dark { 1.0 - u } else { u }).round();
            v as u8
        })
        .collect();
    let labels = tone
        .par_iter()
        .map(|&v| u8::from((v < 128) == dark))
        .collect();
    Parted {
        labels,
        size: (fine.cover.width, fine.cover.height),
        detail: fine.scale as f64,
        scatter: 0.0,
        rough: fine.rough,
        inks: inks.to_vec(),
        field: EdgeField::Tone {
            tone,
            threshold: 127.5,
            levels: Some([0.0, 255.0]),
        },
        reason,
    }
}

/// Two flat inks found by themselves, with their edges placed by tone: where every other colour is
/// a mix of both there is one way to read it, and corners that touch stay two corners.
pub(super) fn by_tone(picture: &Picture, parted: Parted<Colour>, grain: f64) -> Parted<Colour> {
    let (&[(first, false), (second, false)], EdgeField::Colours { pixels, mixes }) =
        (parted.inks.as_slice(), &parted.field)
    else {
        return parted;
    };
    if parted.detail > 1.0 || tones(&picture.reduced(ENOUGH_PX), grain).is_none() {
        return parted;
    }
    let luma = |Rgb([r, g, b]): Rgb| luma([r, g, b, 255]);
    let dark = u8::from(luma(second) < luma(first));
    let light = 1 - dark;
    let tone: Vec<u8> = pixels
        .par_iter()
        .map(|&p| (255.0 * mixes.part(p, light, dark)).round() as u8)
        .collect();
    let ink = |&v: &u8| if v < 128 { dark } else { light };
    Parted {
        labels: tone.par_iter().map(ink).collect(),
        field: EdgeField::Tone {
            tone,
            threshold: 127.5,
            levels: Some([0.0, 255.0]),
        },
        ..parted
    }
}

/// Whether colours lie on one line is seen in a reduced copy as well, px.
const ENOUGH_PX: u64 = 300_000;

/// The colours of ground and ink in a picture as it came, by least squares over all its pixels.
pub(super) fn colours(picture: &Picture, fine: &Fine) -> [Colour; 2] {
    let area = fine.cover.binned(fine.scale).blurred(fine.spread);
    let mut ground = [0.0; 3];
    let mut count = 0.0;
    for (p, &a) in picture.pixels().iter().zip(&area.values) {
        if a < 0.02 {
            count += 1.0;
            for (g, &v) in ground.iter_mut().zip(p) {
                *g += f64::from(v);
            }
        }
    }
    let ground = ground.map(|g| if count > 0.0 { g / count } else { 255.0 });
    let (mut cross, mut square) = ([0.0; 3], 0.0);
    for (p, &a) in picture.pixels().iter().zip(&area.values) {
        let a = f64::from(a);
        square += a * a;
        for c in 0..3 {
            cross[c] += a * (f64::from(p[c]) - ground[c]);
        }
    }
    let value = |v: f64| v.round().clamp(0.0, 255.0) as u8;
    let ink = std::array::from_fn(|c| value(ground[c] + cross[c] / f64::max(square, 1e-9)));
    [(Rgb(ground.map(value)), false), (Rgb(ink), false)]
}

/// Two inks found by themselves and traced as one tone; `None` where there are more inks.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(super) fn found(
    picture: &Picture,
    lit: &Picture,
    grain: Grain,
    stop: &Stop,
) -> Result<Option<(Parted<Colour>, f64)>, Stopped> {
    let Some(tones) = tones(lit, grain.quiet) else {
        return Ok(None);
    };
    stop.check()?;
    let Some(fine) = fine::one_tone(&tones, grain.most(), grain.rounded, stop)? else {
        return Ok(None);
    };
    let inks = colours(picture, &fine);
    let fall = fine.fall;
    Ok(Some((parted(fine, inks, InkReason::TwoTones), fall)))
}
