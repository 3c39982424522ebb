//! The Size line: size, stock, what is left, the checks and weeding.

use inky_core::check::{Finding, Severity, Weeding, box_on_stock};
use inky_core::layers::LayerChoice;
use inky_core::material::Material;
use inky_core::recipe::Recipe;
use inky_core::units::{MM_PER_INCH, Unit};

use crate::job::artwork::shown::ppi;
use crate::job::layers::shown::Choice;
use crate::materials::{shown as materials, stocked};
use crate::text::{self, Bit, bits};
use crate::workshop::{Checked, Outcome};

/// A place of a finding.
pub(crate) struct PlaceRow {
    /// The number that marks it on the bench.
    pub(crate) number: usize,
    pub(crate) x: f64,
    pub(crate) y: f64,
    pub(crate) figures: String,
}

/// Findings of one kind on one layer.
pub(crate) struct CheckRow {
    pub(crate) kind: &'static str,
    pub(crate) layer: String,
    pub(crate) severity: &'static str,
    pub(crate) title: String,
    pub(crate) why: &'static str,
    pub(crate) places: Vec<PlaceRow>,
    /// Places beyond those that are listed.
    pub(crate) more: usize,
    /// Word and label of each remedy.
    pub(crate) remedies: Vec<(&'static str, &'static str)>,
}

/// The controls of the Size line.
pub(crate) struct SizeBody {
    pub(crate) width: String,
    pub(crate) height: String,
    pub(crate) locked: bool,
    pub(crate) drawn: Option<(String, String)>,
    pub(crate) stocks: Vec<Choice>,
    pub(crate) own: Option<(String, String)>,
    pub(crate) left: String,
    /// Where the design lies on the stock and how large it is, mm; empty without a stock.
    pub(crate) place: String,
    pub(crate) boxed: String,
    pub(crate) mirror: &'static str,
    pub(crate) mirror_why: String,
    pub(crate) checks: Vec<CheckRow>,
    /// How many kinds of checks there are to look at; notes are none.
    pub(crate) to_look_at: usize,
    /// What was mended, from the history.
    pub(crate) mended: Vec<String>,
    pub(crate) weeding: Vec<Bit>,
    pub(crate) weeding_places: Vec<(f64, f64, String)>,
}

/// Places listed of each kind.
const PLACES: usize = 12;

/// Findings by kind and layer, numbered through.
pub(crate) fn rows(checked: &Checked, unit: Unit) -> Vec<CheckRow> {
    let mut rows: Vec<CheckRow> = Vec::new();
    let mut number = 0;
    let layers = &checked.built.layers;
    let mut all = checked.findings.iter().peekable();
    while let Some(first) = all.next() {
        let mut group: Vec<&Finding> = vec![first];
        while let Some(next) = all.next_if(|f| (f.kind, f.layer) == (first.kind, first.layer)) {
            group.push(next);
        }
        let count = group.len();
        let letter = first.layer.and_then(|n| layers.get(n)).map(|l| &l.letter);
        let places = group.iter().take(PLACES).map(|f| {
            number += 1;
            PlaceRow {
                number,
                x: f.at.x,
                y: f.at.y,
                figures: f.figures(unit),
            }
        });
        let places: Vec<PlaceRow> = places.collect();
        rows.push(CheckRow {
            kind: first.kind.slug(),
            layer: first.layer.map_or_else(String::new, |n| n.to_string()),
            severity: first.severity().word(),
            title: format!(
                "{}{}{}",
                first.kind.title(),
                letter.map_or_else(String::new, |l| format!(" on {l}")),
                if count > 1 {
                    format!(" × {count}")
                } else {
                    String::new()
                }
            ),
            why: first.kind.why(),
            more: count - places.len(),
            places,
            remedies: first
                .kind
                .remedies()
                .iter()
                .map(|r| (r.slug(), r.words()))
                .collect(),
        });
    }
    rows
}

/// What is to be looked at, for every line but Size, which lists it whole.
pub(crate) fn to_mend(checked: &Checked, unit: Unit) -> Vec<CheckRow> {
    let mut all = rows(checked, unit);
    all.retain(|row| row.severity != Severity::Note.word());
    all
}

