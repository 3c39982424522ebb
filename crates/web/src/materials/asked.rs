//! A material as it was typed: fields by name, colours and stocks row by row.
//!
//! Each figure is taken by itself: one that cannot be used leaves the one before in force, is told beside its own
//! field with what was typed, and keeps no other from being taken.

use inky_core::inks::Rgb;
use inky_core::material::{Beam, Blade, Laser, Material, Operation, StockColour, Tool};
use inky_core::stock::{Stock, StockKind};
use inky_core::units::Unit;

use crate::error::{WebError, wrong};
use crate::refusal::{self, Refusal};
use crate::typed;

/// A field that could not be used.
#[derive(Debug)]
pub(crate) struct Refused {
    /// Its name in the form.
    pub(crate) field: String,
    /// Which row it stands in, from 0, where several have the name.
    pub(crate) row: usize,
    /// As it was typed.
    pub(crate) typed: String,
    pub(crate) why: String,
}

impl Refused {
    pub(crate) fn of(field: &str, typed: String, why: String) -> Self {
        Self {
            field: field.to_owned(),
            row: 0,
            typed,
            why,
        }
    }
}

/// A material being filled in from a form.
struct Filling<'a> {
    form: &'a [(String, String)],
    unit: Unit,
    material: Material,
    refused: Vec<Refused>,
}

