//! The kerf of a material from a comb that was cut and measured.

use actix_web::{HttpResponse, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::sheet::comb::{self, FEWEST, Measured, WIDTHS};
use inky_core::units::Unit;
use inky_store::MaterialId;
use serde::Deserialize;

use crate::Shop;
use crate::error::{WebError, wrong};
use crate::materials::trials::kept_as;
use crate::reader::Reader;
use crate::typed::mm;

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
#[template(path = "materials/trials/_kerf_found.html")]
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
    let (id, value) = (*id, mm("kerf", &form.value, reader.0)?);
    kept_as(shop, id, "kerf", move |material| {
        material.kerf = value;
        true
    })
    .await
}

pub(super) fn routes(config: &mut web::ServiceConfig) {
    config.service(take).service(reckon);
}
