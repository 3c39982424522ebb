//! All that a solid picture depends on besides the pixels.

use serde::Serialize;

use crate::clean::Frame;
use crate::inks::{InkMode, Rgb, RimKind};
use crate::recipe::Recipe;

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
}

impl From<InkMode> for Asked {
    fn from(mode: InkMode) -> Self {
        Self {
            mode,
            added: Vec::new(),
            rim: None,
            enclosed: Vec::new(),
        }
    }
}

impl Recipe {
    /// What the recipe asks of the inks of the cleaned artwork with this frame.
    #[must_use]
    pub fn asked(&self, frame: &Frame) -> Asked {
        let inks = &self.inks;
        let one_tone = matches!(inks.mode, InkMode::Mono { .. });
        let rim = inks.rim.filter(|rim| one_tone && rim.width.get() > 0.0);
        let part = |at: [f64; 2]| {
            let p = frame.to(at);
            [p.x / f64::from(frame.width), p.y / f64::from(frame.height)]
        };
        Asked {
            mode: inks.mode,
            added: if one_tone {
                Vec::new()
            } else {
                inks.added.clone()
            },
            rim: rim.map(|rim| (rim.kind, rim.width.get() / self.size.width.get())),
            enclosed: inks.enclosed.iter().map(|&at| part(at)).collect(),
        }
    }
}
