//! Every writer: what is read back is what was written, within the tolerance that is stated.
//!
//! SVG, DXF, HPGL and G-code are read by this crate's own readers here, PDF by the few operators it uses, and all of
//! them by other people's programs in `scripts/outside`.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    reason = "helpers of tests may stop them"
)]

use std::io::Read;

use inky_core::cutting::{CutLayer, CutLine, Cutting};
use inky_core::inks::Rgb;
use inky_core::material::{Material, Operation, Tool, presets};
use inky_core::overlay::Rings;
use inky_core::plan::page::Page;
use inky_core::plan::{PlanChoice, plan};
use inky_core::segment::{Arc, Segment};
use inky_core::shapes::Ring;
use inky_core::units::Unit;
use inky_formats::files::{self, Format, Options, Split};
use inky_formats::svg::{Sized, Style};
use inky_formats::vector::{self, VectorFile};
use inky_formats::{dxf, gcode, hpgl, pdf, picture, svg};
use kurbo::{CubicBez, Line, Point, Vec2};
use proptest::prelude::*;

fn material(tool: Tool) -> Material {
    presets().into_iter().find(|m| m.tool == tool).unwrap()
}

/// A closed outline of lines, arcs and cubics by turns around a place.
fn blob(x: f64, y: f64, r: f64, wild: &[f64]) -> Ring {
    let n = wild.len();
    let at = |i: usize| {
        let angle = std::f64::consts::TAU * i as f64 / n as f64;
        Point::new(x, y) + Vec2::from_angle(angle) * r * (0.8 + 0.2 * wild[i % n])
    };
    let side = |i: usize| {
        let (a, b) = (at(i), at((i + 1) % n));
        match i % 3 {
            0 => Segment::Line(Line::new(a, b)),
            1 => Segment::Arc(Arc {
                p0: a,
                p1: b,
                bulge: 0.1 + 0.2 * wild[i],
            }),
            _ => {
                let out = (a.midpoint(b) - Point::new(x, y)) * 0.15;
                let cubic = CubicBez::new(a, a.lerp(b, 0.3) + out, a.lerp(b, 0.7) + out, b);
                Segment::Cubic(cubic)
            }
        }
    };
    Ring::new((0..n).map(side).collect(), Vec::new()).unwrap()
}

fn outward(ring: Ring, outer: bool) -> Ring {
    if (ring.signed_area() > 0.0) == outer {
        ring
    } else {
        ring.reversed()
    }
}

/// A page of blobs with holes and an open line, 200 × 120 mm, that nothing crosses.
fn page(tool: Tool, wild: &[f64]) -> Cutting {
    let shape = |n: usize| {
        let (x, y) = (35.0 + 45.0 * n as f64, 40.0 + 12.0 * wild[n]);
        let hole = blob(x, y, 8.0, &wild[n..n + 5]);
        Rings {
            outer: outward(blob(x, y, 20.0, &wild[n..]), true),
            holes: vec![outward(hole, false)],
        }
    };
    let line = CutLine {
        segments: vec![
            Segment::Line(Line::new((10.0, 100.0), (80.0, 95.0 + 5.0 * wild[0]))),
            Segment::Cubic(CubicBez::new(
                (80.0, 95.0 + 5.0 * wild[0]),
                (110.0, 80.0),
                (150.0, 118.0),
                (190.0, 100.0),
            )),
        ],
        closed: false,
        width: 0.5,
    };
    // Readers that know no page begin at what is drawn: its corners are exact in every unit.
    let corners = [(2.0, 2.0), (198.0, 2.0), (198.0, 118.0), (2.0, 118.0)].map(Point::from);
    let side = |n: usize| Segment::Line(Line::new(corners[n], corners[(n + 1) % 4]));
    let frame = Rings {
        outer: Ring::new((0..4).map(side).collect(), Vec::new()).unwrap(),
        holes: Vec::new(),
    };
    let operation = if tool == Tool::Laser {
        Operation::CutThrough
    } else {
        Operation::KissCut
    };
    Cutting {
        size: [200.0, 120.0],
        layers: vec![CutLayer {
            name: "A \"Käse\" / 🫖 cut".to_owned(),
            letter: "A".to_owned(),
            colour: Rgb([30, 110, 102]),
            material: material(tool),
            stock_colour: None,
            operation,
            shapes: (0..4).map(shape).chain([frame]).collect(),
            lines: vec![line],
        }],
    }
}

