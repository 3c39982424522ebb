//! Photographs of flat things, taken by an invented telephone: perspective, a lens that bends, blur, falling light, grain.
//!
//! ```text
//!   a scene in mm ──turned, tilted, at a distance──► pinhole ──r · (1 + k r²)──► sensor ──blur, light, grain──► pixels
//! ```
//!
//! The truth is known: [`Camera::at`] says where in the picture each place of the scene lies. The lens is bent by the
//! polynomial of Brown 1971, "Close-range camera calibration", which is not the model that the program straightens with.

use kurbo::{Point, Vec2};

use crate::Raster;

/// A camera before a flat scene, whose y points down as in the picture.
#[derive(Clone, Copy, Debug)]
pub struct Camera {
    /// Size of the picture, px.
    pub size_px: (u32, u32),
    /// Focal length as a part of half the diagonal of the picture; 1.2 is a telephone's.
    pub focal: f64,
    /// Place of the scene that it looks at, mm.
    pub looks_at: Point,
    /// How far away it stands, mm.
    pub distance: f64,
    /// How far it stands to the side, above, and is turned about its own axis, degrees.
    pub angles: [f64; 3],
    /// By how much of its distance from the middle a corner of the picture is bent outwards, percent; barrels are below nought.
    pub lens: f64,
    /// Standard deviation of the blur, px.
    pub blur: f64,
    /// Standard deviation of the grain, levels.
    pub grain: f64,
    /// How much of the light is gone at the dark end.
    pub dusk: f64,
    /// The direction in which it gets darker, degrees in the picture.
    pub dusk_from: f64,
    /// For the grain.
    pub seed: u64,
}

impl Camera {
    /// A telephone straight in front of a place, so far away.
    #[must_use]
    pub fn before(looks_at: Point, distance: f64, size_px: (u32, u32)) -> Self {
        Self {
            size_px,
            focal: 1.2,
            looks_at,
            distance,
            angles: [0.0; 3],
            lens: 0.0,
            blur: 0.8,
            grain: 2.0,
            dusk: 0.0,
            dusk_from: 0.0,
            seed: 1,
        }
    }

    /// Where a place of the scene, mm, lies in the picture, px.
    #[must_use]
    pub fn at(&self, place: Point) -> Point {
        let d = place - self.looks_at;
        let [right, down, ahead] = self.turned([d.x, d.y, 0.0]);
        let seen = Vec2::new(right, down) * (self.focal / (ahead + self.distance));
        let bent = seen * (1.0 + self.lens / 100.0 * seen.hypot2());
        self.middle() + bent * self.reach()
    }

    /// The place of the scene that is seen here in the picture; `None` at and above the horizon.
    #[must_use]
    pub fn seen(&self, at: Point) -> Option<Point> {
        let bent = (at - self.middle()) / self.reach();
        // Newton's method for the length that is bent to this one.
        let (k, length) = (self.lens / 100.0, bent.hypot());
        let mut r = length;
        for _ in 0..if k == 0.0 { 0 } else { 8 } {
            r -= (r * (1.0 + k * r * r) - length) / (1.0 + 3.0 * k * r * r);
        }
        let seen = if length > 0.0 {
            bent * (r / length)
        } else {
            bent
        };
        // The ray through it, turned back, meets the scene where its third coordinate is nought.
        let ray = self.back([seen.x / self.focal, seen.y / self.focal, 1.0]);
        let eye = self.back([0.0, 0.0, -self.distance]);
        let t = -eye[2] / ray[2];
        (ray[2] > 1e-6 && t > 0.0)
            .then(|| self.looks_at + Vec2::new(eye[0] + ray[0] * t, eye[1] + ray[1] * t))
    }

    /// The photograph of a scene that says its colour, 0 to 255, at each place in mm; `beyond` is what lies above the horizon.
    #[must_use]
    pub fn take(&self, scene: impl Fn(Point) -> [f64; 3], beyond: [f64; 3]) -> Raster {
        let (w, h) = (self.size_px.0 as usize, self.size_px.1 as usize);
        let mut values = vec![[0.0f32; 3]; w * h];
        for (i, value) in values.iter_mut().enumerate() {
            // Four samples of each pixel: edges are as soft as a sensor makes them.
            for k in 0..4 {
                let within = Vec2::new(f64::from(k % 2) + 0.5, f64::from(k / 2) + 0.5) / 2.0;
                let at = Point::new((i % w) as f64, (i / w) as f64) + within;
                let colour = self.seen(at).map_or(beyond, &scene);
                for (sum, c) in value.iter_mut().zip(colour) {
                    *sum += c as f32 / 4.0;
                }
            }
        }
        let blurred = blurred(values, w, h, self.blur);
        let mut random = fastrand::Rng::with_seed(self.seed);
        let away = Vec2::from_angle(self.dusk_from.to_radians());
        let pixels = blurred.into_iter().enumerate().map(|(i, value)| {
            let at = Point::new((i % w) as f64, (i / w) as f64) - self.middle();
            let part = (0.5 + 0.5 * away.dot(at) / self.reach()).clamp(0.0, 1.0);
            let light = 1.0 - self.dusk * part;
            value.map(|v| {
                let grain = (0..6).map(|_| random.f64() - 0.5).sum::<f64>() * 1.414 * self.grain;
                (f64::from(v) * light + grain).round().clamp(0.0, 255.0) as u8
            })
        });
        Raster {
            width: self.size_px.0,
            height: self.size_px.1,
            pixels: pixels.collect(),
        }
    }

