//! Materials in words and figures.

use inky_core::material::{Material, Operation, Tool};
use inky_core::stock::{Stock, StockKind};
use inky_core::units::Unit;

use crate::materials::asked::Refused;
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
    /// Why what was typed is not in force.
    pub(crate) problem: String,
}

/// A roll, sheet or offcut; the last one is still to be typed.
pub(crate) struct StockRow {
    pub(crate) name: String,
    pub(crate) kind: &'static str,
    /// Width, length and margin.
    pub(crate) sides: [Typed; 3],
    pub(crate) new: bool,
}

/// All fields of the open material.
pub(crate) struct MaterialSheet {
    pub(crate) id: i64,
    pub(crate) retired: bool,
    pub(crate) name: Typed,
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
    /// Numbers and names of the odd pieces among them that have a picture.
    pub(crate) odd: Vec<(i64, String)>,
    /// Those of the pieces that are not kept yet.
    pub(crate) unkept: Vec<(i64, String)>,
    /// Why something was not taken that has no field of its own, such as one row too many.
    pub(crate) problem: String,
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
        problem: String::new(),
    }
}

/// A length.
fn mm(name: &'static str, label: &'static str, value: f64, unit: Unit) -> Typed {
    Typed {
        name,
        label,
        value: text::side(value, unit),
        unit: unit.symbol(),
        problem: String::new(),
    }
}

/// The open material; what was refused stands as it was typed, with why.
pub(crate) fn sheet(listed: &Listed, refused: &[Refused], unit: Unit) -> MaterialSheet {
    let mut sheet = stored(listed, unit);
    let rows = &mut sheet.stocks;
    let in_rows = rows.iter_mut().enumerate();
    let in_rows = in_rows.flat_map(|(row, stock)| stock.sides.iter_mut().map(move |t| (row, t)));
    let settings = sheet.settings.iter_mut().flat_map(|(_, all)| all);
    let single = sheet
        .body
        .iter_mut()
        .chain(&mut sheet.limits)
        .chain(settings);
    let single = single.chain([&mut sheet.name]).map(|t| (0, t));
    let mut left: Vec<&Refused> = refused.iter().collect();
    for (row, field) in single.chain(in_rows) {
        let own = left
            .iter()
            .position(|r| r.field == field.name && r.row == row);
        if let Some(r) = own.map(|n| left.swap_remove(n)) {
            (field.value, field.problem) = (r.typed.clone(), r.why.clone());
        }
    }
    sheet.problem = left.first().map_or_else(String::new, |r| r.why.clone());
    sheet
}

fn stored(listed: &Listed, unit: Unit) -> MaterialSheet {
    let m = &listed.material;
    let mm = |name, label, value| mm(name, label, value, unit);
    let l = &m.limits;
    MaterialSheet {
        id: listed.id,
        retired: listed.retired,
        name: Typed {
            name: "name",
            label: "Name",
            value: m.name.clone(),
            unit: "",
            problem: String::new(),
        },
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
        stocks: rows(&m.stocks, unit),
        odd: m
            .stocks
            .iter()
            .filter_map(|s| Some((s.shape.as_ref()?.picture?, s.name.clone())))
            .collect(),
        unkept: listed.unkept.clone(),
        problem: String::new(),
    }
}

fn rows(stocks: &[Stock], unit: Unit) -> Vec<StockRow> {
    let side = |name, label, value| mm(name, label, value, unit);
    let sides = |width, length, margin| {
        [
            side("stock_width", "Width", width),
            side("stock_length", "Length", length),
            side("stock_margin", "Margin", margin),
        ]
    };
    let row = |stock: &Stock| {
        let mut sides = sides(stock.width, stock.length, stock.margin);
        if stock.length <= 0.0 {
            sides[1].value.clear();
        }
        StockRow {
            name: stock.name.clone(),
            kind: stock.kind.word(),
            sides,
            new: false,
        }
    };
    let mut new = StockRow {
        name: String::new(),
        kind: StockKind::Offcut.word(),
        sides: sides(0.0, 0.0, 0.0),
        new: true,
    };
    for side in &mut new.sides {
        side.value.clear();
    }
    stocks.iter().map(row).chain([new]).collect()
}

fn settings(m: &Material, unit: Unit) -> Vec<(&'static str, Vec<Typed>)> {
    let fast = if unit == Unit::Mm { "mm/s" } else { "in/s" };
    let mm = |name, label, value, symbol| Typed {
        unit: symbol,
        ..mm(name, label, value, unit)
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
