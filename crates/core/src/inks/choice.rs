//! What a person may choose about the inks.

use serde::{Deserialize, Serialize};

use crate::inks::{Rgb, Rim};
use crate::limits::{self, OutOfRange, within};
use crate::picture::Place;

/// How the artwork is parted.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct InkChoice {
    /// One tone or several inks.
    #[serde(default)]
    pub mode: InkMode,
    /// Which ink is the ground and not cut.
    #[serde(default)]
    pub background: Background,
    /// Inks switched on or off by hand, by their colour; they win over `background`.
    #[serde(default)]
    pub switched: Vec<Switch>,
    /// Names given by hand, by colour.
    #[serde(default)]
    pub names: Vec<InkName>,
    /// Inks merged into others, by their colours.
    #[serde(default)]
    pub merged: Vec<Merge>,
    /// Inks given another colour, by the one they have in the artwork.
    #[serde(default)]
    pub repainted: Vec<Repaint>,
    /// Colours that were missed and pointed at.
    #[serde(default)]
    pub added: Vec<Rgb>,
    /// With one tone: a rim of the shape only, or the shape pulled in.
    #[serde(default)]
    pub rim: Option<Rim>,
    /// Places in enclosed parts of the ground that are kept, px of the original.
    #[serde(default)]
    pub enclosed: Vec<Place>,
}

/// One tone or several inks.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase", tag = "kind")]
pub enum InkMode {
    /// The flat colours of the artwork, their number found.
    #[default]
    Auto,
    /// So many inks, the background counted.
    Count {
        /// How many.
        count: usize,
    },
    /// One ink: what is darker than a threshold.
    Mono {
        /// Tone in percent of full white; `None` finds it.
        threshold: Option<f64>,
        /// With a threshold: only what is lighter than this, percent; so tones of a band are ink.
        #[serde(default)]
        above: Option<f64>,
        /// Whether the lighter part is the ink instead.
        invert: bool,
        /// A threshold of its own for every place, for scans with stains and shadows.
        #[serde(default)]
        local: bool,
    },
}

/// Which ink is the ground.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase", tag = "kind")]
pub enum Background {
    /// Transparency where it reaches the border, else the ink that touches the border most.
    #[default]
    Auto,
    /// Every ink is kept.
    None,
    /// The ink nearest to this colour.
    Colour {
        /// The colour.
        colour: Rgb,
    },
}

/// An ink kept or dropped by hand.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Switch {
    /// Colour of the ink.
    pub colour: Rgb,
    /// Whether it is cut.
    pub kept: bool,
}

/// An ink that counts as another.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Merge {
    /// Colour of the ink.
    pub colour: Rgb,
    /// Colour of the ink it counts as.
    pub into: Rgb,
}

/// An ink given another colour.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Repaint {
    /// Colour of the ink in the artwork.
    pub colour: Rgb,
    /// The colour it is drawn and cut in.
    pub paint: Rgb,
}

/// A name given to an ink by hand.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct InkName {
    /// Colour of the ink.
    pub colour: Rgb,
    /// The name.
    pub name: String,
}

impl InkChoice {
    pub(crate) fn check(&self) -> Result<(), OutOfRange> {
        if let Some(rim) = self.rim {
            within("a rim", rim.width.get(), &limits::RIM_MM, "mm")?;
        }
        match self.mode {
            InkMode::Count { count } => {
                let (least, greatest) = (*limits::INKS.start() as f64, *limits::INKS.end() as f64);
                let what = "a number of inks, the background counted,";
                within(what, count as f64, &(least..=greatest), "")
            }
            InkMode::Mono {
                threshold: Some(t),
                above,
                ..
            } => {
                within("a threshold", t, &(0.0..=100.0), "%")?;
                let above = above.filter(|a| !(0.0..t).contains(a));
                above.map_or(Ok(()), |a| {
                    Err(OutOfRange::of("a lower threshold", a, &(0.0..=t), "%"))
                })
            }
            _ => Ok(()),
        }
    }
}
