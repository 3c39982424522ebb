//! Vector files read: lengths that other libraries find, what is left out, and files that are none.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    reason = "helpers of tests may stop them"
)]

use inky_core::inks::Rgb;
use inky_core::segment::Segment;
use inky_formats::vector::{self, VectorError, VectorFile, VectorPart};

fn length(part: &VectorPart) -> f64 {
    let segments = part.paths.iter().flat_map(|p| p.segments().unwrap());
    segments.map(|s| s.length()).sum()
}

fn area(part: &VectorPart) -> f64 {
    let segments = part.paths.iter().flat_map(|p| p.segments().unwrap());
    segments.map(|s| s.signed_area()).sum::<f64>().abs()
}

fn read(text: &str) -> Result<VectorFile, VectorError> {
    vector::read(text.as_bytes())
}

#[derive(serde::Deserialize)]
struct Expected {
    dxf_length_mm: f64,
    svg_lengths_mm: Vec<f64>,
}

fn expected() -> Expected {
    serde_json::from_str(include_str!("files/vector_samples.json")).unwrap()
}

#[test]
fn a_dxf_with_one_of_everything_is_as_long_as_ezdxf_says() {
    // scripts/reference/vector_samples.py: ezdxf 1.4 wrote the file and measured its paths.
    let file = vector::read(include_bytes!("files/everything.dxf")).unwrap();
    let found: f64 = file.parts.iter().map(length).sum();
    let expected = expected().dxf_length_mm;
    assert!(
        (found - expected).abs() < 2e-4 * expected,
        "{found} not {expected}"
    );
    assert!(file.stated() && file.format == "DXF");
    // The three lines of the triangle became one outline of its layer's colour.
    assert_eq!(file.joined, 3);
    let triangle = file
        .parts
        .iter()
        .find(|p| p.colour == Rgb([255, 0, 0]))
        .unwrap();
    assert!(triangle.pen.is_none() && (area(triangle) - 6.0 * 25.4 * 25.4).abs() < 1e-6);
    let told = [
        "things on hidden layers",
        "points",
        "texts (set them as lettering, or turn them into outlines first)",
    ];
    assert_eq!(
        file.left_out.keys().copied().collect::<Vec<_>>().len(),
        told.len()
    );
    assert!(
        told.iter().all(|kind| file.left_out[kind] == 1),
        "{:?}",
        file.left_out
    );
    // Arcs stay arcs, circles in blocks that are stretched become cubics.
    let segments = || {
        file.parts
            .iter()
            .flat_map(|p| &p.paths)
            .flat_map(|p| p.segments().unwrap())
    };
    assert!(segments().filter(|s| matches!(s, Segment::Arc(_))).count() >= 2 + 1 + 2);
    // Its lower left comes to lie at 0, 0, y turned over.
    let bounds = segments()
        .map(|s| s.bounds())
        .reduce(|a, b| a.union(b))
        .unwrap();
    assert!(bounds.x0.abs() < 1e-6 && bounds.y0.abs() < 1e-6);
}

#[test]
fn an_svg_is_as_long_as_svgpathtools_says() {
    let file = vector::read(include_bytes!("files/everything.svg")).unwrap();
    let mut found: Vec<f64> = file.parts.iter().map(length).collect();
    let mut expected = expected().svg_lengths_mm;
    found.sort_by(f64::total_cmp);
    expected.sort_by(f64::total_cmp);
    assert_eq!(found.len(), expected.len());
    for (a, b) in found.iter().zip(&expected) {
        assert!((a - b).abs() < 1e-5 * b, "{found:?} not {expected:?}");
    }
    assert!(
        (file.size[0] - 100.0).abs() < 1e-4 && (file.size[1] - 60.0).abs() < 1e-4 && file.stated()
    );
    assert_eq!(file.parts.iter().filter(|p| p.pen.is_some()).count(), 2);
}

