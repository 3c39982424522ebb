//! Isolating: what lies outside the main outline, or outside chosen areas, becomes ground.

use crate::clean::raster::Coverage;
use crate::clean::{Frame, Ground};
use crate::picture::Picture;
use crate::picture::Place;
use crate::stop::{Stop, Stopped};

/// How far a pixel must be off the ground to be drawn, 0 to 255, the picture being clean or noisy.
const DRAWN: u8 = 40;
/// Soft pixels that an outline keeps around it, px.
const SOFT: usize = 2;

/// Only the main outline and what it encloses is left: the part drawn over the greatest box.
pub(super) fn main_only(picture: &Picture, stop: &Stop) -> Result<Picture, Stopped> {
    let ground = Ground::of(picture);
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let drawn: Vec<bool> = picture
        .pixels()
        .iter()
        .enumerate()
        .map(|(i, &p)| ground.off(p, i % w, i / w) > DRAWN)
        .collect();
    stop.check()?;
    let Some(main) = greatest_part(&drawn, w) else {
        return Ok(picture.clone());
    };
    stop.check()?;
    let outside = outside(&main, w);
    let kept = grown(&outside, w, h);
    let mut pixels = picture.pixels().to_vec();
    for (i, p) in pixels.iter_mut().enumerate() {
        if outside[i] && !kept[i] {
            *p = ground.at(i % w, i / w);
        }
    }
    Ok(picture.repainted(pixels))
}

/// Only what lies inside the outlines is left, each in px of the original.
pub(super) fn areas_only(
    picture: &Picture,
    areas: &[Vec<Place>],
    frame: &Frame,
    stop: &Stop,
) -> Result<Picture, Stopped> {
    let size = (picture.width(), picture.height());
    let here = |outline: &Vec<Place>| -> Vec<Place> {
        let moved = outline.iter().map(|&p| frame.to(p));
        moved.map(|p| [p.x, p.y]).collect()
    };
    let mut covered = vec![0.0f32; picture.pixels().len()];
    for area in areas.iter().filter(|a| a.len() > 2) {
        stop.check()?;
        let one = Coverage::of_outlines(size, &[here(area)]);
        for (all, part) in covered.iter_mut().zip(one.part) {
            *all = all.max(part);
        }
    }
    let ground = Ground::of(picture);
    let rest = Coverage {
        part: covered.into_iter().map(|part| 1.0 - part).collect(),
        ..Coverage::none(size, (0.0, 0.0), (0.0, 0.0))
    };
    let rest = Coverage {
        width: size.0 as usize,
        height: size.1 as usize,
        ..rest
    };
    Ok(rest.lay(picture, |x, y| ground.at(x, y)))
}

/// Of all parts connected through sides or corners, the one with the greatest box around it.
fn greatest_part(drawn: &[bool], w: usize) -> Option<Vec<bool>> {
    let h = drawn.len() / w;
    let mut part_of = vec![0u32; drawn.len()];
    let (mut best, mut parts) = (None::<(usize, usize, u32)>, 0u32);
    let mut waiting = Vec::new();
    for start in 0..drawn.len() {
        if !drawn[start] || part_of[start] > 0 {
            continue;
        }
        parts += 1;
        part_of[start] = parts;
        waiting.push(start);
        let (mut x0, mut x1, y0, mut y1, mut count) = (w, 0, start / w, 0, 0);
        while let Some(i) = waiting.pop() {
            let (x, y) = (i % w, i / w);
            (x0, x1, y1) = (x0.min(x), x1.max(x), y1.max(y));
            count += 1;
            for yy in y.saturating_sub(1)..(y + 2).min(h) {
                for xx in x.saturating_sub(1)..(x + 2).min(w) {
                    let j = yy * w + xx;
                    if drawn[j] && part_of[j] == 0 {
                        part_of[j] = parts;
                        waiting.push(j);
                    }
                }
            }
        }
        let size = ((x1 - x0 + 1) * (y1 - y0 + 1), count);
        if best.is_none_or(|(a, c, _)| size > (a, c)) {
            best = Some((size.0, size.1, parts));
        }
    }
    best.map(|(.., main)| part_of.iter().map(|&p| p == main).collect())
}

