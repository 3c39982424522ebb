//! Changes of an arrangement as the controls of the Sheet line and the hands on the bench ask for them.

use inky_core::plan::{PathKey, Pull};
use inky_core::sheet::choice::{Arrange, Copies, Guest, Ordered, Placed, SheetChoice, Turns};
use inky_core::sheet::piece::Spot;
use inky_core::units::Unit;
use serde::{Deserialize, Deserializer};

use crate::error::{WebError, wrong};
use crate::form::{Figures, Tick, parsed};
use crate::typed::mm;
use crate::workshop::{Laid, OnSheet};

/// One change. A `sheet` is named by its letter.
#[derive(Debug, Deserialize)]
#[serde(tag = "do", rename_all = "kebab-case")]
pub(crate) enum Change {
    /// A number, `width` or `sheet`.
    Copies {
        value: String,
    },
    Arrange {
        value: Arrange,
    },
    Gap {
        value: String,
    },
    Turns {
        value: Turns,
    },
    Grain {
        #[serde(default)]
        value: Tick,
    },
    Single {
        #[serde(default)]
        value: Tick,
    },
    Weed {
        #[serde(default)]
        value: Distance,
    },
    Relief {
        #[serde(default)]
        value: Distance,
    },
    Panels {
        #[serde(default)]
        value: Distance,
    },
    Trial {
        #[serde(default)]
        value: Tick,
    },
    Lead {
        value: String,
    },
    Zones {
        #[serde(default)]
        value: Tick,
    },
    /// Another job by its number; empty before one was chosen.
    Guest {
        which: String,
    },
    GuestCopies {
        #[serde(deserialize_with = "parsed")]
        which: i64,
        value: String,
    },
    GuestOff {
        #[serde(deserialize_with = "parsed")]
        which: i64,
    },
    /// An item by its number, put at x, y, mm, and turned by degrees.
    Move {
        sheet: String,
        #[serde(deserialize_with = "parsed")]
        which: usize,
        value: Figures<3>,
    },
    Pull {
        sheet: String,
        which: PathAsked,
        value: Pulled,
    },
    OrderBack {
        sheet: String,
    },
    /// What was moved by hand is laid as the program does.
    Anew,
}

/// A distance: the usual one when its box is ticked, none when it is not, else as typed.
#[derive(Debug, Default, Deserialize)]
#[serde(transparent)]
pub(crate) struct Distance(String);

impl Distance {
    fn mm(&self, field: &'static str, usual: f64, unit: Unit) -> Result<Option<f64>, WebError> {
        match self.0.as_str() {
            "" | "off" => Ok(None),
            "on" => Ok(Some(usual)),
            typed => mm(field, typed, unit).map(Some),
        }
    }
}

/// A path as `layer/path`.
#[derive(Clone, Copy, Debug)]
pub(crate) struct PathAsked(PathKey);

impl<'de> Deserialize<'de> for PathAsked {
    fn deserialize<D: Deserializer<'de>>(form: D) -> Result<Self, D::Error> {
        let text = String::deserialize(form)?;
        let key = text.split_once('/').and_then(|(layer, path)| {
            Some(PathKey {
                layer: layer.parse().ok()?,
                path: path.parse().ok()?,
            })
        });
        key.map(Self)
            .ok_or_else(|| serde::de::Error::custom("a path is two numbers"))
    }
}

/// Where a path is pulled to.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum Pulled {
    First,
    Earlier,
    Later,
    Last,
}

/// Usual distances, mm, when something is switched on.
const WEED_BOX: f64 = 5.0;
const RELIEF: f64 = 50.0;
const LAP: f64 = 10.0;

