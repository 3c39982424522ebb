//! A material as it was typed: fields by name, colours and stocks row by row.

use inky_core::inks::Rgb;
use inky_core::material::{Beam, Blade, Laser, Material, Operation, StockColour, Tool};
use inky_core::stock::{Stock, StockKind};
use inky_core::units::Unit;

use crate::error::{WebError, wrong};
use crate::typed;

/// The fields of a form in the order in which they stand.
struct Fields<'a> {
    all: &'a [(String, String)],
    unit: Unit,
}

impl<'a> Fields<'a> {
    fn text(&self, name: &str) -> Option<&'a str> {
        let found = self.all.iter().find(|(n, _)| n == name);
        found.map(|(_, v)| v.as_str())
    }

    fn all(&self, name: &str) -> Vec<&'a str> {
        let named = self.all.iter().filter(|(n, _)| n == name);
        named.map(|(_, v)| v.as_str()).collect()
    }

    fn ticked(&self, name: &str) -> bool {
        self.text(name) == Some("on")
    }

    fn mm(&self, name: &str, old: f64) -> Result<f64, WebError> {
        self.text(name).map_or(Ok(old), |t| length(t, self.unit))
    }

    fn figure(&self, name: &str, old: f64) -> Result<f64, WebError> {
        self.text(name).map_or(Ok(old), number)
    }
}

fn number(text: &str) -> Result<f64, WebError> {
    typed::number("material", text, "12.5")
}

fn whole(text: &str) -> Result<usize, WebError> {
    let figure = number(text)?;
    if !(0.0..=1e6).contains(&figure) {
        return Err(wrong("material", format!("{text} is no number of things")));
    }
    Ok(figure.round() as usize)
}

/// A length, mm; nothing typed is nought.
fn length(text: &str, unit: Unit) -> Result<f64, WebError> {
    typed::mm_or_none("material", text, unit)
}

/// The operation of its word.
pub(crate) fn operation(word: &str) -> Option<Operation> {
    Operation::ALL
        .into_iter()
        .find(|o| o.word().replace(' ', "-") == word)
}

/// The material that a form describes; what it does not name stays as it was.
pub(crate) fn read(
    form: &[(String, String)],
    old: &Material,
    unit: Unit,
) -> Result<Material, WebError> {
    let f = Fields { all: form, unit };
    let mut m = old.clone();
    if let Some(name) = f.text("name") {
        m.name = name.chars().filter(|c| !c.is_control()).collect();
    }
    m.tool = match f.text("tool") {
        Some("laser") => Tool::Laser,
        Some("pen") => Tool::Pen,
        Some(_) => Tool::Blade,
        None => m.tool,
    };
    m.operation = f
        .text("operation")
        .and_then(operation)
        .unwrap_or(m.operation);
    m.from_behind = f.ticked("from_behind");
    m.stencil = f.ticked("stencil");
    m.thickness = f.mm("thickness", m.thickness)?;
    m.kerf = f.mm("kerf", m.kerf)?;
    m.overlap = f.mm("overlap", m.overlap)?;
    m.price = f.figure("price", m.price)?;
    let l = &mut m.limits;
    l.stroke = f.mm("stroke", l.stroke)?;
    l.gap = f.mm("gap", l.gap)?;
    l.part = f.mm("part", l.part)?;
    l.hole = f.mm("hole", l.hole)?;
    l.corner = f.figure("corner", l.corner)?;
    l.nodes = f.mm("nodes", l.nodes)?;
    if let Some(parts) = f.text("parts") {
        l.parts = whole(parts)?;
    }
    m.blade = (m.tool != Tool::Laser)
        .then(|| blade(&f, m.blade))
        .transpose()?;
    m.laser = (m.tool == Tool::Laser)
        .then(|| laser(&f, m.laser))
        .transpose()?;
    m.colours = colours(&f)?;
    m.stocks = stocks(&f)?;
    Ok(m)
}

/// A setting of a blade that was not typed yet.
const BLADE: Blade = Blade {
    force: 100.0,
    speed: 200.0,
    passes: 1,
    overcut: 0.3,
    offset: 0.25,
};
const BEAM: Beam = Beam {
    speed: 10.0,
    least: 20.0,
    most: 40.0,
    passes: 1,
};

fn blade(f: &Fields<'_>, old: Option<Blade>) -> Result<Blade, WebError> {
    let old = old.unwrap_or(BLADE);
    Ok(Blade {
        force: f.figure("force", old.force)?,
        speed: f.mm("speed", old.speed)?,
        passes: f.text("passes").map_or(Ok(old.passes as usize), whole)? as u32,
        overcut: f.mm("overcut", old.overcut)?,
        offset: f.mm("offset", old.offset)?,
    })
}

fn laser(f: &Fields<'_>, old: Option<Laser>) -> Result<Laser, WebError> {
    let old = old.unwrap_or(Laser {
        cut: BEAM,
        engrave: Beam {
            speed: 100.0,
            ..BEAM
        },
        interval: 0.1,
    });
    let beam = |kind: &str, old: Beam| -> Result<Beam, WebError> {
        let name = |what: &str| format!("{kind}_{what}");
        Ok(Beam {
            speed: f.mm(&name("speed"), old.speed)?,
            least: f.figure(&name("least"), old.least)?,
            most: f.figure(&name("most"), old.most)?,
            passes: f
                .text(&name("passes"))
                .map_or(Ok(old.passes as usize), whole)? as u32,
        })
    };
    Ok(Laser {
        cut: beam("cut", old.cut)?,
        engrave: beam("engrave", old.engrave)?,
        interval: f.mm("interval", old.interval)?,
    })
}

/// Rows without a name are taken out.
fn colours(f: &Fields<'_>) -> Result<Vec<StockColour>, WebError> {
    let rows = f.all("colour_name").into_iter().zip(f.all("colour"));
    let mut found = Vec::new();
    for (name, colour) in rows.filter(|(name, _)| !name.trim().is_empty()) {
        let colour: Rgb = colour.parse().map_err(|e| wrong("material", e))?;
        found.push(StockColour {
            name: name.trim().to_owned(),
            colour,
        });
    }
    Ok(found)
}

/// Rows without a width are taken out.
fn stocks(f: &Fields<'_>) -> Result<Vec<Stock>, WebError> {
    let rows = f.all("stock_kind").len();
    let at = |name: &str, n: usize| f.all(name).get(n).copied().unwrap_or("");
    let mut found = Vec::new();
    for n in 0..rows {
        if at("stock_width", n).trim().is_empty() {
            continue;
        }
        found.push(Stock {
            name: at("stock_name", n).trim().to_owned(),
            kind: match at("stock_kind", n) {
                "sheet" => StockKind::Sheet,
                "offcut" => StockKind::Offcut,
                _ => StockKind::Roll,
            },
            width: length(at("stock_width", n), f.unit)?,
            length: length(at("stock_length", n), f.unit)?,
            margin: length(at("stock_margin", n), f.unit)?,
        });
    }
    Ok(found)
}
