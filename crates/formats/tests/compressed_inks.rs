//! Inks of thin strokes in compressed pictures, against the colours they were drawn in.
//!
//! `files/badge-*.jpg` were written by libjpeg (qualities 25 to 60, chroma at half the resolution) by
//! `scripts/reference/badges.py`: light strokes of 3 to 5 px on a dark disc on white. Compression spreads
//! the chroma of such a stroke, so that gold looks white, and rings beside it, so that a darker ink seems
//! to be there.

use inky_core::agreement::Agreement;
use inky_core::inks::{Rgb, difference};
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::trace;
use inky_formats::picture::read;

/// How far an ink may be off what was drawn, CIEDE2000: the quality of 25 leaves no more of it.
const LIKE: f64 = 12.0;

/// Has just the inks that were drawn, agrees with the picture, and nothing has another colour than its ink.
fn has_inks(bytes: &[u8], drawn: &[[u8; 3]]) {
    let picture = read(bytes).unwrap().picture;
    let recipe = Recipe::automatic(Size::at_ppi(240, 240, 25.4));
    let traced = trace(&picture, &recipe, &Stop::new(), &mut |_| ()).unwrap();
    let found: Vec<Rgb> = traced.solid.inks.iter().map(|ink| ink.colour).collect();
    assert_eq!(found.len(), drawn.len(), "{found:?}");
    for &ink in drawn {
        let like = |found: &Rgb| difference(*found, Rgb(ink)) < LIKE;
        assert!(found.iter().any(like), "{ink:?} is not among {found:?}");
    }
    let agreement = Agreement::of(&traced.cleaned.picture, &traced.solid, &traced.design).unwrap();
    assert_eq!(agreement.unlike, 0);
    assert!(agreement.share > 0.9, "{}", agreement.share);
}

const WHITE: [u8; 3] = [255; 3];

#[test]
fn gold_on_navy_is_not_taken_for_the_white_outside() {
    let drawn = [WHITE, [29, 47, 79], [240, 216, 160]];
    has_inks(include_bytes!("files/badge-gold.jpg"), &drawn);
}

#[test]
fn yellow_on_red_has_no_darker_red_beside_it() {
    let drawn = [WHITE, [192, 32, 32], [255, 224, 32]];
    has_inks(include_bytes!("files/badge-yellow.jpg"), &drawn);
}

#[test]
fn pale_blue_on_dark_red_is_found_at_a_low_quality() {
    let drawn = [WHITE, [128, 32, 32], [176, 216, 240]];
    has_inks(include_bytes!("files/badge-pale-blue.jpg"), &drawn);
}

#[test]
fn white_strokes_are_the_white_outside() {
    has_inks(
        include_bytes!("files/badge-white.jpg"),
        &[WHITE, [32, 80, 64]],
    );
}
