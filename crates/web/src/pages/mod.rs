//! The pages, one file each with its routes.

mod bench;
mod built;
mod change;
mod choices;
mod cleaning;
mod details;
mod job;
mod jobs;
mod layering;
mod layers;
mod laying;
mod material_form;
mod materials;
pub(crate) mod nesting;
mod remedies;
mod replace;
pub(crate) mod saving;
mod send;
mod sheets;
pub(crate) mod stocked;
mod tidy;
pub(crate) mod units;
mod vectors;
mod words;

use actix_web::web::ServiceConfig;

use crate::assets;

/// Every address of the application.
pub(crate) fn routes(config: &mut ServiceConfig) {
    config.service(assets::file);
    units::routes(config);
    jobs::routes(config);
    materials::routes(config);
    details::routes(config);
    bench::routes(config);
    cleaning::routes(config);
    replace::routes(config);
    tidy::routes(config);
    vectors::routes(config);
    built::routes(config);
    layers::routes(config);
    remedies::routes(config);
    sheets::routes(config);
    laying::routes(config);
    nesting::routes(config);
    send::routes(config);
    // Last, since `/jobs/{id}/{line}` would match many of the others.
    job::routes(config);
}
