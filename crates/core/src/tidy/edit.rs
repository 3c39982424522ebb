//! Edits: every change of a drawing as a value, and what it does.

use kurbo::{Affine, Point};
use serde::{Deserialize, Serialize};

use crate::limits::within;
use crate::offset::Join;
use crate::stones::{Laid, StoneChoice};
use crate::tidy::arrange::{self, Side, To};
use crate::tidy::combine::{self, How};
use crate::tidy::drawing::{Drawing, ItemId, Kind, Path};
use crate::tidy::gesture::{self, OnPath};
use crate::tidy::mend::{self, Patch};
use crate::tidy::nodes::{self, NodeEdit};
use crate::tidy::parts;
use crate::tidy::path_data::PathData;
use crate::tidy::pick::{EditError, Pigment};
use crate::tidy::refit::{self, Pieces};
use crate::tidy::rules::{self, Rules};
use crate::tidy::stones;
use crate::tidy::text::TextLine;

/// Something new on the drawing.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Part {
    /// Its ink.
    pub pigment: Pigment,
    /// Width of the pen of a line, mm; without one it is a shape.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pen: Option<f64>,
    /// Its paths: of a shape the outer ring first, of a line one.
    pub paths: Vec<PathData>,
    /// What it says, where it is lettering.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub text: Option<TextLine>,
}

/// A change of a drawing. Lengths and places are mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "edit", rename_all = "kebab-case")]
#[allow(missing_docs, reason = "each variant tells of its fields")]
pub enum Edit {
    /// Takes items out.
    Delete { items: Vec<ItemId> },
    /// Puts copies on top, moved.
    Duplicate { items: Vec<ItemId>, by: [f64; 2] },
    /// Makes items one group.
    Group { items: Vec<ItemId> },
    /// Items are by themselves again.
    Ungroup { items: Vec<ItemId> },
    /// Every ring becomes a shape of its own.
    Split { items: Vec<ItemId> },
    /// Rings become shapes with holes by how they lie in each other.
    Combine { items: Vec<ItemId> },
    /// Gives items another ink.
    Ink {
        items: Vec<ItemId>,
        pigment: Pigment,
    },
    /// Moves, scales, turns or mirrors by an affine map.
    Move { items: Vec<ItemId>, map: [f64; 6] },
    /// Brings items to a side or the middle of them all.
    Align { items: Vec<ItemId>, side: Side },
    /// Makes the gaps between items equal.
    Distribute { items: Vec<ItemId>, across: bool },
    /// Brings items up or down in the order.
    Order { items: Vec<ItemId>, to: To },
    /// Joins what items cover; the first keeps its ink.
    Boolean { items: Vec<ItemId>, how: How },
    /// Cuts items out of everything else that they touch, each keeping its ink.
    CutOut { items: Vec<ItemId>, stays: bool },
    /// What items leave free inside their outline, instead of them.
    Negative { items: Vec<ItemId> },
    /// Fills the empty region around a place, grown by some mm.
    Fill {
        at: [f64; 2],
        pigment: Pigment,
        grow: f64,
    },
    /// Grows or shrinks items; or lays the result under them as something new.
    Offset {
        items: Vec<ItemId>,
        distance: f64,
        join: Join,
        under: Option<Pigment>,
    },
    /// A solid shape under everything, with a margin.
    Backing {
        margin: f64,
        join: Join,
        holes: bool,
        pigment: Pigment,
    },
    /// Changes the nodes of one path.
    Nodes {
        item: ItemId,
        path: usize,
        change: NodeEdit,
    },
    /// Changes nodes of several paths by one gesture.
    NodesTogether { changes: Vec<OnPath> },
    /// Makes one path of two open ones, or closes one: ends by item and whether it is the last node.
    JoinEnds { ends: [(ItemId, bool); 2] },
    /// Fits items anew within a tolerance.
    Refit {
        items: Vec<ItemId>,
        tolerance: f64,
        pieces: Pieces,
        corner: f64,
    },
    /// Mends by rule.
    Clean { rules: Rules },
    /// Puts something new on top.
    Add { parts: Vec<Part>, name: String },
    /// Puts something else in the place of items.
    Replace {
        items: Vec<ItemId>,
        parts: Vec<Part>,
    },
    /// Adds a region to items or takes it from them, as a check asked for.
    Mend {
        items: Vec<ItemId>,
        region: Vec<PathData>,
        patch: Patch,
    },
    /// Makes items inserts: they take an ink of their own and are cut out of all else.
    Inlay {
        items: Vec<ItemId>,
        pigment: Pigment,
    },
    /// Sets stones along lines or in shapes, which stay.
    Stones {
        items: Vec<ItemId>,
        choice: StoneChoice,
        laid: Laid,
        pigment: Pigment,
    },
    /// Everything at another finished size.
    Resize { across: f64, down: f64 },
}

