//! Shadow: paper that something darkens in part, and the picture without it.
//!
//! ```text
//!   ▔▔▔╲__T_E_X_T__   closed: dark strokes filled from around ──► the paper's own light ──► divided out
//! ```
//!
//! A shadow has an edge that no surface of low degree follows ([`super::paper`]), but it is soft, and
//! what is printed is darker than the paper beside it in the shadow as well as outside. So the light at
//! a place is that of the paper around it: the tones closed over more than a stroke's width (Serra
//! 1982, "Image Analysis and Mathematical Morphology"). A dark shape drawn large has a sharp edge, and
//! then nothing is divided out.

use rayon::prelude::*;

use crate::fine::Plane;
use crate::inks::luma::luma;
use crate::inks::paper::Levelled;
use crate::picture::Picture;

/// Larger pictures are looked at in squares of so many px that this many lie along the longer side.
const SQUARES: usize = 240;
/// Strokes are narrower than this part of the shorter side.
const STROKE: usize = 14;
/// Least fall of light that is taken for a shadow, as a part.
const LEAST_FALL: f32 = 0.25;
/// Light that falls by more than this part from one square to the next but one is a drawn edge …
const SHARPEST: f32 = 0.3;
/// … where it does so in more than this share of all squares.
const MOST_SHARP: f64 = 0.008;
/// Share of squares that must be paper, and how near to its light they lie.
const LEAST_PAPER: f64 = 0.5;
const NEAR: f32 = 0.1;
/// Paper is nearly grey: its channels differ by no more than this in the middle, 0 to 255.
const GREY: u8 = 44;
/// Light below this tells nothing, 0 to 255.
const DARK: f32 = 28.0;

/// Divides a shadow out; `None` where there is none.
pub(super) fn level(picture: &Picture) -> Option<Levelled> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    if w.min(h) < 64
        || picture.pixels().iter().step_by(61).any(|p| p[3] < 255)
        || is_coloured(picture)
    {
        return None;
    }
    let side = w.max(h).div_ceil(SQUARES);
    let tones = squares(picture, side);
    let reach = (tones.width.min(tones.height) / STROKE).max(3);
    let closed = closed(&tones, reach);
    let light = closed.blurred(1.0);
    let mut sorted = light.values.clone();
    sorted.sort_by(f32::total_cmp);
    let at = |part: usize| sorted[(sorted.len() - 1) * part / 100];
    let (dark, bright) = (at(2), at(98));
    if dark < DARK || 1.0 - dark / bright < LEAST_FALL || is_sharp(&closed) {
        return None;
    }
    let paper = tones
        .values
        .iter()
        .zip(&light.values)
        .filter(|(t, l)| **t > (1.0 - NEAR) * **l);
    if (paper.count() as f64) < LEAST_PAPER * tones.values.len() as f64 {
        return None;
    }
    let light = light.spread_over(side, w, h);
    let pixels = picture.pixels().par_iter().zip(&light.values);
    let pixels = pixels
        .map(|(&[r, g, b, a], &light)| {
            let gain = bright / light.max(DARK);
            let [r, g, b] = [r, g, b].map(|v| (f32::from(v) * gain).round().min(255.0) as u8);
            [r, g, b, a]
        })
        .collect();
    let picture = Picture::new(picture.width(), picture.height(), pixels).ok()?;
    let fall = f64::from(1.0 - dark / bright);
    Some(Levelled { picture, fall })
}

/// Whether the picture is more than paper and dark ink.
fn is_coloured(picture: &Picture) -> bool {
    let mut apart: Vec<u8> = picture
        .pixels()
        .iter()
        .step_by(7)
        .map(|p| p[..3].iter().max().unwrap_or(&0) - p[..3].iter().min().unwrap_or(&0))
        .collect();
    let at = apart.len() * 97 / 100;
    *apart.select_nth_unstable(at).1 > GREY
}

/// The mean tone of squares.
fn squares(picture: &Picture, side: usize) -> Plane {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let (across, down) = (w.div_ceil(side), h.div_ceil(side));
    let values = (0..across * down)
        .into_par_iter()
        .map(|at| {
            let columns = at % across * side..(at % across * side + side).min(w);
            let rows = at / across * side..(at / across * side + side).min(h);
            let count = columns.len() * rows.len();
            let all =
                rows.flat_map(|y| &picture.pixels()[y * w + columns.start..y * w + columns.end]);
            all.map(|&p| f32::from(luma(p))).sum::<f32>() / count as f32
        })
        .collect();
    Plane {
        width: across,
        height: down,
        values,
    }
}

