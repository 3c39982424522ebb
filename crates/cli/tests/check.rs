//! `inky check` on files with one fault each, and on clean ones.
//!
//! Each file of `faulty` is named by the fault that was planted in it; those of `clean` have none.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use serde_json::Value;

fn inky(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_inky"))
        .args(args)
        .output()
        .unwrap()
}

fn files(folder: &str) -> Vec<PathBuf> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR"))
        .join("tests")
        .join(folder);
    let mut files: Vec<PathBuf> = std::fs::read_dir(folder)
        .unwrap()
        .map(|f| f.unwrap().path())
        .collect();
    files.sort();
    assert!(!files.is_empty());
    files
}

fn material(file: &Path) -> &'static str {
    if file.ends_with("falls-out.svg") {
        "stencil film"
    } else {
        "Cast vinyl"
    }
}

fn report(file: &Path) -> Value {
    let path = file.to_str().unwrap();
    let out = inky(&["check", path, "--json", "--material", material(file)]);
    assert!(
        out.status.success(),
        "{path}: {}",
        String::from_utf8_lossy(&out.stderr)
    );
    serde_json::from_slice(&out.stdout).unwrap()
}

fn kinds(report: &Value) -> Vec<String> {
    let mut kinds: Vec<String> = report["findings"]
        .as_array()
        .unwrap()
        .iter()
        .map(|f| f["kind"].as_str().unwrap().to_owned())
        .collect();
    kinds.dedup();
    kinds
}

#[test]
fn every_planted_fault_is_found_and_nothing_else() {
    for file in files("faulty") {
        let planted = file.file_stem().unwrap().to_str().unwrap();
        let report = report(&file);
        let own = kinds(&report);
        assert_eq!(own, [planted], "{}", file.display());
        let first = &report["findings"][0];
        let note = first["severity"] == "note";
        assert_eq!(report["ok"], note, "{planted}");
        for key in ["at_mm", "value", "limit", "unit", "text", "layer"] {
            assert!(first.get(key).is_some(), "{key} of {planted}");
        }
    }
}

#[test]
fn clean_files_have_no_findings() {
    for file in files("clean") {
        let report = report(&file);
        assert_eq!(
            report["findings"],
            serde_json::json!([]),
            "{}",
            file.display()
        );
        assert_eq!(report["ok"], true);
    }
}

#[test]
fn what_can_be_mended_is_mended_and_written() {
    let folder = tempfile::tempdir().unwrap();
    for file in files("faulty") {
        let name = file.file_stem().unwrap().to_str().unwrap().to_owned();
        if ["bitmap-only", "many-parts", "too-large"].contains(&name.as_str()) {
            continue;
        }
        let mended = folder.path().join(format!("{name}.svg"));
        let (path, out) = (file.to_str().unwrap(), mended.to_str().unwrap());
        let done = inky(&[
            "check",
            path,
            "--material",
            material(&file),
            "--fix",
            out,
            "--force",
        ]);
        let said = String::from_utf8_lossy(&done.stderr).into_owned();
        // An open line that is closed straight across may be thin, which is told.
        assert!(
            done.status.success() && said.contains(", 0 left"),
            "{name}: {said}"
        );
        assert!(!kinds(&report(&mended)).contains(&name), "{name}");
    }
}

#[test]
fn people_are_told_in_lines_and_what_cannot_be_done_says_why() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/faulty");
    let thin = folder.join("thin.svg");
    let thin = thin.to_str().unwrap();
    let out = inky(&["check", thin, "--material", "ply 3 mm"]);
    let text = String::from_utf8(out.stdout).unwrap();
    assert!(
        text.starts_with("80.0 × 80.0 mm, 1 layer, of Ply 3 mm\n"),
        "{text}"
    );
    assert!(
        text.contains("warn Thin stroke: 0.40 mm; Ply 3 mm needs 1.50 mm"),
        "{text}"
    );
    assert!(text.contains("weeding: "), "{text}");
    for (args, why) in [
        (
            vec!["check", thin, "--material", "cheese"],
            "no material called 'cheese'; there are Cast vinyl",
        ),
        (vec!["check", "nowhere.svg"], "cannot read nowhere.svg"),
        (vec!["check", env!("CARGO_MANIFEST_DIR")], "cannot read"),
        (vec!["check", thin, "--fix", "out.dxf"], "--fix writes SVG"),
        (
            vec!["check", thin, "--materials", thin],
            "is no list of materials",
        ),
    ] {
        let out = inky(&args);
        assert_eq!(out.status.code(), Some(1), "{args:?}");
        let said = String::from_utf8_lossy(&out.stderr).into_owned();
        assert!(said.contains(why), "{said}");
    }
}

#[test]
fn a_list_of_materials_brings_its_own_limits() {
    let folder = tempfile::tempdir().unwrap();
    let list = folder.path().join("materials.json");
    let mut own = inky_core::material::presets();
    own.truncate(1);
    own[0].name = "Felt".to_owned();
    own[0].limits.hole = 30.0;
    std::fs::write(&list, serde_json::to_vec(&own).unwrap()).unwrap();
    // A ring with a hole of 24 mm across.
    let ring = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/clean/badge.svg");
    let out = inky(&[
        "check",
        ring.to_str().unwrap(),
        "--materials",
        list.to_str().unwrap(),
    ]);
    let text = String::from_utf8(out.stdout).unwrap();
    assert!(text.contains("Felt needs 30.00 mm"), "{text}");
}

#[test]
fn a_trace_with_overlap_has_no_bare_seam() {
    let folder = tempfile::tempdir().unwrap();
    let teapot = inky_demo::SAMPLES
        .iter()
        .find(|s| s.file_name == "teapot.png")
        .unwrap();
    let input = folder.path().join("teapot.png");
    std::fs::write(&input, teapot.file()).unwrap();
    for (build, bare) in [("flush", true), ("overlap", false), ("stacked", false)] {
        let out = folder.path().join(format!("{build}.svg"));
        let done = inky(&[
            "trace",
            input.to_str().unwrap(),
            "-o",
            out.to_str().unwrap(),
            "--width",
            "150mm",
            "--build",
            build,
            "--overlap",
            "1mm",
        ]);
        assert!(
            done.status.success(),
            "{}",
            String::from_utf8_lossy(&done.stderr)
        );
        let found = kinds(&report(&out));
        assert_eq!(
            found.contains(&"overlap".to_owned()),
            bare,
            "{build}: {found:?}"
        );
    }
}
