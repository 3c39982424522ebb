//! The form of choices: typed text to a recipe, and a name for the step in the history.
//!
//! `changed` lists the fields a person touched; only those are taken, so a figure that is merely
//! shown (rounded, or chosen by the program) never becomes a choice.

use inky_core::expression::parse_length;
use inky_core::inks::{InkMode, InkName, Merge, Repaint, Rgb, Rim, RimKind, Switch};
use inky_core::recipe::Recipe;
use inky_core::shapes::Edges;
use inky_core::units::{Length, Mm, SquareMm, Unit, parse_angle, parse_area};
use inky_store::Job;
use serde::Deserialize;

use crate::error::{WebError, wrong};
use crate::pages::cleaning;
use crate::refusal::Refusal;
use crate::view::Line;

/// Every field the ticket and the rail can send.
#[derive(Debug, Default, Deserialize)]
#[serde(default)]
pub(crate) struct Choices {
    pub(crate) revision: i64,
    pub(crate) line: String,
    changed: String,
    mode: String,
    count: String,
    threshold: String,
    invert: String,
    tolerance: String,
    corner: String,
    smooth: String,
    local: String,
    min_part: String,
    edges: String,
    width: String,
    height: String,
    locked: String,
    switch: String,
    kept: bool,
    rename: String,
    name: String,
    merge: String,
    into: String,
    repaint: String,
    paint: String,
    above: String,
    band: String,
    rim: String,
    rim_width: String,
    added: String,
    not_added: String,
    enclosed: String,
    not_enclosed: String,
    clean: String,
}

/// What a field holds when the figure is left to the program.
const AUTOMATIC: &str = "auto";

fn number(field: &'static str, text: &str, example: &str) -> Result<f64, WebError> {
    let plain = text.trim().trim_end_matches('%').trim().replace(',', ".");
    plain
        .parse::<f64>()
        .ok()
        .filter(|v| v.is_finite())
        .ok_or_else(|| {
            wrong(
                field,
                format!("'{text}' is not a number; write it like {example}"),
            )
        })
}

fn colour(text: &str) -> Result<Rgb, WebError> {
    text.parse().map_err(|e| wrong("notice", e))
}

impl Choices {
    /// The line the form belongs to.
    pub(crate) fn line(&self) -> Line {
        Line::from_slug(&self.line).unwrap_or(Line::Trace)
    }

    /// The recipe with the touched fields taken over, checked.
    pub(crate) fn apply(&self, old: &Recipe, job: &Job, unit: Unit) -> Result<Recipe, WebError> {
        let mut recipe = old.clone();
        for field in self.changed.split_whitespace() {
            self.take(field, &mut recipe, job, unit)?;
            recipe.check().map_err(|e| e.beside(field_of(field)))?;
        }
        Ok(recipe)
    }

