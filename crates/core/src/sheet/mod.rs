//! Sheet: jobs laid out on stock, as they will be cut.
//!
//! ```text
//!   Built ──groups──► a group for each material and colour ──► Sources: pieces, copies, owners
//!   Sources, Stock, SheetChoice ──lay──► Sheet: items at their spots, weeding lines, figures ──cutting──► Cutting
//! ```
//!
//! What is cut from one roll or plate lies on one sheet: a design of three vinyls has three sheets, an engraved
//! and cut plate one. mm, y down along the roll, from the stock's corner. *Held*, and checked on the
//! outlines whatever made the arrangement: no two pieces nearer than the gap, none off the usable area;
//! where hands have put them otherwise, the clash is told.

mod bits;
pub mod choice;
mod clash;
pub mod comb;
mod first_fit;
mod kept;
pub mod knife;
mod load;
mod mask;
pub mod nest;
mod nested;
pub mod nesting;
pub mod panels;
pub mod piece;
mod rest;
mod rows;
mod slide;
mod squeeze;
pub mod trial;
pub mod walls;
pub mod weed;

use kurbo::Rect;
use rayon::prelude::*;

use crate::cutting::{CutLayer, CutLine, Cutting};
use crate::inks::Rgb;
use crate::material::{Material, Tool};
use crate::overlay::Rings;
use crate::segment::Segment;
use crate::stock::{Left, Stock, StockKind};
use choice::{Arrange, Copies, SheetChoice};
use clash::Outline;
use piece::{Piece, Spot};

pub use load::{Group, Load, Source, groups};
pub use nested::{Progress, nested};
pub use rest::Rest;

/// A part on the sheet.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Item {
    /// Number of its source; the trial cut is behind the last.
    pub source: usize,
    /// Number of its part.
    pub part: usize,
    /// Which copy, from nought.
    pub copy: usize,
    /// Where it lies; `None` where there was no room.
    pub spot: Option<Spot>,
}

/// An arrangement on one piece of stock.
#[derive(Clone, Debug, PartialEq)]
pub struct Sheet {
    /// Material and colour.
    pub name: String,
    /// The material.
    pub material: Material,
    /// The stock.
    pub stock: Stock,
    /// What lies on it.
    pub sources: Vec<Source>,
    /// Every part in turn: by source, copy and part.
    pub items: Vec<Item>,
    /// Which of the sources is the trial cut.
    pub trial: Option<usize>,
    /// Weed boxes.
    pub boxes: Vec<Rect>,
    /// Relief lines.
    pub relief: Vec<kurbo::Line>,
    /// Pairs of items that are too near to each other.
    pub clashes: Vec<(usize, usize)>,
    /// Items that do not lie on what can be cut.
    pub outside: Vec<usize>,
    /// Whether a weed box reaches off what can be cut.
    pub box_outside: bool,
    /// Whether it is to be nested and lies in rows until that is done.
    pub to_nest: bool,
    /// Whether it was nested or parts were moved by hand, but its parts are others now.
    pub forgotten: bool,
    /// What is used and left of the stock.
    pub left: Left,
    /// Area of the parts, mm².
    pub area: f64,
}

/// Lays a load out: at the spots that were kept, else in rows.
#[must_use]
pub fn lay(load: &Load, choice: &SheetChoice) -> Sheet {
    let mut load = load.clone();
    let trial = choice
        .trial
        .then(|| Piece::of(&trial::trial(&load.material)));
    let trial = trial.flatten();
    let mut items = load.items(choice);
    let filled = load.sources.iter().any(|s| s.copies == Copies::Sheet);
    let placed = choice.placed_on(&load.name);
    let kept = placed.and_then(|p| kept::kept(p, &load.sizes(choice)));
    let forgotten = placed.is_some() && kept.is_none();
    let to_nest = choice.arrange == Arrange::Nested && kept.is_none();
    let spots = kept.unwrap_or_else(|| rows(&load, &items, choice, trial.as_ref()));
    for (item, spot) in items.iter_mut().zip(spots) {
        item.spot = spot;
    }
    let trial_source = trial.is_some().then_some(load.sources.len());
    if let Some(piece) = trial {
        items.push(Item {
            source: load.sources.len(),
            part: 0,
            copy: 0,
            spot: load.first_spot(&piece),
        });
        load.sources.push(Source {
            job: "Trial cut".to_owned(),
            owner: String::new(),
            parts: vec![piece],
            copies: Copies::Number(1),
        });
    }
    if filled {
        // Copies that were only tried are no loss.
        items.retain(|i| i.spot.is_some() || load.sources[i.source].copies != Copies::Sheet);
    }
    Sheet {
        to_nest,
        forgotten,
        ..finish(load, items, choice, trial_source)
    }
}

