//! What several lines of the ticket show alike, and what there is around a job.

use inky_core::material::Material;
use inky_core::units::Unit;

use crate::machines::kept::Listed;
use crate::text;
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

impl Slider {
    /// A whole number.
    pub(crate) fn whole(name: &'static str, label: &'static str, value: usize) -> Self {
        Self {
            name,
            label,
            value: value.to_string(),
            unit: "",
            least: "2",
            most: "16",
            step: "1",
            log: false,
            automatic: false,
            has_automatic: false,
        }
    }

    /// A part of a whole, percent.
    pub(crate) fn percent(name: &'static str, label: &'static str, value: f64) -> Self {
        Self {
            value: format!("{value:.0}"),
            unit: "%",
            least: "0",
            most: "100",
            ..Self::whole(name, label, 0)
        }
    }

    /// A width of some mm.
    pub(crate) fn width(name: &'static str, label: &'static str, mm: f64, unit: Unit) -> Self {
        let metric = unit == Unit::Mm;
        Self {
            value: text::length(mm, unit, 2),
            unit: unit.symbol(),
            least: if metric { "0.1" } else { "0.004" },
            most: if metric { "50" } else { "2" },
            step: if metric { "0.05" } else { "0.002" },
            log: true,
            ..Self::whole(name, label, 0)
        }
    }
}

/// What the lines show beside the recipe and its outcome.
#[derive(Clone, Copy)]
pub(crate) struct Around<'a> {
    pub(crate) shop: ShopAround<'a>,
    /// Names of the steps up to the one in force.
    pub(crate) history: &'a [String],
}

/// What the shop has besides it.
#[derive(Clone, Copy)]
pub(crate) struct ShopAround<'a> {
    /// The shop's materials that are offered.
    pub(crate) materials: &'a [Material],
    /// Its machines.
    pub(crate) machines: &'a [Listed],
    /// Other jobs.
    pub(crate) others: &'a [Other],
    /// Its sheets; not for quick answers.
    pub(crate) laid: Option<&'a Laid>,
}

/// Number, title and client of another job.
pub(crate) type Other = (i64, String, String);
