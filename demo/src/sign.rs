//! The old sign of the boatyard, photographed askew in the evening light on its brick wall.

use kurbo::{Affine, BezPath, Cap, Join, Point, Shape, Stroke, stroke};

use crate::photograph::Camera;
use crate::{Fill, Raster, render};

/// The sign's true size, mm.
pub const SIGN_MM: (f64, f64) = (900.0, 500.0);
/// Size of the photograph, px.
pub const SIGN_PX: (u32, u32) = (1400, 1050);

const CREAM: [u8; 3] = [238, 228, 200];
const GREEN: [u8; 3] = [24, 62, 52];
/// Pixels of the drawing in a millimetre of the sign.
const FINE: f64 = 2.0;

/// The camera that took it; its scene is mm from the middle of the sign.
#[must_use]
pub fn camera() -> Camera {
    Camera {
        angles: [31.0, -13.0, -4.0],
        lens: -2.5,
        blur: 0.9,
        grain: 2.5,
        dusk: 0.42,
        dusk_from: 25.0,
        seed: 1911,
        ..Camera::before(Point::new(20.0, 15.0), 1150.0, SIGN_PX)
    }
}

/// The photograph.
#[must_use]
pub fn photograph() -> Raster {
    let (w, h) = SIGN_MM;
    let size = ((w * FINE) as u32, (h * FINE) as u32);
    let scaled = |fill: Fill| Fill {
        path: Affine::scale(FINE) * fill.path,
        ..fill
    };
    let fills: Vec<Fill> = sign().into_iter().map(scaled).collect();
    let drawn = render(&fills, size.0, size.1, CREAM);
    let scene = |p: Point| {
        let (x, y) = ((p.x + w / 2.0) * FINE, (p.y + h / 2.0) * FINE);
        if x < 0.0 || y < 0.0 || x >= f64::from(size.0) || y >= f64::from(size.1) {
            return brick(p);
        }
        drawn.pixels[y as usize * size.0 as usize + x as usize].map(f64::from)
    };
    camera().take(scene, [150.0, 165.0, 185.0])
}

/// Bricks of 215 × 65 mm with joints of 10 mm, each of its own tone.
fn brick(p: Point) -> [f64; 3] {
    let row = (p.y / 75.0).floor();
    let along = p.x / 225.0 + row.rem_euclid(2.0) / 2.0;
    let (x, y) = (along.rem_euclid(1.0) * 225.0, p.y.rem_euclid(75.0));
    if x < 10.0 || y < 10.0 {
        return [142.0, 132.0, 122.0];
    }
    let tone = ((along.floor() * 12.9 + row * 78.2).sin() * 43_758.5).rem_euclid(1.0) * 26.0 - 13.0;
    [128.0 + tone, 70.0 + tone * 0.7, 56.0 + tone * 0.6]
}

/// The sign's fills, mm from its top left, y down.
#[must_use]
pub fn sign() -> Vec<Fill> {
    let (w, h) = SIGN_MM;
    let rounded = |inset: f64| {
        kurbo::RoundedRect::new(inset, inset, w - inset, h - inset, 26.0).to_path(0.05)
    };
    let mut border = rounded(28.0);
    border.extend(rounded(40.0).reverse_subpaths().elements().iter().copied());
    let mut all = vec![
        border,
        written("OLD LOCK", Point::new(450.0, 100.0), 104.0, 20.0),
    ];
    all.push(written("BOATYARD", Point::new(450.0, 350.0), 70.0, 13.0));
    // Water between the lines.
    for row in 0..2 {
        let y = 262.0 + 30.0 * f64::from(row);
        let mut wave = BezPath::new();
        wave.move_to((150.0, y));
        for n in 0..10 {
            let x = 150.0 + 60.0 * f64::from(n);
            let up = if n % 2 == 0 { -18.0 } else { 18.0 };
            wave.curve_to((x + 20.0, y + up), (x + 40.0, y + up), (x + 60.0, y));
        }
        all.push(outlined(&wave, 9.0));
    }
    let fill = |path| Fill {
        colour: GREEN,
        path,
    };
    all.into_iter().map(fill).collect()
}

fn outlined(path: &BezPath, width: f64) -> BezPath {
    let style = Stroke::new(width)
        .with_caps(Cap::Butt)
        .with_join(Join::Miter);
    stroke(
        path.elements().iter().copied(),
        &style,
        &Default::default(),
        0.05,
    )
}

/// Letters of one weight, their line about `middle.x`, their top at `middle.y`.
fn written(text: &str, middle: Point, height: f64, weight: f64) -> BezPath {
    let advance = |c: char| if c == ' ' { 0.45 } else { letter(c).0 + 0.26 };
    let width: f64 = text.chars().map(advance).sum::<f64>() - 0.26;
    let mut x = middle.x - width * height / 2.0;
    let mut all = BezPath::new();
    for c in text.chars() {
        let place = Affine::translate((x, middle.y)) * Affine::scale(height);
        let (_, path) = letter(c);
        all.extend(outlined(&(place * path), weight).elements().iter().copied());
        x += advance(c) * height;
    }
    all
}

/// A letter as the middle of its strokes, 1 high, with its width.
fn letter(c: char) -> (f64, BezPath) {
    let (width, data) = match c {
        'O' => (
            0.8,
            "M.4 0C.62 0 .8 .2 .8 .5S.62 1 .4 1 0 .8 0 .5 .18 0 .4 0Z",
        ),
        'L' => (0.55, "M0 0V1H.55"),
        'D' => (0.7, "M0 0H.3C.55 0 .7 .2 .7 .5S.55 1 .3 1H0Z"),
        'C' => (
            0.75,
            "M.75 .22C.66 .08 .55 0 .4 0 .18 0 0 .2 0 .5S.18 1 .4 1C.55 1 .66 .92 .75 .78",
        ),
        'K' => (0.65, "M0 0V1M.65 0L0 .6M.2 .42L.65 1"),
        'B' => (
            0.6,
            "M0 0H.3C.48 0 .56 .1 .56 .23S.48 .46 .3 .46H0ZM0 .46H.34C.52 .46 .6 .57 .6 .73S.52 1 .34 1H0Z",
        ),
        'A' => (0.75, "M0 1L.375 0L.75 1M.13 .66H.62"),
        'T' => (0.65, "M0 0H.65M.325 0V1"),
        'Y' => (0.7, "M0 0L.35 .5L.7 0M.35 .5V1"),
        'R' => (
            0.62,
            "M0 1V0H.32C.5 0 .58 .11 .58 .26S.5 .52 .32 .52H0M.3 .52L.62 1",
        ),
        _ => (0.3, ""),
    };
    (width, BezPath::from_svg(data).unwrap_or_default())
}
