//! `inky stock` and `inky sheet --stock FILE --rest FILE`: from a photograph to parts on an odd piece, and what is left.

use std::fs;

use anyhow::{Context, Result, ensure};
use inky_demo::plate;
use tempfile::TempDir;

use crate::support::run::inky;

#[test]
fn a_photographed_offcut_takes_parts_and_leaves_the_next_one() -> Result<()> {
    let folder = TempDir::new()?;
    let path = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    fs::write(path("plate.jpg"), plate::file())?;
    let said = |args: &[&str], code: i32| -> Result<String> {
        let done = inky(args)?;
        let said = String::from_utf8_lossy(&done.stderr).into_owned();
        ensure!(done.status.code() == Some(code), "{args:?}: {said}");
        Ok(said)
    };
    let (photograph, offcut) = (path("plate.jpg"), path("offcut.svg"));
    let told = said(&["stock", &photograph, "--sheet", "A4", "-o", &offcut], 0)?;
    // 520 × 340 mm with two holes.
    let figures: Vec<f64> = told
        .split([' ', ';'])
        .filter_map(|w| w.parse().ok())
        .collect();
    ensure!(
        (figures[0] - 520.0).abs() < 1.0 && (figures[1] - 340.0).abs() < 1.0,
        "{told}"
    );
    ensure!(
        told.contains("2 holes") && told.contains("true within"),
        "{told}"
    );
    let file = fs::read_to_string(&offcut)?;
    ensure!(file.contains("data:image/jpeg;base64,") && file.matches("<path").count() == 3);
    // Parts that no rectangle of 520 × 340 with a hole in its middle would be in the way of.
    let tile = r#"<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60"><path d="M0,0H60V60H0Z"/></svg>"#;
    fs::write(path("tile.svg"), tile)?;
    let (tile, out, rest) = (path("tile.svg"), path("out.svg"), path("rest.svg"));
    let sheet = |stock: &str, more: &[&str], code| {
        let mut all = vec!["sheet", &tile, "--stock", stock, "-o", &out, "--force"];
        all.extend(more);
        said(&all, code)
    };
    let told = sheet(&offcut, &["--copies", "12", "--nest", "--rest", &rest], 0)?;
    ensure!(
        told.contains("12 copies") && told.contains("left:"),
        "{told}"
    );
    // What is left is what was there less twelve tiles.
    let area = |told: &str, after: &str| -> Result<f64> {
        let (_, on) = told.split_once(after).context("no figure")?;
        let (before, _) = on.split_once(" cm²").context("no area")?;
        Ok(before.rsplit(' ').next().context("no area")?.parse()?)
    };
    let outline = plate::OUTLINE
        .iter()
        .zip(plate::OUTLINE.iter().cycle().skip(1));
    let twice: f64 = outline.map(|(p, q)| p[0] * q[1] - p[1] * q[0]).sum();
    let holes: f64 = plate::HOLES
        .iter()
        .map(|(_, r)| std::f64::consts::PI * r * r)
        .sum();
    let whole = twice / 2.0 - holes;
    let expected = (whole - 12.0 * 3600.0) / 100.0;
    let left = area(&told, "left:")?;
    ensure!((left - expected).abs() < 10.0, "{left} cm², not {expected}");
    // It is stock again, and takes fewer.
    let told = sheet(&rest, &["--copies", "sheet", "--nest"], 0)?;
    ensure!(told.contains("copies"), "{told}");
    // Refusals say what helps.
    for (args, words) in [
        (
            vec![
                "stock",
                &photograph,
                "--sheet",
                "Letter",
                "-o",
                &offcut,
                "--force",
            ],
            "no sheet",
        ),
        (vec!["stock", &tile, "-o", &offcut, "--force"], "tile.svg"),
        (vec!["stock", &photograph, "-o", "piece.dxf"], ".svg"),
        (vec!["stock", &photograph, "-o", &offcut], "--force"),
    ] {
        let told = said(&args, 1)?;
        ensure!(told.contains(words), "{args:?}: {told}");
    }
    let told = sheet("610mm", &["--rest", &path("none.svg")], 1)?;
    ensure!(told.contains("a roll is cut across"), "{told}");
    Ok(())
}
