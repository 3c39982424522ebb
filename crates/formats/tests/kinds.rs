//! Small vector files of one kind of thing each: as large, as long and as wide as they say.
//!
//! `scripts/reference/vector_kinds.py` made them and says where every figure comes from: ezdxf,
//! svgpathtools, shapely, the HP-GL/2 guide and NIST IR 6556 by hand.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use std::fs;
use std::path::Path;

use inky_core::segment::Segment;
use inky_core::tidy::Kind;
use inky_formats::vector::{self, VectorFile};

#[derive(serde::Deserialize)]
struct Expected {
    file: String,
    size_mm: [f64; 2],
    length_mm: f64,
    area_mm2: f64,
    left_out: usize,
    taken_for: Option<String>,
    layers: Vec<String>,
}

/// How far any place of a file may lie from where it says, mm.
const RIGHT: f64 = 0.005;

fn length_and_area(file: &VectorFile) -> (f64, f64) {
    let (mut length, mut area) = (0.0, 0.0);
    for item in file.drawing().items {
        for (n, path) in item.paths.iter().enumerate() {
            length += path.segments.iter().map(Segment::length).sum::<f64>();
            if item.kind == Kind::Shape {
                let own: f64 = path.segments.iter().map(Segment::signed_area).sum();
                area += if n == 0 { own.abs() } else { -own.abs() };
            }
        }
    }
    (length, area)
}

/// What is wrong with a file, in words.
fn faults(expected: &Expected, bytes: &[u8]) -> Vec<String> {
    let file = match vector::read(bytes) {
        Ok(file) => file,
        Err(e) => return vec![format!("{}: {e}", expected.file)],
    };
    let (length, area) = length_and_area(&file);
    let mut faults = Vec::new();
    let mut held = |what: &str, found: f64, wanted: f64, by: f64| {
        if (found - wanted).abs() > by {
            let name = &expected.file;
            faults.push(format!("{name}: {what} {found:.4} instead of {wanted:.4}"));
        }
    };
    held("width", file.size[0], expected.size_mm[0], RIGHT);
    held("height", file.size[1], expected.size_mm[1], RIGHT);
    // A band of what a line may be off by, along all of it; and the same part of its length.
    let scale = expected.size_mm[0].max(expected.size_mm[1]);
    held(
        "length",
        length,
        expected.length_mm,
        RIGHT + RIGHT / scale * length,
    );
    held(
        "area",
        area,
        expected.area_mm2,
        RIGHT * expected.length_mm / 4.0 + 1e-6,
    );
    let left_out: usize = file.left_out.values().sum();
    if left_out != expected.left_out {
        let told = file.report();
        faults.push(format!(
            "{}: left out {told:?} instead of {}",
            expected.file, expected.left_out
        ));
    }
    let taken_for = file.taken_for.map(|unit| unit.symbol().to_owned());
    if taken_for != expected.taken_for {
        faults.push(format!(
            "{}: taken for {taken_for:?} instead of {:?}",
            expected.file, expected.taken_for
        ));
    }
    let layers: Vec<&str> = file.layers().into_iter().map(|l| l.1).collect();
    if !expected.layers.is_empty() && layers != expected.layers {
        faults.push(format!("{}: layers {layers:?}", expected.file));
    }
    faults
}

#[test]
fn every_kind_of_thing_is_read_as_it_says() {
    let folder = Path::new("tests/kinds");
    let index = fs::read_to_string(folder.join("index.json")).unwrap();
    let all: Vec<Expected> = serde_json::from_str(&index).unwrap();
    assert!(all.len() > 100, "{}", all.len());
    let faults: Vec<String> = all
        .iter()
        .flat_map(|e| faults(e, &fs::read(folder.join(&e.file)).unwrap()))
        .collect();
    assert!(faults.is_empty(), "{}", faults.join("\n"));
}
