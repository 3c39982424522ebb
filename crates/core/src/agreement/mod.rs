//! Agreement: the outlines painted again with the picture's own softness and held against the
//! picture as it came; what differs was lost or invented.
//!
//! ```text
//!   design ──areas of each ink──► painted, blurred, in the light of the paper ──┐
//!   picture as it came ──────────────────────────────────────────────────────► ├─► what differs
//! ```
//!
//! Deviation tells how far curves lie from the boundary that was found; this tells whether the
//! boundary was the right one. Colours are those with which the painted picture comes nearest: the
//! ground's by its own pixels at every place, an ink's by least squares over all of its pixels.
//!
//! In: the cleaned artwork, its solid picture, a [`Design`]. Out: [`Agreement`], places in mm. Not here:
//! whether the picture is worth tracing (`worth`). Own method.

mod mask;
mod paint;

use kurbo::Point;
use rayon::prelude::*;

use crate::agreement::mask::Mask;
use crate::agreement::paint::Areas;
use crate::fine::Plane;
use crate::inks::Solid;
use crate::picture::Picture;
use crate::shapes::Design;

/// Larger pictures are compared in a reduced copy, px.
const MOST_PX: u64 = 300_000;
/// Softness tried, px.
const SPREADS: [f64; 6] = [0.0, 0.4, 0.8, 1.2, 1.8, 2.6];
/// A difference below this part of the contrast is the picture's own unevenness, beside the grain.
const LEAST: f32 = 0.08;
/// Part of the contrast from which a pixel is told as lost or invented.
const TOLD: f32 = 0.3;
/// Pixels of a place that is told.
const LEAST_PX: usize = 3;
/// A place with less painted ink than this around it was left out altogether.
const LEFT_OUT: f32 = 0.15;
/// Places that are told at most.
const MOST_PLACES: usize = 200;

/// What became of the ink at a place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Missed {
    /// The picture has ink that the outlines have not.
    Lost,
    /// The outlines have ink that the picture has not.
    Invented,
}

/// A place where outlines and picture disagree.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Place {
    /// Its middle, mm.
    pub at: Point,
    /// How much ink differs, mm².
    pub area: f64,
    /// Which way.
    pub missed: Missed,
    /// Whether nothing at all was outlined there.
    pub whole: bool,
}

/// What was left out altogether.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct LeftOut {
    /// How many parts.
    pub parts: usize,
    /// The largest of them, mm².
    pub largest: f64,
}

/// How well outlines and picture agree.
#[derive(Clone, Debug, PartialEq)]
pub struct Agreement {
    /// 1 where all ink of the picture is outlined and no other, less by the share that differs.
    pub share: f64,
    /// Where they disagree, the greatest first.
    pub places: Vec<Place>,
    /// What was left out.
    pub left_out: LeftOut,
    /// What differs, all over the picture.
    pub missed: MissedMap,
}

/// What differs, row by row, of the picture or a reduced copy of it.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct MissedMap {
    /// Columns.
    pub width: u32,
    /// Rows.
    pub height: u32,
    /// From −127, all ink lost, over nought, to 127, all ink invented.
    pub values: Vec<i8>,
}

/// Share from which outlines and picture agree well, and below which they do so badly.
const WELL: f64 = 0.93;
const BADLY: f64 = 0.8;

impl Agreement {
    /// What it means and what helps, as a sentence.
    #[must_use]
    pub fn words(&self) -> String {
        let LeftOut { parts, largest } = self.left_out;
        let lost = match parts {
            0 => String::new(),
            1 => format!(" One part of {largest:.2} mm² is left out."),
            n => format!(" Left out: {n} parts, the largest {largest:.2} mm²."),
        };
        let percent = (self.share * 100.0).floor();
        let verdict = if self.share >= WELL {
            "The outlines agree with the picture"
        } else if self.share >= BADLY {
            "The outlines differ from the picture in places"
        } else {
            "The outlines do not agree with the picture: ask for a larger or sharper one, or draw \
             over it"
        };
        format!("{verdict} ({percent:.0} % of its ink).{lost}")
    }