impl Change {
    /// Where a refusal is told.
    pub(crate) const fn field(&self) -> &'static str {
        match self {
            Self::Copies { .. } => "copies",
            Self::Gap { .. } => "gap",
            Self::Weed { .. } | Self::Relief { .. } => "weed",
            Self::Panels { .. } => "panels",
            Self::Guest { .. } | Self::GuestCopies { .. } | Self::GuestOff { .. } => "guests",
            _ => "sheet",
        }
    }

    /// The changed choice, and the name of the step.
    pub(crate) fn apply(
        self,
        choice: &SheetChoice,
        laid: &Laid,
        unit: Unit,
    ) -> Result<(SheetChoice, String), WebError> {
        // Most changes lay everything anew.
        let mut new = choice.laid_anew();
        let name = match self {
            Self::Copies { value } => {
                new.copies = copies(&value)?;
                match new.copies {
                    Copies::Number(1) => "1 copy".to_owned(),
                    Copies::Number(n) => format!("{n} copies"),
                    Copies::Width => "Copies fill the width".to_owned(),
                    Copies::Sheet => "Copies fill the sheet".to_owned(),
                }
            }
            Self::Arrange { value } => {
                new.arrange = value;
                match value {
                    Arrange::Rows => "Laid out in rows",
                    Arrange::Nested => "To be nested",
                }
                .to_owned()
            }
            Self::Gap { value } => {
                new.gap = Some(mm("gap", &value, unit)?);
                "Gap on the sheet".to_owned()
            }
            Self::Turns { value } => {
                new.turns = value;
                "Turns on the sheet".to_owned()
            }
            Self::Grain { value } => {
                new.grain = value.is_on();
                "Direction of the material".to_owned()
            }
            Self::Single { value } => {
                new.single = value.is_on();
                if new.single {
                    "Parts lie singly"
                } else {
                    "Copies stay together"
                }
                .to_owned()
            }
            Self::Weed { value } => {
                new = with_room(choice, value.mm("weed", WEED_BOX, unit)?, laid);
                "Weed box".to_owned()
            }
            Self::Relief { value } => {
                let every = value.mm("weed", RELIEF, unit)?;
                let away = choice.weed_box.or(every.and(Some(WEED_BOX)));
                new = with_room(choice, away, laid);
                new.relief = every;
                "Relief lines".to_owned()
            }
            Self::Panels { value } => {
                new.panels = value.mm("panels", LAP, unit)?;
                "Panels".to_owned()
            }
            Self::Trial { value } => {
                new.trial = value.is_on();
                "Trial cut".to_owned()
            }
            Self::Lead { value } => {
                new = choice.clone();
                new.lead = Some(mm("sheet", &value, unit)?);
                "Lead-in".to_owned()
            }
            Self::Zones { value } => {
                new.zones = value.is_on();
                "A zone for each owner".to_owned()
            }
            Self::Guest { which } => {
                let job = which.parse();
                let job = job.map_err(|_| wrong("guests", "choose a job first"))?;
                if new.guests.iter().all(|g| g.job != job) {
                    new.guests.push(Guest { job, copies: 1 });
                }
                "Another job on the sheet".to_owned()
            }
            Self::GuestCopies { which, value } => {
                let copies = value.trim().parse();
                let copies = copies
                    .map_err(|_| wrong("guests", format!("'{value}' is no number of copies")))?;
                let guest = new.guests.iter_mut().find(|g| g.job == which);
                let guest = guest
                    .ok_or_else(|| wrong("guests", "this job is not on the sheet any more"))?;
                guest.copies = copies;
                "Copies of another job".to_owned()
            }
            Self::GuestOff { which } => {
                new.guests.retain(|g| g.job != which);
                "A job off the sheet".to_owned()
            }
            Self::Move {
                sheet,
                which,
                value,
            } => {
                new = moved(choice, on_sheet(laid, &sheet)?, (which, value))?;
                "Part moved on the sheet".to_owned()
            }
            Self::Pull {
                sheet,
                which: PathAsked(path),
                value,
            } => {
                new = pulled(choice, on_sheet(laid, &sheet)?, (path, value))?;
                "Order of cutting".to_owned()
            }
            Self::Anew => {
                new = choice.laid_anew();
                "Laid out anew".to_owned()
            }
            Self::OrderBack { sheet } => {
                new = choice.clone();
                new.ordered.retain(|o| o.sheet != sheet);
                "Order of cutting by itself".to_owned()
            }
        };
        Ok((new, name))
    }
}

