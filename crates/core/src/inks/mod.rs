//! Inks: the flat colours of the artwork, and every pixel given to one of them.
//!
//! ```text
//!   Picture ──► paper levelled, noise calmed (where there is any)
//!              ─┬─ one tone: tone ──► threshold ─────────────┐
//!               └─ inks: flat colours ──► label every pixel ─┴─► Solid { labels, inks, edge field }
//! ```
//!
//! In: a [`crate::picture::Picture`] and what is [`Asked`] of it. Out: a [`Solid`], the solid picture, which also knows
//! where between two neighbouring pixels one ink ends ([`EdgeField`]). Which inks are *kept* is
//! not decided by the labels: dropping one never makes them anew, see [`Solid::kept`].

mod asked;
mod canvas;
mod cast;
mod choice;
mod colour;
mod counted;
mod directions;
mod dither;
mod drawn;
mod enclosed;
mod enlarged;
mod fine_inks;
mod flat;
mod label;
mod local;
mod luma;
mod mixes;
mod noise;
mod paper;
mod parted;
mod reason;
mod rim;
pub mod screen;
mod separate;
mod shadow;
mod softness;
mod strokes;
mod thin;
mod tone;
pub mod tones;
mod two_tones;

use std::sync::Arc;

use serde::{Deserialize, Serialize};

pub use asked::Asked;
pub use cast::Cast;
pub use choice::{
    Background, InkChoice, InkMode, InkName, Merge, Repaint, ScreenChoice, Switch, ToneChoice,
};
pub use colour::{Rgb, difference, lab_difference};
pub use enclosed::EnclosedPart;
pub use enlarged::Enlarged;
pub use local::sauvola;
pub use mixes::Mixes;
pub(crate) use mixes::{colour_of, place_of, place_of_ink};
pub use noise::noise_sigma;
pub use reason::InkReason;
pub use rim::{Rim, RimKind};
pub use screen::Screen;
pub use separate::{before_rim, finished, separate};
pub use tone::Tone;
pub use tones::Levels;

pub use crate::otsu::{levels, otsu};

/// The picture with grain of a standard deviation taken out, edges kept; what is left of it is
/// the sigma filter of Lee 1983.
#[must_use]
pub(crate) fn denoised(picture: &crate::picture::Picture, grain: f64) -> crate::picture::Picture {
    noise::calmed(picture, grain.max(noise::CALM_SIGMA))
}

/// The picture with its uneven light levelled; as it is where the light is even, or where nothing
/// in it says how it falls.
#[must_use]
pub(crate) fn even_light(picture: &crate::picture::Picture) -> crate::picture::Picture {
    let levelled = paper::level(picture, noise_sigma(picture));
    levelled.map_or_else(|| picture.clone(), |l| l.picture)
}

/// Number of an ink within one [`Solid`]; inks are ordered by their share, greatest first, and tones from the lightest.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(transparent)]
pub struct InkId(pub u8);

/// One flat colour of the solid picture.
#[derive(Clone, Debug, PartialEq)]
pub struct Ink {
    /// Its colour; for transparency white.
    pub colour: Rgb,
    /// Whether it is the transparent part of the artwork.
    pub clear: bool,
    /// Whether it is enclosed ground that was kept.
    pub enclosed: bool,
    /// Of tones: how many lie below it when they are laid on each other, the lightest lowest.
    pub tone: Option<u8>,
    /// Share of all pixels, 0 to 1.
    pub share: f64,
    /// Pixels of it on the picture's border.
    pub border_px: usize,
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
        /// Premultiplied colour and alpha of every pixel, or luma and chroma as the file stores
        /// them, 0 to 255.
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
    /// Width and height of the picture that was parted, px: its labels may be finer, or coarser where
    /// it had been enlarged.
    pub picture_px: (u32, u32),
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
    /// Pixels of this solid picture in one pixel's worth of what the artwork tells: more than 1
    /// where it was worked out finer than the artwork's pixels, or where these were enlarged.
    pub detail: f64,
    /// How the artwork was blown up before it came, where it was.
    pub enlarged: Option<Enlarged>,
    /// Grain beside edges, where compression leaves it, standard deviation on the scale 0 to 255.
    pub beside: f64,
    /// What compression left of a pixel on an edge, standard deviation, 0 to 255.
    pub at_edges: f64,
    /// Whether colours were shown by dots of a few others, which were undone.
    pub dithered: bool,
    /// The soft shadow that shapes throw on their ground, which was taken away.
    pub cast: Option<Arc<Cast>>,
    /// How far pixels in flat places lie from their ink, root mean square, 0 to 255.
    pub scatter: f64,
    /// What was left unexplained where inks meet when they were worked out finer than the artwork's
    /// pixels, root mean square, as a part of their contrast; 0 where they were not.
    pub rough: f64,
    /// Of tones: how often each was seen, as they were parted.
    pub histogram: Option<Box<[u64; 256]>>,
    /// How much darker the darkest paper was than the brightest, 0 to 1, where it was levelled.
    pub levelled: Option<f64>,
}

