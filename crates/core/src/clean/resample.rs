//! Resampling: a turn by any angle, an enlargement, a reduced copy.
//!
//! Turning interpolates with the cubic kernel of Keys 1981, "Cubic convolution interpolation for
//! digital image processing" (IEEE Trans. ASSP 29(6) 1153–1160), which keeps edges where they are
//! to third order; sizes are changed by `fast_image_resize`. Colours are weighed by their alpha.
//! The kernel overshoots beside an edge, and that would be a rim of another colour: no value leaves
//! the range of the four pixels around its place.

use fast_image_resize::images::Image;
use fast_image_resize::{FilterType, PixelType, ResizeAlg, ResizeOptions, Resizer};
use kurbo::Point;
use rayon::prelude::*;

use crate::clean::{Frame, Ground};
use crate::picture::Picture;
use crate::stop::{Stop, Stopped};

/// Turned clockwise into `frame`; what comes in at the corners is ground.
pub(super) fn turned(
    picture: &Picture,
    degrees: f64,
    frame: &Frame,
    stop: &Stop,
) -> Result<Picture, Stopped> {
    let ground = Ground::of(picture).colour;
    let (w, h) = (f64::from(picture.width()), f64::from(picture.height()));
    let (sin, cos) = degrees.to_radians().sin_cos();
    let (width, height) = (frame.width as usize, frame.height as usize);
    let middle = Point::new(width as f64 / 2.0, height as f64 / 2.0);
    let mut pixels = vec![ground; width * height];
    pixels
        .par_chunks_mut(width)
        .enumerate()
        .try_for_each(|(y, row)| {
            stop.check()?;
            let dy = y as f64 + 0.5 - middle.y;
            for (x, p) in row.iter_mut().enumerate() {
                let dx = x as f64 + 0.5 - middle.x;
                let from = Point::new(w / 2.0 + dx * cos + dy * sin, h / 2.0 - dx * sin + dy * cos);
                if let Some(found) = sample(picture, from, ground) {
                    *p = found;
                }
            }
            Ok::<(), Stopped>(())
        })?;
    Ok(picture.resampled(frame.width, frame.height, pixels))
}

/// A picture of one frame brought into another one; clear where it shows nothing.
pub(super) fn seen_from_the_front(
    picture: &Picture,
    from: &Frame,
    onto: &Frame,
    stop: &Stop,
) -> Result<Picture, Stopped> {
    const BEYOND: [u8; 4] = [255, 255, 255, 0];
    let (width, height) = (onto.width as usize, onto.height as usize);
    let (w, h) = (f64::from(picture.width()), f64::from(picture.height()));
    let back = onto.back();
    let mut pixels = vec![BEYOND; width * height];
    pixels
        .par_chunks_mut(width)
        .enumerate()
        .try_for_each(|(y, row)| {
            stop.check()?;
            for (x, p) in row.iter_mut().enumerate() {
                let place = back(Point::new(x as f64 + 0.5, y as f64 + 0.5));
                let at = from.to([place.x, place.y]);
                if at.x < 0.0 || at.y < 0.0 || at.x >= w || at.y >= h {
                    continue;
                }
                // Half a pixel beside the sides the nearest pixel goes on.
                let at = Point::new(at.x.clamp(1.0, w - 1.0), at.y.clamp(1.0, h - 1.0));
                if let Some(found) = sample(picture, at, BEYOND) {
                    *p = found;
                }
            }
            Ok::<(), Stopped>(())
        })?;
    Ok(picture.resampled(onto.width, onto.height, pixels))
}

/// Weights of the four pixels around a place `t` of the way from the second to the third.
fn weights(t: f32) -> [f32; 4] {
    let (t2, t3) = (t * t, t * t * t);
    [
        -0.5 * t + t2 - 0.5 * t3,
        1.0 - 2.5 * t2 + 1.5 * t3,
        0.5 * t + 2.0 * t2 - 1.5 * t3,
        -0.5 * t2 + 0.5 * t3,
    ]
}

