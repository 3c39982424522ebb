//! The Layers line: what each ink is cut from, how layers meet, inserts, sheets and their bridges.

use inky_core::assembly::Layer;
use inky_core::layers::{LayerChoice, Meet};
use inky_core::material::Operation;
use inky_core::overlay::{self, Keep, Rings};
use inky_core::recipe::Recipe;
use inky_core::shapes::Ring;
use inky_core::units::Unit;

use crate::job::layers::asked::FITS;
use crate::job::layers::stones::{self, StonesBody};
use crate::job::rail::name_of;
use crate::text;
use crate::workshop::{Checked, Outcome};

/// Something to choose: its word, how it is called, whether it is chosen.
pub(crate) struct Choice {
    pub(crate) word: String,
    pub(crate) label: String,
    pub(crate) on: bool,
}

/// One layer, as the ticket and the rail show it.
pub(crate) struct LayerRow {
    pub(crate) letter: String,
    pub(crate) hatch: usize,
    /// The colour that names its ink.
    pub(crate) colour: String,
    /// How it looks.
    pub(crate) paint: String,
    pub(crate) name: String,
    /// The name of its colour in stock.
    pub(crate) stock_colour: String,
    pub(crate) material: String,
    pub(crate) operation: &'static str,
    pub(crate) figures: String,
    pub(crate) show: bool,
    pub(crate) cut: bool,
    pub(crate) operations: Vec<Choice>,
    pub(crate) colours: Vec<Choice>,
    /// Names of materials; the first stands for that of the job.
    pub(crate) materials: Vec<Choice>,
    /// How much smaller than its hole it is, for an insert.
    pub(crate) clearance: Option<String>,
    /// Number of the ink, for moving pieces to it.
    pub(crate) number: usize,
    pub(crate) can_rise: bool,
    pub(crate) can_sink: bool,
    /// For the work order: parts, length.
    pub(crate) parts: usize,
    pub(crate) length: String,
    pub(crate) size: String,
}

pub(crate) struct PairRow {
    pub(crate) lower: String,
    pub(crate) upper: String,
    pub(crate) letters: String,
    pub(crate) choices: Vec<Choice>,
    pub(crate) margin: String,
}

/// The controls of the Layers line.
pub(crate) struct LayersBody {
    pub(crate) materials: Vec<Choice>,
    /// Whether the shop's own list has other values now.
    pub(crate) stale: bool,
    /// Layers, the topmost first.
    pub(crate) layers: Vec<LayerRow>,
    pub(crate) meet: &'static str,
    pub(crate) margin: String,
    pub(crate) pairs: Vec<PairRow>,
    pub(crate) registration: Option<(String, String)>,
    pub(crate) kerf: Option<bool>,
    pub(crate) sheet: &'static str,
    pub(crate) is_sheet: bool,
    pub(crate) border: String,
    pub(crate) bridges: Vec<String>,
    pub(crate) bridge_width: String,
    pub(crate) islands: usize,
    /// Pieces that drop out of holes where parts are cut through.
    pub(crate) drop_outs: usize,
    /// Where an overlap is wider than what lies above.
    pub(crate) too_wide: Option<String>,
    /// Materials for inserts and backings; the job's own is chosen.
    pub(crate) others: Vec<Choice>,
    pub(crate) stones: StonesBody,
    /// How inserts fit.
    pub(crate) fits: Vec<Choice>,
}

/// A layer's word for its operation.
fn word(operation: Operation) -> String {
    operation.word().replace(' ', "-")
}

fn choice(word: impl Into<String>, label: impl Into<String>, on: bool) -> Choice {
    Choice {
        word: word.into(),
        label: label.into(),
        on,
    }
}