    /// Holds a design against the cleaned artwork it was traced from; `None` for a design of lines
    /// or without a shape, and for an artwork with transparency. Where inks beside the ground were
    /// dropped on purpose, nothing is compared.
    #[must_use]
    pub fn of(picture: &Picture, solid: &Solid, design: &Design) -> Option<Self> {
        if design.shapes.is_empty() || !design.strokes.is_empty() {
            return None;
        }
        let picture = picture.reduced(MOST_PX);
        if picture.pixels().iter().any(|p| p[3] < 255) {
            return None;
        }
        let (across, down) = design.size.mm_per_px(picture.width(), picture.height());
        let covers = covers(design, &picture, (across, down));
        let mask = Mask::of(solid, design, (picture.width(), picture.height()));
        let seen = channels(&picture);
        let found = SPREADS.par_iter().map(|&spread| {
            let blurred: Vec<Plane> = covers.iter().map(|c| c.blurred(spread)).collect();
            let compared = Compared::new(&seen, &blurred, &mask);
            (compared.far(), compared)
        });
        let found: Vec<(f64, Compared)> = found.collect();
        let best = found.into_iter().min_by(|a, b| a.0.total_cmp(&b.0))?.1;
        Some(best.told(&covers, (across, down)))
    }
}

/// The area of every ink that is outlined, one plane each, px of the picture.
fn covers(design: &Design, picture: &Picture, (across, down): (f64, f64)) -> Vec<Plane> {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let inks = design.inks.len();
    let of = |ink: usize| {
        let mut areas = Areas::new(w, h);
        let mut any = false;
        let own = design.shapes.iter().filter(|s| usize::from(s.ink.0) == ink);
        for ring in own.flat_map(|shape| shape.rings()) {
            let first = ring.segments().first().map(|s| s.start());
            let mut points: Vec<Point> = first.into_iter().collect();
            let tolerance = 0.05 * across.min(down);
            ring.segments()
                .iter()
                .for_each(|s| s.flatten(tolerance, &mut points));
            let placed: Vec<Point> = points
                .iter()
                .map(|p| Point::new(p.x / across, p.y / down))
                .collect();
            areas.add(&placed);
            any = true;
        }
        any.then(|| areas.cover())
    };
    (0..inks).filter_map(of).collect()
}

/// Luma and chroma of a picture as planes; chroma counts half, as it is stored coarser.
fn channels(picture: &Picture) -> [Plane; 3] {
    let (width, height) = (picture.width() as usize, picture.height() as usize);
    let value = |[r, g, b, _]: [u8; 4], c: usize| {
        let [r, g, b] = [r, g, b].map(f32::from);
        let y = 0.299 * r + 0.587 * g + 0.114 * b;
        [y, 0.5 * (b - y) / 1.772, 0.5 * (r - y) / 1.402][c]
    };
    std::array::from_fn(|c| Plane {
        width,
        height,
        values: picture.pixels().iter().map(|&p| value(p, c)).collect(),
    })
}

/// A painted picture held against the one that is seen.
struct Compared {
    /// How far every pixel differs, as a part of the contrast, 0 to 1; less than nothing where the
    /// picture has more ink than was painted.
    off: Plane,
    /// How much ink every pixel shows, or was painted with, whichever is more, 0 to 1.
    ink: Vec<f32>,
}

/// Side of the squares in which the ground's own colour is taken, px.
const SQUARE: usize = 24;
/// A pixel with less ink than this is ground.
const GROUND: f32 = 0.03;

impl Compared {
    fn new(seen: &[Plane; 3], covers: &[Plane], mask: &Mask) -> Self {
        let count = seen[0].values.len();
        let all: Vec<f32> = (0..count)
            .map(|i| {
                let painted = covers.iter().map(|c| c.values[i]).sum::<f32>();
                if mask.dropped[i] {
                    1.0
                } else {
                    painted.min(1.0)
                }
            })
            .collect();
        let grounds: [Plane; 3] = std::array::from_fn(|c| ground(&seen[c], &all, mask));
        let inks: Vec<[f32; 3]> = covers
            .iter()
            .map(|own| ink(seen, &grounds, own, &all))
            .collect();
        let away = |i: usize, p: [f32; 3]| -> f32 {
            let d = |c: usize| p[c] - grounds[c].values[i];
            (d(0) * d(0) + d(1) * d(1) + d(2) * d(2)).sqrt()
        };
        let contrast = inks
            .iter()
            .map(|&own| away(count / 2, own))
            .fold(16.0f32, f32::max);
        let found: Vec<(f32, f32)> = (0..count)
            .into_par_iter()
            .map(|i| {
                if mask.dropped[i] {
                    return (0.0, 0.0);
                }
                let own: [f32; 3] = std::array::from_fn(|c| seen[c].values[i]);
                let painted: [f32; 3] = std::array::from_fn(|c| {
                    let ground = grounds[c].values[i];
                    let more = covers.iter().zip(&inks);
                    ground
                        + more
                            .map(|(k, ink)| k.values[i] * (ink[c] - ground))
                            .sum::<f32>()
                });
                let apart: f32 = own
                    .iter()
                    .zip(painted)
                    .map(|(a, b)| (a - b) * (a - b))
                    .sum();
                let part = (apart.sqrt() / contrast).min(1.0);
                let (shown, drawn) = (away(i, own) / contrast, away(i, painted) / contrast);
                let way = if shown > drawn { -1.0 } else { 1.0 };
                (way * part, shown.max(drawn).min(1.0))
            })
            .collect();
        let (off, ink) = found.into_iter().unzip();
        Self {
            off: Plane {
                values: off,
                ..seen[0]
            },
            ink,
        }
    }

