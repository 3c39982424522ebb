//! Figures turned into words for the templates, which do no arithmetic.

mod job;
mod jobs;
pub(crate) mod text;

pub(crate) use job::{Line, LineBody, Ticket, ticket};
pub(crate) use jobs::{JobCard, card};
