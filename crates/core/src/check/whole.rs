//! What concerns layers and the stock: too large, off the stock, mirrored, hidden, without overlap.

use kurbo::{Affine, Point, Rect, Shape as _};

use super::chords::Chords;
use super::finding::{Finding, Measure};
use super::kind::Kind;
use super::lines;
use super::odd::OddPiece;
use super::parts::across;
use crate::assembly::{Built, Layer};
use crate::layers::LayerChoice;
use crate::overlay::{self, Keep, Rings};
use crate::shapes::Ring;
use crate::stock::Stock;

/// Where a design lies on its stock: chosen, or the corner of what can be cut, or on an odd piece the nearest place
/// that holds it.
#[must_use]
pub fn place(built: &Built, choice: &LayerChoice, stock: &Stock) -> [f64; 2] {
    let corner = [stock.margin, stock.margin];
    let free = || OddPiece::of(built, stock)?.free(corner, 1.0);
    choice.place.or_else(free).unwrap_or(corner)
}

fn whole(kind: Kind, at: Point, source: String) -> Finding {
    Finding {
        kind,
        layer: None,
        at,
        value: 0.0,
        limit: 0.0,
        measure: Measure::Count,
        source,
        touching: Vec::new(),
        extent: Vec::new(),
    }
}

pub(super) fn empty(built: &Built, found: &mut Vec<Finding>) {
    let middle = built.bounds.center();
    if built.cut().all(Layer::is_empty) {
        let why = if built.layers.is_empty() {
            "no ink is kept".to_owned()
        } else if built.cut().next().is_none() {
            "every layer is switched off".to_owned()
        } else {
            "no layer has an outline".to_owned()
        };
        found.push(whole(Kind::NothingToCut, middle, why));
        return;
    }
    for (n, layer) in built.layers.iter().enumerate() {
        if layer.cut && layer.is_empty() {
            found.push(Finding {
                layer: Some(n),
                ..whole(
                    Kind::NothingToCut,
                    middle,
                    format!("layer {} has no outline", layer.letter),
                )
            });
        }
    }
}

/// Against the stock: as large as it is, and where it lies.
pub(super) fn on_stock(built: &Built, choice: &LayerChoice, found: &mut Vec<Finding>) {
    let Some(stock) = choice.stock() else { return };
    let bounds = built.bounds;
    if bounds.area() <= 0.0 {
        return;
    }
    let usable = stock.usable();
    let sizes = [
        (bounds.width(), usable.width()),
        (bounds.height(), usable.height()),
    ];
    let over = sizes
        .into_iter()
        .filter(|(side, room)| *side > room + 1e-6)
        .max_by(|a, b| (a.0 - a.1).total_cmp(&(b.0 - b.1)));
    if let Some((side, room)) = over {
        found.push(Finding {
            value: side,
            limit: room,
            measure: Measure::Mm,
            ..whole(Kind::TooLarge, bounds.center(), told(&stock))
        });
        return;
    }
    let place = place(built, choice, &stock);
    let lies = built.on_stock(place).transform_rect_bbox(bounds);
    let sides = [
        (
            usable.x0 - lies.x0,
            Point::new(bounds.x0, bounds.center().y),
        ),
        (
            lies.x1 - usable.x1,
            Point::new(bounds.x1, bounds.center().y),
        ),
        (
            usable.y0 - lies.y0,
            Point::new(bounds.center().x, bounds.y0),
        ),
        (
            lies.y1 - usable.y1,
            Point::new(bounds.center().x, bounds.y1),
        ),
    ];
    let far = sides.into_iter().max_by(|a, b| a.0.total_cmp(&b.0));
    if let Some((over, at)) = far.filter(|(over, _)| *over > 1e-6) {
        found.push(Finding {
            value: over,
            measure: Measure::Mm,
            ..whole(Kind::OffStock, at, told(&stock))
        });
        return;
    }
    let odd = OddPiece::of(built, &stock);
    if let Some(at) = odd.and_then(|odd| odd.met(place, 1.0)) {
        let at = built.on_stock(place).inverse() * at;
        found.push(whole(Kind::OverEdge, at, told(&stock)));
    }
}

/// A stock as it is named in a sentence.
#[must_use]
pub fn told(stock: &Stock) -> String {
    if !stock.name.is_empty() {
        return format!("the {} {}", stock.kind.word(), stock.name);
    }
    if stock.length > 0.0 && stock.kind != crate::stock::StockKind::Roll {
        format!(
            "the {} of {:.0} × {:.0} mm",
            stock.kind.word(),
            stock.width,
            stock.length
        )
    } else {
        format!("the {} of {:.0} mm", stock.kind.word(), stock.width)
    }
}

pub(super) fn mirrored(built: &Built, choice: &LayerChoice, found: &mut Vec<Finding>) {
    let material = choice.material();
    if choice.mirrored() == material.from_behind || built.layers.is_empty() {
        return;
    }
    let why = if material.from_behind {
        format!("{} is cut from behind and needs it mirrored", material.name)
    } else {
        format!(
            "{} is seen from the front and needs it as it is",
            material.name
        )
    };
    found.push(whole(Kind::Mirrored, built.bounds.center(), why));
}