/// The line's result: the finished size, and what the checks found.
pub(crate) fn summary(outcome: &Outcome, unit: Unit) -> String {
    let size = outcome.design.size;
    format!(
        "**{} × {}** {}{}",
        text::side(size.width.get(), unit),
        text::side(size.height.get(), unit),
        unit.symbol(),
        found(outcome.if_checked())
    )
}

/// How the sides hang together.
pub(crate) const fn why(recipe: &Recipe) -> &'static str {
    if recipe.size.locked {
        ""
    } else {
        "Both sides are free: the picture may be stretched."
    }
}

/// How large a pixel of the artwork becomes.
pub(crate) fn facts(outcome: &Outcome, unit: Unit) -> String {
    let ppi = ppi(outcome);
    format!(
        "One pixel is **{}** {} across at this size, **{ppi:.0}** ppi.",
        text::length(MM_PER_INCH / ppi, unit, 3),
        unit.symbol()
    )
}

fn to_look_at(checked: &Checked) -> usize {
    checked.kinds(|severity| severity != Severity::Note)
}

/// The end of the line's result: checks to look at.
fn found(checked: Option<&Checked>) -> String {
    match checked.map(to_look_at) {
        None => String::new(),
        Some(0) => " · fit to cut".to_owned(),
        Some(1) => " · **1** check".to_owned(),
        Some(n) => format!(" · **{n}** checks"),
    }
}

/// What will be left over of the stock, in words.
fn left(layers: &LayerChoice, checked: &Checked, unit: Unit) -> String {
    let Some(stock) = layers.stock() else {
        return "The material has no stock in its list.".to_owned();
    };
    let used = box_on_stock(&checked.built, layers, &stock);
    let left = stock.left(used);
    let long = |mm: f64| {
        let (figure, symbol) = text::long_length(mm, unit);
        format!("{figure} {symbol}")
    };
    let price = layers.material().price * stock.width * left.used_length / 1e6;
    let beside = format!("{} beside it left over", area(left.beside, unit));
    if stock.shape.is_some() {
        return format!(
            "Of the piece {} is left beside it.",
            area(left.beside, unit)
        );
    }
    let rest = match (left.length, left.area) {
        (Some(length), Some(all)) => {
            let of = long(stock.length);
            format!(", {} of {of} left ({})", long(length), area(all, unit))
        }
        _ => String::new(),
    };
    let cost = if price > 0.0 {
        format!(". Material {price:.2}")
    } else {
        String::new()
    };
    format!("{} used, {beside}{rest}{cost}.", long(left.used_length))
}

/// An area of stock: square metres or feet once it is that large.
fn area(mm2: f64, unit: Unit) -> String {
    match unit {
        Unit::Mm if mm2 >= 1e5 => format!("{:.2} m²", mm2 / 1e6),
        Unit::In if mm2 >= 1e5 => format!("{:.1} ft²", mm2 / (MM_PER_INCH * 12.0).powi(2)),
        _ => text::large_area(mm2, unit),
    }
}

fn mirror_why(layers: &LayerChoice) -> String {
    let material = layers.material();
    let usual = if material.from_behind {
        format!("{} is cut from behind: mirrored.", material.name)
    } else {
        format!("{} is seen from the front: not mirrored.", material.name)
    };
    match layers.mirror {
        Some(on) if on != material.from_behind => format!("{usual} Chosen otherwise by hand."),
        _ => usual,
    }
}

/// Weeding in words.
pub(crate) fn weeding(w: &Weeding, unit: Unit) -> String {
    let small = match w.small.len() {
        0 => String::new(),
        n => format!(
            ": {} under {} {}",
            text::some(n, "part"),
            text::length(w.small_under, unit, 1),
            unit.symbol()
        ),
    };
    let (length, symbol) = text::long_length(w.length, unit);
    let thin = w.thinnest.map_or_else(String::new, |(width, _)| {
        format!(
            ", thinnest waste {} {}",
            text::length(width, unit, 2),
            unit.symbol()
        )
    });
    format!(
        "**{}**{small}. {}, {} to pick out, {length} {symbol} of line{thin}.",
        capital(w.word),
        text::some(w.parts, "part"),
        text::some(w.holes, "hole")
    )
}