/// How different the colours of an ink may look before and after a clean-up, CIEDE2000.
const SAME_CHOICE: f64 = 6.0;

impl Ink {
    /// How far two inks are apart in a pixel's values, 0 to about 255: what tells them from noise.
    #[must_use]
    pub fn contrast(&self, other: &Self) -> f64 {
        let place = |ink: &Self| mixes::place_of_ink(ink.colour, ink.clear);
        f64::from(mixes::distance_sq(place(self), place(other))).sqrt()
    }
}

impl Solid {
    /// One that was made of a picture with gradients: it has no grain and nothing was undone.
    pub(crate) fn made(
        (width, height): (usize, usize),
        picture_px: (u32, u32),
        labels: Vec<u8>,
        inks: Vec<Ink>,
        field: EdgeField,
        reason: InkReason,
    ) -> Self {
        Self {
            width: width as u32,
            height: height as u32,
            picture_px,
            labels,
            inks,
            field,
            reason,
            noise: 0.0,
            softness: 1.0,
            edge_width: 1.0,
            detail: 1.0,
            enlarged: None,
            beside: 0.0,
            at_edges: 0.0,
            dithered: false,
            cast: None,
            scatter: 0.0,
            rough: 0.0,
            histogram: None,
            levelled: None,
        }
    }

    /// Whether it was made of a picture with gradients, so that its edges are not those of the picture.
    #[must_use]
    pub fn is_made(&self) -> bool {
        self.is_tones() || matches!(self.reason, InkReason::Screen { .. })
    }

    /// How much softer chroma is than luma, standard deviation, px: compression stores it coarser.
    pub(crate) fn chroma_spread(&self) -> f64 {
        noise::chroma_spread(self.beside)
    }

    /// What was done to the picture before its inks were sought, and what of the ground, as sentences.
    #[must_use]
    pub fn notes(&self, background: Background) -> Vec<String> {
        let mut notes = Vec::new();
        if let Some(enlarged) = self.enlarged {
            notes.push(enlarged.to_string());
        }
        if self.dithered {
            notes.push("Its dots were undone.".to_owned());
        }
        if self.cast.is_some() {
            notes.push("The soft shadow beside its shapes is no ink and was left out.".to_owned());
        }
        if let Some(fall) = self.levelled {
            let percent = fall * 100.0;
            notes.push(format!(
                "The light falls off by {percent:.0} % and was levelled."
            ));
        }
        if background == Background::Auto && self.is_full_bleed() && !self.is_tones() {
            notes.push(
                "No ink holds more than half of the border, so none is taken for the ground."
                    .to_owned(),
            );
        }
        notes
    }

    /// Number of the ink in the middle of a pixel of the picture that was parted, by its index.
    #[must_use]
    pub(crate) fn ink_at(&self, picture: &crate::picture::Picture, i: usize) -> usize {
        let (w, h) = (picture.width() as usize, picture.height() as usize);
        let (width, height) = (self.width as usize, self.height as usize);
        let middle = |at: usize, step: usize, all: usize| (2 * at + 1) * step / (2 * all);
        let (x, y) = (middle(i % w, width, w), middle(i / w, height, h));
        usize::from(self.labels[y * width + x])
    }

