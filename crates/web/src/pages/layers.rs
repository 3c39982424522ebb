//! Choices of layers, material and stock: one address, one change each.

use actix_web::{HttpRequest, HttpResponse, get, post, web};
use inky_core::build::bridge::{self, Asked};
use inky_core::inks::Rgb;
use inky_core::layers::{Bridge, LayerChoice, Meet, Pair, Registration};
use inky_core::material::Material;
use inky_core::offset::Join;
use inky_core::recipe::{Recipe, Size};
use inky_core::stock::{Stock, StockKind};
use inky_core::tidy::{Edit, ItemId, Pigment};
use inky_core::units::{Length, Mm, Unit, parse_length};
use inky_formats::svg;
use inky_store::{JobId, Store};
use serde::{Deserialize, Serialize};

use crate::Shop;
use crate::error::WebError;
use crate::pages::bench::FOR_EVER;
use crate::pages::job::{answer, loaded, remembered, stepped};
use crate::pages::material_form::operation;
use crate::pages::saving::carry_edits;
use crate::pages::stocked;
use crate::pages::tidy::keep_first;
use crate::pages::units::Reader;
use crate::view::Line;
use crate::workshop::{Outcome, Wanted};

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

fn wrong(field: &'static str, message: impl ToString) -> WebError {
    WebError::Field {
        field,
        message: message.to_string(),
    }
}

fn colour(text: &str) -> Result<Rgb, WebError> {
    text.parse().map_err(|e| wrong("notice", e))
}

fn mm(field: &'static str, text: &str, unit: Unit) -> Result<f64, WebError> {
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
struct Change<'a> {
    asking: &'a Asking,
    unit: Unit,
    store: &'a Store,
    outcome: &'a Outcome,
    recipe: Recipe,
}

