//! What happens to a drawing before it reaches the shop: scanning, JPEG, files.

use image::codecs::jpeg::JpegEncoder;
use image::{ExtendedColorType, ImageEncoder};

use crate::Raster;

/// A scan: soft optics, paper that darkens to one side, grain. The same on every call.
pub(crate) fn scanned(clean: &Raster) -> Raster {
    let (w, h) = (clean.width as usize, clean.height as usize);
    let mut out = clean.clone();
    let mut rng = fastrand::Rng::with_seed(1873);
    for y in 0..h {
        for x in 0..w {
            let mut sum = [0.0; 3];
            // A 3 × 3 binomial kernel: the blur of a desk scanner.
            for (dy, ky) in [(0, 1.0), (1, 2.0), (2, 1.0)] {
                for (dx, kx) in [(0, 1.0), (1, 2.0), (2, 1.0)] {
                    let (sx, sy) = ((x + dx).clamp(1, w) - 1, (y + dy).clamp(1, h) - 1);
                    for (s, v) in sum.iter_mut().zip(clean.pixels[sy * w + sx]) {
                        *s += f64::from(v) * kx * ky / 16.0;
                    }
                }
            }
            let (u, v) = (x as f64 / w as f64, y as f64 / h as f64);
            // Warm paper, lit from the upper left, in shadow towards the spine on the right.
            let light = 0.985 - 0.07 * u * u - 0.05 * v;
            let paper = [1.0, 0.985, 0.95];
            // Sum of 6 uniform numbers: close to normal, σ = 0.71.
            let grain = (0..6).map(|_| rng.f64() - 0.5).sum::<f64>() * 5.0;
            for (c, value) in out.pixels[y * w + x].iter_mut().enumerate() {
                *value = (sum[c] * light * paper[c] + grain)
                    .round()
                    .clamp(0.0, 255.0) as u8;
            }
        }
    }
    out
}

fn bytes(raster: &Raster) -> Vec<u8> {
    raster.pixels.as_flattened().to_vec()
}

/// PNG, with its dpi where it states one. Empty only where the encoder fails, which it cannot in memory.
pub(crate) fn png(raster: &Raster, dpi: Option<u32>) -> Vec<u8> {
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, raster.width, raster.height);
    encoder.set_color(png::ColorType::Rgb);
    encoder.set_depth(png::BitDepth::Eight);
    if let Some(dpi) = dpi {
        let per_metre = (f64::from(dpi) / 0.0254).round() as u32;
        encoder.set_pixel_dims(Some(png::PixelDimensions {
            xppu: per_metre,
            yppu: per_metre,
            unit: png::Unit::Meter,
        }));
    }
    let written = encoder
        .write_header()
        .and_then(|mut writer| writer.write_image_data(&bytes(raster)));
    debug_assert!(written.is_ok(), "a PNG in memory cannot fail");
    out
}

/// JPEG of a quality from 1 to 100.
pub(crate) fn jpeg(raster: &Raster, quality: u8) -> Vec<u8> {
    let mut out = Vec::new();
    let written = JpegEncoder::new_with_quality(&mut out, quality).write_image(
        &bytes(raster),
        raster.width,
        raster.height,
        ExtendedColorType::Rgb8,
    );
    debug_assert!(written.is_ok(), "a JPEG in memory cannot fail");
    out
}
