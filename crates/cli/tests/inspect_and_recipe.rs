//! `inky inspect` and `inky trace --recipe` from the outside.

use std::process::Command;

use crate::support::{INKY, png};
use anyhow::{Result, ensure};
use tempfile::TempDir;

fn disc() -> Result<Vec<u8>> {
    png(120, 90, |x, y| (x - 60.0).hypot(y - 45.0) < 30.0)
}

#[test]
fn inspect_says_what_a_picture_is_worth_at_its_size() -> Result<()> {
    let folder = TempDir::new()?;
    let file = folder.path().join("disc.png");
    std::fs::write(&file, disc()?)?;
    let out = Command::new(INKY)
        .arg("inspect")
        .arg(&file)
        .args(["--width", "120mm", "--json"])
        .output()?;
    ensure!(
        out.status.success(),
        "{}",
        String::from_utf8_lossy(&out.stderr)
    );
    let told: serde_json::Value = serde_json::from_slice(&out.stdout)?;
    // 120 px on 120 mm: 25.4 in an inch, one pixel a millimetre.
    ensure!((told["ppi"].as_f64().unwrap_or_default() - 25.4).abs() < 0.01);
    ensure!(told["size_px"] == serde_json::json!([120, 90]));
    ensure!(told["flat_colours"] == 2 && told["photograph"] == false);
    ensure!(told["jpeg_quality"].is_null());
    let advice = told["advice"][0].as_str().unwrap_or_default();
    ensure!(advice.contains("one pixel is 1.00 mm"), "{advice}");
    let plain = Command::new(INKY).arg("inspect").arg(&file).output()?;
    ensure!(String::from_utf8(plain.stdout)?.contains("flat colours                   2"));
    Ok(())
}

#[test]
fn a_recipe_brings_its_clean_up_and_arguments_come_on_top() -> Result<()> {
    let folder = TempDir::new()?;
    let (file, recipe) = (folder.path().join("disc.png"), folder.path().join("r.json"));
    std::fs::write(&file, disc()?)?;
    // The left half of the disc, turned upright; the whole picture is 60 mm wide.
    let corners = [[0, 0], [60, 0], [60, 90], [0, 90]];
    let steps = serde_json::json!([
        { "on": true, "kind": "crop", "corners": corners },
        { "on": true, "kind": "quarter", "turns": 1 },
        { "on": false, "kind": "main-only" }
    ]);
    let json = serde_json::json!({
        "version": 1, "clean": steps, "inks": { "mode": { "kind": "auto" } },
        "trace": { "tolerance": null, "min_part": null, "corner": null, "edges": "all" },
        "size": { "width": 45.0, "height": 30.0, "locked": true }
    });
    std::fs::write(&recipe, json.to_string())?;
    let traced = |extra: &[&str]| -> Result<serde_json::Value> {
        let (svg, report) = (folder.path().join("o.svg"), folder.path().join("o.json"));
        let out = Command::new(INKY)
            .args([
                "trace".as_ref(),
                file.as_os_str(),
                "-o".as_ref(),
                svg.as_os_str(),
                "--force".as_ref(),
            ])
            .args([
                "--recipe".as_ref(),
                recipe.as_os_str(),
                "--report".as_ref(),
                report.as_os_str(),
            ])
            .args(extra)
            .output()?;
        ensure!(
            out.status.success(),
            "{}",
            String::from_utf8_lossy(&out.stderr)
        );
        Ok(serde_json::from_slice(&std::fs::read(report)?)?)
    };
    let report = traced(&[])?;
    ensure!(
        report["size_px"] == serde_json::json!([90, 60]),
        "{}",
        report["size_px"]
    );
    ensure!(report["size_mm"] == serde_json::json!([45.0, 30.0]));
    // Half a disc of 30 px, half a millimetre to the pixel.
    let length = report["cut_length_mm"].as_f64().unwrap_or_default();
    let expected = 0.5 * (std::f64::consts::PI * 30.0 + 60.0);
    ensure!((length - expected).abs() < 0.5, "{length} of {expected} mm");
    let wider = traced(&["--width", "90mm"])?;
    ensure!(wider["size_mm"] == serde_json::json!([90.0, 60.0]));
    std::fs::write(&recipe, "{ no recipe")?;
    let out = Command::new(INKY)
        .args([
            "trace".as_ref(),
            file.as_os_str(),
            "-o".as_ref(),
            "x.svg".as_ref(),
        ])
        .args(["--recipe".as_ref(), recipe.as_os_str()])
        .output()?;
    ensure!(out.status.code() == Some(1));
    ensure!(String::from_utf8(out.stderr)?.contains("is not a recipe"));
    Ok(())
}
