//! Mixes: how much of each of two inks a pixel holds.
//!
//! A renderer, a scanner or a lens mixes two inks *linearly in the values as stored* along their
//! edge, so a mixed pixel lies on the straight line between them, and its place on that line is
//! its coverage. The line is measured in luma and chroma (ITU-R BT.601, as in JPEG), chroma
//! counted less: many files store chroma at half the resolution, so it says less about where an
//! edge is. For unspoiled mixes any such measure gives the same coverage.

use rayon::prelude::*;

use crate::inks::Rgb;
use crate::picture::Picture;

/// Weight of the two chroma axes against luma.
const CHROMA: f32 = 0.5;

/// A colour as a place: luma, two weighted chromas, alpha; 0 to 255 in the first and the last.
pub(crate) type Tint = [f32; 4];

/// What the four values of a pixel are.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Values {
    /// Red, green, blue times alpha, and alpha.
    Premultiplied,
    /// Y, Cb and Cr as a JPEG file stores them, and 255.
    Stored,
}

impl Values {
    pub(super) fn place(self, pixel: [u8; 4]) -> Tint {
        match self {
            Self::Premultiplied => place(pixel),
            Self::Stored => {
                let [y, cb, cr, a] = pixel.map(f32::from);
                [y, CHROMA * (cb - 128.0), CHROMA * (cr - 128.0), a]
            }
        }
    }

    /// Where a pixel of nought lies, and what each of its values adds.
    fn axes(self) -> (Tint, [Tint; 4]) {
        let unit = |c: usize| {
            let mut axis = [0.0; 4];
            axis[c] = if c == 1 || c == 2 { CHROMA } else { 1.0 };
            axis
        };
        match self {
            Self::Premultiplied => (
                [0.0; 4],
                [
                    place_of([1.0, 0.0, 0.0, 0.0]),
                    place_of([0.0, 1.0, 0.0, 0.0]),
                    place_of([0.0, 0.0, 1.0, 0.0]),
                    place_of([0.0, 0.0, 0.0, 1.0]),
                ],
            ),
            Self::Stored => (self.place([0; 4]), [0, 1, 2, 3].map(unit)),
        }
    }

    /// How much each coordinate counts when an edge is placed, beside how much it counts in distances.
    fn says(self) -> [f32; 4] {
        let chroma = match self {
            Self::Premultiplied => 2.0,
            Self::Stored => 1.0,
        };
        [1.0, chroma, chroma, 1.0]
    }
}

/// The places of all pixels of an opaque picture: by luma and chroma as its file stores them, where it
/// does.
pub(super) fn places_of(picture: &Picture) -> Vec<Tint> {
    let of = |all: &[[u8; 4]], values: Values| all.par_iter().map(|&p| values.place(p)).collect();
    match picture.stored() {
        Some(stored) => of(&stored, Values::Stored),
        None => of(picture.pixels(), Values::Premultiplied),
    }
}

/// The place of a premultiplied pixel.
pub(super) fn place([r, g, b, a]: [u8; 4]) -> Tint {
    place_of([f32::from(r), f32::from(g), f32::from(b), f32::from(a)])
}

/// The place of premultiplied values.
pub(crate) fn place_of([r, g, b, a]: [f32; 4]) -> Tint {
    let y = 0.299 * r + 0.587 * g + 0.114 * b;
    [y, CHROMA * (b - y) / 1.772, CHROMA * (r - y) / 1.402, a]
}

/// The colour at a place.
pub(crate) fn colour_of([y, cb, cr, _]: Tint) -> Rgb {
    let (b, r) = (y + 1.772 * cb / CHROMA, y + 1.402 * cr / CHROMA);
    let g = (y - 0.299 * r - 0.114 * b) / 0.587;
    Rgb([r, g, b].map(|v| v.round().clamp(0.0, 255.0) as u8))
}

/// The place of an ink; that of transparency is nought.
pub(crate) fn place_of_ink(colour: Rgb, clear: bool) -> Tint {
    if clear {
        return [0.0; 4];
    }
    let [r, g, b] = colour.0;
    place([r, g, b, 255])
}