/// A drawing after an edit.
#[derive(Clone, Debug, PartialEq)]
pub struct Changed {
    /// The drawing.
    pub drawing: Drawing,
    /// What the edit made or changed, to be picked next.
    pub made: Vec<ItemId>,
}

/// A map without an inverse or with wild figures is none.
pub(super) fn map(figures: &[f64; 6]) -> Result<Affine, EditError> {
    let map = Affine::new(*figures);
    let size = map.determinant().abs();
    let sane = figures.iter().all(|v| v.is_finite() && v.abs() < 1e5);
    if sane && size > 1e-6 && size < 1e8 {
        Ok(map)
    } else {
        Err(EditError::Pick(
            "this would make it vanish, or larger than anything that is cut",
        ))
    }
}

impl Edit {
    /// The items it is about, in the order they were picked.
    #[must_use]
    pub fn items(&self) -> &[ItemId] {
        match self {
            Self::Delete { items }
            | Self::Duplicate { items, .. }
            | Self::Group { items }
            | Self::Ungroup { items }
            | Self::Split { items }
            | Self::Combine { items }
            | Self::Ink { items, .. }
            | Self::Move { items, .. }
            | Self::Align { items, .. }
            | Self::Distribute { items, .. }
            | Self::Order { items, .. }
            | Self::Boolean { items, .. }
            | Self::CutOut { items, .. }
            | Self::Negative { items }
            | Self::Offset { items, .. }
            | Self::Refit { items, .. }
            | Self::Mend { items, .. }
            | Self::Inlay { items, .. }
            | Self::Stones { items, .. }
            | Self::Replace { items, .. } => items,
            Self::Nodes { item, .. } => std::slice::from_ref(item),
            _ => &[],
        }
    }
}

