//! The real program run from the command line and as a server; the browser's tests are a program of their own.

mod bombs;
mod check;
mod convert_and_plan;
mod door;
mod edits;
mod gradients;
mod inspect_and_recipe;
mod machines;
mod machines_and_printers;
mod many_at_once;
mod odd_stock;
mod open_icons;
mod printed;
mod program;
mod runs;
mod server;
mod squared;
mod stones;
mod stopped;
mod support;