/// Squared distance of two places.
pub(super) fn distance_sq(a: Tint, b: Tint) -> f32 {
    let mut sum = 0.0;
    for c in 0..4 {
        sum += (a[c] - b[c]) * (a[c] - b[c]);
    }
    sum
}

/// Part of `i` in a mix of `i` and `j`, 0 to 1, and the squared distance from the line between them.
pub(super) fn mix(p: Tint, i: Tint, j: Tint) -> (f32, f32) {
    let (mut dot, mut length) = (0.0, 0.0);
    for c in 0..4 {
        dot += (p[c] - j[c]) * (i[c] - j[c]);
        length += (i[c] - j[c]) * (i[c] - j[c]);
    }
    let t = if length > 0.0 {
        (dot / length).clamp(0.0, 1.0)
    } else {
        0.5
    };
    let mut on_line = [0.0; 4];
    for c in 0..4 {
        on_line[c] = j[c] + t * (i[c] - j[c]);
    }
    (t, distance_sq(p, on_line))
}

/// Colour times alpha, and alpha: mixes with transparency are straight lines in this space too.
pub(super) fn premultiplied([r, g, b, a]: [u8; 4]) -> [u8; 4] {
    if a == 255 {
        return [r, g, b, a];
    }
    let times = |v: u8| ((u32::from(v) * u32::from(a) + 127) / 255) as u8;
    [times(r), times(g), times(b), a]
}

/// For every pair of inks the coverage as a linear function of a pixel's values.
#[derive(Clone, Debug)]
pub struct Mixes {
    inks: usize,
    values: Values,
    /// The inks as places.
    places: Vec<Tint>,
    /// Weights of the four values and a constant, by `i · inks + j`.
    pairs: Vec<[f32; 5]>,
}

impl Mixes {
    /// For inks at these places and pixels of these values.
    pub(super) fn new(places: &[Tint], values: Values) -> Self {
        let n = places.len();
        let (origin, axes) = values.axes();
        let says = values.says();
        let mut pairs = vec![[0.0, 0.0, 0.0, 0.0, 0.5]; n * n];
        for i in 0..n {
            for j in 0..n {
                let seen = |p: Tint, c: usize| says[c] * p[c] * (places[i][c] - places[j][c]);
                let along = |p: Tint| -> f32 { (0..4).map(|c| seen(p, c)).sum() };
                let length = along(places[i]) - along(places[j]);
                if length <= 0.0 {
                    continue;
                }
                let pair = &mut pairs[i * n + j];
                for (weight, axis) in pair.iter_mut().zip(axes) {
                    *weight = along(axis) / length;
                }
                pair[4] = (along(origin) - along(places[j])) / length;
            }
        }
        Self {
            inks: n,
            values,
            places: places.to_vec(),
            pairs,
        }
    }

    /// The same for other inks.
    pub(super) fn for_inks(&self, places: &[Tint]) -> Self {
        Self::new(places, self.values)
    }

    /// With one ink more, the same as ink `i`.
    pub(super) fn with_twin(&self, i: usize) -> Self {
        let mut places = self.places.clone();
        places.push(places[i]);
        self.for_inks(&places)
    }

    /// Part of ink `i` in a pixel between inks `i` and `j`, 0 to 1.
    #[must_use]
    pub fn part(&self, [p, q, r, s]: [u8; 4], i: u8, j: u8) -> f32 {
        let w = &self.pairs[usize::from(i) * self.inks + usize::from(j)];
        let t = w[0] * f32::from(p)
            + w[1] * f32::from(q)
            + w[2] * f32::from(r)
            + w[3] * f32::from(s)
            + w[4];
        t.clamp(0.0, 1.0)
    }