/// Spots in rows, zone by zone, below the trial cut.
fn rows(
    load: &Load,
    items: &[Item],
    choice: &SheetChoice,
    trial: Option<&Piece>,
) -> Vec<Option<Spot>> {
    let around = load.around(choice);
    let room = load.stock.usable();
    let mut top = load.below(trial, choice);
    let mut spots = vec![None; items.len()];
    let walled = load.walls(around).map(|w| (w, load.pieces(items)));
    for zone in load.zones(items, choice) {
        let found: Vec<Option<Spot>> = match &walled {
            // There are no rows on what is no rectangle: each part where it fits first.
            Some((walls, (pieces, of))) => {
                let in_zone: Vec<usize> = zone.iter().map(|&n| of[n]).collect();
                let room = Rect::new(room.x0, top.min(room.y1), room.x1, room.y1);
                let gap = choice.gap() + 2.0 * around;
                nest::in_turn(pieces, &in_zone, (room, gap), walls)
            }
            None => {
                let size = |&n: &usize| load.piece(&items[n]).size.map(|side| side + 2.0 * around);
                let sizes: Vec<[f64; 2]> = zone.iter().map(size).collect();
                let within = |s: Spot| Spot {
                    x: s.x + around,
                    y: s.y + around,
                    ..s
                };
                let found = rows::rows(&sizes, room, top, choice.gap()).into_iter();
                found.map(|spot| spot.map(within)).collect()
            }
        };
        for (&n, spot) in zone.iter().zip(found) {
            spots[n] = spot;
        }
        let end = |&n: &usize| Some(spots[n]?.y + load.piece(&items[n]).size[1] + around);
        top = zone.iter().filter_map(end).fold(top, f64::max) + choice.gap();
    }
    spots
}

/// Boxes, relief lines, clashes and figures of what lies where it lies.
fn finish(load: Load, items: Vec<Item>, choice: &SheetChoice, trial: Option<usize>) -> Sheet {
    let piece = |i: &Item| &load.sources[i.source].parts[i.part];
    let placed: Vec<(usize, Spot)> = items
        .iter()
        .enumerate()
        .filter_map(|(n, i)| Some((n, i.spot?)))
        .collect();
    let outlines: Vec<Outline> = placed
        .par_iter()
        .map(|(n, spot)| Outline::of(piece(&items[*n]).placed(*spot)))
        .collect();
    let usable = load.stock.usable();
    let mut boxes: Vec<Rect> = Vec::new();
    if let Some(away) = choice.weed_box {
        let parts = placed.iter().zip(&outlines);
        let parts = parts.filter(|((n, _), _)| Some(items[*n].source) != trial);
        let around = parts.map(|(_, o)| o.bounds.inflate(away, away));
        match choice.arrange {
            Arrange::Rows => boxes.extend(around),
            Arrange::Nested => boxes.extend(around.reduce(|a, b| a.union(b))),
        }
    }
    let relief = match choice.relief {
        Some(widest) if !boxes.is_empty() => {
            let shapes = placed
                .iter()
                .flat_map(|(n, spot)| piece(&items[*n]).shapes_at(*spot));
            weed::relief(&boxes, &shapes.collect::<Vec<Rings>>(), widest)
        }
        _ => Vec::new(),
    };
    let clashes = clash::clashes(&outlines, choice.gap());
    let number = |k: usize| placed[k].0;
    let clashes = clashes
        .into_iter()
        .map(|(a, b)| (number(a), number(b)))
        .collect();
    let slack = usable.inflate(piece::TOLERANCE, piece::TOLERANCE);
    let walls = load.walls(-piece::TOLERANCE);
    let meets = |o: &Outline| walls.as_ref().is_some_and(|w| w.meet(o));
    let off = |b: Rect| slack.union(b) != slack;
    let box_off = |b: &Rect| off(*b) || meets(&Outline::around(*b));
    let box_outside = boxes.iter().any(box_off);
    let outside = outlines.iter().enumerate();
    let outside = outside.filter(|(_, o)| off(o.bounds) || meets(o));
    let outside = outside.map(|(k, _)| number(k)).collect();
    let ends = outlines
        .iter()
        .map(|o| o.bounds)
        .chain(boxes.iter().copied());
    let used = ends.reduce(|a, b| a.union(b)).unwrap_or_default();
    let area = placed.iter().map(|(n, _)| piece(&items[*n]).area).sum();
    Sheet {
        left: load.stock.left(used),
        name: load.name,
        material: load.material,
        stock: load.stock,
        sources: load.sources,
        items,
        trial,
        boxes,
        relief,
        clashes,
        outside,
        box_outside,
        to_nest: false,
        forgotten: false,
        area,
    }
}

impl Sheet {
    /// The piece of an item.
    #[must_use]
    pub fn piece(&self, item: &Item) -> &Piece {
        &self.sources[item.source].parts[item.part]
    }

