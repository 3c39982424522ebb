//! A photograph squared up before it is traced: its corners found or given, its true size a known sheet's or typed.

use std::str::FromStr;

use inky_core::clean::square::{Paper, SquareError, Squared, four_sided};
use inky_core::expression::parse_length;
use inky_core::units::{Length, Unit};
use inky_formats::picture::Artwork;
use kurbo::Point;

use crate::say;

/// Which rectangle of a photograph is squared up.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Corners {
    /// The one that stands out most.
    Found,
    /// By its corners, px.
    Given([Point; 4]),
}

/// How large what is squared up truly is, mm.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum TrueSize {
    /// A sheet, lying or standing as the photograph says.
    Paper(Paper),
    /// Width and height.
    Sides(f64, f64),
}

/// Why nothing was squared up.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub(crate) enum SquareFailed {
    #[error(
        "nothing with four straight sides stands out in this photograph; give its corners, such as --square-up 120,80,900,60,940,700,90,680"
    )]
    NothingFound,
    #[error(transparent)]
    Corners(#[from] SquareError),
}

impl FromStr for Corners {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        if text == "auto" {
            return Ok(Self::Found);
        }
        let figures: Option<Vec<f64>> = text.split(',').map(|v| v.trim().parse().ok()).collect();
        let places = figures.filter(|f| f.len() == 8 && f.iter().all(|v| v.is_finite()));
        let places = places.ok_or(
            "use auto, or x,y of the four corners in px, eight figures with commas between",
        )?;
        Ok(Self::Given(std::array::from_fn(|n| {
            Point::new(places[2 * n], places[2 * n + 1])
        })))
    }
}

impl FromStr for TrueSize {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        if let Some(paper) = Paper::called(text) {
            return Ok(Self::Paper(paper));
        }
        let names: Vec<&str> = Paper::ALL.into_iter().map(Paper::word).collect();
        let wrong = || {
            format!(
                "use {} or width and height, such as 300x200mm",
                names.join(", ")
            )
        };
        let (width, height) = text.split_once(['x', '×']).ok_or_else(wrong)?;
        // The unit stands behind the second side and holds for both.
        let unit = height.trim_start_matches(|c: char| c.is_ascii_digit() || ".,/ ".contains(c));
        let side = |text: &str| match parse_length(text, Unit::Mm) {
            Ok(Length::Mm(mm)) if mm >= 1.0 => Ok(mm),
            _ => Err(wrong()),
        };
        let width = if width.ends_with(|c: char| c.is_ascii_digit()) {
            side(&format!("{width}{unit}"))?
        } else {
            side(width)?
        };
        Ok(Self::Sides(width, side(height)?))
    }
}

/// What is squared up of a photograph; how sure it is is told.
pub(crate) fn squared(
    artwork: &Artwork,
    corners: Corners,
    size: Option<TrueSize>,
) -> Result<Squared, SquareFailed> {
    let picture = &artwork.picture;
    let squared = match corners {
        Corners::Found => {
            let found = four_sided(picture);
            let first = found.first().ok_or(SquareFailed::NothingFound)?;
            if found.len() > 1 {
                say::note(format_args!(
                    "{} things with four sides stand out; the clearest is taken (--square-up with corners takes another)",
                    found.len()
                ));
            }
            Squared::of_seen(first, picture, artwork.focal).ok_or(SquareError::NoRectangle)?
        }
        Corners::Given(places) => Squared::pointed(picture, places, true, artwork.focal)?,
    };
    let squared = match size {
        Some(TrueSize::Paper(paper)) => squared.on_paper(paper),
        Some(TrueSize::Sides(width, height)) => Squared {
            width: Some(width),
            height: Some(height),
            ..squared
        },
        None => {
            say::note(format_args!(
                "squared up; its proportions are told by its corners within {:.1} % (--true-size sets them and the scale)",
                200.0 * squared.off
            ));
            squared
        }
    };
    Ok(squared)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn corners_and_sizes_are_read_as_they_are_typed() {
        let given: Corners = "1,2, 30,2, 30,40, 1,40".parse().unwrap();
        assert!(matches!(given, Corners::Given([_, _, p, _]) if p == Point::new(30.0, 40.0)));
        assert_eq!("auto".parse(), Ok(Corners::Found));
        assert!(
            "1,2,3".parse::<Corners>().is_err() && "a,b,c,d,e,f,g,h".parse::<Corners>().is_err()
        );
        assert_eq!("a4".parse(), Ok(TrueSize::Paper(Paper::A4)));
        assert_eq!("card".parse(), Ok(TrueSize::Paper(Paper::Card)));
        assert_eq!("300x200mm".parse(), Ok(TrueSize::Sides(300.0, 200.0)));
        assert_eq!("10inx20in".parse(), Ok(TrueSize::Sides(254.0, 508.0)));
        assert_eq!("10x20in".parse(), Ok(TrueSize::Sides(254.0, 508.0)));
        assert!("B9".parse::<TrueSize>().is_err() && "0x5".parse::<TrueSize>().is_err());
    }
}
