//! The estimators of what an artwork is worth, on pictures whose noise, light and edges are known.
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use inky_core::inks::{InkMode, separate};
use inky_core::picture::Picture;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::worth::{Verdict, Worth, blocks};

const SIDE: u32 = 320;

fn picture(colour: impl Fn(f64, f64) -> [f64; 3]) -> Picture {
    let pixel = |i: u32| {
        let (x, y) = (f64::from(i % SIDE) + 0.5, f64::from(i / SIDE) + 0.5);
        let [r, g, b] = colour(x, y).map(|v| v.round().clamp(0.0, 255.0) as u8);
        [r, g, b, 255]
    };
    Picture::new(SIDE, SIDE, (0..SIDE * SIDE).map(pixel).collect()).expect("the size is right")
}

/// A badge of two inks on paper.
fn badge(x: f64, y: f64) -> [f64; 3] {
    let r = (x - 160.0).hypot(y - 160.0);
    let mix = |a: [f64; 3], b: [f64; 3], part: f64| -> [f64; 3] {
        std::array::from_fn(|c| a[c] + (b[c] - a[c]) * part.clamp(0.0, 1.0))
    };
    let red = mix([245.0, 240.0, 230.0], [180.0, 40.0, 50.0], 120.5 - r);
    mix(red, [30.0, 45.0, 90.0], 60.5 - r)
}

fn worth(picture: &Picture) -> Worth {
    let solid = separate(picture, &InkMode::Auto.into(), &Stop::new()).expect("not stopped");
    Worth::of(picture, &solid, None)
}

/// Numbers from −6 to 6 with standard deviation 1: sums of twelve of a linear congruential
/// generator (Numerical Recipes, 32 bit).
fn normal(seed: u32) -> impl FnMut() -> f64 {
    let mut state = seed;
    move || {
        let mut next = || {
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            f64::from(state) / f64::from(u32::MAX)
        };
        (0..12).map(|_| next()).sum::<f64>() - 6.0
    }
}

fn size(ppi: f64) -> Size {
    Size::at_ppi(SIDE, SIDE, ppi)
}

#[test]
fn clean_flat_art_is_good_and_its_colours_are_counted() {
    let found = worth(&picture(badge));
    assert_eq!(found.flat_colours, 3);
    assert!(found.flat_share > 0.95 && !found.photograph, "{found:?}");
    assert!(found.noise < 0.5 && found.unevenness < 0.01);
    assert_eq!(found.verdict(size(200.0)), Verdict::Good);
    assert!(found.advice(size(200.0)).is_empty());
    // Two pixels at 200 in an inch.
    let detail = found.smallest_detail(size(200.0));
    assert!((0.25..0.4).contains(&detail), "{detail}");
}

#[test]
fn a_small_picture_made_large_is_told_with_its_pixel_in_millimetres() {
    // The brief's own example: 34 pixels in an inch, one pixel is 0.75 mm.
    let found = worth(&picture(badge));
    let advice = found.advice(size(34.0));
    assert_eq!(advice[0].verdict, Verdict::Poor);
    assert!(advice[0].text.contains("34 pixels per inch") && advice[0].text.contains("0.75 mm"));
}

#[test]
fn known_grain_is_told_within_a_fifth() {
    for sigma in [5.0, 9.0, 15.0] {
        let mut noise = normal(3);
        let mut noisy = picture(badge).pixels().to_vec();
        for p in &mut noisy {
            let n = noise() * sigma;
            for v in &mut p[..3] {
                *v = (f64::from(*v) + n).round().clamp(0.0, 255.0) as u8;
            }
        }
        let found = worth(&Picture::new(SIDE, SIDE, noisy).expect("the size is right"));
        assert!(
            (found.noise / sigma - 1.0).abs() < 0.2,
            "{sigma}: {}",
            found.noise
        );
        assert!(!found.photograph, "{sigma}");
    }
}

#[test]
fn light_that_falls_off_by_a_known_part_is_told() {
    for fall in [0.15, 0.3] {
        let lit = picture(|x, y| badge(x, y).map(|v| v * (1.0 - fall * x / f64::from(SIDE))));
        let found = worth(&lit);
        assert!(
            (found.unevenness - fall).abs() < 0.04,
            "{fall}: {}",
            found.unevenness
        );
        assert!(!found.photograph);
    }
}

#[test]
fn soft_gradients_and_clouds_are_photographs() {
    let sky = picture(|x, y| [60.0 + x / 2.0, 90.0 + y / 3.0, 200.0 - x / 4.0]);
    let clouds = picture(|x, y| {
        let v =
            (x / 37.0).sin() + (y / 23.0).cos() + ((x + y) / 51.0).sin() + (x * y / 9000.0).cos();
        [128.0 + 30.0 * v, 120.0 + 22.0 * v, 140.0 - 25.0 * v]
    });
    for picture in [sky, clouds] {
        let found = worth(&picture);
        assert!(found.photograph, "{found:?}");
        assert_eq!(found.verdict(size(200.0)), Verdict::Poor);
    }
}

#[test]
fn blocks_are_found_where_they_are_and_not_where_they_are_not() {
    let plain = picture(|x, y| [128.0 + 40.0 * (x / 40.0).sin() + 20.0 * (y / 31.0).cos(); 3]);
    assert!(blocks(&plain) < 0.1, "{}", blocks(&plain));
    // Every block lifted or lowered a little, as coarse steps of its mean do.
    let mut noise = normal(11);
    let lifts: Vec<f64> = (0..40 * 40).map(|_| noise() * 4.0).collect();
    let blocky = picture(|x, y| {
        let lift = lifts[(y / 8.0) as usize * 40 + (x / 8.0) as usize];
        [128.0 + 40.0 * (x / 40.0).sin() + 20.0 * (y / 31.0).cos() + lift; 3]
    });
    assert!(blocks(&blocky) > 0.5, "{}", blocks(&blocky));
}
