//! Parted: a picture given to its inks, before these are numbered.

use crate::inks::{EdgeField, InkReason};

/// Least share of the picture that must lie on flat colours.
pub(super) const LEAST_FLAT: f64 = 0.04;

/// A picture parted: labels, inks `I`, where the edges are, and why.
pub(super) struct Parted<I> {
    pub labels: Vec<u8>,
    /// Width and height of the labels.
    pub size: (usize, usize),
    /// Labels along a side of one of the picture's pixels.
    pub detail: f64,
    pub scatter: f64,
    /// What a finer scale left unexplained at edges, part of the contrast.
    pub rough: f64,
    pub inks: Vec<I>,
    pub field: EdgeField,
    pub reason: InkReason,
}
