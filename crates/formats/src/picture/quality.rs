//! The quality a JPEG was saved with, from its quantization tables.
//!
//! The Independent JPEG Group's library, and most others after it, scale the example table of
//! ITU-T T.81, annex K.1, by `5000 / quality` per cent below 50 and `200 − 2 · quality` above
//! (`jpeg_quality_scaling` of its `jcparam.c`). The scale is read back from the file's own table.

/// Table K.1 of ITU-T T.81 in zigzag order, as a file stores it.
const LUMINANCE: [u16; 64] = [
    16, 11, 12, 14, 12, 10, 16, 14, 13, 14, 18, 17, 16, 19, 24, 40, 26, 24, 22, 22, 24, 49, 35, 37,
    29, 40, 58, 51, 61, 60, 57, 51, 56, 55, 64, 72, 92, 78, 64, 68, 87, 69, 55, 56, 80, 109, 81,
    87, 95, 98, 103, 104, 103, 62, 77, 113, 121, 112, 100, 120, 92, 101, 103, 99,
];

/// Quality 1 to 100; `None` where there is no table for luminance.
pub(super) fn quality(bytes: &[u8]) -> Option<f64> {
    let table = luminance_table(bytes)?;
    // Entries are cut off at 255 and at 1: only those in between tell the scale.
    let told = table.iter().zip(LUMINANCE);
    let told: Vec<f64> = told
        .filter(|&(&v, _)| v > 1 && v < 255)
        .map(|(&v, k)| f64::from(v) * 100.0 / f64::from(k))
        .collect();
    if told.is_empty() {
        return Some(if table[0] <= 1 { 100.0 } else { 1.0 });
    }
    let scale = told.iter().sum::<f64>() / told.len() as f64;
    let quality = if scale <= 100.0 {
        (200.0 - scale) / 2.0
    } else {
        5000.0 / scale
    };
    Some(quality.round().clamp(1.0, 100.0))
}

/// Table 0 of the file, in zigzag order.
fn luminance_table(bytes: &[u8]) -> Option<[u16; 64]> {
    let mut at = 2;
    loop {
        // A segment: FF, its mark, its length with these two bytes.
        let &[ff, mark, high, low] = bytes.get(at..at + 4)? else {
            return None;
        };
        if ff != 0xFF || mark == 0xDA {
            return None;
        }
        let length = usize::from(high) << 8 | usize::from(low);
        let body = bytes.get(at + 4..at + 2 + length)?;
        if mark == 0xDB
            && let Some(table) = table_0(body)
        {
            return Some(table);
        }
        at += 2 + length;
    }
}

/// Table 0 among those of one segment.
fn table_0(mut body: &[u8]) -> Option<[u16; 64]> {
    while let Some((&head, rest)) = body.split_first() {
        let wide = head >> 4 != 0;
        let bytes = if wide { 128 } else { 64 };
        let entries = rest.get(..bytes)?;
        if head & 15 == 0 {
            return Some(std::array::from_fn(|k| {
                if wide {
                    u16::from(entries[2 * k]) << 8 | u16::from(entries[2 * k + 1])
                } else {
                    u16::from(entries[k])
                }
            }));
        }
        body = rest.get(bytes..)?;
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_quality_of_files_of_known_quality_is_read_back() {
        // `disc.jpg` by libjpeg at 60, see scripts/reference/disc.py.
        let disc = include_bytes!("../../tests/files/disc.jpg");
        assert_eq!(quality(disc), Some(60.0));
        for wanted in [20u8, 50, 75, 92] {
            let mut bytes = Vec::new();
            let mut encoder =
                image::codecs::jpeg::JpegEncoder::new_with_quality(&mut bytes, wanted);
            let image = image::RgbImage::from_pixel(16, 16, image::Rgb([90, 120, 30]));
            assert!(encoder.encode_image(&image).is_ok());
            let found = quality(&bytes).unwrap();
            assert!(
                (found - f64::from(wanted)).abs() <= 1.0,
                "{wanted}: {found}"
            );
        }
    }

    #[test]
    fn a_file_cut_short_has_no_quality() {
        assert_eq!(quality(&[0xFF, 0xD8, 0xFF, 0xDB, 0, 67, 0, 1]), None);
        assert_eq!(quality(&[]), None);
    }
}
