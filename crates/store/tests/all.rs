//! The store opened, written and brought back, as one program.

mod bin;
mod jobs_and_steps;
mod opening_and_backups;