    /// Which inks are cut: all but the background, then what was switched by hand.
    #[must_use]
    pub fn kept(&self, choice: &InkChoice) -> Vec<bool> {
        let ground = self.background(choice.background);
        let cut = |(i, ink): (usize, &Ink)| Some(i) != ground && !ink.clear;
        let mut kept: Vec<bool> = self.inks.iter().enumerate().map(cut).collect();
        for switch in &choice.switched {
            if let Some(i) = self.ink_of(switch.colour) {
                kept[i] = switch.kept;
            }
        }
        // What counts as another ink is not cut by itself.
        for (i, as_ink) in self.counts_as(choice).into_iter().enumerate() {
            kept[i] &= usize::from(as_ink.0) == i;
        }
        kept
    }

    /// The ink that a choice made for a colour means: the one of that colour, or the one nearest to
    /// it, since cleaning up moves colours a little.
    #[must_use]
    pub fn ink_of(&self, colour: Rgb) -> Option<usize> {
        let all = self.inks.iter().enumerate();
        let inks = all.filter(|(_, ink)| !ink.clear && !ink.enclosed);
        inks.map(|(i, ink)| (i, difference(ink.colour, colour)))
            .filter(|&(_, d)| d < SAME_CHOICE)
            .min_by(|a, b| a.1.total_cmp(&b.1))
            .map(|(i, _)| i)
    }

    /// The colour that every ink is drawn and cut in.
    #[must_use]
    pub fn paints(&self, choice: &InkChoice) -> Vec<Rgb> {
        let mut paints: Vec<Rgb> = self.inks.iter().map(|ink| ink.colour).collect();
        for repaint in &choice.repainted {
            if let Some(i) = self.ink_of(repaint.colour) {
                paints[i] = repaint.paint;
            }
        }
        paints
    }

    /// For every ink the one it counts as: itself, unless it was merged into another.
    #[must_use]
    pub(crate) fn counts_as(&self, choice: &InkChoice) -> Vec<InkId> {
        let mut counts: Vec<usize> = (0..self.inks.len()).collect();
        // In the order in which they were merged: what was merged into an ink goes on with it.
        for merge in &choice.merged {
            if let (Some(from), Some(into)) = (self.ink_of(merge.colour), self.ink_of(merge.into)) {
                let (from, into) = (counts[from], counts[into]);
                for counted in &mut counts {
                    if *counted == from {
                        *counted = into;
                    }
                }
            }
        }
        counts.into_iter().map(|i| InkId(i as u8)).collect()
    }

    /// Whether it is tones of a picture with gradients.
    #[must_use]
    pub fn is_tones(&self) -> bool {
        self.inks.iter().any(|ink| ink.tone.is_some())
    }

    /// Whether no ink holds more than half of the picture's border: then all of them are art. Of two
    /// tones one always is the ground.
    #[must_use]
    pub(crate) fn is_full_bleed(&self) -> bool {
        let all: usize = self.inks.iter().map(|ink| ink.border_px).sum();
        let most = self.inks.iter().map(|ink| ink.border_px).max();
        matches!(self.field, EdgeField::Colours { .. }) && 2 * most.unwrap_or(0) <= all
    }

    /// The ink that is the ground, if any.
    #[must_use]
    pub fn background(&self, choice: Background) -> Option<usize> {
        let clear = self.inks.iter().position(|ink| ink.clear);
        // Transparency that something encloses was cleared there; around it there is another ground.
        let around = clear.filter(|&i| self.inks[i].border_px > 0);
        let named = || (0..self.inks.len()).filter(|&i| !self.inks[i].enclosed);
        match choice {
            Background::None => clear,
            Background::Auto if around.is_some() || self.is_tones() => around,
            // A screen is black on white, however much of it is black.
            Background::Auto if self.is_made() => Some(0),
            Background::Auto => {
                let most = |i: &usize| (self.inks[*i].border_px, std::cmp::Reverse(*i));
                named().max_by_key(most).filter(|_| !self.is_full_bleed())
            }
            Background::Colour { colour } => named().min_by(|&a, &b| {
                let d = |i: usize| difference(self.inks[i].colour, colour);
                d(a).total_cmp(&d(b))
            }),
        }
    }
}
