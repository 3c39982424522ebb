//! The rail: inks with their areas, and the figures that are always in sight.

use inky_core::agreement::EdgeOff;
use inky_core::recipe::Recipe;
use inky_core::shapes::DesignInk;
use inky_core::units::Unit;

use crate::text;
use crate::workshop::Outcome;

pub(crate) struct RailInk {
    pub(crate) letter: String,
    pub(crate) hatch: usize,
    /// Its colour in the artwork, which names it in forms.
    pub(crate) colour: String,
    /// The colour it is drawn and cut in.
    pub(crate) paint: String,
    pub(crate) name: String,
    pub(crate) figures: String,
    /// Shapes and nodes of a kept ink.
    pub(crate) counts: String,
    pub(crate) kept: bool,
    /// Whether it can be named, repainted and switched: neither transparency nor enclosed ground.
    pub(crate) own: bool,
    /// The ink that it counts as, where it was merged into another: its letter, or its name.
    pub(crate) part_of: Option<String>,
    /// Inks that it may be merged into: colour and what they are called.
    pub(crate) others: Vec<(String, String)>,
}

/// What an ink is called: as it was named by hand, else by its colour.
pub(crate) fn name_of(recipe: &Recipe, outcome: &Outcome, ink: &DesignInk) -> String {
    let inks = &outcome.design.inks;
    let added = !outcome
        .solid
        .inks
        .iter()
        .any(|name| name.colour == ink.colour);
    let typed = |colour| {
        let found = outcome.solid.ink_of(colour).and_then(|i| inks.get(i));
        let near = found.is_some_and(|found| std::ptr::eq(found, ink));
        if added { colour == ink.colour } else { near }
    };
    if ink.clear {
        return "Clear".to_owned();
    }
    let named = recipe.inks.names.iter().rev().find(|n| typed(n.colour));
    let plain = colour_name(ink.paint.0);
    match named {
        Some(n) => n.name.clone(),
        None if ink.enclosed => format!("{plain}, enclosed"),
        None => plain.to_owned(),
    }
}

/// The inks, kept ones first.
pub(crate) fn rail(recipe: &Recipe, outcome: &Outcome, unit: Unit) -> Vec<RailInk> {
    let mut hatch = 0;
    let inks = &outcome.design.inks;
    let kept = inks.iter().filter(|i| i.letter.is_some());
    kept.chain(inks.iter().filter(|i| i.letter.is_none()))
        .map(|ink| {
            let kept = ink.letter.is_some();
            let called = |other: &DesignInk| match &other.letter {
                Some(letter) => format!("{letter} {}", name_of(recipe, outcome, other)),
                None => name_of(recipe, outcome, other),
            };
            let part_of = ink.part_of.map(|i| called(&inks[usize::from(i.0)]));
            let traced =
                |ink: &DesignInk| outcome.solid.inks.iter().any(|i| i.colour == ink.colour);
            let others = inks.iter().filter(|other| {
                traced(ink)
                    && traced(other)
                    && !ink.clear
                    && !ink.enclosed
                    && !other.clear
                    && !other.enclosed
                    && other.part_of.is_none()
                    && other.colour != ink.colour
            });
            let figures = if kept && !ink.is_cut() {
                "no part is large enough".to_owned()
            } else if kept && !traced(ink) {
                text::large_area(ink.area, unit)
            } else if kept {
                format!(
                    "{} · {}",
                    text::large_area(ink.area, unit),
                    text::percent(ink.share)
                )
            } else if let Some(other) = &part_of {
                format!("counts as {other}")
            } else {
                format!("dropped · {}", text::percent(ink.share))
            };
            let counts = if ink.is_cut() {
                text::counts(ink.shapes, ink.strokes, ink.nodes)
            } else {
                String::new()
            };
            hatch += usize::from(kept);
            RailInk {
                letter: ink.letter.clone().unwrap_or_else(|| "–".to_owned()),
                hatch: if kept { hatch } else { 0 },
                colour: ink.colour.to_string(),
                paint: ink.paint.to_string(),
                name: name_of(recipe, outcome, ink),
                figures,
                counts,
                kept,
                own: !ink.clear && !ink.enclosed,
                part_of,
                others: others
                    .map(|other| (other.colour.to_string(), called(other)))
                    .collect(),
            }
        })
        .collect()
}

/// A measure that is always in sight.
pub(crate) struct Figure {
    pub(crate) name: &'static str,
    pub(crate) value: String,
    pub(crate) unit: &'static str,
    /// The same of the remembered result.
    pub(crate) beside: Option<String>,
}

