//! Layers that the artwork does not have: pieces let into another material, a plate under all of it, and stones.

use crate::assembly::Built;
use crate::inks::{InkName, Rgb};
use crate::layers::LayerSet;
use crate::material::Material;
use crate::offset::Join;
use crate::recipe::Recipe;
use crate::shapes::Design;
use crate::stones::{Laid, StoneChoice, StoneLayer};
use crate::tidy::{Drawing, Edit, ItemId, Pigment};

/// A new layer gets the first of these colours that no other has.
const FRESH: [[u8; 3]; 6] = [
    [232, 156, 35],
    [43, 109, 120],
    [163, 64, 47],
    [86, 92, 122],
    [63, 125, 70],
    [120, 88, 150],
];

/// A colour that no ink has, for a layer of its own.
#[must_use]
pub fn fresh_colour(design: &Design) -> Rgb {
    let taken = |c: &Rgb| design.inks.iter().any(|i| i.colour == *c);
    let more = (0..=u8::MAX).map(|n| [n.wrapping_mul(37), 90, n.wrapping_mul(59)]);
    let mut all = FRESH.into_iter().chain(more).map(Rgb);
    all.find(|c| !taken(c)).unwrap_or(Rgb(FRESH[0]))
}

/// Cuts the picked pieces from another material and lets them into what lies around them, with
/// `clearance` mm of air all around. They get the colour in stock that looks most like what they had.
#[must_use]
pub fn with_inserts(
    recipe: &Recipe,
    (design, drawing): (&Design, &Drawing),
    items: Vec<ItemId>,
    material: Material,
    clearance: f64,
) -> Recipe {
    let colour = fresh_colour(design);
    let first = items.first().and_then(|&id| drawing.item(id));
    let ink = first.and_then(|i| design.inks.get(usize::from(i.ink.0)));
    let stocked = ink.and_then(|ink| material.nearest(ink.paint));
    let stocked = stocked.map(|c| c.name.clone());
    let mut changed = recipe.with_edit(Edit::Inlay {
        items,
        pigment: Pigment::Colour(colour),
    });
    changed.layers.give_material(colour, Some(material));
    let layer = changed.layers.of_mut(colour);
    layer.colour = stocked;
    layer.clearance = Some(clearance);
    changed.inks.names.push(InkName {
        colour,
        name: "Inserts".to_owned(),
    });
    changed
}

/// Lays a plate of another material under all layers, `margin` mm wider than they are.
#[must_use]
pub fn with_backing(
    recipe: &Recipe,
    (design, built): (&Design, &Built),
    material: Material,
    margin: f64,
) -> Recipe {
    let colour = fresh_colour(design);
    let mut changed = recipe.with_edit(Edit::Backing {
        margin,
        join: Join::Round,
        holes: false,
        pigment: Pigment::Colour(colour),
    });
    let above = built.layers.iter().map(|l| l.colour);
    changed.layers.order = std::iter::once(colour).chain(above).collect();
    changed.layers.give_material(colour, Some(material));
    changed.inks.names.push(InkName {
        colour,
        name: "Backing".to_owned(),
    });
    changed
}

/// Sets stones along the picked lines or in the picked shapes. Their template is cut from `material`, each hole `wider` mm
/// than its stone. They join those that are cut from it already.
#[must_use]
pub fn with_stones(
    recipe: &Recipe,
    design: &Design,
    (items, choice, laid): (Vec<ItemId>, StoneChoice, Laid),
    (material, wider): (Material, f64),
) -> Recipe {
    let new = StoneLayer::new(&choice, wider);
    let there = |set: &&LayerSet| {
        let same = recipe.layers.material_of(set.ink).name == material.name;
        same && set.stones.is_some() && design.inks.iter().any(|ink| ink.colour == set.ink)
    };
    let joined = recipe.layers.layers.iter().find(there).map(|set| set.ink);
    let colour = joined.unwrap_or_else(|| fresh_colour(design));
    let mut changed = recipe.with_edit(Edit::Stones {
        items,
        choice,
        laid,
        pigment: Pigment::Colour(colour),
    });
    if joined.is_none() {
        changed.layers.give_material(colour, Some(material));
        changed.inks.names.push(InkName {
            colour,
            name: "Stones".to_owned(),
        });
    }
    match &mut changed.layers.of_mut(colour).stones {
        Some(stones) => stones.take_in(new),
        none => *none = Some(new),
    }
    changed
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layers::LayerChoice;
    use crate::material::presets;
    use crate::size::Size;

    #[test]
    fn a_backing_lies_under_all_and_has_its_material() {
        let size = Size::at_ppi(40, 30, 25.4);
        let design = Design::empty(size);
        let built = crate::assembly::build(&design, &LayerChoice::default());
        let ply = presets().swap_remove(1);
        let backed = with_backing(
            &Recipe::automatic(size),
            (&design, &built),
            ply.clone(),
            4.0,
        );
        let colour = fresh_colour(&design);
        assert_eq!(backed.layers.order.first(), Some(&colour));
        assert_eq!(backed.layers.material_of(colour).name, ply.name);
        let edits = backed.tidy.map(|t| t.edits.len());
        assert_eq!(edits, Some(1));
    }
}
