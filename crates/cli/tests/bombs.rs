//! Files that ask for far more work than their size, one child process each under a limit on its
//! processor time and its memory: read, or refused in words, never at length.
//!
//! `scripts/reference/bombs.py` makes larger ones and prints what each takes; the limits here leave
//! room for code that is not optimised.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    reason = "helpers of tests may stop them"
)]

use std::fmt::Write as _;
use std::process::Command;

use crate::support::INKY;

/// Processor time of a child, s.
const SECONDS: u32 = 30;
/// Addresses a child may take, kB: its threads and its allocator reserve more than they use.
const ADDRESSES: u32 = 3_000_000;

fn svg(body: &str) -> Vec<u8> {
    format!("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"100mm\" height=\"100mm\" viewBox=\"0 0 100 100\">{body}</svg>").into_bytes()
}

fn dxf(entities: &str) -> Vec<u8> {
    let block = "0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n2\nA\n0\nCIRCLE\n40\n1\n0\nENDBLK\n0\nENDSEC\n";
    format!("{block}0\nSECTION\n2\nENTITIES\n{entities}0\nENDSEC\n0\nEOF\n").into_bytes()
}

fn rows(count: u32, row: impl Fn(u32) -> String) -> String {
    (0..count).fold(String::new(), |mut all, n| {
        let _ = write!(all, "{}", row(n));
        all
    })
}

/// A GIF of a sound frame of 4 px and one that claims 60,000 by 60,000.
fn frames() -> Vec<u8> {
    let picture = |side: &[u8]| {
        [
            b",\0\0\0\0",
            side,
            side,
            b"\0\x02\x05\x84\x1d\x81\x7a\x50\0",
        ]
        .concat()
    };
    let wait = b"!\xf9\x04\0\0\0\0\0".to_vec();
    let head = [
        &b"GIF89a\x04\0\x04\0\x80\0\0"[..],
        &[0, 0, 0, 255, 255, 255],
    ]
    .concat();
    [
        head,
        wait.clone(),
        picture(&[4, 0]),
        wait,
        picture(&[0x60, 0xea]),
        b";".to_vec(),
    ]
    .concat()
}

