//! Picture files: decoded within limits, turned as EXIF says, with the dpi they state. A vector file
//! becomes a picture of its outlines.
//!
//! Sizes are tested on the header before any pixel is decoded, so a small file that claims a huge
//! picture costs nothing. CMYK and 16 bits a channel come out as 8-bit sRGB, with a notice.

mod density;
mod frames;
mod jpeg;
mod pixels;
mod quality;

use std::io::Cursor;

use image::metadata::Orientation;
use image::{ColorType, DynamicImage, ImageDecoder, ImageFormat, ImageReader};
use inky_core::limits;
use inky_core::picture::{Picture, PictureError};
use inky_core::stop::{Stop, Stopped};

use crate::vector::{self, VectorError, VectorFile};

pub use jpeg::PlainJpeg;

/// A decoded file.
#[derive(Clone, Debug)]
pub struct Artwork {
    /// Its pixels, upright.
    pub picture: Picture,
    /// Pixels per inch it states, if any and sensible.
    pub ppi: Option<f64>,
    /// Name of the format, such as `PNG`.
    pub format: &'static str,
    /// Focal length of the camera as a part of half the picture's diagonal, where the file states it.
    pub focal: Option<f64>,
    /// Quality its tables state, 1 to 100, of a JPEG.
    pub jpeg_quality: Option<f64>,
    /// What was done on the way in that a person should know.
    pub notices: Vec<String>,
}

/// Why a file did not become a picture. Nothing was kept or changed.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum ReadError {
    /// No bytes at all.
    #[error("the file is empty; choose it again, or save it anew where it came from")]
    Empty,
    /// Given up, since nobody wants it any more.
    #[error(transparent)]
    Stopped(#[from] Stopped),
    /// Above the limit on bytes.
    #[error("the file has {found_mb} MB, above the limit of {} MB; save it with fewer pixels", limits::FILE_BYTES >> 20)]
    TooManyBytes {
        /// Size of the file, MB.
        found_mb: usize,
    },
    /// A vector file that cannot be read.
    #[error(transparent)]
    Vector(#[from] VectorError),
    /// No format known here.
    #[error(
        "this is not a picture file known here; use PNG, JPEG, TIFF, BMP, GIF or WebP, or SVG, DXF, HPGL or G-code"
    )]
    Unknown,
    /// Its size is nought or above the limits.
    #[error(transparent)]
    Size(#[from] PictureError),
    /// More pixels than its kind may have, since it needs memory for all of them several times over.
    #[error(
        "{kind} may have {most} megapixels; save it as an ordinary JPEG or as PNG, or with fewer pixels"
    )]
    TooLarge {
        /// What it is.
        kind: &'static str,
        /// Most megapixels.
        most: u64,
    },
    /// It ends early.
    #[error("this {format} file ends in the middle of the picture; copy or download it again")]
    Truncated {
        /// Name of the format.
        format: &'static str,
    },
    /// Its content is broken or of a kind that cannot be read.
    #[error("this {format} file {fault}; open it elsewhere and save it as PNG")]
    Broken {
        /// Name of the format.
        format: &'static str,
        /// What is wrong with it, in plain words.
        fault: &'static str,
        /// The decoder's words.
        source: image::ImageError,
    },
}

/// Memory a decoder may take: the pixels of the largest picture at 16 bits, with room to work.
const DECODER_BYTES: u64 = limits::PIXELS * 8 + (64 << 20);

/// Decodes a picture file of any known format.
///
/// # Errors
/// [`ReadError`]; nothing is decoded beyond the limits.
pub fn read(bytes: &[u8]) -> Result<Artwork, ReadError> {
    read_until(bytes, &Stop::new())
}

/// Decodes a picture file of any known format as long as it is wanted.
///
/// # Errors
/// As [`read`], and [`ReadError::Stopped`] once `stop` was set.
pub fn read_until(bytes: &[u8], stop: &Stop) -> Result<Artwork, ReadError> {
    Ok(read_with_outlines(bytes, stop)?.0)
}

