//! `inky trace --square-up`: from the photograph of a sign to a file of its true size.

use std::fs;

use anyhow::{Result, ensure};
use tempfile::TempDir;

use crate::support::run::inky;

#[test]
fn a_photograph_is_squared_up_to_its_true_size() -> Result<()> {
    let folder = TempDir::new()?;
    let path = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    fs::write(path("sign.jpg"), inky_demo::PHOTOGRAPHS[0].file())?;
    let trace = |more: &[&str]| {
        let (input, output) = (path("sign.jpg"), path("sign.svg"));
        let mut all = vec!["trace", &input, "-o", &output, "--inks", "mono", "--force"];
        all.extend(more);
        inky(&all)
    };
    let size = || -> Result<(f64, f64)> {
        let svg = fs::read_to_string(path("sign.svg"))?;
        let side = |name: &str| -> Option<f64> {
            let (_, rest) = svg.split_once(&format!("{name}=\""))?;
            rest.split_once("mm")?.0.parse().ok()
        };
        Ok((
            side("width").unwrap_or_default(),
            side("height").unwrap_or_default(),
        ))
    };
    let done = trace(&["--square-up", "auto", "--true-size", "900x500mm"])?;
    ensure!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    let (width, height) = size()?;
    ensure!(
        (width - 900.0).abs() < 0.5 && (height - 500.0).abs() < 0.7,
        "{width} × {height}"
    );
    // Its corners alone tell its proportions; a width typed beside them is the finished one.
    let done = trace(&["--square-up", "auto", "--width", "300mm"])?;
    ensure!(String::from_utf8_lossy(&done.stderr).contains("told by its corners"));
    let (width, height) = size()?;
    ensure!(
        (width - 300.0).abs() < 0.01 && (height / 166.67 - 1.0).abs() < 0.01,
        "{width} × {height}"
    );
    // Refusals say what helps, and write nothing.
    fs::remove_file(path("sign.svg"))?;
    for (corners, words) in [
        ("1,1,2,2,3,3,4,4", "do not stand around"),
        ("1,1,9000,1,9000,900,1,900", "outside the picture"),
    ] {
        let refused = trace(&["--square-up", corners])?;
        let said = String::from_utf8_lossy(&refused.stderr).into_owned();
        ensure!(
            refused.status.code() == Some(1) && said.contains(words),
            "{said}"
        );
    }
    let wrong = trace(&["--true-size", "A4"])?;
    ensure!(wrong.status.code() == Some(2), "{:?}", wrong.status);
    ensure!(!fs::exists(path("sign.svg"))?);
    Ok(())
}
