//! Changes of layers and materials as the controls of the line ask for them.

use inky_core::added::fresh_colour;
use inky_core::inks::Rgb;
use inky_core::layers::{Meet, Registration};
use inky_core::material::Operation;
use inky_core::tidy::{Edit, ItemId, Pigment};
use inky_core::units::Unit;
use serde::Deserialize;

use crate::error::{WebError, wrong};
use crate::form::{Figures, List, Tick, YesNo, chosen, parsed};
use crate::job::changing::Changing;
use crate::job::layers::pieces;
use crate::job::layers::stones::{self, StonesAsked};
use crate::text;
use crate::typed::mm;

/// One change. An `ink` names its layer by the colour it has in the artwork.
#[derive(Debug, Deserialize)]
#[serde(tag = "do", rename_all = "kebab-case")]
pub(crate) enum Change {
    /// Another material for all layers that name none.
    Material {
        value: String,
    },
    /// The values that the shop's list has now.
    Fresh,
    /// A material of its own for one layer, or that of all where none is named.
    LayerMaterial {
        ink: Rgb,
        value: String,
    },
    Operation {
        ink: Rgb,
        #[serde(deserialize_with = "chosen")]
        value: Option<Operation>,
    },
    /// A colour in stock by its name.
    Colour {
        ink: Rgb,
        value: String,
    },
    /// Whether a layer is sent to the machine.
    Cut {
        ink: Rgb,
        value: Tick,
    },
    /// Whether the bench shows a layer.
    Show {
        ink: Rgb,
        value: Tick,
    },
    /// The inks from the bottom.
    Order {
        value: List<Rgb>,
    },
    Up {
        ink: Rgb,
    },
    Down {
        ink: Rgb,
    },
    Meet {
        value: Meet,
    },
    /// How far lower layers reach under.
    Margin {
        value: String,
    },
    Pair {
        lower: Rgb,
        upper: Rgb,
        #[serde(deserialize_with = "chosen")]
        meet: Option<Meet>,
        /// Nothing typed is the margin of all.
        margin: String,
    },
    Registration {
        #[serde(default)]
        value: Tick,
    },
    RegistrationSize {
        value: String,
    },
    RegistrationGap {
        value: String,
    },
    /// Whether the sheet is used rather than what is cut from it.
    Negative {
        value: YesNo,
    },
    Border {
        value: String,
    },
    Kerf {
        #[serde(default)]
        value: Tick,
    },
    /// How much smaller than its hole an insert is; nothing typed is no insert.
    Clearance {
        ink: Rgb,
        value: String,
    },
    /// So many bridges for every island.
    Bridges {
        count: String,
        width: String,
    },
    BridgeAdd {
        ends: Figures<4>,
        width: String,
    },
    BridgeMove {
        ends: Figures<4>,
        #[serde(deserialize_with = "parsed")]
        nth: usize,
    },
    BridgeRemove {
        #[serde(deserialize_with = "parsed")]
        nth: usize,
    },
    BridgesClear,
    /// What is picked goes on another layer, or on a new one where no number is given.
    Recolour {
        items: List<ItemId>,
        to: String,
    },
    /// What is picked is cut from another material and let in.
    Inlay {
        items: List<ItemId>,
        material: String,
        fit: String,
    },
    /// Stones along or in what is picked.
    Stones {
        items: List<ItemId>,
        #[serde(flatten)]
        asked: StonesAsked,
    },
    /// What a hundred stones of a size cost.
    StonePrice {
        ink: Rgb,
        #[serde(deserialize_with = "parsed")]
        across: f64,
        value: String,
    },
    StoneColour {
        ink: Rgb,
        #[serde(deserialize_with = "parsed")]
        across: f64,
        value: String,
    },
    /// A plate of another material under all of it.
    Backing {
        material: String,
        margin: String,
    },
}

/// Size and distance of registration shapes to begin with, mm.
const REGISTRATION: Registration = Registration {
    size: 6.0,
    gap: 4.0,
};

