//! Load: what is to lie on one piece of stock, before it lies anywhere.

use super::choice::{Arrange, Copies, SheetChoice};
use super::piece::{Piece, Spot};
use super::walls::Walls;
use super::{Item, nest, panels, rows};
use crate::assembly::Built;
use crate::cutting::CutLayer;
use crate::inks::Rgb;
use crate::material::Material;
use crate::shapes::Design;
use crate::stock::Stock;

/// Layers that are cut from the same stock.
#[derive(Clone, Debug, PartialEq)]
pub struct Group {
    /// Material and colour.
    pub name: String,
    /// The material.
    pub material: Material,
    /// Name of the colour in stock.
    pub colour: Option<String>,
    /// Its layers, in the place of the design.
    pub layers: Vec<CutLayer>,
}

/// A job's piece on a sheet.
#[derive(Clone, Debug, PartialEq)]
pub struct Source {
    /// Title of the job.
    pub job: String,
    /// Whose it is.
    pub owner: String,
    /// Its parts: one that holds all, or several that may lie apart.
    pub parts: Vec<Piece>,
    /// How many.
    pub copies: Copies,
}

/// What lies on a sheet, and what it lies on.
#[derive(Clone, Debug, PartialEq)]
pub struct Load {
    /// Material and colour.
    pub name: String,
    /// The material.
    pub material: Material,
    /// The stock.
    pub stock: Stock,
    /// Jobs on it; the first is the sheet's own.
    pub sources: Vec<Source>,
}

/// Layers of a job by what they are cut from, in the order of the lowest of each.
#[must_use]
pub fn groups(design: &Design, built: &Built) -> Vec<Group> {
    let mut found: Vec<Group> = Vec::new();
    let turned = built.on_stock([0.0, 0.0]);
    for layer in built.cut().filter(|l| !l.is_empty()) {
        let paint: Rgb = design.inks[usize::from(layer.ink.0)].paint;
        let turned_layer = CutLayer::of(layer, paint, turned);
        let name = match &turned_layer.stock_colour {
            Some(colour) => format!("{} · {colour}", turned_layer.material.name),
            None => turned_layer.material.name.clone(),
        };
        match found.iter_mut().find(|g| g.name == name) {
            Some(group) => group.layers.push(turned_layer),
            None => found.push(Group {
                name,
                material: turned_layer.material.clone(),
                colour: turned_layer.stock_colour.clone(),
                layers: vec![turned_layer],
            }),
        }
    }
    found
}

impl Group {
    /// Its parts as a job's share of a sheet: in panels where it is wider than the stock, singly on wish.
    #[must_use]
    pub fn source(
        &self,
        (job, owner): (&str, &str),
        stock: &Stock,
        choice: &SheetChoice,
    ) -> Source {
        let whole = Piece::of(&self.layers);
        let room = stock.usable().width();
        let panel = |piece: Piece| match choice.panels {
            Some(lap) => panels::panels(&piece, room, lap),
            None => vec![piece],
        };
        let parts: Vec<Piece> = whole.into_iter().flat_map(panel).collect();
        let wide = parts.len() > 1;
        let parts = if choice.single && !wide {
            parts.iter().flat_map(Piece::parted).collect()
        } else {
            parts
        };
        Source {
            job: job.to_owned(),
            owner: owner.to_owned(),
            parts,
            copies: choice.copies,
        }
    }
}

impl Load {
    /// Every part of every copy in turn. The trial cut comes first on the sheet and last in the list.
    pub(super) fn items(&self, choice: &SheetChoice) -> Vec<Item> {
        let mut items = Vec::new();
        for (source, lying) in self.sources.iter().enumerate() {
            for copy in 0..self.count(lying, choice) {
                let part = |part| Item {
                    source,
                    part,
                    copy,
                    spot: None,
                };
                items.extend((0..lying.parts.len()).map(part));
            }
        }
        items
    }

    /// Width and height of every part that is laid out in turn, the trial cut not counted, mm.
    #[must_use]
    pub fn sizes(&self, choice: &SheetChoice) -> Vec<[f64; 2]> {
        let items = self.items(choice);
        items.iter().map(|item| self.piece(item).size).collect()
    }

