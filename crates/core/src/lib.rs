//! The computation of Inky Outline: a picture goes in, closed outlines in millimetres come out.
//!
//! Values in, values out: nothing here opens a file, asks a clock, uses a network or knows of a
//! page. The modules stand in the order of the work:
//!
//! ```text
//!   Picture ──clean──► Picture ──inks──► Solid ──boundary──► PlanarMap ──fit──► FittedMap ──shapes──► Design
//!               │                 │                │                      │                   │
//!             steps           InkChoice    smallest part, px²     size, tolerance       kept inks, edges
//! ```
//!
//! Each arrow is a function of its input and of the few settings under it, so that a caller can
//! keep any of the values in between and run only what lies after a changed setting. [`trace`]
//! runs them all. Everywhere y points down, as in a picture and in SVG.

pub mod added;
pub mod agreement;
pub mod assembly;
pub mod boundary;
pub mod centre;
pub mod check;
pub mod clean;
pub mod correct;
pub mod cutting;
mod envelope;
pub mod expression;
mod fine;
pub mod fit;
pub mod inks;
pub mod layers;
pub mod least_squares;
pub mod lens;
pub mod limits;
pub mod material;
pub mod offcut;
pub mod offset;
mod otsu;
pub mod overlay;
pub mod picture;
pub mod plan;
mod polyline;
pub mod print;
pub mod projective;
mod random;
pub mod recipe;
pub mod segment;
mod sets;
pub mod settings;
pub mod shapes;
pub mod sheet;
pub mod size;
pub mod stock;
pub mod stones;
pub mod stop;
pub mod tidy;
pub mod trace;
pub mod units;
pub mod worth;
