//! Figures published elsewhere that the core must reproduce.

use inky_core::inks::{Rgb, difference, lab_difference, levels, otsu, sauvola};

/// Pixels of a tone.
type Count = fn(usize) -> u64;

/// Otsu's threshold as `skimage.filters.threshold_otsu` computes it.
///
/// Reference: scikit-image 0.25, `threshold_otsu(counts=...)` on the histograms built here
/// (script: `scripts/reference/otsu.py`); ties resolve to the first maximum in both.
#[test]
fn otsu_agrees_with_scikit_image() {
    let cases: [(&str, Count, u8); 4] = [
        (
            "two equal humps",
            |v| hump(v, 60, 10) + hump(v, 180, 10),
            OTSU[0],
        ),
        (
            "a small dark hump",
            |v| hump(v, 50, 8) + 12 * hump(v, 210, 14),
            OTSU[1],
        ),
        (
            "three humps",
            |v| hump(v, 30, 6) + hump(v, 110, 12) + 3 * hump(v, 220, 9),
            OTSU[2],
        ),
        ("a ramp", |v| v as u64, OTSU[3]),
    ];
    for (name, count, expected) in cases {
        let histogram = std::array::from_fn(count);
        assert_eq!(otsu(&histogram), Some(expected), "{name}");
    }
}

/// Levels between several classes of tones as `skimage.filters.threshold_multiotsu` finds them.
///
/// Reference: scikit-image 0.26 on the histograms of pictures that it ships (script: `scripts/reference/levels.py`).
#[test]
fn levels_between_several_tones_agree_with_scikit_image() {
    type Picture = (&'static str, [u64; 256], [&'static [u8]; 4]);
    let pictures: [Picture; 3] = include!("reference/levels.in");
    for (name, histogram, expected) in pictures {
        for found in expected {
            assert_eq!(levels(&histogram, found.len()), found, "{name}");
        }
    }
}

/// Computed by `scripts/reference/otsu.py` with scikit-image.
const OTSU: [u8; 4] = include!("reference/otsu.in");

/// A triangle of counts around a tone: exact in integers, so both sides see the same histogram.
fn hump(v: usize, at: usize, half: usize) -> u64 {
    let away = v.abs_diff(at);
    if away >= half {
        0
    } else {
        ((half - away) * 10) as u64
    }
}

/// CIE L*a*b* (D65) of the sRGB primaries and of white.
///
/// Source: IEC 61966-2-1 (sRGB) with CIE 15 (Lab); the rounded values are those of Bruce
/// Lindbloom's published calculator, from memory, good to the two decimals given.
#[test]
fn srgb_primaries_have_their_lab_values() {
    for (rgb, lab) in [
        ([255, 0, 0], [53.24, 80.09, 67.20]),
        ([0, 255, 0], [87.73, -86.18, 83.18]),
        ([0, 0, 255], [32.30, 79.19, -107.86]),
        ([255, 255, 255], [100.0, 0.0, 0.0]),
        ([0, 0, 0], [0.0, 0.0, 0.0]),
        ([119, 119, 119], [50.03, 0.0, 0.0]),
    ] {
        let found = Rgb(rgb).lab();
        for (f, e) in [found.l, found.a, found.b].into_iter().zip(lab) {
            assert!((f - e).abs() < 0.03, "{rgb:?}: {f} against {e}");
        }
    }
}

/// A colour differs from itself by nothing, and the measure is symmetric (CIE 142-2001).
#[test]
fn ciede2000_is_symmetric_and_nought_for_the_same_colour() {
    let (a, b) = (Rgb([43, 109, 120]), Rgb([179, 85, 44]));
    assert!(difference(a, a).abs() < 1e-12);
    assert!((difference(a, b) - difference(b, a)).abs() < 1e-9);
    assert!(
        (difference(Rgb::BLACK, Rgb::WHITE) - 100.0).abs() < 1e-6,
        "black to white is 100"
    );
}

/// The 34 pairs of Sharma, Wu & Dalal 2005, "The CIEDE2000 color-difference formula:
/// implementation notes, supplementary test data, and mathematical observations" (Color Res. Appl.
/// 30(1) 21–30), table 1; typed from memory and found equal to `skimage.color.deltaE_ciede2000`.
#[test]
fn ciede2000_gives_the_published_differences() {
    for (a, b, expected) in CIEDE2000 {
        let found = lab_difference(a, b);
        assert!(
            (found - expected).abs() < 1e-4,
            "{a:?} {b:?}: {found} against {expected}"
        );
    }
}

type Pair = ([f64; 3], [f64; 3], f64);
const CIEDE2000: [Pair; 34] = include!("reference/ciede2000.in");

/// Sauvola's thresholds as `skimage.filters.threshold_sauvola` computes them.
///
/// Reference: scikit-image 0.26 on the picture built here (script: `scripts/reference/sauvola.py`).
#[test]
fn sauvola_agrees_with_scikit_image() {
    let (w, h) = (48usize, 36usize);
    let mut state = 7u32;
    let tones: Vec<u8> = (0..w * h)
        .map(|i| {
            let (x, y) = (i % w, i / w);
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            let bar = if (12..20).contains(&(x + y / 3)) {
                80
            } else {
                0
            };
            (120 + 2 * x - bar) as u8 + (state >> 28) as u8
        })
        .collect();
    let found = sauvola(&tones, (w, h), 15);
    for (y, row) in [0, 9, 20, h - 1].into_iter().zip(SAUVOLA) {
        for (x, expected) in [0, 5, 17, 30, w - 1].into_iter().zip(row) {
            let t = found[y * w + x];
            assert!(
                (t - expected).abs() < 1e-4,
                "({x}, {y}): {t} against {expected}"
            );
        }
    }
}

/// Computed by `scripts/reference/sauvola.py` with scikit-image.
const SAUVOLA: [[f64; 5]; 4] = include!("reference/sauvola.in");
