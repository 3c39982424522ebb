//! Cast: the soft shadow that drawn shapes throw on their ground, and the picture without it.
//!
//! ```text
//!   ground ▁▁▂▃▅▇ shape      a shade is the ground's own colour, darker; it changes slowly, and ends
//!          ╰shade╯           at the sharp edge of what throws it
//! ```
//!
//! A shade has no edge that a blade could follow: parted into inks it becomes rings of grey. So its
//! pixels are given back to the ground, and those on the edge of a shape keep the part that the shape
//! covers. A blurred shape fades into its ground too, but has no sharp edge; a grey shape is flat.
//! Own method.

use std::sync::Arc;

use rayon::prelude::*;

use crate::picture::Picture;

/// Share of the border that is of the ground's colour, and steps of colour within which it is.
const LEAST_BORDER: f64 = 0.5;
const STEP: u8 = 4;
/// Darker grounds show no shade, 0 to 255.
const LIGHT: f32 = 120.0;
/// A shade's colour lies this near to a darker ground's, 0 to 255.
const NEAR: f32 = 8.0;
/// A shade is the ground times a factor between these …
const DARKEST: f32 = 0.2;
const LIGHTEST: f32 = 0.985;
/// … which differs by less than this among next neighbours; a flat grey by less than the other.
const SLOW: f32 = 0.2;
const FLAT: f32 = 0.012;
/// What grain adds to that among nine neighbours, in standard deviations.
const GRAIN: f32 = 5.0;
/// From here on a shade is dark enough to become an ink.
const DARK: f32 = 0.9;
/// Share of the picture that is dark shade all around, and part of it that may be flat.
const LEAST_SHARE: f64 = 0.008;
const MOST_FLAT: f64 = 0.3;
/// Part of the dark shade that lies beside a sharp edge, and what is one, 0 to 255.
const LEAST_SHARP: f64 = 0.1;
const SHARP: f32 = 90.0;
/// A larger picture without a shade in a reduced copy has none, px.
const ENOUGH_PX: u64 = 300_000;
/// Pixels each way that are looked at around a pixel.
const AROUND: usize = 2;

/// Which pixels of a picture are shade.
#[derive(Clone, Debug)]
pub struct Cast {
    /// Columns.
    pub width: usize,
    /// Whether each pixel was shade, rows from the top.
    pub shaded: Vec<bool>,
}

/// The picture without the shade, and where it was; `None` where there is none. `noise` is a standard
/// deviation, 0 to 255.
pub(super) fn without(picture: &Picture, noise: f64) -> Option<(Picture, Arc<Cast>)> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    if (w * h) as u64 > ENOUGH_PX {
        without(&picture.reduced(ENOUGH_PX), noise)?;
    }
    if w.min(h) < 24 || picture.pixels().iter().any(|p| p[3] < 255) {
        return None;
    }
    let ground = ground(picture)?;
    let scene = Scene::new(picture, ground);
    let shaded: Vec<bool> = (0..w * h)
        .into_par_iter()
        .map(|i| scene.is_shade(i))
        .collect();
    let dark = |&i: &usize| shaded[i] && scene.factor[i] < DARK;
    let all: Vec<usize> = (0..w * h).filter(dark).collect();
    let inner = all.iter().filter(|&&i| scene.around(i).all(|j| shaded[j]));
    let level = FLAT + GRAIN * noise as f32 / 255.0;
    let flat = all.iter().filter(|&&i| scene.rise(i) < level).count() as f64;
    let sharp = all.iter().filter(|&&i| scene.is_beside_sharp(i)).count() as f64;
    let found = inner.count() as f64 >= LEAST_SHARE * (w * h) as f64
        && flat <= MOST_FLAT * all.len() as f64
        && sharp >= LEAST_SHARP * all.len() as f64;
    if !found {
        return None;
    }
    let pixels: Vec<[u8; 4]> = (0..w * h)
        .into_par_iter()
        .map(|i| scene.without_shade(i, &shaded))
        .collect();
    let picture = Picture::new(picture.width(), picture.height(), pixels).ok()?;
    Some((picture, Arc::new(Cast { width: w, shaded })))
}

