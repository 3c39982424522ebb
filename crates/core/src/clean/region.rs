//! Regions by pointing: what is like the colour under the pointer, connected to it or everywhere.
//!
//! ```text
//!   ground │░▒▓│ ink     the region ends somewhere in the mixed pixels of an edge; each of them is
//!     g  ──┴─┬─┴── f     parted into ground g and ink f again, and only the ground's part changes
//!          part of f
//! ```
//!
//! So clearing leaves no pale rim, and filling no dark one.

use crate::clean::raster::between;
use crate::clean::{Frame, Pointed};
use crate::inks::{Rgb, difference};
use crate::picture::Picture;
use crate::stop::{Stop, Stopped};

/// The pixels of a region.
#[derive(Clone, Debug)]
pub struct Region {
    /// Width of the picture, px.
    pub width: usize,
    /// Whether each pixel belongs to it, rows from the top.
    pub on: Vec<bool>,
    /// The colour it was found by; alpha 0 for a clear region.
    pub colour: [u8; 4],
}

/// Alpha below which a pixel is clear.
const CLEAR: u8 = 16;
/// Pixels around the pointer that tell its colour, and how like it they must be.
const AROUND: usize = 2;
const LIKE: u8 = 24;
/// Pixels to each side of the region's end that may be mixed.
const RIM: usize = 2;
/// How far an unmixed pixel is looked for.
const REACH: usize = 3;

impl Pointed {
    /// The same in px of a picture with this frame.
    #[must_use]
    pub fn moved(self, frame: &Frame) -> Self {
        let at = frame.to(self.at);
        Self {
            at: [at.x, at.y],
            ..self
        }
    }
}

impl Region {
    /// Finds it; `pointed` in px of this picture. `None` beside the picture.
    ///
    /// # Errors
    /// [`Stopped`] when `stop` was set.
    pub fn find(picture: &Picture, pointed: Pointed, stop: &Stop) -> Result<Option<Self>, Stopped> {
        let (w, h) = (picture.width() as usize, picture.height() as usize);
        let [x, y] = pointed.at.map(f64::floor);
        if x < 0.0 || y < 0.0 || x >= w as f64 || y >= h as f64 {
            return Ok(None);
        }
        let seed = y as usize * w + x as usize;
        let colour = colour_around(picture, x as usize, y as usize);
        let mut like = Likeness::new(colour, pointed.tolerance);
        let pixels = picture.pixels();
        let mut on = vec![false; pixels.len()];
        if pointed.everywhere {
            for (row, p) in on.chunks_mut(w).zip(pixels.chunks(w)) {
                stop.check()?;
                for (on, &p) in row.iter_mut().zip(p) {
                    *on = like.has(p);
                }
            }
        } else {
            flood(&mut on, pixels, w, seed, &mut like, stop)?;
        }
        on[seed] = true;
        Ok(Some(Self {
            width: w,
            on,
            colour,
        }))
    }

    /// The pixels near its end, on both sides, in reading order.
    fn rim(&self) -> Vec<usize> {
        let (w, h) = (self.width, self.on.len() / self.width);
        let mut near = vec![false; self.on.len()];
        let mut mark = |x: usize, y: usize| {
            for yy in y.saturating_sub(RIM - 1)..(y + RIM).min(h) {
                let row = yy * w;
                near[row + x.saturating_sub(RIM - 1)..row + (x + RIM).min(w)].fill(true);
            }
        };
        for y in 0..h {
            for x in 0..w {
                let i = y * w + x;
                let right = x + 1 < w && self.on[i] != self.on[i + 1];
                let below = y + 1 < h && self.on[i] != self.on[i + w];
                if right {
                    mark(x, y);
                    mark(x + 1, y);
                }
                if below {
                    mark(x, y);
                    mark(x, y + 1);
                }
            }
        }
        (0..near.len()).filter(|&i| near[i]).collect()
    }

    /// Every pixel with a part in the region, that part, and the colour of its other part.
    fn parts(&self, picture: &Picture) -> Vec<(usize, f32, [u8; 4])> {
        let pixels = picture.pixels();
        let mut mixed = vec![None; 0];
        let rim = self.rim();
        mixed.extend(rim.iter().map(|&i| self.part(pixels, i)));
        let mut parts = Vec::new();
        let mut next = 0;
        for (i, &on) in self.on.iter().enumerate() {
            if rim.get(next) == Some(&i) {
                if let Some((part, other)) = mixed[next] {
                    parts.push((i, part, other));
                } else if on {
                    parts.push((i, 1.0, [0; 4]));
                }
                next += 1;
            } else if on {
                parts.push((i, 1.0, [0; 4]));
            }
        }
        parts
    }