/// What can be reached from the border without crossing `main`.
fn outside(main: &[bool], w: usize) -> Vec<bool> {
    let h = main.len() / w;
    let mut out = vec![false; main.len()];
    let border = (0..w)
        .flat_map(|x| [x, (h - 1) * w + x])
        .chain((0..h).flat_map(|y| [y * w, y * w + w - 1]));
    let mut waiting: Vec<usize> = border.filter(|&i| !main[i]).collect();
    for &i in &waiting {
        out[i] = true;
    }
    while let Some(i) = waiting.pop() {
        let x = i % w;
        let around = [
            (x > 0).then(|| i - 1),
            (x + 1 < w).then(|| i + 1),
            (i >= w).then(|| i - w),
            (i + w < main.len()).then(|| i + w),
        ];
        for j in around.into_iter().flatten() {
            if !main[j] && !out[j] {
                out[j] = true;
                waiting.push(j);
            }
        }
    }
    out
}

/// Whether a pixel lies within a few px of what is not outside.
fn grown(outside: &[bool], w: usize, h: usize) -> Vec<bool> {
    let mut along = vec![false; outside.len()];
    for (row, out) in along.chunks_mut(w).zip(outside.chunks(w)) {
        for x in (0..w).filter(|&x| !out[x]) {
            row[x.saturating_sub(SOFT)..(x + SOFT + 1).min(w)].fill(true);
        }
    }
    let mut near = vec![false; outside.len()];
    for y in 0..h {
        for yy in y.saturating_sub(SOFT)..(y + SOFT + 1).min(h) {
            for x in 0..w {
                near[y * w + x] |= along[yy * w + x];
            }
        }
    }
    near
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A dark ring with a dot inside it and two dots outside.
    fn ring_and_dots() -> Picture {
        let dots = [(50.0, 50.0), (8.0, 8.0), (92.0, 60.0)];
        let pixels = (0..100 * 100)
            .map(|i| {
                let (x, y) = ((i % 100) as f64 + 0.5, (i / 100) as f64 + 0.5);
                let ring = (25.0..33.0).contains(&(x - 50.0).hypot(y - 50.0));
                let dot = dots.iter().any(|&(a, b)| (x - a).hypot(y - b) < 4.0);
                if ring || dot {
                    [20, 20, 60, 255]
                } else {
                    [250, 248, 240, 255]
                }
            })
            .collect();
        Picture::new(100, 100, pixels).unwrap()
    }

    #[test]
    fn dots_around_the_main_outline_go_and_those_inside_it_stay() {
        let after = main_only(&ring_and_dots(), &Stop::new()).unwrap();
        let at = |x: usize, y: usize| after.pixels()[y * 100 + x];
        assert_eq!(at(50, 50), [20, 20, 60, 255], "inside");
        assert_eq!(at(50, 22), [20, 20, 60, 255], "the ring");
        assert_eq!(at(8, 8), [250, 248, 240, 255]);
        assert_eq!(at(92, 60), [250, 248, 240, 255]);
    }

    #[test]
    fn areas_keep_what_they_hold() {
        let square =
            |x: f64, y: f64| vec![[x, y], [x + 16.0, y], [x + 16.0, y + 16.0], [x, y + 16.0]];
        let areas = [square(0.0, 0.0), square(42.0, 42.0)];
        let frame = Frame::new(100, 100);
        let after = areas_only(&ring_and_dots(), &areas, &frame, &Stop::new()).unwrap();
        let dark = |x: usize, y: usize| after.pixels()[y * 100 + x][0] < 100;
        assert!(dark(8, 8) && dark(50, 50));
        assert!(!dark(50, 22) && !dark(92, 60));
    }

    #[test]
    fn an_empty_picture_stays_as_it_is() {
        let white = Picture::new(9, 7, vec![[255; 4]; 63]).unwrap();
        assert_eq!(
            main_only(&white, &Stop::new()).unwrap().pixels(),
            white.pixels()
        );
    }
}
