//! The form of choices: typed text to a recipe, and a name for the step in the history.
//!
//! `changed` lists the fields a person touched; only those are taken, so a figure that is merely
//! shown (rounded, or chosen by the program) never becomes a choice.

use inky_core::inks::{
    InkChoice, InkMode, InkName, Levels, Merge, Repaint, Rgb, Rim, RimKind, Screen, Switch,
};
use inky_core::recipe::{Recipe, TraceChoice};
use inky_core::shapes::Edges;
use inky_core::size::Size;
use inky_core::units::{Unit, parse_angle, parse_area};
use inky_store::Job;
use serde::Deserialize;

use crate::error::{WebError, wrong};
use crate::form::Tick;
use crate::job::clean::asked as cleaning;
use crate::job::line::Line;
use crate::refusal::Refusal;
use crate::typed::{length, number};
use crate::word::word;

/// Every field the ticket and the rail can send.
#[derive(Debug, Default, Deserialize)]
#[serde(default)]
pub(crate) struct Choices {
    pub(crate) revision: i64,
    pub(crate) line: Line,
    changed: String,
    mode: ModeAsked,
    count: String,
    threshold: String,
    invert: Tick,
    tolerance: String,
    corner: String,
    smooth: String,
    local: Tick,
    min_part: String,
    edges: Edges,
    width: String,
    height: String,
    locked: Tick,
    switch: String,
    kept: bool,
    rename: String,
    name: String,
    merge: String,
    into: String,
    repaint: String,
    paint: String,
    above: String,
    band: Tick,
    rim: RimAsked,
    rim_width: String,
    added: String,
    not_added: String,
    enclosed: String,
    not_enclosed: String,
    clean: String,
    tones: String,
    levels: LevelsAsked,
    level1: String,
    level2: String,
    level3: String,
    level4: String,
    level5: String,
    even: String,
    narrowest: String,
    pitch: String,
    angle: String,
    light: Tick,
}

/// The names of the fields that can be touched.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Field {
    Mode,
    Count,
    Threshold,
    Invert,
    Local,
    Band,
    Above,
    Rim,
    RimWidth,
    Added,
    NotAdded,
    Enclosed,
    NotEnclosed,
    Clean,
    Tones,
    Levels,
    Level1,
    Level2,
    Level3,
    Level4,
    Level5,
    Even,
    Narrowest,
    Pitch,
    Angle,
    Light,
    Tolerance,
    Corner,
    Smooth,
    MinPart,
    Edges,
    Width,
    Height,
    Locked,
    Switch,
    Merge,
    Repaint,
    Rename,
}

/// How the artwork is parted into inks.
#[derive(Clone, Copy, Debug, Default, Deserialize)]
#[serde(rename_all = "lowercase")]
enum ModeAsked {
    #[default]
    Auto,
    Several,
    Mono,
    Tones,
    Silhouette,
    Rows,
    Dots,
}

/// Where one tone ends and the next begins.
#[derive(Clone, Copy, Debug, Default, Deserialize)]
#[serde(rename_all = "lowercase")]
enum LevelsAsked {
    #[default]
    Found,
    Equal,
    Hand,
}

/// What is kept of one tone.
#[derive(Clone, Copy, Debug, Default, Deserialize)]
#[serde(rename_all = "kebab-case")]
enum RimAsked {
    #[default]
    None,
    Band,
    PulledIn,
}

/// What a field holds when the figure is left to the program.
const AUTOMATIC: &str = "auto";

fn colour(text: &str) -> Result<Rgb, WebError> {
    text.parse().map_err(|e| wrong("notice", e))
}

impl Choices {
    /// The recipe with the touched fields taken over, checked.
    pub(crate) fn apply(&self, old: &Recipe, job: &Job, unit: Unit) -> Result<Recipe, WebError> {
        let mut recipe = old.clone();
        for field in self.changed.split_whitespace() {
            self.take(word("notice", field)?, &mut recipe, job, unit)?;
            recipe.check().map_err(|e| e.beside(Line::field(field)))?;
        }
        Ok(recipe)
    }