/// The measures that are always in sight.
pub(crate) fn figures(outcome: &Outcome, unit: Unit) -> Vec<Figure> {
    let f = &outcome.design.figures;
    let symbol = unit.symbol();
    let (cut, cut_unit) = text::long_length(f.cut_length, unit);
    let size = outcome.design.size;
    let agreement = outcome.agreement.as_ref();
    let dash = || "–".to_owned();
    // Curves of lines are held against the middle that was found, outlines against the artwork.
    let [(off, mean), (within, most)] = if f.shapes == 0 && f.strokes > 0 {
        let length = |v: f64| text::length(v, unit, 3);
        [
            ("Off the middle, mean", length(f.deviation.mean)),
            ("… at most", length(f.deviation.max)),
        ]
    } else {
        let length = |of: fn(&EdgeOff) -> f64| {
            agreement.map_or_else(dash, |a| text::length(of(&a.edge), unit, 3))
        };
        [
            ("Off the artwork, mean", length(|edge| edge.mean)),
            ("… for 95 % of it", length(|edge| edge.most)),
        ]
    };
    let all = [
        if f.strokes > 0 {
            ("Stroke lines", f.strokes.to_string(), "")
        } else {
            ("Shapes", f.shapes.to_string(), "")
        },
        ("Nodes", f.nodes.to_string(), ""),
        ("Width", text::side(size.width.get(), unit), symbol),
        ("Height", text::side(size.height.get(), unit), symbol),
        (off, mean, symbol),
        (within, most, symbol),
        (
            "Smallest part",
            f.smallest_part
                .map_or_else(|| "–".to_owned(), |a| text::small_area(a, unit)),
            unit.area_symbol(),
        ),
        ("Cut length", cut, cut_unit),
    ];
    // Their number never changes, so that each keeps its place on the page.
    let agrees = agreement.map_or_else(dash, |a| format!("{:.0}", (a.share * 100.0).floor()));
    let left_out = agreement.map_or_else(dash, |a| a.left_out.parts.to_string());
    all.into_iter()
        .chain([
            ("Agrees with artwork", agrees, "%"),
            ("Parts left out", left_out, ""),
        ])
        .map(|(name, value, unit)| Figure {
            name,
            value,
            unit,
            beside: None,
        })
        .collect()
}

/// Names of flat colours by hue and lightness, for inks nobody has named.
fn colour_name([r, g, b]: [u8; 3]) -> &'static str {
    let (max, min) = (r.max(g).max(b), r.min(g).min(b));
    let lightness = (u16::from(max) + u16::from(min)) / 2;
    if max - min < 26 {
        return match lightness {
            0..=48 => "Black",
            49..=110 => "Dark grey",
            111..=190 => "Grey",
            191..=235 => "Pale grey",
            _ => "White",
        };
    }
    let spread = f64::from(max - min);
    let (rf, gf, bf) = (f64::from(r), f64::from(g), f64::from(b));
    let hue = if max == r {
        60.0 * ((gf - bf) / spread).rem_euclid(6.0)
    } else if max == g {
        60.0 * ((bf - rf) / spread + 2.0)
    } else {
        60.0 * ((rf - gf) / spread + 4.0)
    };
    let dark = lightness < 96;
    let pale = lightness > 184;
    match hue as u16 {
        0..=15 | 346..=360 => {
            if dark {
                "Dark red"
            } else if pale {
                "Pink"
            } else {
                "Red"
            }
        }
        16..=42 => {
            if dark {
                "Brown"
            } else if pale {
                "Sand"
            } else {
                "Orange"
            }
        }
        43..=66 => {
            if dark {
                "Olive"
            } else if pale {
                "Cream"
            } else {
                "Yellow"
            }
        }
        67..=160 => {
            if dark {
                "Dark green"
            } else if pale {
                "Pale green"
            } else {
                "Green"
            }
        }
        161..=199 => {
            if dark {
                "Dark teal"
            } else if pale {
                "Pale teal"
            } else {
                "Teal"
            }
        }
        200..=255 => {
            if dark {
                "Navy"
            } else if pale {
                "Pale blue"
            } else {
                "Blue"
            }
        }
        256..=295 => {
            if dark {
                "Dark violet"
            } else {
                "Violet"
            }
        }
        _ => {
            if dark {
                "Plum"
            } else {
                "Pink"
            }
        }
    }
}
