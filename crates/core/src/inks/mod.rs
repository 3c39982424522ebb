//! Inks: the flat colours of the artwork, and every pixel given to one of them.
//!
//! ```text
//!   Picture ──► paper levelled, noise calmed (where there is any)
//!              ─┬─ one tone: tone ──► threshold ─────────────┐
//!               └─ inks: flat colours ──► label every pixel ─┴─► Solid { labels, inks, edge field }
//! ```
//!
//! In: a [`Picture`] and an [`InkChoice`]. Out: a [`Solid`], the solid picture, which also knows
//! where between two neighbouring pixels one ink ends ([`EdgeField`]). Which inks are *kept* is
//! not decided by the labels: dropping one never makes them anew, see [`Solid::kept`].

mod colour;
mod flat;
mod label;
mod local;
mod mixes;
mod noise;
mod paper;
mod softness;
mod thin;
mod tone;

use std::sync::Arc;

use rayon::prelude::*;
use serde::{Deserialize, Serialize};

pub use colour::{Rgb, difference, lab_difference};
pub use local::sauvola;
pub use mixes::Mixes;
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
        /// A threshold of its own for every place, for scans with stains and shadows.
        #[serde(default)]
        local: bool,
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
    /// One tone, a threshold for every place.
    Local {
        /// Side of the square that each threshold looks at, px.
        window: usize,
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
            Self::Local { window } => write!(
                f,
                "What is darker than its surroundings, {window} px across, is ink."
            ),
        }
    }
}

