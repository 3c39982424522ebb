//! A code in the margin that names what a page belongs to, so that a sheet found later is known.
//!
//! ```text
//!   ○  ▛▚▞▜      beside the upper left mark, where no mark comes that is pulled up
//!      ▙▞▚▟      a QR code of version 1: 21 modules a side, level M (15 % may be lost), 4 modules of white around
//! ```
//!
//! Source: ISO/IEC 18004:2015, 5.3.8 (quiet zone), 7.4.5 (alphanumeric mode), table 7 (20 characters at 1-M).

use kurbo::{Point, Rect};
use qrcode::{EcLevel, QrCode, Version};

use super::PrintChoice;
use crate::assembly::rectangle;
use crate::limits::{OutOfRange, within};
use crate::overlay::{Keep, Rings, overlay};

/// Side of a module, mm: two to three pixels where a telephone sees a whole bed.
const MODULE: f64 = 0.6;
/// Modules a side, and those that stay white around.
pub(super) const MODULES: usize = 21;
pub(super) const QUIET: usize = 4;
/// What it needs a side with the white around it, mm.
pub const SIDE: f64 = MODULE * (MODULES + 2 * QUIET) as f64;
/// So many characters can be said.
pub const MOST: usize = 20;

/// Why a text is no code.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("a code says 1 to {MOST} capitals, digits, spaces and $ % * + - . / :")]
pub struct CodeError;

/// A code on a page.
#[derive(Clone, Debug, PartialEq)]
pub struct Code {
    /// What it says.
    pub text: String,
    /// Its modules as one figure, mm on the page.
    pub ink: Vec<Rings>,
}

/// A text that a code can say, as it says it: in capitals.
///
/// # Errors
/// It is empty, too long, or has characters that a code of this size has not.
pub fn sayable(text: &str) -> Result<String, CodeError> {
    let said = text.trim().to_ascii_uppercase();
    let known = |c: char| c.is_ascii_uppercase() || c.is_ascii_digit() || " $%*+-./:".contains(c);
    let fits = (1..=MOST).contains(&said.len()) && said.chars().all(known);
    fits.then_some(said).ok_or(CodeError)
}

/// What codes in a photograph tell of a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Told<'a> {
    /// None could be read.
    Nothing,
    /// It is that page.
    Agrees,
    /// Another sheet lies there: what its code says.
    Other(&'a str),
}

/// Whether codes that were read are those of a page whose code says `meant`.
#[must_use]
pub fn told<'a>(meant: &str, codes: &'a [String]) -> Told<'a> {
    let same = |code: &String| code.eq_ignore_ascii_case(meant.trim());
    match codes {
        [] => Told::Nothing,
        _ if codes.iter().any(same) => Told::Agrees,
        [other, ..] => Told::Other(other),
    }
}

impl Code {
    /// A code within a box of [`SIDE`], the white around it included.
    ///
    /// # Errors
    /// As [`sayable`].
    pub fn new(text: &str, within: Rect) -> Result<Self, CodeError> {
        let text = sayable(text)?;
        let code = QrCode::with_version(&text, Version::Normal(1), EcLevel::M);
        let dark = code.map_err(|_| CodeError)?.to_colors();
        let corner = within.origin() + kurbo::Vec2::new(1.0, 1.0) * (MODULE * QUIET as f64);
        let place = |x: usize, y: usize| {
            Point::new(corner.x + MODULE * x as f64, corner.y + MODULE * y as f64)
        };
        let mut rows = Vec::new();
        for (y, row) in dark.chunks(MODULES).enumerate() {
            let mut x = 0;
            for run in row.chunk_by(|a, b| a == b) {
                let end = x + run.len();
                if run[0] == qrcode::Color::Dark {
                    rows.push(rectangle(Rect::from_points(place(x, y), place(end, y + 1))));
                }
                x = end;
            }
        }
        let ink = overlay(&rows.iter().collect::<Vec<_>>(), &[], Keep::Union);
        Ok(Self { ink, text })
    }
}

impl PrintChoice {
    /// Where a code lies with the white around it, mm: to the right of the upper left mark, beyond its ground.
    #[must_use]
    pub fn code_box(&self) -> Option<Rect> {
        if !self.code {
            return None;
        }
        let half = self.marks.size / 2.0;
        let marks = self.marks();
        let mark = marks.last()?;
        let corner = Point::new(mark.at.x + half + self.marks.clear, mark.at.y - half);
        Some(Rect::from_origin_size(corner, (SIDE, SIDE)))
    }

