//! Draws a picture of every stage of a trace, to see where something went wrong.
//!
//! ```text
//! cargo run --release --package inky-formats --example stages -- artwork.png OUT 80
//! ```
//!
//! Writes into the folder OUT, the artwork being so many mm wide: `1-cleaned.png` (after the clean-up steps; there
//! are none here), `2-solid.png` (every pixel given to an ink), `3-outlines.svg` (what was fitted), `4-missed.png`
//! (red was lost, blue was added), `5-layers.svg` (as they are built for the first material) and `6-order.csv` (the
//! paths in the order of cutting: layer, operation, where it begins, mm, its length, mm, and when, s).

use std::error::Error;
use std::fmt::Write as _;
use std::path::Path;

use inky_core::agreement::Agreement;
use inky_core::assembly::build;
use inky_core::cutting::Cutting;
use inky_core::inks::Rgb;
use inky_core::layers::LayerChoice;
use inky_core::plan::{PlanChoice, plan};
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::trace;
use inky_core::units::Mm;
use inky_formats::svg::{self, Sized, Style};
use inky_formats::{picture, png};

fn main() -> Result<(), Box<dyn Error>> {
    let mut args = std::env::args().skip(1);
    let (Some(input), Some(folder)) = (args.next(), args.next()) else {
        return Err("give an artwork and a folder".into());
    };
    let width: f64 = args.next().map_or(Ok(80.0), |text| text.parse())?;
    let folder = Path::new(&folder);
    std::fs::create_dir_all(folder)?;
    let save = |name: &str, bytes: &[u8]| std::fs::write(folder.join(name), bytes);

    let artwork = picture::read(&std::fs::read(input)?)?.picture;
    let (w, h) = (artwork.width(), artwork.height());
    let size = Size::at_ppi(w, h, 96.0).with_width(Mm::new(width), w, h);
    let traced = trace(
        &artwork,
        &Recipe::automatic(size),
        &Stop::new(),
        &mut |_| {},
    )?;
    let design = &traced.design;

    save(
        "1-cleaned.png",
        &png::write_picture(&traced.cleaned.picture)?,
    )?;
    let paints: Vec<Rgb> = design.inks.iter().map(|ink| ink.paint).collect();
    let labels = &traced.bounded.labels;
    save(
        "2-solid.png",
        &png::write_solid(&traced.solid, labels, &paints)?,
    )?;
    let page = |choice: &LayerChoice| Cutting::of(design, &build(design, choice));
    let drawn = |cutting: &Cutting, style| svg::write(cutting, "", style, Sized::default());
    let plain = page(&LayerChoice::default().as_designed());
    save("3-outlines.svg", drawn(&plain, Style::CutLines).as_bytes())?;
    if let Some(agreement) = Agreement::of(&traced.cleaned.picture, &traced.solid, design) {
        save("4-missed.png", &png::write_missed(&agreement.missed)?)?;
    }
    let built = page(&LayerChoice::default());
    save("5-layers.svg", drawn(&built, Style::Filled).as_bytes())?;
    let (mut table, mut now) = (String::from("layer,operation,x,y,length,seconds\n"), 0.0);
    for step in &plan(&built, &PlanChoice::default()).steps {
        let (layer, at) = (&built.layers[step.key.layer].name, step.start());
        now += step.travel_seconds;
        writeln!(
            table,
            "{layer},{},{:.3},{:.3},{:.3},{now:.2}",
            step.operation.word(),
            at.x,
            at.y,
            step.length
        )?;
        now += step.seconds;
    }
    save("6-order.csv", table.as_bytes())?;
    Ok(())
}
