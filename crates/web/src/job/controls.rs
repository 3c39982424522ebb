//! What several lines of the ticket show alike, and what there is around a job.

use inky_core::material::Material;

use crate::workshop::Laid;

/// A slider with its typed field.
pub(crate) struct Slider {
    pub(crate) name: &'static str,
    pub(crate) label: &'static str,
    pub(crate) value: String,
    pub(crate) unit: &'static str,
    pub(crate) least: &'static str,
    pub(crate) most: &'static str,
    pub(crate) step: &'static str,
    pub(crate) log: bool,
    pub(crate) automatic: bool,
    pub(crate) has_automatic: bool,
}

/// What the lines show beside the recipe and its outcome.
#[derive(Clone, Copy)]
pub(crate) struct Around<'a> {
    /// The shop's materials that are offered.
    pub(crate) materials: &'a [Material],
    /// Names of the steps up to the one in force.
    pub(crate) history: &'a [String],
    /// Other jobs.
    pub(crate) others: &'a [Other],
    /// Its sheets; not for quick answers.
    pub(crate) laid: Option<&'a Laid>,
}

/// Number, title and client of another job.
pub(crate) type Other = (i64, String, String);