    /// Its corners: upper left, upper right, lower left, lower right.
    #[must_use]
    pub fn code_corners(&self) -> Option<[Point; 4]> {
        let b = self.code_box()?;
        Some([(b.x0, b.y0), (b.x1, b.y0), (b.x0, b.y1), (b.x1, b.y1)].map(Point::from))
    }

    /// # Errors
    /// There is no room for the code beside its mark.
    pub(super) fn check_code(&self) -> Result<(), OutOfRange> {
        let Some(b) = self.code_box() else {
            return Ok(());
        };
        let room = self.printable();
        let across = |x1: f64| x1 - b.x0;
        let ground = self.marks.size / 2.0 + self.marks.clear;
        let marks = self.marks();
        // Marks to the right that lie as high, and those below.
        let beside = marks
            .iter()
            .filter(|m| m.at.y - ground < b.y1 && m.at.x > b.x0);
        let free = beside.fold(across(room.x1), |free, m| free.min(across(m.at.x - ground)));
        let below = room.y1 - b.y0;
        within(
            "what lies free to the right of the upper left mark for the code",
            free,
            &(SIDE..=5000.0),
            "mm",
        )?;
        within(
            "what lies free below the code",
            below,
            &(SIDE..=5000.0),
            "mm",
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::print::seen::codes;

    fn with_code() -> PrintChoice {
        PrintChoice {
            code: true,
            ..PrintChoice::default()
        }
    }

    /// The page at so many pixels per mm, only the code on it.
    fn drawn(code: &Code, per_mm: f64) -> crate::picture::Picture {
        let (w, h) = ((210.0 * per_mm) as u32, (297.0 * per_mm) as u32);
        let map = kurbo::Affine::scale(per_mm);
        let dark = super::super::bleed::filled(&code.ink, map, w as usize, h as usize);
        let pixels = dark.iter().map(|d| match d {
            true => [20, 20, 20, 255],
            false => [250, 250, 250, 255],
        });
        crate::picture::Picture::new(w, h, pixels.collect()).unwrap()
    }

    #[test]
    fn a_code_lies_beside_the_upper_left_mark_and_pictures_keep_away() {
        let choice = with_code();
        assert_eq!(choice.check(), Ok(()));
        let b = choice.code_box().unwrap();
        // 15 mm of margin, a mark of 6 mm and its ground of 6 mm; 29 modules of 0.6 mm.
        assert_eq!((b.x0, b.y0), (27.0, 15.0));
        assert!((b.width() - 17.4).abs() < 1e-9 && (b.height() - 17.4).abs() < 1e-9);
        let stock = choice.stock("A4");
        assert!(stock.check().is_ok());
        assert_eq!(stock.shape.unwrap().holes.len(), 4);
        assert!(PrintChoice::default().code_box().is_none());
        // Beside a mark moved to the middle there is no room on a narrow page, nor on one that is all margins.
        for page in [[55.0, 297.0], [210.0, 75.0]] {
            let narrow = PrintChoice {
                page,
                ..choice.clone()
            };
            assert!(narrow.check().is_err(), "{page:?}");
        }
    }

    #[test]
    fn what_a_code_says_is_read_from_a_picture_of_it() {
        let choice = with_code();
        let b = choice.code_box().unwrap();
        for text in [
            "JOB 12 7F3A2C",
            "A",
            "12345678901234567890",
            "A-Z.0:9/$%*+ X",
        ] {
            let code = Code::new(&text.to_lowercase(), b).unwrap();
            assert_eq!(code.text, text);
            let reach = code
                .ink
                .iter()
                .map(|r| r.outer.bounds())
                .reduce(|a, b| a.union(b));
            let quiet = MODULE * QUIET as f64;
            let inner = reach.unwrap().inflate(quiet, quiet);
            assert!((inner.x0 - b.x0).abs() < 1e-6 && (inner.y1 - b.y1).abs() < 1e-6);
            // Three and six pixels a module.
            for per_mm in [5.0, 10.0] {
                assert_eq!(codes(&drawn(&code, per_mm)), [text], "{per_mm}");
            }
        }
        for text in ["", "  ", "123456789012345678901", "ÄÖ", "a_b"] {
            assert_eq!(Code::new(text, b), Err(CodeError), "{text}");
        }
        let blank = drawn(
            &Code {
                text: String::new(),
                ink: Vec::new(),
            },
            2.0,
        );
        assert!(codes(&blank).is_empty());
    }
}
