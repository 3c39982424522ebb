//! Files by the dozen, pipes, and how much is said.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use std::io::Write;
use std::path::Path;
use std::process::{Command, Output, Stdio};

use crate::support::INKY;
use serde_json::Value;

const BOX: &str = "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"40mm\" height=\"30mm\" viewBox=\"0 0 40 30\"><rect x=\"5\" y=\"5\" width=\"20\" height=\"10\"/></svg>";
const NOTHING: &str =
    "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"40mm\" height=\"30mm\"><text>a</text></svg>";

fn inky(folder: &Path, args: &[&str]) -> Output {
    let mut command = Command::new(INKY);
    command.current_dir(folder).args(args).output().unwrap()
}

fn said(output: &Output) -> String {
    String::from_utf8_lossy(&output.stderr).into_owned()
}

/// A folder with a box, the same again, a file without outlines and one that is none.
fn folder() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    for (name, text) in [
        ("one.svg", BOX),
        ("two.svg", BOX),
        ("none.svg", NOTHING),
        ("broken.svg", "<svg><g>"),
    ] {
        std::fs::write(folder.path().join(name), text).unwrap();
    }
    folder
}

#[test]
fn several_files_go_into_a_folder_and_one_that_fails_keeps_none() {
    let folder = folder();
    let at = folder.path();
    let all = [
        "convert",
        "one.svg",
        "broken.svg",
        "two.svg",
        "--out-dir",
        "out",
        "--format",
        "dxf",
    ];
    let done = inky(at, &all);
    assert_eq!(done.status.code(), Some(1));
    let words = said(&done);
    assert!(
        words.contains("one.svg: converted: 40.00 × 30.00 mm"),
        "{words}"
    );
    assert!(
        words.contains("broken.svg") && words.contains("1 of 3 files failed"),
        "{words}"
    );
    for name in ["one.dxf", "two.dxf"] {
        let text = std::fs::read_to_string(at.join("out").join(name)).unwrap();
        assert!(text.contains("LWPOLYLINE"), "{name}");
    }
    assert!(!at.join("out/broken.dxf").exists());
    // Nothing is replaced, and nothing of one name twice.
    let again = inky(
        at,
        &[
            "convert",
            "one.svg",
            "two.svg",
            "--out-dir",
            "out",
            "--format",
            "dxf",
        ],
    );
    assert!(said(&again).contains("2 of 2 files failed") && said(&again).contains("--force"));
    std::fs::create_dir(at.join("more")).unwrap();
    std::fs::write(at.join("more/one.svg"), BOX).unwrap();
    let same = inky(
        at,
        &["convert", "one.svg", "more/one.svg", "--out-dir", "out2"],
    );
    assert_eq!(same.status.code(), Some(2));
    assert!(
        said(&same).contains("both be written as"),
        "{}",
        said(&same)
    );
    let one_name = inky(at, &["convert", "one.svg", "two.svg", "-o", "x.svg"]);
    assert_eq!(one_name.status.code(), Some(2));
    assert!(said(&one_name).contains("--out-dir") && !at.join("x.svg").exists());
}

#[test]
fn check_tells_every_file_in_a_line_and_json_is_always_json() {
    let folder = folder();
    let at = folder.path();
    let files = ["one.svg", "none.svg", "broken.svg"];
    let done = inky(at, &[&["check"], &files[..]].concat());
    assert_eq!(done.status.code(), Some(1));
    let lines = String::from_utf8_lossy(&done.stdout).into_owned();
    assert!(lines.contains("one.svg: nothing in the way"), "{lines}");
    assert!(
        lines.contains("none.svg: 1 stop (nothing-to-cut)"),
        "{lines}"
    );
    assert_eq!(lines.lines().count(), 2);
    assert!(said(&done).contains("broken.svg"));
    let done = inky(at, &[&["check", "--json"], &files[..]].concat());
    let all: Value = serde_json::from_slice(&done.stdout).unwrap();
    assert_eq!(all[0]["file"], "one.svg");
    assert_eq!(all[0]["ok"], true);
    assert_eq!(all[1]["findings"][0]["kind"], "nothing-to-cut");
    assert!(all[2]["error"].as_str().unwrap().contains("cannot be read"));
    // Of one file, the object alone.
    for (name, ok) in [
        ("one.svg", true),
        ("none.svg", false),
        ("broken.svg", false),
        ("missing.svg", false),
    ] {
        let done = inky(at, &["check", "--json", name]);
        let one: Value = serde_json::from_slice(&done.stdout).unwrap();
        assert_eq!(one["ok"], ok, "{name}");
        assert!(one.get("file").is_none());
    }
}

