//! What a sheet leaves of a plate, kept as the next piece of its material.

use inky_core::picture::Picture;
use inky_core::sheet::{Rest, Sheet};
use inky_core::stock::{Stock, StockKind};
use inky_formats::{offcut, picture};
use inky_store::{MaterialId, Store};
use kurbo::Rect;

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
    let stock = stock(store, listed.id, sheet, rest)?;
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
    rest: Rest,
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
    let whole = used
        .shape
        .as_ref()
        .and_then(|s| Some((s.picture?, s.bounds())));
    let mut shape = rest.shape;
    if let Some((id, whole)) = whole
        && let Some(file) = store.offcut_picture(id)?.filter(|f| !f.is_empty())
    {
        let part = Rect::from_origin_size(rest.at, (b.width(), b.height()));
        let cut = cropped(&picture::read(&file)?.picture, whole, part);
        let file = offcut::photograph(&cut).map_err(|e| WebError::Internal(e.to_string()))?;
        let piece = Piece::kept_already(
            material,
            name,
            Found {
                shape: shape.clone(),
                off: 0.0,
            },
        );
        shape.picture = Some(store.add_offcut(&serde_json::to_string(&piece)?, &[], &file)?);
    }
    stock.shape = Some(shape);
    Ok(stock)
}

/// The part of a picture that fills `whole` which lies in `part`, mm.
fn cropped(picture: &Picture, whole: Rect, part: Rect) -> Picture {
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let column = |mm: f64| ((mm / whole.width() * w as f64).round().max(0.0) as usize).min(w - 1);
    let row = |mm: f64| ((mm / whole.height() * h as f64).round().max(0.0) as usize).min(h - 1);
    let (x0, y0) = (column(part.x0), row(part.y0));
    let (x1, y1) = (column(part.x1).max(x0), row(part.y1).max(y0));
    let rows = picture.pixels().chunks(w).take(y1 + 1).skip(y0);
    let pixels = rows.flat_map(|r| r[x0..=x1].iter().copied()).collect();
    let side = |from: usize, to: usize| (to - from + 1) as u32;
    Picture::new(side(x0, x1), side(y0, y1), pixels).unwrap_or_else(|_| picture.clone())
}