fn copies(text: &str) -> Result<Copies, WebError> {
    match text.trim() {
        "width" => Ok(Copies::Width),
        "sheet" => Ok(Copies::Sheet),
        typed => typed.parse().map(Copies::Number).map_err(|_| {
            wrong(
                "copies",
                format!("'{typed}' is no number of copies; write it like 6"),
            )
        }),
    }
}

fn on_sheet<'a>(laid: &'a Laid, name: &str) -> Result<&'a OnSheet, WebError> {
    let found = laid.sheets.iter().find(|s| s.sheet.name == name);
    found.ok_or_else(|| wrong("sheet", "this sheet is no more; open the line again"))
}

/// An item at another spot.
fn moved(
    choice: &SheetChoice,
    on: &OnSheet,
    (which, Figures([x, y, turn])): (usize, Figures<3>),
) -> Result<SheetChoice, WebError> {
    let sizes = on.load.sizes(choice);
    let items = on.sheet.items.iter().take(sizes.len());
    let mut spots: Vec<Option<Spot>> = items.map(|i| i.spot).collect();
    spots.resize(sizes.len(), None);
    let Some(spot) = spots.get_mut(which) else {
        return Err(wrong("sheet", "this part is no more; open the line again"));
    };
    *spot = Some(Spot {
        x,
        y,
        turn: turn.rem_euclid(360.0),
    });
    let sheet = on.sheet.name.clone();
    let mut new = choice.clone();
    new.placed.retain(|p| p.sheet != sheet);
    new.ordered.retain(|o| o.sheet != sheet);
    new.placed.push(Placed {
        sheet,
        spots,
        sizes,
    });
    Ok(new)
}

/// A path at another place in the order of cutting.
fn pulled(
    choice: &SheetChoice,
    on: &OnSheet,
    (path, to): (PathKey, Pulled),
) -> Result<SheetChoice, WebError> {
    let (_, plan) = on.planned();
    let Some(at) = plan.steps.iter().position(|s| s.key == path) else {
        return Err(wrong("sheet", "this path is no more; open the line again"));
    };
    let key = |n: usize| plan.steps.get(n).map(|s| s.key);
    let before = match to {
        Pulled::First => key(0),
        Pulled::Earlier => key(at.saturating_sub(1)),
        Pulled::Later => key(at + 2),
        Pulled::Last => None,
    };
    let mut new = choice.clone();
    if before == Some(path) {
        return Ok(new);
    }
    let pull = Pull::of(plan, path, before);
    match new.ordered.iter_mut().find(|o| o.sheet == on.sheet.name) {
        Some(ordered) => ordered.pulled.push(pull),
        None => new.ordered.push(Ordered {
            sheet: on.sheet.name.clone(),
            pulled: vec![pull],
        }),
    }
    Ok(new)
}

/// The choice with a weed box. What was nested or put by hand stays together, and moves in from the edges of
/// what can be cut as far as the box needs and there is room.
fn with_room(choice: &SheetChoice, away: Option<f64>, laid: &Laid) -> SheetChoice {
    let mut new = choice.clone();
    new.weed_box = away;
    let Some(away) = away else {
        new.relief = None;
        return new;
    };
    if new.arrange == Arrange::Rows {
        return new.laid_anew();
    }
    for placed in &mut new.placed {
        let Some(on_sheet) = laid.sheets.iter().find(|s| s.sheet.name == placed.sheet) else {
            continue;
        };
        let room = on_sheet.sheet.stock.usable();
        let Some(b) = on_sheet.sheet.bounds() else {
            continue;
        };
        let move_in = |from: f64, to: f64, least: f64, most: f64| {
            (least + away - from)
                .max(0.0)
                .min((most - away - to).max(0.0))
        };
        let across = move_in(b.x0, b.x1, room.x0, room.x1);
        let down = move_in(b.y0, b.y1, room.y0, room.y1);
        for spot in placed.spots.iter_mut().flatten() {
            (spot.x, spot.y) = (spot.x + across, spot.y + down);
        }
    }
    new
}
