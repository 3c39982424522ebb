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

/// Focal length of the camera as a part of half the picture's diagonal: EXIF 2.32, tag 41989, the focal length that has
/// the same view on film of 36 × 24 mm; nought is unknown there.
pub(super) fn focal(bytes: &[u8]) -> Option<f64> {
    const HALF_DIAGONAL_MM: f64 = 21.633;
    let exif = fields(bytes)?;
    let field = exif.get_field(exif::Tag::FocalLengthIn35mmFilm, exif::In::PRIMARY)?;
    let mm = f64::from(field.value.get_uint(0)?);
    (8.0..=2000.0)
        .contains(&mm)
        .then_some(mm / HALF_DIAGONAL_MM)
}

/// Whether a file is to be shown as it is: EXIF 2.32, tag 274, is 1 or not there.
pub(super) fn is_upright(bytes: &[u8]) -> bool {
    let exif = fields(bytes);
    let field = exif
        .as_ref()
        .and_then(|e| e.get_field(exif::Tag::Orientation, exif::In::PRIMARY));
    field
        .and_then(|f| f.value.get_uint(0))
        .is_none_or(|turn| turn == 1)
}

/// Whether a JPEG says that its three components are red, green and blue: APP14 with a transform of 0 (ITU-T T.872, 6.5.3).
pub(super) fn jpeg_is_rgb(bytes: &[u8]) -> bool {
    let mut told = jpeg_segments(bytes).filter(|&(marker, _)| marker == 0xee);
    told.any(|(_, at)| bytes.get(at + 11) == Some(&0))
}

fn fields(bytes: &[u8]) -> Option<exif::Exif> {
    let mut file = Cursor::new(bytes);
    exif::Reader::new().read_from_container(&mut file).ok()
}

fn exif(bytes: &[u8]) -> Option<f64> {
    let exif = fields(bytes)?;
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

    #[test]
    fn the_focal_length_of_a_telephone_is_read() {
        // Laid out by EXIF 2.32, section 4.6: IFD 0 with a pointer to the EXIF IFD, which holds tag 41989.
        let jpeg = |mm: u16| {
            let mut tiff = b"II*\0\x08\0\0\0".to_vec();
            let entry = |tag: u16, kind: u16, value: u32| {
                let mut e = [tag.to_le_bytes(), kind.to_le_bytes()].concat();
                e.extend(1u32.to_le_bytes());
                e.extend(value.to_le_bytes());
                e
            };
            for (tag, kind, value) in [(0x8769, 4, 26), (0xa405, 3, u32::from(mm))] {
                tiff.extend(1u16.to_le_bytes());
                tiff.extend(entry(tag, kind, value));
                tiff.extend(0u32.to_le_bytes());
            }
            let mut b = vec![0xff, 0xd8, 0xff, 0xe1];
            b.extend((tiff.len() as u16 + 8).to_be_bytes());
            b.extend(b"Exif\0\0");
            b.extend(tiff);
            b.extend([0xff, 0xd9]);
            b
        };
        // 26 mm of half the diagonal of 36 × 24 mm, 21.633 mm.
        let found = focal(&jpeg(26)).unwrap();
        assert!((found - 1.2019).abs() < 1e-3, "{found}");
        assert_eq!(focal(&jpeg(0)), None, "nought is unknown");
        assert_eq!(focal(b"no picture"), None);
    }
}