/// The layers, the topmost first. `names` are those of the shop's materials.
pub(crate) fn rows(
    recipe: &Recipe,
    outcome: &Outcome,
    checked: &Checked,
    names: &[String],
    unit: Unit,
) -> Vec<LayerRow> {
    let layers = &checked.built.layers;
    let kept = outcome.design.inks.iter().filter(|i| i.letter.is_some());
    let order: Vec<_> = kept.map(|i| i.colour).collect();
    let row = |(n, layer): (usize, &Layer)| {
        let set = recipe.layers.of(layer.colour);
        let ink = &outcome.design.inks[usize::from(layer.ink.0)];
        let material = &layer.material;
        let (length, symbol) = text::long_length(layer.length(), unit);
        let parts = layer.shapes.len();
        let job = recipe.layers.material().name;
        let mut operations = vec![choice(
            "",
            material.operation.word(),
            set.operation.is_none(),
        )];
        operations.extend(
            Operation::ALL
                .into_iter()
                .filter(|o| *o != material.operation)
                .map(|o| choice(word(o), o.word(), set.operation == Some(o))),
        );
        let colours = material.colours.iter();
        let chosen = layer.stock_colour.as_ref();
        let mut materials = vec![choice("", job.clone(), set.material.is_none())];
        materials.extend(
            names
                .iter()
                .filter(|name| **name != job)
                .map(|name| choice(name, name, set.material.as_ref() == Some(name))),
        );
        let bounds = layer.bounds().unwrap_or_default();
        LayerRow {
            letter: layer.letter.clone(),
            hatch: order
                .iter()
                .position(|c| *c == layer.colour)
                .map_or(0, |n| n + 1),
            colour: layer.colour.to_string(),
            paint: layer.paint.to_string(),
            name: name_of(recipe, outcome, ink),
            stock_colour: layer.stock_colour.clone().unwrap_or_default(),
            material: material.name.clone(),
            operation: layer.operation.word(),
            figures: format!(
                "{length} {symbol} · {}",
                match (parts, layer.strokes.len()) {
                    (0, n) => text::some(n, "line"),
                    (n, _) => text::some(n, "part"),
                }
            ),
            show: layer.show,
            cut: layer.cut,
            operations,
            colours: colours
                .map(|c| choice(&c.name, &c.name, Some(&c.name) == chosen))
                .collect(),
            materials,
            clearance: set
                .clearance
                .map(|c| format!("{} {}", text::length(c, unit, 2), unit.symbol())),
            number: usize::from(layer.ink.0),
            can_rise: n + 1 < layers.len(),
            can_sink: n > 0,
            parts,
            length: format!("{length} {symbol}"),
            size: format!(
                "{} × {} {}",
                text::length(bounds.width(), unit, 1),
                text::length(bounds.height(), unit, 1),
                unit.symbol()
            ),
        }
    };
    layers.iter().enumerate().rev().map(row).collect()
}

fn meet(meet: Meet) -> &'static str {
    match meet {
        Meet::Flush => "flush",
        Meet::Overlap => "overlap",
        Meet::Stacked => "stacked",
    }
}

fn pairs(checked: &Checked, layers: &LayerChoice, unit: Unit) -> Vec<PairRow> {
    let all = &checked.built.layers;
    let mut rows = Vec::new();
    for (n, lower) in all.iter().enumerate() {
        for upper in &all[n + 1..] {
            let pair = layers
                .pairs
                .iter()
                .rev()
                .find(|p| p.lower == lower.colour && p.upper == upper.colour);
            let (_, margin) = layers.meets(lower.colour, upper.colour);
            let words = ["flush", "overlap", "stacked"];
            let mut choices = vec![choice("", "as all", pair.is_none())];
            choices.extend(
                words
                    .into_iter()
                    .map(|w| choice(w, w, pair.is_some_and(|p| meet(p.meet) == w))),
            );
            rows.push(PairRow {
                lower: lower.colour.to_string(),
                upper: upper.colour.to_string(),
                letters: format!("{} under {}", lower.letter, upper.letter),
                choices,
                margin: text::length(margin, unit, 2),
            });
        }
    }
    rows
}

/// A bridge is by default this much wider than the thinnest stroke.
const BRIDGE: f64 = 1.25;