const LAYERS: &str = "layers";
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
    fn done(&mut self) -> Result<String, WebError> {
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
            "drawn" => {
                let wanted = mm("drawn", value, self.unit)?;
                let bounds = self.outcome.design.bounds();
                let own = bounds.map(|b| {
                    if a.more == "height" {
                        b.height()
                    } else {
                        b.width()
                    }
                });
                let own = own.filter(|w| *w > 0.0);
                let own = own.ok_or_else(|| wrong("drawn", "nothing is drawn yet"))?;
                self.scale(wanted / own, "drawn")?;
                format!("Drawn part {wanted:.1} mm")
            }
            "measured" => {
                let wanted = mm("measured", value, self.unit)?;
                let ends = figures(&a.more);
                let &[x0, y0, x1, y1] = ends.as_slice() else {
                    return Err(wrong(
                        "measured",
                        "draw a line on the bench first, along something whose length you know",
                    ));
                };
                let own = (x1 - x0).hypot(y1 - y0);
                if own < 0.1 {
                    return Err(wrong(
                        "measured",
                        "this line is too short to measure by; draw a longer one",
                    ));
                }
                self.scale(wanted / own, "measured")?;
                format!("Measured {wanted:.1} mm")
            }
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

    fn stock(&mut self) -> Result<String, WebError> {
        let a = self.asking;
        let layers = &self.recipe.layers;
        let stock = match a.value.as_str() {
            "own" => {
                let width = mm("stock", &a.more, self.unit)?;
                let length = if a.other.trim().is_empty() {
                    0.0
                } else {
                    mm("stock", &a.other, self.unit)?
                };
                let margin = layers.stock().map_or(5.0, |s| s.margin);
                Stock {
                    name: String::new(),
                    kind: if length > 0.0 {
                        StockKind::Offcut
                    } else {
                        StockKind::Roll
                    },
                    width,
                    length,
                    margin,
                }
            }
            n => {
                let all = layers.material().stocks;
                let at = n.parse().unwrap_or(usize::MAX);
                let found = all.into_iter().nth(at);
                found.ok_or_else(|| wrong("stock", "this stock is not in the list any more"))?
            }
        };
        let layers = self.layers();
        layers.stock = Some(stock);
        layers.place = None;
        layers.check().map_err(|e| wrong("stock", e))?;
        Ok("Stock".to_owned())
    }

    fn fit(&mut self) -> Result<String, WebError> {
        let margin = if self.asking.value.trim().is_empty() {
            0.0
        } else {
            mm("stock", &self.asking.value, self.unit)?
        };
        let own = self.outcome.checked().built.bounds;
        let stock = self.recipe.layers.stock();
        let stock = stock.ok_or_else(|| wrong("stock", "choose a stock to fit to first"))?;
        let scale = stock.scale_to_fit(own.width(), own.height(), margin);
        let scale = scale.ok_or_else(|| {
            wrong(
                "stock",
                "these margins leave nothing of the stock; make them smaller",
            )
        })?;
        self.scale(scale * 0.9999, "stock")?;
        self.layers().place = Some([stock.margin + margin, stock.margin + margin]);
        Ok("Fitted to the stock".to_owned())
    }

    /// Another finished size, as many times as large.
    fn scale(&mut self, times: f64, field: &'static str) -> Result<(), WebError> {
        let size = self.recipe.size;
        let side = |mm: Mm| Mm::new(mm.get() * times);
        let new = Size {
            width: side(size.width),
            height: side(size.height),
            ..size
        };
        self.recipe.size = new;
        self.recipe.check().map_err(|e| wrong(field, e))
    }

    fn bridges(&mut self) -> Result<String, WebError> {
        let count = number("bridges", &self.asking.value)?;
        let width = mm("bridges", &self.asking.more, self.unit)?;
        let asked = Asked {
            count: if count.fract().abs() < 1e-9 && count > 0.0 {
                count.min(99.0) as usize
            } else {
                0
            },
            width,
        };
        let built = &self.outcome.checked().built;
        let sheets = built.layers.iter().filter(|l| l.sheet);
        let mut made = Vec::new();
        let mut any = false;
        for layer in sheets {
            any = true;
            if layer.islands.is_empty() {
                continue;
            }
            let found = bridge::auto(layer, &layer.islands, asked, self.recipe.size);
            made.extend(found.map_err(|e| wrong("bridges", e))?);
        }
        if !any {
            return Err(wrong(
                "bridges",
                "bridges hold the islands of a sheet; choose the sheet first",
            ));
        }
        if made.is_empty() {
            return Err(wrong("bridges", bridge::BridgeError::NoIsland));
        }
        let number = made.len();
        self.layers().bridges.extend(made);
        Ok(format!("{number} bridges"))
    }

    fn bridge(&mut self) -> Result<String, WebError> {
        let ends = figures(&self.asking.value);
        let &[x0, y0, x1, y1] = ends.as_slice() else {
            return Err(wrong(
                "bridges",
                "drag from one side of what is cut out to the other",
            ));
        };
        if (x1 - x0).hypot(y1 - y0) < 0.2 {
            return Err(wrong(
                "bridges",
                "drag from one side of what is cut out to the other",
            ));
        }
        let size = self.recipe.size;
        let part = |x: f64, y: f64| [x / size.width.get(), y / size.height.get()];
        let (from, to) = (part(x0, y0), part(x1, y1));
        let moved = self.asking.other.parse::<usize>().ok();
        let old = moved.and_then(|n| self.recipe.layers.bridges.get_mut(n));
        if let Some(old) = old {
            (old.from, old.to) = (from, to);
            return Ok("Bridge moved".to_owned());
        }
        let width = mm("bridges", &self.asking.more, self.unit)?;
        self.layers().bridges.push(Bridge { from, to, width });
        Ok("Bridge".to_owned())
    }

    fn inlay(&mut self) -> Result<String, WebError> {
        let items = self.items()?;
        let material = self.named(&self.asking.value)?;
        let clearance = fit(&self.asking.more, self.unit)?.unwrap_or(0.05);
        let ink = self.fresh_colour();
        self.keep(material.clone());
        self.edit(Edit::Inlay {
            items: items.clone(),
            pigment: Pigment::Colour(ink),
        });
        // In the colour in stock that looks most like what the pieces had.
        let drawing = self.outcome.drawing();
        let first = items.first().and_then(|&id| drawing.item(id));
        let paint = first
            .and_then(|i| self.outcome.design.inks.get(usize::from(i.ink.0)))
            .map(|ink| ink.paint);
        let like = paint.and_then(|p| material.nearest(p));
        let stock_colour = like.map(|c| c.name.clone());
        let layer = self.layers().of_mut(ink);
        layer.material = Some(material.name.clone());
        layer.colour = stock_colour;
        layer.clearance = Some(clearance);
        Ok(format!("Inserts of {}", material.name))
    }

    fn backing(&mut self) -> Result<String, WebError> {
        let material = self.named(&self.asking.value)?;
        let margin = mm("inlay", &self.asking.more, self.unit)?;
        let ink = self.fresh_colour();
        self.keep(material.clone());
        self.edit(Edit::Backing {
            margin,
            join: Join::Round,
            holes: false,
            pigment: Pigment::Colour(ink),
        });
        // It lies under all others.
        let built = &self.outcome.checked().built;
        let mut order: Vec<Rgb> = built.layers.iter().map(|l| l.colour).collect();
        order.insert(0, ink);
        let layers = self.layers();
        layers.order = order;
        layers.of_mut(ink).material = Some(material.name.clone());
        Ok(format!("Backing of {}", material.name))
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

#[post("/jobs/{id}/layers")]
async fn change(
    request: HttpRequest,
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    form: web::Form<Asking>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let (id, form) = (*id, form.into_inner());
    let line = Line::from_slug(&form.line).unwrap_or(Line::Layers);
    let now = loaded(&shop, id).await?;
    let before = shop
        .workshop
        .trace(id, now.recipe.clone(), Wanted::Kept)
        .await?;
    let (store, old) = (shop.store.clone(), now.recipe.clone());
    let outcome = before.clone();
    let revision = form.revision;
    let (recipe, name) = shop
        .workshop
        .run(move |_| {
            let mut change = Change {
                asking: &form,
                unit: reader.0,
                store: &store,
                outcome: &outcome,
                recipe: old.clone(),
            };
            let name = change.done()?;
            let mut recipe = change.recipe;
            recipe.check().map_err(|e| wrong(LAYERS, e))?;
            if recipe.size != old.size {
                carry_edits(&old, &mut recipe);
            }
            Ok((recipe, name))
        })
        .await?;
    if recipe == now.recipe {
        let beside = remembered(&shop, id).await?;
        let both = (before.as_ref(), beside.as_deref());
        let ticket = now.ticket(&recipe, both, line, reader.0);
        return Ok(answer(&request, ticket, true, true));
    }
    keep(
        &request,
        &shop,
        (id, revision),
        (now.recipe, recipe),
        (name, line),
        reader.0,
    )
    .await
}

/// Keeps a recipe as a step and answers with what changed. What cannot be made never becomes a step.
pub(crate) async fn keep(
    request: &HttpRequest,
    shop: &web::Data<Shop>,
    (id, revision): (JobId, i64),
    (old, mut new): (Recipe, Recipe),
    (name, line): (String, Line),
    unit: Unit,
) -> Result<HttpResponse, WebError> {
    keep_first(shop, id, &old, &mut new).await?;
    let outcome = shop.workshop.trace(id, new.clone(), Wanted::Kept).await?;
    let after = stepped(shop, (id, revision), name, (old, new.clone())).await?;
    let beside = remembered(shop, id).await?;
    let both = (outcome.as_ref(), beside.as_deref());
    Ok(answer(
        request,
        after.ticket(&new, both, line, unit),
        true,
        true,
    ))
}

#[derive(Serialize)]
struct BenchLayer {
    letter: String,
    name: String,
    paint: String,
    show: bool,
    cut: bool,
    operation: &'static str,
    /// What lies in hand, filled by the even-odd rule.
    parts: String,
    /// What the tool follows, where it is not the edge of the parts.
    lines: Option<String>,
    strokes: Vec<(String, f64)>,
    under: String,
    marks: String,
    islands: String,
    sheet: bool,
}

#[derive(Serialize)]
struct BenchStock {
    width: f64,
    length: f64,
    margin: f64,
    /// Whether it goes on for longer than is shown.
    goes_on: bool,
    /// From the design to the stock: the six figures of an affine map.
    map: [f64; 6],
}

#[derive(Serialize)]
struct Bench {
    layers: Vec<BenchLayer>,
    bounds: [f64; 4],
    mirrored: bool,
    stock: Option<BenchStock>,
    bridges: Vec<[f64; 5]>,
}

/// More of a roll than this beyond the design is not shown, mm.
const SHOWN: f64 = 60.0;

fn bench(outcome: &Outcome) -> Bench {
    let built = &outcome.checked().built;
    let layers = built.layers.iter().map(|l| BenchLayer {
        letter: l.letter.clone(),
        name: l.stock_colour.clone().unwrap_or_default(),
        paint: l.paint.to_string(),
        show: l.show,
        cut: l.cut,
        operation: l.operation.word(),
        parts: svg::path_data(l.rings()),
        lines: l
            .moved_lines
            .as_ref()
            .map(|all| svg::path_data(all.iter().flat_map(inky_core::shapes::Shape::rings))),
        strokes: l
            .strokes
            .iter()
            .map(|s| (svg::stroke_data(s), s.width.mean))
            .collect(),
        under: svg::path_data(l.under.iter().flat_map(inky_core::overlay::Rings::all)),
        marks: svg::path_data(l.registration.iter()),
        islands: svg::path_data(l.islands.iter().flat_map(|&n| l.shapes[n].rings())),
        sheet: l.sheet,
    });
    let b = built.bounds;
    let stock = outcome.layers.stock().map(|stock| {
        let place = inky_core::check::place(&outcome.layers, &stock);
        let used = (place[1] + b.height() + SHOWN).max(SHOWN);
        BenchStock {
            width: stock.width,
            length: stock.reach().min(used.max(stock.width * 0.3)),
            margin: stock.margin,
            goes_on: stock.reach() > used.max(stock.width * 0.3),
            map: built.on_stock(place).as_coeffs(),
        }
    });
    let size = outcome.design.size;
    let (w, h) = (size.width.get(), size.height.get());
    Bench {
        layers: layers.collect(),
        bounds: [b.x0, b.y0, b.x1, b.y1],
        mirrored: built.mirrored,
        stock,
        bridges: outcome
            .layers
            .bridges
            .iter()
            .map(|s| {
                [
                    s.from[0] * w,
                    s.from[1] * h,
                    s.to[0] * w,
                    s.to[1] * h,
                    s.width,
                ]
            })
            .collect(),
    }
}

#[get("/jobs/{id}/results/{key}/layers.json")]
async fn drawn(
    shop: web::Data<Shop>,
    path: web::Path<(JobId, String)>,
) -> Result<HttpResponse, WebError> {
    let outcome = shop.workshop.kept(path.into_inner().1).await?;
    let body = shop
        .workshop
        .run(move |_| Ok(serde_json::to_string(&bench(&outcome))?))
        .await?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header(FOR_EVER)
        .body(body))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(change).service(drawn);
}
