//! The kerf of a material from a comb that was cut and measured.

use actix_web::{HttpResponse, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::plan::PlanChoice;
use inky_core::plan::page::Page;
use inky_core::sheet::comb::{self, FEWEST, Measured, WIDTHS};
use inky_core::units::Unit;
use inky_store::{MachineId, MaterialId, NewRun};
use serde::Deserialize;

use crate::Shop;
use crate::door::Person;
use crate::error::{WebError, wrong};
use crate::machines::{State, kept, now, stops, to};
use crate::materials::stocked;
use crate::reader::Reader;
use crate::text;
use crate::typed::mm;

/// The comb, and fields for what was measured.
#[derive(Template, WebTemplate)]
#[template(path = "materials/_kerf.html")]
struct Comb {
    id: MaterialId,
    unit: &'static str,
    /// Widths as drawn.
    widths: Vec<String>,
    machines: Vec<(MachineId, String)>,
}

#[get("/materials/{id}/kerf")]
async fn fields(
    shop: web::Data<Shop>,
    id: web::Path<MaterialId>,
    reader: Reader,
) -> Result<Comb, WebError> {
    web::block(move || {
        let tool = stocked::one(&shop.store, *id)?.material.tool;
        let machines = kept::usual_for(&shop.store, tool)?;
        let machines = machines.into_iter().filter(|m| m.machine.kind.holds(tool));
        Ok(Comb {
            id: *id,
            unit: reader.0.symbol(),
            widths: WIDTHS.map(|w| text::length(w, reader.0, 2)).to_vec(),
            machines: machines.map(|m| (m.id, m.machine.name)).collect(),
        })
    })
    .await?
}

#[derive(Deserialize)]
struct For {
    machine: MachineId,
}

/// The comb, into a machine's queue.
#[post("/materials/{id}/comb")]
async fn send(
    shop: web::Data<Shop>,
    id: web::Path<MaterialId>,
    form: web::Form<For>,
    person: Person,
) -> Result<HttpResponse, WebError> {
    let machine = form.machine;
    web::block(move || -> Result<(), WebError> {
        let material = stocked::one(&shop.store, *id)?.material;
        let listed = kept::one(&shop.store, machine)?;
        if !listed.machine.kind.holds(material.tool) {
            return Err(wrong(
                "kerf",
                "this machine has another tool; choose one that cuts it",
            ));
        }
        let page = Page::new(comb::comb(&material), PlanChoice::default());
        let mut stop = stops::Stop::of_page(&page, &material.name, listed.machine.kind)?;
        "a piece of 70 × 35 mm".clone_into(&mut stop.size);
        shop.store.add_run(&NewRun {
            machine,
            job: None,
            title: &format!("Kerf comb, {}", material.name),
            person: &person.name,
            stops: &serde_json::to_string(&[stop])?,
            state: &serde_json::to_string(&State::ready(0))?,
            asked: now(),
        })?;
        Ok(())
    })
    .await??;
    Ok(to(machine))
}

/// What was measured, as it was typed: slots and pieces by number.
fn measured(form: &[(String, String)], unit: Unit) -> Result<Vec<Measured>, WebError> {
    let typed = |name: String| {
        let found = form
            .iter()
            .find(|(n, v)| *n == name && !v.trim().is_empty());
        found.map(|(_, v)| mm("kerf", v, unit)).transpose()
    };
    let all = WIDTHS.iter().enumerate().map(|(n, &drawn)| {
        let (slot, piece) = (typed(format!("slot_{n}"))?, typed(format!("piece_{n}"))?);
        for width in [slot, piece].into_iter().flatten() {
            if (width - drawn).abs() > FAR {
                let (told, drawn) = (unit.length(width, 2), unit.length(drawn, 2));
                return Err(wrong(
                    "kerf",
                    format!("{told} was drawn {drawn} wide; is it in the right field?"),
                ));
            }
        }
        Ok(Measured { drawn, slot, piece })
    });
    all.collect()
}

/// A figure farther than this from what was drawn belongs elsewhere, mm.
const FAR: f64 = 1.5;

/// A kerf that was found, to be taken over.
#[derive(Template, WebTemplate)]
#[template(path = "materials/_kerf_found.html")]
struct Found {
    id: MaterialId,
    told: String,
    value: String,
}

#[post("/materials/{id}/kerf")]
async fn reckon(
    id: web::Path<MaterialId>,
    form: web::Form<Vec<(String, String)>>,
    reader: Reader,
) -> Result<Found, WebError> {
    let unit = reader.0;
    let found = comb::kerf(&measured(&form, unit)?);
    let found = found.ok_or_else(|| {
        wrong(
            "kerf",
            format!("{FEWEST} figures are needed at least; measure some more"),
        )
    })?;
    if found.value < 0.0 {
        return Err(wrong(
            "kerf",
            "the slots are narrower than their pieces; were they typed the other way round?",
        ));
    }
    Ok(Found {
        id: *id,
        told: format!(
            "{} ± {}, of {} figures",
            unit.length(found.value, 3),
            unit.length(found.uncertainty, 3),
            found.figures
        ),
        value: format!("{:.3} mm", found.value),
    })
}

#[derive(Deserialize)]
struct Taken {
    value: String,
}

/// The kerf becomes the material's.
#[post("/materials/{id}/kerf/take")]
async fn take(
    shop: web::Data<Shop>,
    id: web::Path<MaterialId>,
    form: web::Form<Taken>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let id = *id;
    let value = mm("kerf", &form.value, reader.0)?;
    web::block(move || -> Result<(), WebError> {
        let mut material = stocked::one(&shop.store, id)?.material;
        material.kerf = value;
        material.check().map_err(|e| wrong("kerf", e))?;
        shop.store
            .change_material(id, &serde_json::to_string(&material)?)?;
        Ok(())
    })
    .await??;
    Ok(HttpResponse::NoContent()
        .insert_header(("HX-Redirect", format!("/materials/{id}")))
        .finish())
}

pub(super) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(fields)
        .service(take)
        .service(reckon)
        .service(send);
}
