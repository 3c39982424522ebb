//! All that a solid picture depends on besides the pixels.

use serde::Serialize;

use crate::inks::{InkMode, Rgb, RimKind, screen, tones};

/// What is asked of the inks of one picture; places and widths as parts of it, so that a reduced
/// copy of the picture can be asked the same.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Asked {
    /// One tone or several inks.
    pub mode: InkMode,
    /// Colours that were pointed at and are inks in any case.
    pub added: Vec<Rgb>,
    /// With one tone: only a band along its edge, or the shape pulled in; width as a part of the
    /// picture's.
    pub rim: Option<(RimKind, f64)>,
    /// Places in parts of the ground that are enclosed and kept, as parts of width and height.
    pub enclosed: Vec<[f64; 2]>,
    /// With tones or a silhouette: how they are made.
    pub tones: Option<tones::Asked>,
    /// With rows or dots: how they are drawn.
    pub screen: Option<screen::Asked>,
}

impl From<InkMode> for Asked {
    fn from(mode: InkMode) -> Self {
        Self {
            mode,
            added: Vec::new(),
            rim: None,
            enclosed: Vec::new(),
            tones: None,
            screen: None,
        }
    }
}
