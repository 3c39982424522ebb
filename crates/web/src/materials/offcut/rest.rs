//! What a sheet leaves of a plate, kept as the next piece of its material.

use inky_core::sheet::{Rest, Sheet};
use inky_core::stock::{Stock, StockKind};
use inky_formats::{offcut, picture};
use inky_store::{MaterialId, Store};

use super::piece::{FIELD, Found, Piece, figure_of};
use crate::error::{WebError, wrong};
use crate::materials::stocked;
use crate::refusal::Refusal;

/// What was kept.
pub(crate) struct Kept {
    pub(crate) material: MaterialId,
    pub(crate) name: String,
}

/// Keeps what is left of a sheet's stock; an offcut that was used gives its place to it.
pub(crate) fn keep(store: &Store, sheet: &Sheet) -> Result<Kept, WebError> {
    let rest = sheet.rest();
    let rest = rest.ok_or_else(|| wrong("sheet", "nothing to speak of is left of this stock"))?;
    let all = stocked::all(store)?;
    let listed = all
        .into_iter()
        .find(|m| m.material.name == sheet.material.name);
    let mut listed = listed.ok_or_else(|| {
        let gone = format!(
            "the shop has no material called {} any more",
            sheet.material.name
        );
        wrong("sheet", gone)
    })?;
    let stocks = &mut listed.material.stocks;
    let alike = |s: &&Stock| {
        let shape = s.shape.as_ref();
        shape.is_some_and(|s| s.outer == rest.shape.outer && s.holes == rest.shape.holes)
    };
    if let Some(known) = stocks.iter().find(alike) {
        return Ok(Kept {
            material: listed.id,
            name: known.name.clone(),
        });
    }
    let stock = stock(store, listed.id, sheet, &rest)?;
    stock.check().map_err(figure_of)?;
    let name = stock.name.clone();
    let used = stocks
        .iter()
        .position(|s| *s == sheet.stock && s.kind == StockKind::Offcut);
    match used {
        Some(n) => stocks[n] = stock,
        None => stocks.push(stock),
    }
    listed.material.check().map_err(|e| e.beside(FIELD))?;
    store.change_material(listed.id, &serde_json::to_string(&listed.material)?)?;
    Ok(Kept {
        material: listed.id,
        name,
    })
}

fn stock(
    store: &Store,
    material: MaterialId,
    sheet: &Sheet,
    rest: &Rest,
) -> Result<Stock, WebError> {
    let b = rest.shape.bounds();
    let used = &sheet.stock;
    let name = match used.name.as_str() {
        "" => "Rest".to_owned(),
        name if name.ends_with("rest") => name.to_owned(),
        name => format!("{name}, rest"),
    };
    let mut stock = Stock {
        name: name.clone(),
        kind: StockKind::Offcut,
        width: b.width(),
        length: b.height(),
        margin: used.margin,
        shape: None,
    };
    let picture = used.shape.as_ref().and_then(|s| s.picture);
    let picture = picture.map(|id| store.offcut_picture(id)).transpose()?;
    let picture = picture.flatten().filter(|file| !file.is_empty());
    let mut shape = rest.shape.clone();
    if let Some(file) = picture {
        let whole = picture::read(&file)?.picture;
        let part = rest.of_picture(&whole, [used.width, used.length]);
        let file = offcut::photograph(&part).map_err(|e| WebError::Internal(e.to_string()))?;
        let found = Found {
            shape: shape.clone(),
            off: 0.0,
        };
        let piece = Piece::kept_already(material, name, found);
        shape.picture = Some(store.add_offcut(&serde_json::to_string(&piece)?, &[], &file)?);
    }
    stock.shape = Some(shape);
    Ok(stock)
}
