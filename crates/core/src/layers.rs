//! Layers as they are chosen: what each ink is cut from, how, and how layers meet.
//!
//! What is left to the program is `None` or an empty list, so a job without any choice is cut from
//! the first material, its inks lying side by side, the largest at the bottom.

use serde::{Deserialize, Serialize};

use crate::inks::Rgb;
use crate::limits::{self, OutOfRange, within};
use crate::material::{Material, MaterialError, Operation, presets};
use crate::stock::Stock;
use crate::stones::StoneLayer;

/// How a lower layer meets the one above it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Meet {
    /// Edge to edge, as they were traced.
    #[default]
    Flush,
    /// The lower one reaches under the upper by a margin.
    Overlap,
    /// The lower one goes on under all of the upper that lies inside its outline, and reaches under
    /// the rest by a margin.
    Stacked,
}

/// How two layers meet, where not as all others do.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Pair {
    /// Ink of the lower layer.
    pub lower: Rgb,
    /// Ink of the upper layer.
    pub upper: Rgb,
    /// How they meet.
    pub meet: Meet,
    /// How far the lower one reaches under the upper, mm.
    pub margin: f64,
}

/// What was chosen for the layer of one ink.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct LayerSet {
    /// The ink, by its colour in the artwork.
    pub ink: Rgb,
    /// Whether the bench shows it.
    #[serde(default = "yes")]
    pub show: bool,
    /// Whether it is sent to the machine.
    #[serde(default = "yes")]
    pub cut: bool,
    /// What is done; `None` as the material says.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub operation: Option<Operation>,
    /// Name of its material among the job's; `None` is the first.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub material: Option<String>,
    /// Colour in stock by name; `None` is the one that looks most like the ink.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub colour: Option<String>,
    /// For an insert: how much smaller it is than its hole, mm across; below nought it is pressed in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub clearance: Option<f64>,
    /// For stones: what they are set with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stones: Option<StoneLayer>,
}

const fn yes() -> bool {
    true
}

impl LayerSet {
    /// Nothing chosen yet.
    #[must_use]
    pub const fn new(ink: Rgb) -> Self {
        Self {
            ink,
            show: true,
            cut: true,
            operation: None,
            material: None,
            colour: None,
            clearance: None,
            stones: None,
        }
    }
}

/// Shapes outside the design by which layers are laid over each other by hand.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Registration {
    /// Width of each shape, mm.
    pub size: f64,
    /// From the design to the shapes, mm.
    pub gap: f64,
}

/// A strip of the sheet that holds an island of a stencil.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Bridge {
    /// One end, as parts of the finished width and height.
    pub from: [f64; 2],
    /// The other end.
    pub to: [f64; 2],
    /// Width, mm.
    pub width: f64,
}

/// Everything chosen of layers, material and stock.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct LayerChoice {
    /// The job's materials with the values it was made with; the first is for all layers that
    /// name no other.
    pub materials: Vec<Material>,
    /// What was chosen by layer.
    pub layers: Vec<LayerSet>,
    /// Inks from the bottom; those not named lie by size, the largest lowest.
    pub order: Vec<Rgb>,
    /// How layers meet.
    pub meet: Meet,
    /// How far lower layers reach under, mm; `None` as the material says.
    pub margin: Option<f64>,
    /// Layers that meet in another way.
    pub pairs: Vec<Pair>,
    /// Shapes for lining layers up by hand.
    pub registration: Option<Registration>,
    /// Whether the design is mirrored; `None` as the material says.
    pub mirror: Option<bool>,
    /// Whether the sheet is used rather than the shapes cut from it; `None` as the material says.
    pub negative: Option<bool>,
    /// How far the sheet of a stencil reaches around the design, mm.
    pub border: Option<f64>,
    /// Strips that hold islands.
    pub bridges: Vec<Bridge>,
    /// Whether lines are moved by half the kerf, so that parts have their true size; `None`: where
    /// the material has a kerf.
    pub kerf: Option<bool>,
    /// The stock to cut from; `None` is the material's first.
    pub stock: Option<Stock>,
    /// Where the design lies on the stock, mm from its corner; `None` is the corner of what is usable.
    pub place: Option<[f64; 2]>,
}

