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

const WHITE: [u8; 3] = [255; 3];

#[test]
fn light_strokes_keep_their_own_ink_and_no_other_is_made_up_beside_them() {
    let gold: &[u8] = include_bytes!("files/badge-gold.jpg");
    let yellow: &[u8] = include_bytes!("files/badge-yellow.jpg");
    let pale_blue: &[u8] = include_bytes!("files/badge-pale-blue.jpg");
    let white: &[u8] = include_bytes!("files/badge-white.jpg");
    let badges: [(&[u8], &[[u8; 3]]); 4] = [
        (gold, &[WHITE, [29, 47, 79], [240, 216, 160]]),
        (yellow, &[WHITE, [192, 32, 32], [255, 224, 32]]),
        (pale_blue, &[WHITE, [128, 32, 32], [176, 216, 240]]),
        (white, &[WHITE, [32, 80, 64]]),
    ];
    for (bytes, drawn) in badges {
        let picture = read(bytes).unwrap().picture;
        let recipe = Recipe::automatic(Size::at_ppi(240, 240, 25.4));
        let traced = trace(&picture, &recipe, &Stop::new(), &mut |_| ()).unwrap();
        let found: Vec<Rgb> = traced.solid.inks.iter().map(|ink| ink.colour).collect();
        assert_eq!(found.len(), drawn.len(), "{found:?}");
        for &ink in drawn {
            let like = |found: &Rgb| difference(*found, Rgb(ink)) < LIKE;
            assert!(found.iter().any(like), "{ink:?} is not among {found:?}");
        }
        let told = Agreement::of(&picture, &traced.solid, &traced.design).unwrap();
        assert_eq!(told.unlike, 0, "{drawn:?}");
        assert!(told.share > 0.9, "{drawn:?}: {}", told.share);
    }
}
