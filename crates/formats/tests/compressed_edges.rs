//! Coloured edges in a compressed picture, against a disc whose true edge is known.
//!
//! `files/disc.jpg` was written by libjpeg (quality 60, chroma at half the resolution) from a disc
//! of radius 75 px about (101.3, 98.7): `scripts/reference/disc.py`.

use inky_core::inks::InkMode;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::trace;
use inky_core::units::Mm;
use inky_formats::picture::read;
use kurbo::{ParamCurve, Point};

const CENTRE: Point = Point::new(101.3, 98.7);
const RADIUS: f64 = 75.0;

#[test]
fn a_coloured_disc_is_a_circle_again_in_spite_of_compression() {
    let artwork = read(include_bytes!("files/disc.jpg")).unwrap();
    // One pixel is one millimetre.
    let size = Size::at_ppi(200, 200, 25.4);
    let mut recipe = Recipe::automatic(size);
    recipe.inks.mode = InkMode::Count { count: 2 };
    let traced = trace(&artwork.picture, &recipe, &Stop::new(), &mut |_| ()).unwrap();
    assert_eq!(traced.design.size.width, Mm::new(200.0));
    assert_eq!(traced.design.shapes.len(), 1);
    let ring = &traced.design.shapes[0].outer;
    assert!(ring.segments().len() <= 4, "{}", ring.segments().len());
    for segment in ring.path().segments() {
        for part in 0..=20 {
            let off = segment.eval(f64::from(part) / 20.0).distance(CENTRE) - RADIUS;
            assert!(off.abs() < 0.12, "{off} px off");
        }
    }
}

#[test]
fn luma_and_chroma_are_kept_as_stored_and_turned_with_the_picture() {
    let picture = read(include_bytes!("files/disc.jpg")).unwrap().picture;
    let stored = picture.stored().unwrap();
    assert_eq!(stored.len(), picture.pixels().len());
    // Amid the disc and in its corner: the conversion of ITU-T T.871 by hand.
    let middle = stored[98 * 200 + 101];
    let luma = 0.299 * 221.0 + 0.587 * 46.0 + 0.114 * 68.0;
    assert!((f64::from(middle[0]) - luma).abs() < 4.0, "{middle:?}");
    assert_eq!(stored[0], [255, 128, 128, 255]);
    let turned = read(include_bytes!("files/turned.jpg")).unwrap().picture;
    for (p, s) in turned.pixels().iter().zip(turned.stored().unwrap().iter()) {
        let luma = 0.299 * f64::from(p[0]) + 0.587 * f64::from(p[1]) + 0.114 * f64::from(p[2]);
        let cut_off = p[..3].iter().any(|v| matches!(v, 0 | 255));
        assert!(
            cut_off || (luma - f64::from(s[0])).abs() < 1.5,
            "{p:?} {s:?}"
        );
    }
    let grey = image::DynamicImage::new_luma8(9, 7);
    let mut bytes = std::io::Cursor::new(Vec::new());
    grey.write_to(&mut bytes, image::ImageFormat::Jpeg).unwrap();
    assert!(read(bytes.get_ref()).unwrap().picture.stored().is_none());
}
