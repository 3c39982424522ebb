//! A page to be printed as pixels: the same that its PDF shows, the cut lines left out.

use inky_core::inks::Rgb;
use inky_core::overlay::Rings;
use inky_core::picture::Picture;
use inky_core::print::PrintPage;
use inky_core::print::look::Painted;
use inky_core::units::MM_PER_INCH;
use kurbo::Affine;
use tiny_skia::{FillRule, FilterQuality, IntSize, Paint, Pattern, Pixmap, SpreadMode, Transform};

use super::{MOST_PIXELS, Page, PngError, skia_path};
use crate::pdf::print::Art;

/// Draws a page at so many pixels per inch, on white.
///
/// # Errors
/// When it would be too large, or the encoder fails.
pub fn write(page: &PrintPage, arts: &[Art<'_>], ppi: f64) -> Result<Vec<u8>, PngError> {
    let scale = ppi / MM_PER_INCH;
    let [width, height] = page
        .choice
        .page
        .map(|mm| (mm * scale).round().max(1.0) as u64);
    let too_large = PngError::TooLarge { ppi, width, height };
    if width.saturating_mul(height) > MOST_PIXELS {
        return Err(too_large);
    }
    let Some(mut map) = Pixmap::new(width as u32, height as u32) else {
        return Err(too_large);
    };
    map.fill(tiny_skia::Color::WHITE);
    let mut drawn = Page { map, scale };
    let pixels: Vec<Option<([f64; 4], Pixmap, Pixmap)>> = arts
        .iter()
        .map(|art| {
            let bled = art.printed.bled(art.picture);
            Some((bled.at, pixmap(&bled.picture)?, pixmap(art.picture)?))
        })
        .collect();
    for print in &page.prints {
        let (Some(art), Some(Some((at, bled, own)))) =
            (arts.get(print.picture), pixels.get(print.picture))
        else {
            continue;
        };
        let printed = art.printed;
        let to_px = Affine::scale(scale) * print.map;
        let per_px = [0, 1]
            .map(|k| printed.size[k] / f64::from([art.picture.width(), art.picture.height()][k]));
        let of_px = Affine::scale_non_uniform(per_px[0], per_px[1]);
        if let Some(Rgb([r, g, b])) = printed.border_colour {
            let mut paint = Paint::default();
            paint.set_color_rgba8(r, g, b, 255);
            fill(&mut drawn, &printed.printed, (paint, to_px));
        }
        let under = match printed.border_colour {
            Some(_) => &printed.outline,
            None => &printed.printed,
        };
        let [x, y, w, h] = *at;
        let per_bled =
            Affine::scale_non_uniform(w / f64::from(bled.width()), h / f64::from(bled.height()));
        let to_bled = to_px * Affine::translate((x, y)) * per_bled;
        fill(&mut drawn, under, (shader(bled, to_bled), to_px));
        fill(
            &mut drawn,
            &printed.inner,
            (shader(own, to_px * of_px), to_px),
        );
        for painted in &printed.painted {
            let tile = tile(painted, scale);
            let Some(tile) = &tile else { continue };
            let repeat = painted.repeat();
            let per_px = Affine::scale_non_uniform(
                repeat[0] / f64::from(tile.width()),
                repeat[1] / f64::from(tile.height()),
            );
            let to_tile = to_px * painted.paint.turned() * per_px;
            let paint = Paint {
                shader: Pattern::new(
                    tile.as_ref(),
                    SpreadMode::Repeat,
                    FilterQuality::Bilinear,
                    1.0,
                    transform(to_tile),
                ),
                anti_alias: true,
                ..Paint::default()
            };
            fill(&mut drawn, &painted.shapes, (paint, to_px));
        }
    }
    let black = Rgb([0, 0, 0]);
    for shape in page.ink() {
        drawn.fill(shape.all(), black);
    }
    drawn.written(Some(ppi))
}

fn transform(map: Affine) -> Transform {
    let [a, b, c, d, e, f] = map.as_coeffs().map(|v| v as f32);
    Transform::from_row(a, b, c, d, e, f)
}

fn pixmap(picture: &Picture) -> Option<Pixmap> {
    let size = IntSize::from_wh(picture.width(), picture.height())?;
    let premultiplied = |p: &[u8; 4]| {
        let c = tiny_skia::ColorU8::from_rgba(p[0], p[1], p[2], p[3]).premultiply();
        [c.red(), c.green(), c.blue(), c.alpha()]
    };
    Pixmap::from_vec(
        picture.pixels().iter().flat_map(premultiplied).collect(),
        size,
    )
}

/// Pixels of one repeat of a paint, as fine as the page's own or finer; each is the mean of places in it.
fn tile(painted: &Painted, scale: f64) -> Option<Pixmap> {
    let paint = &painted.paint;
    let [w, h] = painted.repeat();
    let side = |mm: f64| (mm * scale).ceil().clamp(FINEST_TILE, LARGEST_TILE) as u32;
    let (wide, tall) = (side(w), side(h));
    let px = [w / f64::from(wide), h / f64::from(tall)];
    let upright = paint.turned();
    let pixel = |i: u32| -> [u8; 4] {
        let mut sum = [0u32; 3];
        for n in 0..TIMES * TIMES {
            let part = |k: u32| (f64::from(k) + 0.5) / f64::from(TIMES);
            let (x, y) = (
                f64::from(i % wide) + part(n % TIMES),
                f64::from(i / wide) + part(n / TIMES),
            );
            let Rgb(colour) = painted.at(upright * kurbo::Point::new(x * px[0], y * px[1]));
            (0..3).for_each(|k| sum[k] += u32::from(colour[k]));
        }
        let [r, g, b] = sum.map(|v| (v / (TIMES * TIMES)) as u8);
        [r, g, b, 255]
    };
    let data = (0..wide * tall).flat_map(pixel).collect();
    Pixmap::from_vec(data, IntSize::from_wh(wide, tall)?)
}

/// Sides of a tile, px, and places that a pixel of it is the mean of, a side.
const FINEST_TILE: f64 = 16.0;
const LARGEST_TILE: f64 = 1024.0;
const TIMES: u32 = 4;

/// A picture as a paint, its pixels as they are.
fn shader(pixels: &Pixmap, map: Affine) -> Paint<'_> {
    Paint {
        shader: Pattern::new(
            pixels.as_ref(),
            SpreadMode::Pad,
            FilterQuality::Bilinear,
            1.0,
            transform(map),
        ),
        anti_alias: true,
        ..Paint::default()
    }
}

fn fill(page: &mut Page, shapes: &[Rings], (paint, map): (Paint<'_>, Affine)) {
    let rings = shapes
        .iter()
        .flat_map(Rings::all)
        .flat_map(|r| r.path().into_iter());
    let path: kurbo::BezPath = rings.collect();
    // Moved here, since a paint would be moved with it.
    if let Some(path) = skia_path(&(map * path)) {
        page.map.fill_path(
            &path,
            &paint,
            FillRule::EvenOdd,
            Transform::identity(),
            None,
        );
    }
}
