//! A recipe while it is changed by the controls of Layers and Size, and what there is to go by.

use std::sync::Arc;

use inky_core::inks::Rgb;
use inky_core::layers::LayerChoice;
use inky_core::material::Material;
use inky_core::recipe::Recipe;
use inky_core::tidy::Edit;
use inky_core::units::Unit;
use inky_store::Store;

use crate::error::{WebError, wrong};
use crate::job::request::Base;
use crate::job::saving::carry_edits;
use crate::materials::stocked;
use crate::refusal::Refusal;
use crate::workshop::Outcome;

/// A recipe that is changed.
pub(crate) struct Changing {
    pub(crate) recipe: Recipe,
    /// What it gave before.
    pub(crate) outcome: Arc<Outcome>,
    pub(crate) unit: Unit,
    store: Store,
}

impl Changing {
    /// The recipe after `change`, which gives the name of the step; a refusal of the whole lands beside
    /// `field`.
    pub(crate) fn done(
        (base, store): (Base, Store),
        field: &'static str,
        change: impl FnOnce(&mut Self) -> Result<String, WebError>,
    ) -> Result<(Recipe, String), WebError> {
        let old = base.recipe.clone();
        let mut changing = Self {
            recipe: base.recipe,
            outcome: base.outcome,
            unit: base.unit,
            store,
        };
        let name = change(&mut changing)?;
        let mut recipe = changing.recipe;
        recipe.check().map_err(|e| e.beside(field))?;
        if recipe.size != old.size {
            carry_edits(&old, &mut recipe);
        }
        Ok((recipe, name))
    }

    pub(crate) const fn layers(&mut self) -> &mut LayerChoice {
        &mut self.recipe.layers
    }

    pub(crate) fn edit(&mut self, edit: Edit) {
        self.recipe = self.recipe.with_edit(edit);
    }

    /// The shop's materials, as they are now.
    pub(crate) fn stocked(&self) -> Result<Vec<Material>, WebError> {
        let all = stocked::all(&self.store)?;
        Ok(all.into_iter().map(|m| m.material).collect())
    }

    /// A material by its name: one that the job has, else the shop's.
    pub(crate) fn material(&self, name: &str) -> Result<Material, WebError> {
        let kept = self.recipe.layers.materials.iter();
        if let Some(found) = kept.clone().find(|m| m.name == name) {
            return Ok(found.clone());
        }
        let found = self.stocked()?.into_iter().find(|m| m.name == name);
        found.ok_or_else(|| {
            wrong(
                "layers",
                format!("there is no material called {name} any more"),
            )
        })
    }

    /// The inks of the layers as they are built, from the bottom.
    pub(crate) fn order(&self) -> Vec<Rgb> {
        let built = &self.outcome.checked().built;
        built.layers.iter().map(|l| l.colour).collect()
    }
}
