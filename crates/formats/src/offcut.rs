//! A piece of stock as a file: its outline and holes as SVG in mm, with its picture under them.
//!
//! Any SVG or DXF whose outermost line is closed is read as such a piece, so that one drawn elsewhere will do.
//! Source: W3C SVG 1.1 (2nd ed.), chapters 5 and 8; the picture is a data URL (RFC 2397).

use std::fmt::Write as _;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use image::ExtendedColorType;
use image::codecs::jpeg::JpegEncoder;
use inky_core::limits::OutOfRange;
use inky_core::picture::Picture;
use inky_core::segment::Segment;
use inky_core::stock::{Shaped, Stock, StockKind, shaped};
use kurbo::Point;

use crate::vector::{self, VectorError};

/// How well a picture of stock is kept: it is only looked at.
const QUALITY: u8 = 85;
/// Curves of a drawn outline become sides that err by less, mm.
const TOLERANCE: f64 = 0.02;

/// Why a file is no piece of stock.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum OffcutFileError {
    /// It cannot be read.
    #[error(transparent)]
    Vector(#[from] VectorError),
    /// Nothing in it is closed.
    #[error("it holds no closed outline; a piece of stock is a closed line, with its holes inside")]
    NoOutline,
    /// No stock is of such a size.
    #[error(transparent)]
    OutOfRange(#[from] OutOfRange),
}

/// A photograph as a JPEG; clear places are white.
///
/// # Errors
/// What the encoder says.
pub fn photograph(picture: &Picture) -> Result<Vec<u8>, image::ImageError> {
    let over_white = |p: &[u8; 4]| {
        let alpha = u32::from(p[3]);
        let mixed = |v: u8| ((u32::from(v) * alpha + 255 * (255 - alpha)) / 255) as u8;
        [mixed(p[0]), mixed(p[1]), mixed(p[2])]
    };
    let pixels: Vec<u8> = picture.pixels().iter().flat_map(over_white).collect();
    let mut file = Vec::new();
    JpegEncoder::new_with_quality(&mut file, QUALITY).encode(
        &pixels,
        picture.width(),
        picture.height(),
        ExtendedColorType::Rgb8,
    )?;
    Ok(file)
}

/// A closed line as SVG path data.
fn path_data(line: &shaped::Line) -> String {
    let places = line.iter().map(|[x, y]| format!("{x},{y}"));
    format!("M{}Z", places.collect::<Vec<_>>().join(" "))
}

/// An outline and its holes as SVG path data, to be filled by the even-odd rule.
#[must_use]
pub fn outline(shape: &Shaped) -> String {
    let lines = std::iter::once(&shape.outer).chain(&shape.holes);
    lines.map(path_data).collect()
}

/// A shape as an SVG page of its own size; `picture` is the JPEG that fills its box.
#[must_use]
pub fn write(shape: &Shaped, name: &str, picture: Option<&[u8]>) -> String {
    let b = shape.bounds();
    let (w, h) = (b.width(), b.height());
    let mut out = String::from("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n");
    // Writing into a string cannot fail.
    let _ = writeln!(
        out,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" xmlns:xlink=\"http://www.w3.org/1999/xlink\" version=\"1.1\" width=\"{w}mm\" height=\"{h}mm\" viewBox=\"0 0 {w} {h}\">\n<title>{}</title>",
        crate::svg::escape(name)
    );
    if let Some(file) = picture {
        let _ = writeln!(
            out,
            "<image width=\"{w}\" height=\"{h}\" preserveAspectRatio=\"none\" xlink:href=\"data:image/jpeg;base64,{}\"/>",
            STANDARD.encode(file)
        );
    }
    let lines = std::iter::once(&shape.outer)
        .chain(&shape.holes)
        .map(path_data);
    for line in lines {
        let _ = writeln!(
            out,
            "<path fill=\"none\" stroke=\"#c8102e\" stroke-width=\"0.5\" d=\"{line}\"/>"
        );
    }
    out.push_str("</svg>\n");
    out
}

/// The largest closed line of a drawing with the lines inside it, as an offcut with a margin, mm.
///
/// # Errors
/// [`OffcutFileError`].
pub fn read(bytes: &[u8], name: &str, margin: f64) -> Result<Stock, OffcutFileError> {
    let file = vector::read(bytes)?;
    let closed = file.parts.iter().flat_map(|part| &part.paths);
    let closed = closed.filter(|path| path.closed);
    let mut lines: Vec<shaped::Line> = closed
        .filter_map(|path| Some(flat(&path.segments().ok()?)))
        .filter(|line| line.len() >= 3)
        .collect();
    let area = |n: &usize| shaped::area(&lines[*n]);
    let largest = (0..lines.len()).max_by(|a, b| area(a).total_cmp(&area(b)));
    let outer = lines.swap_remove(largest.ok_or(OffcutFileError::NoOutline)?);
    let whole = Shaped {
        outer,
        holes: Vec::new(),
        picture: None,
    };
    let inside = |hole: &shaped::Line| hole.iter().any(|&[x, y]| whole.holds(Point::new(x, y)));
    let holes = lines.into_iter().filter(inside).collect();
    let shape = Shaped {
        holes,
        ..whole.clone()
    }
    .to_corner();
    let b = shape.bounds();
    let stock = Stock {
        name: name.to_owned(),
        kind: StockKind::Offcut,
        width: b.width(),
        length: b.height(),
        margin,
        shape: Some(shape),
    };
    stock.check()?;
    Ok(stock)
}

fn flat(segments: &[Segment]) -> shaped::Line {
    let mut places = Vec::new();
    for segment in segments {
        places.push(segment.start());
        segment.flatten(TOLERANCE, &mut places);
        places.pop();
    }
    places.into_iter().map(|p| [p.x, p.y]).collect()
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used, reason = "tests may stop")]
    use super::*;

    #[test]
    fn what_is_written_is_read_again() {
        let shape = Shaped {
            outer: vec![[0.0, 0.0], [120.0, 0.0], [120.0, 80.5], [40.0, 60.0]],
            holes: vec![vec![[50.0, 20.0], [60.0, 20.0], [60.0, 30.0]]],
            picture: None,
        };
        let picture = Picture::new(4, 4, vec![[10, 20, 30, 255]; 16]).unwrap();
        let photograph = photograph(&picture).unwrap();
        for picture in [None, Some(photograph.as_slice())] {
            let file = write(&shape, "a <plate>", picture);
            let stock = read(file.as_bytes(), "plate", 5.0).unwrap();
            let found = stock.shape.unwrap();
            assert!((found.area() - shape.area()).abs() < 1e-6);
            assert_eq!(found.holes.len(), 1);
            assert!((stock.width - 120.0).abs() < 1e-9 && (stock.length - 80.5).abs() < 1e-9);
        }
    }

    #[test]
    fn a_drawing_without_a_closed_line_is_no_stock() {
        let open = r#"<svg xmlns="http://www.w3.org/2000/svg" width="10mm" height="10mm" viewBox="0 0 10 10"><path fill="none" stroke="black" d="M1,1L9,9"/></svg>"#;
        let found = read(open.as_bytes(), "", 0.0);
        assert!(
            matches!(found, Err(OffcutFileError::NoOutline)),
            "{found:?}"
        );
    }
}