impl Drawing {
    /// The drawing after an edit.
    ///
    /// # Errors
    /// [`EditError`] says why it cannot be done.
    pub fn after(&self, edit: &Edit) -> Result<Changed, EditError> {
        let items = edit.items();
        if items.iter().any(|&id| self.item(id).is_none()) {
            return Err(EditError::Gone);
        }
        let needs_items = !matches!(
            edit,
            Edit::Fill { .. }
                | Edit::Backing { .. }
                | Edit::Clean { .. }
                | Edit::Add { .. }
                | Edit::Resize { .. }
                | Edit::JoinEnds { .. }
                | Edit::Nodes { .. }
                | Edit::NodesTogether { .. }
        );
        if needs_items && items.is_empty() {
            return Err(EditError::Pick("pick something first"));
        }
        let mut d = self.clone();
        let made = match edit {
            Edit::Delete { items } => {
                d.items.retain(|i| !items.contains(&i.id));
                Vec::new()
            }
            Edit::Duplicate { items, by } => arrange::duplicate(&mut d, items, *by)?,
            Edit::Group { items } => arrange::group(&mut d, items),
            Edit::Ungroup { items } => arrange::ungroup(&mut d, items),
            Edit::Split { items } => parts::split(&mut d, items),
            Edit::Combine { items } => parts::combine(&mut d, items)?,
            Edit::Ink { items, pigment } => {
                let ink = d.ink(*pigment)?;
                for item in d.picked(items) {
                    item.ink = ink;
                }
                items.clone()
            }
            Edit::Move {
                items,
                map: figures,
            } => arrange::moved(&mut d, items, map(figures)?),
            Edit::Align { items, side } => arrange::align(&mut d, items, *side)?,
            Edit::Distribute { items, across } => arrange::distribute(&mut d, items, *across)?,
            Edit::Order { items, to } => arrange::order(&mut d, items, *to),
            Edit::Boolean { items, how } => combine::boolean(&mut d, items, *how)?,
            Edit::CutOut { items, stays } => combine::cut_out(&mut d, items, *stays)?,
            Edit::Negative { items } => combine::negative(&mut d, items)?,
            Edit::Fill { at, pigment, grow } => {
                combine::fill(&mut d, Point::from((at[0], at[1])), *pigment, *grow)?
            }
            Edit::Offset {
                items,
                distance,
                join,
                under,
            } => combine::offset_items(&mut d, items, (*distance, *join), *under)?,
            Edit::Backing {
                margin,
                join,
                holes,
                pigment,
            } => combine::backing(&mut d, (*margin, *join), *holes, *pigment)?,
            Edit::Nodes { item, path, change } => nodes::change(&mut d, *item, *path, change)?,
            Edit::NodesTogether { changes } => gesture::change_all(&mut d, changes)?,
            Edit::JoinEnds { ends } => parts::join_ends(&mut d, *ends)?,
            Edit::Refit {
                items,
                tolerance,
                pieces,
                corner,
            } => {
                within("a tolerance", *tolerance, &(0.001..=10.0), "mm")?;
                within("a corner angle", *corner, &(5.0..=170.0), "°")?;
                refit::items(
                    &mut d,
                    items,
                    refit::Within {
                        tolerance: *tolerance,
                        pieces: *pieces,
                        corner: *corner,
                    },
                )?
            }
            Edit::Clean { rules } => rules::clean(&mut d, rules)?,
            Edit::Add { parts, .. } => d.add_parts(parts)?,
            Edit::Replace { items, parts } => {
                let at = d
                    .items
                    .iter()
                    .position(|i| items.contains(&i.id))
                    .unwrap_or(0);
                d.items.retain(|i| !items.contains(&i.id));
                let above = d.items.split_off(at.min(d.items.len()));
                let made = d.add_parts(parts)?;
                d.items.extend(above);
                made
            }
            Edit::Mend {
                items,
                region,
                patch,
            } => mend::mend(&mut d, items, region, *patch)?,
            Edit::Inlay { items, pigment } => combine::inlay(&mut d, items, *pigment)?,
            Edit::Stones {
                items,
                choice,
                laid,
                pigment,
            } => stones::set(&mut d, items, (choice, *laid), *pigment)?,
            Edit::Resize { across, down } => {
                let map = map(&[*across, 0.0, 0.0, *down, 0.0, 0.0])?;
                let all: Vec<ItemId> = d.items.iter().map(|i| i.id).collect();
                for item in &mut d.items {
                    if let Some(text) = &mut item.text {
                        text.cap_height *= down;
                        text.spacing *= across;
                        text.radius *= across;
                        text.at = [text.at[0] * across, text.at[1] * down];
                    }
                    if let Kind::Line { pen } = &mut item.kind {
                        *pen *= (across * down).sqrt();
                    }
                }
                arrange::move_paths(&mut d, &all, map);
                Vec::new()
            }
        };
        Ok(Changed { drawing: d, made })
    }

    fn add_parts(&mut self, parts: &[Part]) -> Result<Vec<ItemId>, EditError> {
        let mut made = Vec::new();
        for part in parts {
            let ink = self.ink(part.pigment)?;
            let mut paths = Vec::new();
            for data in &part.paths {
                paths.push(Path::new(data.segments()?, data.closed));
            }
            let new = match part.pen {
                Some(pen) => {
                    within("a pen", pen, &(0.0..=1000.0), "mm")?;
                    let lines = paths.into_iter();
                    lines
                        .map(|p| self.add(ink, Kind::Line { pen }, vec![p]))
                        .collect()
                }
                None => combine::drawn(self, ink, paths)?,
            };
            for item in self.picked(&new) {
                item.text.clone_from(&part.text);
            }
            if part.text.is_some() && new.len() > 1 {
                arrange::group(self, &new);
            }
            made.extend(new);
        }
        Ok(made)
    }
}
