//! The store opened, written and brought back, as one program.

mod bin;
mod jobs_and_steps;
mod machines_and_runs;
mod opening_and_backups;