    /// The region's part of a pixel near its end and the colour of the other part; `None` where
    /// there is nothing to tell the two apart by.
    fn part(&self, pixels: &[[u8; 4]], i: usize) -> Option<(f32, [u8; 4])> {
        let (w, h) = (self.width, self.on.len() / self.width);
        let (x, y) = (i % w, i / w);
        let apart = |a: [u8; 4], b: [u8; 4]| -> i32 {
            (0..4)
                .map(|c| (i32::from(a[c]) - i32::from(b[c])).pow(2))
                .sum()
        };
        let (mut ground, mut count) = ([0u32; 4], 0u32);
        let mut other: Option<(i32, [u8; 4])> = None;
        for yy in y.saturating_sub(REACH)..(y + REACH + 1).min(h) {
            for xx in x.saturating_sub(REACH)..(x + REACH + 1).min(w) {
                let j = yy * w + xx;
                if self.on[j] {
                    count += 1;
                    for (g, &v) in ground.iter_mut().zip(&pixels[j]) {
                        *g += u32::from(v);
                    }
                } else {
                    let far = apart(pixels[j], self.colour);
                    if other.is_none_or(|(most, _)| far > most) {
                        other = Some((far, pixels[j]));
                    }
                }
            }
        }
        let (_, other) = other?;
        let ground = if count > 0 {
            ground.map(|g| (g / count) as u8)
        } else {
            self.colour
        };
        let (mut along, mut length) = (0.0f32, 0.0f32);
        for c in 0..4 {
            let way = f32::from(ground[c]) - f32::from(other[c]);
            along += way * (f32::from(pixels[i][c]) - f32::from(other[c]));
            length += way * way;
        }
        if length < 1.0 {
            return None;
        }
        let part = (along / length).clamp(0.0, 1.0);
        // Nearly all and nearly nothing are noise.
        let part = if part < 0.03 {
            0.0
        } else if part > 0.97 {
            1.0
        } else {
            part
        };
        Some((part, other))
    }
}

/// The picture with a region clear.
pub(super) fn cleared(
    picture: &Picture,
    pointed: Pointed,
    stop: &Stop,
) -> Result<Picture, Stopped> {
    changed(picture, pointed, [0; 4], stop)
}

/// The picture with a region in another colour.
pub(super) fn filled(
    picture: &Picture,
    pointed: Pointed,
    colour: Rgb,
    stop: &Stop,
) -> Result<Picture, Stopped> {
    let [r, g, b] = colour.0;
    changed(picture, pointed, [r, g, b, 255], stop)
}

fn changed(
    picture: &Picture,
    pointed: Pointed,
    to: [u8; 4],
    stop: &Stop,
) -> Result<Picture, Stopped> {
    let Some(region) = Region::find(picture, pointed, stop)? else {
        return Ok(picture.clone());
    };
    stop.check()?;
    let mut pixels = picture.pixels().to_vec();
    for (i, part, other) in region.parts(picture) {
        if part > 0.0 {
            pixels[i] = between(other, to, part);
        }
    }
    Ok(picture.repainted(pixels))
}

/// Mean of the pixels around a place that are like the one there.
fn colour_around(picture: &Picture, x: usize, y: usize) -> [u8; 4] {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let here = picture.pixels()[y * w + x];
    if here[3] < CLEAR {
        return [0; 4];
    }
    let (mut sum, mut count) = ([0u32; 4], 0u32);
    for yy in y.saturating_sub(AROUND)..(y + AROUND + 1).min(h) {
        for p in
            &picture.pixels()[yy * w + x.saturating_sub(AROUND)..yy * w + (x + AROUND + 1).min(w)]
        {
            if (0..4).all(|c| here[c].abs_diff(p[c]) <= LIKE) {
                count += 1;
                for (s, &v) in sum.iter_mut().zip(p) {
                    *s += u32::from(v);
                }
            }
        }
    }
    sum.map(|s| ((s + count / 2) / count.max(1)) as u8)
}

/// Whether colours look like one, remembered for each of 64³ cells.
struct Likeness {
    colour: Option<Rgb>,
    tolerance: f64,
    known: Vec<Option<bool>>,
}

impl Likeness {
    fn new([r, g, b, a]: [u8; 4], tolerance: f64) -> Self {
        Self {
            colour: (a >= CLEAR).then_some(Rgb([r, g, b])),
            tolerance,
            known: vec![None; 1 << 18],
        }
    }

