//! Trials that set a material: a comb for its kerf, a grid for power and speed, two rows for a knife.
//!
//! ```text
//!   material ─► page of fields ─► a machine's queue ─► cut ─► measured, or pointed at ─► material
//! ```

mod kerf;
mod pointed;
mod sent;
mod shown;

use actix_web::{HttpResponse, web};
use inky_core::material::Material;
use inky_store::MaterialId;

use crate::Shop;
use crate::error::{WebError, wrong};
use crate::materials::stocked;

/// Keeps what a trial has shown of a material, where `set` could set it, and leads back to its sheet.
async fn kept_as(
    shop: web::Data<Shop>,
    id: MaterialId,
    field: &'static str,
    set: impl FnOnce(&mut Material) -> bool + Send + 'static,
) -> Result<HttpResponse, WebError> {
    web::block(move || -> Result<(), WebError> {
        let mut material = stocked::one(&shop.store, id)?.material;
        if !set(&mut material) {
            return Err(wrong(
                field,
                "this material is cut by another tool now; reload the page",
            ));
        }
        material.check().map_err(|e| wrong(field, e))?;
        shop.store
            .change_material(id, &serde_json::to_string(&material)?)?;
        Ok(())
    })
    .await??;
    Ok(crate::materials::to_material(id))
}

pub(super) fn routes(config: &mut web::ServiceConfig) {
    kerf::routes(config);
    pointed::routes(config);
    sent::routes(config);
    shown::routes(config);
}
