//! Stored: a drawing as JSON, exact to the last digit.

use serde::{Deserialize, Serialize};

use crate::inks::{InkId, Rgb};
use crate::tidy::drawing::{Drawing, Item, ItemId, Kind, Path};
use crate::tidy::path_data::{PathData, PathDataError};
use crate::tidy::text::TextLine;

/// An item as it is stored and sent.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct ItemData {
    /// Its number.
    pub id: ItemId,
    /// Its ink.
    pub ink: u8,
    /// The group it belongs to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub group: Option<u32>,
    /// Width of the pen of a line, mm; a shape has none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pen: Option<f64>,
    /// Its paths.
    pub paths: Vec<PathData>,
    /// How far each segment of each path lies off the artwork's edge, mm.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub strayed: Vec<Vec<f32>>,
    /// What it says, where it is text.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub text: Option<TextLine>,
}

/// A drawing as it is stored.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct DrawingData {
    /// The items.
    pub items: Vec<ItemData>,
    /// Colours of inks that the artwork does not have.
    #[serde(default)]
    pub added_inks: Vec<Rgb>,
    /// Inks of the artwork.
    pub artwork_inks: usize,
    /// The next number.
    pub next: ItemId,
}

impl ItemData {
    /// An item as it is stored.
    #[must_use]
    pub fn of(item: &Item) -> Self {
        Self {
            id: item.id,
            ink: item.ink.0,
            group: item.group,
            pen: match item.kind {
                Kind::Line { pen } => Some(pen),
                Kind::Shape => None,
            },
            paths: item
                .paths
                .iter()
                .map(|p| PathData::of(&p.segments, p.closed))
                .collect(),
            strayed: item.paths.iter().map(|p| p.strayed.clone()).collect(),
            text: item.text.clone(),
        }
    }

    fn item(&self) -> Result<Item, PathDataError> {
        let path = |(n, data): (usize, &PathData)| -> Result<Path, PathDataError> {
            let mut path = Path::new(data.segments()?, data.closed);
            if let Some(strayed) = self.strayed.get(n)
                && strayed.len() == path.segments.len()
            {
                path.strayed.clone_from(strayed);
            }
            Ok(path)
        };
        Ok(Item {
            id: self.id,
            ink: InkId(self.ink),
            group: self.group,
            kind: self.pen.map_or(Kind::Shape, |pen| Kind::Line { pen }),
            paths: self
                .paths
                .iter()
                .enumerate()
                .map(path)
                .collect::<Result<_, _>>()?,
            text: self.text.clone(),
        })
    }
}

impl DrawingData {
    /// A drawing as it is stored.
    #[must_use]
    pub fn of(drawing: &Drawing) -> Self {
        Self {
            items: drawing.items.iter().map(ItemData::of).collect(),
            added_inks: drawing.added_inks.clone(),
            artwork_inks: drawing.artwork_inks,
            next: drawing.next,
        }
    }

    /// The drawing that was stored.
    ///
    /// # Errors
    /// [`PathDataError`] where a path is none.
    pub fn drawing(&self) -> Result<Drawing, PathDataError> {
        Ok(Drawing {
            items: self
                .items
                .iter()
                .map(ItemData::item)
                .collect::<Result<_, _>>()?,
            added_inks: self.added_inks.clone(),
            artwork_inks: self.artwork_inks,
            next: self.next,
        })
    }
}