    /// The sum of squared differences.
    fn far(&self) -> f64 {
        self.off.values.iter().map(|v| f64::from(v * v)).sum()
    }

    /// The figures and the places.
    fn told(&self, covers: &[Plane], (across, down): (f64, f64)) -> Agreement {
        let least = LEAST + 2.5 * typical(&self.off.values);
        let beyond = |v: f32| (v.abs() - least).max(0.0) / (1.0 - least).max(0.1);
        let differs: f64 = self.off.values.iter().map(|&v| f64::from(beyond(v))).sum();
        let shown = self
            .ink
            .iter()
            .filter(|&&v| v > LEAST)
            .map(|&v| f64::from(v));
        let share = 1.0 - (differs / shown.sum::<f64>().max(1.0)).min(1.0);
        let mut places = self.places(covers, least, (across, down));
        places.sort_by(|a, b| {
            let order = b.area.total_cmp(&a.area);
            order
                .then(a.at.y.total_cmp(&b.at.y))
                .then(a.at.x.total_cmp(&b.at.x))
        });
        let whole = places.iter().filter(|p| p.whole);
        let left_out = LeftOut {
            parts: whole.clone().count(),
            largest: whole.map(|p| p.area).fold(0.0, f64::max),
        };
        places.truncate(MOST_PLACES);
        Agreement {
            share,
            places,
            left_out,
            missed: self.map(least),
        }
    }

    /// What differs beyond the grain.
    fn map(&self, least: f32) -> MissedMap {
        let value = |&v: &f32| {
            if v.abs() < least {
                0
            } else {
                (v * 127.0).round() as i8
            }
        };
        MissedMap {
            width: self.off.width as u32,
            height: self.off.height as u32,
            values: self.off.values.iter().map(value).collect(),
        }
    }

    /// Connected places that differ clearly.
    fn places(&self, covers: &[Plane], least: f32, (across, down): (f64, f64)) -> Vec<Place> {
        let (w, h) = (self.off.width, self.off.height);
        let told = TOLD.max(1.5 * least);
        let kind = |i: usize| match self.off.values[i] {
            v if v > told => Some(Missed::Invented),
            v if v < -told => Some(Missed::Lost),
            _ => None,
        };
        let mut seen = vec![false; w * h];
        let mut found = Vec::new();
        for start in 0..w * h {
            let Some(missed) = kind(start).filter(|_| !seen[start]) else {
                continue;
            };
            seen[start] = true;
            let mut own = vec![start];
            let mut next = 0;
            while let Some(&i) = own.get(next) {
                next += 1;
                let (x, y) = (i % w, i / w);
                for y in y.saturating_sub(1)..(y + 2).min(h) {
                    for x in x.saturating_sub(1)..(x + 2).min(w) {
                        let j = y * w + x;
                        if !seen[j] && kind(j) == Some(missed) {
                            seen[j] = true;
                            own.push(j);
                        }
                    }
                }
            }
            if own.len() < LEAST_PX {
                continue;
            }
            let count = own.len() as f64;
            let (x, y) = own.iter().fold((0.0, 0.0), |(x, y), &i| {
                (x + (i % w) as f64 + 0.5, y + (i / w) as f64 + 0.5)
            });
            let painted: f32 = own
                .iter()
                .map(|&i| covers.iter().map(|c| c.values[i]).sum::<f32>())
                .sum();
            let area: f64 = own
                .iter()
                .map(|&i| f64::from(self.off.values[i].abs()))
                .sum();
            let whole = missed == Missed::Lost && painted / (count as f32) < LEFT_OUT;
            // A faint ink that was left out is as large as a strong one.
            let area = if whole { count } else { area };
            found.push(Place {
                at: Point::new(x / count * across, y / count * down),
                area: area * across * down,
                missed,
                whole,
            });
        }
        found
    }
}

/// The middle magnitude of what differs where hardly anything does: the grain.
fn typical(off: &[f32]) -> f32 {
    let mut all: Vec<f32> = off
        .iter()
        .step_by((off.len() / 50_000).max(1))
        .map(|v| v.abs())
        .collect();
    let middle = all.len() / 2;
    *all.select_nth_unstable_by(middle, f32::total_cmp).1
}

