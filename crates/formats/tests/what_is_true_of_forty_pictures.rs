//! What is said of a picture's worth, on forty pictures of which it is known.
//!
//! Lettering in the shipped faces and a sign of our own, put through degradations that are given by
//! their definition: normal noise, light that falls off, JPEG by the `image` crate, error diffusion by
//! Floyd & Steinberg 1976, pixels repeated and Catmull–Rom enlargement. Photographs:
//! `photographs/LICENCES.md`; a gradient and clouds by formula.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use image::imageops::{self, FilterType};
use image::{DynamicImage, RgbImage};
use inky_core::inks::{InkMode, separate};
use inky_core::picture::Picture;
use inky_core::stop::Stop;
use inky_core::tidy::TextLine;
use inky_core::worth::Worth;
use inky_formats::lettering::{faces, outlines};
use inky_formats::picture::read;
use kurbo::Point;
use tiny_skia::{FillRule, Paint, PathBuilder, Pixmap, Rect, Transform};

/// What is true of a picture; `None` where it is nobody's business.
#[derive(Clone, Copy, Debug)]
struct Truth {
    grain: Option<bool>,
    compressed: Option<bool>,
    uneven: Option<bool>,
    dithered: Option<bool>,
    enlarged: Option<bool>,
    photograph: Option<bool>,
}

/// Nothing ails it.
const CLEAN: Truth = Truth {
    grain: Some(false),
    compressed: Some(false),
    uneven: Some(false),
    dithered: Some(false),
    enlarged: Some(false),
    photograph: Some(false),
};
const ENLARGED: Truth = Truth {
    enlarged: Some(true),
    ..CLEAN
};
const COMPRESSED: Truth = Truth {
    compressed: Some(true),
    ..CLEAN
};
const GRAINY: Truth = Truth {
    grain: Some(true),
    ..CLEAN
};
const UNEVEN: Truth = Truth {
    uneven: Some(true),
    ..CLEAN
};
const DITHERED: Truth = Truth {
    dithered: Some(true),
    ..CLEAN
};
/// Of a photograph, only that it is one.
const PHOTOGRAPH: Truth = Truth {
    grain: None,
    compressed: None,
    uneven: None,
    dithered: Some(false),
    enlarged: None,
    photograph: Some(true),
};

/// Fills the words of a face, so many pixels high, on a canvas, about a middle of their baseline.
fn set(canvas: &mut Pixmap, face: usize, words: &str, cap: f64, at: [f64; 2], colour: [u8; 3]) {
    let line = TextLine {
        words: words.to_owned(),
        face: faces().nth(face).unwrap().to_owned(),
        cap_height: cap,
        spacing: 0.0,
        radius: 0.0,
        at,
    };
    let mut path = PathBuilder::new();
    for own in outlines(&line).unwrap() {
        let mut points: Vec<Point> = vec![Point::new(own.start[0], own.start[1])];
        for segment in own.segments().unwrap() {
            segment.flatten(0.02, &mut points);
        }
        path.move_to(points[0].x as f32, points[0].y as f32);
        points[1..]
            .iter()
            .for_each(|p| path.line_to(p.x as f32, p.y as f32));
        path.close();
    }
    let paint = paint(colour);
    let path = path.finish().unwrap();
    let (rule, same) = (FillRule::EvenOdd, Transform::identity());
    canvas.fill_path(&path, &paint, rule, same, None);
}

fn paint([r, g, b]: [u8; 3]) -> Paint<'static> {
    let mut paint = Paint::default();
    paint.set_color_rgba8(r, g, b, 255);
    paint
}

fn rgb(canvas: &Pixmap) -> RgbImage {
    let pixels = canvas.pixels().iter();
    let all = pixels
        .flat_map(|p| [p.red(), p.green(), p.blue()])
        .collect();
    RgbImage::from_raw(canvas.width(), canvas.height(), all).unwrap()
}

