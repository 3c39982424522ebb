//! Changes of an arrangement: one address, one change each.

use actix_web::{HttpRequest, HttpResponse, post, web};
use inky_core::plan::{PathKey, Pull};
use inky_core::sheet::choice::{Arrange, Copies, Guest, Ordered, Placed, SheetChoice};
use inky_core::sheet::piece::Spot;
use inky_core::units::Unit;
use inky_store::JobId;
use serde::Deserialize;

use crate::Shop;
use crate::error::WebError;
use crate::error::wrong;
use crate::pages::job::{laid, loaded};
use crate::pages::layering::mm;
use crate::pages::layers::keep;
use crate::pages::units::Reader;
use crate::pages::words::word;
use crate::refusal::Refusal;
use crate::view::Line;
use crate::workshop::{Laid, OnSheet, Wanted};

/// A change of the sheets as a control sends it.
#[derive(Debug, Deserialize)]
pub(crate) struct Asking {
    revision: i64,
    #[serde(rename = "do")]
    what: What,
    #[serde(default)]
    value: String,
    /// Name of the sheet.
    #[serde(default)]
    sheet: String,
    /// Number of an item, of a job, or of a path as `layer/path`.
    #[serde(default)]
    which: String,
}

/// What is changed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
enum What {
    Copies,
    Arrange,
    Gap,
    Turns,
    Grain,
    Single,
    Weed,
    Relief,
    Panels,
    Trial,
    Lead,
    Zones,
    Guest,
    GuestCopies,
    GuestOff,
    Move,
    Pull,
    OrderBack,
}

/// Where a path is pulled to.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Pulled {
    First,
    Earlier,
    Later,
    Last,
}

/// Usual distances, mm, when something is switched on.
const WEED_BOX: f64 = 5.0;
const RELIEF: f64 = 50.0;
const LAP: f64 = 10.0;

impl Asking {
    /// Whether a box is ticked.
    fn on(&self) -> Result<bool, WebError> {
        match self.value.as_str() {
            "on" | "true" => Ok(true),
            "" | "off" | "false" => Ok(false),
            _ => Err(wrong(
                field(self.what),
                "a box is ticked or it is not; reload the page",
            )),
        }
    }

    /// A distance: the usual one when it is ticked, none when it is not, else as typed.
    fn distance(
        &self,
        field: &'static str,
        usual: f64,
        unit: Unit,
    ) -> Result<Option<f64>, WebError> {
        match self.value.as_str() {
            "" | "off" => Ok(None),
            "on" => Ok(Some(usual)),
            typed => mm(field, typed, unit).map(Some),
        }
    }

    /// The changed choice, and the name of the step.
    fn done(
        &self,
        choice: &SheetChoice,
        laid: &Laid,
        unit: Unit,
    ) -> Result<(SheetChoice, String), WebError> {
        // Most changes lay everything anew.
        let mut new = choice.laid_anew();
        let name = match self.what {
            What::Copies => {
                new.copies = match self.value.trim() {
                    "width" => Copies::Width,
                    "sheet" => Copies::Sheet,
                    typed => Copies::Number(typed.parse().map_err(|_| {
                        wrong(
                            "copies",
                            format!("'{typed}' is no number of copies; write it like 6"),
                        )
                    })?),
                };
                match new.copies {
                    Copies::Number(1) => "1 copy".to_owned(),
                    Copies::Number(n) => format!("{n} copies"),
                    Copies::Width => "Copies fill the width".to_owned(),
                    Copies::Sheet => "Copies fill the sheet".to_owned(),
                }
            }
            What::Arrange => {
                new.arrange = word("sheet", &self.value)?;
                "Laid out in rows".to_owned()
            }
            What::Gap => {
                new.gap = Some(mm("gap", &self.value, unit)?);
                "Gap on the sheet".to_owned()
            }
            What::Turns => {
                new.turns = word("sheet", &self.value)?;
                "Turns on the sheet".to_owned()
            }
            What::Grain => {
                new.grain = self.on()?;
                "Direction of the material".to_owned()
            }
            What::Single => {
                new.single = self.on()?;
                if new.single {
                    "Parts lie singly"
                } else {
                    "Copies stay together"
                }
                .to_owned()
            }
            What::Weed => {
                new = with_room(choice, self.distance("weed", WEED_BOX, unit)?, laid);
                "Weed box".to_owned()
            }
            What::Relief => {
                let every = self.distance("weed", RELIEF, unit)?;
                let away = choice.weed_box.or(every.and(Some(WEED_BOX)));
                new = with_room(choice, away, laid);
                new.relief = every;
                "Relief lines".to_owned()
            }
            What::Panels => {
                new.panels = self.distance("panels", LAP, unit)?;
                "Panels".to_owned()
            }
            What::Trial => {
                new.trial = self.on()?;
                "Trial cut".to_owned()
            }
            What::Lead => {
                new = choice.clone();
                new.lead = Some(mm("sheet", &self.value, unit)?);
                "Lead-in".to_owned()
            }
            What::Zones => {
                new.zones = self.on()?;
                "A zone for each owner".to_owned()
            }
            What::Guest => {
                let job = self.job()?;
                if new.guests.iter().all(|g| g.job != job) {
                    new.guests.push(Guest { job, copies: 1 });
                }
                "Another job on the sheet".to_owned()
            }
            What::GuestCopies => {
                let job = self.job()?;
                let copies = self.value.trim().parse().map_err(|_| {
                    wrong("guests", format!("'{}' is no number of copies", self.value))
                })?;
                new.guests
                    .iter_mut()
                    .filter(|g| g.job == job)
                    .for_each(|g| g.copies = copies);
                "Copies of another job".to_owned()
            }
            What::GuestOff => {
                let job = self.job()?;
                new.guests.retain(|g| g.job != job);
                "A job off the sheet".to_owned()
            }
            What::Move => {
                new = self.moved(choice, laid)?;
                "Part moved on the sheet".to_owned()
            }
            What::Pull => {
                new = self.pulled(choice, laid)?;
                "Order of cutting".to_owned()
            }
            What::OrderBack => {
                new = choice.clone();
                new.ordered.retain(|o| o.sheet != self.sheet);
                "Order of cutting by itself".to_owned()
            }
        };
        Ok((new, name))
    }

