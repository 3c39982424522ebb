//! Inks: the flat colours of the artwork, and every pixel given to one of them.
//!
//! ```text
//!   Picture ─┬─ one tone: tone ──► threshold ─────────────┐
//!            └─ inks: flat colours ──► label every pixel ─┴─► Solid { labels, inks, edge field }
//! ```
//!
//! In: a [`Picture`] and an [`InkChoice`]. Out: a [`Solid`], the solid picture, which also knows
//! where between two neighbouring pixels one ink ends ([`EdgeField`]). Which inks are *kept* is
//! not decided by the labels: dropping one never makes them anew, see [`Solid::kept`].

mod colour;
mod flat;
mod label;
mod noise;
mod softness;
mod tone;

use serde::{Deserialize, Serialize};

pub use colour::{Rgb, difference};
pub(crate) use label::part_of;
pub use noise::noise_sigma;
pub use tone::{Tone, between_tones, otsu};

use crate::limits;
use crate::picture::Picture;
use crate::recipe::RecipeError;
use crate::stop::{Stop, Stopped};

/// Number of an ink within one [`Solid`]; inks are ordered by their share, greatest first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(transparent)]
pub struct InkId(pub u8);

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
        /// Whether the lighter part is the ink instead.
        invert: bool,
    },
}

/// Which ink is the ground.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase", tag = "kind")]
pub enum Background {
    /// Transparency, else the ink that touches the border most.
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

/// A name given to an ink by hand.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct InkName {
    /// Colour of the ink.
    pub colour: Rgb,
    /// The name.
    pub name: String,
}

/// One flat colour of the solid picture.
#[derive(Clone, Debug, PartialEq)]
pub struct Ink {
    /// Its colour; for transparency white.
    pub colour: Rgb,
    /// Whether it is the transparent part of the artwork.
    pub clear: bool,
    /// Share of all pixels, 0 to 1.
    pub share: f64,
    /// Pixels of it on the picture's border.
    pub border_px: usize,
}

/// Why the inks are as they are, for the page and the report.
#[derive(Clone, Debug, PartialEq)]
pub enum InkReason {
    /// Flat colours were found.
    Flat {
        /// How many.
        count: usize,
        /// Share of pixels that lie on one of them, 0 to 1.
        share: f64,
    },
    /// As many as asked for.
    Asked {
        /// How many were asked for.
        asked: usize,
        /// How many there are.
        found: usize,
    },
    /// No two flat colours: taken as one tone.
    NotFlat,
    /// One tone, the threshold half way between its two tones.
    Threshold {
        /// The threshold, percent of full white.
        percent: f64,
        /// Median of the darker pixels, percent.
        dark: f64,
        /// Median of the lighter pixels, percent.
        light: f64,
    },
    /// One tone, the threshold given.
    Given {
        /// The threshold, percent of full white.
        percent: f64,
    },
}

impl std::fmt::Display for InkReason {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Flat { count, share } => write!(
                f,
                "{count} flat colours: {:.0} % of the pixels lie on one of them.",
                (share * 100.0).floor()
            ),
            Self::Asked { asked, found } if asked == found => {
                write!(f, "{asked} inks, as asked for.")
            }
            Self::Asked { asked, found } => {
                write!(
                    f,
                    "{asked} inks were asked for; only {found} colours can be told apart."
                )
            }
            Self::NotFlat => write!(
                f,
                "No two flat colours stand out, so the picture is taken as one tone."
            ),
            Self::Threshold {
                percent,
                dark,
                light,
            } => write!(
                f,
                "Threshold {percent:.0} %: half way between the dark tone ({dark:.0} %) and the light one ({light:.0} %)."
            ),
            Self::Given { percent } => {
                write!(
                    f,
                    "What is darker than {percent:.0} % of full white is ink."
                )
            }
        }
    }
}

/// Where one ink ends between two neighbouring pixels.
#[derive(Clone, Debug)]
pub enum EdgeField {
    /// One tone: the line where the tone passes the threshold.
    Tone {
        /// Tone of every pixel, 0 to 255.
        tone: Vec<u8>,
        /// Threshold on the same scale.
        threshold: f32,
    },
    /// Several inks: the line where a pixel is half of one ink, half of the other.
    Colours {
        /// Premultiplied colour and alpha of every pixel, 0 to 255.
        pixels: Vec<[u8; 4]>,
        /// The same for every ink.
        inks: Vec<[f32; 4]>,
    },
}

/// The solid picture: every pixel given to one ink.
///
/// # Guarantees
/// `labels.len() == width · height`, and every label is below `inks.len()`.
#[derive(Clone, Debug)]
pub struct Solid {
    /// Width, px.
    pub width: u32,
    /// Height, px.
    pub height: u32,
    /// Ink of every pixel, rows from the top.
    pub labels: Vec<u8>,
    /// The inks, by number.
    pub inks: Vec<Ink>,
    /// Sub-pixel position of the edges.
    pub field: EdgeField,
    /// Why these inks.
    pub reason: InkReason,
    /// Noise of the artwork's tone, standard deviation on the scale 0 to 255.
    pub noise: f64,
    /// Share of edges drawn with mixed pixels, 0 (hard steps) to 1.
    pub softness: f64,
}