/// Name, content, and words of the answer.
fn bombs() -> Vec<(&'static str, Vec<u8>, &'static str)> {
    let boxes = |n: usize| "<rect width=\"5\" height=\"5\"/>".repeat(n);
    let holes = rows(20_000, |n| {
        let (x, y) = (
            f64::from(n % 150) * 0.6 + 0.1,
            f64::from(n / 150) * 0.6 + 0.1,
        );
        format!("M{x:.1} {y:.1}v.3h.3v-.3z")
    });
    let knots = rows(50_004, |n| {
        format!("40\n{}\n", n.saturating_sub(3).min(49_997))
    });
    let places = rows(50_000, |n| {
        format!("10\n{}\n20\n{}\n", n % 1000, n * 7 % 977)
    });
    vec![
        (
            "holes.svg",
            svg(&format!("<path d=\"M0 0H100V100H0Z{holes}\"/>")),
            "converted",
        ),
        (
            "groups.svg",
            svg(&("<g>".repeat(100_000) + &boxes(1) + &"</g>".repeat(100_000))),
            "64 deep",
        ),
        (
            "rules.svg",
            svg(&format!(
                "<style>{}</style>{}",
                rows(50_000, |n| format!(".a{n} g > rect{{fill:red}}")),
                boxes(5000)
            )),
            "comparisons of its style rules",
        ),
        (
            "back.svg",
            svg(&format!(
                "<style>{}</style>{}{}{}",
                "g g g g g g.x rect{fill:red}".repeat(200),
                "<g>".repeat(60),
                boxes(3000),
                "</g>".repeat(60)
            )),
            "comparisons of its style rules",
        ),
        (
            "markers.svg",
            svg(&format!(
                "<marker id=\"m\"><path d=\"M0 0L4 2L0 4Z\"/></marker><path marker-mid=\"url(#m)\" fill=\"none\" stroke=\"#000\" d=\"M0 0{}\"/>",
                rows(20_000, |n| format!("L{} {}", n % 97, n % 89))
            )),
            "1 markers",
        ),
        (
            "arc.svg",
            svg(&("<path d=\"M0 0A1e38 1e38 0 1 1 50 50Z\"/>".to_owned() + &boxes(1))),
            "beyond any material",
        ),
        (
            "uses.svg",
            svg(&format!(
                "<g id=\"a0\">{}</g>{}",
                boxes(1),
                rows(9, |n| format!(
                    "<g id=\"a{}\">{}</g>",
                    n + 1,
                    format!("<use href=\"#a{n}\"/>").repeat(10)
                ))
            )),
            "segments",
        ),
        (
            "scribble.svg",
            svg(&format!(
                "<path d=\"M0 0{}Z\"/>",
                rows(4000, |n| format!("L{} {}", n * 37 % 101, n * 53 % 97))
            )),
            "crossings in a filled path",
        ),
        (
            "one-place.svg",
            svg(&rows(30_000, |n| {
                format!(
                    "<path fill=\"none\" stroke=\"#000\" d=\"M50 50L{} {}\"/>",
                    n % 100,
                    n / 300
                )
            })),
            "converted",
        ),
        (
            "sizeless.dxf",
            dxf(&"0\nINSERT\n2\nA\n41\n0\n42\n0\n70\n10000\n71\n10000\n".repeat(100)),
            "blocks of no size",
        ),
        (
            "array.dxf",
            dxf("0\nINSERT\n2\nA\n70\n1000\n71\n900\n44\n3\n45\n3\n"),
            "shown again",
        ),
        (
            "spline.dxf",
            dxf(&format!("0\nSPLINE\n71\n3\n{knots}{places}")),
            "converted",
        ),
        (
            "sections.dxf",
            [
                &b"0\nSECTION\n2\nENTITIES\n".repeat(300_000)[..],
                &dxf("0\nCIRCLE\n40\n1\n"),
            ]
            .concat(),
            "converted",
        ),
        (
            "circles.dxf",
            dxf(&rows(50_000, |n| {
                format!("0\nCIRCLE\n10\n{}\n20\n0\n40\n3000\n", n / 10)
            })),
            "outlines over each other",
        ),
        (
            "arcs.plt",
            format!("IN;SP1;PU0,0;PD;{}PU;", "AA100,0,90;".repeat(100_000)).into_bytes(),
            "converted",
        ),
        (
            "circles.plt",
            format!("IN;SP1;PU0,0;{}", "CI100;".repeat(50_000)).into_bytes(),
            "outlines over each other",
        ),
        (
            "lines.nc",
            format!(
                "G21 G90\nM3 S500\n{}M5\n",
                rows(300_000, |n| format!(
                    "G1 X{} Y{}\n",
                    n * 7 % 1000,
                    n * 13 % 997
                ))
            )
            .into_bytes(),
            "converted",
        ),
        ("frames.gif", frames(), ""),
    ]
}

#[test]
fn no_file_takes_more_than_its_share() {
    let folder = tempfile::tempdir().unwrap();
    for (name, bytes, words) in bombs() {
        let path = folder.path().join(name);
        std::fs::write(&path, bytes).unwrap();
        let word = if name.ends_with("gif") {
            "inspect"
        } else {
            "convert"
        };
        let out = folder.path().join("out.svg");
        let more = if word == "convert" {
            format!("-o '{}' --force", out.display())
        } else {
            String::new()
        };
        let line = format!(
            "ulimit -t {SECONDS} -v {ADDRESSES}; exec '{INKY}' {word} '{}' {more}",
            path.display()
        );
        let done = Command::new("bash").args(["-c", &line]).output().unwrap();
        let said = String::from_utf8_lossy(&done.stderr);
        // Ended by itself, not by the limit, and not by a panic.
        let code = done.status.code();
        assert!(
            matches!(code, Some(0 | 1)),
            "{name}: {:?}: {said}",
            done.status
        );
        assert!(said.contains(words), "{name}: {said}");
    }
}
