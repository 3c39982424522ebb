//! Changes of layers, material and stock as controls ask for them: text to a recipe.

mod pieces;
mod sized;

use inky_core::expression::parse_length;
use inky_core::inks::Rgb;
use inky_core::layers::{LayerChoice, Meet, Pair, Registration};
use inky_core::material::Material;
use inky_core::recipe::Recipe;
use inky_core::tidy::{Edit, ItemId, Pigment};
use inky_core::units::{Length, Unit};
use inky_store::Store;
use serde::Deserialize;

use crate::error::{WebError, wrong};
use crate::pages::material_form::operation;
use crate::pages::stocked;
use crate::workshop::Outcome;

/// A change as a control sends it. What each field means depends on what is asked for.
#[derive(Debug, Default, Deserialize)]
#[serde(default)]
pub(crate) struct Asking {
    pub(crate) revision: i64,
    pub(crate) line: String,
    #[serde(rename = "do")]
    what: String,
    ink: String,
    other: String,
    value: String,
    more: String,
    items: String,
}

fn colour(text: &str) -> Result<Rgb, WebError> {
    text.parse().map_err(|e| wrong("notice", e))
}

pub(crate) fn mm(field: &'static str, text: &str, unit: Unit) -> Result<f64, WebError> {
    match parse_length(text, unit) {
        Ok(Length::Mm(mm)) => Ok(mm),
        Ok(Length::Px(_)) => Err(wrong(
            field,
            "a length on the piece is asked for; use mm or in",
        )),
        Err(e) => Err(wrong(field, e)),
    }
}

fn number(field: &'static str, text: &str) -> Result<f64, WebError> {
    let plain = text.trim().trim_end_matches('%').trim().replace(',', ".");
    let found = plain.parse::<f64>().ok().filter(|v| v.is_finite());
    found.ok_or_else(|| {
        wrong(
            field,
            format!("'{text}' is not a number; write it like 110"),
        )
    })
}

fn figures(text: &str) -> Vec<f64> {
    let figures = text.split(',').filter_map(|v| v.trim().parse().ok());
    figures.filter(|v: &f64| v.is_finite()).collect()
}

/// What is changed, and what there is to go by.
pub(super) struct Change<'a> {
    pub(super) asking: &'a Asking,
    pub(super) unit: Unit,
    pub(super) store: &'a Store,
    pub(super) outcome: &'a Outcome,
    pub(super) recipe: Recipe,
}

pub(super) const LAYERS: &str = "layers";
/// A new layer gets the first of these colours that no other has.
const FRESH: [[u8; 3]; 6] = [
    [232, 156, 35],
    [43, 109, 120],
    [163, 64, 47],
    [86, 92, 122],
    [63, 125, 70],
    [120, 88, 150],
];