    /// Parts of inks `i` and `j` in a pixel that also holds `k`, each 0 to 1; `None`
    /// where the three inks lie in one line and so do not tell.
    fn three(&self, pixel: [u8; 4], i: u8, j: u8, k: u8) -> Option<(f32, f32)> {
        let [i, j, k] = [i, j, k].map(|ink| self.places[usize::from(ink)]);
        let p = self.values.place(pixel);
        let minus = |a: Tint, b: Tint| -> Tint { std::array::from_fn(|c| a[c] - b[c]) };
        let dot = |a: Tint, b: Tint| -> f32 { (0..4).map(|c| a[c] * b[c]).sum() };
        let (u, v, d) = (minus(i, k), minus(j, k), minus(p, k));
        let (uu, uv, vv) = (dot(u, u), dot(u, v), dot(v, v));
        let (du, dv) = (dot(d, u), dot(d, v));
        let spread = uu * vv - uv * uv;
        if spread < LEAST_SPREAD * uu * vv {
            return None;
        }
        let (a, b) = ((du * vv - dv * uv) / spread, (dv * uu - du * uv) / spread);
        Some(match (a > 0.0, b > 0.0) {
            _ if a + b >= 1.0 => {
                let part = mix(p, i, j).0;
                (part, 1.0 - part)
            }
            (true, true) => (a, b),
            (true, false) => ((du / uu).clamp(0.0, 1.0), 0.0),
            (false, _) => (0.0, (dv / vv).clamp(0.0, 1.0)),
        })
    }

    /// Part of ink `i` in what a pixel holds of `i` and `j` while it also holds `k`,
    /// 0 to 1; `None` where it holds hardly anything but `k`, or the inks do not tell.
    #[must_use]
    pub(crate) fn part_beside(&self, pixel: [u8; 4], i: u8, j: u8, k: u8) -> Option<f32> {
        let (a, b) = self.three(pixel, i, j, k)?;
        (a + b > LEAST_OF_TWO).then(|| a / (a + b))
    }

    /// Part of ink `k` in a pixel between inks `i` and `j`, 0 to 1.
    #[must_use]
    pub(crate) fn part_of_third(&self, pixel: [u8; 4], i: u8, j: u8, k: u8) -> f32 {
        self.three(pixel, i, j, k)
            .map_or(0.0, |(a, b)| (1.0 - a - b).max(0.0))
    }
}

/// Three inks tell their mixes apart from this squared sine between two of them on, seen from the third.
const LEAST_SPREAD: f32 = 0.02;
/// A pixel that holds less than this of two inks does not tell how much of each.
const LEAST_OF_TWO: f32 = 0.2;

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_mix_of_two_inks_holds_as_much_of_each_as_was_mixed() {
        let (red, sea) = (Rgb([200, 30, 40]), Rgb([20, 110, 130]));
        let inks = [
            place_of_ink(red, false),
            place_of_ink(sea, false),
            place_of_ink(Rgb::WHITE, true),
        ];
        let mixes = Mixes::new(&inks, Values::Premultiplied);
        for part in [0.0f32, 0.2, 0.5, 0.9] {
            let mut p = [0, 0, 0, 255];
            for ((to, a), b) in p.iter_mut().zip(red.0).zip(sea.0) {
                *to = (f32::from(a) * part + f32::from(b) * (1.0 - part)).round() as u8;
            }
            assert!((mixes.part(p, 0, 1) - part).abs() < 0.01);
            assert!((mixes.part(p, 1, 0) + part - 1.0).abs() < 0.01);
            // The same two beside a third, which takes a part of the pixel.
            let inks = [[0u8, 0, 0, 0], [200, 30, 40, 255], [20, 110, 130, 255]];
            let held = [0.3, 0.7 * part, 0.7 * (1.0 - part)];
            let three = std::array::from_fn(|c| {
                let sum: f32 = (0..3).map(|n| held[n] * f32::from(inks[n][c])).sum();
                sum.round() as u8
            });
            let found = mixes.part_beside(three, 0, 1, 2).unwrap();
            assert!((found - part).abs() < 0.02, "{part}: {found}");
            let clear = premultiplied([200, 30, 40, (part * 255.0) as u8]);
            assert!((mixes.part(clear, 0, 2) - part).abs() < 0.01);
        }
    }
}
