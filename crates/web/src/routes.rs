//! Every address of the application.

use actix_web::web::{self, ServiceConfig};

use crate::{assets, door, guide, job, jobs, lost, machines, materials, reader};

pub(crate) fn routes(config: &mut ServiceConfig) {
    config.service(assets::file);
    door::routes(config);
    reader::routes(config);
    jobs::routes::routes(config);
    materials::routes::routes(config);
    machines::routes::routes(config);
    guide::routes::routes(config);
    job::routes(config);
    config.default_service(web::to(lost::nothing_here));
}
