//! Presses on the marks of a printed page: look for them, move the head, type a place, take a photograph.

use actix_multipart::form::MultipartForm;
use actix_multipart::form::tempfile::TempFile;
use actix_multipart::form::text::Text;
use actix_web::{HttpResponse, get, post, web};
use inky_core::print::bed::on_bed;
use inky_core::print::marks::MarkChoice;
use inky_core::print::seen::codes;
use inky_core::units::Unit;
use inky_formats::{picture, svg};
use inky_store::{MachineId, RunId};
use kurbo::{Rect, Vec2};
use serde::Deserialize;

use super::FIELD;
use super::find;
use crate::Shop;
use crate::error::{WebError, wrong};
use crate::machines::bench::BenchAlone;
use crate::machines::kept::{self, Listed};
use crate::machines::state::{Phase, Run};
use crate::machines::tray::shown_png;
use crate::reader::Reader;
use crate::typed::{mm, mm_or_none, place};

/// Does something to the marks of a run that has not begun, and shows the bench.
async fn changed(
    shop: web::Data<Shop>,
    id: RunId,
    unit: Unit,
    change: impl FnOnce(&Shop, &mut Listed, &mut Run) -> Result<(), WebError> + Send + 'static,
) -> Result<BenchAlone, WebError> {
    web::block(move || {
        let mut run = Run::one(&shop.store, id)?;
        let mut listed = kept::one(&shop.store, run.stored.machine)?;
        if run.state.phase != Phase::Ready || shop.under_way.of(listed.id).is_some() {
            return Err(wrong(
                FIELD,
                "The machine is at work: marks are looked for before a run begins.",
            ));
        }
        change(&shop, &mut listed, &mut run)?;
        BenchAlone::of(&shop, listed.id, unit)
    })
    .await?
}

/// Looks for all of them, with the machine's eye.
#[post("/runs/{id}/marks/look")]
async fn look(
    shop: web::Data<Shop>,
    id: web::Path<RunId>,
    reader: Reader,
) -> Result<BenchAlone, WebError> {
    changed(shop, *id, reader.0, |shop, listed, run| {
        find::by_eye(shop, listed, run, true)
    })
    .await
}

/// A step of the head.
#[derive(Deserialize)]
struct Step {
    /// How far, typed.
    #[serde(default)]
    step: String,
    /// Along the first and the second axis.
    #[serde(default, deserialize_with = "crate::form::parsed")]
    x: i8,
    #[serde(default, deserialize_with = "crate::form::parsed")]
    y: i8,
}

/// The head is moved; where it stands is taken for the mark's place.
#[post("/runs/{id}/marks/{number}/head")]
async fn head(
    shop: web::Data<Shop>,
    path: web::Path<(RunId, usize)>,
    form: web::Form<Step>,
    reader: Reader,
) -> Result<BenchAlone, WebError> {
    let (id, n) = path.into_inner();
    let unit = reader.0;
    let step = mm_or_none(FIELD, &form.step, unit)?;
    if !(0.0..=100.0).contains(&step) {
        let most = unit.length(100.0, 0);
        return Err(wrong(
            FIELD,
            format!("The head goes {most} at a step at most."),
        ));
    }
    let by = Vec2::new(f64::from(form.x), f64::from(form.y)) * step;
    changed(shop, id, unit, move |shop, listed, run| {
        find::by_hand(shop, listed, run, n, by)
    })
    .await
}

/// A place as it is typed.
#[derive(Deserialize)]
struct Typed {
    at: String,
}

/// A mark's place is typed.
#[post("/runs/{id}/marks/{number}")]
async fn typed(
    shop: web::Data<Shop>,
    path: web::Path<(RunId, usize)>,
    form: web::Form<Typed>,
    reader: Reader,
) -> Result<BenchAlone, WebError> {
    let (id, n) = path.into_inner();
    let text = form.at.trim();
    let at = match text {
        "" => None,
        _ => Some(place(FIELD, text, reader.0)?),
    };
    changed(shop, id, reader.0, move |shop, listed, run| {
        let at_stop = run.state.stop;
        let marks = run.stops.get(at_stop).and_then(|s| s.marks.clone());
        let mut marks = marks.ok_or(WebError::NoPage)?;
        *marks.found.get_mut(n).ok_or(WebError::NoPage)? = at;
        "by hand".clone_into(&mut marks.by);
        find::keep(shop, run, (marks, listed.machine.kind))
    })
    .await
}

