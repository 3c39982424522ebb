//! What is changed of a piece, one change each.

use inky_core::units::Unit;
use inky_store::{OffcutId, Store};
use serde::Deserialize;

use super::piece::{FIELD, Flaw, Piece, figure_of, name, one};
use crate::error::{WebError, wrong};
use crate::form::{Figures, parsed};
use crate::materials::stocked;
use crate::refusal::Refusal;
use crate::typed::{mm, mm_or_none};

/// A change of a piece.
#[derive(Debug, Deserialize)]
#[serde(tag = "do", rename_all = "kebab-case")]
pub(super) enum Change {
    /// What it is called.
    Name { value: String },
    /// How far parts stay away from its edges.
    Margin { value: String },
    /// Which sheet lies beside it; it is looked for anew.
    Paper { value: String },
    /// Where the sheet lies, x and y of its four corners, px with commas between; it is looked for anew.
    Corners { value: Figures<8> },
    /// The sheet was found at the wrong place: its corners are to be pointed at.
    Point,
    /// A place that nobody may cut in.
    Flaw {
        x: String,
        y: String,
        across: String,
    },
    /// The nth flaw is none.
    FlawOff {
        #[serde(deserialize_with = "parsed")]
        value: usize,
    },
    /// The nth hole that was found is none.
    HoleOff {
        #[serde(deserialize_with = "parsed")]
        value: usize,
    },
}

impl Change {
    /// Does what is asked for and keeps it; the piece as it is now.
    pub(super) fn apply(self, store: &Store, id: OffcutId, unit: Unit) -> Result<Piece, WebError> {
        let mut piece = one(store, id)?;
        let mut picture = None;
        if piece.kept {
            let kept = "this piece is among the stock already; take it out there";
            return Err(wrong(FIELD, kept));
        }
        match self {
            Self::Name { value } => {
                piece.name = name(&value);
            }
            Self::Margin { value } => {
                let margin = mm_or_none(FIELD, &value, unit)?;
                let told = inky_core::limits::within("a margin", margin, &(0.0..=500.0), "mm");
                told.map_err(figure_of)?;
                piece.margin = margin;
            }
            Self::Paper { value } => {
                piece.paper = value;
                piece.corners = None;
                picture = look(store, id, &mut piece)?;
            }
            Self::Corners { value } => {
                let Figures([a, b, c, d, e, f, g, h]) = value;
                piece.corners = Some([[a, b], [c, d], [e, f], [g, h]]);
                picture = look(store, id, &mut piece)?;
            }
            Self::Point => {
                piece.found = None;
                "Point at the sheet's four corners.".clone_into(&mut piece.trouble);
            }
            Self::Flaw { x, y, across } => piece.add_flaw(Flaw {
                x: mm_or_none(FIELD, &x, unit)?,
                y: mm_or_none(FIELD, &y, unit)?,
                across: mm(FIELD, &across, unit)?,
            })?,
            Self::FlawOff { value } => {
                taken_out(&mut piece.flaws, value);
            }
            Self::HoleOff { value } => {
                if let Some(found) = &mut piece.found {
                    taken_out(&mut found.shape.holes, value);
                }
            }
        }
        store.change_offcut(id, &serde_json::to_string(&piece)?, picture.as_deref())?;
        Ok(piece)
    }
}

/// Takes the nth out, where it is not gone already.
fn taken_out<T>(all: &mut Vec<T>, nth: usize) {
    if nth < all.len() {
        all.remove(nth);
    }
}

fn look(store: &Store, id: OffcutId, piece: &mut Piece) -> Result<Option<Vec<u8>>, WebError> {
    let photograph = store.offcut_photograph(id)?.ok_or(WebError::NoPage)?;
    piece.look(&photograph)
}

/// Puts a piece among the stock of its material.
pub(super) fn keep(store: &Store, id: OffcutId) -> Result<Piece, WebError> {
    let mut piece = one(store, id)?;
    if !piece.kept {
        kept(store, id, &piece)?;
        piece.kept = true;
        store.change_offcut(id, &serde_json::to_string(&piece)?, None)?;
        store.settle_offcut(id)?;
    }
    Ok(piece)
}

/// Adds a piece to the stock of its material.
pub(super) fn kept(store: &Store, id: OffcutId, piece: &Piece) -> Result<(), WebError> {
    let stock = piece.stock(id);
    let stock = stock.ok_or_else(|| wrong(FIELD, "the piece is not found yet"))?;
    stock.check().map_err(figure_of)?;
    let mut listed = stocked::one(store, piece.material)?;
    listed.material.stocks.push(stock);
    listed.material.check().map_err(|e| e.beside(FIELD))?;
    store.change_material(listed.id, &serde_json::to_string(&listed.material)?)?;
    Ok(())
}
