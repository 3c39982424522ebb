//! What forms and scripts send that serde does not read from text by itself: boxes, lists, places.
//!
//! Buttons and lists send words that the page wrote, so what cannot be read is a page out of date: it is
//! refused as a whole. What people type stays text until it is read by [`crate::typed`].

use std::fmt::Display;
use std::str::FromStr;

use serde::de::Error;
use serde::{Deserialize, Deserializer};

/// A box that is ticked or not; one that is not is not sent.
#[derive(Clone, Copy, Debug, Default, Deserialize)]
pub(crate) enum Tick {
    #[default]
    #[serde(rename = "off", alias = "false", alias = "")]
    Off,
    #[serde(rename = "on", alias = "true", alias = "yes")]
    On,
}

impl Tick {
    pub(crate) const fn is_on(self) -> bool {
        matches!(self, Self::On)
    }
}

/// Yes, no, or as the material says.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum YesNo {
    Auto,
    Yes,
    No,
}

impl YesNo {
    /// What was chosen; `None` is as the material says.
    pub(crate) const fn chosen(self) -> Option<bool> {
        match self {
            Self::Auto => None,
            Self::Yes => Some(true),
            Self::No => Some(false),
        }
    }
}

/// A number in a form: serde buffers fields as text where they lie flat beside others.
pub(crate) fn parsed<'de, D, T>(form: D) -> Result<T, D::Error>
where
    D: Deserializer<'de>,
    T: FromStr<Err: Display>,
{
    let text = String::deserialize(form)?;
    text.trim().parse().map_err(D::Error::custom)
}

/// Something chosen from a list, where the empty choice is none.
pub(crate) fn chosen<'de, D, T>(form: D) -> Result<Option<T>, D::Error>
where
    D: Deserializer<'de>,
    T: serde::de::DeserializeOwned,
{
    let text = String::deserialize(form)?;
    if text.is_empty() {
        return Ok(None);
    }
    let word: serde::de::value::StringDeserializer<D::Error> =
        serde::de::IntoDeserializer::into_deserializer(text);
    T::deserialize(word).map(Some)
}

/// Things with commas between them.
#[derive(Clone, Debug)]
pub(crate) struct List<T>(pub(crate) Vec<T>);

impl<'de, T: FromStr<Err: Display>> Deserialize<'de> for List<T> {
    fn deserialize<D: Deserializer<'de>>(form: D) -> Result<Self, D::Error> {
        let text = String::deserialize(form)?;
        let words = text.split(',').map(str::trim).filter(|w| !w.is_empty());
        let list: Result<_, D::Error> =
            words.map(|w| w.parse().map_err(D::Error::custom)).collect();
        list.map(Self)
    }
}

/// So many finite figures with commas between them: places and lines on the bench, mm.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Figures<const N: usize>(pub(crate) [f64; N]);

impl<'de, const N: usize> Deserialize<'de> for Figures<N> {
    fn deserialize<D: Deserializer<'de>>(form: D) -> Result<Self, D::Error> {
        let List(figures) = List::<f64>::deserialize(form)?;
        if figures.iter().any(|f| !f.is_finite()) {
            return Err(D::Error::custom("a figure is not finite"));
        }
        let count = figures.len();
        let all = figures.try_into();
        all.map(Self)
            .map_err(|_| D::Error::custom(format!("{count} figures where {N} are asked for")))
    }
}