/// The picture at a place, ground beyond its sides; `None` well outside.
pub(crate) fn sample(picture: &Picture, at: Point, ground: [u8; 4]) -> Option<[u8; 4]> {
    let (w, h) = (picture.width() as i64, picture.height() as i64);
    let (x, y) = (at.x - 0.5, at.y - 0.5);
    let (x0, y0) = (x.floor(), y.floor());
    let (across, down) = (weights((x - x0) as f32), weights((y - y0) as f32));
    let (x0, y0) = (x0 as i64 - 1, y0 as i64 - 1);
    if x0 + 3 < 0 || y0 + 3 < 0 || x0 >= w || y0 >= h {
        return None;
    }
    let mut sum = [0.0f32; 4];
    for (j, v) in down.into_iter().enumerate() {
        for (i, u) in across.into_iter().enumerate() {
            let (x, y) = (x0 + i as i64, y0 + j as i64);
            let inside = (0..w).contains(&x) && (0..h).contains(&y);
            let p = if inside {
                picture.pixels()[(y * w + x) as usize]
            } else {
                ground
            };
            let alpha = f32::from(p[3]) * u * v;
            for c in 0..3 {
                sum[c] += f32::from(p[c]) * alpha;
            }
            sum[3] += alpha;
        }
    }
    if sum[3] < 0.5 {
        return Some([0; 4]);
    }
    let value = |v: f32| (v / sum[3]).round().clamp(0.0, 255.0) as u8;
    let alpha = sum[3].round().clamp(0.0, 255.0) as u8;
    let found = [value(sum[0]), value(sum[1]), value(sum[2]), alpha];
    Some(within(found, around(picture, x0 + 1, y0 + 1)))
}

/// The four pixels from (x, y) on, those beyond the sides as the nearest inside.
fn around(picture: &Picture, x: i64, y: i64) -> [[u8; 4]; 4] {
    let (w, h) = (picture.width() as i64, picture.height() as i64);
    let at =
        |x: i64, y: i64| picture.pixels()[(y.clamp(0, h - 1) * w + x.clamp(0, w - 1)) as usize];
    [at(x, y), at(x + 1, y), at(x, y + 1), at(x + 1, y + 1)]
}

/// A pixel kept within the range of others, channel by channel.
fn within(p: [u8; 4], others: [[u8; 4]; 4]) -> [u8; 4] {
    let least = |c: usize| others.iter().map(|o| o[c]).min().unwrap_or(0);
    let most = |c: usize| others.iter().map(|o| o[c]).max().unwrap_or(255);
    std::array::from_fn(|c| p[c].clamp(least(c), most(c)))
}

/// Enlarged `factor` times with a smooth kernel.
pub(super) fn enlarged(picture: &Picture, factor: u8, stop: &Stop) -> Result<Picture, Stopped> {
    stop.check()?;
    let k = u32::from(factor);
    let size = (picture.width() * k, picture.height() * k);
    let smooth = resized(picture, size, FilterType::CatmullRom);
    stop.check()?;
    let mut pixels = smooth.pixels().to_vec();
    let row_px = size.0 as usize;
    pixels
        .par_chunks_mut(row_px)
        .enumerate()
        .for_each(|(y, row)| {
            let before = |v: usize| ((v as f64 + 0.5) / f64::from(k) - 0.5).floor() as i64;
            for (x, p) in row.iter_mut().enumerate() {
                *p = within(*p, around(picture, before(x), before(y)));
            }
        });
    Ok(smooth.repixelled(pixels))
}