/// Black words on white, a line of them.
fn words(face: usize, cap: f64) -> RgbImage {
    let (w, h) = ((cap * 13.0).max(120.0) as u32, (cap * 3.0).max(64.0) as u32);
    let mut canvas = Pixmap::new(w, h).unwrap();
    canvas.fill(tiny_skia::Color::WHITE);
    let base = f64::from(h) / 2.0 + cap / 2.0;
    set(
        &mut canvas,
        face,
        "Hart & Wren 86",
        cap,
        [f64::from(w) / 2.0, base],
        [0, 0, 0],
    );
    rgb(&canvas)
}

/// A board with a band, two lines of words and a disc: four inks.
fn sign(width: u32) -> RgbImage {
    let (w, h) = (width as f32, width as f32 * 0.6);
    let mut canvas = Pixmap::new(width, h as u32).unwrap();
    canvas.fill(tiny_skia::Color::WHITE);
    let mut board = |[x, y, dx, dy]: [f32; 4], colour: [u8; 3]| {
        let rect = Rect::from_xywh(x * w, y * h, dx * w, dy * h).unwrap();
        canvas.fill_rect(rect, &paint(colour), Transform::identity(), None);
    };
    board([0.05, 0.08, 0.9, 0.84], [28, 76, 94]);
    board([0.05, 0.6, 0.9, 0.2], [196, 68, 44]);
    let (w, h) = (f64::from(w), f64::from(h));
    set(
        &mut canvas,
        1,
        "Otter Ferry",
        0.085 * w,
        [0.42 * w, 0.4 * h],
        [244, 220, 160],
    );
    set(
        &mut canvas,
        2,
        "BOATS FOR HIRE",
        0.045 * w,
        [0.5 * w, 0.74 * h],
        [244, 220, 160],
    );
    let disc = PathBuilder::from_circle((0.82 * w) as f32, (0.3 * h) as f32, (0.07 * w) as f32);
    let (rule, same) = (FillRule::Winding, Transform::identity());
    canvas.fill_path(&disc.unwrap(), &paint([244, 220, 160]), rule, same, None);
    rgb(&canvas)
}

fn changed(mut image: RgbImage, of: impl Fn(u32, u32, f64) -> f64) -> RgbImage {
    for (x, y, p) in image.enumerate_pixels_mut() {
        for v in &mut p.0 {
            *v = of(x, y, f64::from(*v)).round().clamp(0.0, 255.0) as u8;
        }
    }
    image
}

/// Sums of twelve numbers of a linear congruential generator (Numerical Recipes, 32 bit).
fn noisy(mut image: RgbImage, sigma: f64) -> RgbImage {
    let mut state = 7u32;
    let mut normal = || {
        let mut next = || {
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            f64::from(state) / f64::from(u32::MAX)
        };
        (0..12).map(|_| next()).sum::<f64>() - 6.0
    };
    for p in image.pixels_mut() {
        for v in &mut p.0 {
            *v = (f64::from(*v) + sigma * normal()).round().clamp(0.0, 255.0) as u8;
        }
    }
    image
}

fn lit(image: RgbImage, fall: f64) -> RgbImage {
    let w = f64::from(image.width());
    changed(image, |x, _, v| v * (1.0 - fall * f64::from(x) / w))
}

/// On paper that is not quite white, where grain is not cut off.
fn grey(image: RgbImage) -> RgbImage {
    changed(image, |_, _, v| 20.0 + 0.8 * v)
}

/// Saved as JPEG and read again: a picture whose file does not say so any more.
fn compressed(image: RgbImage, quality: u8) -> RgbImage {
    let mut bytes = std::io::Cursor::new(Vec::new());
    let encoder = image::codecs::jpeg::JpegEncoder::new_with_quality(&mut bytes, quality);
    image.write_with_encoder(encoder).unwrap();
    image::load_from_memory(bytes.get_ref()).unwrap().to_rgb8()
}

