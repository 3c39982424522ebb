//! JPEG with its luma and chroma as stored.
//!
//! Turning luma and chroma into red, green and blue cuts values off at 0 and 255. Chroma is mostly
//! stored at half the resolution, so beside a coloured edge it belongs to both sides, and much is
//! cut off: the luma worked out again from red, green and blue is no longer the one stored, and
//! edges placed by it waver. So both are kept.
//! Source: ITU-T T.871 (JFIF), 7, for the conversion.

use std::io::Cursor;

use zune_jpeg::JpegDecoder;
use zune_jpeg::zune_core::colorspace::ColorSpace;
use zune_jpeg::zune_core::options::DecoderOptions;

/// Y, Cb, Cr and 255 of every pixel, rows from the top; `None` where the file stores something else
/// (grey, red, green and blue, or printing colours) or is damaged.
pub(super) fn luma_and_chroma(bytes: &[u8]) -> Option<(u32, u32, Vec<[u8; 4]>)> {
    let options = DecoderOptions::default().jpeg_set_out_colorspace(ColorSpace::YCbCr);
    let mut decoder = JpegDecoder::new_with_options(Cursor::new(bytes), options);
    decoder.decode_headers().ok()?;
    if decoder.input_colorspace() != Some(ColorSpace::YCbCr) {
        return None;
    }
    let info = decoder.info()?;
    let values = decoder.decode().ok()?;
    let (pixels, rest) = values.as_chunks::<3>();
    let (width, height) = (u32::from(info.width), u32::from(info.height));
    let whole = rest.is_empty() && pixels.len() as u64 == u64::from(width) * u64::from(height);
    whole.then(|| {
        let stored = pixels.iter().map(|&[y, cb, cr]| [y, cb, cr, 255]).collect();
        (width, height, stored)
    })
}

/// Red, green and blue of luma and chroma.
pub(super) fn rgb([y, cb, cr, _]: [u8; 4]) -> [u8; 4] {
    let [y, cb, cr] = [f32::from(y), f32::from(cb) - 128.0, f32::from(cr) - 128.0];
    let value = |v: f32| v.round().clamp(0.0, 255.0) as u8;
    [
        value(y + 1.402 * cr),
        value(y - 0.344_136 * cb - 0.714_136 * cr),
        value(y + 1.772 * cb),
        255,
    ]
}