fn wild() -> impl Strategy<Value = Vec<f64>> {
    prop::collection::vec(0.0..1.0, 9..15)
}

/// Points along all that was read, mm, and the closed areas.
fn measured(file: &VectorFile) -> (Vec<Point>, Vec<f64>, usize) {
    let (mut points, mut areas, mut open) = (Vec::new(), Vec::new(), 0);
    for path in file.parts.iter().flat_map(|p| &p.paths) {
        let segments = path.segments().unwrap();
        for segment in &segments {
            segment.flatten(0.002, &mut points);
        }
        if path.closed {
            areas.push(Ring::new(segments, Vec::new()).unwrap().signed_area().abs());
        } else {
            open += 1;
        }
    }
    areas.sort_by(f64::total_cmp);
    (points, areas, open)
}

/// Everything read lies on what was written, begun at what is drawn, within `tolerance`; areas agree.
fn same(cutting: &Cutting, file: &VectorFile, tolerance: f64) -> Result<(), TestCaseError> {
    let bounds = cutting.bounds().unwrap();
    lies(cutting, file, tolerance, Vec2::new(bounds.x0, bounds.y0))?;
    prop_assert!((file.size[0] - bounds.width()).abs() <= 2.0 * tolerance);
    prop_assert!((file.size[1] - bounds.height()).abs() <= 2.0 * tolerance);
    Ok(())
}

/// Everything read, moved by `by`, lies on what was written within `tolerance`; areas agree.
fn lies(
    cutting: &Cutting,
    file: &VectorFile,
    tolerance: f64,
    by: Vec2,
) -> Result<(), TestCaseError> {
    let layer = &cutting.layers[0];
    let all: Vec<Segment> = layer
        .rings()
        .flat_map(|r| r.segments().to_vec())
        .chain(layer.lines.iter().flat_map(|l| l.segments.clone()))
        .collect();
    let (points, areas, open) = measured(file);
    for p in points {
        let p = p + by;
        let near = all
            .iter()
            .filter(|s| s.bounds().inflate(0.1, 0.1).contains(p));
        let off = near
            .map(|s| s.distance(p, 1e-6))
            .fold(f64::INFINITY, f64::min);
        prop_assert!(off <= tolerance, "{off} mm off at {p:?}");
    }
    let size = |r: &Ring| (r.signed_area().abs(), r.length());
    let mut written: Vec<(f64, f64)> = layer.rings().map(size).collect();
    written.sort_by(|a, b| a.0.total_cmp(&b.0));
    prop_assert_eq!(areas.len(), written.len(), "every ring is closed");
    prop_assert_eq!(open, layer.lines.len());
    for (a, (b, around)) in areas.iter().zip(&written) {
        // Half a ring may lie off to one side by no more than the tolerance.
        prop_assert!((a - b).abs() < around * tolerance / 2.0, "area {a} of {b}");
    }
    Ok(())
}

