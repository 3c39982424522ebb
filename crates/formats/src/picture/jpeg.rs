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

use super::{density, pixels};

/// A JPEG that another file can hold as it came, and that is shown there as it is read here.
#[derive(Clone, Copy, Debug)]
pub struct PlainJpeg<'a> {
    /// The file.
    pub bytes: &'a [u8],
    /// Width, px.
    pub width: u16,
    /// Height, px.
    pub height: u16,
    /// Colour components: one of grey, or three.
    pub components: u8,
}

impl<'a> PlainJpeg<'a> {
    /// `None` of what is no JPEG, or one that is turned by its EXIF, has four components, more than eight bits, or red,
    /// green and blue as they are (its marker APP14).
    #[must_use]
    pub fn of(bytes: &'a [u8]) -> Option<Self> {
        let (marker, at) = density::jpeg_frame(bytes)?;
        let &[precision, h0, h1, w0, w1, components] = bytes.get(at..at + 6)?.first_chunk()?;
        let coded = (0xc0..=0xc2).contains(&marker) && precision == 8;
        let plain = matches!(components, 1 | 3) && !density::jpeg_is_rgb(bytes);
        (bytes.starts_with(&[0xff, 0xd8]) && coded && plain && density::is_upright(bytes))
            .then_some(Self {
                bytes,
                width: u16::from_be_bytes([w0, w1]),
                height: u16::from_be_bytes([h0, h1]),
                components,
            })
    }
}

/// Most pixels of which luma and chroma are kept beside red, green and blue: together they take 8 bytes a pixel.
pub(super) const MOST_STORED: u64 = 50_000_000;

/// Most pixels of a progressive file: its coefficients are all held until the last scan, 6 bytes a pixel.
pub(super) const MOST_PROGRESSIVE: u64 = 50_000_000;

/// Whether it is stored in scans over the whole picture (ITU-T T.81, SOF2 and its kin).
pub(super) fn is_progressive(bytes: &[u8]) -> bool {
    let marker = density::jpeg_frame(bytes).map(|(marker, _)| marker);
    matches!(marker, Some(0xc2 | 0xc6 | 0xca | 0xce))
}

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
    let count = usize::from(info.width) * usize::from(info.height);
    if decoder.output_buffer_size() != Some(3 * count) {
        return None;
    }
    let mut stored = vec![[0; 4]; count];
    decoder
        .decode_into(&mut stored.as_flattened_mut()[count..])
        .ok()?;
    pixels::spread_out(&mut stored, 3, |p| [p[0], p[1], p[2], 255]);
    Some((u32::from(info.width), u32::from(info.height), stored))
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
