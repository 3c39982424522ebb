//! The interface driven as a person drives it, in headless Chromium: a file for each part of the work.

mod by_hand;
mod chrome;
mod clean_up;
mod eight_jobs;
mod hand;
mod jobs_page;
mod layers;
mod machines;
mod nothing_lost;
mod odd_stock;
mod printed;
mod reach;
mod screens;
mod session;
mod settled;
mod sheet_and_send;
mod sizes_and_materials;
mod squared_up;
mod stones;
#[path = "../support/mod.rs"]
mod support;
mod tidy;
mod tidying;
mod tones;
mod tracing;
