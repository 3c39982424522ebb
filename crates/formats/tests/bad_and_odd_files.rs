//! Files that are broken, odd or hostile: a clear refusal, or a picture with a notice.
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use std::io::Cursor;

use image::codecs::gif::GifEncoder;
use image::{DynamicImage, Frame, ImageFormat, RgbImage, Rgba, RgbaImage};
use inky_formats::picture::{ReadError, read};

fn encoded(image: &DynamicImage, format: ImageFormat) -> Vec<u8> {
    let mut bytes = Cursor::new(Vec::new());
    image
        .write_to(&mut bytes, format)
        .expect("the encoder works in memory");
    bytes.into_inner()
}

fn drawing() -> RgbImage {
    RgbImage::from_fn(64, 48, |x, y| {
        image::Rgb(if x * y % 7 < 3 {
            [200, 30, 30]
        } else {
            [255; 3]
        })
    })
}

/// A PNG that claims a size in its header and holds nothing else (W3C PNG §11.2.1).
fn png_header(width: u32, height: u32) -> Vec<u8> {
    let mut chunk = b"IHDR".to_vec();
    chunk.extend(width.to_be_bytes());
    chunk.extend(height.to_be_bytes());
    chunk.extend([8, 2, 0, 0, 0]);
    let mut bytes = b"\x89PNG\r\n\x1a\n\0\0\0\x0d".to_vec();
    bytes.extend(&chunk);
    bytes.extend(crc32(&chunk).to_be_bytes());
    // An empty data chunk, so that the header is seen to be complete.
    bytes.extend([0, 0, 0, 0]);
    bytes.extend(b"IDAT");
    bytes.extend(crc32(b"IDAT").to_be_bytes());
    bytes
}

/// CRC-32 as in W3C PNG, annex D.
fn crc32(bytes: &[u8]) -> u32 {
    !bytes.iter().fold(!0u32, |crc, &b| {
        (0..8).fold(crc ^ u32::from(b), |c, _| {
            if c & 1 == 1 {
                0xedb8_8320 ^ (c >> 1)
            } else {
                c >> 1
            }
        })
    })
}

#[test]
fn every_format_comes_in_with_its_pixels() {
    let image = DynamicImage::ImageRgb8(drawing());
    for format in [
        ImageFormat::Png,
        ImageFormat::Bmp,
        ImageFormat::Tiff,
        ImageFormat::Gif,
        ImageFormat::WebP,
        ImageFormat::Jpeg,
    ] {
        let source = if format == ImageFormat::Gif {
            DynamicImage::ImageRgba8(image.to_rgba8())
        } else {
            image.clone()
        };
        let artwork = read(&encoded(&source, format)).unwrap_or_else(|e| panic!("{format:?}: {e}"));
        assert_eq!(
            (artwork.picture.width(), artwork.picture.height()),
            (64, 48),
            "{format:?}"
        );
        if format != ImageFormat::Jpeg {
            assert_eq!(
                artwork.picture.pixels()[0],
                [200, 30, 30, 255],
                "{format:?}"
            );
        }
    }
}

#[test]
fn what_is_no_picture_is_refused_with_what_would_be() {
    assert!(matches!(read(b""), Err(ReadError::Empty)));
    let message = read(b"<html>not a picture</html>")
        .expect_err("refused")
        .to_string();
    assert_eq!(
        message,
        "this is not a picture file known here; use PNG, JPEG, TIFF, BMP, GIF or WebP, or SVG, DXF, HPGL or G-code"
    );
}

#[test]
fn sizes_are_refused_on_the_header_alone() {
    let huge = read(&png_header(60_000, 60_000))
        .expect_err("refused")
        .to_string();
    assert!(
        huge.contains("60000 × 60000 px") && huge.contains("100 megapixels"),
        "{huge}"
    );
    // Nought wide: the decoder itself refuses, or we do; never a picture.
    assert!(read(&png_header(0, 0)).is_err());
    let heavy = vec![0; inky_core::limits::FILE_BYTES + 1];
    assert!(matches!(read(&heavy), Err(ReadError::TooManyBytes { .. })));
}

#[test]
fn a_progressive_jpeg_is_refused_on_its_header_where_its_scans_would_not_fit() {
    // Laid out by ITU-T T.81, B.2.2 and B.2.3: a frame of 8000 × 7000 px, one component, and the head of a scan.
    let header = |frame: u8| {
        let mut b = vec![0xff, 0xd8, 0xff, frame, 0, 11, 8];
        b.extend(7000u16.to_be_bytes());
        b.extend(8000u16.to_be_bytes());
        b.extend([1, 1, 0x11, 0]);
        b.extend([0xff, 0xda, 0, 8, 1, 1, 0, 0, 0, 0, 0xff, 0xd9]);
        b
    };
    let message = |frame: u8| read(&header(frame)).expect_err("refused").to_string();
    assert_eq!(
        message(0xc2),
        "a progressive JPEG may have 50 megapixels; save it as an ordinary JPEG or as PNG, or with fewer pixels"
    );
    assert!(!message(0xc0).contains("progressive"));
}

