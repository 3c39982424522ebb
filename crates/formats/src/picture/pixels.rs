//! Pixels of a decoder as red, green, blue and alpha, in the memory of the result alone.
//!
//! ```text
//!   decoded:  ·  ·  ·  · |r g b|r g b|r g b|r g b     at the end of the room for four bytes a pixel
//!   spread:   r g b a|r g b a|r g b a|r g b a         from the front: what is written was read before
//! ```

use image::{ColorType, DynamicImage, ImageDecoder, ImageError};

/// Every pixel of a decoded picture, rows from the top.
pub(super) fn rgba(decoder: impl ImageDecoder) -> Result<Vec<[u8; 4]>, ImageError> {
    let pixel: fn(&[u8]) -> [u8; 4] = match decoder.color_type() {
        ColorType::L8 => |p| [p[0], p[0], p[0], 255],
        ColorType::La8 => |p| [p[0], p[0], p[0], p[1]],
        ColorType::Rgb8 => |p| [p[0], p[1], p[2], 255],
        ColorType::Rgba8 => |p| [p[0], p[1], p[2], p[3]],
        _ => {
            let pixels = DynamicImage::from_decoder(decoder)?.into_rgba8();
            return Ok(pixels.into_raw().as_chunks::<4>().0.to_vec());
        }
    };
    let each = usize::from(decoder.color_type().bytes_per_pixel());
    let (width, height) = decoder.dimensions();
    let count = width as usize * height as usize;
    let mut pixels = vec![[0; 4]; count];
    let first = count * (4 - each);
    decoder.read_image(&mut pixels.as_flattened_mut()[first..])?;
    spread_out(&mut pixels, each, pixel);
    Ok(pixels)
}

/// Spreads values of `each` bytes a pixel, which stand at the end of their room, over all of it.
pub(super) fn spread_out(pixels: &mut [[u8; 4]], each: usize, pixel: fn(&[u8]) -> [u8; 4]) {
    let count = pixels.len();
    let bytes = pixels.as_flattened_mut();
    let first = count * (4 - each);
    for n in 0..count {
        let from = first + n * each;
        let spread = pixel(&bytes[from..from + each]);
        bytes[4 * n..4 * n + 4].copy_from_slice(&spread);
    }
}

#[cfg(test)]
mod tests {
    use std::io::Cursor;

    use image::codecs::png::{PngDecoder, PngEncoder};
    use image::{ExtendedColorType, ImageEncoder as _};

    use super::*;

    #[test]
    fn every_kind_of_pixel_comes_out_as_the_library_itself_converts_it() {
        let kinds = [
            (ExtendedColorType::L8, 1),
            (ExtendedColorType::La8, 2),
            (ExtendedColorType::Rgb8, 3),
            (ExtendedColorType::Rgba8, 4),
            (ExtendedColorType::L16, 2),
            (ExtendedColorType::Rgb16, 6),
        ];
        for (kind, each) in kinds {
            let bytes: Vec<u8> = (0..7 * 5 * each).map(|n| (n * 37 % 251) as u8).collect();
            let mut file = Vec::new();
            let encoder = PngEncoder::new(&mut file);
            encoder.write_image(&bytes, 7, 5, kind).unwrap();
            let decoder = || PngDecoder::new(Cursor::new(&file)).unwrap();
            let library = DynamicImage::from_decoder(decoder()).unwrap().into_rgba8();
            let ours = rgba(decoder()).unwrap();
            assert_eq!(ours.as_flattened(), library.as_raw(), "{kind:?}");
        }
    }
}
