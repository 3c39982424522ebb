//! The trials of a material as its sheet shows them.

use actix_web::{get, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::material::{Material, Tool};
use inky_core::sheet::comb::WIDTHS;
use inky_core::sheet::knife::Knife;
use inky_core::sheet::trial::Grid;
use inky_core::units::Unit;
use inky_store::{MachineId, MaterialId};

use crate::Shop;
use crate::error::WebError;
use crate::machines::kept;
use crate::materials::stocked;
use crate::reader::Reader;
use crate::text;

/// A field that can be pointed at.
struct Field {
    /// What is sent when it is.
    values: String,
    told: String,
    /// Whether the material is cut so now.
    now: bool,
}

/// A row of the grid.
struct Row {
    power: String,
    fields: Vec<Field>,
}

/// A row of squares or circles.
struct Tried {
    /// `square` or `circle`.
    shape: &'static str,
    called: &'static str,
    fields: Vec<Field>,
}

#[derive(Template, WebTemplate)]
#[template(path = "materials/trials/_all.html")]
struct Trials {
    id: MaterialId,
    unit: &'static str,
    machines: Vec<(MachineId, String)>,
    /// Widths of the comb as drawn; none of what no laser cuts.
    widths: Vec<String>,
    /// What a laser cuts with now.
    beam: String,
    speeds: Vec<String>,
    grid: Vec<Row>,
    knife: Vec<Tried>,
}

#[get("/materials/{id}/trials")]
async fn all(
    shop: web::Data<Shop>,
    id: web::Path<MaterialId>,
    reader: Reader,
) -> Result<Trials, WebError> {
    web::block(move || {
        let material = stocked::one(&shop.store, *id)?.material;
        let tool = material.tool;
        let machines = kept::usual_for(&shop.store, tool)?;
        let machines = machines.into_iter().filter(|m| m.machine.kind.holds(tool));
        let (speeds, grid) = grid(&material);
        let widths = match tool {
            Tool::Laser => WIDTHS.map(|w| text::length(w, reader.0, 2)).to_vec(),
            Tool::Blade | Tool::Pen => Vec::new(),
        };
        Ok(Trials {
            id: *id,
            unit: reader.0.symbol(),
            machines: machines.map(|m| (m.id, m.machine.name)).collect(),
            widths,
            beam: material
                .laser
                .map_or_else(String::new, |l| told(l.cut.most, l.cut.speed)),
            speeds,
            grid,
            knife: knife(&material, reader.0),
        })
    })
    .await?
}

/// A power and a speed in words.
fn told(power: f64, speed: f64) -> String {
    format!("{power} %, {speed} mm/s")
}

fn is(a: f64, b: f64) -> bool {
    (a - b).abs() < 1e-9
}

/// Speeds, and a row for each power; none of what no laser cuts.
fn grid(material: &Material) -> (Vec<String>, Vec<Row>) {
    let laser = material.laser.filter(|_| material.tool == Tool::Laser);
    let Some(laser) = laser else {
        return (Vec::new(), Vec::new());
    };
    let Grid { powers, speeds } = Grid::of(&laser);
    let field = |power: f64, speed: f64| Field {
        values: format!(r#"{{"set":"beam","power":{power},"speed":{speed}}}"#),
        told: told(power, speed),
        now: is(power, laser.cut.most) && is(speed, laser.cut.speed),
    };
    let rows = powers.iter().map(|&power| Row {
        power: format!("{power} %"),
        fields: speeds.iter().map(|&speed| field(power, speed)).collect(),
    });
    let rows = rows.collect();
    (speeds.iter().map(|v| format!("{v}")).collect(), rows)
}

/// Squares and circles; none of what no blade cuts.
fn knife(material: &Material, unit: Unit) -> Vec<Tried> {
    let blade = material.blade.filter(|_| material.tool == Tool::Blade);
    let Some(blade) = blade else {
        return Vec::new();
    };
    let Knife { offsets, overcuts } = Knife::of(&blade);
    let row = |shape, called, word: &str, values: &[f64], set: f64| Tried {
        shape,
        called,
        fields: values
            .iter()
            .map(|&value| Field {
                values: format!(r#"{{"set":"{word}","value":{value}}}"#),
                told: unit.length(value, 2),
                now: is(value, set),
            })
            .collect(),
    };
    vec![
        row(
            "square",
            "Offset of the blade",
            "offset",
            &offsets,
            blade.offset,
        ),
        row("circle", "Overcut", "overcut", &overcuts, blade.overcut),
    ]
}

pub(super) fn routes(config: &mut web::ServiceConfig) {
    config.service(all);
}