impl Change {
    /// Does what is asked for; the name of the step.
    pub(crate) fn apply(self, to: &mut Changing) -> Result<String, WebError> {
        let unit = to.unit;
        Ok(match self {
            Self::Material { value } => {
                let material = to.material(&value)?;
                to.layers().take_material(material);
                value
            }
            Self::Fresh => {
                let list = to.stocked()?;
                to.layers().renew_materials(&list);
                "Material as it is now".to_owned()
            }
            Self::LayerMaterial { ink, value } => {
                let chosen = (!value.is_empty()).then(|| to.material(&value));
                let chosen = chosen.transpose()?;
                to.layers().give_material(ink, chosen);
                "Material of a layer".to_owned()
            }
            Self::Operation { ink, value } => {
                to.layers().of_mut(ink).operation = value;
                format!(
                    "Layer: {}",
                    value.map_or("as the material", Operation::word)
                )
            }
            Self::Colour { ink, value } => {
                let name = format!("Layer in {value}");
                to.layers().of_mut(ink).colour = Some(value).filter(|v| !v.is_empty());
                name
            }
            Self::Cut { ink, value } => {
                to.layers().of_mut(ink).cut = value.is_on();
                let name = if value.is_on() {
                    "Layer is cut"
                } else {
                    "Layer is not cut"
                };
                name.to_owned()
            }
            Self::Show { ink, value } => {
                to.layers().of_mut(ink).show = value.is_on();
                let name = if value.is_on() {
                    "Layer shown"
                } else {
                    "Layer hidden"
                };
                name.to_owned()
            }
            Self::Order { value: List(inks) } => {
                to.layers().order = inks;
                "Layers in another order".to_owned()
            }
            Self::Up { ink } => reordered(to, ink, 1),
            Self::Down { ink } => reordered(to, ink, -1),
            Self::Meet { value } => {
                to.layers().meet = value;
                let word = match value {
                    Meet::Flush => "flush",
                    Meet::Overlap => "overlap",
                    Meet::Stacked => "stacked",
                };
                format!("Layers {word}")
            }
            Self::Margin { value } => {
                let margin = mm("margin", &value, unit)?;
                to.layers().margin = Some(margin);
                format!("Overlap of {}", text::told_length(margin, unit, 2))
            }
            Self::Pair {
                lower,
                upper,
                meet,
                margin,
            } => {
                let margin = if margin.trim().is_empty() {
                    to.layers().margin()
                } else {
                    mm("margin", &margin, unit)?
                };
                to.layers().set_pair((lower, upper), meet, margin);
                "Two layers meet in their own way".to_owned()
            }
            Self::Registration { value } => {
                to.layers().registration = value.is_on().then_some(REGISTRATION);
                "Registration shapes".to_owned()
            }
            Self::RegistrationSize { value } => {
                let size = mm("registration", &value, unit)?;
                registration(to, |r| r.size = size)
            }
            Self::RegistrationGap { value } => {
                let gap = mm("registration", &value, unit)?;
                registration(to, |r| r.gap = gap)
            }
            Self::Negative { value } => {
                to.layers().negative = value.chosen();
                "Sheet or parts".to_owned()
            }
            Self::Border { value } => {
                to.layers().border = Some(mm("bridges", &value, unit)?);
                "Border of the sheet".to_owned()
            }
            Self::Kerf { value } => {
                to.layers().kerf = Some(value.is_on());
                "Kerf".to_owned()
            }
            Self::Clearance { ink, value } => {
                let figure = fit(&value, unit)?;
                to.layers().of_mut(ink).clearance = figure;
                "Fit of an insert".to_owned()
            }
            Self::Bridges { count, width } => pieces::bridges(to, &count, &width)?,
            Self::BridgeAdd { ends, width } => {
                let ends = pieces::ends(to, ends)?;
                let width = mm("bridges", &width, unit)?;
                pieces::add_bridge(to, ends, width)
            }
            Self::BridgeMove { ends, nth } => {
                let ends = pieces::ends(to, ends)?;
                pieces::move_bridge(to, ends, nth)?
            }
            Self::BridgeRemove { nth } => {
                if nth >= to.layers().bridges.len() {
                    return Err(wrong("bridges", pieces::NO_BRIDGE));
                }
                to.layers().bridges.remove(nth);
                "Bridge removed".to_owned()
            }
            Self::BridgesClear => {
                to.layers().bridges.clear();
                "Bridges removed".to_owned()
            }
            Self::Recolour { items, to: ink } => {
                let items = some(items)?;
                let pigment = match ink.parse() {
                    Ok(n) => Pigment::Ink(n),
                    Err(_) => Pigment::Colour(fresh_colour(&to.outcome.design)),
                };
                to.edit(Edit::Ink { items, pigment });
                "Pieces on another layer".to_owned()
            }
            Self::Inlay {
                items,
                material,
                fit: typed,
            } => {
                let clearance = fit(&typed, unit)?.unwrap_or(SNUG);
                pieces::inlay(to, some(items)?, &material, clearance)?
            }
            Self::Stones { items, asked } => stones::set(to, some(items)?, &asked)?,
            Self::StonePrice { ink, across, value } => stones::price(to, (ink, across), &value)?,
            Self::StoneColour { ink, across, value } => stones::colour(to, (ink, across), &value)?,
            Self::Backing { material, margin } => {
                let margin = mm("inlay", &margin, unit)?;
                pieces::backing(to, &material, margin)?
            }
        })
    }
}

/// A layer one place higher or lower.
fn reordered(to: &mut Changing, ink: Rgb, by: isize) -> String {
    let mut order = to.order();
    let at = order.iter().position(|&c| c == ink);
    let beside = at.and_then(|at| at.checked_add_signed(by));
    if let (Some(at), Some(beside)) = (at, beside.filter(|&n| n < order.len())) {
        order.swap(at, beside);
    }
    to.layers().order = order;
    "Layers in another order".to_owned()
}

fn registration(to: &mut Changing, change: impl FnOnce(&mut Registration)) -> String {
    if let Some(shapes) = &mut to.layers().registration {
        change(shapes);
    }
    "Registration shapes".to_owned()
}

/// Items that are picked; at least one.
fn some(List(items): List<ItemId>) -> Result<Vec<ItemId>, WebError> {
    if items.is_empty() {
        return Err(wrong("layers", "click shapes on the bench first"));
    }
    Ok(items)
}

/// Clearances of inserts by their word, mm; snug is the usual one.
pub(super) const FITS: [(&str, f64); 3] = [("press", -0.05), ("snug", SNUG), ("loose", 0.2)];
const SNUG: f64 = 0.05;

/// A fit by its word or by its clearance; nothing typed is no insert.
fn fit(text: &str, unit: Unit) -> Result<Option<f64>, WebError> {
    let typed = text.trim();
    if typed.is_empty() {
        return Ok(None);
    }
    let known = FITS.iter().find(|(word, _)| *word == typed);
    known
        .map_or_else(|| mm("inlay", typed, unit), |(_, clearance)| Ok(*clearance))
        .map(Some)
}
