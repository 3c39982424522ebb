//! Pieces that are let in or backed, and bridges that hold islands.

use inky_core::added;
use inky_core::assembly::bridge::{self, Asked};
use inky_core::layers::Bridge;
use inky_core::tidy::ItemId;

use crate::error::{WebError, wrong};
use crate::form::Figures;
use crate::job::changing::Changing;
use crate::typed::{mm, number};

/// A bridge shorter than this is a slip of the hand, mm.
const SHORTEST: f64 = 0.2;
/// More bridges for an island are not asked for in earnest.
const MOST_EACH: f64 = 99.0;

pub(super) const NO_BRIDGE: &str = "this bridge is no more; the list was made anew";

/// So many bridges for every island of the sheets.
pub(super) fn bridges(to: &mut Changing, count: &str, width: &str) -> Result<String, WebError> {
    let count = number("bridges", count, "2")?;
    let asked = Asked {
        count: if count.fract().abs() < 1e-9 && count > 0.0 {
            count.min(MOST_EACH) as usize
        } else {
            0
        },
        width: mm("bridges", width, to.unit)?,
    };
    let made = bridge::for_all(&to.outcome.checked().built, asked);
    let made = made.map_err(|e| wrong("bridges", e))?;
    let number = made.len();
    to.layers().bridges.extend(made);
    Ok(format!("{number} bridges"))
}

/// The ends of a line drawn on the bench, as parts of the finished size.
pub(super) fn ends(
    to: &Changing,
    Figures([x0, y0, x1, y1]): Figures<4>,
) -> Result<[[f64; 2]; 2], WebError> {
    if (x1 - x0).hypot(y1 - y0) < SHORTEST {
        return Err(wrong(
            "bridges",
            "drag from one side of what is cut out to the other",
        ));
    }
    let size = to.recipe.size;
    let part = |x: f64, y: f64| [x / size.width.get(), y / size.height.get()];
    Ok([part(x0, y0), part(x1, y1)])
}

pub(super) fn add_bridge(to: &mut Changing, [from, end]: [[f64; 2]; 2], width: f64) -> String {
    to.layers().bridges.push(Bridge {
        from,
        to: end,
        width,
    });
    "Bridge".to_owned()
}

pub(super) fn move_bridge(
    to: &mut Changing,
    [from, end]: [[f64; 2]; 2],
    nth: usize,
) -> Result<String, WebError> {
    let bridge = to.layers().bridges.get_mut(nth);
    let bridge = bridge.ok_or_else(|| wrong("bridges", NO_BRIDGE))?;
    (bridge.from, bridge.to) = (from, end);
    Ok("Bridge moved".to_owned())
}

/// What is picked is cut from another material and let in.
pub(super) fn inlay(
    to: &mut Changing,
    items: Vec<ItemId>,
    material: &str,
    clearance: f64,
) -> Result<String, WebError> {
    let material = to.material(material)?;
    let name = format!("Inserts of {}", material.name);
    let shown = (&to.outcome.design, &*to.outcome.drawing());
    to.recipe = added::with_inserts(&to.recipe, shown, items, material, clearance);
    Ok(name)
}

/// A plate of another material under all of it.
pub(super) fn backing(to: &mut Changing, material: &str, margin: f64) -> Result<String, WebError> {
    let material = to.material(material)?;
    let name = format!("Backing of {}", material.name);
    let shown = (&to.outcome.design, &to.outcome.checked().built);
    to.recipe = added::with_backing(&to.recipe, shown, material, margin);
    Ok(name)
}
