//! What is changed of a piece, one change each.

use inky_core::units::Unit;
use inky_store::{OffcutId, Store};
use serde::Deserialize;

use super::piece::{FIELD, Flaw, Piece, figure_of, one};
use crate::error::{WebError, wrong};
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
    Corners { value: String },
    /// The sheet was found at the wrong place: its corners are to be pointed at.
    Point,
    /// A place that nobody may cut in.
    Flaw {
        x: String,
        y: String,
        across: String,
    },
    /// The nth flaw is none.
    FlawOff { value: String },
    /// The nth hole that was found is none.
    HoleOff { value: String },
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
                let name = value.chars().filter(|c| !c.is_control()).take(40);
                piece.name = name.collect::<String>().trim().to_owned();
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
                piece.corners = Some(corners(&value)?);
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
                let nth = nth(&value, piece.flaws.len());
                nth.map(|n| piece.flaws.remove(n));
            }
            Self::HoleOff { value } => {
                if let Some(found) = &mut piece.found {
                    let nth = nth(&value, found.shape.holes.len());
                    nth.map(|n| found.shape.holes.remove(n));
                }
            }
        }
        store.change_offcut(id, &serde_json::to_string(&piece)?, picture.as_deref())?;
        Ok(piece)
    }
}

/// A number of a list of so many; `None` where that is gone already.
fn nth(text: &str, count: usize) -> Option<usize> {
    text.parse().ok().filter(|n| *n < count)
}

fn look(store: &Store, id: OffcutId, piece: &mut Piece) -> Result<Option<Vec<u8>>, WebError> {
    let photograph = store.offcut_photograph(id)?.ok_or(WebError::NoPage)?;
    piece.look(&photograph)
}

fn corners(text: &str) -> Result<[[f64; 2]; 4], WebError> {
    let figures: Option<Vec<f64>> = text.split(',').map(|v| v.trim().parse().ok()).collect();
    let figures = figures.filter(|f| f.len() == 8 && f.iter().all(|v| v.is_finite()));
    let figures = figures.ok_or_else(|| wrong(FIELD, "point at all four corners of the sheet"))?;
    Ok(std::array::from_fn(|n| {
        [figures[2 * n], figures[2 * n + 1]]
    }))
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