/// A choice of layers that cannot be.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum LayerError {
    /// A figure out of range.
    #[error(transparent)]
    OutOfRange(#[from] OutOfRange),
    /// A material with a figure out of range.
    #[error(transparent)]
    Material(#[from] MaterialError),
    /// More bridges than are cut.
    #[error("{0} bridges are more than the {most} that are cut", most = limits::BRIDGES)]
    Bridges(usize),
}

/// The border of a stencil, unless it is chosen, mm.
pub const BORDER: f64 = 25.0;
/// Overlap where neither the job nor the material says, mm.
pub const MARGIN: f64 = 0.4;

impl LayerChoice {
    /// The job's own material: that chosen first, or the first preset.
    #[must_use]
    pub fn material(&self) -> Material {
        let chosen = self.materials.first().cloned();
        chosen.unwrap_or_else(|| presets().swap_remove(0))
    }

    /// Whether anything was chosen.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// The same choice with every line left where it was designed: layers side by side, nothing
    /// moved, turned inside out or mirrored.
    #[must_use]
    pub fn as_designed(&self) -> Self {
        let flush = |set: &LayerSet| LayerSet {
            clearance: None,
            stones: None,
            ..set.clone()
        };
        Self {
            layers: self.layers.iter().map(flush).collect(),
            meet: Meet::Flush,
            pairs: Vec::new(),
            registration: None,
            mirror: Some(false),
            negative: Some(false),
            kerf: Some(false),
            ..self.clone()
        }
    }

    /// What was chosen for an ink.
    #[must_use]
    pub fn of(&self, ink: Rgb) -> LayerSet {
        let found = self.layers.iter().find(|l| l.ink == ink);
        found.cloned().unwrap_or_else(|| LayerSet::new(ink))
    }

    /// What was chosen for an ink, to be changed.
    pub fn of_mut(&mut self, ink: Rgb) -> &mut LayerSet {
        let at = self.layers.iter().position(|l| l.ink == ink);
        let at = at.unwrap_or_else(|| {
            self.layers.push(LayerSet::new(ink));
            self.layers.len() - 1
        });
        &mut self.layers[at]
    }

    /// The material of an ink's layer.
    #[must_use]
    pub(crate) fn material_of(&self, ink: Rgb) -> Material {
        let name = self.of(ink).material;
        let named = |m: &&Material| Some(&m.name) == name.as_ref();
        let found = self.materials.iter().find(named).cloned();
        found.unwrap_or_else(|| self.material())
    }

    /// Takes another material for all layers that name none. Stock and place were chosen for the old
    /// one and are left to the program again.
    pub fn take_material(&mut self, material: Material) {
        // Where layers name it, it stays once.
        self.materials.retain(|m| m.name != material.name);
        if !self.materials.is_empty() {
            self.materials.remove(0);
        }
        self.materials.insert(0, material);
        self.stock = None;
        self.place = None;
        self.forget_unnamed();
    }

    /// Gives the layer of an ink a material of its own, or that of all others. Its colour in stock and
    /// its operation follow the material again.
    pub fn give_material(&mut self, ink: Rgb, material: Option<Material>) {
        let name = material.as_ref().map(|m| m.name.clone());
        if let Some(material) = material {
            self.keep_material(material);
        }
        let layer = self.of_mut(ink);
        layer.material = name;
        layer.colour = None;
        layer.operation = None;
        self.forget_unnamed();
    }

    /// Takes the values that materials have now in the shop's list, by name.
    pub fn renew_materials(&mut self, list: &[Material]) {
        for kept in &mut self.materials {
            if let Some(now) = list.iter().find(|m| m.name == kept.name) {
                kept.clone_from(now);
            }
        }
    }

    /// Makes sure that the job has a material beside the one for all layers.
    fn keep_material(&mut self, material: Material) {
        if self.materials.is_empty() {
            self.materials.push(self.material());
        }
        if self.materials.iter().all(|m| m.name != material.name) {
            self.materials.push(material);
        }
    }

    /// Forgets materials that no layer names.
    fn forget_unnamed(&mut self) {
        let named = self.layers.iter().filter_map(|l| l.material.clone());
        let named: Vec<String> = named.collect();
        let mut first = true;
        self.materials
            .retain(|m| std::mem::take(&mut first) || named.contains(&m.name));
    }

    /// Lets two layers meet in their own way; `None` is as all others do. A margin that is not that
    /// of all is an overlap of their own.
    pub fn set_pair(&mut self, (lower, upper): (Rgb, Rgb), meet: Option<Meet>, margin: f64) {
        let own_margin = (margin - self.margin()).abs() > 1e-6;
        let meet = meet.or(own_margin.then_some(Meet::Overlap));
        self.pairs.retain(|p| (p.lower, p.upper) != (lower, upper));
        self.pairs.extend(meet.map(|meet| Pair {
            lower,
            upper,
            meet,
            margin,
        }));
    }

    /// How far lower layers reach under those above, mm.
    #[must_use]
    pub fn margin(&self) -> f64 {
        let usual = self.material().overlap;
        self.margin
            .unwrap_or(if usual > 0.0 { usual } else { MARGIN })
    }

    /// How two layers meet, and by how much the lower reaches under, mm.
    #[must_use]
    pub fn meets(&self, lower: Rgb, upper: Rgb) -> (Meet, f64) {
        let same = |p: &&Pair| p.lower == lower && p.upper == upper;
        match self.pairs.iter().rev().find(same) {
            Some(pair) => (pair.meet, pair.margin),
            None => (self.meet, self.margin()),
        }
    }

    /// Whether the design is cut mirrored.
    #[must_use]
    pub fn mirrored(&self) -> bool {
        self.mirror.unwrap_or_else(|| self.material().from_behind)
    }

    /// Whether the sheet is what is used.
    #[must_use]
    pub fn negative(&self) -> bool {
        self.negative.unwrap_or_else(|| self.material().stencil)
    }

    /// The stock that is cut: chosen, or the material's first.
    #[must_use]
    pub fn stock(&self) -> Option<Stock> {
        let first = || self.material().stocks.first().cloned();
        self.stock.clone().or_else(first)
    }

    /// # Errors
    /// The first choice that is out of range.
    pub fn check(&self) -> Result<(), LayerError> {
        for material in &self.materials {
            material.check()?;
        }
        let mut figures = Vec::new();
        let overlap = &limits::OVERLAP_MM;
        figures.extend(self.margin.map(|m| ("an overlap", m, overlap)));
        figures.extend(self.pairs.iter().map(|p| ("an overlap", p.margin, overlap)));
        figures.extend(self.border.map(|b| ("a border", b, &limits::BORDER_MM)));
        if let Some(r) = &self.registration {
            figures.push(("a registration shape", r.size, &limits::REGISTRATION_MM));
            figures.push((
                "the distance of registration shapes",
                r.gap,
                &limits::BORDER_MM,
            ));
        }
        let bridges = self.bridges.iter();
        figures.extend(bridges.map(|b| ("a bridge", b.width, &limits::BRIDGE_MM)));
        for stones in self.layers.iter().filter_map(|l| l.stones.as_ref()) {
            stones.check()?;
        }
        let clearances = self.layers.iter().filter_map(|l| l.clearance);
        figures.extend(clearances.map(|c| ("a clearance", c, &limits::CLEARANCE_MM)));
        if let Some(stock) = &self.stock {
            figures.push(("a width of stock", stock.width, &limits::SIDE_MM));
            figures.push(("a margin of stock", stock.margin, &limits::BORDER_MM));
            figures.push(("a length of stock", stock.length, &limits::LENGTH_MM));
        }
        let place = self.place.into_iter().flatten();
        figures.extend(place.map(|v| ("a place on the stock", v, &limits::PLACE_MM)));
        for (what, found, range) in figures {
            within(what, found, range, "mm")?;
        }
        if self.bridges.len() > limits::BRIDGES {
            return Err(LayerError::Bridges(self.bridges.len()));
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn materials_that_no_layer_names_are_forgotten() {
        let all = presets();
        let (red, blue) = (Rgb([200, 0, 0]), Rgb([0, 0, 200]));
        let mut choice = LayerChoice::default();
        choice.give_material(red, Some(all[1].clone()));
        choice.give_material(blue, Some(all[2].clone()));
        let names = |c: &LayerChoice| -> Vec<String> {
            c.materials.iter().map(|m| m.name.clone()).collect()
        };
        assert_eq!(
            names(&choice),
            [&all[0], &all[1], &all[2]].map(|m| m.name.clone())
        );
        choice.give_material(blue, None);
        assert_eq!(names(&choice), [&all[0], &all[1]].map(|m| m.name.clone()));
        // The material of a layer becomes that of all, and is kept once.
        choice.take_material(all[1].clone());
        assert_eq!(names(&choice), [all[1].name.clone()]);
        assert_eq!(choice.material_of(red).name, all[1].name);
    }

    #[test]
    fn a_pair_with_the_margin_of_all_is_no_pair() {
        let (lower, upper) = (Rgb([200, 0, 0]), Rgb([0, 0, 200]));
        let mut choice = LayerChoice::default();
        let general = choice.margin();
        choice.set_pair((lower, upper), None, general + 0.3);
        assert_eq!(choice.meets(lower, upper), (Meet::Overlap, general + 0.3));
        choice.set_pair((lower, upper), Some(Meet::Stacked), general);
        assert_eq!(choice.meets(lower, upper), (Meet::Stacked, general));
        choice.set_pair((lower, upper), None, general);
        assert!(choice.pairs.is_empty());
    }
}