impl InkChoice {
    pub(crate) fn check(&self) -> Result<(), RecipeError> {
        match self.mode {
            InkMode::Count { count } if !limits::INKS.contains(&count) => {
                Err(RecipeError::InkCount { found: count })
            }
            InkMode::Mono {
                threshold: Some(t), ..
            } if !(0.0..=100.0).contains(&t) => Err(RecipeError::OutOfRange {
                what: "a threshold",
                found: t,
                least: 0.0,
                greatest: 100.0,
                unit: "%",
            }),
            _ => Ok(()),
        }
    }

    /// The part of the choice that the labels depend on.
    #[must_use]
    pub fn mode(&self) -> InkMode {
        self.mode
    }
}

impl Solid {
    /// Which inks are cut: all but the background, then what was switched by hand.
    #[must_use]
    pub fn kept(&self, choice: &InkChoice) -> Vec<bool> {
        let ground = self.background(choice.background);
        let mut kept: Vec<bool> = (0..self.inks.len()).map(|i| Some(i) != ground).collect();
        for switch in &choice.switched {
            if let Some(i) = self
                .inks
                .iter()
                .position(|ink| !ink.clear && ink.colour == switch.colour)
            {
                kept[i] = switch.kept;
            }
        }
        kept
    }

    /// The ink that is the ground, if any.
    #[must_use]
    pub fn background(&self, choice: Background) -> Option<usize> {
        let clear = self.inks.iter().position(|ink| ink.clear);
        match choice {
            Background::None => clear,
            Background::Auto if clear.is_some() => clear,
            Background::Auto => {
                let most = |i: &usize| (self.inks[*i].border_px, std::cmp::Reverse(*i));
                (0..self.inks.len()).max_by_key(most)
            }
            Background::Colour { colour } => (0..self.inks.len()).min_by(|&a, &b| {
                let d = |i: usize| difference(self.inks[i].colour, colour);
                d(a).total_cmp(&d(b))
            }),
        }
    }
}

/// Parts a picture into inks.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub fn separate(picture: &Picture, mode: InkMode, stop: &Stop) -> Result<Solid, Stopped> {
    let noise = noise_sigma(picture);
    stop.check()?;
    let (labels, inks, field, reason) = match mode {
        InkMode::Mono { threshold, invert } => tone::part(picture, threshold, invert),
        InkMode::Auto | InkMode::Count { .. } => {
            let count = if let InkMode::Count { count } = mode {
                Some(count)
            } else {
                None
            };
            let calm = noise::calmed(picture, noise);
            stop.check()?;
            let found = flat::find(&calm, count, noise);
            stop.check()?;
            if found.colours.len() < 2 {
                let (labels, inks, field, _) = tone::part(picture, None, false);
                (labels, inks, field, InkReason::NotFlat)
            } else {
                label::part(&calm, found, count, noise, stop)?
            }
        }
    };
    stop.check()?;
    let (labels, inks, field) = order_by_share(picture, labels, inks, field);
    let softness = softness::edge_softness(picture.width() as usize, &labels, &field);
    let (width, height) = (picture.width(), picture.height());
    Ok(Solid {
        width,
        height,
        labels,
        inks,
        field,
        reason,
        noise,
        softness,
    })
}

/// Counts each ink and numbers them by share, greatest first; inks without a pixel go.
fn order_by_share(
    picture: &Picture,
    mut labels: Vec<u8>,
    inks: Vec<(Rgb, bool)>,
    mut field: EdgeField,
) -> (Vec<u8>, Vec<Ink>, EdgeField) {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let mut count = [0usize; 256];
    for &l in &labels {
        count[usize::from(l)] += 1;
    }
    let mut border = [0usize; 256];
    for x in 0..w {
        border[usize::from(labels[x])] += 1;
        border[usize::from(labels[(h - 1) * w + x])] += 1;
    }
    for y in 0..h {
        border[usize::from(labels[y * w])] += 1;
        border[usize::from(labels[y * w + w - 1])] += 1;
    }
    // One tone keeps its ink even where no pixel has it, so that an empty result can be told.
    let keep_empty = matches!(field, EdgeField::Tone { .. });
    let mut order: Vec<usize> = (0..inks.len())
        .filter(|&i| keep_empty || count[i] > 0)
        .collect();
    order.sort_by_key(|&i| (std::cmp::Reverse(count[i]), i));
    let mut number = [0u8; 256];
    for (new, &old) in order.iter().enumerate() {
        number[old] = new as u8;
    }
    for l in &mut labels {
        *l = number[usize::from(*l)];
    }
    if let EdgeField::Colours { inks: colours, .. } = &mut field {
        *colours = order.iter().map(|&i| colours[i]).collect();
    }
    let total = labels.len() as f64;
    let inks = order
        .iter()
        .map(|&i| Ink {
            colour: inks[i].0,
            clear: inks[i].1,
            share: count[i] as f64 / total,
            border_px: border[i],
        })
        .collect();
    (labels, inks, field)
}
