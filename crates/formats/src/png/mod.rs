//! PNG of a page, of a picture, of a solid picture and of what outlines missed.

pub mod print;

use inky_core::agreement::MissedMap;
use inky_core::cutting::Cutting;
use inky_core::inks::{InkId, Rgb, Solid};
use inky_core::picture::Picture;
use inky_core::shapes::{Design, Ring};
use inky_core::units::MM_PER_INCH;
use tiny_skia::{FillRule, LineCap, LineJoin, Paint, PathBuilder, Pixmap, Stroke, Transform};

/// Why no PNG was written.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum PngError {
    /// The picture would be above the limit.
    #[error("at {ppi} pixels per inch the picture would be {width} × {height} px; choose fewer")]
    TooLarge {
        /// Pixels per inch asked for.
        ppi: f64,
        /// Width, px.
        width: u64,
        /// Height, px.
        height: u64,
    },
    /// The encoder failed.
    #[error("the PNG could not be written: {0}")]
    Encode(#[from] png::EncodingError),
}

/// Greatest number of pixels of a drawn page.
const MOST_PIXELS: u64 = 50_000_000;

fn encode(
    (width, height): (u32, u32),
    colour: png::ColorType,
    ppi: Option<f64>,
    palette: Option<Vec<u8>>,
    data: &[u8],
) -> Result<Vec<u8>, PngError> {
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, width, height);
    encoder.set_color(colour);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.set_compression(png::Compression::Fast);
    if let Some(palette) = palette {
        encoder.set_palette(palette);
    }
    if let Some(ppi) = ppi {
        let per_metre = (ppi * 1000.0 / MM_PER_INCH).round() as u32;
        let unit = png::Unit::Meter;
        encoder.set_pixel_dims(Some(png::PixelDimensions {
            xppu: per_metre,
            yppu: per_metre,
            unit,
        }));
    }
    let mut writer = encoder.write_header()?;
    writer.write_image_data(data)?;
    writer.finish()?;
    Ok(out)
}

/// A picture as RGBA.
///
/// # Errors
/// When the encoder fails.
pub fn write_picture(picture: &Picture) -> Result<Vec<u8>, PngError> {
    let data = picture.pixels().as_flattened();
    encode(
        (picture.width(), picture.height()),
        png::ColorType::Rgba,
        None,
        None,
        data,
    )
}

/// A mask: verdigris where it is on, clear elsewhere.
///
/// # Errors
/// When the encoder fails.
pub fn write_mask((width, height): (u32, u32), on: &[bool]) -> Result<Vec<u8>, PngError> {
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, width, height);
    encoder.set_color(png::ColorType::Indexed);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.set_compression(png::Compression::Fast);
    encoder.set_palette(vec![0, 0, 0, 23, 120, 107]);
    encoder.set_trns(vec![0, 150]);
    let mut writer = encoder.write_header()?;
    writer.write_image_data(&on.iter().map(|&on| u8::from(on)).collect::<Vec<_>>())?;
    writer.finish()?;
    Ok(out)
}

/// A solid picture, every pixel in the colour of its ink among `paints`; transparency white.
///
/// # Errors
/// When the encoder fails.
pub fn write_solid(solid: &Solid, labels: &[u8], paints: &[Rgb]) -> Result<Vec<u8>, PngError> {
    let palette = paints.iter().flat_map(|paint| paint.0).collect();
    encode(
        (solid.width, solid.height),
        png::ColorType::Indexed,
        None,
        Some(palette),
        labels,
    )
}

/// Colours of ink that was lost, and of ink that was invented.
const LOST: [u8; 3] = [0xb3, 0x26, 0x1e];
const INVENTED: [u8; 3] = [0x24, 0x5c, 0xb8];

/// What outlines missed, on a clear ground: lost ink in red, invented ink in blue.
///
/// # Errors
/// When the encoder fails.
pub fn write_missed(map: &MissedMap) -> Result<Vec<u8>, PngError> {
    let pixel = |&v: &i8| {
        let [r, g, b] = if v < 0 { LOST } else { INVENTED };
        [r, g, b, v.unsigned_abs().saturating_mul(2)]
    };
    let pixels: Vec<u8> = map.values.iter().flat_map(pixel).collect();
    encode(
        (map.width, map.height),
        png::ColorType::Rgba,
        None,
        None,
        &pixels,
    )
}

/// A page on a clear ground, filled with its inks.
///
/// # Errors
/// When it would be too large, or the encoder fails.
pub fn write_page(cutting: &Cutting, ppi: f64) -> Result<Vec<u8>, PngError> {
    let scale = ppi / MM_PER_INCH;
    let [width, height] = cutting.size.map(|mm| (mm * scale).round().max(1.0) as u64);
    let too_large = PngError::TooLarge { ppi, width, height };
    if width.saturating_mul(height) > MOST_PIXELS {
        return Err(too_large);
    }
    let Some(map) = Pixmap::new(width as u32, height as u32) else {
        return Err(too_large);
    };
    let mut page = Page { map, scale };
    for layer in &cutting.layers {
        for shape in &layer.shapes {
            page.fill(shape.all(), layer.colour);
        }
        for line in &layer.lines {
            page.draw(&line.path(), line.width, layer.colour);
        }
    }
    page.written(Some(ppi))
}