/// Decodes a picture file as [`read_until`] does; of a vector file, which is read once for both, its outlines too.
///
/// # Errors
/// As [`read_until`].
pub fn read_with_outlines(
    bytes: &[u8],
    stop: &Stop,
) -> Result<(Artwork, Option<VectorFile>), ReadError> {
    if bytes.is_empty() {
        return Err(ReadError::Empty);
    }
    if bytes.len() > limits::FILE_BYTES {
        return Err(ReadError::TooManyBytes {
            found_mb: bytes.len() >> 20,
        });
    }
    if vector::is_vector(bytes) {
        let asked = vector::Asked {
            stop: stop.clone(),
            ..vector::Asked::default()
        };
        let file = vector::read_as(bytes, &asked)?;
        return Ok((drawn(&file)?, Some(file)));
    }
    Ok((decoded(bytes, stop)?, None))
}

/// A picture of pixels.
fn decoded(bytes: &[u8], stop: &Stop) -> Result<Artwork, ReadError> {
    let mut reader = ImageReader::new(Cursor::new(bytes))
        .with_guessed_format()
        .map_err(|_| ReadError::Unknown)?;
    let image_format = reader.format().ok_or(ReadError::Unknown)?;
    let format = name(image_format).ok_or(ReadError::Unknown)?;
    let fault = |error: image::ImageError| blame(format, error);
    reader.limits(decoder_limits());
    let mut decoder = reader.into_decoder().map_err(fault)?;
    let (width, height) = decoder.dimensions();
    Picture::check_size(width, height)?;
    // `into_decoder` leaves the test against the limit to its caller.
    let mut limits = decoder_limits();
    limits.reserve(decoder.total_bytes()).map_err(fault)?;
    decoder.set_limits(limits).map_err(fault)?;
    let orientation = decoder.orientation().unwrap_or(Orientation::NoTransforms);
    let mut notices = notices(&decoder, bytes, image_format);
    if image_format == ImageFormat::Jpeg && !has_jpeg_end(bytes) {
        // The decoder fills what is missing with grey and says nothing.
        return Err(ReadError::Truncated { format });
    }
    if orientation != Orientation::NoTransforms {
        notices.push("Turned upright as its EXIF orientation says.".to_owned());
    }
    if image_format == ImageFormat::Jpeg
        && jpeg::is_progressive(bytes)
        && u64::from(width) * u64::from(height) > jpeg::MOST_PROGRESSIVE
    {
        return Err(ReadError::TooLarge {
            kind: "a progressive JPEG",
            most: jpeg::MOST_PROGRESSIVE / 1_000_000,
        });
    }
    stop.check()?;
    let small = u64::from(width) * u64::from(height) <= jpeg::MOST_STORED;
    let stored = (image_format == ImageFormat::Jpeg && small)
        .then(|| jpeg::luma_and_chroma(bytes))
        .flatten();
    let picture = match stored {
        Some((width, height, stored)) => {
            let (width, height, stored) = upright(width, height, stored, orientation)?;
            let pixels = stored.iter().map(|&p| jpeg::rgb(p)).collect();
            Picture::new(width, height, pixels)?.with_stored(stored)?
        }
        None => {
            let pixels = pixels::rgba(decoder).map_err(fault)?;
            stop.check()?;
            let (width, height, pixels) = upright(width, height, pixels, orientation)?;
            Picture::new(width, height, pixels)?
        }
    };
    Ok(Artwork {
        picture,
        ppi: density::ppi(bytes, image_format),
        format,
        focal: density::focal(bytes),
        jpeg_quality: (image_format == ImageFormat::Jpeg)
            .then(|| quality::quality(bytes))
            .flatten(),
        notices,
    })
}

