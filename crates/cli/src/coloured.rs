//! What is said of colouring in: `WHAT=PAINT`.

use std::path::PathBuf;

use clap::ValueEnum;
use inky_core::inks::Rgb;
use inky_core::print::look::{CutShape, Fill, Filled};
use inky_core::print::paint::{Paint, Pattern};

use crate::paper::mm;

/// What the cut line follows.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum CutShapeAsked {
    #[default]
    Artwork,
    Box,
    Rounded,
    Ellipse,
}

impl From<CutShapeAsked> for CutShape {
    fn from(asked: CutShapeAsked) -> Self {
        match asked {
            CutShapeAsked::Artwork => Self::Artwork,
            CutShapeAsked::Box => Self::Box,
            CutShapeAsked::Rounded => Self::Rounded,
            CutShapeAsked::Ellipse => Self::Ellipse,
        }
    }
}

/// What is coloured in; places in mm.
#[derive(Clone, Copy, Debug, PartialEq)]
enum What {
    Ink(Rgb),
    At([f64; 2]),
}

/// A piece or an ink with its paint.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct FillAsked {
    what: What,
    with: Paint,
    /// What repeats, where a picture does.
    pub(crate) picture: Option<PathBuf>,
}

impl FillAsked {
    /// On a picture of a size, mm; a picture that repeats has a number.
    pub(crate) fn on(&self, [w, h]: [f64; 2], picture: Option<i64>) -> Fill {
        let of = match self.what {
            What::Ink(colour) => Filled::Ink(colour),
            What::At([x, y]) => Filled::Piece([x / w, y / h]),
        };
        Fill {
            of,
            with: self.with,
            picture,
        }
    }

    /// What it is called where nothing of it is found.
    pub(crate) fn told(&self) -> String {
        match self.what {
            What::Ink(colour) => format!("the ink {colour}"),
            What::At([x, y]) => format!("a piece at {x},{y} mm"),
        }
    }
}

pub(crate) fn fill(text: &str) -> Result<FillAsked, String> {
    let wrong = || {
        "write it as WHAT=PAINT, such as 12,30=#ffcc00 or #000000=dots:#ff0000:#ffffff:3mm:45"
            .to_owned()
    };
    let (what, with) = text.split_once('=').ok_or_else(wrong)?;
    let what = match what.split_once(',') {
        Some((x, y)) => What::At([mm(x.trim())?, mm(y.trim())?]),
        None => What::Ink(colour(what)?),
    };
    let (with, picture) = paint(with)?;
    Ok(FillAsked {
        what,
        with,
        picture,
    })
}

fn colour(text: &str) -> Result<Rgb, String> {
    let said = text.trim();
    said.parse().map_err(|e| format!("'{said}': {e}"))
}

fn paint(text: &str) -> Result<(Paint, Option<PathBuf>), String> {
    let words: Vec<&str> = text.split(':').map(str::trim).collect();
    let pattern = match words[0] {
        "dots" => Pattern::Dots,
        "stripes" => Pattern::Stripes,
        "checks" => Pattern::Checks,
        "picture" => Pattern::Picture,
        flat if words.len() == 1 => return colour(flat).map(|c| (Paint::flat(c), None)),
        other => {
            return Err(format!(
                "'{other}' is no pattern: dots, stripes, checks or picture"
            ));
        }
    };
    let said = |n: usize| words.get(n).copied().filter(|w| !w.is_empty());
    let first =
        said(1).ok_or("a pattern has a colour, such as dots:#ff0000, and a picture its file")?;
    let (known, picture) = match pattern {
        Pattern::Picture => (Paint::flat(Rgb::WHITE), Some(PathBuf::from(first))),
        _ => (Paint::flat(colour(first)?), None),
    };
    let paint = Paint {
        pattern,
        ground: said(2).map_or(Ok(known.ground), colour)?,
        size: said(3).map_or(Ok(known.size), mm)?,
        angle: match said(4) {
            Some(degrees) => degrees
                .parse()
                .map_err(|_| format!("'{degrees}' is no angle"))?,
            None => known.angle,
        },
        ..known
    };
    match words.len() {
        0..=5 => paint
            .check()
            .map(|()| (paint, picture))
            .map_err(|e| e.to_string()),
        _ => Err("a pattern has a colour, a ground, a size and an angle".to_owned()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_coloured_in_is_read_and_what_is_not_understood_is_told() {
        let asked = fill("12, 30mm=dots:#ff0000::3mm:45").unwrap();
        let on = asked.on([120.0, 60.0], None);
        assert_eq!(on.of, Filled::Piece([0.1, 0.5]));
        let Paint {
            pattern,
            ground,
            size,
            angle,
            ..
        } = on.with;
        assert_eq!((pattern, ground), (Pattern::Dots, Rgb::WHITE));
        assert!((size - 3.0).abs() < 1e-9 && (angle - 45.0).abs() < 1e-9);
        let asked = fill("#000000=#00ff00").unwrap();
        assert_eq!(asked.on([1.0, 1.0], None).of, Filled::Ink(Rgb([0; 3])));
        let asked = fill("1,2=picture:a b.png::20mm").unwrap();
        assert_eq!(asked.picture, Some(PathBuf::from("a b.png")));
        for wrong in [
            "",
            "#000000",
            "here=#fff000",
            "1,2=waves:#ff0000",
            "1,2=dots",
            "1,2=dots:#ff0000:#ffffff:900mm",
            "1,2=dots:#ff0000:#ffffff:3mm:x",
            "1=2=3",
        ] {
            assert!(fill(wrong).is_err(), "{wrong}");
        }
    }
}