#[test]
fn holes_follow_the_rule_of_the_file_and_nothing_is_dropped_in_silence() {
    let svg = |body: &str| {
        format!(
            "<svg xmlns=\"http://www.w3.org/2000/svg\" xmlns:xlink=\"http://www.w3.org/1999/xlink\" width=\"50mm\" height=\"50mm\" viewBox=\"0 0 50 50\">{body}</svg>"
        )
    };
    // Two squares the same way round: under the non-zero rule the inner one is no hole.
    let squares = "M0 0h20v20h-20z M5 5h10v10h-10z";
    for (rule, expected) in [("nonzero", 400.0), ("evenodd", 300.0)] {
        let file = read(&svg(&format!(
            "<path fill-rule=\"{rule}\" d=\"{squares}\"/>"
        )))
        .unwrap();
        // Even-odd makes the inner one a hole, which runs the other way.
        assert!((area(&file.parts[0]) - expected).abs() < 1e-3, "{rule}");
        assert_eq!(
            file.parts[0].paths.len(),
            if rule == "evenodd" { 2 } else { 1 }
        );
    }
    let all = "<defs><linearGradient id=\"g\"><stop stop-color=\"#00ff00\"/><stop offset=\"1\" stop-color=\"#000\"/></linearGradient>\
        <clipPath id=\"c\"><rect width=\"5\" height=\"5\"/></clipPath><circle id=\"o\" r=\"4\"/></defs>\
        <text x=\"5\" y=\"5\">words</text><image href=\"/etc/passwd\" width=\"5\" height=\"5\"/>\
        <rect width=\"9\" height=\"9\" fill=\"url(#g)\" stroke=\"#000\"/>\
        <g clip-path=\"url(#c)\"><rect width=\"8\" height=\"8\"/></g>\
        <use xlink:href=\"#o\" transform=\"translate(20 20) scale(2 1)\"/>\
        <path d=\"M0 40H50\" fill=\"none\" stroke=\"#f00\" stroke-width=\"2\" stroke-dasharray=\"1 1\"/>";
    let file = read(&svg(all)).unwrap();
    let said = file.report();
    for words in [
        "1 texts",
        "1 pictures",
        "1 gradients",
        "1 clippings",
        "1 strokes around",
        "1 dashes",
    ] {
        assert!(said.contains(words), "{said}");
    }
    // Used and stretched: an ellipse of half axes 8 and 4.
    let ellipse = file
        .parts
        .iter()
        .find(|p| (area(p) - std::f64::consts::PI * 32.0).abs() < 0.05);
    assert!(ellipse.is_some());
    let line = file.parts.iter().find(|p| p.pen.is_some()).unwrap();
    assert!((line.pen.unwrap() - 2.0).abs() < 1e-4 && line.colour == Rgb([255, 0, 0]));
}

#[test]
fn files_that_are_none_say_why() {
    let said = |text: &str| read(text).unwrap_err().to_string();
    assert_eq!(read("hello"), Err(VectorError::Unknown));
    assert_eq!(vector::read(&[0xff, 0xd8, 0xff]), Err(VectorError::Unknown));
    assert!(
        said("<svg xmlns=\"http://www.w3.org/2000/svg\"><g>").contains("SVG file cannot be read")
    );
    assert!(said("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"9\" height=\"9\"><text>a</text></svg>").contains("1 texts"));
    assert!(said("0\nSECTION\n2\nENTITIES\nx\nLINE\n").contains("no group code"));
    assert!(said("0\nSECTION\n2\nENTITIES\n0").contains("middle of a pair"));
    assert!(said("0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n").contains("no outlines or lines"));
    // Figures that are none, or of no size, make no path.
    let wild = "0\nSECTION\n2\nENTITIES\n0\nCIRCLE\n10\nNaN\n20\n1e300\n40\n-5\n0\nLINE\n10\n1\n20\n1\n11\n1\n21\n1\n0\nENDSEC\n0\nEOF\n";
    assert!(matches!(read(wild), Err(VectorError::Empty(_))));
    // A block that holds itself.
    let inside = "0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n2\nA\n0\nINSERT\n2\nA\n0\nENDBLK\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n0\nINSERT\n2\nA\n0\nENDSEC\n0\nEOF\n";
    assert_eq!(read(inside), Err(VectorError::TooDeep));
    // One block a hundred million times.
    let many = "0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n2\nA\n0\nCIRCLE\n40\n1\n0\nENDBLK\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n0\nINSERT\n2\nA\n70\n10000\n71\n10000\n44\n3\n45\n3\n0\nENDSEC\n0\nEOF\n";
    assert!(matches!(read(many), Err(VectorError::TooMany { .. })));
    // Entities that would blow up are refused by the XML reader.
    let bomb = "<!DOCTYPE s [<!ENTITY a \"aaaaaaaaaa\"><!ENTITY b \"&a;&a;&a;&a;&a;&a;&a;&a;\"><!ENTITY c \"&b;&b;&b;&b;&b;&b;&b;&b;\">\
        <!ENTITY d \"&c;&c;&c;&c;&c;&c;&c;&c;\"><!ENTITY e \"&d;&d;&d;&d;&d;&d;&d;&d;\"><!ENTITY f \"&e;&e;&e;&e;&e;&e;&e;&e;\">]><svg xmlns=\"http://www.w3.org/2000/svg\"><text>&f;</text></svg>";
    assert!(read(bomb).is_err());
}