/// The colour that most of the border has, where it is light.
fn ground(picture: &Picture) -> Option<[f32; 3]> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let rows = (0..w).flat_map(|x| [x, (h - 1) * w + x]);
    let border = rows.chain((0..h).flat_map(|y| [y * w, y * w + w - 1]));
    let mut colours: Vec<[u8; 3]> = border
        .map(|i| {
            let [r, g, b, _] = picture.pixels()[i];
            [r, g, b]
        })
        .collect();
    let step = |c: &[u8; 3]| c.map(|v| v / STEP);
    colours.sort_unstable_by_key(|c| (step(c), *c));
    let same = colours.chunk_by(|a, b| step(a) == step(b));
    let most = same.max_by_key(|pixels| pixels.len())?;
    if (most.len() as f64) < LEAST_BORDER * colours.len() as f64 {
        return None;
    }
    let mean: [f32; 3] = std::array::from_fn(|c| {
        most.iter().map(|pixel| f32::from(pixel[c])).sum::<f32>() / most.len() as f32
    });
    (mean.iter().sum::<f32>() / 3.0 >= LIGHT).then_some(mean)
}

/// A picture seen as ground in more or less light.
struct Scene<'a> {
    picture: &'a Picture,
    width: usize,
    height: usize,
    ground: [f32; 3],
    /// With how much light the ground comes nearest to each pixel.
    factor: Vec<f32>,
}

impl<'a> Scene<'a> {
    fn new(picture: &'a Picture, ground: [f32; 3]) -> Self {
        let whole: f32 = ground.iter().map(|v| v * v).sum();
        let shade = |p: &[u8; 4]| (0..3).map(|c| f32::from(p[c]) * ground[c]).sum::<f32>() / whole;
        Self {
            picture,
            width: picture.width() as usize,
            height: picture.height() as usize,
            ground,
            factor: picture.pixels().iter().map(shade).collect(),
        }
    }

    fn colour(&self, i: usize) -> [f32; 3] {
        let [r, g, b, _] = self.picture.pixels()[i];
        [r, g, b].map(f32::from)
    }

    /// The ground under so much light.
    fn lit(&self, factor: f32) -> [f32; 3] {
        self.ground.map(|v| v * factor)
    }

    /// The pixels around one, itself included.
    fn around(&self, i: usize) -> impl Iterator<Item = usize> + use<> {
        let (w, h, x, y) = (self.width, self.height, i % self.width, i / self.width);
        let over =
            move |at: usize, all: usize| at.saturating_sub(AROUND)..(at + AROUND + 1).min(all);
        over(y, h).flat_map(move |y| over(x, w).map(move |x| y * w + x))
    }

    /// How much the light differs among next neighbours.
    fn rise(&self, i: usize) -> f32 {
        let (w, x, y) = (self.width, i % self.width, i / self.width);
        let (mut least, mut most) = (f32::MAX, f32::MIN);
        for y in y.saturating_sub(1)..(y + 2).min(self.height) {
            for &v in &self.factor[y * w + x.saturating_sub(1)..y * w + (x + 2).min(w)] {
                (least, most) = (least.min(v), most.max(v));
            }
        }
        most - least
    }

    fn is_shade(&self, i: usize) -> bool {
        let factor = self.factor[i];
        (DARKEST..LIGHTEST).contains(&factor)
            && apart(self.colour(i), self.lit(factor)) < NEAR
            && self.rise(i) < SLOW
    }

    fn is_beside_sharp(&self, i: usize) -> bool {
        let colour = self.colour(i);
        self.around(i)
            .any(|j| apart(self.colour(j), colour) > SHARP)
    }

