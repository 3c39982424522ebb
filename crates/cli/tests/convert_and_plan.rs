//! `inky trace` to every format in one line, `inky convert` between them, `inky plan` of the result.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use crate::support::{INKY, png};
use serde_json::Value;
use tempfile::TempDir;

fn inky(args: &[&str]) -> Output {
    Command::new(INKY).args(args).output().unwrap()
}

fn done(args: &[&str]) -> Output {
    let out = inky(args);
    let said = String::from_utf8_lossy(&out.stderr).into_owned();
    assert!(out.status.success(), "{args:?}: {said}");
    out
}

fn refused(args: &[&str]) -> String {
    let out = inky(args);
    assert_eq!(out.status.code(), Some(1), "{args:?}");
    String::from_utf8_lossy(&out.stderr).into_owned()
}

/// A ring of 40 mm with a hole of 20 mm on a page of 60 × 50 mm, one pixel 0.25 mm.
fn ring(folder: &Path) -> String {
    let file = folder.join("ring.png");
    let inside = |x: f64, y: f64| (40.0..=80.0).contains(&(x - 120.0).hypot(y - 100.0));
    std::fs::write(&file, png(240, 200, inside).unwrap()).unwrap();
    file.to_str().unwrap().to_owned()
}

fn path(folder: &TempDir, name: &str) -> String {
    folder.path().join(name).to_str().unwrap().to_owned()
}

fn names(folder: &Path) -> Vec<PathBuf> {
    let mut all: Vec<PathBuf> = std::fs::read_dir(folder)
        .unwrap()
        .map(|f| f.unwrap().path())
        .collect();
    all.sort();
    all
}

#[test]
fn one_line_goes_from_a_picture_to_every_format_and_on_to_every_other() {
    let folder = TempDir::new().unwrap();
    let art = ring(folder.path());
    for (ending, begins) in [
        ("svg", "<?xml"),
        ("dxf", "  0\r\nSECTION"),
        ("plt", "IN;"),
        ("gcode", "G21 G90 G94"),
        ("pdf", "%PDF-1.6"),
        ("png", "\u{fffd}PNG"),
    ] {
        let out = path(&folder, &format!("out.{ending}"));
        done(&["trace", &art, "-o", &out, "--width", "60mm"]);
        let bytes = std::fs::read(&out).unwrap();
        let head = String::from_utf8_lossy(&bytes[..bytes.len().min(40)]);
        assert!(head.starts_with(begins), "{ending}: {head}");
    }
    for from in ["svg", "dxf", "plt", "gcode"] {
        let input = path(&folder, &format!("out.{from}"));
        for to in ["svg", "dxf", "plt", "gcode", "pdf", "png"] {
            done(&[
                "convert",
                &input,
                "-o",
                &path(&folder, &format!("{from}.{to}")),
            ]);
        }
        // Two circles of 40 and 20 mm: 60 π mm of line, whatever way it came.
        let planned = path(&folder, &format!("{from}.dxf"));
        let out = done(&["plan", &planned, "--json"]);
        let plan: Value = serde_json::from_slice(&out.stdout).unwrap();
        assert_eq!(plan["paths"], 2, "{from}");
        let cut = plan["cut_mm"].as_f64().unwrap();
        // The overcut of the first material's blade runs on past both.
        assert!(
            (cut - 60.0 * std::f64::consts::PI).abs() < 3.0,
            "{from}: {cut}"
        );
        assert!(plan["seconds"].as_f64().unwrap() > 0.3);
        let order = plan["order"].as_array().unwrap();
        let length = |n: usize| order[n]["length_mm"].as_f64().unwrap();
        assert!(length(0) < length(1), "the hole comes first");
    }
    assert!(
        names(folder.path())
            .iter()
            .all(|f| !f.to_string_lossy().contains(".part")),
        "nothing half-written is left"
    );
}

