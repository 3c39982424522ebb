//! The Materials page: what the shop cuts, with the values each material is cut with.

mod asked;
pub(crate) mod offcut;
pub(crate) mod routes;
pub(crate) mod shown;
pub(crate) mod stocked;
mod trials;

use actix_web::HttpResponse;

/// Leads the browser to another page.
fn to(address: String) -> HttpResponse {
    HttpResponse::NoContent()
        .insert_header(("HX-Redirect", address))
        .finish()
}

/// Leads the browser to a material.
fn to_material(id: inky_store::MaterialId) -> HttpResponse {
    to(format!("/materials/{id}"))
}