fn read(text: &str) -> VectorFile {
    vector::read(text.as_bytes()).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn svg_comes_back(wild in wild()) {
        let cutting = page(Tool::Blade, &wild);
        for sized in [Sized::In(Unit::Mm), Sized::In(Unit::In), Sized::PerInch(96.0)] {
            let text = svg::write(&cutting, "page", Style::Filled, sized);
            let file = read(&text);
            prop_assert!(file.left_out.is_empty());
            // Its page is kept, so nothing is moved; it is read in single precision.
            prop_assert!((file.size[0] - 200.0).abs() < 1e-3 && (file.size[1] - 120.0).abs() < 1e-3);
            lies(&cutting, &file, 1e-3, Vec2::ZERO)?;
        }
    }

    #[test]
    fn dxf_comes_back(wild in wild()) {
        let cutting = page(Tool::Blade, &wild);
        for version in [dxf::Version::Splines, dxf::Version::Arcs, dxf::Version::R12] {
            for unit in [Unit::Mm, Unit::In] {
                let text = dxf::write(&cutting, version, unit);
                let file = read(&text);
                prop_assert!(file.left_out.is_empty());
                prop_assert!(file.stated());
                same(&cutting, &file, dxf::ARC_TOLERANCE + 0.001)?;
                prop_assert!(text.is_ascii());
            }
        }
    }

    #[test]
    fn hpgl_comes_back(wild in wild()) {
        let cutting = page(Tool::Blade, &wild);
        let made = plan(&cutting, &PlanChoice::default());
        let text = hpgl::write(&cutting, &made, hpgl::Blade::default());
        same(&cutting, &read(&text), hpgl::TOLERANCE)?;
        // Whole numbers, none negative; the page's corner is the origin.
        let path = hpgl::read(text.as_bytes()).unwrap();
        let places = path.runs.iter().flat_map(|r| &r.segments).map(Segment::end);
        let bounds = cutting.bounds().unwrap();
        let low = places.fold(f64::INFINITY, |low, p| low.min(p.y));
        prop_assert!((low - (cutting.size[1] - bounds.y1)).abs() < 0.03);
        prop_assert!(!text.contains('-') && !text.contains('.'));
    }

    #[test]
    fn gcode_comes_back(wild in wild()) {
        let cutting = page(Tool::Laser, &wild);
        let none = PlanChoice { lead: Some(0.0), ..PlanChoice::default() };
        let text = gcode::write(&cutting, &plan(&cutting, &none), gcode::Controller::default());
        same(&cutting, &read(&text), gcode::TOLERANCE + 0.001)?;
        // The same lines without a beam, for a machine with an axis.
        let cutting = page(Tool::Blade, &wild);
        let text = gcode::write(&cutting, &plan(&cutting, &none), gcode::Controller::default());
        prop_assert!(!text.contains("M3") && text.contains("G0 Z5"));
        same(&cutting, &read(&text), gcode::TOLERANCE + 0.001)?;
    }

    #[test]
    fn pdf_comes_back(wild in wild()) {
        let cutting = page(Tool::Blade, &wild);
        let bytes = pdf::layout(&cutting, "page", "Knife 1");
        let content = content(&bytes);
        let mut numbers: Vec<f64> = Vec::new();
        let (mut ends, mut closed) = (Vec::new(), 0);
        for word in content.split_whitespace() {
            match word.parse::<f64>() {
                Ok(value) => numbers.push(value),
                Err(_) => {
                    if let ("m" | "l" | "c", [.., x, y]) = (word, numbers.as_slice()) {
                        ends.push(Point::new(x * 25.4 / 72.0, cutting.size[1] - y * 25.4 / 72.0));
                    }
                    closed += usize::from(word == "h");
                    numbers.clear();
                }
            }
        }
        prop_assert_eq!(closed, cutting.layers[0].rings().count());
        let layer = &cutting.layers[0];
        let all: Vec<Segment> = layer
            .rings()
            .flat_map(|r| r.segments().to_vec())
            .chain(layer.lines.iter().flat_map(|l| l.segments.clone()))
            .collect();
        prop_assert!(ends.len() >= all.len());
        for p in ends {
            let off = all.iter().map(|s| s.distance(p, 1e-6)).fold(f64::INFINITY, f64::min);
            prop_assert!(off < 1e-3, "{off}");
        }
    }

    #[test]
    fn png_covers_the_area(wild in wild()) {
        let mut cutting = page(Tool::Blade, &wild);
        cutting.layers[0].lines.clear();
        cutting.layers[0].shapes.pop();
        let options = Options { ppi: 254.0, ..Options::default() };
        let bytes = files::write(&Page::new(cutting.clone(), PlanChoice::default()), "p", Format::Png, &options).unwrap();
        let back = picture::read(&bytes).unwrap().picture;
        prop_assert_eq!((back.width(), back.height()), (2000, 1200));
        let covered: f64 = back.pixels().iter().map(|p| f64::from(p[3]) / 255.0).sum::<f64>() / 100.0;
        let area: f64 = cutting.layers[0].rings().map(Ring::signed_area).sum();
        prop_assert!((covered / area - 1.0).abs() < 2e-3, "{covered} of {area}");
    }

    #[test]
    fn truncated_machine_files_are_refused_or_read_in_part(wild in wild(), part in 0.0..1.0) {
        let cutting = page(Tool::Laser, &wild);
        let made = plan(&cutting, &PlanChoice::default());
        for text in [
            hpgl::write(&cutting, &made, hpgl::Blade::default()),
            gcode::write(&cutting, &made, gcode::Controller::default()),
        ] {
            let cut = &text.as_bytes()[..(text.len() as f64 * part) as usize];
            if let Err(e) = vector::read(cut) {
                prop_assert!(!e.to_string().is_empty());
            }
        }
    }
}

