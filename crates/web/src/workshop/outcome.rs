//! What one recipe gives: everything a page needs to know of it.
//!
//! ```text
//!   Base (pictures) ─make─► Made (traced; the same for every edit) ─► Outcome ─edits─► Outcome
//! ```

use std::borrow::Cow;
use std::sync::{Arc, OnceLock};

use inky_core::agreement::Agreement;
use inky_core::assembly::{Built, build};
use inky_core::boundary::Bounded;
use inky_core::check::{self, Finding, Severity, Weeding};
use inky_core::clean::Cleaned;
use inky_core::fit::FittedMap;
use inky_core::inks::{EnclosedPart, Solid};
use inky_core::layers::LayerChoice;
use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::settings::Settings;
use inky_core::shapes::Design;
use inky_core::sheet::choice::SheetChoice;
use inky_core::tidy::{Changed, Drawing, ItemId};
use inky_core::worth::Worth;
use inky_formats::picture::Artwork;

use super::stages::digest;
use crate::error::WebError;

/// A job's artwork, decoded.
pub(crate) struct Arrived {
    /// SHA-256 of the original.
    pub(crate) sha256: String,
    pub(crate) artwork: Artwork,
}

/// All a page needs to know of one recipe's result.
pub(crate) struct Outcome {
    /// Names this result in addresses.
    pub(crate) key: String,
    /// Names its solid picture.
    pub(crate) solid_key: String,
    /// Names its cleaned artwork; that of the original where there is nothing to clean.
    pub(crate) cleaned_key: String,
    pub(crate) arrived: Arc<Arrived>,
    pub(crate) cleaned: Arc<Cleaned>,
    /// Whether it was made more coarsely to be there at once: from a copy with fewer pixels, on a coarser grid, or with
    /// edges in straight steps.
    pub(crate) reduced: bool,
    pub(crate) solid: Arc<Solid>,
    pub(crate) bounded: Arc<Bounded>,
    pub(crate) settings: Settings,
    pub(crate) design: Design,
    /// The outlines as items after the last edit, where some were edited, and what it made.
    pub(super) edited: Option<Arc<Changed>>,
    /// The curves of every edge of the artwork.
    pub(crate) fitted: Arc<FittedMap>,
    /// How many edits its outlines have had.
    pub(crate) edits: usize,
    /// What was chosen of layers and material.
    pub(crate) layers: LayerChoice,
    /// Its layers, and whether they can be cut, once they were asked for.
    checked: OnceLock<Checked>,
    /// What the artwork is worth; not for quick answers until it was measured once.
    pub(crate) worth: Option<Arc<Worth>>,
    /// How well the outlines agree with the artwork as it came; not for quick answers, nor for
    /// outlines that were edited.
    pub(crate) agreement: Option<Agreement>,
    /// Pixels of each tone; with several inks not for quick answers.
    pub(crate) tones: Option<[u64; 256]>,
    /// Enclosed parts of the ground that are not kept, the greatest first; not for quick answers.
    pub(crate) enclosed: Vec<EnclosedPart>,
}

/// Layers of a result, held against what their materials forgive.
pub(crate) struct Checked {
    pub(crate) built: Built,
    pub(crate) findings: Vec<Finding>,
    pub(crate) weeding: Weeding,
}

impl Checked {
    /// How many kinds of findings there are of the severities that `of` takes.
    pub(crate) fn kinds(&self, of: impl Fn(Severity) -> bool) -> usize {
        let found = self.findings.iter().filter(|f| of(f.severity()));
        let mut kinds: Vec<_> = found.map(|f| (f.kind, f.layer)).collect();
        kinds.dedup();
        kinds.len()
    }
}

impl Outcome {
    /// Its layers and what the checks find; made at the first call, which is not for the server's
    /// own threads.
    pub(crate) fn checked(&self) -> &Checked {
        self.checked.get_or_init(|| {
            let built = build(&self.design, &self.layers);
            let findings = check::check(&built, &self.layers);
            let weeding = check::weeding(&built);
            Checked {
                built,
                findings,
                weeding,
            }
        })
    }

    /// The same where it was made already.
    pub(crate) fn if_checked(&self) -> Option<&Checked> {
        self.checked.get()
    }

    /// The outlines as items.
    pub(crate) fn drawing(&self) -> Cow<'_, Drawing> {
        match &self.edited {
            Some(changed) => Cow::Borrowed(&changed.drawing),
            None => Cow::Owned(Drawing::of(&self.design)),
        }
    }

    /// What the last edit made, to be picked next.
    pub(crate) fn made(&self) -> &[ItemId] {
        self.edited.as_ref().map_or(&[], |changed| &changed.made)
    }
}

/// What an outcome is made from.
pub(super) struct Base {
    pub(super) key: String,
    /// The cleaned artwork, or a reduced copy of it.
    pub(super) picture: Picture,
    pub(super) picture_key: String,
    pub(super) cleaned_key: String,
    pub(super) arrived: Arc<Arrived>,
    pub(super) cleaned: Arc<Cleaned>,
    pub(super) reduced: bool,
    pub(super) quick: bool,
}

/// What is traced, before anything is edited: the same for every edit of it.
pub(super) struct Made {
    pub(super) solid_key: String,
    pub(super) solid: Arc<Solid>,
    pub(super) bounded: Arc<Bounded>,
    pub(super) settings: Settings,
    pub(super) design: Design,
    pub(super) fitted: Arc<FittedMap>,
    /// Whether its edges are drawn in straight steps instead of curves.
    pub(super) in_steps: bool,
    pub(super) worth: Option<Arc<Worth>>,
    pub(super) tones: Option<[u64; 256]>,
    pub(super) enclosed: Vec<EnclosedPart>,
    /// How well it agrees with the artwork, once that was asked: the same whatever layers are made of it.
    pub(super) agreement: OnceLock<Option<Agreement>>,
}

impl Base {
    /// What was made, as the outcome of a recipe without its edits.
    pub(super) fn outcome(self, made: &Made, recipe: &Recipe) -> Outcome {
        Outcome {
            worth: made.worth.clone(),
            agreement: None,
            tones: made.tones,
            enclosed: made.enclosed.clone(),
            key: self.key,
            cleaned_key: self.cleaned_key,
            cleaned: self.cleaned,
            reduced: self.reduced || made.in_steps,
            arrived: self.arrived,
            solid_key: made.solid_key.clone(),
            solid: Arc::clone(&made.solid),
            bounded: Arc::clone(&made.bounded),
            settings: made.settings.clone(),
            design: made.design.clone(),
            edited: None,
            fitted: Arc::clone(&made.fitted),
            edits: 0,
            layers: recipe.layers.clone(),
            checked: OnceLock::new(),
        }
    }

    /// Names what is traced: the picture, and all of the recipe that is asked before anything is edited.
    pub(super) fn made_key(&self, recipe: &Recipe) -> Result<String, WebError> {
        let plain = Recipe {
            layers: LayerChoice::default(),
            sheet: SheetChoice::default(),
            print: None,
            tidy: None,
            ..recipe.clone()
        };
        let quick = if self.quick { "quick" } else { "" };
        Ok(digest(&[
            &self.picture_key,
            quick,
            &serde_json::to_string(&plain)?,
            // Tones go by what the material allows and by how layers meet.
            &serde_json::to_string(&recipe.asked(&self.cleaned.frame).tones)?,
        ]))
    }
}
