//! The stages of a trace, each kept under a key of exactly what it depends on.
//!
//! ```text
//!   artwork (original) ─► solid (+ ink mode) ─► bounded (+ smallest part, px²; merged inks)
//!                                                  └► fitted (+ size, tolerance, corner, smoothing) ─► outcome
//! ```

use std::num::NonZeroUsize;
use std::sync::Arc;

use inky_core::boundary::{self, Bounded};
use inky_core::fit::{self, FittedMap};
use inky_core::inks::{self, Solid};
use inky_core::recipe::Recipe;
use inky_core::settings::{self, Settings};
use inky_core::shapes::Design;
use inky_core::stop::Stop;
use inky_core::trace;
use inky_formats::picture::{self, Artwork};
use inky_store::{JobId, Store};
use sha2::{Digest, Sha256};

use super::shelf::Shelf;
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
    pub(crate) arrived: Arc<Arrived>,
    pub(crate) solid: Arc<Solid>,
    pub(crate) bounded: Arc<Bounded>,
    pub(crate) settings: Settings,
    pub(crate) design: Design,
}

/// The shelves.
pub(crate) struct Stages {
    store: Store,
    artworks: Shelf<Arrived>,
    solids: Shelf<Solid>,
    bounded: Shelf<Bounded>,
    fitted: Shelf<FittedMap>,
    outcomes: Shelf<Outcome>,
}

const fn room(count: usize) -> NonZeroUsize {
    match NonZeroUsize::new(count) {
        Some(n) => n,
        None => NonZeroUsize::MIN,
    }
}

fn digest(parts: &[&str]) -> String {
    let mut hash = Sha256::new();
    for part in parts {
        hash.update(part.as_bytes());
        hash.update([0]);
    }
    hash.finalize()
        .iter()
        .take(16)
        .map(|b| format!("{b:02x}"))
        .collect()
}

impl Stages {
    pub(super) fn new(store: Store) -> Self {
        Self {
            store,
            artworks: Shelf::new(room(4)),
            solids: Shelf::new(room(6)),
            bounded: Shelf::new(room(6)),
            fitted: Shelf::new(room(8)),
            outcomes: Shelf::new(room(48)),
        }
    }

    pub(crate) fn artwork(&self, job: JobId) -> Result<Arc<Arrived>, WebError> {
        self.artworks.get_or_make(&job.to_string(), || {
            let original = self.store.original(job)?;
            Ok(Arrived {
                sha256: original.sha256,
                artwork: picture::read(&original.bytes)?,
            })
        })
    }

    pub(super) fn kept(&self, key: &str) -> Option<Arc<Outcome>> {
        self.outcomes.get(key)
    }

    pub(super) fn outcome(
        &self,
        job: JobId,
        recipe: &Recipe,
        stop: &Stop,
    ) -> Result<Arc<Outcome>, WebError> {
        stop.check()?;
        let arrived = self.artwork(job)?;
        let key = digest(&[&arrived.sha256, &serde_json::to_string(recipe)?]);
        self.outcomes
            .get_or_make(&key, || self.make(&key, arrived, recipe, stop))
    }

    fn make(
        &self,
        key: &str,
        arrived: Arc<Arrived>,
        recipe: &Recipe,
        stop: &Stop,
    ) -> Result<Outcome, WebError> {
        recipe.check().map_err(|e| WebError::Field {
            field: "notice",
            message: e.to_string(),
        })?;
        let mode = recipe.inks.mode();
        let solid_key = digest(&[&arrived.sha256, &serde_json::to_string(&mode)?]);
        let picture = &arrived.artwork.picture;
        let solid = self
            .solids
            .get_or_make(&solid_key, || inks::separate(picture, mode, stop))?;
        let settings = settings::settings(recipe, &solid);
        let bounded_key = digest(&[&solid_key, &settings.min_part_px.to_string()]);
        let bounded = self.bounded.get_or_make(&bounded_key, || {
            boundary::map(&solid, settings.min_part_px, stop)
        })?;
        let (bounded, bounded_key) = if recipe.inks.merged.is_empty() {
            (bounded, bounded_key)
        } else {
            let merges = serde_json::to_string(&recipe.inks.merged)?;
            let key = digest(&[&bounded_key, &merges]);
            let merge = || trace::merged(recipe, &solid, &bounded);
            let merged = self.bounded.get_or_make::<WebError>(&key, || {
                Ok(merge().unwrap_or_else(|| bounded.as_ref().clone()))
            })?;
            (merged, key)
        };
        let (placement, held) = (settings.placement, settings.fit);
        let fitted_key = digest(&[&bounded_key, &format!("{placement:?} {held:?}")]);
        let fitted = self.fitted.get_or_make(&fitted_key, || {
            fit::fit(&bounded.map, placement, held, stop)
        })?;
        let centre = trace::centre_lines(recipe, &solid, &bounded, &settings, stop)?;
        let design = trace::design(recipe, &solid, &bounded, &fitted, centre.as_ref());
        Ok(Outcome {
            key: key.to_owned(),
            solid_key: digest(&[
                &bounded_key,
                &serde_json::to_string(&recipe.inks.repainted)?,
            ]),
            arrived,
            solid,
            bounded,
            settings,
            design,
        })
    }
}