/// The only packed stream of a page.
fn content(pdf: &[u8]) -> String {
    let find = |what: &[u8], from: usize| {
        pdf[from..]
            .windows(what.len())
            .position(|w| w == what)
            .map(|n| n + from)
            .unwrap()
    };
    let from = find(b"stream\n", 0) + 7;
    let to = find(b"\nendstream", from);
    let mut text = String::new();
    flate2::read::ZlibDecoder::new(&pdf[from..to])
        .read_to_string(&mut text)
        .unwrap();
    text
}

#[test]
fn one_plotter_unit_is_a_fortieth_of_a_millimetre() {
    // HP-GL/2 reference: 1 plotter unit = 0.025 mm, so 1016 to the inch.
    let square = [(0.0, 94.6), (25.4, 94.6), (25.4, 120.0), (0.0, 120.0)].map(Point::from);
    let side = |n: usize| Segment::Line(Line::new(square[n], square[(n + 1) % 4]));
    let mut cutting = page(Tool::Blade, &[0.5; 10]);
    cutting.layers[0].shapes = vec![Rings {
        outer: Ring::new((0..4).map(side).collect(), Vec::new()).unwrap(),
        holes: vec![],
    }];
    cutting.layers[0].lines.clear();
    let mut knife = cutting.layers[0].material.blade.unwrap();
    (knife.overcut, knife.speed, knife.force) = (0.0, 300.0, 80.0);
    cutting.layers[0].material.blade = Some(knife);
    let text = hpgl::write(
        &cutting,
        &plan(&cutting, &PlanChoice::default()),
        hpgl::Blade::default(),
    );
    assert_eq!(
        text,
        "IN;\nPU;\nSP1;\nVS30;\nFS80;\nPU0,0;\nPD0,1016,1016,1016,1016,0,0,0;\nPU;\nSP0;\n"
    );
    // Led ahead of the line, the holder would leave the page: everything moves, nothing is negative.
    let led = hpgl::Blade {
        swivel: true,
        turned: false,
    };
    let text = hpgl::write(&cutting, &plan(&cutting, &PlanChoice::default()), led);
    assert!(!text.contains('-'), "{text}");
}

#[test]
fn a_work_order_is_on_a4_or_on_letter() {
    // ISO 216: A4 is 210 × 297 mm; ANSI/ASME Y14.1: size A is 8.5 × 11 in.
    for (paper, [w, h]) in [
        (pdf::Paper::A4, [210.0, 297.0]),
        (pdf::Paper::Letter, [215.9, 279.4]),
    ] {
        let order = pdf::order::Order {
            title: "Teapot".to_owned(),
            client: "Brindle Kettle".to_owned(),
            parts: vec![(
                "Layers".to_owned(),
                vec![["A".to_owned(), "teal 🫖".to_owned()]; 90],
            )],
        };
        let bytes = pdf::order::write(&order, paper);
        let text = String::from_utf8_lossy(&bytes);
        let media = text.split("/MediaBox").nth(1).unwrap().trim_start();
        let sides: Vec<f64> = media
            .trim_start_matches('[')
            .split([' ', ']'])
            .take(4)
            .map(|n| n.parse().unwrap())
            .collect();
        assert!(
            (sides[2] - w / 25.4 * 72.0).abs() < 0.01 && (sides[3] - h / 25.4 * 72.0).abs() < 0.01
        );
        assert!(
            content(&bytes).contains("more lines"),
            "what does not fit is counted"
        );
    }
}