#[derive(MultipartForm)]
struct Photograph {
    #[multipart(limit = "65 MiB")]
    file: TempFile,
    left: Text<String>,
    low: Text<String>,
    width: Text<String>,
    height: Text<String>,
}

/// The marks are found in a photograph of the bed.
#[post("/runs/{id}/marks/photograph")]
async fn photograph(
    shop: web::Data<Shop>,
    id: web::Path<RunId>,
    reader: Reader,
    upload: MultipartForm<Photograph>,
) -> Result<BenchAlone, WebError> {
    let unit = reader.0;
    let bed = [
        mm_or_none(FIELD, &upload.left.0, unit)?,
        mm_or_none(FIELD, &upload.low.0, unit)?,
        mm(FIELD, &upload.width.0, unit)?,
        mm(FIELD, &upload.height.0, unit)?,
    ];
    if !bed.iter().all(|v| (0.0..=10_000.0).contains(v)) || bed[2].min(bed[3]) < 50.0 {
        return Err(wrong(
            FIELD,
            "The bed's marks lie 50 mm apart at least, and not beside the machine.",
        ));
    }
    changed(shop, *id, unit, move |shop, listed, run| {
        let bytes = std::fs::read(upload.file.file.path())
            .map_err(|e| WebError::Internal(e.to_string()))?;
        let at_stop = run.state.stop;
        let marks = run.stops.get(at_stop).and_then(|s| s.marks.clone());
        let mut marks = marks.ok_or(WebError::NoPage)?;
        let artwork = picture::read(&bytes).map_err(|e| wrong(FIELD, e))?;
        let rect = Rect::new(bed[0], bed[1], bed[0] + bed[2], bed[1] + bed[3]);
        let count = marks.meant.len();
        // Another sheet is told whether its marks are found or not.
        let mut codes = match marks.code.is_empty() {
            true => Vec::new(),
            false => codes(&artwork.picture),
        };
        marks.told_by(&codes)?;
        let told = on_bed(&artwork.picture, &MarkChoice::default(), count, rect);
        let told = told.map_err(|e| wrong(FIELD, format!("{e}.")))?;
        if codes.is_empty() {
            codes.extend(marks.code_in(&artwork.picture, &told));
        }
        let known = marks.told_by(&codes)?;
        marks.found = told.found.into_iter().map(Some).collect();
        marks.by = format!(
            "from a photograph, within {}{known}",
            unit.length(told.off, 2)
        );
        if listed.machine.bed != Some(bed) {
            listed.machine.bed = Some(bed);
            kept::keep(&shop.store, listed)?;
        }
        find::keep(shop, run, (marks, listed.machine.kind))
    })
    .await
}

/// The four marks of a bed on an A4 page, to be printed in their true size, cut out and stuck on.
#[get("/machines/bed-marks.svg")]
async fn bed_marks() -> HttpResponse {
    HttpResponse::Ok()
        .content_type("image/svg+xml")
        .insert_header((
            "Content-Disposition",
            "attachment; filename=\"bed-marks.svg\"",
        ))
        .body(svg::bed_marks())
}

/// What lies on a simulated cutter.
#[get("/machines/{id}/lying.png")]
async fn lying(shop: web::Data<Shop>, id: web::Path<MachineId>) -> Result<HttpResponse, WebError> {
    let png = web::block(move || -> Result<_, WebError> {
        let listed = kept::one(&shop.store, *id)?;
        let one = shop.simulated.of(&listed.machine).ok_or(WebError::NoPage)?;
        let laid = one.laid().ok_or(WebError::NoPage)?;
        shown_png(&laid.sheet)
    });
    Ok(HttpResponse::Ok()
        .content_type("image/png")
        .insert_header(("Cache-Control", "no-store"))
        .body(png.await??))
}

pub(in crate::machines) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(look)
        .service(photograph)
        .service(head)
        .service(typed)
        .service(bed_marks)
        .service(lying);
}