    fn take(
        &self,
        field: &str,
        recipe: &mut Recipe,
        job: &Job,
        unit: Unit,
    ) -> Result<(), WebError> {
        let frame = cleaning::frame(recipe, job);
        let (width_px, height_px) = (frame.width, frame.height);
        match field {
            "mode" => {
                recipe.inks.mode = match self.mode.as_str() {
                    "mono" => InkMode::Mono {
                        threshold: None,
                        invert: false,
                        local: false,
                        above: None,
                    },
                    "several" => InkMode::Count {
                        count: self.count()?,
                    },
                    _ => InkMode::Auto,
                };
            }
            "count" => {
                recipe.inks.mode = InkMode::Count {
                    count: self.count()?,
                }
            }
            "threshold" | "invert" | "local" => {
                let (before, above) = match recipe.inks.mode {
                    InkMode::Mono {
                        threshold,
                        local,
                        above,
                        ..
                    } => ((threshold, local), above),
                    _ => ((None, false), None),
                };
                let (threshold, local) = match (field, self.threshold.as_str()) {
                    ("invert", _) => before,
                    ("local", _) => (None, self.local == "on"),
                    (_, AUTOMATIC) => (None, false),
                    (_, text) => (Some(number("threshold", text, "45 %")?), false),
                };
                recipe.inks.mode = InkMode::Mono {
                    threshold,
                    invert: self.invert == "on",
                    local,
                    above: above.filter(|&a| threshold.is_some_and(|t| a < t)),
                };
            }
            "band" | "above" => {
                if let InkMode::Mono {
                    threshold, above, ..
                } = &mut recipe.inks.mode
                {
                    let upper = number("threshold", &self.threshold, "45 %")?;
                    *threshold = Some(upper);
                    *above = match field {
                        "band" => (self.band == "on").then_some((upper / 2.0).floor()),
                        _ => Some(number("above", &self.above, "20 %")?),
                    };
                }
            }
            "rim" | "rim_width" => {
                let width = length("rim_width", &self.rim_width, unit)?;
                recipe.inks.rim = match self.rim.as_str() {
                    "band" => Some(RimKind::Band),
                    "pulled-in" => Some(RimKind::PulledIn),
                    _ => None,
                }
                .map(|kind| Rim { kind, width });
            }
            "added" => {
                let colour = colour(&self.added)?;
                recipe.inks.added.retain(|&c| c != colour);
                recipe.inks.added.push(colour);
            }
            "not_added" => {
                let colour = colour(&self.not_added)?;
                recipe.inks.added.retain(|&c| c != colour);
            }
            "enclosed" => {
                let place = cleaning::place(recipe, job, &self.enclosed)
                    .ok_or_else(|| wrong("notice", "point inside the picture"))?;
                recipe.inks.enclosed.push(place);
            }
            "not_enclosed" => {
                let index: usize = self.not_enclosed.parse().unwrap_or(usize::MAX);
                if index < recipe.inks.enclosed.len() {
                    recipe.inks.enclosed.remove(index);
                }
            }
            "clean" => *recipe = cleaning::edited(recipe, job, &self.clean)?,
            "tolerance" => {
                recipe.trace.tolerance =
                    self.automatic(&self.tolerance, |t| length("tolerance", t, unit))?;
            }
            "corner" => {
                recipe.trace.corner = self.automatic(&self.corner, |t| {
                    parse_angle(t).map_err(|e| wrong("corner", e))
                })?;
            }
            "smooth" => {
                recipe.trace.smooth =
                    self.automatic(&self.smooth, |t| length("smooth", t, unit))?;
            }
            "min_part" => {
                let area = |t: &str| -> Result<SquareMm, WebError> {
                    parse_area(t, Unit::Mm).map_err(|e| wrong("min_part", e))
                };
                recipe.trace.min_part = self.automatic(&self.min_part, area)?;
            }
            "edges" => {
                recipe.trace.edges = match self.edges.as_str() {
                    "outer" => Edges::Outer,
                    "solid" => Edges::Solid,
                    "centreline" => Edges::CentreLine,
                    _ => Edges::All,
                };
            }
            "width" => {
                recipe.size = recipe.size.with_width(
                    length("width", &self.width, unit)?,
                    width_px,
                    height_px,
                );
            }
            "height" => {
                recipe.size = recipe.size.with_height(
                    length("height", &self.height, unit)?,
                    width_px,
                    height_px,
                );
            }
            "locked" => {
                recipe.size.locked = self.locked == "on";
                if recipe.size.locked {
                    recipe.size = recipe
                        .size
                        .with_width(recipe.size.width, width_px, height_px);
                }
            }
            "switch" => {
                let colour = colour(&self.switch)?;
                recipe.inks.switched.retain(|s| s.colour != colour);
                recipe.inks.switched.push(Switch {
                    colour,
                    kept: self.kept,
                });
            }
            "merge" => {
                let colour = colour(&self.merge)?;
                recipe.inks.merged.retain(|m| m.colour != colour);
                if !self.into.is_empty() {
                    let into = self::colour(&self.into)?;
                    recipe.inks.merged.push(Merge { colour, into });
                }
            }
            "repaint" => {
                let colour = colour(&self.repaint)?;
                let paint = self::colour(&self.paint)?;
                recipe.inks.repainted.retain(|r| r.colour != colour);
                if paint != colour {
                    recipe.inks.repainted.push(Repaint { colour, paint });
                }
            }
            "rename" => {
                let colour = colour(&self.rename)?;
                recipe.inks.names.retain(|n| n.colour != colour);
                let name: String = self
                    .name
                    .trim()
                    .chars()
                    .filter(|c| !c.is_control())
                    .take(40)
                    .collect();
                if !name.is_empty() {
                    recipe.inks.names.push(InkName { colour, name });
                }
            }
            _ => {}
        }
        Ok(())
    }

    fn count(&self) -> Result<usize, WebError> {
        let count = number("count", &self.count, "4")?;
        // A count of 1 or 1,000 is told what is allowed by the recipe's own check.
        Ok(count.clamp(0.0, 1e6).round() as usize)
    }

    fn automatic<T>(
        &self,
        text: &str,
        parse: impl Fn(&str) -> Result<T, WebError>,
    ) -> Result<Option<T>, WebError> {
        if text.trim() == AUTOMATIC {
            Ok(None)
        } else {
            parse(text).map(Some)
        }
    }
}

fn field_of(field: &str) -> &'static str {
    Line::ALL
        .iter()
        .flat_map(|l| l.fields())
        .find(|f| **f == field)
        .copied()
        .unwrap_or("notice")
}

fn length(field: &'static str, text: &str, unit: Unit) -> Result<Mm, WebError> {
    match parse_length(text, unit) {
        Ok(Length::Mm(value)) => Ok(Mm::new(value)),
        Ok(Length::Px(_)) => Err(wrong(
            field,
            "a length on the piece is asked for; use mm or in",
        )),
        Err(e) => Err(wrong(field, e)),
    }
}
