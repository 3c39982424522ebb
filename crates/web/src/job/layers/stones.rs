//! Stones of the Layers line: set along or in what is picked, counted, priced and weighed.

use inky_core::added;
use inky_core::assembly::Layer;
use inky_core::inks::Rgb;
use inky_core::stones::{
    Counted, Laid, Pattern, SIZES, StoneChoice, StoneLayer, StoneSize, USUAL, size_name,
};
use inky_core::tidy::ItemId;
use inky_core::units::Unit;
use serde::Deserialize;

use crate::error::{WebError, wrong};
use crate::job::changing::Changing;
use crate::text;
use crate::typed::{mm, number};

/// What is asked of new stones, as it was typed.
#[derive(Debug, Deserialize)]
pub(crate) struct StonesAsked {
    size: String,
    /// A smaller one for where the first finds no room; empty for none.
    #[serde(default)]
    second: String,
    laid: LaidAsked,
    gap: String,
    wider: String,
    material: String,
}

#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "lowercase")]
enum LaidAsked {
    Along,
    Hexagonal,
    Rows,
    Rings,
}

impl LaidAsked {
    const fn laid(self) -> Laid {
        match self {
            Self::Along => Laid::Along,
            Self::Hexagonal => Laid::In(Pattern::Hexagonal),
            Self::Rows => Laid::In(Pattern::Rows),
            Self::Rings => Laid::In(Pattern::Rings),
        }
    }
}

/// A line of the list of stones.
pub(crate) struct Listed {
    /// The layer that they are on.
    ink: Rgb,
    pub(crate) counted: Counted,
}

/// All stones, layer by layer.
pub(crate) fn list(layers: &[Layer]) -> Vec<Listed> {
    let stones = layers.iter().filter_map(|l| Some((l, l.stones.as_ref()?)));
    let listed = stones.flat_map(|(layer, stones)| {
        let widths = layer.stones_set().map(|stone| 2.0 * stone.radius);
        let line = |counted| Listed {
            ink: layer.colour,
            counted,
        };
        stones.counted(widths).into_iter().map(line)
    });
    listed.collect()
}

/// Sets stones along or in what is picked.
pub(super) fn set(
    to: &mut Changing,
    items: Vec<ItemId>,
    asked: &StonesAsked,
) -> Result<String, WebError> {
    let laid = asked.laid.laid();
    let mut sizes = vec![across(&asked.size, to.unit)?];
    if !asked.second.trim().is_empty() {
        if laid == Laid::Along {
            return Err(wrong(
                "stones",
                "along lines one size is set; leave the second empty",
            ));
        }
        sizes.push(across(&asked.second, to.unit)?);
    }
    let choice = StoneChoice {
        sizes,
        gap: mm("stones", &asked.gap, to.unit)?,
    };
    choice.check().map_err(|e| wrong("stones", e))?;
    let wider = mm("stones", &asked.wider, to.unit)?;
    let new = StoneLayer::new(&choice, wider);
    new.check().map_err(|e| wrong("stones", e))?;
    let material = to.material(&asked.material)?;
    let name = format!("Stones {}", size_name(choice.sizes[0]));
    let design = &to.outcome.design;
    to.recipe = added::with_stones(&to.recipe, design, (items, choice, laid), (material, wider));
    Ok(name)
}

/// A stone's width by its name or as it was typed, mm.
fn across(typed: &str, unit: Unit) -> Result<f64, WebError> {
    let typed = typed.trim();
    let named = SIZES
        .iter()
        .find(|(name, _)| typed.eq_ignore_ascii_case(name));
    named.map_or_else(|| mm("stones", typed, unit), |(_, across)| Ok(*across))
}

/// What a hundred stones of a size cost; nothing typed is no price.
pub(super) fn price(
    to: &mut Changing,
    (ink, across): (Rgb, f64),
    typed: &str,
) -> Result<String, WebError> {
    let price = match typed.trim() {
        "" => None,
        typed => Some(number("stones", typed, "4.50")?),
    };
    sized(to, ink, across)?.price = price;
    Ok("Price of stones".to_owned())
}

pub(super) fn colour(
    to: &mut Changing,
    (ink, across): (Rgb, f64),
    typed: &str,
) -> Result<String, WebError> {
    typed.trim().clone_into(&mut sized(to, ink, across)?.colour);
    Ok("Colour of stones".to_owned())
}

fn sized(to: &mut Changing, ink: Rgb, across: f64) -> Result<&mut StoneSize, WebError> {
    let stones = to.layers().layers.iter_mut().find(|set| set.ink == ink);
    let stones = stones.and_then(|set| set.stones.as_mut());
    let sizes = stones.into_iter().flat_map(|stones| &mut stones.sizes);
    let found = sizes.into_iter().find(|s| (s.across - across).abs() < 1e-6);
    found.ok_or_else(|| wrong("stones", "these stones are no more; the list was made anew"))
}

/// The controls of stones.
pub(crate) struct StonesBody {
    /// Sizes by their trade names, with their width.
    pub(crate) sizes: Vec<(&'static str, String)>,
    pub(crate) gap: String,
    pub(crate) wider: String,
    pub(crate) rows: Vec<StoneRow>,
    /// Count, cost and weight of all.
    pub(crate) all: (usize, String, String),
    /// How many are of no size in the list any more.
    pub(crate) odd: usize,
}

pub(crate) struct StoneRow {
    pub(crate) ink: String,
    pub(crate) across: f64,
    pub(crate) name: String,
    pub(crate) colour: String,
    pub(crate) count: usize,
    pub(crate) price: String,
    pub(crate) cost: String,
    pub(crate) grams: String,
}

/// The controls; `least` is what a template's material has to keep between two holes, mm.
pub(crate) fn body(layers: &[Layer], least: f64, unit: Unit) -> StonesBody {
    let listed = list(layers);
    let set: usize = layers.iter().map(|l| l.stones_set().count()).sum();
    let count: usize = listed.iter().map(|l| l.counted.count).sum();
    let costs: Vec<f64> = listed.iter().filter_map(|l| l.counted.cost).collect();
    let grams: f64 = listed.iter().map(|l| l.counted.grams).sum();
    let rows: Vec<StoneRow> = listed.into_iter().map(row).collect();
    StonesBody {
        sizes: SIZES
            .iter()
            .map(|&(name, across)| (name, text::told_length(across, unit, 1)))
            .collect(),
        gap: text::length(USUAL[0].max(USUAL[1] + least), unit, 2),
        wider: text::length(USUAL[1], unit, 2),
        all: (
            count,
            if costs.is_empty() {
                String::new()
            } else {
                format!("{:.2}", costs.iter().sum::<f64>())
            },
            format!("{grams:.1}"),
        ),
        rows,
        odd: set - count,
    }
}

fn row(Listed { ink, counted }: Listed) -> StoneRow {
    let Counted {
        size,
        count,
        cost,
        grams,
    } = counted;
    StoneRow {
        ink: ink.to_string(),
        across: size.across,
        name: size_name(size.across),
        colour: size.colour,
        count,
        price: size.price.map_or_else(String::new, |p| format!("{p:.2}")),
        cost: cost.map_or_else(String::new, |c| format!("{c:.2}")),
        grams: format!("{grams:.1}"),
    }
}