/// The controls of the line. `names` are those of the materials that are offered; `stale` tells whether the
/// job's own has other values than the shop's.
pub(crate) fn body(
    recipe: &Recipe,
    outcome: &Outcome,
    (names, stale): (&[String], bool),
    unit: Unit,
) -> LayersBody {
    let checked = outcome.checked();
    let layers = &recipe.layers;
    let material = layers.material();
    let mut materials: Vec<Choice> = names
        .iter()
        .map(|n| choice(n, n, *n == material.name))
        .collect();
    if !materials.iter().any(|m| m.on) {
        materials.insert(0, choice(&material.name, &material.name, true));
    }
    let has_kerf = checked.built.layers.iter().any(|l| l.material.kerf > 0.0);
    let bridge = layers
        .bridges
        .last()
        .map_or(material.limits.stroke * BRIDGE, |b| b.width);
    LayersBody {
        materials,
        stale,
        layers: rows(recipe, outcome, checked, names, unit),
        meet: meet(layers.meet),
        margin: text::length(layers.margin(), unit, 2),
        pairs: pairs(checked, layers, unit),
        registration: layers
            .registration
            .map(|r| (text::length(r.size, unit, 1), text::length(r.gap, unit, 1))),
        kerf: has_kerf.then(|| layers.kerf != Some(false)),
        sheet: match layers.negative {
            None => "auto",
            Some(true) => "yes",
            Some(false) => "no",
        },
        is_sheet: layers.negative(),
        border: text::length(layers.border.unwrap_or(inky_core::layers::BORDER), unit, 1),
        bridges: layers
            .bridges
            .iter()
            .map(|b| format!("{} {}", text::length(b.width, unit, 2), unit.symbol()))
            .collect(),
        bridge_width: text::length(bridge, unit, 2),
        drop_outs: drop_outs(checked),
        too_wide: too_wide(&checked.built.layers, layers),
        islands: checked.built.layers.iter().map(|l| l.islands.len()).sum(),
        others: names
            .iter()
            .map(|n| choice(n, n, *n == material.name))
            .collect(),
        stones: stones::body(&checked.built.layers, material.limits.gap, unit),
        fits: FITS
            .iter()
            .map(|&(word, mm)| {
                let clearance = text::told_length(mm, unit, 2).replace('-', "−");
                choice(word, format!("{word}, {clearance}"), word == "snug")
            })
            .collect(),
    }
}

fn drop_outs(checked: &Checked) -> usize {
    let through = |l: &&Layer| l.operation == Operation::CutThrough && !l.sheet;
    let layers = checked.built.cut().filter(through);
    layers.flat_map(|l| &l.shapes).map(|s| s.holes.len()).sum()
}

/// Overlaps that are so wide that the lower layer goes on under all of what lies above.
fn too_wide(layers: &[Layer], choice: &LayerChoice) -> Option<String> {
    let mut told = Vec::new();
    for (n, lower) in layers.iter().enumerate() {
        let under: Vec<&Ring> = lower.under.iter().flat_map(Rings::all).collect();
        for upper in &layers[n + 1..] {
            let (meet, _) = choice.meets(lower.colour, upper.colour);
            if under.is_empty() || meet != Meet::Overlap {
                continue;
            }
            let over: Vec<&Ring> = upper.rings().collect();
            let both = overlay::overlay(&under, &over, Keep::Both);
            if both.iter().map(Rings::area).sum::<f64>() > 0.999 * upper.area() {
                told.push(format!(
                    "{} goes on under all of {}",
                    lower.letter, upper.letter
                ));
            }
        }
    }
    let told = told.join(", ");
    (!told.is_empty()).then(|| format!("The overlap is wider than what lies above: {told}."))
}

/// The line's result.
pub(crate) fn summary(layers: &LayerChoice, checked: Option<&Checked>, unit: Unit) -> String {
    let Some(checked) = checked else {
        return layers.material().name;
    };
    let built = &checked.built;
    let count = built.cut().count();
    let how = if built.layers.iter().any(|l| l.sheet) {
        match built.layers.iter().map(|l| l.islands.len()).sum::<usize>() {
            0 => "sheet".to_owned(),
            n => format!("sheet, **{n}** would fall out"),
        }
    } else if built.layers.len() < 2 {
        layers.material().name
    } else {
        match layers.meet {
            Meet::Flush => "flush".to_owned(),
            Meet::Overlap => format!(
                "overlap **{}** {}",
                text::length(layers.margin(), unit, 2),
                unit.symbol()
            ),
            Meet::Stacked => "stacked".to_owned(),
        }
    };
    format!(
        "**{count}** layer{} · {how}",
        if count == 1 { "" } else { "s" }
    )
}

/// Why it is as it is.
pub(crate) fn why(layers: &LayerChoice, tones: bool) -> String {
    let material = layers.material();
    let chosen = if layers.materials.is_empty() {
        format!("{} until another material is chosen", material.name)
    } else {
        format!(
            "{} with the values it had when it was chosen",
            material.name
        )
    };
    let mirrored = if layers.mirrored() {
        "; cut mirrored, since it is applied face down"
    } else {
        ""
    };
    let lowest = if tones {
        "Tones lie from the lightest"
    } else {
        "The largest layer lies lowest"
    };
    format!("{chosen}{mirrored}. {lowest} unless they are put in order.")
}
