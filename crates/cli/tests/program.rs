//! The program from the outside: `trace`, what it writes, and its exit codes.

use std::fs;
use std::process::Command;

use crate::support::run::{disc, inky, text, written};
use crate::support::{INKY, png};
use anyhow::{Context, Result, ensure};
use tempfile::TempDir;

#[test]
fn trace_writes_the_size_asked_for_and_a_report() -> Result<()> {
    let folder = TempDir::new()?;
    let (input, svg, report) = (
        written(&folder, "disc.png", &disc()?)?,
        folder.path().join("o.svg"),
        folder.path().join("r.json"),
    );
    let done = inky(&[
        "trace",
        text(&input),
        "-o",
        text(&svg),
        "--width",
        "4.5in",
        "--inks",
        "mono",
        "--report",
        text(&report),
    ])?;
    ensure!(
        done.status.code() == Some(0),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    ensure!(done.stdout.is_empty(), "messages go to standard error");
    let svg = std::fs::read_to_string(svg)?;
    ensure!(
        svg.contains("width=\"114.3mm\" height=\"85.725mm\" viewBox=\"0 0 114.3 85.725\""),
        "{svg}"
    );
    let report: serde_json::Value = serde_json::from_str(&std::fs::read_to_string(report)?)?;
    for key in [
        "version",
        "size_mm",
        "size_px",
        "inks",
        "shapes",
        "rings",
        "nodes",
        "segments",
        "deviation_mm",
        "edge_off_mm",
        "smallest_part_mm2",
        "cut_length_mm",
        "ms",
    ] {
        ensure!(report.get(key).is_some(), "{key} is missing in {report}");
    }
    // A disc of 30 px radius at 114.3 / 120 mm to the pixel: A = π r².
    let mm = 114.3 / 120.0;
    let area = report["smallest_part_mm2"].as_f64().context("a number")?;
    let truth = std::f64::consts::PI * 900.0 * mm * mm;
    ensure!((area / truth - 1.0).abs() < 0.01, "{area} of {truth}");
    ensure!(report["shapes"] == 1 && report["rings"] == 1);
    Ok(())
}

#[test]
fn trace_writes_only_valid_xml_and_the_same_every_time() -> Result<()> {
    let folder = TempDir::new()?;
    for sample in [&inky_demo::SAMPLES[0], &inky_demo::SAMPLES[4]] {
        let input = written(&folder, sample.file_name, &sample.file())?;
        let outputs = ["a.svg", "b.svg"].map(|n| folder.path().join(n));
        for (output, threads) in outputs.iter().zip(["1", "2"]) {
            let done = Command::new(INKY)
                .args(["trace", text(&input), "-o", text(output), "--force"])
                .args(["--width", "80mm"])
                .env("RAYON_NUM_THREADS", threads)
                .output()?;
            ensure!(
                done.status.success(),
                "{}",
                String::from_utf8_lossy(&done.stderr)
            );
        }
        ensure!(
            std::fs::read(&outputs[0])? == std::fs::read(&outputs[1])?,
            "one thread and two agree"
        );
        let lint = Command::new("xmllint")
            .args(["--noout", text(&outputs[0])])
            .output()?;
        ensure!(
            lint.status.success(),
            "{}",
            String::from_utf8_lossy(&lint.stderr)
        );
    }
    Ok(())
}

#[test]
fn failures_say_why_and_exit_with_1_wrong_usage_with_2() -> Result<()> {
    let folder = TempDir::new()?;
    let good = written(&folder, "disc.png", &disc()?)?;
    let white = written(&folder, "white.png", &png(30, 30, |_, _| false)?)?;
    let broken = written(&folder, "broken.png", b"no picture")?;
    let out = folder.path().join("o.svg");
    let absent = folder.path().join("absent.png");
    let bad_ending = folder.path().join("o.xyz");
    let cases: [(&[&str], i32, &str); 11] = [
        (
            &["trace", text(&good), "-o", text(&out), "--invert"],
            1,
            "add --inks mono",
        ),
        (
            &["trace", text(&absent), "-o", text(&out)],
            1,
            "cannot read",
        ),
        (
            &["trace", text(&broken), "-o", text(&out)],
            1,
            "not a picture file known here",
        ),
        (
            &["trace", text(&white), "-o", text(&out), "--inks", "mono"],
            1,
            "nothing to trace",
        ),
        (
            &["trace", text(&good), "-o", text(&bad_ending)],
            1,
            "no ending known here",
        ),
        (
            &[
                "trace",
                text(&good),
                "-o",
                text(&out),
                "--tolerance",
                "100mm",
            ],
            1,
            "outside 0.001 to 10 mm",
        ),
        (
            &["trace", text(&good), "-o", text(&out), "--tolerance", "0"],
            1,
            "outside 0.001 to 10 mm",
        ),
        (
            &["trace", text(&good), "-o", text(&out), "--inks", "256"],
            1,
            "outside 2 to 32",
        ),
        (
            &["trace", text(&good), "-o", text(&out), "--corner", "180deg"],
            1,
            "outside 5 to 170",
        ),
        (
            &["trace", text(&good), "-o", text(&out), "--width", "wide"],
            2,
            "is not a number",
        ),
        (&["trace", text(&good)], 2, "--output"),
    ];
    for (args, code, words) in cases {
        let done = inky(args)?;
        let said = String::from_utf8_lossy(&done.stderr).into_owned();
        ensure!(
            done.status.code() == Some(code) && said.contains(words),
            "{args:?}: {:?} {said}",
            done.status
        );
    }
    ensure!(!out.exists(), "nothing half-written is left");
    Ok(())
}

#[test]
fn what_is_read_is_never_replaced_and_other_files_only_when_asked() -> Result<()> {
    let folder = TempDir::new()?;
    let at = |name: &str| folder.path().join(name);
    let art = written(&folder, "disc.png", &disc()?)?;
    let lines = at("disc.svg");
    ensure!(
        inky(&["trace", text(&art), "-o", text(&lines)])?
            .status
            .success()
    );
    let (alias, other, parts) = (at("alias.png"), at("n.svg"), at("p.svg"));
    std::os::unix::fs::symlink(&art, &alias)?;
    let report = written(&folder, "r.json", b"mine")?;
    let mended = written(&folder, "mended.svg", b"mine")?;
    let refused: [(&[&str], &str); 8] = [
        (&["trace", text(&art), "-o", text(&art)], "is what is read"),
        (
            &["trace", text(&art), "-o", text(&art), "--force"],
            "is what is read",
        ),
        (
            &["trace", text(&art), "-o", text(&alias)],
            "is what is read",
        ),
        (
            &["convert", text(&lines), "-o", text(&lines)],
            "is what is read",
        ),
        (
            &["check", text(&lines), "--fix", text(&lines)],
            "is what is read",
        ),
        (
            &["sheet", text(&lines), "-o", text(&lines)],
            "is what is read",
        ),
        (&["trace", text(&art), "-o", text(&lines)], "add --force"),
        (
            &[
                "trace",
                text(&art),
                "-o",
                text(&other),
                "--report",
                text(&report),
            ],
            "add --force",
        ),
    ];
    let kept = (fs::read(&art)?, fs::read(&lines)?);
    for (args, words) in refused {
        let done = inky(args)?;
        let said = String::from_utf8_lossy(&done.stderr).into_owned();
        ensure!(
            done.status.code() == Some(1) && said.contains(words),
            "{args:?}: {said}"
        );
        ensure!((fs::read(&art)?, fs::read(&lines)?) == kept, "{args:?}");
    }
    ensure!(fs::read(&report)? == b"mine" && !other.exists());
    // Of parted files all are written or none.
    let parted = ["trace", text(&art), "-o", text(&parts), "--split", "layer"];
    ensure!(inky(&parted)?.status.success());
    ensure!(inky(&parted)?.status.code() == Some(1));
    for args in [
        &[
            "trace",
            text(&art),
            "-o",
            text(&lines),
            "--force",
            "--width",
            "20mm",
        ][..],
        &["check", text(&lines), "--fix", text(&mended), "--force"],
    ] {
        let done = inky(args)?;
        ensure!(
            done.status.success(),
            "{}",
            String::from_utf8_lossy(&done.stderr)
        );
    }
    ensure!(fs::read(&lines)? != kept.1 && fs::read(&mended)? != b"mine");
    Ok(())
}

#[test]
fn odd_pictures_end_in_a_result_or_a_word() -> Result<()> {
    let folder = TempDir::new()?;
    let out = folder.path().join("o.svg");
    let pictures = [
        ("one pixel", png(1, 1, |_, _| true)?),
        (
            "a strip",
            png(1, 3000, |_, y| (y as u32 / 7).is_multiple_of(2))?,
        ),
        (
            "a checkerboard",
            png(200, 200, |x, y| (x as u32 + y as u32).is_multiple_of(2))?,
        ),
        ("all ink", png(30, 20, |_, _| true)?),
    ];
    for (name, bytes) in &pictures {
        let input = written(&folder, "odd.png", bytes)?;
        for inks in ["auto", "mono", "4"] {
            let done = inky(&[
                "trace",
                text(&input),
                "-o",
                text(&out),
                "--force",
                "--inks",
                inks,
                "--width",
                "50mm",
            ])?;
            let said = String::from_utf8_lossy(&done.stderr).into_owned();
            ensure!(
                matches!(done.status.code(), Some(0 | 1)) && !said.contains("panicked"),
                "{name}, {inks}: {said}"
            );
            ensure!(
                said.contains("traced:")
                    || said.contains("nothing to trace")
                    || said.contains("outside"),
                "{name}, {inks}: {said}"
            );
        }
    }
    Ok(())
}