impl Change<'_> {
    fn layers(&mut self) -> &mut LayerChoice {
        &mut self.recipe.layers
    }

    /// A material by its name: one that the job has, else the shop's.
    fn named(&self, name: &str) -> Result<Material, WebError> {
        let own = self.recipe.layers.materials.iter();
        if let Some(found) = own.clone().find(|m| m.name == name) {
            return Ok(found.clone());
        }
        let all = stocked::all(self.store)?;
        let found = all.into_iter().find(|m| m.material.name == name);
        found.map(|m| m.material).ok_or_else(|| {
            wrong(
                LAYERS,
                format!("there is no material called {name} any more"),
            )
        })
    }

    /// Makes sure that the job keeps a material, and that it has one of its own.
    fn keep(&mut self, material: Material) {
        let first = self.recipe.layers.material();
        let all = &mut self.recipe.layers.materials;
        if all.is_empty() {
            all.push(first);
        }
        if all.iter().all(|m| m.name != material.name) {
            all.push(material);
        }
    }

    /// Forgets materials that no layer names.
    fn forget(&mut self) {
        let layers = &mut self.recipe.layers;
        let named: Vec<String> = layers
            .layers
            .iter()
            .filter_map(|l| l.material.clone())
            .collect();
        let mut n = 0;
        layers.materials.retain(|m| {
            n += 1;
            n == 1 || named.contains(&m.name)
        });
    }

    /// A colour that no ink has, for a layer of its own.
    fn fresh_colour(&self) -> Rgb {
        let taken = |c: &Rgb| self.outcome.design.inks.iter().any(|i| i.colour == *c);
        let found = FRESH.into_iter().map(Rgb).find(|c| !taken(c));
        found.unwrap_or_else(|| {
            let n = self.outcome.design.inks.len() as u8;
            Rgb([n.wrapping_mul(37), 90, n.wrapping_mul(59)])
        })
    }

    fn edit(&mut self, edit: Edit) {
        self.recipe = self.recipe.with_edit(edit);
    }

    fn items(&self) -> Result<Vec<ItemId>, WebError> {
        let items = self.asking.items.split(',');
        let items: Vec<ItemId> = items.filter_map(|n| n.trim().parse().ok()).collect();
        if items.is_empty() {
            return Err(wrong(LAYERS, "click shapes on the bench first"));
        }
        Ok(items)
    }

    /// Does what is asked for; the name of the step.
    pub(super) fn done(&mut self) -> Result<String, WebError> {
        let a = self.asking;
        let value = a.value.as_str();
        let set = |on: &str| on == "true" || on == "on";
        Ok(match a.what.as_str() {
            "material" => {
                let material = self.named(value)?;
                let name = material.name.clone();
                let layers = self.layers();
                // The others stay where layers name them.
                layers.materials.retain(|m| m.name != name);
                if !layers.materials.is_empty() {
                    layers.materials.remove(0);
                }
                layers.materials.insert(0, material);
                layers.stock = None;
                layers.place = None;
                self.forget();
                name
            }
            "fresh" => {
                let all = stocked::all(self.store)?;
                for own in &mut self.layers().materials {
                    if let Some(now) = all.iter().find(|m| m.material.name == own.name) {
                        own.clone_from(&now.material);
                    }
                }
                "Material as it is now".to_owned()
            }
            "layer-material" => {
                let ink = colour(&a.ink)?;
                let chosen = (!value.is_empty()).then(|| self.named(value)).transpose()?;
                if let Some(material) = &chosen {
                    self.keep(material.clone());
                }
                let layer = self.layers().of_mut(ink);
                layer.material = chosen.map(|m| m.name);
                layer.colour = None;
                layer.operation = None;
                self.forget();
                "Material of a layer".to_owned()
            }
            "operation" => {
                self.layers().of_mut(colour(&a.ink)?).operation = operation(value);
                format!(
                    "Layer: {}",
                    if value.is_empty() {
                        "as the material"
                    } else {
                        value
                    }
                )
            }
            "colour" => {
                self.layers().of_mut(colour(&a.ink)?).colour =
                    Some(value.to_owned()).filter(|v| !v.is_empty());
                format!("Layer in {value}")
            }
            "cut" => {
                self.layers().of_mut(colour(&a.ink)?).cut = set(value);
                if set(value) {
                    "Layer is cut"
                } else {
                    "Layer is not cut"
                }
                .to_owned()
            }
            "show" => {
                self.layers().of_mut(colour(&a.ink)?).show = set(value);
                if set(value) {
                    "Layer shown"
                } else {
                    "Layer hidden"
                }
                .to_owned()
            }
            "order" => {
                let order: Result<Vec<Rgb>, WebError> = value.split(',').map(colour).collect();
                self.layers().order = order?;
                "Layers in another order".to_owned()
            }
            "up" | "down" => {
                let ink = colour(&a.ink)?;
                let built = &self.outcome.checked().built;
                let mut order: Vec<Rgb> = built.layers.iter().map(|l| l.colour).collect();
                if let Some(at) = order.iter().position(|&c| c == ink) {
                    let to = if a.what == "up" {
                        at + 1
                    } else {
                        at.wrapping_sub(1)
                    };
                    if to < order.len() {
                        order.swap(at, to);
                    }
                }
                self.layers().order = order;
                "Layers in another order".to_owned()
            }
            "meet" => {
                self.layers().meet = meet(value);
                format!("Layers {value}")
            }
            "margin" => {
                let margin = mm("margin", value, self.unit)?;
                self.layers().margin = Some(margin);
                format!("Overlap of {margin:.2} mm")
            }
            "pair" => self.pair()?,
            "registration" => {
                self.layers().registration = set(value).then_some(Registration {
                    size: 6.0,
                    gap: 4.0,
                });
                "Registration shapes".to_owned()
            }
            "registration-size" | "registration-gap" => {
                let figure = mm("registration", value, self.unit)?;
                if let Some(r) = &mut self.layers().registration {
                    match a.what.as_str() {
                        "registration-size" => r.size = figure,
                        _ => r.gap = figure,
                    }
                }
                "Registration shapes".to_owned()
            }
            "mirror" => {
                self.layers().mirror = yes_no(value);
                "Mirroring".to_owned()
            }
            "negative" => {
                self.layers().negative = yes_no(value);
                "Sheet or parts".to_owned()
            }
            "border" => {
                self.layers().border = Some(mm("bridges", value, self.unit)?);
                "Border of the sheet".to_owned()
            }
            "kerf" => {
                self.layers().kerf = Some(set(value));
                "Kerf".to_owned()
            }
            "clearance" => {
                let figure = fit(value, self.unit)?;
                self.layers().of_mut(colour(&a.ink)?).clearance = figure;
                "Fit of an insert".to_owned()
            }
            "stock" => self.stock()?,
            "place" => {
                let at = figures(value);
                let &[x, y] = at.as_slice() else {
                    return Err(wrong("stock", "two figures are a place: across and along"));
                };
                self.layers().place = Some([x, y]);
                "Moved on the stock".to_owned()
            }
            "fit" => self.fit()?,
            "scale" => {
                let percent = number("scale", value)?;
                self.scale(percent / 100.0, "scale")?;
                format!("{percent:.1} %")
            }
            "drawn" => self.drawn()?,
            "measured" => self.measured()?,
            "bridges" => self.bridges()?,
            "bridge-add" | "bridge-move" => self.bridge()?,
            "bridge-remove" => {
                let at = value.parse().unwrap_or(usize::MAX);
                if at < self.recipe.layers.bridges.len() {
                    self.layers().bridges.remove(at);
                }
                "Bridge removed".to_owned()
            }
            "bridges-clear" => {
                self.layers().bridges.clear();
                "Bridges removed".to_owned()
            }
            "recolour" => {
                let items = self.items()?;
                let pigment = match value.parse() {
                    Ok(n) => Pigment::Ink(n),
                    Err(_) => Pigment::Colour(self.fresh_colour()),
                };
                self.edit(Edit::Ink { items, pigment });
                "Pieces on another layer".to_owned()
            }
            "inlay" => self.inlay()?,
            "backing" => self.backing()?,
            _ => return Err(WebError::NoPage),
        })
    }

    fn pair(&mut self) -> Result<String, WebError> {
        let (lower, upper) = (colour(&self.asking.ink)?, colour(&self.asking.other)?);
        let margin = if self.asking.more.trim().is_empty() {
            self.recipe.layers.margin()
        } else {
            mm("margin", &self.asking.more, self.unit)?
        };
        let general = self.recipe.layers.margin();
        let value = match self.asking.value.as_str() {
            // A margin of its own is an overlap of its own.
            "" if (margin - general).abs() > 1e-6 => "overlap".to_owned(),
            chosen => chosen.to_owned(),
        };
        let pairs = &mut self.layers().pairs;
        pairs.retain(|p| (p.lower, p.upper) != (lower, upper));
        if !value.is_empty() {
            pairs.push(Pair {
                lower,
                upper,
                meet: meet(&value),
                margin,
            });
        }
        Ok("Two layers meet in their own way".to_owned())
    }
}

fn meet(value: &str) -> Meet {
    match value {
        "overlap" => Meet::Overlap,
        "stacked" => Meet::Stacked,
        _ => Meet::Flush,
    }
}

fn yes_no(value: &str) -> Option<bool> {
    match value {
        "yes" => Some(true),
        "no" => Some(false),
        _ => None,
    }
}

/// A fit by its word or by its clearance; nothing typed is no insert.
fn fit(text: &str, unit: Unit) -> Result<Option<f64>, WebError> {
    Ok(Some(match text.trim() {
        "" => return Ok(None),
        "press" => -0.05,
        "snug" => 0.05,
        "loose" => 0.2,
        typed => mm("inlay", typed, unit)?,
    }))
}
