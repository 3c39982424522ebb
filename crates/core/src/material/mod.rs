//! Materials: what is cut, by which tool, with which settings, and what it forgives.
//!
//! A job keeps the values it was made with: a [`Material`] is stored whole in the recipe, so that
//! changing the shop's own list later changes no finished job. Lengths are mm, speeds mm/s.

mod presets;

use serde::{Deserialize, Serialize};

use crate::inks::Rgb;
use crate::limits::{OutOfRange, within};
use crate::stock::Stock;

pub use presets::presets;

/// What cuts or marks it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Tool {
    /// A drag knife.
    #[default]
    Blade,
    /// A laser.
    Laser,
    /// A pen.
    Pen,
}

/// What a layer does.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Operation {
    /// Through the whole thickness.
    CutThrough,
    /// Through the film, not its liner.
    #[default]
    KissCut,
    /// A line to fold or break along.
    Score,
    /// The area is filled.
    Engrave,
    /// A line is drawn.
    Draw,
}

impl Operation {
    /// All of them, in the order in which they are run.
    pub const ALL: [Self; 5] = [
        Self::Engrave,
        Self::Draw,
        Self::Score,
        Self::KissCut,
        Self::CutThrough,
    ];

    /// Whether parts come apart along its lines.
    #[must_use]
    pub const fn cuts(self) -> bool {
        matches!(self, Self::CutThrough | Self::KissCut)
    }

    /// As people say it.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::CutThrough => "cut through",
            Self::KissCut => "kiss cut",
            Self::Score => "score",
            Self::Engrave => "engrave",
            Self::Draw => "draw",
        }
    }
}

/// What can still be cut and weeded; the checks hold a design against it.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Limits {
    /// Thinnest stroke, mm.
    pub stroke: f64,
    /// Narrowest gap between two edges, mm.
    pub gap: f64,
    /// Smallest part, mm across.
    pub part: f64,
    /// Smallest hole, mm across.
    pub hole: f64,
    /// Sharpest corner, degrees.
    pub corner: f64,
    /// Nodes nearer to each other than this on average slow the machine, mm.
    pub nodes: f64,
    /// More parts than this take long to weed.
    pub parts: usize,
}

/// Settings of a drag knife.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Blade {
    /// Force, grams.
    pub force: f64,
    /// Speed, mm/s.
    pub speed: f64,
    /// How often each line is cut.
    pub passes: u32,
    /// How far a closed line runs on past its start, mm.
    pub overcut: f64,
    /// From the middle of the holder to the tip, mm.
    pub offset: f64,
}

/// Settings of a laser for one kind of line.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Beam {
    /// Speed, mm/s.
    pub speed: f64,
    /// Power where it slows down, %.
    pub least: f64,
    /// Power at full speed, %.
    pub most: f64,
    /// How often each line is run.
    pub passes: u32,
}

/// Settings of a laser.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Laser {
    /// For cutting through.
    pub cut: Beam,
    /// For scoring and for engraved areas.
    pub engrave: Beam,
    /// Between the lines of an engraved area, mm.
    pub interval: f64,
}

/// A colour that is in stock.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct StockColour {
    /// Its name.
    pub name: String,
    /// How it looks.
    pub colour: Rgb,
}

/// A material with all that is known of it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[allow(
    clippy::struct_excessive_bools,
    reason = "they are independent facts of a material"
)]
pub struct Material {
    /// Its name; no two of a list are the same.
    pub name: String,
    /// What cuts it.
    pub tool: Tool,
    /// What is done to it unless a layer says otherwise.
    pub operation: Operation,
    /// Whether it is cut from behind, so that the design is mirrored: heat-applied film.
    pub from_behind: bool,
    /// Whether the sheet is what is used, and the shapes are what is cut out of it.
    pub stencil: bool,
    /// How far a lower layer should reach under the one above, mm; nought where they need not.
    pub overlap: f64,
    /// Thickness, mm.
    pub thickness: f64,
    /// Width that the tool takes away, mm.
    pub kerf: f64,
    /// What it forgives.
    pub limits: Limits,
    /// Settings for a blade.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub blade: Option<Blade>,
    /// Settings for a laser.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub laser: Option<Laser>,
    /// Colours in stock.
    #[serde(default)]
    pub colours: Vec<StockColour>,
    /// Rolls, sheets and offcuts in stock.
    #[serde(default)]
    pub stocks: Vec<Stock>,
    /// Price of a square metre.
    pub price: f64,
}

