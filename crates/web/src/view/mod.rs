//! Figures turned into words for the templates, which do no arithmetic.

mod body;
mod checks;
pub(crate) mod clean;
mod inks;
mod job;
mod jobs;
mod layers;
pub(crate) mod materials;
mod order;
mod rail;
mod send;
mod sheet;
pub(crate) mod text;
pub(crate) mod tidy;

pub(crate) use body::{LineBody, same_controls};
pub(crate) use job::{Line, Ticket, ticket};
pub(crate) use jobs::{JobCard, card};
pub(crate) use order::{Order, work_order};
