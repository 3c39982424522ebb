//! What a person may choose about the inks.

use serde::{Deserialize, Serialize};

use crate::inks::{Levels, Rgb, Rim, Screen};
use crate::limits::{self, OutOfRange, within};
use crate::picture::Place;
use crate::units::{Degrees, Mm};

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
    /// With tones: how many, and where they end.
    #[serde(default, skip_serializing_if = "unchanged")]
    pub tones: ToneChoice,
    /// With rows or dots: how they are drawn.
    #[serde(default, skip_serializing_if = "unchanged")]
    pub screen: ScreenChoice,
    /// Places in enclosed parts of the ground that are kept, px of the original.
    #[serde(default)]
    pub enclosed: Vec<Place>,
}

/// Whether a choice is as the program leaves it: then it is not written.
fn unchanged<T: Default + PartialEq>(choice: &T) -> bool {
    *choice == T::default()
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
    /// A picture with gradients as a few tones, see [`ToneChoice`].
    Tones,
    /// All that is not clear, whatever its tones.
    Silhouette,
    /// Rows or dots that follow the tones, see [`ScreenChoice`].
    Screen,
}

/// How rows or dots follow the tones of a picture.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct ScreenChoice {
    /// Rows or dots.
    pub screen: Screen,
    /// From one to the next; `None` as the material allows.
    pub pitch: Option<Mm>,
    /// How far rows are turned from lying level; `None`: rows lie level, dots at 45°.
    pub angle: Option<Degrees>,
    /// Whether light is drawn instead of dark, on a dark ground.
    pub invert: bool,
}

impl ScreenChoice {
    /// How far rows are turned from lying level: as chosen, else rows lie level and dots at 45°.
    #[must_use]
    pub fn turned(&self) -> Degrees {
        self.angle.unwrap_or_else(|| {
            Degrees::new(match self.screen {
                Screen::Rows => 0.0,
                Screen::Dots => 45.0,
            })
        })
    }

    fn check(&self) -> Result<(), OutOfRange> {
        if let Some(pitch) = self.pitch {
            within("a distance of rows", pitch.get(), &limits::PITCH_MM, "mm")?;
        }
        self.angle.map_or(Ok(()), |angle| {
            within("an angle", angle.get(), &limits::TURN_DEG, "°")
        })
    }
}

/// How a picture with gradients becomes tones.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct ToneChoice {
    /// How many.
    pub count: usize,
    /// Where one ends and the next begins.
    pub levels: Levels,
    /// How much local contrast is evened out, percent.
    pub even: f64,
    /// Narrowest stroke, and gap beside it; `None` as the material allows.
    pub narrowest: Option<Mm>,
}

impl Default for ToneChoice {
    fn default() -> Self {
        Self {
            count: 4,
            levels: Levels::Found,
            even: 0.0,
            narrowest: None,
        }
    }
}

impl ToneChoice {
    fn check(&self) -> Result<(), OutOfRange> {
        let (least, greatest) = (*limits::TONES.start() as f64, *limits::TONES.end() as f64);
        within(
            "a number of tones",
            self.count as f64,
            &(least..=greatest),
            "",
        )?;
        within("evening out", self.even, &limits::PERCENT, "%")?;
        if let Some(narrowest) = self.narrowest {
            within(
                "a narrowest stroke",
                narrowest.get(),
                &limits::NARROWEST_MM,
                "mm",
            )?;
        }
        match &self.levels {
            Levels::Hand { percents } => {
                let between = (self.count - 1) as f64;
                let found = percents.len() as f64;
                within(
                    "a number of levels between tones",
                    found,
                    &(between..=between),
                    "",
                )?;
                let mut all = percents.iter();
                all.try_for_each(|&p| within("a level", p, &limits::PERCENT, "%"))
            }
            Levels::Found | Levels::Equal => Ok(()),
        }
    }
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
        self.tones.check()?;
        self.screen.check()?;
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