/// A small picture of a design on a clear ground, at most `side` px wide and high.
///
/// # Errors
/// When the encoder fails.
pub fn write_small(design: &Design, side: u32) -> Result<Vec<u8>, PngError> {
    let (wide, high) = (design.size.width.get(), design.size.height.get());
    let scale = f64::from(side) / wide.max(high);
    let px = |mm: f64| (mm * scale).round().max(1.0) as u32;
    let (width, height) = (px(wide), px(high));
    let map = Pixmap::new(width, height).ok_or(PngError::TooLarge {
        ppi: scale * MM_PER_INCH,
        width: width.into(),
        height: height.into(),
    })?;
    let mut page = Page { map, scale };
    let paint = |InkId(n): InkId| design.inks.get(usize::from(n)).map(|ink| ink.paint);
    for shape in &design.shapes {
        if let Some(colour) = paint(shape.ink) {
            page.fill(shape.rings(), colour);
        }
    }
    for stroke in &design.strokes {
        if let Some(colour) = paint(stroke.ink) {
            // A line that is thinner than a pixel would fade away.
            let width = stroke.width.mean.max(1.0 / scale);
            page.draw(&stroke.path(), width, colour);
        }
    }
    page.written(None)
}

/// A page that is drawn on, mm.
struct Page {
    map: Pixmap,
    /// Pixels in a millimetre.
    scale: f64,
}

impl Page {
    fn paint(Rgb([r, g, b]): Rgb) -> Paint<'static> {
        let mut paint = Paint {
            anti_alias: true,
            ..Paint::default()
        };
        paint.set_color_rgba8(r, g, b, 255);
        paint
    }

    fn in_px(&self) -> Transform {
        Transform::from_scale(self.scale as f32, self.scale as f32)
    }

    fn fill<'a>(&mut self, rings: impl Iterator<Item = &'a Ring>, colour: Rgb) {
        let rings = rings.flat_map(|ring| ring.path().into_iter());
        if let Some(path) = skia_path(&rings.collect()) {
            let (paint, transform) = (Self::paint(colour), self.in_px());
            self.map
                .fill_path(&path, &paint, FillRule::EvenOdd, transform, None);
        }
    }

    fn draw(&mut self, path: &kurbo::BezPath, width: f64, colour: Rgb) {
        if let Some(path) = skia_path(path) {
            let round = Stroke {
                width: width as f32,
                line_cap: LineCap::Round,
                line_join: LineJoin::Round,
                ..Stroke::default()
            };
            let (paint, transform) = (Self::paint(colour), self.in_px());
            self.map.stroke_path(&path, &paint, &round, transform, None);
        }
    }

    fn written(self, ppi: Option<f64>) -> Result<Vec<u8>, PngError> {
        let plain = |p: &tiny_skia::PremultipliedColorU8| {
            let c = p.demultiply();
            [c.red(), c.green(), c.blue(), c.alpha()]
        };
        let data: Vec<u8> = self.map.pixels().iter().flat_map(plain).collect();
        let size = (self.map.width(), self.map.height());
        encode(size, png::ColorType::Rgba, ppi, None, &data)
    }
}

/// A small copy of a picture, at most `side` px wide and high.
///
/// # Errors
/// When the encoder fails.
pub fn write_thumbnail(picture: &Picture, side: u32) -> Result<Vec<u8>, PngError> {
    let data = picture.pixels().as_flattened().to_vec();
    let small = image::RgbaImage::from_raw(picture.width(), picture.height(), data).map(|full| {
        image::DynamicImage::ImageRgba8(full)
            .thumbnail(side, side)
            .into_rgba8()
    });
    match small {
        Some(s) => encode(s.dimensions(), png::ColorType::Rgba, None, None, s.as_raw()),
        None => write_picture(picture),
    }
}

fn skia_path(path: &kurbo::BezPath) -> Option<tiny_skia::Path> {
    let mut builder = PathBuilder::new();
    for element in path.elements() {
        let f = |p: kurbo::Point| (p.x as f32, p.y as f32);
        match *element {
            kurbo::PathEl::MoveTo(p) => builder.move_to(f(p).0, f(p).1),
            kurbo::PathEl::LineTo(p) => builder.line_to(f(p).0, f(p).1),
            kurbo::PathEl::QuadTo(a, p) => builder.quad_to(f(a).0, f(a).1, f(p).0, f(p).1),
            kurbo::PathEl::CurveTo(a, b, p) => {
                builder.cubic_to(f(a).0, f(a).1, f(b).0, f(b).1, f(p).0, f(p).1);
            }
            kurbo::PathEl::ClosePath => builder.close(),
        }
    }
    builder.finish()
}
