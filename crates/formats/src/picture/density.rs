//! The pixels per inch that a file states.
//!
//! PNG: chunk `pHYs` (W3C PNG, third edition, §11.3.4.3). JPEG: JFIF APP0 (ITU-T T.871, §10.1),
//! else EXIF. TIFF: tags 282 and 296 (TIFF 6.0, p. 38), read as EXIF. BMP: `biXPelsPerMeter`.

use std::io::Cursor;

use image::ImageFormat;
use inky_core::units::MM_PER_INCH;

/// What a file may state and be believed, px per inch.
const SENSIBLE: std::ops::RangeInclusive<f64> = 10.0..=10_000.0;

/// Pixels per inch stated across; `None` where nothing or nonsense is stated.
pub(super) fn ppi(bytes: &[u8], format: ImageFormat) -> Option<f64> {
    let stated = match format {
        ImageFormat::Png => png(bytes),
        ImageFormat::Jpeg => jfif(bytes).or_else(|| exif(bytes)),
        ImageFormat::Tiff => exif(bytes),
        ImageFormat::Bmp => bmp(bytes),
        _ => None,
    };
    stated.filter(|v| SENSIBLE.contains(v))
}

fn per_metre(count: u32) -> f64 {
    f64::from(count) * MM_PER_INCH / 1000.0
}

fn be32(bytes: &[u8], at: usize) -> Option<u32> {
    Some(u32::from_be_bytes(bytes.get(at..at + 4)?.try_into().ok()?))
}

fn be16(bytes: &[u8], at: usize) -> Option<u16> {
    Some(u16::from_be_bytes(bytes.get(at..at + 2)?.try_into().ok()?))
}

fn png(bytes: &[u8]) -> Option<f64> {
    let mut at = 8;
    while let (Some(length), Some(kind)) = (be32(bytes, at), bytes.get(at + 4..at + 8)) {
        match kind {
            b"pHYs" if bytes.get(at + 16) == Some(&1) => return be32(bytes, at + 8).map(per_metre),
            b"pHYs" | b"IDAT" => return None,
            _ => at = at.checked_add(12)?.checked_add(length as usize)?,
        }
    }
    None
}

/// The JPEG's segments: marker and where its content starts, until the picture begins.
fn jpeg_segments(bytes: &[u8]) -> impl Iterator<Item = (u8, usize)> + '_ {
    let mut at = 2;
    std::iter::from_fn(move || {
        let marker = (*bytes.get(at)? == 0xff).then_some(*bytes.get(at + 1)?)?;
        let content = at + 4;
        at = at + 2 + usize::from(be16(bytes, at + 2)?);
        (marker != 0xda).then_some((marker, content))
    })
}

fn jfif(bytes: &[u8]) -> Option<f64> {
    let (_, at) = jpeg_segments(bytes).find(|&(marker, _)| marker == 0xe0)?;
    if bytes.get(at..at + 5)? != b"JFIF\0" {
        return None;
    }
    let across = f64::from(be16(bytes, at + 8)?);
    match bytes.get(at + 7)? {
        1 => Some(across),
        2 => Some(across * MM_PER_INCH / 10.0),
        _ => None,
    }
}

/// Number of colour components in a JPEG's frame header.
pub(super) fn jpeg_components(bytes: &[u8]) -> Option<u8> {
    let (_, at) = jpeg_frame(bytes)?;
    bytes.get(at + 5).copied()
}

/// Marker and place of a JPEG's frame header (ITU-T T.81, table B.1).
pub(super) fn jpeg_frame(bytes: &[u8]) -> Option<(u8, usize)> {
    let frame = |&(marker, _): &(u8, usize)| matches!(marker, 0xc0..=0xc3 | 0xc5..=0xc7 | 0xc9..=0xcb | 0xcd..=0xcf);
    jpeg_segments(bytes).find(frame)
}

fn exif(bytes: &[u8]) -> Option<f64> {
    let exif = exif::Reader::new()
        .read_from_container(&mut Cursor::new(bytes))
        .ok()?;
    let field = exif.get_field(exif::Tag::XResolution, exif::In::PRIMARY)?;
    let exif::Value::Rational(values) = &field.value else {
        return None;
    };
    let across = values.first()?.to_f64();
    let unit = exif
        .get_field(exif::Tag::ResolutionUnit, exif::In::PRIMARY)
        .and_then(|f| f.value.get_uint(0));
    match unit {
        Some(3) => Some(across * MM_PER_INCH / 10.0),
        Some(1) => None,
        _ => Some(across),
    }
}

fn bmp(bytes: &[u8]) -> Option<f64> {
    let count = u32::from_le_bytes(bytes.get(38..42)?.try_into().ok()?);
    Some(per_metre(count))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn jfif_density_is_read_per_inch_and_per_centimetre() {
        // Header bytes laid out by ITU-T T.871, §10.1.
        let header = |unit: u8| {
            let mut b = vec![0xff, 0xd8, 0xff, 0xe0, 0, 16];
            b.extend(b"JFIF\0\x01\x02");
            b.extend([unit, 1, 0x2c, 1, 0x2c, 0, 0]);
            b
        };
        assert_eq!(ppi(&header(1), ImageFormat::Jpeg), Some(300.0));
        assert_eq!(ppi(&header(2), ImageFormat::Jpeg), Some(762.0));
        assert_eq!(ppi(&header(0), ImageFormat::Jpeg), None);
    }

    #[test]
    fn nonsense_is_not_believed() {
        assert_eq!(ppi(&[0xff, 0xd8, 0xff], ImageFormat::Jpeg), None);
        assert_eq!(
            ppi(b"\x89PNG\r\n\x1a\n\xff\xff\xff\xffIHDR", ImageFormat::Png),
            None
        );
    }
}
