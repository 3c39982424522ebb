//! The work order as headings with rows, for paper.

use inky_core::material::{Material, Tool};
use inky_core::plan;
use inky_core::recipe::Recipe;
use inky_core::units::Unit;

use crate::job::sheet::shown::duration;
use crate::job::size::shown as checks;
use crate::text;
use crate::workshop::{Laid, OnSheet, Outcome};

/// Headings with rows of a name and what it is.
pub(crate) type Order = Vec<(String, Vec<[String; 2]>)>;

/// How a layer is run, with all that is set at the machine.
fn settings(material: &Material, operation: inky_core::material::Operation) -> String {
    let (speed, passes) = plan::run(material, operation);
    let mut words = vec![operation.word().to_owned(), format!("{speed:.0} mm/s")];
    match (material.tool, &material.blade, &material.laser) {
        (Tool::Blade, Some(b), _) => words.push(format!("{:.0} g", b.force)),
        (Tool::Laser, _, Some(l)) => {
            let beam = plan::beam(l, operation);
            words.push(format!("{:.0} to {:.0} % power", beam.least, beam.most));
        }
        _ => {}
    }
    if passes > 1 {
        words.push(format!("{passes} passes"));
    }
    words.join(", ")
}

fn sheet(on: &OnSheet, unit: Unit) -> (String, Vec<[String; 2]>) {
    let sheet = &on.sheet;
    let row = |name: &str, value: String| [name.to_owned(), value];
    let long = |mm: f64| {
        let (figure, symbol) = text::long_length(mm, unit);
        format!("{figure} {symbol}")
    };
    let mut rows = vec![
        row("Copies", sheet.copies().to_string()),
        row(
            "Stock",
            format!(
                "{} of {} {} {}",
                long(sheet.left.used_length),
                text::length(sheet.stock.width, unit, 0),
                unit.symbol(),
                sheet.stock.kind.word()
            ),
        ),
    ];
    for source in &sheet.sources {
        let whose = match source.owner.as_str() {
            "" => source.job.clone(),
            owner => format!("{}, {owner}", source.job),
        };
        rows.push(row("On it", whose));
    }
    if let Some((cutting, plan)) = on.if_planned() {
        for (n, layer) in cutting.layers.iter().enumerate() {
            let told = format!(
                "{}; {}; {}",
                settings(&layer.material, layer.operation),
                long(layer.length()),
                duration(plan.seconds_of(n))
            );
            rows.push([layer.name.clone(), told]);
        }
        rows.push(row("Time", duration(plan.seconds())));
    }
    if sheet.cost() > 0.0 {
        rows.push(row("Material", format!("{:.2}", sheet.cost())));
    }
    (sheet.name.clone(), rows)
}

/// Everything the workshop needs of a job.
pub(crate) fn work_order(recipe: &Recipe, outcome: &Outcome, laid: &Laid, unit: Unit) -> Order {
    let size = outcome.design.size;
    let checked = outcome.checked();
    let told = checks::work_order(recipe, checked, unit);
    let row = |name: &str, value: String| [name.to_owned(), value];
    let measure = format!(
        "{} × {} {}",
        text::side(size.width.get(), unit),
        text::side(size.height.get(), unit),
        unit.symbol()
    );
    let mut piece = vec![
        row("Finished size", measure),
        row("Cut", told.mirrored.to_owned()),
    ];
    piece.extend(told.checks.into_iter().map(|c| row("Check", c)));
    piece.push(row("Weeding", told.weeding));
    let mut order = vec![("Piece".to_owned(), piece)];
    order.extend(laid.sheets.iter().map(|s| sheet(s, unit)));
    order
}
