//! What a piece of lettering says and how it is set, so that it can be changed later.

use serde::{Deserialize, Serialize};

/// A line of lettering. Its outlines are kept beside it; a change sets it anew.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TextLine {
    /// What it says.
    pub words: String,
    /// The face, by its name.
    pub face: String,
    /// Height of a capital, mm.
    pub cap_height: f64,
    /// Added between letters, mm.
    #[serde(default)]
    pub spacing: f64,
    /// Radius of the arc that the baseline follows, mm: positive arches up, negative sags, nought
    /// is straight.
    #[serde(default)]
    pub radius: f64,
    /// The middle of the baseline, mm.
    pub at: [f64; 2],
}