/// The ground's value at every pixel: the mean of the ground in the squares around it.
fn ground(seen: &Plane, ink: &[f32], mask: &Mask) -> Plane {
    let (w, h) = (seen.width, seen.height);
    let (across, down) = (w.div_ceil(SQUARE), h.div_ceil(SQUARE));
    let mut sums = vec![(0.0f64, 0.0f64); across * down];
    let mut all = (0.0, 0.0);
    for (i, (&v, &part)) in seen.values.iter().zip(ink).enumerate() {
        if part < GROUND && mask.ground[i] {
            let own = &mut sums[i / w / SQUARE * across + i % w / SQUARE];
            *own = (own.0 + f64::from(v), own.1 + 1.0);
            all = (all.0 + f64::from(v), all.1 + 1.0);
        }
    }
    let mean = all.0 / f64::max(all.1, 1.0);
    // Squares with little ground lean on the mean of all.
    let lean = (SQUARE * SQUARE) as f64 / 8.0;
    let squares = Plane {
        width: across,
        height: down,
        values: sums
            .iter()
            .map(|(sum, n)| ((sum + lean * mean) / (n + lean)) as f32)
            .collect(),
    };
    let squares = squares.blurred(0.6);
    squares.spread_over(SQUARE, w, h)
}

/// The colour of an ink: with which it comes nearest to the pixels that hold it and ground alone.
fn ink(seen: &[Plane; 3], grounds: &[Plane; 3], own: &Plane, all: &[f32]) -> [f32; 3] {
    let (mut cross, mut square, mut ground) = ([0.0; 3], 1e-9, [0.0; 3]);
    for (i, &part) in own.values.iter().enumerate() {
        if part > GROUND && all[i] - part < GROUND {
            let part = f64::from(part);
            square += part * part;
            for c in 0..3 {
                let under = f64::from(grounds[c].values[i]);
                cross[c] += part * (f64::from(seen[c].values[i]) - under);
                ground[c] += part * part * under;
            }
        }
    }
    std::array::from_fn(|c| ((ground[c] + cross[c]) / square) as f32)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::recipe::{Recipe, Size};
    use crate::stop::Stop;

    /// Dots in a row, the last of them left out on wish.
    fn dots(count: usize) -> Picture {
        let pixels = (0..160 * 60).map(|i| {
            let (x, y) = ((i % 160) as f64 + 0.5, (i / 160) as f64 + 0.5);
            let r = (0..count).map(|n| (x - 20.0 - 30.0 * n as f64).hypot(y - 30.0));
            let r = r.fold(f64::INFINITY, f64::min);
            let v = ((r - 6.0).clamp(0.0, 1.0) * 255.0) as u8;
            [v, v, v, 255]
        });
        Picture::new(160, 60, pixels.collect()).unwrap()
    }

    /// The first picture held against the outlines of the second.
    fn held(picture: &Picture, other: &Picture) -> Agreement {
        let recipe = Recipe::automatic(Size::at_ppi(160, 60, 25.4));
        let traced = crate::trace::trace(other, &recipe, &Stop::new(), &mut |_| {}).unwrap();
        Agreement::of(picture, &traced.solid, &traced.design).unwrap()
    }

    #[test]
    fn outlines_of_a_picture_agree_with_it() {
        let picture = dots(5);
        let agreement = held(&picture, &picture);
        assert!(agreement.share > 0.98, "{agreement:?}");
        assert_eq!(agreement.left_out, LeftOut::default());
    }

    #[test]
    fn a_part_that_was_left_out_is_told_with_its_place_and_size() {
        let agreement = held(&dots(5), &dots(4));
        assert_eq!(agreement.left_out.parts, 1);
        let place = agreement.places[0];
        assert!(place.whole && place.missed == Missed::Lost);
        assert!(place.at.distance(Point::new(140.0, 30.0)) < 0.5);
        let area = std::f64::consts::PI * 6.5f64.powi(2);
        assert!((place.area / area - 1.0).abs() < 0.15, "{}", place.area);
        assert!((agreement.share - 0.8).abs() < 0.04, "{}", agreement.share);
        let at = |x: usize| agreement.missed.values[30 * 160 + x];
        assert!(at(140) < -100 && at(20) == 0, "{} {}", at(140), at(20));
    }

    #[test]
    fn ink_that_was_invented_is_told_as_such() {
        let agreement = held(&dots(4), &dots(5));
        assert_eq!(agreement.places[0].missed, Missed::Invented);
        assert_eq!(agreement.left_out.parts, 0);
    }
}