    fn middle(&self) -> Point {
        Point::new(
            f64::from(self.size_px.0) / 2.0,
            f64::from(self.size_px.1) / 2.0,
        )
    }

    fn reach(&self) -> f64 {
        self.middle().to_vec2().hypot()
    }

    /// From the scene's axes to the camera's.
    fn turned(&self, v: [f64; 3]) -> [f64; 3] {
        let [side, above, about] = self.angles.map(f64::to_radians);
        let [x, y, z] = v;
        let (x, z) = (
            x * side.cos() + z * side.sin(),
            z * side.cos() - x * side.sin(),
        );
        let (y, z) = (
            y * above.cos() + z * above.sin(),
            z * above.cos() - y * above.sin(),
        );
        let (x, y) = (
            x * about.cos() - y * about.sin(),
            x * about.sin() + y * about.cos(),
        );
        [x, y, z]
    }

    /// From the camera's axes to the scene's.
    fn back(&self, v: [f64; 3]) -> [f64; 3] {
        let [side, above, about] = self.angles.map(f64::to_radians);
        let [x, y, z] = v;
        let (x, y) = (
            x * about.cos() + y * about.sin(),
            y * about.cos() - x * about.sin(),
        );
        let (y, z) = (
            y * above.cos() - z * above.sin(),
            z * above.cos() + y * above.sin(),
        );
        let (x, z) = (
            x * side.cos() - z * side.sin(),
            z * side.cos() + x * side.sin(),
        );
        [x, y, z]
    }
}

/// A photograph as a telephone's file: JPEG.
#[must_use]
pub fn file(raster: &Raster, quality: u8) -> Vec<u8> {
    crate::spoil::jpeg(raster, quality)
}

/// The same after it was stored as a JPEG of this quality.
#[must_use]
pub fn compressed(raster: &Raster, quality: u8) -> Raster {
    let file = file(raster, quality);
    let stored = image::load_from_memory(&file).map(|i| i.to_rgb8().into_raw());
    let pixels = stored.map(|bytes| bytes.as_chunks::<3>().0.to_vec());
    Raster {
        pixels: pixels.unwrap_or_else(|_| raster.pixels.clone()),
        ..raster.clone()
    }
}

/// A Gaussian blur, row by row and column by column.
fn blurred(values: Vec<[f32; 3]>, w: usize, h: usize, sigma: f64) -> Vec<[f32; 3]> {
    let half = (3.0 * sigma).ceil() as i64;
    if sigma <= 0.0 {
        return values;
    }
    let weights: Vec<f32> = (-half..=half)
        .map(|k| (-0.5 * (k as f64 / sigma).powi(2)).exp() as f32)
        .collect();
    let sum: f32 = weights.iter().sum();
    let pass = |from: &[[f32; 3]], across: bool| -> Vec<[f32; 3]> {
        let one = |i: usize| {
            let (x, y) = ((i % w) as i64, (i / w) as i64);
            let mut value = [0.0; 3];
            for (k, weight) in (-half..=half).zip(&weights) {
                let (sx, sy) = if across { (x + k, y) } else { (x, y + k) };
                let at =
                    sy.clamp(0, h as i64 - 1) as usize * w + sx.clamp(0, w as i64 - 1) as usize;
                for (v, s) in value.iter_mut().zip(from[at]) {
                    *v += s * weight / sum;
                }
            }
            value
        };
        (0..w * h).map(one).collect()
    };
    pass(&pass(&values, true), false)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_seen_in_a_picture_lies_where_the_camera_says() {
        let camera = Camera {
            angles: [25.0, -14.0, 6.0],
            lens: -4.0,
            ..Camera::before(Point::new(30.0, -20.0), 900.0, (800, 600))
        };
        for place in [[0.0, 0.0], [180.0, 40.0], [-120.0, 90.0]] {
            let place = Point::new(place[0], place[1]);
            let back = camera.seen(camera.at(place)).unwrap();
            assert!((back - place).hypot() < 1e-6, "{place:?} {back:?}");
        }
    }
}