    fn take(
        &self,
        field: Field,
        recipe: &mut Recipe,
        job: &Job,
        unit: Unit,
    ) -> Result<(), WebError> {
        match field {
            Field::Mode => *recipe = self.parted(recipe)?,
            Field::Tones
            | Field::Levels
            | Field::Level1
            | Field::Level2
            | Field::Level3
            | Field::Level4
            | Field::Level5
            | Field::Even
            | Field::Narrowest => self.take_tones(field, &mut recipe.inks, unit)?,
            Field::Pitch | Field::Angle | Field::Light => {
                self.take_screen(field, &mut recipe.inks, unit)?;
            }
            Field::Count
            | Field::Threshold
            | Field::Invert
            | Field::Local
            | Field::Band
            | Field::Above => self.take_mode(field, &mut recipe.inks.mode)?,
            Field::Rim | Field::RimWidth => {
                let width = length("rim_width", &self.rim_width, unit)?;
                let kind = match self.rim {
                    RimAsked::None => None,
                    RimAsked::Band => Some(RimKind::Band),
                    RimAsked::PulledIn => Some(RimKind::PulledIn),
                };
                recipe.inks.rim = kind.map(|kind| Rim { kind, width });
            }
            Field::Added
            | Field::NotAdded
            | Field::Switch
            | Field::Merge
            | Field::Repaint
            | Field::Rename => self.take_ink(field, &mut recipe.inks)?,
            Field::Enclosed => {
                let place = cleaning::place(recipe, job, &self.enclosed)
                    .ok_or_else(|| wrong("notice", "point inside the picture"))?;
                recipe.inks.enclosed.push(place);
            }
            Field::NotEnclosed => {
                let all = &mut recipe.inks.enclosed;
                let index = self.not_enclosed.parse().ok();
                let index: usize = index.filter(|&n| n < all.len()).ok_or_else(|| {
                    wrong("notice", "this place is kept no longer; reload the page")
                })?;
                all.remove(index);
            }
            Field::Clean => *recipe = cleaning::edited(recipe, job, &self.clean, unit)?,
            Field::Tolerance | Field::Corner | Field::Smooth | Field::MinPart | Field::Edges => {
                self.take_trace(field, &mut recipe.trace, unit)?
            }
            Field::Width | Field::Height | Field::Locked => {
                let frame = cleaning::frame(recipe, job);
                recipe.size = self.sized(field, recipe.size, (frame.width, frame.height), unit)?;
            }
        }
        Ok(())
    }

    /// One tone or several, and the thresholds.
    fn take_mode(&self, field: Field, mode: &mut InkMode) -> Result<(), WebError> {
        let (before, before_local, before_above) = match *mode {
            InkMode::Mono {
                threshold,
                local,
                above,
                ..
            } => (threshold, local, above),
            _ => (None, false, None),
        };
        let mono = |threshold: Option<f64>, local, above: Option<f64>| InkMode::Mono {
            threshold,
            invert: self.invert.is_on(),
            local,
            above: above.filter(|&a| threshold.is_some_and(|t| a < t)),
        };
        let percent = |field, text: &str| number(field, text, "45 %");
        *mode = match (field, *mode) {
            (Field::Count, _) => self.several()?,
            (Field::Local, _) => mono(None, self.local.is_on(), before_above),
            (Field::Threshold, _) if self.threshold == AUTOMATIC => mono(None, false, before_above),
            (Field::Threshold, _) => {
                let threshold = percent("threshold", &self.threshold)?;
                mono(Some(threshold), false, before_above)
            }
            (Field::Band | Field::Above, InkMode::Mono { invert, local, .. }) => {
                let upper = percent("threshold", &self.threshold)?;
                // What lies beyond the upper end is told by the recipe's own check.
                let above = match field {
                    Field::Band => self.band.is_on().then_some((upper / 2.0).floor()),
                    _ => Some(percent("above", &self.above)?),
                };
                InkMode::Mono {
                    threshold: Some(upper),
                    invert,
                    local,
                    above,
                }
            }
            (Field::Invert, _) => mono(before, before_local, before_above),
            _ => *mode,
        };
        Ok(())
    }

    /// The recipe with the artwork parted in another way.
    fn parted(&self, recipe: &Recipe) -> Result<Recipe, WebError> {
        let mode = match self.mode {
            ModeAsked::Auto => InkMode::Auto,
            ModeAsked::Several => self.several()?,
            ModeAsked::Mono => InkMode::Mono {
                threshold: None,
                invert: false,
                local: false,
                above: None,
            },
            ModeAsked::Tones => InkMode::Tones,
            ModeAsked::Silhouette => InkMode::Silhouette,
            ModeAsked::Rows | ModeAsked::Dots => InkMode::Screen,
        };
        let mut parted = recipe.parted(mode);
        match self.mode {
            ModeAsked::Rows => parted.inks.screen.screen = Screen::Rows,
            ModeAsked::Dots => parted.inks.screen.screen = Screen::Dots,
            _ => {}
        }
        Ok(parted)
    }

    /// How many tones, and where they end.
    fn take_tones(&self, field: Field, inks: &mut InkChoice, unit: Unit) -> Result<(), WebError> {
        let tones = &mut inks.tones;
        match field {
            Field::Tones => {
                let count = number("tones", &self.tones, "4")?;
                tones.count = count.clamp(0.0, 1e6).round() as usize;
                // Levels by hand are those of another number.
                if matches!(tones.levels, Levels::Hand { .. }) {
                    tones.levels = Levels::Found;
                }
            }
            Field::Even => tones.even = number("even", &self.even, "40 %")?,
            Field::Narrowest => {
                let narrowest = |t: &str| length("narrowest", t, unit);
                tones.narrowest = automatic(&self.narrowest, narrowest)?;
            }
            Field::Levels => {
                tones.levels = match self.levels {
                    LevelsAsked::Found => Levels::Found,
                    LevelsAsked::Equal => Levels::Equal,
                    LevelsAsked::Hand => self.by_hand(tones.count)?,
                }
            }
            _ => tones.levels = self.by_hand(tones.count)?,
        }
        Ok(())
    }

