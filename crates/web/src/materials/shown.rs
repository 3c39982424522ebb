//! Materials in words and figures.

use inky_core::material::{Material, Operation, Tool};
use inky_core::stock::{Stock, StockKind};
use inky_core::units::Unit;

use crate::materials::stocked::Listed;
use crate::text;

/// A material in the list.
pub(crate) struct MaterialCard {
    pub(crate) id: i64,
    pub(crate) name: String,
    pub(crate) told: String,
    pub(crate) colours: Vec<(String, String)>,
    pub(crate) open: bool,
    pub(crate) retired: bool,
}

/// A figure that is typed.
pub(crate) struct Typed {
    pub(crate) name: &'static str,
    pub(crate) label: &'static str,
    pub(crate) value: String,
    pub(crate) unit: &'static str,
}

pub(crate) struct StockRow {
    pub(crate) name: String,
    pub(crate) kind: &'static str,
    pub(crate) width: String,
    pub(crate) length: String,
    pub(crate) margin: String,
}

/// All fields of the open material.
pub(crate) struct MaterialSheet {
    pub(crate) id: i64,
    pub(crate) retired: bool,
    pub(crate) name: String,
    pub(crate) tool: &'static str,
    /// Word, label, whether it is chosen.
    pub(crate) operations: Vec<(String, &'static str, bool)>,
    pub(crate) from_behind: bool,
    pub(crate) stencil: bool,
    pub(crate) body: Vec<Typed>,
    pub(crate) limits: Vec<Typed>,
    pub(crate) settings: Vec<(&'static str, Vec<Typed>)>,
    pub(crate) colours: Vec<(String, String)>,
    pub(crate) stocks: Vec<StockRow>,
}

/// A tool as people say it.
pub(crate) fn tool(tool: Tool) -> &'static str {
    match tool {
        Tool::Blade => "blade",
        Tool::Laser => "laser",
        Tool::Pen => "pen",
    }
}

pub(crate) fn card(listed: &Listed, open: Option<i64>, unit: Unit) -> MaterialCard {
    let m = &listed.material;
    let stocks: Vec<String> = m.stocks.iter().map(|s| stock(s, unit)).collect();
    let colours = m.colours.iter();
    MaterialCard {
        id: listed.id,
        name: m.name.clone(),
        told: format!(
            "{} · {}",
            tool(m.tool),
            stocks.first().map_or("no stock", String::as_str)
        ),
        colours: colours
            .map(|c| (c.name.clone(), c.colour.to_string()))
            .collect(),
        open: open == Some(listed.id),
        retired: listed.retired,
    }
}

/// A roll, sheet or offcut in words.
pub(crate) fn stock(stock: &Stock, unit: Unit) -> String {
    let side = |mm: f64| text::side(mm, unit).trim_end_matches(".0").to_owned();
    let size = match stock.kind {
        StockKind::Roll => format!("roll {} {}", side(stock.width), unit.symbol()),
        kind => format!(
            "{} {} × {} {}",
            kind.word(),
            side(stock.width),
            side(stock.length),
            unit.symbol()
        ),
    };
    if stock.name.is_empty() {
        size
    } else {
        format!("{}: {size}", stock.name)
    }
}

/// A figure that is no length.
fn figure(name: &'static str, label: &'static str, value: f64, unit: &'static str) -> Typed {
    Typed {
        name,
        label,
        value: format!("{value}"),
        unit,
    }
}

pub(crate) fn sheet(listed: &Listed, unit: Unit) -> MaterialSheet {
    let m = &listed.material;
    let symbol = unit.symbol();
    let mm = |name, label, value: f64| Typed {
        name,
        label,
        value: text::side(value, unit),
        unit: symbol,
    };
    let l = &m.limits;
    MaterialSheet {
        id: listed.id,
        retired: listed.retired,
        name: m.name.clone(),
        tool: tool(m.tool),
        operations: Operation::ALL
            .into_iter()
            .rev()
            .map(|o| (o.word().replace(' ', "-"), o.word(), o == m.operation))
            .collect(),
        from_behind: m.from_behind,
        stencil: m.stencil,
        body: vec![
            mm("thickness", "Thickness", m.thickness),
            mm("kerf", "Kerf", m.kerf),
            mm("overlap", "Overlap of layers", m.overlap),
            figure("price", "Price of 1 m²", m.price, ""),
        ],
        limits: vec![
            mm("stroke", "Thinnest stroke", l.stroke),
            mm("gap", "Narrowest gap", l.gap),
            mm("part", "Smallest part", l.part),
            mm("hole", "Smallest hole", l.hole),
            figure("corner", "Sharpest corner", l.corner, "°"),
            mm("nodes", "Nodes apart", l.nodes),
            figure("parts", "Parts, quick up to", l.parts as f64, ""),
        ],
        settings: settings(m, unit),
        colours: m
            .colours
            .iter()
            .map(|c| (c.name.clone(), c.colour.to_string()))
            .collect(),
        stocks: m.stocks.iter().map(|s| row(s, unit)).collect(),
    }
}

fn row(stock: &Stock, unit: Unit) -> StockRow {
    let side = |mm: f64| text::side(mm, unit);
    StockRow {
        name: stock.name.clone(),
        kind: stock.kind.word(),
        width: side(stock.width),
        length: if stock.length > 0.0 {
            side(stock.length)
        } else {
            String::new()
        },
        margin: side(stock.margin),
    }
}

fn settings(m: &Material, unit: Unit) -> Vec<(&'static str, Vec<Typed>)> {
    let fast = if unit == Unit::Mm { "mm/s" } else { "in/s" };
    let mm = |name, label, value: f64, unit_: &'static str| Typed {
        name,
        label,
        value: text::side(value, unit),
        unit: unit_,
    };
    let mut all = Vec::new();
    if let Some(b) = &m.blade {
        all.push((
            "Blade",
            vec![
                figure("force", "Force", b.force, "g"),
                mm("speed", "Speed", b.speed, fast),
                figure("passes", "Passes", f64::from(b.passes), "×"),
                mm("overcut", "Overcut", b.overcut, unit.symbol()),
                mm("offset", "Blade offset", b.offset, unit.symbol()),
            ],
        ));
    }
    if let Some(laser) = &m.laser {
        all.push((
            "Laser, cutting",
            vec![
                mm("cut_speed", "Speed", laser.cut.speed, fast),
                figure("cut_least", "Least power", laser.cut.least, "%"),
                figure("cut_most", "Greatest power", laser.cut.most, "%"),
                figure("cut_passes", "Passes", f64::from(laser.cut.passes), "×"),
            ],
        ));
        all.push((
            "Laser, engraving",
            vec![
                mm("engrave_speed", "Speed", laser.engrave.speed, fast),
                figure("engrave_least", "Least power", laser.engrave.least, "%"),
                figure("engrave_most", "Greatest power", laser.engrave.most, "%"),
                figure(
                    "engrave_passes",
                    "Passes",
                    f64::from(laser.engrave.passes),
                    "×",
                ),
                mm("interval", "Line interval", laser.interval, unit.symbol()),
            ],
        ));
    }
    all
}
