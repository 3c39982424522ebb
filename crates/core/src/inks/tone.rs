//! One tone: what is darker than a threshold is ink.
//!
//! Otsu's method splits the histogram in two; the edge itself lies half way between the *medians*
//! of the two parts, since a renderer or a scanner mixes the two tones linearly across an edge.

use rayon::prelude::*;

use crate::fine::{self, Plane};
use crate::inks::flat::Colour;
use crate::inks::luma::luma;
use crate::inks::noise::Grain;
use crate::inks::parted::Parted;
use crate::inks::{EdgeField, InkReason, Rgb, local, two_tones};
use crate::otsu::{between_tones, histogram_of};
use crate::picture::Picture;
use crate::stop::{Stop, Stopped};

/// Tones of a picture and their counts.
#[derive(Clone, Debug)]
pub struct Tone {
    /// Tone of every pixel, 0 (black) to 255.
    pub values: Vec<u8>,
    /// Pixels of each tone.
    pub histogram: [u64; 256],
}

/// Fewest tones between the darkest and the lightest pixel for colour to say anything.
const LEAST_RANGE: u8 = 24;

impl Tone {
    /// Tone over white; where only transparency draws (white or one flat colour on clear), the
    /// transparency is the tone.
    #[must_use]
    pub fn of(picture: &Picture) -> Self {
        let tone = Self::from_values(picture.pixels().par_iter().map(|&p| luma(p)).collect());
        let (least, most) = tone.range();
        if most - least < LEAST_RANGE && picture.clear_share() > 0.0 {
            return Self::from_values(picture.pixels().iter().map(|p| 255 - p[3]).collect());
        }
        tone
    }

    fn from_values(values: Vec<u8>) -> Self {
        let histogram = histogram_of(&values);
        Self { values, histogram }
    }

    /// Darkest and lightest tone there is.
    #[must_use]
    pub fn range(&self) -> (u8, u8) {
        let least = self.histogram.iter().position(|&n| n > 0).unwrap_or(0);
        let most = self.histogram.iter().rposition(|&n| n > 0).unwrap_or(0);
        (least as u8, most as u8)
    }
}

/// Labels 0 (paper) and 1 (ink) by a threshold in percent, by one for every place, or by the one
/// found.
pub(super) fn part(
    picture: &Picture,
    percent: Option<(f64, Option<f64>)>,
    invert: bool,
    local: bool,
) -> Parted<Colour> {
    let tone = Tone::of(picture);
    let to_percent = |v: f64| v / 2.55;
    let mut levels = None;
    let mut values = tone.values;
    let (threshold, reason) = if local {
        let size = (picture.width() as usize, picture.height() as usize);
        let window = local::window(size);
        values = local::above_surroundings(&values, size, window);
        (f64::from(local::EVEN), InkReason::Local { window })
    } else if let Some((percent, Some(above))) = percent {
        // How far beyond either end of the band a tone lies.
        let beyond = |v: f64| (v - percent * 2.55).max(above * 2.55 - v);
        let folded = |v: usize| (128.0 + beyond(v as f64)).round().clamp(0.0, 255.0) as u8;
        let table: [u8; 256] = std::array::from_fn(folded);
        values
            .par_iter_mut()
            .for_each(|v| *v = table[usize::from(*v)]);
        (127.5, InkReason::Band { above, percent })
    } else if let Some((percent, None)) = percent {
        (percent * 2.55, InkReason::Given { percent })
    } else if let Some((t, dark, light)) = between_tones(&tone.histogram) {
        levels = Some([f32::from(dark), f32::from(light)]);
        let reason = InkReason::Threshold {
            percent: to_percent(t),
            dark: to_percent(f64::from(dark)),
            light: to_percent(f64::from(light)),
        };
        (t, reason)
    } else {
        (127.5, InkReason::Given { percent: 50.0 })
    };
    let threshold = threshold as f32;
    let labels = values
        .par_iter()
        .map(|&v| u8::from((f32::from(v) < threshold) != invert))
        .collect();
    Parted {
        labels,
        size: (picture.width() as usize, picture.height() as usize),
        detail: 1.0,
        scatter: 0.0,
        rough: 0.0,
        inks: vec![(Rgb::WHITE, false), (Rgb::BLACK, false)],
        field: EdgeField::Tone {
            tone: values,
            threshold,
            levels,
        },
        reason,
    }
}

/// The same at a finer scale than the picture's pixels, with the threshold found, and how much
/// darker the darkest ground is than the brightest; `None` where the pixels show it all already.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(super) fn fine(
    picture: &Picture,
    invert: bool,
    grain: Grain,
    stop: &Stop,
) -> Result<Option<(Parted<Colour>, f64)>, Stopped> {
    let tone = Tone::of(picture);
    let Some((t, dark, light)) = between_tones(&tone.histogram) else {
        return Ok(None);
    };
    let plane = Plane {
        width: picture.width() as usize,
        height: picture.height() as usize,
        values: tone.values.iter().map(|&v| f32::from(v)).collect(),
    };
    let Some(mut fine) = fine::one_tone(&plane, grain.most(), grain.rounded, stop)? else {
        return Ok(None);
    };
    // What is darker is ink, unless asked otherwise, whichever of the two is the ground.
    if fine.dark_ink == invert {
        fine.cover = fine.cover.map(|u| 1.0 - u);
        fine.dark_ink = !invert;
    }
    let fall = fine.fall;
    let percent = |v: f64| v / 2.55;
    let reason = InkReason::Threshold {
        percent: percent(t),
        dark: percent(f64::from(dark)),
        light: percent(f64::from(light)),
    };
    let inks = [(Rgb::WHITE, false), (Rgb::BLACK, false)];
    Ok(Some((two_tones::parted(fine, inks, reason), fall)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::otsu::otsu;

    #[test]
    fn the_threshold_lies_half_way_between_two_tones_whatever_their_shares() {
        let mut histogram = [0; 256];
        histogram[40] = 50;
        histogram[200] = 9000;
        histogram[120] = 30;
        let (t, dark, light) = between_tones(&histogram).unwrap();
        assert_eq!((dark, light), (40, 200));
        assert!((t - 120.0).abs() < 1e-9);
    }

    #[test]
    fn one_tone_only_has_no_threshold() {
        let mut histogram = [0; 256];
        histogram[255] = 100;
        assert_eq!(otsu(&histogram), None);
    }

    #[test]
    fn a_drawing_that_is_only_transparency_has_its_alpha_as_tone() {
        let pixels = (0..100)
            .map(|i| [255, 255, 255, if i % 10 < 5 { 255 } else { 0 }])
            .collect();
        let tone = Tone::of(&Picture::new(10, 10, pixels).unwrap());
        assert_eq!(tone.range(), (0, 255));
        assert_eq!(tone.values[0], 0, "opaque is ink");
    }
}
