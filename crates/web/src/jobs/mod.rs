//! The Jobs page: every job with its picture, found, brought in, copied and deleted.

mod arrival;
mod bin;
pub(crate) mod routes;
mod shown;
pub(crate) mod state;