    /// How many copies of a source are tried.
    fn count(&self, source: &Source, choice: &SheetChoice) -> usize {
        let usable = self.stock.usable();
        let most = crate::limits::COPIES as usize;
        let around = self.around(choice);
        let size = |p: &Piece| p.size.map(|side| side + 2.0 * around);
        match source.copies {
            Copies::Number(n) => n as usize,
            Copies::Width => {
                let wide: f64 = source.parts.iter().map(|p| size(p)[0] + choice.gap()).sum();
                rows::across(wide - choice.gap(), usable.width(), choice.gap()).clamp(1, most)
            }
            // Without a known length, as many as lie side by side in as much length as the stock is wide.
            Copies::Sheet => {
                let length = if self.stock.length > 0.0 {
                    usable.height()
                } else {
                    usable.width()
                };
                let area: f64 = match choice.arrange {
                    Arrange::Rows => source.parts.iter().map(|p| size(p)[0] * size(p)[1]).sum(),
                    Arrange::Nested => source.parts.iter().map(|p| p.area).sum(),
                };
                let room = usable.width() * length;
                ((room / area.max(1.0)).ceil() as usize).clamp(1, most)
            }
        }
    }

    /// Space kept around each part for its weed box, mm.
    pub(super) fn around(&self, choice: &SheetChoice) -> f64 {
        match (choice.arrange, choice.weed_box) {
            (Arrange::Rows, Some(away)) => away,
            _ => 0.0,
        }
    }

    /// The edges of stock that is no rectangle; parts keep so many mm more than its margin away from them.
    #[must_use]
    pub fn walls(&self, more: f64) -> Option<Walls> {
        let shape = self.stock.shape.as_ref()?;
        Some(Walls::of(shape, self.stock.margin + more))
    }

    /// Where a part lies that comes first; `None` where it has no room.
    pub(super) fn first_spot(&self, part: &Piece) -> Option<Spot> {
        let usable = self.stock.usable();
        if let Some(walls) = self.walls(0.0) {
            return nest::in_turn(std::slice::from_ref(part), &[0], (usable, 0.0), &walls)[0];
        }
        let fits = usable.width() >= part.size[0] && usable.height() >= part.size[1];
        fits.then_some(Spot {
            x: usable.x0,
            y: usable.y0,
            turn: 0.0,
        })
    }

    /// How far down a trial cut reaches with the gap below it, mm; where there is none, the top of what can be cut.
    pub(super) fn below(&self, trial: Option<&Piece>, choice: &SheetChoice) -> f64 {
        let top = self.stock.usable().y0;
        trial.map_or(top, |t| {
            self.first_spot(t).map_or(top, |s| s.y) + t.size[1] + choice.gap()
        })
    }

    /// The piece of an item.
    #[must_use]
    pub fn piece(&self, item: &Item) -> &Piece {
        &self.sources[item.source].parts[item.part]
    }

    /// Every different piece once, and which of them each item is.
    pub(super) fn pieces(&self, items: &[Item]) -> (Vec<Piece>, Vec<usize>) {
        let starts: Vec<usize> = self
            .sources
            .iter()
            .scan(0, |sum, s| {
                Some(std::mem::replace(sum, *sum + s.parts.len()))
            })
            .collect();
        let pieces = self.sources.iter().flat_map(|s| s.parts.clone());
        let of = items.iter().map(|i| starts[i.source] + i.part);
        (pieces.collect(), of.collect())
    }

    /// What nesting is asked of this load: a zone for each owner on wish.
    #[must_use]
    pub fn zones(&self, items: &[Item], choice: &SheetChoice) -> Vec<Vec<usize>> {
        let mut zones: Vec<(String, Vec<usize>)> = Vec::new();
        for (n, item) in items.iter().enumerate() {
            let owner = match choice.zones {
                true => self.sources[item.source].owner.clone(),
                false => String::new(),
            };
            match zones.iter_mut().find(|(o, _)| *o == owner) {
                Some((_, own)) => own.push(n),
                None => zones.push((owner, vec![n])),
            }
        }
        zones.into_iter().map(|(_, zone)| zone).collect()
    }
}