#[test]
fn a_proof_tells_the_price_on_wish() {
    let cutting = page(Tool::Blade, &[0.5; 12]);
    let said = |price| {
        let words = pdf::proof::Words {
            title: "Teapot",
            client: "Brindle Kettle",
            price,
        };
        content(&pdf::proof::write(&cutting, words, Unit::Mm))
    };
    assert!(said("48.00 with fitting").contains("(Price: 48.00 with fitting)"));
    assert!(!said("").contains("Price"));
}

#[test]
fn parts_are_files_with_safe_names() {
    let mut cutting = page(Tool::Blade, &[0.5; 12]);
    let mut other = cutting.layers[0].clone();
    other.name = "../../etc \"x\"".to_owned();
    other.material.name = "Glitter".to_owned();
    let empty = other.empty();
    cutting.layers.extend([other, empty]);
    let page = std::sync::Arc::new(Page::new(cutting, PlanChoice::default()));
    assert_eq!(files::parts(&page, Split::One).len(), 1);
    assert_eq!(
        files::parts(&page, Split::Layer).len(),
        2,
        "an empty layer is no file"
    );
    let parts = files::parts(&page, Split::Material);
    let packed: Vec<(String, &str, Vec<u8>)> = parts
        .iter()
        .map(|(name, own)| {
            let options = Options::default();
            let bytes = files::write(own, name, Format::Hpgl, &options).unwrap();
            (name.clone(), Format::Hpgl.ending(), bytes)
        })
        .collect();
    let bytes = files::zip(&packed).unwrap();
    assert_eq!(
        bytes,
        files::zip(&packed).unwrap(),
        "the same files give the same bytes"
    );
    let mut archive = zip::ZipArchive::new(std::io::Cursor::new(bytes)).unwrap();
    let names: Vec<String> = archive
        .file_names()
        .map(|name| name.unwrap().into_owned())
        .collect();
    assert_eq!(names.len(), 2);
    assert!(names.iter().all(|n| {
        n.bytes()
            .all(|b| b.is_ascii_alphanumeric() || b"-.".contains(&b))
    }));
    let mut text = String::new();
    archive
        .by_index(0)
        .unwrap()
        .read_to_string(&mut text)
        .unwrap();
    assert!(text.starts_with("IN;"));
}

#[test]
fn a_page_with_nothing_on_it_is_no_file() {
    let mut cutting = page(Tool::Blade, &[0.5; 12]);
    cutting.layers.clear();
    let page = Page::new(cutting, PlanChoice::default());
    let refused = files::write(&page, "", Format::Svg, &Options::default());
    assert!(
        refused
            .unwrap_err()
            .to_string()
            .contains("switch a layer on")
    );
}

#[test]
fn broken_machine_files_say_what_is_wrong() {
    for (text, says) in [
        ("IN;PU0,0;PD10;PU;", "x without its y"),
        ("IN;SC0,100,0,100;PD10,10;", "scaled"),
        ("IN;PDhello;", "is no"),
        ("IN;PU;SP0;", "no outlines or lines"),
        ("G21\nG1 Xabc", "X has no figure"),
        ("G21 (never ends", "no end"),
        ("G21\nM3 S1\nG2 X5 Y5", "no middle"),
    ] {
        let error = vector::read(text.as_bytes()).unwrap_err().to_string();
        assert!(error.contains(says), "{text}: {error}");
    }
}