impl Picture {
    /// A copy with at most so many pixels, for a preview; as it is where it has no more.
    #[must_use]
    pub fn reduced(&self, most: u64) -> Self {
        let (w, h) = (self.width(), self.height());
        let pixels = u64::from(w) * u64::from(h);
        if pixels <= most {
            return self.clone();
        }
        // By a whole number, so that a pixel is the mean of whole pixels and edges stay as sharp.
        let k = (pixels as f64 / most as f64).sqrt().ceil();
        let side = |v: u32| ((f64::from(v) / k).round() as u32).max(1);
        resized(self, (side(w), side(h)), FilterType::Box)
    }
}

/// Resized; as it is where that cannot be done.
fn resized(picture: &Picture, (width, height): (u32, u32), filter: FilterType) -> Picture {
    let source = picture.pixels().as_flattened().to_vec();
    let made = || -> Option<Picture> {
        let (w, h) = (picture.width(), picture.height());
        let source = Image::from_vec_u8(w, h, source, PixelType::U8x4).ok()?;
        let mut target = Image::new(width, height, PixelType::U8x4);
        let options = ResizeOptions::new().resize_alg(ResizeAlg::Convolution(filter));
        Resizer::new().resize(&source, &mut target, &options).ok()?;
        let pixels = target.into_vec().as_chunks::<4>().0.to_vec();
        Some(picture.resampled(width, height, pixels))
    };
    made().unwrap_or_else(|| picture.clone())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::clean::Action;

    /// A dark rectangle on white, its sides at half pixels.
    fn rectangle() -> Picture {
        let pixels = (0..120 * 90)
            .map(|i| {
                let (x, y) = ((i % 120) as f64, (i / 120) as f64);
                let part =
                    |v: f64, from: f64, to: f64| (to.min(v + 1.0) - from.max(v)).clamp(0.0, 1.0);
                let covered = part(x, 30.5, 95.25) * part(y, 20.0, 60.5);
                let v = (255.0 - 235.0 * covered).round() as u8;
                [v, v, v, 255]
            })
            .collect();
        Picture::new(120, 90, pixels).unwrap()
    }

    /// Area and centre of what is dark.
    fn dark(picture: &Picture) -> (f64, Point) {
        let w = picture.width() as usize;
        let (mut area, mut sum) = (0.0, kurbo::Vec2::ZERO);
        for (i, p) in picture.pixels().iter().enumerate() {
            let part = (255.0 - f64::from(p[0])) / 235.0;
            area += part;
            sum += kurbo::Vec2::new((i % w) as f64 + 0.5, (i / w) as f64 + 0.5) * part;
        }
        (area, (sum / area).to_point())
    }

    #[test]
    fn a_turn_keeps_areas_and_moves_everything_where_the_frame_says() {
        let picture = rectangle();
        let (area, centre) = dark(&picture);
        for degrees in [7.0, -33.0, 90.0] {
            let action = Action::Turn {
                degrees,
                found: false,
            };
            let frame = Frame::new(120, 90).after(&action);
            let after = turned(&picture, degrees, &frame, &Stop::new()).unwrap();
            let (after_area, after_centre) = dark(&after);
            // The kernel overshoots; white cannot, so a little is missing there.
            assert!(
                (after_area / area - 1.0).abs() < 4e-3,
                "{degrees}: {after_area}"
            );
            let expected = frame.to([centre.x, centre.y]);
            assert!(
                after_centre.distance(expected) < 0.02,
                "{degrees}: {after_centre:?}"
            );
        }
    }

    #[test]
    fn enlarging_keeps_edges_where_they_were() {
        let picture = rectangle();
        let (area, centre) = dark(&picture);
        for factor in 2..=4u8 {
            let after = enlarged(&picture, factor, &Stop::new()).unwrap();
            let k = f64::from(factor);
            let (after_area, after_centre) = dark(&after);
            assert!((after_area / (area * k * k) - 1.0).abs() < 2e-3);
            assert!(after_centre.distance(Point::new(centre.x * k, centre.y * k)) < 0.05);
        }
        assert_eq!(picture.reduced(1_000).pixels().len(), 30 * 23);
    }
}