#[test]
fn a_machine_file_is_planned_in_its_own_order() {
    let folder = TempDir::new().unwrap();
    let file = path(&folder, "own.plt");
    // 400 units are 10 mm. The far square first, at 10 cm/s.
    std::fs::write(
        &file,
        "IN;SP1;VS10;PU4000,0;PD4400,0,4400,400;PU0,0;SP2;PD400,0;PU;SP0;",
    )
    .unwrap();
    let plan: Value = serde_json::from_slice(&done(&["plan", &file, "--json"]).stdout).unwrap();
    assert_eq!(plan["paths"], 2);
    assert_eq!(plan["order"][0]["at_mm"], serde_json::json!([100.0, 10.0]));
    assert_eq!(plan["order"][1]["layer"], "pen 2");
    assert!((plan["cut_mm"].as_f64().unwrap() - 30.0).abs() < 1e-9);
    // To it 100 mm, from its end at (110, 10) back to the corner, and 10 mm home.
    let travel = 100.0 + 110.0_f64.hypot(10.0) + 10.0;
    assert!((plan["travel_mm"].as_f64().unwrap() - travel).abs() < 1e-6);
    let words = done(&["plan", &file]);
    let words = String::from_utf8_lossy(&words.stdout).into_owned();
    assert!(words.starts_with("2 paths, 0.03 m to cut"), "{words}");
}

#[test]
fn converting_can_scale_mirror_trim_and_part() {
    let folder = TempDir::new().unwrap();
    let (svg, out) = (path(&folder, "in.svg"), path(&folder, "out.svg"));
    let path_data = "M10 10H30V20H10Z";
    std::fs::write(
        &svg,
        format!(
            "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"100mm\" height=\"50mm\" viewBox=\"0 0 100 50\">\
             <path d=\"{path_data}\" fill=\"#c02020\"/><path d=\"M60 10H70V20H60Z\" fill=\"#2020c0\"/></svg>"
        ),
    )
    .unwrap();
    done(&["convert", &svg, "-o", &out, "--width", "200mm", "--mirror"]);
    let text = std::fs::read_to_string(&out).unwrap();
    // Twice as large, and what lay 10 to 30 mm from the left lies 20 to 60 mm from the right.
    assert!(text.contains("width=\"200mm\" height=\"100mm\""), "{text}");
    assert!(text.contains("140 20") && text.contains("180 20"), "{text}");
    done(&[
        "convert",
        &svg,
        "-o",
        &out,
        "--force",
        "--trim",
        "--out-unit",
        "in",
    ]);
    let text = std::fs::read_to_string(&out).unwrap();
    assert!(text.contains("width=\"2.3622in\""), "60 mm: {text}");
    done(&[
        "convert",
        &svg,
        "-o",
        &path(&folder, "parts.plt"),
        "--split",
        "layer",
    ]);
    let parts: Vec<PathBuf> = names(folder.path())
        .into_iter()
        .filter(|f| f.extension().is_some_and(|e| e == "plt"))
        .collect();
    assert_eq!(parts.len(), 2, "{parts:?}");
    for part in parts {
        let text = std::fs::read_to_string(part).unwrap();
        assert_eq!(
            text.matches("PU").count(),
            3,
            "the start, one square, the end"
        );
    }
}

#[test]
fn what_cannot_be_written_is_said_and_leaves_nothing_behind() {
    let folder = TempDir::new().unwrap();
    let art = ring(folder.path());
    let out = |name: &str| path(&folder, name);
    let own = out("out.svg");
    done(&["trace", &art, "-o", &own]);
    let before = names(folder.path());
    for (args, says) in [
        (
            vec!["convert", &own, "-o", &out("x.ai")],
            "no ending known here",
        ),
        (
            vec!["convert", &out("none.svg"), "-o", &out("x.dxf")],
            "cannot read",
        ),
        (
            vec!["convert", &art, "-o", &out("x.dxf")],
            "no SVG, DXF, HPGL or G-code",
        ),
        (
            vec!["convert", &own, "-o", &out("x.dxf"), "--width", "0mm"],
            "above nought",
        ),
        (
            vec!["convert", &own, "-o", &out("x.dxf"), "--material", "Lead"],
            "no material called",
        ),
        (
            vec!["convert", &own, "-o", &out("x.svg"), "--per-inch", "0"],
            "not between",
        ),
        (
            vec!["convert", &own, "-o", &out("no/such/x.svg")],
            "cannot write",
        ),
        (vec!["plan", &art], "no SVG, DXF, HPGL or G-code"),
    ] {
        let said = refused(&args);
        assert!(said.contains(says), "{args:?}: {said}");
    }
    assert_eq!(names(folder.path()), before, "nothing was left behind");
}

