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
    /// Whether it may be made more coarsely, since a control still moves.
    pub draft: bool,
}

impl Asked {
    /// The same more coarsely, where that is quicker: what a control shows while it still moves.
    #[must_use]
    pub fn draft(self) -> Self {
        let quicker = self.tones.is_some() || self.screen.is_some() || self.rim.is_some();
        Self {
            draft: quicker,
            ..self
        }
    }

    /// What is asked before a rim is made and parts of the ground are kept: the same for every rim.
    #[must_use]
    pub fn before_rim(&self) -> Self {
        Self {
            rim: None,
            enclosed: Vec::new(),
            draft: self.draft && self.rim.is_none(),
            ..self.clone()
        }
    }
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
            draft: false,
        }
    }
}