/// A vector file as a picture of itself.
fn drawn(file: &VectorFile) -> Result<Artwork, ReadError> {
    let (picture, ppi) = file.rendered().ok_or(ReadError::Unknown)?;
    let mut notices =
        vec!["The outlines were taken from the file; this is a picture of them.".to_owned()];
    if let Some(unit) = file.taken_for {
        notices.push(format!(
            "The file does not say how large it is; its figures were taken as {unit}. Check the size."
        ));
    }
    if file.joined > 0 {
        notices.push(format!("{} pairs of ends were joined.", file.joined));
    }
    let left_out = file.report();
    if !left_out.is_empty() {
        notices.push(format!("Left out or changed: {left_out}."));
    }
    Ok(Artwork {
        picture,
        ppi: Some(ppi),
        format: file.format,
        focal: None,
        jpeg_quality: None,
        notices,
    })
}

type Pixels = (u32, u32, Vec<[u8; 4]>);

/// Pixels turned as an orientation says.
fn upright(
    width: u32,
    height: u32,
    pixels: Vec<[u8; 4]>,
    orientation: Orientation,
) -> Result<Pixels, PictureError> {
    if orientation == Orientation::NoTransforms {
        return Ok((width, height, pixels));
    }
    let (expected, found) = (u64::from(width) * u64::from(height), pixels.len() as u64);
    let image = image::RgbaImage::from_raw(width, height, pixels.into_flattened())
        .ok_or(PictureError::WrongCount { expected, found })?;
    let mut image = DynamicImage::ImageRgba8(image);
    image.apply_orientation(orientation);
    let image = image.into_rgba8();
    let (width, height) = image.dimensions();
    Ok((width, height, image.into_raw().as_chunks::<4>().0.to_vec()))
}

fn decoder_limits() -> image::Limits {
    let mut limits = image::Limits::default();
    limits.max_alloc = Some(DECODER_BYTES);
    limits
}

fn name(format: ImageFormat) -> Option<&'static str> {
    Some(match format {
        ImageFormat::Png => "PNG",
        ImageFormat::Jpeg => "JPEG",
        ImageFormat::Tiff => "TIFF",
        ImageFormat::Bmp => "BMP",
        ImageFormat::Gif => "GIF",
        ImageFormat::WebP => "WebP",
        _ => return None,
    })
}

fn blame(format: &'static str, error: image::ImageError) -> ReadError {
    let reason = error.to_string();
    let early = [
        "unexpected end",
        "unexpected eof",
        "failed to fill whole buffer",
        "exhausted",
    ];
    if early.iter().any(|e| reason.to_lowercase().contains(e)) {
        return ReadError::Truncated { format };
    }
    let fault = match error {
        image::ImageError::Unsupported(_) => "is of a kind that is not known here",
        image::ImageError::Limits(_) => "needs more memory than a picture may take",
        _ => "is damaged",
    };
    ReadError::Broken {
        format,
        fault,
        source: error,
    }
}

fn has_jpeg_end(bytes: &[u8]) -> bool {
    // Cameras append data after the end marker, so the whole second half is searched.
    bytes[bytes.len() / 2..]
        .windows(2)
        .any(|w| w == [0xff, 0xd9])
}

fn notices(decoder: &impl ImageDecoder, bytes: &[u8], format: ImageFormat) -> Vec<String> {
    let mut notices = Vec::new();
    let original = decoder.original_color_type();
    if matches!(
        original,
        image::ExtendedColorType::Cmyk8 | image::ExtendedColorType::Cmyk16
    ) || (format == ImageFormat::Jpeg && density::jpeg_components(bytes) == Some(4))
    {
        notices.push("Printing colours (CMYK) were turned into screen colours.".to_owned());
    }
    if matches!(
        decoder.color_type(),
        ColorType::L16 | ColorType::La16 | ColorType::Rgb16 | ColorType::Rgba16
    ) {
        notices.push("16 bits a channel were brought to 8.".to_owned());
    }
    if format == ImageFormat::Gif && frames::has_second(bytes) {
        notices.push("Of this animation the first frame is used.".to_owned());
    }
    notices
}