#[test]
fn a_full_disk_leaves_the_file_that_was_there() {
    let folder = TempDir::new().unwrap();
    let art = ring(folder.path());
    let out = path(&folder, "out.png");
    std::fs::write(&out, "what was there").unwrap();
    let before = names(folder.path());
    // A limit on the size of files stands for the disk; its signal is ignored, so writing fails.
    let script = format!(
        "trap '' XFSZ; ulimit -f 4; exec {INKY} trace {art} -o {out} --force --png-dpi 600 --width 200mm"
    );
    let ran = Command::new("bash").args(["-c", &script]).output().unwrap();
    let said = String::from_utf8_lossy(&ran.stderr).into_owned();
    assert_eq!(ran.status.code(), Some(1), "{said}");
    assert!(said.contains("cannot write"), "{said}");
    assert_eq!(std::fs::read_to_string(&out).unwrap(), "what was there");
    assert_eq!(names(folder.path()), before);
}

#[test]
fn files_are_laid_out_on_stock_in_rows_or_nested() {
    let folder = TempDir::new().unwrap();
    let art = ring(folder.path());
    let svg = path(&folder, "ring.svg");
    done(&["trace", &art, "-o", &svg, "--width", "60mm"]);
    let sheet = |args: &[&str]| {
        let out = path(&folder, "sheet.svg");
        let mut all = vec!["sheet", svg.as_str(), "-o", out.as_str(), "--force"];
        all.extend(args);
        let told = String::from_utf8_lossy(&done(&all).stderr).into_owned();
        (std::fs::read_to_string(&out).unwrap(), told)
    };
    // Rings of 40 mm on a roll of 200 mm with 3 mm between: four in a row (4 · 40 + 3 · 3 = 169).
    let (text, told) = sheet(&["--stock", "200mm", "--copies", "6", "--gap", "3mm"]);
    let high = text
        .split("height=\"")
        .nth(1)
        .and_then(|t| t.split("mm").next());
    let high: f64 = high.unwrap().parse().unwrap();
    // Two rows of 40 mm and the gap; the traced ring is true to a hundredth.
    assert!(
        text.contains("width=\"200mm\"") && (high - 83.0).abs() < 0.03,
        "{high}"
    );
    assert!(told.contains("6 copies, 6 parts on 83 mm"), "{told}");
    let (text, _) = sheet(&["--stock", "200x90mm", "--copies", "sheet"]);
    assert_eq!(text.matches("<path").count(), 8, "two rows of four");
    let nested = [
        "--stock", "200mm", "--copies", "6", "--nest", "--gap", "3mm",
    ];
    let (first, told) = sheet(&nested);
    assert!(told.contains("6 copies"), "{told}");
    assert_eq!(first, sheet(&nested).0, "the same tries, the same sheet");
    let (text, _) = sheet(&[
        "--stock",
        "200mm",
        "--weed-box",
        "--relief",
        "10mm",
        "--trial",
    ]);
    assert!(text.contains("<title>Weeding</title>") && text.contains("<title>Trial cut</title>"));
    for (args, says) in [
        (vec!["--stock", "30mm"], "nothing fits on 30 mm"),
        (vec!["--copies", "0"], "choose between 1 and 10000"),
        (vec!["--gap", "2m"], "outside 0 to 500 mm"),
    ] {
        let out = path(&folder, "none.svg");
        let mut all = vec!["sheet", svg.as_str(), "-o", out.as_str()];
        all.extend(&args);
        let said = refused(&all);
        assert!(said.contains(says), "{args:?}: {said}");
        assert!(!Path::new(&out).exists());
    }
    let (text, told) = sheet(&["--stock", "30mm", "--panels", "4mm"]);
    assert!(text.contains("width=\"30mm\""), "{told}");
}