/// Something about a material that cannot be.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum MaterialError {
    /// It has no name.
    #[error("give the material a name, such as Cast vinyl")]
    NoName,
    /// A figure out of range.
    #[error(transparent)]
    OutOfRange(#[from] OutOfRange),
    /// More colours or stocks than are listed.
    #[error("{found} {what} are more than the {most} that are listed")]
    TooMany {
        /// Of what.
        what: &'static str,
        /// How many.
        found: usize,
        /// How many there may be.
        most: usize,
    },
}

/// Greatest length of a name, characters.
const NAME: usize = 60;
/// Greatest number of colours or stocks of a material.
const LISTED: usize = 200;

impl Material {
    /// # Errors
    /// The first figure that cannot be.
    pub fn check(&self) -> Result<(), MaterialError> {
        if self.name.trim().is_empty() || self.name.chars().count() > NAME {
            return Err(MaterialError::NoName);
        }
        let l = &self.limits;
        let mut figures = vec![
            ("a thickness", self.thickness, 0.0, 100.0, "mm"),
            ("a kerf", self.kerf, 0.0, 5.0, "mm"),
            ("an overlap", self.overlap, 0.0, 50.0, "mm"),
            ("a price", self.price, 0.0, 100_000.0, "per m²"),
            ("the thinnest stroke", l.stroke, 0.0, 20.0, "mm"),
            ("the narrowest gap", l.gap, 0.0, 20.0, "mm"),
            ("the smallest part", l.part, 0.0, 500.0, "mm"),
            ("the smallest hole", l.hole, 0.0, 500.0, "mm"),
            ("the sharpest corner", l.corner, 0.0, 90.0, "°"),
            ("the distance of nodes", l.nodes, 0.0, 10.0, "mm"),
        ];
        if let Some(b) = &self.blade {
            figures.extend([
                ("a force", b.force, 1.0, 5000.0, "g"),
                ("a speed", b.speed, 0.1, 5000.0, "mm/s"),
                ("passes", f64::from(b.passes), 1.0, 20.0, "times"),
                ("an overcut", b.overcut, 0.0, 10.0, "mm"),
                ("a blade offset", b.offset, 0.0, 5.0, "mm"),
            ]);
        }
        if let Some(laser) = &self.laser {
            for beam in [&laser.cut, &laser.engrave] {
                figures.extend([
                    ("a speed", beam.speed, 0.1, 5000.0, "mm/s"),
                    ("a least power", beam.least, 0.0, beam.most, "%"),
                    ("a greatest power", beam.most, 0.0, 100.0, "%"),
                    ("passes", f64::from(beam.passes), 1.0, 20.0, "times"),
                ]);
            }
            figures.push(("a line interval", laser.interval, 0.01, 10.0, "mm"));
        }
        for (what, found, least, greatest, unit) in figures {
            within(what, found, &(least..=greatest), unit)?;
        }
        for stock in &self.stocks {
            stock.check()?;
        }
        for (what, found) in [
            ("colours", self.colours.len()),
            ("stocks", self.stocks.len()),
        ] {
            if found > LISTED {
                return Err(MaterialError::TooMany {
                    what,
                    found,
                    most: LISTED,
                });
            }
        }
        Ok(())
    }

    /// The colour in stock that looks most like another.
    #[must_use]
    pub fn nearest(&self, colour: Rgb) -> Option<&StockColour> {
        let far = |c: &StockColour| crate::inks::difference(c.colour, colour);
        self.colours.iter().min_by(|a, b| far(a).total_cmp(&far(b)))
    }
}