#[test]
fn a_dash_is_standard_input_and_output() {
    let folder = folder();
    let mut child = Command::new(INKY)
        .current_dir(folder.path())
        .args(["convert", "-", "-o", "-", "--format", "plt", "--quiet"])
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    child
        .stdin
        .take()
        .unwrap()
        .write_all(BOX.as_bytes())
        .unwrap();
    let done = child.wait_with_output().unwrap();
    assert_eq!(done.status.code(), Some(0), "{}", said(&done));
    let text = String::from_utf8_lossy(&done.stdout).into_owned();
    assert!(text.starts_with("IN;") && text.contains("PD"), "{text}");
    // Standard input is read once, whatever is asked of it.
    for (word, told) in [("plan", "1 paths"), ("check", "nothing in the way")] {
        let file = std::fs::File::open(folder.path().join("one.svg")).unwrap();
        let mut command = Command::new(INKY);
        let done = command.args([word, "-"]).stdin(file).output().unwrap();
        let text = String::from_utf8_lossy(&done.stdout).into_owned();
        assert!(text.contains(told), "{word}: {text}{}", said(&done));
    }
    // Quiet is quiet, and without a format nobody knows what to write.
    assert_eq!(said(&done), "");
    let unknown = inky(folder.path(), &["convert", "one.svg", "-o", "-"]);
    assert!(said(&unknown).contains("--format"), "{}", said(&unknown));
}

#[test]
fn a_size_that_is_guessed_is_said_and_a_unit_sets_it() {
    let folder = folder();
    let at = folder.path();
    let dxf =
        "0\nSECTION\n2\nENTITIES\n0\nCIRCLE\n8\nCUT\n10\n0\n20\n0\n40\n5\n0\nENDSEC\n0\nEOF\n";
    std::fs::write(at.join("disc.dxf"), dxf).unwrap();
    let done = inky(at, &["convert", "disc.dxf", "-o", "a.dxf"]);
    let words = said(&done);
    assert!(
        words.contains("does not say how large") && words.contains("taken as mm"),
        "{words}"
    );
    assert!(words.contains("--unit"), "{words}");
    let done = inky(at, &["convert", "disc.dxf", "-o", "b.dxf", "--unit", "in"]);
    let words = said(&done);
    assert!(
        words.ends_with("converted: 254.00 × 254.00 mm\n"),
        "{words}"
    );
    assert!(!words.contains("does not say"), "{words}");
    // The layer keeps its name.
    let text = std::fs::read_to_string(at.join("b.dxf")).unwrap();
    assert!(text.lines().any(|line| line == "CUT"), "{text}");
    let wrong = inky(at, &["convert", "disc.dxf", "-o", "c.dxf", "--unit", "ell"]);
    assert_eq!(wrong.status.code(), Some(2));
    assert!(said(&wrong).contains("no unit of a file"));
}

#[test]
fn more_is_said_on_wish_and_shells_get_completions_and_a_page() {
    let folder = folder();
    let at = folder.path();
    let disc = crate::support::png(60, 60, |x, y| (x - 30.0).hypot(y - 30.0) < 20.0).unwrap();
    std::fs::write(at.join("disc.png"), disc).unwrap();
    let done = inky(at, &["trace", "disc.png", "-o", "a.svg", "--verbose"]);
    assert!(
        said(&done).contains("decode ") && said(&done).contains(" in all "),
        "{}",
        said(&done)
    );
    let done = inky(at, &["trace", "disc.png", "-o", "b.svg", "--quiet"]);
    assert_eq!((done.status.code(), said(&done)), (Some(0), String::new()));
    for (args, word) in [
        (&["completions", "bash"][..], "complete -F _inky"),
        (&["completions", "zsh"], "#compdef inky"),
        (&["completions", "fish"], "complete -c inky"),
        (&["man"], ".TH inky 1"),
    ] {
        let done = inky(at, args);
        let text = String::from_utf8_lossy(&done.stdout).into_owned();
        assert!(text.contains(word) && text.contains("trace"), "{args:?}");
    }
}

#[test]
fn converting_for_a_material_says_that_its_kerf_is_left_out_and_takes_it_on_wish() {
    let folder = folder();
    let at = folder.path();
    let done = inky(
        at,
        &[
            "convert",
            "one.svg",
            "-o",
            "a.svg",
            "--material",
            "Ply 3 mm",
        ],
    );
    let words = said(&done);
    assert!(
        words.contains("kerf of") && words.contains("--kerf"),
        "{words}"
    );
    let all = [
        "convert",
        "one.svg",
        "-o",
        "b.svg",
        "--kerf",
        "--material",
        "Ply 3 mm",
    ];
    let done = inky(at, &all);
    assert!(!said(&done).contains("is not in them"), "{}", said(&done));
    let side = |name: &str| {
        let file = inky_formats::vector::read(&std::fs::read(at.join(name)).unwrap()).unwrap();
        let all = file.parts[0].paths[0].segments().unwrap();
        let bounds = all.iter().map(|s| s.bounds()).reduce(|a, b| a.union(b));
        bounds.unwrap().width()
    };
    let kerf = side("b.svg") - side("a.svg");
    assert!((0.05..0.5).contains(&kerf), "{kerf}");
}
