//! The subject of a picture cut from its ground: found by its colours and by where it lies, mended by strokes.
//!
//! ```text
//!   picture ──reduced──► colours of the middle, of the rim ──least cut, a few times──► subject ──┐
//!   strokes: this is the subject, this is ground ──────────────────┘                             ▼
//!   edges of the picture ─────────────────────────────────────────────────► soft border ──► ground becomes clear
//! ```
//!
//! In: a [`Picture`], strokes in px of the original. Out: the picture with its ground clear. Not here: a ground of one flat
//! colour, which pointing at it clears exactly ([`super::region`]).

mod colours;
mod cut;
mod flow;

use kurbo::Point;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};

use crate::clean::{Dab, Frame};
use crate::fine::Plane;
use crate::picture::Picture;
use crate::stop::{Stop, Stopped};
use cut::Mark;

/// A stroke that says where the subject is, or where it is not.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Told {
    /// Whether it lies on the ground.
    pub ground: bool,
    /// Where it went.
    pub dabs: Vec<Dab>,
}

/// Pixels of the copy that is cut.
const MOST_PX: u64 = 30_000;
/// Less than this part of the picture is no subject, and more is no ground.
const LEAST: f64 = 0.004;
/// Pixels of the copy over which its border is drawn to the picture's edges, and what is flat, levels.
const REACH: f64 = 1.5;
const FLAT: f32 = 10.0;
/// How much steeper the border is made than it was found.
const STEEP: f32 = 2.5;

/// The picture with all but its subject clear; `None` where nothing stands out from the rest.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(super) fn cut_out(
    picture: &Picture,
    told: &[Told],
    frame: &Frame,
    stop: &Stop,
) -> Result<Option<Picture>, Stopped> {
    let small = picture.reduced(MOST_PX);
    let (w, h) = (small.width() as usize, small.height() as usize);
    let k = w as f64 / f64::from(picture.width());
    let marks = marked(&small, told, frame, k);
    let colours: Vec<[f32; 3]> = small.pixels().iter().map(|&p| colour(p)).collect();
    let subject = cut::subject(w, &colours, &marks, stop)?;
    let share = subject.iter().filter(|s| **s).count() as f64 / subject.len() as f64;
    if !(LEAST..=1.0 - LEAST).contains(&share) {
        return Ok(None);
    }
    let rough = Plane {
        width: w,
        height: h,
        values: subject.iter().map(|&s| f32::from(u8::from(s))).collect(),
    };
    let size = (picture.width() as usize, picture.height() as usize);
    let luma = Plane {
        width: size.0,
        height: size.1,
        values: picture.pixels().par_iter().map(|&p| colour(p)[0]).collect(),
    };
    stop.check()?;
    let reach = (REACH / k).ceil() as usize;
    let soft = rough.resized(size.0, size.1).guided(&luma, reach, FLAT);
    let pixels = picture.pixels().par_iter().zip(&soft.values);
    let pixels = pixels.map(|(&[r, g, b, a], &v)| {
        let cover = ((v - 0.5) * STEEP + 0.5).clamp(0.0, 1.0);
        [r, g, b, (f32::from(a) * cover).round() as u8]
    });
    Ok(Some(picture.repainted(pixels.collect())))
}

/// Luma and two chromas, 0 to 255 each; clear places are white.
fn colour([r, g, b, a]: [u8; 4]) -> [f32; 3] {
    /// How much chroma counts.
    const CHROMA: f32 = 0.9;
    let over = |v: u8| 255.0 + (f32::from(v) - 255.0) * f32::from(a) / 255.0;
    let [r, g, b] = [r, g, b].map(over);
    let y = 0.299 * r + 0.587 * g + 0.114 * b;
    [y, CHROMA * (b - y) + 128.0, CHROMA * (r - y) + 128.0]
}