/// Error diffusion to so many steps of every channel.
fn dithered(image: &RgbImage, steps: f64) -> RgbImage {
    let (w, h) = image.dimensions();
    let mut out = image.clone();
    for c in 0..3 {
        let mut tones: Vec<f64> = image.pixels().map(|p| f64::from(p.0[c])).collect();
        for y in 0..h {
            for x in 0..w {
                let i = (y * w + x) as usize;
                let v = (tones[i] / 255.0 * steps).round().clamp(0.0, steps) * 255.0 / steps;
                out.get_pixel_mut(x, y).0[c] = v as u8;
                let off = tones[i] - v;
                let mut pass = |dx: i64, dy: u32, part: f64| {
                    let column = i64::from(x) + dx;
                    if (0..i64::from(w)).contains(&column) && y + dy < h {
                        tones[((y + dy) * w) as usize + column as usize] += off * part / 16.0;
                    }
                };
                pass(1, 0, 7.0);
                pass(-1, 1, 3.0);
                pass(0, 1, 5.0);
                pass(1, 1, 1.0);
            }
        }
    }
    out
}

fn larger(image: &RgbImage, times: u32, filter: FilterType) -> RgbImage {
    imageops::resize(image, times * image.width(), times * image.height(), filter)
}

fn shaded(image: RgbImage) -> RgbImage {
    let w = f64::from(image.width());
    changed(image, |x, _, v| {
        let part = ((f64::from(x) - 0.55 * w) / (0.06 * w)).clamp(0.0, 1.0);
        v * 0.94 * (1.0 - 0.55 * part)
    })
}

fn photograph(bytes: &[u8]) -> RgbImage {
    image::load_from_memory(bytes).unwrap().to_rgb8()
}

fn by_formula(of: impl Fn(f64, f64) -> [f64; 3]) -> RgbImage {
    RgbImage::from_fn(320, 240, |x, y| {
        image::Rgb(of(f64::from(x), f64::from(y)).map(|v| v.round().clamp(0.0, 255.0) as u8))
    })
}

