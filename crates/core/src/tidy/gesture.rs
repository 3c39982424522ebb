//! Gestures: nodes of several paths, of one shape or of many, changed at once.
//!
//! Rings are looked at when all of them have moved: a shape that is moved by its outer nodes and those of
//! its hole crosses itself on the way, and not at its end.

use serde::{Deserialize, Serialize};

use crate::tidy::drawing::{Drawing, ItemId, Kind};
use crate::tidy::nodes::{self, NodeEdit};
use crate::tidy::pick::EditError;

/// A change of the nodes of one path.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct OnPath {
    /// The item.
    pub item: ItemId,
    /// Number of the path in it.
    pub path: usize,
    /// What is done.
    pub change: NodeEdit,
}

/// Does all changes or none; the items that are left of those they were about.
pub(super) fn change_all(d: &mut Drawing, changes: &[OnPath]) -> Result<Vec<ItemId>, EditError> {
    let mut touched: Vec<ItemId> = Vec::new();
    // Later paths first: one that goes leaves the numbers of those before it alone.
    let mut changes: Vec<&OnPath> = changes.iter().collect();
    changes.sort_by_key(|on| std::cmp::Reverse(on.path));
    for OnPath { item, path, change } in changes {
        if !nodes::is_of_nodes(change) {
            return Err(EditError::Node("this is done to one path after the other"));
        }
        let found = d.items.iter_mut().find(|i| i.id == *item);
        let found = found.ok_or(EditError::Gone)?;
        let old = found.paths.get(*path).ok_or(EditError::Gone)?;
        match nodes::changed(old, change)? {
            Some(new) => found.paths[*path] = new,
            None if *path > 0 => {
                found.paths.remove(*path);
            }
            None => found.paths.clear(),
        }
        found.text = None;
        if !touched.contains(item) {
            touched.push(*item);
        }
    }
    // A shape without its outer ring is none.
    d.items.retain(|i| !i.paths.is_empty());
    touched.retain(|&id| d.item(id).is_some());
    for item in d.picked(&touched) {
        if item.kind == Kind::Shape {
            nodes::sound(item)?;
        }
    }
    Ok(touched)
}