/// Where one ink ends between two neighbouring pixels.
#[derive(Clone, Debug)]
pub enum EdgeField {
    /// One tone, labels 0 and 1 in one order or the other.
    Tone {
        /// Tone of every pixel, 0 to 255.
        tone: Vec<u8>,
        /// Threshold on the same scale.
        threshold: f32,
        /// Dark and light tone of the picture where the edge lies half way between the two;
        /// `None` where it lies exactly on the threshold.
        levels: Option<[f32; 2]>,
    },
    /// Several inks: the line where a pixel is half of one ink, half of the other.
    Colours {
        /// Premultiplied colour and alpha of every pixel, 0 to 255.
        pixels: Arc<Vec<[u8; 4]>>,
        /// How much of two inks a pixel holds.
        mixes: Mixes,
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
    /// Typical number of mixed pixels across an edge, px.
    pub edge_width: f64,
    /// How far pixels in flat places lie from their ink, root mean square, 0 to 255.
    pub scatter: f64,
    /// How much darker the darkest paper was than the brightest, 0 to 1, where it was levelled.
    pub levelled: Option<f64>,
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

impl Ink {
    /// How far two inks are apart in a pixel's values, 0 to about 255: what tells them from noise.
    #[must_use]
    pub fn contrast(&self, other: &Self) -> f64 {
        let place = |ink: &Self| mixes::place_of_ink(ink.colour, ink.clear);
        f64::from(mixes::distance_sq(place(self), place(other))).sqrt()
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
    // A threshold given by hand means the tones as they are.
    let as_it_is =
        matches!(mode, InkMode::Mono { threshold, local, .. } if threshold.is_some() || local);
    let even = if as_it_is {
        None
    } else {
        paper::level(picture, noise)
    };
    stop.check()?;
    let levelled = even.as_ref().map(|l| l.fall);
    let calm = noise::calmed(even.as_ref().map_or(picture, |l| &l.picture), noise);
    stop.check()?;
    let parted = match mode {
        InkMode::Mono {
            threshold,
            invert,
            local,
        } => tone::part(&calm, threshold, invert, local),
        InkMode::Auto => flat_inks(&calm, None, noise, stop)?,
        InkMode::Count { count } => flat_inks(&calm, Some(count), noise, stop)?,
    };
    stop.check()?;
    let Parted {
        labels,
        mut inks,
        field,
        reason,
    } = in_order_of_share(parted, picture);
    let edges = softness::edges(picture.width() as usize, &labels, &field);
    let scatter = softness::scatter(picture.width() as usize, &labels, &inks, &field);
    if levelled.is_some() && matches!(field, EdgeField::Colours { .. }) {
        as_seen(picture, &labels, &mut inks);
    }
    Ok(Solid {
        width: picture.width(),
        height: picture.height(),
        labels,
        inks,
        field,
        reason,
        noise,
        softness: edges.share,
        edge_width: edges.width,
        scatter,
        levelled,
    })
}

/// A picture parted: labels, inks `I`, where the edges are, and why.
struct Parted<I> {
    labels: Vec<u8>,
    inks: Vec<I>,
    field: EdgeField,
    reason: InkReason,
}

/// Most inks that thin parts may add to those found in flat places.
const MOST_THIN: usize = 3;

/// Least share of the picture that must lie on flat colours.
const LEAST_FLAT: f64 = 0.04;

/// Parts into the flat colours, as many as asked for; one tone when there are no two.
fn flat_inks(
    picture: &Picture,
    asked: Option<usize>,
    noise: f64,
    stop: &Stop,
) -> Result<Parted<flat::Colour>, Stopped> {
    let noisy = noise >= noise::CALM_SIGMA;
    let left = if noisy { noise_sigma(picture) } else { noise };
    let cells = flat::Cells::gather(picture, left);
    stop.check()?;
    let found = cells.flat_colours(asked);
    let mut colours = found.colours;
    if colours.is_empty() || found.share < LEAST_FLAT {
        return Ok(Parted {
            reason: InkReason::NotFlat,
            ..tone::part(picture, None, false, false)
        });
    }
    let opaque = picture.pixels().iter().all(|p| p[3] == 255);
    let pixels = if opaque {
        picture.shared_pixels()
    } else {
        Arc::new(
            picture
                .pixels()
                .iter()
                .map(|&p| mixes::premultiplied(p))
                .collect(),
        )
    };
    let canvas = label::Canvas {
        pixels: &pixels,
        width: picture.width() as usize,
        height: picture.height() as usize,
    };
    let most = asked.unwrap_or(colours.len() + MOST_THIN);
    let labels = label::label(&canvas, &cells, &mut colours, most, noisy, stop)?;
    if colours.len() < 2 {
        return Ok(Parted {
            reason: InkReason::NotFlat,
            ..tone::part(picture, None, false, false)
        });
    }
    let count = colours.len();
    let reason = match asked {
        Some(asked) => InkReason::Asked {
            asked,
            found: count,
        },
        None => InkReason::Flat {
            count,
            share: found.share,
        },
    };
    let mixes = Mixes::new(&label::places(&colours));
    Ok(Parted {
        labels,
        inks: colours,
        field: EdgeField::Colours { pixels, mixes },
        reason,
    })
}

/// Gives every ink its mean colour in the artwork as it came, before the light was levelled.
fn as_seen(picture: &Picture, labels: &[u8], inks: &mut [Ink]) {
    let mut sums = vec![([0u64; 3], 0u64); inks.len()];
    for (p, &l) in picture.pixels().iter().zip(labels) {
        let (sum, count) = &mut sums[usize::from(l)];
        *count += 1;
        for (s, &v) in sum.iter_mut().zip(p) {
            *s += u64::from(v);
        }
    }
    for (ink, (sum, count)) in inks.iter_mut().zip(sums) {
        if count > 0 {
            ink.colour = Rgb(sum.map(|s| (s / count) as u8));
        }
    }
}

/// Counts each ink and numbers them by share, greatest first; inks without a pixel go.
fn in_order_of_share(parted: Parted<flat::Colour>, picture: &Picture) -> Parted<Ink> {
    let Parted {
        mut labels,
        inks,
        mut field,
        reason,
    } = parted;
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let count = labels
        .par_chunks(1 << 16)
        .map(|part| {
            let mut count = [0usize; 256];
            part.iter().for_each(|&l| count[usize::from(l)] += 1);
            count
        })
        .reduce(|| [0; 256], |a, b| std::array::from_fn(|i| a[i] + b[i]));
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
    labels
        .par_iter_mut()
        .for_each(|l| *l = number[usize::from(*l)]);
    let ordered: Vec<flat::Colour> = order.iter().map(|&i| inks[i]).collect();
    if let EdgeField::Colours { mixes, .. } = &mut field {
        *mixes = Mixes::new(&label::places(&ordered));
    }
    let total = labels.len() as f64;
    let inks = order
        .iter()
        .zip(ordered)
        .map(|(&i, (colour, clear))| Ink {
            colour,
            clear,
            share: count[i] as f64 / total,
            border_px: border[i],
        })
        .collect();
    Parted {
        labels,
        inks,
        field,
        reason,
    }
}