fn pictures() -> Vec<(&'static str, RgbImage, Truth)> {
    let (repeated, smooth) = (FilterType::Nearest, FilterType::CatmullRom);
    let soft = |image: RgbImage, sigma: f32| imageops::blur(&image, sigma);
    let sky = by_formula(|x, y| [60.0 + x / 2.0, 90.0 + y / 3.0, 200.0 - x / 4.0]);
    let clouds = by_formula(|x, y| {
        let v = (x / 37.0).sin() + (y / 23.0).cos() + ((x + y) / 51.0).sin();
        [128.0 + 30.0 * v, 120.0 + 22.0 * v, 140.0 - 25.0 * v]
    });
    let uneven_grain = Truth {
        grain: None,
        ..UNEVEN
    };
    vec![
        ("words of 9 px", words(0, 9.0), CLEAN),
        ("words of 9 px, second face", words(1, 9.0), CLEAN),
        ("words of 9 px, third face", words(2, 9.0), CLEAN),
        ("words of 9 px, fourth face", words(3, 9.0), CLEAN),
        ("words of 12 px", words(4, 12.0), CLEAN),
        ("words of 14 px", words(0, 14.0), CLEAN),
        ("words of 20 px", words(1, 20.0), CLEAN),
        ("words of 30 px", words(2, 30.0), CLEAN),
        ("words of 50 px", words(3, 50.0), CLEAN),
        ("words of 80 px", words(4, 80.0), CLEAN),
        ("sign of 160 px", sign(160), CLEAN),
        ("sign of 320 px", sign(320), CLEAN),
        ("sign of 640 px", sign(640), CLEAN),
        (
            "words repeated twice",
            larger(&words(0, 14.0), 2, repeated),
            ENLARGED,
        ),
        (
            "words repeated four times",
            larger(&words(1, 12.0), 4, repeated),
            ENLARGED,
        ),
        (
            "sign repeated three times",
            larger(&sign(160), 3, repeated),
            ENLARGED,
        ),
        (
            "words enlarged three times",
            larger(&words(2, 14.0), 3, smooth),
            ENLARGED,
        ),
        (
            "sign enlarged four times",
            larger(&sign(160), 4, smooth),
            ENLARGED,
        ),
        (
            "words of quality 60",
            compressed(words(0, 16.0), 60),
            COMPRESSED,
        ),
        (
            "words of quality 80",
            compressed(words(1, 30.0), 80),
            COMPRESSED,
        ),
        ("sign of quality 50", compressed(sign(300), 50), COMPRESSED),
        ("sign of quality 75", compressed(sign(500), 75), COMPRESSED),
        (
            "words in grain of 5",
            noisy(grey(words(2, 30.0)), 5.0),
            GRAINY,
        ),
        (
            "words in grain of 10",
            noisy(grey(words(3, 50.0)), 10.0),
            GRAINY,
        ),
        ("sign in grain of 8", noisy(sign(500), 8.0), GRAINY),
        ("words in falling light", lit(words(0, 30.0), 0.3), UNEVEN),
        ("sign in falling light", lit(sign(500), 0.2), UNEVEN),
        (
            "words in falling light and grain",
            noisy(lit(words(1, 40.0), 0.45), 4.0),
            uneven_grain,
        ),
        ("words in a shadow", shaded(words(4, 40.0)), UNEVEN),
        (
            "sign in dots of six steps",
            dithered(&sign(400), 5.0),
            DITHERED,
        ),
        (
            "sign in dots of two steps",
            dithered(&sign(400), 1.0),
            DITHERED,
        ),
        (
            "sign in dots of four steps",
            dithered(&sign(300), 3.0),
            DITHERED,
        ),
        (
            "words blurred",
            soft(words(2, 40.0), 1.5),
            Truth {
                enlarged: None,
                ..CLEAN
            },
        ),
        (
            "sign blurred",
            soft(sign(400), 1.2),
            Truth {
                enlarged: None,
                ..CLEAN
            },
        ),
        (
            "an astronaut",
            photograph(include_bytes!("photographs/astronaut.jpg")),
            PHOTOGRAPH,
        ),
        (
            "a photographer",
            photograph(include_bytes!("photographs/camera.jpg")),
            PHOTOGRAPH,
        ),
        (
            "a cat",
            photograph(include_bytes!("photographs/chelsea.jpg")),
            PHOTOGRAPH,
        ),
        (
            "a cup of coffee",
            photograph(include_bytes!("photographs/coffee.jpg")),
            PHOTOGRAPH,
        ),
        ("a gradient", sky, PHOTOGRAPH),
        ("clouds", clouds, PHOTOGRAPH),
    ]
}

/// What is said otherwise than it is.
fn wrong(image: RgbImage, truth: Truth) -> Vec<&'static str> {
    let mut bytes = std::io::Cursor::new(Vec::new());
    let saved = DynamicImage::ImageRgb8(image).write_to(&mut bytes, image::ImageFormat::Png);
    saved.unwrap();
    let picture: Picture = read(bytes.get_ref()).unwrap().picture;
    let solid = separate(&picture, &InkMode::Auto.into(), &Stop::new()).unwrap();
    let found = Worth::of(&picture, &solid, None);
    let said = [
        ("grain", truth.grain, found.noise > 2.5),
        ("compressed", truth.compressed, found.blocks > 0.25),
        ("uneven", truth.uneven, found.unevenness > 0.05),
        ("dithered", truth.dithered, found.dithered),
        ("enlarged", truth.enlarged, found.enlarged.is_some()),
        ("photograph", truth.photograph, found.photograph),
    ];
    said.into_iter()
        .filter(|(_, truth, said)| truth.is_some_and(|t| t != *said))
        .map(|(what, _, _)| what)
        .collect()
}

#[test]
fn of_forty_pictures_at_least_thirty_eight_are_told_right() {
    let all = pictures();
    assert_eq!(all.len(), 40);
    let mut missed = Vec::new();
    for (name, image, truth) in all {
        let wrong = wrong(image, truth);
        if !wrong.is_empty() {
            missed.push(format!("{name}: {}", wrong.join(", ")));
        }
    }
    assert!(missed.len() <= 2, "{missed:#?}");
}
