//! What edits go by: what was picked, the ink it gets, and why an edit was not done.

use serde::{Deserialize, Serialize};

use crate::inks::{InkId, Rgb};
use crate::limits::OutOfRange;
use crate::stones::TooMany;
use crate::tidy::drawing::{Drawing, Item, ItemId};
use crate::tidy::path_data::PathDataError;

/// An ink of the drawing by number, or a new one by its colour.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Pigment {
    /// One that is there.
    Ink(u8),
    /// One that the artwork does not have.
    Colour(Rgb),
}

/// Why an edit was not done.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
#[allow(missing_docs, reason = "each variant tells of its fields")]
pub enum EditError {
    /// An item that is not there.
    #[error("what was picked is no longer there; pick it again")]
    Gone,
    /// Too few items.
    #[error("{0}")]
    Pick(&'static str),
    /// It would leave nothing.
    #[error("nothing would be left; nothing was changed")]
    Nothing,
    /// Rings would cross.
    #[error("the outline would cross itself at {x:.2}, {y:.2} mm; nothing was changed")]
    Crosses { x: f64, y: f64 },
    /// A figure that cannot be used.
    #[error(transparent)]
    OutOfRange(#[from] OutOfRange),
    /// A path that is none.
    #[error(transparent)]
    Path(#[from] PathDataError),
    /// More stones than are set.
    #[error(transparent)]
    Stones(#[from] TooMany),
    /// No room for another ink.
    #[error("there are too many inks already; use one of them")]
    Inks,
    /// A node or segment that is not there, or cannot be treated so.
    #[error("{0}")]
    Node(&'static str),
}

/// Greatest number of inks.
const MOST_INKS: usize = 64;

impl Drawing {
    /// The items that were picked, in the order in which they lie.
    pub(super) fn picked<'a>(
        &'a mut self,
        ids: &'a [ItemId],
    ) -> impl Iterator<Item = &'a mut Item> {
        self.items.iter_mut().filter(|i| ids.contains(&i.id))
    }

    /// The number of an ink, which is added where it is new.
    pub(super) fn ink(&mut self, pigment: Pigment) -> Result<InkId, EditError> {
        match pigment {
            Pigment::Ink(n) if usize::from(n) < self.inks() => Ok(InkId(n)),
            Pigment::Ink(_) => Err(EditError::Pick("this ink is not there; choose another")),
            Pigment::Colour(colour) => {
                let known = self.added_inks.iter().position(|&c| c == colour);
                let n = known.unwrap_or(self.added_inks.len());
                if n == self.added_inks.len() {
                    self.added_inks.push(colour);
                }
                if self.inks() > MOST_INKS {
                    return Err(EditError::Inks);
                }
                Ok(InkId((self.artwork_inks + n) as u8))
            }
        }
    }
}