    /// Whether what is left when parts are out is stock again: that of a plate, not of a roll, which is cut across.
    #[must_use]
    pub fn leaves(&self) -> bool {
        let plate = self.stock.kind != StockKind::Roll || self.stock.shape.is_some();
        plate && self.stock.length > 0.0 && self.items.iter().any(|i| i.spot.is_some())
    }

    /// What is left of the stock when its parts are out, as the next piece of it: the largest that hangs together, from the
    /// corner of its own box, mm. `None` for a roll, which is cut across, and where nothing to speak of is left.
    #[must_use]
    pub fn rest(&self) -> Option<Rest> {
        rest::rest(self)
    }

    /// How many parts found no room.
    #[must_use]
    pub fn left_out(&self) -> usize {
        self.items.iter().filter(|i| i.spot.is_none()).count()
    }

    /// The box around all parts but the trial cut, mm.
    #[must_use]
    pub fn bounds(&self) -> Option<Rect> {
        let parts = self.items.iter().filter(|i| Some(i.source) != self.trial);
        let boxes = parts.filter_map(|i| {
            let spot = i.spot?;
            let size = self.piece(i).turned_size(spot.turn);
            Some(Rect::from_origin_size((spot.x, spot.y), (size[0], size[1])))
        });
        boxes.reduce(|a, b| a.union(b))
    }

    /// Whole copies that lie on it, the trial cut not counted.
    #[must_use]
    pub fn copies(&self) -> usize {
        let first_parts = self
            .items
            .iter()
            .filter(|i| i.spot.is_some() && i.part == 0);
        first_parts.filter(|i| Some(i.source) != self.trial).count()
    }

    /// What is used of the stock, mm²: the length up to which parts lie on it, or the whole of a free shape.
    fn used(&self) -> f64 {
        match &self.stock.shape {
            Some(shape) => shape.area(),
            None => self.stock.width * self.left.used_length,
        }
    }

    /// Part of what is used which is covered by parts, 0 to 1.
    #[must_use]
    pub fn yield_(&self) -> f64 {
        let used = self.used();
        if used > 0.0 { self.area / used } else { 0.0 }
    }

    /// Price of what is used, in the material's own money.
    #[must_use]
    pub fn cost(&self) -> f64 {
        self.used() / 1e6 * self.material.price
    }

    /// Its lines on a page as wide as the stock and as long as what is used of it.
    #[must_use]
    pub fn cutting(&self) -> Cutting {
        let size = [self.stock.width, self.left.used_length.max(1.0)];
        let mut layers: Vec<CutLayer> = Vec::new();
        for (number, source) in self.sources.iter().enumerate() {
            let Some(first) = source.parts.first() else {
                continue;
            };
            let mut gathered: Vec<CutLayer> = first.layers.iter().map(CutLayer::empty).collect();
            for item in self.items.iter().filter(|i| i.source == number) {
                let Some(spot) = item.spot else { continue };
                let piece = self.piece(item);
                let map = piece.to(spot);
                for (into, layer) in gathered.iter_mut().zip(&piece.layers) {
                    let moved = layer.moved(map);
                    into.shapes.extend(moved.shapes);
                    into.lines.extend(moved.lines);
                }
            }
            for layer in gathered.into_iter().filter(|l| !l.is_empty()) {
                let alike = |l: &&mut CutLayer| {
                    l.name == layer.name
                        && l.operation == layer.operation
                        && l.material == layer.material
                };
                match layers.iter_mut().find(alike) {
                    Some(known) => {
                        known.shapes.extend(layer.shapes);
                        known.lines.extend(layer.lines);
                    }
                    None => layers.push(layer),
                }
            }
        }
        layers.extend(self.weeding());
        Cutting { size, layers }
    }

    /// Weed boxes and relief lines as a layer of their own.
    fn weeding(&self) -> Option<CutLayer> {
        let line = |segments: Vec<Segment>, closed: bool| CutLine {
            segments,
            closed,
            width: 0.2,
        };
        let weed_box = |b: &Rect| line(crate::assembly::rectangle(*b).segments().to_vec(), true);
        let relief = self
            .relief
            .iter()
            .map(|l| line(vec![Segment::Line(*l)], false));
        let lines: Vec<CutLine> = relief.chain(self.boxes.iter().map(weed_box)).collect();
        (!lines.is_empty()).then(|| CutLayer {
            name: "Weeding".to_owned(),
            letter: "W".to_owned(),
            colour: Rgb([122, 122, 122]),
            material: self.material.clone(),
            stock_colour: None,
            operation: self.material.operation,
            shapes: Vec::new(),
            lines,
        })
    }

    /// Whether boxes and relief lines make sense: for what is weeded.
    #[must_use]
    pub fn is_weeded(&self) -> bool {
        self.material.tool == Tool::Blade
    }
}