/// Tones closed over so many steps. Beyond the border the outermost go on: a shadow that runs out of
/// the picture has its edge up to there.
fn closed(plane: &Plane, reach: usize) -> Plane {
    let pad = 2 * reach;
    let (width, height) = (plane.width + 2 * pad, plane.height + 2 * pad);
    let inside = |at: usize, all: usize| at.saturating_sub(pad).min(all - 1);
    let wide = Plane {
        width,
        height,
        values: (0..width * height)
            .map(|i| plane.row(inside(i / width, plane.height))[inside(i % width, plane.width)])
            .collect(),
    };
    let wide = least(&most(&wide, reach), reach);
    let rows = (pad..pad + plane.height).flat_map(|y| &wide.row(y)[pad..pad + plane.width]);
    Plane {
        values: rows.copied().collect(),
        ..*plane
    }
}

fn most(plane: &Plane, reach: usize) -> Plane {
    extreme(plane, reach, f32::max)
}

fn least(plane: &Plane, reach: usize) -> Plane {
    extreme(plane, reach, f32::min)
}

/// The greatest or least value within so many steps, across and down.
fn extreme(plane: &Plane, reach: usize, of: fn(f32, f32) -> f32) -> Plane {
    let (w, h) = (plane.width, plane.height);
    let over = |k: usize, all: usize| k.saturating_sub(reach)..(k + reach + 1).min(all);
    let along: Vec<f32> = (0..w * h)
        .map(|i| {
            let row = plane.row(i / w);
            let across = row[over(i % w, w)].iter().copied();
            across.reduce(of).unwrap_or(row[i % w])
        })
        .collect();
    let down = |i: usize| {
        let column = over(i / w, h).map(|y| along[y * w + i % w]);
        column.reduce(of).unwrap_or(along[i])
    };
    Plane {
        width: w,
        height: h,
        values: (0..w * h).map(down).collect(),
    }
}

/// Whether light falls as sharply as a drawn edge.
fn is_sharp(light: &Plane) -> bool {
    let (w, h) = (light.width, light.height);
    let falls = |a: f32, b: f32| (a - b).abs() > SHARPEST * a.max(b);
    let at = |x: usize, y: usize| light.values[y * w + x];
    let mut sharp = 0usize;
    for y in 0..h.saturating_sub(2) {
        for x in 0..w.saturating_sub(2) {
            let here = at(x, y);
            sharp += usize::from(falls(here, at(x + 2, y)) || falls(here, at(x, y + 2)));
        }
    }
    sharp as f64 > MOST_SHARP * (w * h) as f64
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Lines of dark dashes on paper, the right part under a factor of light that falls over some px.
    fn page(shadow: f64, over: f64, block: bool) -> Picture {
        let (w, h) = (300usize, 160usize);
        let pixels = (0..w * h).map(|i| {
            let (x, y) = (i % w, i / w);
            let part = ((x as f64 - 150.0) / over).clamp(0.0, 1.0);
            let light = 1.0 - shadow * part;
            let ink = (y % 20 < 4 && x % 14 < 9) || (block && (100..200).contains(&x));
            let v = (if ink { 30.0 } else { 235.0 } * light).round() as u8;
            [v, v, v, 255]
        });
        Picture::new(w as u32, h as u32, pixels.collect()).unwrap()
    }

    #[test]
    fn a_soft_shadow_is_divided_out_and_what_is_printed_stays() {
        let found = level(&page(0.6, 30.0, false)).unwrap();
        assert!((found.fall - 0.6).abs() < 0.05, "{}", found.fall);
        let at = |x: usize, y: usize| i32::from(found.picture.pixels()[y * 300 + x][0]);
        for x in [10, 120, 160, 165, 175, 290] {
            assert!((at(x, 12) - 235).abs() < 16, "{x}: {}", at(x, 12));
        }
        assert!(
            at(17, 2) < 60 && at(200, 2) < 60,
            "{} {}",
            at(17, 2),
            at(200, 2)
        );
    }

    #[test]
    fn a_shadow_that_runs_out_of_the_picture_aslant_goes_up_to_its_border() {
        let (w, h) = (300usize, 160usize);
        let pixels = (0..w * h).map(|i| {
            let (x, y) = ((i % w) as f64, (i / w) as f64);
            let light = 1.0 - 0.5 / (1.0 + (-(x - 120.0 - 0.5 * y) / 8.0).exp());
            let v = (235.0 * light).round() as u8;
            [v, v, v, 255]
        });
        let found = level(&Picture::new(w as u32, h as u32, pixels.collect()).unwrap()).unwrap();
        let tones = found.picture.pixels().iter().map(|p| p[0]);
        let (least, most) = tones.fold((255, 0), |(l, m), v| (v.min(l), v.max(m)));
        assert!(most - least < 24, "{least} to {most}");
    }

    #[test]
    fn even_paper_and_large_dark_shapes_are_left_alone() {
        assert!(level(&page(0.0, 30.0, false)).is_none());
        assert!(level(&page(0.0, 30.0, true)).is_none());
    }
}