/// What strokes say of the pixels of a copy, `k` times as large as the picture; the last word counts.
fn marked(small: &Picture, told: &[Told], frame: &Frame, k: f64) -> Vec<Mark> {
    let (w, h) = (small.width() as usize, small.height() as usize);
    let clear = |p: &[u8; 4]| if p[3] < 128 { Mark::Ground } else { Mark::Open };
    let mut marks: Vec<Mark> = small.pixels().iter().map(clear).collect();
    for stroke in told {
        let mark = if stroke.ground {
            Mark::Ground
        } else {
            Mark::Subject
        };
        let at = |d: &Dab| (frame.to([d[0], d[1]]).to_vec2() * k).to_point();
        let half = |d: &Dab| (d[2] * frame.scale_at([d[0], d[1]]) * k).max(0.75);
        let ends = stroke
            .dabs
            .iter()
            .zip(stroke.dabs.iter().skip(1).chain(stroke.dabs.last()));
        for (a, b) in ends {
            let (from, to) = (at(a), at(b));
            // So many places on the way that none between is passed over.
            let steps = (from.distance(to).min(1e5)).ceil().max(1.0) as usize;
            for n in 0..=steps {
                let t = n as f64 / steps as f64;
                let middle = from.lerp(to, t);
                disc(middle, half(a) + (half(b) - half(a)) * t, (w, h), |i| {
                    marks[i] = mark
                });
            }
        }
    }
    marks
}

/// The pixels of a disc.
fn disc(middle: Point, half: f64, (w, h): (usize, usize), mut each: impl FnMut(usize)) {
    let range = |v: f64, most: usize| {
        let end = |v: f64| v.clamp(0.0, most as f64) as usize;
        end((v - half).floor())..end((v + half).ceil())
    };
    for y in range(middle.y, h) {
        for x in range(middle.x, w) {
            if (Point::new(x as f64 + 0.5, y as f64 + 0.5) - middle).hypot() <= half {
                each(y * w + x);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A disc of one texture on a ground of another, and whether each pixel is inside.
    fn scene(apart: i32) -> (Picture, Vec<bool>) {
        let (w, h) = (240_u32, 180_u32);
        let mut random = crate::random::Random::new(9);
        let inside = |i: u32| (f64::from(i % w) - 130.0).hypot(f64::from(i / w) - 85.0) < 55.0;
        let pixels = (0..w * h).map(|i| {
            let grain = random.below(31) as i32 - 15;
            let tone = 120 + grain + if inside(i) { apart } else { 0 };
            [tone as u8, (tone / 2 + 60) as u8, 90, 255]
        });
        let picture = Picture::new(w, h, pixels.collect()).unwrap();
        (picture, (0..w * h).map(inside).collect())
    }

    /// Share of pixels whose side is wrong.
    fn wrong(cut: &Picture, inside: &[bool]) -> f64 {
        let pairs = cut.pixels().iter().zip(inside);
        pairs
            .filter(|(p, inside)| (p[3] >= 128) != **inside)
            .count() as f64
            / inside.len() as f64
    }

    #[test]
    fn what_stands_out_is_cut_out_by_itself() {
        let (picture, inside) = scene(70);
        let frame = Frame::new(240, 180);
        let cut = cut_out(&picture, &[], &frame, &Stop::new())
            .unwrap()
            .unwrap();
        let wrong = wrong(&cut, &inside);
        assert!(wrong < 0.01, "{wrong}");
    }

    #[test]
    fn strokes_say_what_is_the_subject() {
        // A second disc of the subject's colour at the side: ground, once it is said.
        let (picture, inside) = scene(70);
        let w = 240;
        let other = |i: usize| ((i % w) as f64 - 40.0).hypot((i / w) as f64 - 90.0) < 25.0;
        let pixels = picture.pixels().iter().enumerate();
        let both = pixels.map(|(i, p)| {
            if other(i) {
                picture.pixels()[85 * w + 130]
            } else {
                *p
            }
        });
        let picture = picture.repainted(both.collect());
        let frame = Frame::new(240, 180);
        let stroke = |ground, dabs: &[Dab]| Told {
            ground,
            dabs: dabs.to_vec(),
        };
        let told = [
            stroke(true, &[[25.0, 90.0, 4.0], [55.0, 90.0, 4.0]]),
            stroke(false, &[[110.0, 70.0, 4.0], [150.0, 100.0, 4.0]]),
        ];
        let cut = cut_out(&picture, &told, &frame, &Stop::new())
            .unwrap()
            .unwrap();
        assert!(cut.pixels()[90 * w + 40][3] < 128 && cut.pixels()[85 * w + 130][3] > 128);
        assert!(wrong(&cut, &inside) < 0.04, "{}", wrong(&cut, &inside));
    }

    #[test]
    fn a_subject_of_its_grounds_colour_is_not_guessed() {
        let plain = Picture::new(60, 40, vec![[130, 120, 90, 255]; 2400]).unwrap();
        let frame = Frame::new(60, 40);
        assert!(
            cut_out(&plain, &[], &frame, &Stop::new())
                .unwrap()
                .is_none()
        );
    }
}
