//! The field of a trial that came out right: what it was cut with is what the material is cut with.

use actix_web::{HttpResponse, post, web};
use inky_store::MaterialId;
use serde::Deserialize;

use crate::Shop;
use crate::error::WebError;
use crate::materials::trials::kept_as;

/// What is set.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Set {
    /// Power and speed, by a field of the grid.
    Beam,
    /// The blade's offset, by a square.
    Offset,
    /// The overcut, by a circle.
    Overcut,
}

/// What the field was cut with.
#[derive(Clone, Copy, Debug, Deserialize)]
struct Pointed {
    set: Set,
    /// %.
    #[serde(default)]
    power: f64,
    /// mm/s.
    #[serde(default)]
    speed: f64,
    /// mm.
    #[serde(default)]
    value: f64,
}

#[post("/materials/{id}/pointed")]
async fn take(
    shop: web::Data<Shop>,
    id: web::Path<MaterialId>,
    form: web::Form<Pointed>,
) -> Result<HttpResponse, WebError> {
    let Pointed {
        set,
        power,
        speed,
        value,
    } = *form;
    kept_as(shop, *id, "pointed", move |material| {
        match (set, &mut material.laser, &mut material.blade) {
            (Set::Beam, Some(laser), _) => {
                // Where it slowed down it had all its power too.
                (laser.cut.most, laser.cut.least, laser.cut.speed) = (power, power, speed);
            }
            (Set::Offset, _, Some(blade)) => blade.offset = value,
            (Set::Overcut, _, Some(blade)) => blade.overcut = value,
            _ => return false,
        }
        true
    })
    .await
}

pub(super) fn routes(config: &mut web::ServiceConfig) {
    config.service(take);
}
