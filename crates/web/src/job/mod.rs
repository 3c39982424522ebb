//! The job page: a ticket whose lines are the steps of the work, beside a bench that shows the design.
//!
//! ```text
//!   request ─► <line>/asked.rs: what a control asks for ─┐
//!              <line>/routes.rs ─► request.rs ─► workshop ─► core
//!                                     │  one way to change a recipe, keep it as a step and answer
//!   page    ◄─ <line>/shown.rs ◄─ ticket.rs ◄─ now.rs: the job as it is
//! ```
//!
//! Each line of the ticket has a folder here, in `templates/job` and in `static/js`, by its slug; which
//! lines there are says [`line`].

mod artwork;
mod bench;
mod body;
mod change;
mod changing;
mod choices;
mod choose;
mod clean;
mod controls;
mod history;
mod inks;
mod kept;
mod layers;
pub(crate) mod line;
mod now;
mod order;
mod rail;
pub(crate) mod request;
mod routes;
pub(crate) mod saving;
mod send;
pub(crate) mod sheet;
mod size;
mod ticket;
pub(crate) mod tidy;
mod trace;

use actix_web::web::ServiceConfig;

pub(crate) use send::routes::download;

/// Every address of a job.
pub(crate) fn routes(config: &mut ServiceConfig) {
    bench::routes(config);
    choose::routes(config);
    history::routes(config);
    artwork::details::routes(config);
    artwork::replace::routes(config);
    clean::routes::routes(config);
    tidy::routes::routes(config);
    tidy::vectors::routes(config);
    layers::routes::routes(config);
    layers::drawn::routes(config);
    size::routes::routes(config);
    size::remedies::routes(config);
    sheet::routes::routes(config);
    sheet::drawn::routes(config);
    sheet::print::routes::routes(config);
    sheet::nesting::routes(config);
    send::routes::routes(config);
    routes::routes(config);
}