    fn job(&self) -> Result<i64, WebError> {
        self.which
            .parse()
            .map_err(|_| wrong("guests", "choose a job first"))
    }

    fn sheet<'a>(&self, laid: &'a Laid) -> Result<&'a OnSheet, WebError> {
        let own = laid.sheets.iter().find(|s| s.sheet.name == self.sheet);
        own.ok_or_else(|| wrong("sheet", "this sheet is no more; open the line again"))
    }

    /// An item at another spot: `value` is x, y and turn.
    fn moved(&self, choice: &SheetChoice, laid: &Laid) -> Result<SheetChoice, WebError> {
        let own = self.sheet(laid)?;
        let figures: Vec<f64> = self
            .value
            .split(',')
            .filter_map(|v| v.trim().parse().ok())
            .filter(|v: &f64| v.is_finite())
            .collect();
        let (Ok(n), [x, y, turn]) = (self.which.parse::<usize>(), figures.as_slice()) else {
            return Err(wrong("sheet", "a part is moved by x, y and its turn"));
        };
        let items = &own.sheet.items;
        let known = own.load.item_count(choice);
        let mut spots: Vec<Option<Spot>> = items.iter().take(known).map(|i| i.spot).collect();
        spots.resize(known, None);
        let Some(spot) = spots.get_mut(n) else {
            return Err(wrong("sheet", "this part is no more; open the line again"));
        };
        *spot = Some(Spot {
            x: *x,
            y: *y,
            turn: turn.rem_euclid(360.0),
        });
        let mut new = choice.clone();
        new.placed.retain(|p| p.sheet != self.sheet);
        new.ordered.retain(|o| o.sheet != self.sheet);
        new.placed.push(Placed {
            sheet: self.sheet.clone(),
            spots,
        });
        Ok(new)
    }

    /// A path pulled: `value` is a [`Pulled`].
    fn pulled(&self, choice: &SheetChoice, laid: &Laid) -> Result<SheetChoice, WebError> {
        let own = self.sheet(laid)?;
        let (_, plan) = own.planned();
        let path = self.which.split_once('/').and_then(|(l, p)| {
            Some(PathKey {
                layer: l.parse().ok()?,
                path: p.parse().ok()?,
            })
        });
        let at = path.and_then(|k| plan.steps.iter().position(|s| s.key == k));
        let (Some(path), Some(at)) = (path, at) else {
            return Err(wrong("sheet", "this path is no more; open the line again"));
        };
        let key = |n: usize| plan.steps.get(n).map(|s| s.key);
        let before = match word("sheet", &self.value)? {
            Pulled::First => key(0),
            Pulled::Earlier => key(at.saturating_sub(1)),
            Pulled::Later => key(at + 2),
            Pulled::Last => None,
        };
        let mut new = choice.clone();
        if before == Some(path) {
            return Ok(new);
        }
        let pull = Pull { path, before };
        match new.ordered.iter_mut().find(|o| o.sheet == self.sheet) {
            Some(ordered) => ordered.pulled.push(pull),
            None => new.ordered.push(Ordered {
                sheet: self.sheet.clone(),
                pulled: vec![pull],
            }),
        }
        Ok(new)
    }
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
        let Some(own) = laid.sheets.iter().find(|s| s.sheet.name == placed.sheet) else {
            continue;
        };
        let room = own.sheet.stock.usable();
        let Some(b) = own.sheet.bounds() else {
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

#[post("/jobs/{id}/sheet")]
async fn change(
    request: HttpRequest,
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    form: web::Form<Asking>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let (id, form) = (*id, form.into_inner());
    let now = loaded(&shop, id).await?;
    let outcome = shop
        .workshop
        .trace(id, now.recipe.clone(), Wanted::Kept)
        .await?;
    let sheets = laid(&shop, id, &now.recipe, &outcome).await?;
    let (old, revision) = (now.recipe.clone(), form.revision);
    let (recipe, name) = shop
        .workshop
        .run(move |_| {
            let (sheet, name) = form.done(&old.sheet, &sheets, reader.0)?;
            sheet.check().map_err(|e| e.beside(field(form.what)))?;
            let mut recipe = old;
            recipe.sheet = sheet;
            Ok((recipe, name))
        })
        .await?;
    keep(
        &request,
        &shop,
        (id, revision),
        (now.recipe, recipe),
        (name, Line::Sheet),
        reader.0,
    )
    .await
}

/// Where a refusal is told.
const fn field(what: What) -> &'static str {
    match what {
        What::Copies => "copies",
        What::Gap => "gap",
        What::Weed | What::Relief => "weed",
        What::Panels => "panels",
        What::Guest | What::GuestCopies | What::GuestOff => "guests",
        _ => "sheet",
    }
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(change);
}