fn capital(word: &str) -> String {
    let mut letters = word.chars();
    letters
        .next()
        .map_or_else(String::new, |c| c.to_uppercase().chain(letters).collect())
}

/// The controls of the line; `history` are the steps up to the one in force, `shop` the materials as the shop has them now.
pub(crate) fn body(
    recipe: &Recipe,
    outcome: &Outcome,
    (history, shop): (&[String], &[Material]),
    unit: Unit,
) -> SizeBody {
    let layers = &recipe.layers;
    let size = outcome.design.size;
    let side = |mm: f64| text::side(mm, unit);
    let chosen = layers.stock();
    let known = stocked::offered(&layers.material(), shop);
    let mut stocks: Vec<Choice> = known
        .iter()
        .enumerate()
        .map(|(n, s)| Choice {
            word: n.to_string(),
            label: materials::stock(s, unit),
            on: Some(s) == chosen.as_ref(),
        })
        .collect();
    let typed = !stocks.iter().any(|s| s.on);
    stocks.push(Choice {
        word: "own".to_owned(),
        label: "another size …".to_owned(),
        on: typed,
    });
    // A quick answer has none, and shows no list.
    let checked = outcome.if_checked();
    let mut places: Vec<(f64, f64, String)> = checked
        .map_or(&[][..], |c| &c.weeding.small)
        .iter()
        .take(PLACES)
        .map(|(across, at)| {
            (
                at.x,
                at.y,
                format!("{} {}", text::length(*across, unit, 1), unit.symbol()),
            )
        })
        .collect();
    if let Some((width, at)) = checked.and_then(|c| c.weeding.thinnest) {
        places.push((
            at.x,
            at.y,
            format!("waste {} {}", text::length(width, unit, 2), unit.symbol()),
        ));
    }
    let stock = layers.stock();
    let lies = checked.and_then(|c| Some(box_on_stock(&c.built, layers, stock.as_ref()?)));
    SizeBody {
        width: side(size.width.get()),
        height: side(size.height.get()),
        locked: recipe.size.locked,
        drawn: outcome
            .design
            .bounds()
            .map(|b| (side(b.width()), side(b.height()))),
        stocks,
        own: chosen.filter(|_| typed).map(|s| {
            let length = if s.length > 0.0 {
                side(s.length)
            } else {
                String::new()
            };
            (side(s.width), length)
        }),
        place: lies.map_or_else(String::new, |b| format!("{},{}", b.x0, b.y0)),
        boxed: lies.map_or_else(String::new, |b| format!("{},{}", b.width(), b.height())),
        left: checked.map_or_else(String::new, |c| left(layers, c, unit)),
        mirror: match layers.mirror {
            None => "auto",
            Some(true) => "yes",
            Some(false) => "no",
        },
        mirror_why: mirror_why(layers),
        checks: checked.map_or_else(Vec::new, |c| rows(c, unit)),
        to_look_at: checked.map_or(0, to_look_at),
        mended: history
            .iter()
            .filter_map(|name| name.strip_prefix("Mended: "))
            .map(str::to_owned)
            .collect(),
        weeding: checked.map_or_else(Vec::new, |c| bits(&weeding(&c.weeding, unit))),
        weeding_places: places,
    }
}

/// What the printed work order tells beside the layers.
pub(crate) struct WorkOrder {
    pub(crate) material: String,
    pub(crate) stock: String,
    pub(crate) left: String,
    pub(crate) mirrored: &'static str,
    pub(crate) checks: Vec<String>,
    pub(crate) weeding: String,
}

/// The work order of a result that was checked.
pub(crate) fn work_order(recipe: &Recipe, checked: &Checked, unit: Unit) -> WorkOrder {
    let layers = &recipe.layers;
    let stock = layers.stock();
    let told = |c: CheckRow| format!("{}: {} ({})", c.severity, c.title, c.why);
    WorkOrder {
        material: layers.material().name,
        stock: stock.map_or_else(|| "none".to_owned(), |s| materials::stock(&s, unit)),
        left: left(layers, checked, unit),
        mirrored: if checked.built.mirrored {
            "mirrored"
        } else {
            "not mirrored"
        },
        checks: rows(checked, unit).into_iter().map(told).collect(),
        weeding: weeding(&checked.weeding, unit).replace("**", ""),
    }
}
