//! `inky stones`: templates for stones, counted by size.

use std::fs;

use anyhow::{Context, Result, ensure};
use inky_formats::vector;
use tempfile::TempDir;

use crate::support::run::inky;

#[test]
fn a_shape_is_filled_with_two_sizes_and_its_edge_set_with_stones() -> Result<()> {
    let folder = TempDir::new()?;
    let path = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    fs::write(
        path("leaf.svg"),
        r#"<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="40mm" viewBox="0 0 80 40"><path d="M2,20C20,-4 60,-4 78,20C60,44 20,44 2,20Z"/></svg>"#,
    )?;
    let (leaf, out) = (path("leaf.svg"), path("out.svg"));
    let run = |more: &[&str]| -> Result<(Option<i32>, String)> {
        let mut args = vec!["stones", &leaf, "-o", &out, "--force"];
        args.extend(more);
        let done = inky(&args)?;
        Ok((
            done.status.code(),
            String::from_utf8_lossy(&done.stderr).into_owned(),
        ))
    };
    let holes = || -> Result<Vec<f64>> {
        let file = vector::read(&fs::read(&out)?)?;
        let across = |p: &inky_core::tidy::PathData| -> Result<f64> {
            let segments = p.segments()?;
            let boxes = segments.iter().map(|s| s.bounds());
            Ok(boxes.reduce(|a, b| a.union(b)).context("a path")?.width())
        };
        file.parts
            .iter()
            .flat_map(|p| &p.paths)
            .map(across)
            .collect()
    };
    let (code, told) = run(&[
        "--size",
        "SS16",
        "--size",
        "SS6",
        "--fill",
        "hexagonal",
        "--gap",
        "0.4mm",
    ])?;
    ensure!(code == Some(0), "{told}");
    let found = holes()?;
    let figures: Vec<usize> = told
        .split([' ', '\n'])
        .filter_map(|w| w.parse().ok())
        .collect();
    ensure!(figures.len() == 3 && figures[0] == found.len(), "{told}");
    // Holes 0.3 mm wider than their stones.
    let of = |size: f64| {
        found
            .iter()
            .filter(|w| (*w - size - 0.3).abs() < 0.01)
            .count()
    };
    ensure!(
        of(3.9) == figures[1] && of(2.0) == figures[2] && figures[1] > 60 && figures[2] > 10,
        "{told}"
    );
    let (code, told) = run(&["--size", "SS10", "--along", "--clearance", "0mm"])?;
    ensure!(code == Some(0) && told.contains("of SS10"), "{told}");
    ensure!(holes()?.iter().all(|w| (w - 2.8).abs() < 0.01));
    // A chart beside it, and what is no name for one.
    let chart = path("chart.pdf");
    let (code, told) = run(&["--size", "SS10", "--fill", "--chart", &chart])?;
    ensure!(code == Some(0), "{told}");
    ensure!(fs::read(&chart)?.starts_with(b"%PDF"));
    let (code, told) = run(&["--size", "SS10", "--fill", "--chart", &path("chart.png")])?;
    ensure!(
        code == Some(1) && told.contains("a chart is written as .pdf"),
        "{told}"
    );
    for (args, code, said) in [
        (vec!["--size", "SS7", "--along"], 2, "SS7"),
        (vec!["--size", "60mm", "--fill"], 1, "outside 0.5 to 50 mm"),
        (
            vec!["--size", "45mm", "--fill"],
            1,
            "no stone of 45.0 mm finds room",
        ),
        (
            vec!["--size", "SS6", "--size", "SS10", "--along"],
            1,
            "one size",
        ),
        (vec!["--size", "SS6"], 2, "--along"),
    ] {
        let (got, told) = run(&args)?;
        ensure!(got == Some(code) && told.contains(said), "{args:?}: {told}");
    }
    Ok(())
}