    /// Every level as it is shown, for one that was moved.
    fn by_hand(&self, count: usize) -> Result<Levels, WebError> {
        let all = [
            ("level1", &self.level1),
            ("level2", &self.level2),
            ("level3", &self.level3),
            ("level4", &self.level4),
            ("level5", &self.level5),
        ];
        let shown = all.into_iter().take(count.saturating_sub(1));
        let percents = shown.map(|(name, text)| number(name, text, "45 %"));
        Ok(Levels::Hand {
            percents: percents.collect::<Result<_, _>>()?,
        })
    }

    /// How rows or dots are drawn.
    fn take_screen(&self, field: Field, inks: &mut InkChoice, unit: Unit) -> Result<(), WebError> {
        let screen = &mut inks.screen;
        match field {
            Field::Pitch => {
                screen.pitch = automatic(&self.pitch, |t| length("pitch", t, unit))?;
            }
            Field::Angle => {
                let angle = |t: &str| parse_angle(t).map_err(|e| wrong("angle", e));
                screen.angle = automatic(&self.angle, angle)?;
            }
            _ => screen.invert = self.light.is_on(),
        }
        Ok(())
    }

    fn several(&self) -> Result<InkMode, WebError> {
        let count = number("count", &self.count, "4")?;
        // A count of 1 or 1,000 is told what is allowed by the recipe's own check.
        let count = count.clamp(0.0, 1e6).round() as usize;
        Ok(InkMode::Count { count })
    }

    /// What is said of one ink, by its colour.
    fn take_ink(&self, field: Field, inks: &mut InkChoice) -> Result<(), WebError> {
        match field {
            Field::Added => {
                let colour = colour(&self.added)?;
                inks.added.retain(|&c| c != colour);
                inks.added.push(colour);
            }
            Field::NotAdded => {
                let colour = colour(&self.not_added)?;
                inks.added.retain(|&c| c != colour);
            }
            Field::Switch => {
                let colour = colour(&self.switch)?;
                inks.switched.retain(|s| s.colour != colour);
                inks.switched.push(Switch {
                    colour,
                    kept: self.kept,
                });
            }
            Field::Merge => {
                let colour = colour(&self.merge)?;
                inks.merged.retain(|m| m.colour != colour);
                if !self.into.is_empty() {
                    let into = self::colour(&self.into)?;
                    inks.merged.push(Merge { colour, into });
                }
            }
            Field::Repaint => {
                let colour = colour(&self.repaint)?;
                let paint = self::colour(&self.paint)?;
                inks.repainted.retain(|r| r.colour != colour);
                if paint != colour {
                    inks.repainted.push(Repaint { colour, paint });
                }
            }
            _ => {
                let colour = colour(&self.rename)?;
                inks.names.retain(|n| n.colour != colour);
                let name = self.name.trim().chars().filter(|c| !c.is_control());
                let name: String = name.take(40).collect();
                if !name.is_empty() {
                    inks.names.push(InkName { colour, name });
                }
            }
        }
        Ok(())
    }

    /// How the edges are followed.
    fn take_trace(
        &self,
        field: Field,
        trace: &mut TraceChoice,
        unit: Unit,
    ) -> Result<(), WebError> {
        match field {
            Field::Tolerance => {
                trace.tolerance = automatic(&self.tolerance, |t| length("tolerance", t, unit))?;
            }
            Field::Corner => {
                let angle = |t: &str| parse_angle(t).map_err(|e| wrong("corner", e));
                trace.corner = automatic(&self.corner, angle)?;
            }
            Field::Smooth => {
                trace.smooth = automatic(&self.smooth, |t| length("smooth", t, unit))?;
            }
            Field::MinPart => {
                let area = |t: &str| parse_area(t, unit).map_err(|e| wrong("min_part", e));
                trace.min_part = automatic(&self.min_part, area)?;
            }
            _ => trace.edges = self.edges,
        }
        Ok(())
    }

    fn sized(
        &self,
        field: Field,
        size: Size,
        (width_px, height_px): (u32, u32),
        unit: Unit,
    ) -> Result<Size, WebError> {
        Ok(match field {
            Field::Width => {
                let width = length("width", &self.width, unit)?;
                size.with_width(width, width_px, height_px)
            }
            Field::Height => {
                let height = length("height", &self.height, unit)?;
                size.with_height(height, width_px, height_px)
            }
            _ if self.locked.is_on() => Size {
                locked: true,
                ..size
            }
            .with_width(size.width, width_px, height_px),
            _ => Size {
                locked: false,
                ..size
            },
        })
    }
}

/// A figure, or `None` where it is left to the program.
fn automatic<T>(
    text: &str,
    parse: impl Fn(&str) -> Result<T, WebError>,
) -> Result<Option<T>, WebError> {
    match text.trim() {
        AUTOMATIC => Ok(None),
        text => parse(text).map(Some),
    }
}