    fn has(&mut self, [r, g, b, a]: [u8; 4]) -> bool {
        let Some(colour) = self.colour else {
            return a < CLEAR;
        };
        if a < 128 {
            return false;
        }
        let cell = usize::from(r >> 2) << 12 | usize::from(g >> 2) << 6 | usize::from(b >> 2);
        let tolerance = self.tolerance;
        *self.known[cell].get_or_insert_with(|| {
            // The place in the cell that is nearest to the colour.
            let near = |v: u8, value: u8| value.clamp(v & !3, v | 3);
            let [cr, cg, cb] = colour.0;
            let nearest = Rgb([near(r, cr), near(g, cg), near(b, cb)]);
            difference(nearest, colour) <= tolerance
        })
    }
}

/// Marks what is connected to a pixel through sides, row span by row span.
fn flood(
    on: &mut [bool],
    pixels: &[[u8; 4]],
    w: usize,
    seed: usize,
    like: &mut Likeness,
    stop: &Stop,
) -> Result<(), Stopped> {
    let h = pixels.len() / w;
    let mut waiting = vec![seed];
    let mut spans = 0u32;
    while let Some(i) = waiting.pop() {
        if on[i] {
            continue;
        }
        spans = spans.wrapping_add(1);
        if spans.is_multiple_of(1024) {
            stop.check()?;
        }
        let row = i / w * w;
        let (mut from, mut to) = (i, i + 1);
        while from > row && !on[from - 1] && like.has(pixels[from - 1]) {
            from -= 1;
        }
        while to < row + w && !on[to] && like.has(pixels[to]) {
            to += 1;
        }
        on[from..to].fill(true);
        for (next, there) in [(from.wrapping_sub(w), row > 0), (from + w, row / w + 1 < h)] {
            if !there {
                continue;
            }
            let mut inside = false;
            for j in next..next + (to - from) {
                let open = !on[j] && like.has(pixels[j]);
                if open && !inside {
                    waiting.push(j);
                }
                inside = open;
            }
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A red disc with a white hole on white, softly edged.
    fn ring(size: usize) -> Picture {
        let middle = size as f64 / 2.0;
        let pixels = (0..size * size)
            .map(|i| {
                let (x, y) = ((i % size) as f64 + 0.5, (i / size) as f64 + 0.5);
                let r = (x - middle).hypot(y - middle);
                let part = (0.5 + middle * 0.8 - r).clamp(0.0, 1.0)
                    - (0.5 + middle * 0.4 - r).clamp(0.0, 1.0);
                let mix = |ink: f64| (255.0 + (ink - 255.0) * part).round() as u8;
                [mix(200.0), mix(30.0), mix(40.0), 255]
            })
            .collect();
        Picture::new(size as u32, size as u32, pixels).unwrap()
    }

    fn pointed(everywhere: bool) -> Pointed {
        Pointed {
            at: [1.5, 1.5],
            tolerance: 10.0,
            everywhere,
        }
    }

    #[test]
    fn clearing_leaves_the_inks_coverage_as_alpha_and_no_pale_rim() {
        let picture = ring(80);
        let after = cleared(&picture, pointed(true), &Stop::new()).unwrap();
        let area: f64 = after.pixels().iter().map(|p| f64::from(p[3]) / 255.0).sum();
        let expected = std::f64::consts::PI * (32.0f64.powi(2) - 16.0f64.powi(2));
        assert!((area / expected - 1.0).abs() < 0.01, "{area} of {expected}");
        for p in after.pixels().iter().filter(|p| p[3] > 0) {
            assert!(p[0].abs_diff(200) < 12 && p[1].abs_diff(30) < 12, "{p:?}");
        }
    }

    #[test]
    fn connected_leaves_what_is_enclosed() {
        let after = cleared(&ring(80), pointed(false), &Stop::new()).unwrap();
        assert_eq!(after.pixels()[40 * 80 + 40], [255; 4]);
        assert_eq!(after.pixels()[0][3], 0);
    }

    #[test]
    fn filling_leaves_the_edge_where_it_was() {
        let colour = Rgb([20, 60, 120]);
        let after = filled(&ring(80), pointed(true), colour, &Stop::new()).unwrap();
        assert_eq!(after.pixels()[40 * 80 + 40], [20, 60, 120, 255]);
        // Red's part of every pixel is what it was.
        let part = |p: &[u8; 4]| (f64::from(p[0]) - 20.0) / 180.0;
        let area: f64 = after.pixels().iter().map(part).sum();
        let expected = std::f64::consts::PI * (32.0f64.powi(2) - 16.0f64.powi(2));
        assert!((area / expected - 1.0).abs() < 0.01, "{area} of {expected}");
    }

    #[test]
    fn pointing_beside_the_picture_changes_nothing() {
        let beside = Pointed {
            at: [-3.0, 500.0],
            ..pointed(true)
        };
        let picture = ring(20);
        let after = cleared(&picture, beside, &Stop::new()).unwrap();
        assert_eq!(after.pixels(), picture.pixels());
    }
}