    /// A pixel as it would be without the shade.
    fn without_shade(&self, i: usize, shaded: &[bool]) -> [u8; 4] {
        let of = |colour: [f32; 3]| {
            let [r, g, b] = colour.map(|v| v.round().clamp(0.0, 255.0) as u8);
            [r, g, b, 255]
        };
        if shaded[i] {
            return of(self.ground);
        }
        let near = || self.around(i).filter(|&j| shaded[j]);
        let count = near().count();
        if count == 0 {
            return self.picture.pixels()[i];
        }
        // On the edge of a shape: the part it covers is kept, over the ground without shade.
        let factor = near().map(|j| self.factor[j]).sum::<f32>() / count as f32;
        let (under, own) = (self.lit(factor), self.colour(i));
        let others = self
            .around(i)
            .filter(|&j| !shaded[j])
            .map(|j| self.colour(j));
        let shape = others.max_by(|a, b| apart(*a, under).total_cmp(&apart(*b, under)));
        let shape = shape.unwrap_or(own);
        let (mut along, mut whole) = (0.0, 1e-6);
        for c in 0..3 {
            let way = shape[c] - under[c];
            along += (own[c] - under[c]) * way;
            whole += way * way;
        }
        let part = (along / whole).clamp(0.0, 1.0);
        of(std::array::from_fn(|c| {
            self.ground[c] + part * (shape[c] - self.ground[c])
        }))
    }
}

/// How far two colours lie apart, 0 to 442.
fn apart(a: [f32; 3], b: [f32; 3]) -> f32 {
    let square = |c: usize| (a[c] - b[c]) * (a[c] - b[c]);
    (square(0) + square(1) + square(2)).sqrt()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A red bar on cream with a shade of a Gaussian's softness, moved by (6, 6) px; or the bar alone,
    /// as soft as the shade.
    fn bar(softness: f32, only_soft: bool) -> Picture {
        let rise = |v: f32| 1.0 / (1.0 + (-1.702 * v / softness).exp());
        let pixels = (0..120 * 80).map(|i| {
            let (x, y) = ((i % 120) as f32 + 0.5, (i / 120) as f32 + 0.5);
            let inside = |x: f32, y: f32| (x - 30.0).min(90.0 - x).min(y - 30.0).min(50.0 - y);
            let shade = 0.5 * rise(inside(x - 6.0, y - 6.0));
            let here = inside(x, y);
            let (cover, light) = match only_soft {
                true => (rise(here), 1.0),
                false => ((here + 0.5).clamp(0.0, 1.0), 1.0 - shade),
            };
            let [r, g, b] = [(250.0, 200.0), (244.0, 30.0), (230.0, 40.0)]
                .map(|(ground, ink)| (ground * light * (1.0 - cover) + ink * cover) as u8);
            [r, g, b, 255]
        });
        Picture::new(120, 80, pixels.collect()).unwrap()
    }

    #[test]
    fn a_cast_shade_goes_and_the_edge_that_throws_it_stays() {
        let (clean, cast) = without(&bar(3.0, false), 0.0).unwrap();
        let ink = |x: usize, y: usize| (230.0 - f64::from(clean.pixels()[y * 120 + x][2])) / 190.0;
        // Down the middle the bar is 20 px high.
        let height: f64 = (0..80).map(|y| ink(60, y)).sum();
        assert!((height - 20.0).abs() < 0.4, "{height}");
        assert!(cast.shaded[54 * 120 + 60] && !cast.shaded[40 * 120 + 60]);
        assert!(ink(60, 56).abs() < 0.02);
    }

    #[test]
    fn flat_greys_and_blurred_shapes_are_no_shade() {
        assert!(without(&bar(3.0, true), 0.0).is_none());
        let pixels = (0..120 * 80).map(|i: usize| {
            let v = if (30..90).contains(&(i % 120)) {
                170
            } else {
                250
            };
            let v = if (20..50).contains(&(i / 120)) { 20 } else { v };
            [v, v, v, 255]
        });
        assert!(without(&Picture::new(120, 80, pixels.collect()).unwrap(), 0.0).is_none());
    }
}
