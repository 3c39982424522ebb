//! Codes read in a picture.

use kurbo::{Point, Vec2};
use rqrr::{BitGrid, Grid, PreparedImage};

use super::super::code::{MODULES, QUIET};
use super::SCANNED;
use super::grey::Grey;
use crate::picture::Picture;

/// A picture with fewer pixels is read once more at twice its size, so that small modules have pixels enough.
const DOUBLED: u64 = 4_000_000;

/// What all codes in a picture say, in the order in which they are found.
#[must_use]
pub fn codes(picture: &Picture) -> Vec<String> {
    let small = picture.reduced(SCANNED);
    let once = read(&Grey::of(&small), 1);
    let few = u64::from(small.width()) * u64::from(small.height()) <= DOUBLED;
    if once.is_empty() && few {
        return read(&Grey::of(&small), 2);
    }
    once
}

/// Places that a module is the mean of, a side, within the middle half of it.
const TIMES: usize = 5;
/// Pixels of a module as it is given to the reader.
const DRAWN: usize = 4;
/// What blur took from a module by its four neighbours is given back by so much of their difference.
const SHARPER: f32 = 0.35;

/// What the code at a place says, its white margin included: `to_px` leads from parts of it, y down, to the picture's pixels.
/// Modules are looked at one by one, so that two pixels each will do.
pub(in crate::print) fn within(
    picture: &Picture,
    to_px: impl Fn(Point) -> Point,
) -> Option<String> {
    let grey = Grey::of(picture);
    let all = MODULES + 2 * QUIET;
    let mean = |x: usize, y: usize| -> f32 {
        let part = |module: usize, k: usize| {
            let within = 0.25 + 0.5 * (k as f64 + 0.5) / TIMES as f64;
            (module as f64 + within) / all as f64
        };
        let places = (0..TIMES * TIMES).map(|k| {
            let p = to_px(Point::new(part(x, k % TIMES), part(y, k / TIMES)));
            grey.at(p - Vec2::new(0.5, 0.5)).unwrap_or(255.0)
        });
        places.sum::<f32>() / (TIMES * TIMES) as f32
    };
    let light: Vec<f32> = (0..all * all).map(|i| mean(i % all, i / all)).collect();
    let sharp = |x: usize, y: usize| -> f32 {
        let own = light[y * all + x];
        if x == 0 || y == 0 || x + 1 == all || y + 1 == all {
            return own;
        }
        let around = [
            y * all + x - 1,
            y * all + x + 1,
            (y - 1) * all + x,
            (y + 1) * all + x,
        ];
        own + SHARPER * around.map(|i| own - light[i]).iter().sum::<f32>()
    };
    // Half way between the darkest and the lightest tenth.
    let mut sorted = light.clone();
    sorted.sort_by(f32::total_cmp);
    let level = (sorted[all * all / 10] + sorted[all * all * 9 / 10]) / 2.0;
    let side = all * DRAWN;
    let dark = |x: usize, y: usize| sharp(x / DRAWN, y / DRAWN) < level;
    said(&PreparedImage::prepare_from_bitmap(side, side, dark).detect_grids()).pop()
}

fn read(grey: &Grey, times: usize) -> Vec<String> {
    let (w, h) = (grey.w * times, grey.h * times);
    let light = |x: usize, y: usize| {
        let at = |v: usize| (v as f64 + 0.5) / times as f64 - 0.5;
        grey.at(Point::new(at(x), at(y))).unwrap_or(255.0) as u8
    };
    said(&PreparedImage::prepare_from_greyscale(w, h, light).detect_grids())
}

fn said(grids: &[Grid<impl BitGrid>]) -> Vec<String> {
    let read = grids.iter().filter_map(|g| g.decode().ok());
    read.map(|(_, said)| said).collect()
}