impl<'a> Filling<'a> {
    fn text(&self, name: &str) -> Option<&'a str> {
        let found = self.form.iter().find(|(n, _)| n == name);
        found.map(|(_, v)| v.as_str())
    }

    fn all(&self, name: &str) -> Vec<&'a str> {
        let named = self.form.iter().filter(|(n, _)| n == name);
        named.map(|(_, v)| v.as_str()).collect()
    }

    fn ticked(&self, name: &str) -> bool {
        self.text(name) == Some("on")
    }

    fn refuse(&mut self, (field, row): (&str, usize), typed: &str, why: &WebError) {
        let why = match why {
            WebError::Figure { figure, .. } => refusal::told(figure, self.unit),
            other => other.to_string(),
        };
        self.refused.push(Refused {
            field: field.to_owned(),
            row,
            typed: typed.to_owned(),
            why,
        });
    }

    /// Takes a field, if the form has it, and keeps what comes of it if the material can be so.
    fn take<T>(
        &mut self,
        name: &str,
        read: impl FnOnce(&str, Unit) -> Result<T, WebError>,
        set: impl FnOnce(&mut Material, T),
    ) {
        let Some(text) = self.text(name) else {
            return;
        };
        let mut changed = self.material.clone();
        let taken = read(text, self.unit).and_then(|value| {
            set(&mut changed, value);
            changed.check().map_err(|e| e.beside("material"))
        });
        match taken {
            Ok(()) => self.material = changed,
            Err(why) => self.refuse((name, 0), text, &why),
        }
    }

    fn mm(&mut self, name: &str, set: impl FnOnce(&mut Material, f64)) {
        self.take(name, length, set);
    }

    fn figure(&mut self, name: &str, set: impl FnOnce(&mut Material, f64)) {
        self.take(name, |text, _| number(text), set);
    }

    fn whole(&mut self, name: &str, set: impl FnOnce(&mut Material, usize)) {
        self.take(name, |text, _| whole(text), set);
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

/// The material that a form describes, and what of the form cannot be used; what it does not name stays as it was.
pub(crate) fn read(
    form: &[(String, String)],
    old: &Material,
    unit: Unit,
) -> (Material, Vec<Refused>) {
    let mut f = Filling {
        form,
        unit,
        material: old.clone(),
        refused: Vec::new(),
    };
    let name = |text: &str, _| Ok(text.chars().filter(|c| !c.is_control()).collect::<String>());
    f.take("name", name, |m, name| m.name = name.trim().to_owned());
    let m = &f.material;
    let tool = match f.text("tool") {
        Some("laser") => Tool::Laser,
        Some("pen") => Tool::Pen,
        Some(_) => Tool::Blade,
        None => m.tool,
    };
    let usual = f.text("operation").and_then(operation);
    let (operation, ticks) = (
        usual.unwrap_or(m.operation),
        [f.ticked("from_behind"), f.ticked("stencil")],
    );
    let m = &mut f.material;
    (m.tool, m.operation, [m.from_behind, m.stencil]) = (tool, operation, ticks);
    f.mm("thickness", |m, v| m.thickness = v);
    f.mm("kerf", |m, v| m.kerf = v);
    f.mm("overlap", |m, v| m.overlap = v);
    f.figure("price", |m, v| m.price = v);
    f.mm("stroke", |m, v| m.limits.stroke = v);
    f.mm("gap", |m, v| m.limits.gap = v);
    f.mm("part", |m, v| m.limits.part = v);
    f.mm("hole", |m, v| m.limits.hole = v);
    f.figure("corner", |m, v| m.limits.corner = v);
    f.mm("nodes", |m, v| m.limits.nodes = v);
    f.whole("parts", |m, v| m.limits.parts = v);
    blade(&mut f);
    laser(&mut f);
    colours(&mut f);
    stocks(&mut f);
    (f.material, f.refused)
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
const LASER: Laser = Laser {
    cut: BEAM,
    engrave: Beam {
        speed: 100.0,
        ..BEAM
    },
    interval: 0.1,
};

fn blade(f: &mut Filling<'_>) {
    if f.material.tool == Tool::Laser {
        f.material.blade = None;
        return;
    }
    fn of(m: &mut Material) -> &mut Blade {
        m.blade.get_or_insert(BLADE)
    }
    of(&mut f.material);
    f.figure("force", |m, v| of(m).force = v);
    f.mm("speed", |m, v| of(m).speed = v);
    f.whole("passes", |m, v| of(m).passes = v as u32);
    f.mm("overcut", |m, v| of(m).overcut = v);
    f.mm("offset", |m, v| of(m).offset = v);
}

/// One of the beams of a material.
type OneBeam = fn(&mut Material) -> &mut Beam;

fn laser(f: &mut Filling<'_>) {
    if f.material.tool != Tool::Laser {
        f.material.laser = None;
        return;
    }
    fn of(m: &mut Material) -> &mut Laser {
        m.laser.get_or_insert(LASER)
    }
    of(&mut f.material);
    let beams: [(&str, OneBeam); 2] = [
        ("cut", |m| &mut of(m).cut),
        ("engrave", |m| &mut of(m).engrave),
    ];
    for (kind, beam) in beams {
        let name = |what: &str| format!("{kind}_{what}");
        f.mm(&name("speed"), |m, v| beam(m).speed = v);
        f.figure(&name("least"), |m, v| beam(m).least = v);
        f.figure(&name("most"), |m, v| beam(m).most = v);
        f.whole(&name("passes"), |m, v| beam(m).passes = v as u32);
    }
    f.mm("interval", |m, v| of(m).interval = v);
}

/// Rows without a name are taken out.
fn colours(f: &mut Filling<'_>) {
    let rows = f.all("colour_name").into_iter().zip(f.all("colour"));
    let mut found = Vec::new();
    for (row, (name, typed)) in rows
        .enumerate()
        .filter(|(_, (name, _))| !name.trim().is_empty())
    {
        match typed.parse::<Rgb>() {
            Ok(colour) => found.push(StockColour {
                name: name.trim().to_owned(),
                colour,
            }),
            Err(why) => f.refuse(("colour", row), typed, &wrong("material", why)),
        }
    }
    keep(f, ("colour_name", found.len()), |m| m.colours = found);
}

/// A length is shown to the user within so many mm.
const ROUNDED: f64 = 0.03;

/// Rows without a width are taken out; one with a figure that cannot be stays as it was.
fn stocks(f: &mut Filling<'_>) {
    let (names, kinds) = (f.all("stock_name"), f.all("stock_kind"));
    let figures = ["stock_width", "stock_length", "stock_margin"].map(|name| (name, f.all(name)));
    let before = std::mem::take(&mut f.material.stocks);
    for (row, kind) in kinds.iter().enumerate() {
        let at = |all: &[&'_ str]| all.get(row).map_or(String::new(), |t| t.trim().to_owned());
        if at(&figures[0].1).is_empty() {
            continue;
        }
        let mut stock = Stock {
            name: at(&names),
            kind: match *kind {
                "sheet" => StockKind::Sheet,
                "offcut" => StockKind::Offcut,
                _ => StockKind::Roll,
            },
            ..before.get(row).cloned().unwrap_or(NEW)
        };
        let mut whole = before.get(row).is_some();
        for (nth, (name, all)) in figures.iter().enumerate() {
            let typed = at(all);
            let mut changed = stock.clone();
            let taken = length(&typed, f.unit).and_then(|value| {
                let own = [stock.width, stock.length].get(nth).copied();
                if let (Some(_), Some(own)) = (&stock.shape, own) {
                    // As it is shown, rounded.
                    return if (value - own).abs() < ROUNDED {
                        Ok(())
                    } else {
                        Err(wrong(
                            "material",
                            "its outline says how large this piece is",
                        ))
                    };
                }
                *[&mut changed.width, &mut changed.length, &mut changed.margin][nth] = value;
                changed.check().map_err(|figure| WebError::Figure {
                    field: "material",
                    figure,
                })
            });
            match taken {
                Ok(()) => {
                    stock = changed;
                    whole |= nth == 0;
                }
                Err(why) => f.refuse((name, row), &typed, &why),
            }
            // Without a width there is no stock yet that the others could be figures of.
            if !whole {
                break;
            }
        }
        if whole {
            f.material.stocks.push(stock);
        }
    }
    let found = std::mem::replace(&mut f.material.stocks, before);
    keep(f, ("stock_width", found.len()), |m| m.stocks = found);
}

/// A stock of which nothing was typed yet.
const NEW: Stock = Stock {
    name: String::new(),
    kind: StockKind::Roll,
    width: 0.0,
    length: 0.0,
    margin: 0.0,
    shape: None,
};

/// Keeps a list if the material may have as many.
fn keep(f: &mut Filling<'_>, last: (&str, usize), set: impl FnOnce(&mut Material)) {
    let mut changed = f.material.clone();
    set(&mut changed);
    match changed.check() {
        Ok(()) => f.material = changed,
        Err(why) => f.refuse(last, "", &why.beside("material")),
    }
}
