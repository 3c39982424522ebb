//! Words of a form that stand for one of a few things.

use serde::de::value::{Error, StrDeserializer};
use serde::de::{DeserializeOwned, IntoDeserializer};

use crate::error::{WebError, wrong};

/// What a word stands for, by the names that serde gives; the refusal is told beside `field`.
pub(crate) fn word<T: DeserializeOwned>(field: &'static str, text: &str) -> Result<T, WebError> {
    let text_of: StrDeserializer<'_, Error> = text.into_deserializer();
    let unknown = |_| {
        wrong(
            field,
            format!("'{text}' is not known here; reload the page"),
        )
    };
    T::deserialize(text_of).map_err(unknown)
}