#[test]
fn a_file_cut_short_anywhere_is_refused_and_never_panics() {
    let image = DynamicImage::ImageRgb8(drawing());
    for format in [
        ImageFormat::Png,
        ImageFormat::Jpeg,
        ImageFormat::Bmp,
        ImageFormat::Tiff,
        ImageFormat::WebP,
    ] {
        let bytes = encoded(&image, format);
        for part in [8, bytes.len() / 4, bytes.len() / 2] {
            assert!(read(&bytes[..part]).is_err(), "{format:?} cut at {part}");
        }
    }
    let jpeg = encoded(&image, ImageFormat::Jpeg);
    let message = read(&jpeg[..jpeg.len() - 40])
        .expect_err("refused")
        .to_string();
    assert_eq!(
        message,
        "this JPEG file ends in the middle of the picture; copy or download it again"
    );
}

#[test]
fn altered_bytes_never_panic() {
    let bytes = encoded(&DynamicImage::ImageRgb8(drawing()), ImageFormat::Png);
    let mut outcomes = [0; 2];
    for at in 0..bytes.len() {
        let mut altered = bytes.clone();
        altered[at] ^= 0x5a;
        outcomes[usize::from(read(&altered).is_ok())] += 1;
    }
    assert!(
        outcomes[0] > outcomes[1],
        "checksums find most of them: {outcomes:?}"
    );
}

#[test]
fn an_animation_gives_its_first_frame_and_says_so() {
    let mut bytes = Vec::new();
    let mut encoder = GifEncoder::new(&mut bytes);
    for colour in [[200, 0, 0, 255], [0, 0, 200, 255]] {
        let frame = Frame::new(RgbaImage::from_pixel(20, 20, Rgba(colour)));
        encoder
            .encode_frame(frame)
            .expect("the encoder works in memory");
    }
    drop(encoder);
    let artwork = read(&bytes).expect("the first frame is a picture");
    assert_eq!(artwork.picture.pixels()[0][0] / 8, 200 / 8);
    assert_eq!(
        artwork.notices,
        ["Of this animation the first frame is used."]
    );
}

#[test]
fn sixteen_bits_and_palettes_become_eight_bit_colour() {
    let deep = DynamicImage::ImageRgb16(image::ImageBuffer::from_pixel(
        5,
        5,
        image::Rgb([65535u16, 32768, 0]),
    ));
    let artwork = read(&encoded(&deep, ImageFormat::Png)).expect("16 bits are read");
    assert_eq!(artwork.picture.pixels()[0], [255, 128, 0, 255]);
    assert_eq!(artwork.notices, ["16 bits a channel were brought to 8."]);

    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, 2, 1);
    encoder.set_color(png::ColorType::Indexed);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.set_palette(vec![10, 20, 30, 200, 210, 220]);
    let mut writer = encoder.write_header().expect("the encoder works in memory");
    writer
        .write_image_data(&[1, 0])
        .expect("the encoder works in memory");
    writer.finish().expect("the encoder works in memory");
    let artwork = read(&bytes).expect("palettes are read");
    assert_eq!(
        artwork.picture.pixels(),
        [[200, 210, 220, 255], [10, 20, 30, 255]]
    );
}

/// `cmyk.jpg`: 16 × 16 px of full cyan, written by Pillow 12 (`Image.new("CMYK", …).save`).
#[test]
fn printing_colours_become_screen_colours_with_a_notice() {
    let artwork = read(include_bytes!("files/cmyk.jpg")).expect("CMYK is read");
    let [r, g, b, _] = artwork.picture.pixels()[100];
    assert!(r < 60 && g > 120 && b > 180, "cyan, not {r} {g} {b}");
    assert_eq!(
        artwork.notices,
        ["Printing colours (CMYK) were turned into screen colours."]
    );
}

/// `turned.jpg`: 30 × 20 px, left half red, EXIF orientation 6 (turn clockwise), 200 ppi, by Pillow 12.
#[test]
fn a_photograph_held_sideways_is_turned_upright() {
    let artwork = read(include_bytes!("files/turned.jpg")).expect("the file is sound");
    assert_eq!(
        (artwork.picture.width(), artwork.picture.height()),
        (20, 30)
    );
    assert!(
        artwork.picture.pixels()[5 * 20 + 10][0] > 200,
        "red is on top"
    );
    assert!(artwork.picture.pixels()[25 * 20 + 10][0] < 60);
    assert_eq!(artwork.ppi.map(f64::round), Some(200.0));
    assert_eq!(
        artwork.notices,
        ["Turned upright as its EXIF orientation says."]
    );
}

#[test]
fn the_scan_states_its_dpi() {
    let artwork = read(&inky_demo::SAMPLES[2].file()).expect("the sample is sound");
    assert_eq!(artwork.ppi.map(f64::round), Some(423.0));
}
