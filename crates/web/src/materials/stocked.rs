//! The shop's materials as the jobs see them: read from the store, filled with the presets at first.

use inky_core::material::{Material, presets};
use inky_core::stock::Stock;
use inky_store::{MaterialId, OffcutId, Store, StoredMaterial};

use crate::error::WebError;

/// A material of the shop's list.
#[derive(Clone, Debug)]
pub(crate) struct Listed {
    pub(crate) id: MaterialId,
    pub(crate) retired: bool,
    pub(crate) material: Material,
    /// Odd pieces of it that are not kept yet.
    pub(crate) unkept: Vec<(OffcutId, String)>,
}

fn listed(stored: &StoredMaterial) -> Result<Listed, WebError> {
    Ok(Listed {
        id: stored.id,
        retired: stored.retired,
        material: serde_json::from_str(&stored.body)?,
        unkept: Vec::new(),
    })
}

/// Puts the presets into an empty list.
pub(crate) fn fill(store: &Store) -> Result<(), WebError> {
    if store.materials()?.is_empty() {
        let bodies: Result<Vec<String>, _> = presets().iter().map(serde_json::to_string).collect();
        store.add_materials(&bodies?)?;
    }
    Ok(())
}

/// All of them, retired ones too, by name.
pub(crate) fn all(store: &Store) -> Result<Vec<Listed>, WebError> {
    let all: Result<Vec<Listed>, WebError> = store.materials()?.iter().map(listed).collect();
    all
}

/// The stock a job can take of its material: what was listed when it took the material over, then what the shop has more of
/// it now.
pub(crate) fn offered(own: &Material, shop: &[Material]) -> Vec<Stock> {
    let mut all = own.stocks.clone();
    let same = shop.iter().filter(|m| m.name == own.name);
    for stock in same.flat_map(|m| &m.stocks) {
        if !all.contains(stock) {
            all.push(stock.clone());
        }
    }
    all
}

/// One by its number.
pub(crate) fn one(store: &Store, id: MaterialId) -> Result<Listed, WebError> {
    let all = self::all(store)?;
    all.into_iter().find(|m| m.id == id).ok_or(WebError::NoPage)
}

/// A name that no other material has.
pub(crate) fn free_name(all: &[Listed], wanted: &str) -> String {
    let taken = |name: &str| all.iter().any(|m| m.material.name == name);
    let mut name = wanted.to_owned();
    let mut n = 2;
    while taken(&name) {
        name = format!("{wanted} {n}");
        n += 1;
    }
    name
}