/// Layers of film that are laid over each other.
fn films(built: &Built) -> Vec<(usize, &Layer)> {
    let layers = built.layers.iter().enumerate();
    layers.filter(|(_, l)| l.lies() && !l.sheet).collect()
}

pub(super) fn unregistered(built: &Built, choice: &LayerChoice, found: &mut Vec<Finding>) {
    let films = films(built);
    let laid = films
        .iter()
        .filter(|(_, l)| l.material.overlap > 0.0 || l.material.from_behind)
        .count();
    if laid > 1 && choice.registration.is_none() {
        let why = format!("{laid} layers");
        found.push(whole(Kind::Unregistered, built.bounds.center(), why));
    }
}

/// Seams of film where both layers end edge to edge.
pub(super) fn seams(built: &Built, found: &mut Vec<Finding>) {
    let films = films(built);
    let wants = |l: &Layer| l.material.overlap;
    if films.iter().filter(|(_, l)| wants(l) > 0.0).count() < 2 {
        return;
    }
    let mut rings: Vec<&Ring> = Vec::new();
    let mut owner: Vec<u32> = Vec::new();
    for &(n, layer) in &films {
        for ring in layer.rings() {
            rings.push(ring);
            owner.push(n as u32);
        }
    }
    let chords = Chords::of(rings.into_iter(), 0.5);
    for shared in lines::shared(&chords, &owner, true) {
        let lower = &built.layers[shared.of[0] as usize];
        let upper = &built.layers[shared.of[1] as usize];
        let limit = wants(lower);
        if limit <= 0.0 || wants(upper) <= 0.0 {
            continue;
        }
        found.push(Finding {
            layer: Some(shared.of[0] as usize),
            value: shared.length,
            limit,
            measure: Measure::Mm,
            ..whole(Kind::Overlap, shared.at, lower.material.name.clone())
        });
    }
}

/// Parts that layers above cover wholly.
pub(super) fn hidden(built: &Built, found: &mut Vec<Finding>) {
    let films = films(built);
    let boxes: Vec<Vec<Rect>> = films
        .iter()
        .map(|(_, l)| l.shapes.iter().map(|s| s.outer.bounds()).collect())
        .collect();
    for (k, &(n, lower)) in films.iter().enumerate() {
        for shape in &lower.shapes {
            let bounds = shape.outer.bounds();
            let at = shape.outer.beside();
            let over: Vec<&Ring> = films[k + 1..]
                .iter()
                .zip(&boxes[k + 1..])
                .flat_map(|((_, l), boxes)| l.shapes.iter().zip(boxes))
                .filter(|(_, around)| around.overlaps(bounds))
                .flat_map(|(s, _)| s.rings())
                .collect();
            let covered = over.iter().map(|r| r.path().winding(at)).sum::<i32>() != 0;
            if !covered {
                continue;
            }
            let rings: Vec<&Ring> = shape.rings().collect();
            let left = overlay::overlay(&rings, &over, Keep::Difference);
            if left.iter().map(Rings::area).sum::<f64>() < 1e-3 * shape.area() {
                found.push(Finding {
                    layer: Some(n),
                    value: across(&shape.outer),
                    measure: Measure::Mm,
                    touching: vec![shape.outer.segments()[0].start()],
                    extent: vec![super::parts::outline(&shape.outer)],
                    ..whole(Kind::Hidden, bounds.center(), String::new())
                });
            }
        }
    }
}

/// Where a design can be put so that it lies inside what can be cut, as near as can be to where it lies.
#[must_use]
pub fn inside(built: &Built, choice: &LayerChoice) -> Option<[f64; 2]> {
    let stock = choice.stock()?;
    let (usable, own) = (stock.usable(), built.bounds);
    if !stock.holds(own.width(), own.height()) {
        return None;
    }
    let [x, y] = place(built, choice, &stock);
    let boxed = [
        x.clamp(usable.x0, (usable.x1 - own.width()).max(usable.x0)),
        y.clamp(usable.y0, (usable.y1 - own.height()).max(usable.y0)),
    ];
    match OddPiece::of(built, &stock) {
        Some(odd) => odd.free(boxed, 1.0),
        None => Some(boxed),
    }
}

/// The greatest scale at which a design fits its stock with `margin` mm around it, and where it then lies, mm; `None`
/// where margins leave nothing.
#[must_use]
pub fn to_fit(built: &Built, choice: &LayerChoice, margin: f64) -> Option<(f64, [f64; 2])> {
    let stock = choice.stock()?;
    let scale = stock.scale_to_fit(built.bounds.width(), built.bounds.height(), margin)?;
    let within = Stock {
        margin: stock.margin + margin,
        ..stock
    };
    match OddPiece::of(built, &within) {
        Some(odd) => odd.scale_to_fit(scale),
        None => Some((scale, [within.margin; 2])),
    }
}

/// The box of a design on the stock.
#[must_use]
pub fn box_on_stock(built: &Built, choice: &LayerChoice, stock: &Stock) -> Rect {
    let map: Affine = built.on_stock(place(built, choice, stock));
    map.transform_rect_bbox(built.bounds)
}
