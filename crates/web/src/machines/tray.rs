//! The tray of the printer that ships with the program.

use actix_web::{HttpResponse, get, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::picture::Picture;
use inky_core::units::Unit;
use inky_devices::printer::{Print, Sheet};
use inky_formats::png;
use inky_store::MachineId;

use crate::Shop;
use crate::error::WebError;
use crate::machines::kept::{self, Kind, Listed};
use crate::machines::now;
use crate::reader::Reader;

/// What lies in it.
pub(crate) struct Tray {
    pub(crate) machine: MachineId,
    pub(crate) sheets: Vec<SheetShown>,
    /// Whether something is still printed.
    pub(crate) busy: bool,
}

/// A sheet, the latest first.
pub(crate) struct SheetShown {
    /// Address of its picture; empty where nothing was printed.
    pub(crate) picture: String,
    pub(crate) size: String,
    pub(crate) told: String,
}

/// How long what was sent may be on its way, ms.
const ON_ITS_WAY: i64 = 3000;

/// The tray of a machine, where it is the printer that ships with the program.
pub(super) fn of(shop: &Shop, listed: &Listed, unit: Unit) -> Option<Tray> {
    let one = shop.simulated.of(&listed.machine)?;
    if listed.machine.kind != Kind::Printer {
        return None;
    }
    let (sheets, busy) = one.tray();
    // What was just sent may still be on its way to it.
    let ended = shop.store.ended_runs(listed.id, 1).ok()?.pop();
    let just_sent = ended
        .and_then(|run| run.ended)
        .is_some_and(|at| now() - at < ON_ITS_WAY);
    let busy = busy || just_sent;
    let shown = sheets.iter().enumerate().rev().map(|(n, sheet)| {
        let [wide, long] = sheet.size.map(|mm| unit.length(mm, 0));
        let printed = sheet.print.is_some();
        SheetShown {
            picture: match printed {
                true => format!("/machines/{}/tray/{n}.png", listed.id),
                false => String::new(),
            },
            size: match printed {
                true => format!("{wide} × {long}"),
                false => String::new(),
            },
            told: sheet.told.clone(),
        }
    });
    Some(Tray {
        machine: listed.id,
        sheets: shown.collect(),
        busy,
    })
}

#[derive(Template, WebTemplate)]
#[template(path = "machines/_tray.html")]
struct TrayAlone {
    t: Tray,
}

#[get("/machines/{id}/tray")]
async fn tray(
    shop: web::Data<Shop>,
    id: web::Path<MachineId>,
    reader: Reader,
) -> Result<TrayAlone, WebError> {
    web::block(move || {
        let listed = kept::one(&shop.store, *id)?;
        let t = of(&shop, &listed, reader.0).ok_or(WebError::NoPage)?;
        Ok(TrayAlone { t })
    })
    .await?
}

#[get("/machines/{id}/tray/{n}.png")]
async fn print(
    shop: web::Data<Shop>,
    path: web::Path<(MachineId, usize)>,
) -> Result<HttpResponse, WebError> {
    let png = web::block(move || -> Result<_, WebError> {
        let (id, n) = path.into_inner();
        let listed = kept::one(&shop.store, id)?;
        let one = shop.simulated.of(&listed.machine).ok_or(WebError::NoPage)?;
        let sheet = one.tray().0.get(n).cloned().ok_or(WebError::NoPage)?;
        shown_png(&sheet)
    })
    .await??;
    Ok(HttpResponse::Ok()
        .content_type("image/png")
        .insert_header(("Cache-Control", "no-store"))
        .body(png))
}

/// What was printed, for the page.
pub(super) fn shown_png(sheet: &Sheet) -> Result<Vec<u8>, WebError> {
    let Print { pixels, rgba } = sheet.print.as_ref().ok_or(WebError::NoPage)?;
    let (pixel, _) = rgba.as_chunks::<4>();
    let internal = |e: &dyn std::fmt::Display| WebError::Internal(e.to_string());
    let picture = Picture::new(pixels[0], pixels[1], pixel.to_vec());
    let picture = picture.map_err(|e| internal(&e))?;
    png::write_thumbnail(&picture, SHOWN).map_err(|e| internal(&e))
}

/// Width and height of the picture of a sheet at most, px.
const SHOWN: u32 = 1400;

pub(super) fn routes(config: &mut web::ServiceConfig) {
    config.service(print).service(tray);
}
