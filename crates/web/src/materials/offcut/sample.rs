//! The demo's own odd piece: kept from the start, and a photograph to try it with.

use inky_core::stock::{Shaped, shaped};
use inky_demo::plate;
use inky_store::Store;

use super::asked::kept;
use super::piece::{Found, Piece};
use crate::error::WebError;
use crate::materials::stocked;

/// Puts the offcut of ply among the stock of the demo.
pub(crate) fn fill(store: &Store) -> Result<(), WebError> {
    let all = stocked::all(store)?;
    let Some(ply) = all.iter().find(|m| m.material.name.starts_with("Ply")) else {
        return Ok(());
    };
    let holes = plate::HOLES
        .iter()
        .map(|(middle, r)| shaped::disc(*middle, *r));
    let shape = Shaped {
        outer: plate::OUTLINE.to_vec(),
        holes: holes.collect(),
        picture: None,
    };
    let piece = Piece::kept_already(ply.id, "Offcut".to_owned(), Found { shape, off: 0.0 });
    let id = store.add_offcut(&serde_json::to_string(&piece)?, &[], &plate::picture())?;
    kept(store, id, &piece)
}
