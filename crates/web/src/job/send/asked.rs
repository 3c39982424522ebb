//! What is wanted of the Send line: which format, of what, in how many files, and how.

use std::ops::RangeInclusive;
use std::str::FromStr;

use inky_core::units::Unit;
use inky_formats::dxf::Version;
use inky_formats::files::{Format, Options, Split};
use inky_formats::gcode::Controller;
use inky_formats::hpgl::Blade;
use inky_formats::svg::{Sized, Style};
use serde::{Deserialize, Deserializer};

use crate::error::{WebError, wrong};
use crate::form::{Tick, parsed};
use crate::typed::number;

/// A wish. All of it may be left out: the design, in one SVG, filled.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(default)]
pub(crate) struct Wish {
    format: FormatAsked,
    #[serde(deserialize_with = "parsed")]
    what: What,
    split: Split,
    style: StyleAsked,
    sized: SizedAsked,
    dxf: Curves,
    /// Of DXF and PDF.
    unit: Unit,
    swivel: Tick,
    turned: Tick,
    /// The word for full power of a controller, typed.
    full: String,
    /// Name of the colour of cut lines in a PDF.
    spot: String,
    /// Pixels per inch, typed.
    ppi: String,
    mirrored: Tick,
    trimmed: Tick,
    /// Whether lines are left as they were designed.
    plain: Tick,
    paper: Paper,
    /// What the proof says of the price.
    price: String,
}

/// A format by the ending of its files.
#[derive(Clone, Copy, Debug, Default)]
struct FormatAsked(Format);

impl<'de> Deserialize<'de> for FormatAsked {
    fn deserialize<D: Deserializer<'de>>(form: D) -> Result<Self, D::Error> {
        let ending = String::deserialize(form)?;
        let found = Format::of_ending(&ending);
        found
            .map(Self)
            .ok_or_else(|| serde::de::Error::custom(format!("there is no format '{ending}' here")))
    }
}

/// What is written.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum What {
    /// One copy of the design.
    #[default]
    Design,
    /// All sheets.
    Sheets,
    /// One of them, from 0.
    Sheet(usize),
}

impl FromStr for What {
    type Err = String;

    fn from_str(word: &str) -> Result<Self, String> {
        match word {
            "design" => Ok(Self::Design),
            "sheets" => Ok(Self::Sheets),
            number => number
                .parse()
                .map(Self::Sheet)
                .map_err(|_| format!("'{word}' is neither the design nor a sheet")),
        }
    }
}

/// How SVG draws shapes.
#[derive(Clone, Copy, Debug, Default, Deserialize)]
#[serde(rename_all = "lowercase")]
enum StyleAsked {
    #[default]
    Filled,
    Lines,
}

/// How large an SVG says it is.
#[derive(Clone, Copy, Debug, Default, Deserialize)]
enum SizedAsked {
    #[default]
    #[serde(rename = "mm")]
    Mm,
    #[serde(rename = "in")]
    In,
    #[serde(rename = "72")]
    Points,
    #[serde(rename = "90")]
    Ninety,
    #[serde(rename = "96")]
    Pixels,
}

/// How a DXF draws curves.
#[derive(Clone, Copy, Debug, Default, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Curves {
    #[default]
    Splines,
    Arcs,
    R12,
}

/// What a PDF is for.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum Paper {
    /// Cut lines at true size.
    #[default]
    Layout,
    /// For the customer to approve.
    Proof,
    /// The work order.
    Order,
    /// Where each stone lies.
    Chart,
}

/// Letters of a price, such as `48.00 EUR, with fitting`.
const PRICE: usize = 60;
/// Pixels per inch that can be asked for.
const PPI: RangeInclusive<f64> = 10.0..=2400.0;
/// The greatest power words of controllers.
const FULL: RangeInclusive<f64> = 1.0..=100_000.0;

impl Wish {
    pub(crate) const fn format(&self) -> Format {
        self.format.0
    }

    pub(crate) const fn what(&self) -> What {
        self.what
    }

    pub(crate) const fn split(&self) -> Split {
        self.split
    }

    /// The paper, where a PDF is asked for.
    pub(crate) fn paper(&self) -> Option<Paper> {
        (self.format() == Format::Pdf).then_some(self.paper)
    }

    /// What a proof says of the price; empty for nothing.
    pub(crate) fn price(&self) -> &str {
        self.price.trim()
    }

    pub(crate) const fn as_designed(&self) -> bool {
        self.plain.is_on()
    }

    /// How files are written.
    pub(crate) fn options(&self) -> Result<Options, WebError> {
        let known = Options::default();
        let figure = |text: &str, usual: f64, range: &RangeInclusive<f64>, refusal| {
            if text.trim().is_empty() {
                return Ok(usual);
            }
            let found = number("send", text, "150")?;
            if range.contains(&found) {
                Ok(found)
            } else {
                Err(wrong("send", refusal))
            }
        };
        if self.price.chars().count() > PRICE {
            let refusal = format!("a price has {PRICE} letters at most");
            return Err(wrong("send", refusal));
        }
        Ok(Options {
            style: match self.style {
                StyleAsked::Filled => Style::Filled,
                StyleAsked::Lines => Style::CutLines,
            },
            sized: match self.sized {
                SizedAsked::Mm => Sized::In(Unit::Mm),
                SizedAsked::In => Sized::In(Unit::In),
                SizedAsked::Points => Sized::PerInch(72.0),
                SizedAsked::Ninety => Sized::PerInch(90.0),
                SizedAsked::Pixels => Sized::PerInch(96.0),
            },
            unit: self.unit,
            dxf: match self.dxf {
                Curves::Splines => Version::Splines,
                Curves::Arcs => Version::Arcs,
                Curves::R12 => Version::R12,
            },
            blade: Blade {
                swivel: self.swivel.is_on(),
                turned: self.turned.is_on(),
            },
            controller: Controller {
                full: figure(
                    &self.full,
                    known.controller.full,
                    &FULL,
                    "full power is a number between 1 and 100000",
                )?,
                ..known.controller
            },
            spot: if self.spot.trim().is_empty() {
                known.spot
            } else {
                self.spot.clone()
            },
            ppi: figure(
                &self.ppi,
                known.ppi,
                &PPI,
                "choose between 10 and 2400 pixels per inch",
            )?,
            mirrored: self.mirrored.is_on(),
            trimmed: self.trimmed.is_on(),
        })
    }
}
