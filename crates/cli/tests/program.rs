//! The program from the outside: `trace`, its exit codes, `serve` over HTTP, and being killed.

mod support;

use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use anyhow::{Context, Result, ensure};
use reqwest::StatusCode;
use reqwest::multipart::{Form, Part};
use support::{INKY, Server, png};
use tempfile::TempDir;

fn inky(args: &[&str]) -> Result<Output> {
    Ok(Command::new(INKY).args(args).output()?)
}

fn written(folder: &TempDir, name: &str, bytes: &[u8]) -> Result<PathBuf> {
    let path = folder.path().join(name);
    std::fs::write(&path, bytes)?;
    Ok(path)
}

fn text(path: &Path) -> &str {
    path.to_str().unwrap_or_default()
}

fn disc() -> Result<Vec<u8>> {
    png(120, 90, |x, y| (x - 60.0).hypot(y - 45.0) < 30.0)
}

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
                .args(["trace", text(&input), "-o", text(output), "--width", "80mm"])
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

async fn upload(server: &Server, name: &str, bytes: Vec<u8>) -> Result<reqwest::Response> {
    let form = Form::new().part("file", Part::bytes(bytes).file_name(name.to_owned()));
    Ok(reqwest::Client::new()
        .post(format!("{}/jobs", server.address))
        .multipart(form)
        .send()
        .await?)
}

async fn new_job(server: &Server, bytes: Vec<u8>) -> Result<String> {
    let made = upload(server, "disc.png", bytes).await?;
    ensure!(made.status() == StatusCode::CREATED, "{}", made.status());
    Ok(made.headers()["location"].to_str()?.to_owned())
}

#[tokio::test]
async fn the_page_and_the_command_line_give_the_same_outlines() -> Result<()> {
    let folder = TempDir::new()?;
    let data = TempDir::new()?;
    let server = Server::start("serve", data.path())?;
    let bytes = inky_demo::SAMPLES[0].file();
    let job = new_job(&server, bytes.clone()).await?;
    let page = reqwest::get(format!("{}{job}/cut.svg", server.address))
        .await?
        .text()
        .await?;
    let (input, out) = (
        written(&folder, "disc.png", &bytes)?,
        folder.path().join("o.svg"),
    );
    ensure!(
        inky(&["trace", text(&input), "-o", text(&out)])?
            .status
            .success()
    );
    ensure!(paths(&page) == paths(&std::fs::read_to_string(out)?));
    ensure!(paths(&page).len() > 3);
    Ok(())
}

/// The size and every path of an SVG.
fn paths(svg: &str) -> Vec<String> {
    svg.lines()
        .filter(|l| l.starts_with("<path") || l.starts_with("<svg"))
        .map(str::to_owned)
        .collect()
}

#[tokio::test]
async fn the_page_and_the_command_line_give_the_same_stroke_lines() -> Result<()> {
    let folder = TempDir::new()?;
    let data = TempDir::new()?;
    let server = Server::start("demo", data.path())?;
    let page = reqwest::get(format!("{}/jobs/2/cut.svg", server.address))
        .await?
        .text()
        .await?;
    let input = written(&folder, "twine.png", &inky_demo::SAMPLES[3].file())?;
    let (out, report) = (folder.path().join("o.svg"), folder.path().join("o.json"));
    let done = inky(&[
        "trace",
        text(&input),
        "--inks",
        "mono",
        "--edges",
        "centreline",
        "--width",
        "90mm",
        "-o",
        text(&out),
        "--report",
        text(&report),
    ])?;
    ensure!(done.status.success());
    let svg = std::fs::read_to_string(out)?;
    ensure!(paths(&page) == paths(&svg));
    let figures: serde_json::Value = serde_json::from_slice(&std::fs::read(report)?)?;
    ensure!(
        figures["strokes"] == 9 && figures["shapes"] == 0,
        "{figures}"
    );
    ensure!(svg.matches("stroke-linecap=\"round\"").count() == 9);
    // The ball is the only closed line.
    ensure!(svg.matches("Z\"").count() == 1);
    Ok(())
}

#[tokio::test]
async fn a_job_survives_kill_9_and_the_original_is_byte_for_byte() -> Result<()> {
    let data = TempDir::new()?;
    let server = Server::start("serve", data.path())?;
    let bytes = disc()?;
    let job = new_job(&server, bytes.clone()).await?;
    let chosen = reqwest::Client::new()
        .post(format!("{}{job}/choose", server.address))
        .form(&[
            ("revision", "0"),
            ("line", "size"),
            ("changed", "width"),
            ("width", "77mm"),
        ])
        .send()
        .await?;
    ensure!(chosen.status() == StatusCode::OK, "{}", chosen.status());
    server.kill()?;

    let server = Server::start("serve", data.path())?;
    let original = reqwest::get(format!("{}{job}/original", server.address))
        .await?
        .bytes()
        .await?;
    ensure!(original == bytes);
    let svg = reqwest::get(format!("{}{job}/cut.svg", server.address))
        .await?
        .text()
        .await?;
    ensure!(svg.contains("width=\"77mm\" height=\"57.75mm\""), "{svg}");
    ensure!(
        server.stop()? == Some(0),
        "asked to stop, it ends by itself"
    );
    Ok(())
}

#[tokio::test]
async fn bad_uploads_are_refused_and_the_server_stays_up() -> Result<()> {
    let data = TempDir::new()?;
    let server = Server::start("serve", data.path())?;
    let job = new_job(&server, disc()?).await?;
    for (bytes, status, words) in [
        (Vec::new(), StatusCode::UNPROCESSABLE_ENTITY, "empty"),
        (b"GIF89a".to_vec(), StatusCode::UNPROCESSABLE_ENTITY, "GIF"),
        (
            vec![0xff; (65 << 20) + 100],
            StatusCode::PAYLOAD_TOO_LARGE,
            "64 MB",
        ),
        (
            vec![0; (64 << 20) + 100],
            StatusCode::UNPROCESSABLE_ENTITY,
            "64 MB",
        ),
    ] {
        let refused = upload(&server, "x.png", bytes).await?;
        let (found, said) = (refused.status(), refused.text().await?);
        ensure!(
            found == status && said.contains(words) && said.contains("problem-file"),
            "{found}: {said}"
        );
    }
    let page = reqwest::get(format!("{}{job}", server.address)).await?;
    ensure!(page.status() == StatusCode::OK, "the job is unharmed");
    Ok(())
}

#[tokio::test]
async fn wrong_values_and_strangers_are_turned_away() -> Result<()> {
    let data = TempDir::new()?;
    let server = Server::start("serve", data.path())?;
    let job = new_job(&server, disc()?).await?;
    let client = reqwest::Client::new();
    let choose = |fields: &[(&str, &str)]| {
        client
            .post(format!("{}{job}/choose", server.address))
            .form(fields)
            .send()
    };
    for (field, value, words) in [
        ("width", "wide", "is not a number"),
        ("width", "0mm", "outside 1 to 20000 mm"),
        ("tolerance", "5 furlongs", "not a unit known here"),
        ("min_part", "-1", "outside 0 to 10000 mm²"),
        ("corner", "179", "outside 5 to 170 °"),
        ("count", "256", "outside 2 to 32"),
    ] {
        let refused = choose(&[("revision", "0"), ("changed", field), (field, value)]).await?;
        let (status, said) = (refused.status(), refused.text().await?);
        ensure!(
            status == StatusCode::UNPROCESSABLE_ENTITY,
            "{field}={value}: {status}"
        );
        ensure!(
            said.contains(words) && said.contains(&format!("problem-{field}")),
            "{field}={value}: {said}"
        );
    }
    ensure!(
        choose(&[("revision", "9"), ("changed", "edges"), ("edges", "outer")])
            .await?
            .status()
            == StatusCode::CONFLICT
    );
    let foreign = client
        .post(format!("{}{job}/delete", server.address))
        .header("Sec-Fetch-Site", "cross-site")
        .send()
        .await?;
    ensure!(foreign.status() == StatusCode::FORBIDDEN);
    let foreign = client
        .post(format!("{}{job}/delete", server.address))
        .header("Origin", "http://elsewhere.example")
        .send()
        .await?;
    ensure!(foreign.status() == StatusCode::FORBIDDEN);
    for missing in [
        "/jobs/999",
        "/jobs/1/nowhere",
        "/static/none.js",
        "/jobs/1/results/0/outlines.json",
    ] {
        let status = reqwest::get(format!("{}{missing}", server.address))
            .await?
            .status();
        ensure!(
            status == StatusCode::NOT_FOUND || status == StatusCode::GONE,
            "{missing}: {status}"
        );
    }
    Ok(())
}

/// Icons that are not ours (licences: `files/README.md`) go through the page and the command line.
#[tokio::test]
async fn open_icons_become_closed_rings_of_their_size_and_area() -> Result<()> {
    let folder = TempDir::new()?;
    let data = TempDir::new()?;
    let server = Server::start("serve", data.path())?;
    let client = reqwest::Client::new();
    for (name, kept) in [
        ("game-icons-anchor", 1),
        ("game-icons-padlock", 1),
        ("twemoji-red-apple", 3),
        ("twemoji-balloon", 2),
    ] {
        let file =
            PathBuf::from(env!("CARGO_MANIFEST_DIR")).join(format!("tests/files/{name}.png"));
        let (svg, report) = (folder.path().join("o.svg"), folder.path().join("r.json"));
        let args = [
            "trace",
            text(&file),
            "-o",
            text(&svg),
            "--width",
            "100mm",
            "--report",
            text(&report),
        ];
        let done = inky(&args)?;
        ensure!(
            done.status.success(),
            "{name}: {}",
            String::from_utf8_lossy(&done.stderr)
        );
        let svg = std::fs::read_to_string(svg)?;
        let paths = |svg: &str| {
            svg.lines()
                .filter(|l| l.starts_with("<path"))
                .map(str::to_owned)
                .collect::<Vec<_>>()
        };
        ensure!(svg.contains("width=\"100mm\" height=\"100mm\""), "{name}");
        ensure!(
            svg.matches('M').count() == svg.matches('Z').count(),
            "{name}: every ring is closed"
        );
        let report: serde_json::Value = serde_json::from_str(&std::fs::read_to_string(report)?)?;
        let inks = report["inks"].as_array().context("a list")?;
        ensure!(
            inks.iter().filter(|i| i["kept"] == true).count() >= kept,
            "{name}: {inks:?}"
        );

        let job = new_job(&server, std::fs::read(&file)?).await?;
        let choose = [
            ("revision", "0"),
            ("line", "size"),
            ("changed", "width"),
            ("width", "100mm"),
        ];
        let chosen = client
            .post(format!("{}{job}/choose", server.address))
            .form(&choose)
            .send()
            .await?;
        ensure!(
            chosen.status() == StatusCode::OK,
            "{name}: {}",
            chosen.status()
        );
        let page = reqwest::get(format!("{}{job}/cut.svg", server.address))
            .await?
            .text()
            .await?;
        ensure!(
            paths(&page) == paths(&svg),
            "{name}: the page and the command line differ"
        );

        // The area of a black icon is the sum of what its pixels cover (resvg's coverage).
        if kept == 1 {
            let pixels = image::open(&file)?.to_luma8();
            let covered: f64 = pixels
                .pixels()
                .map(|p| 1.0 - f64::from(p.0[0]) / 255.0)
                .sum();
            let tree = usvg::Tree::from_str(&svg, &usvg::Options::default())?;
            let area = filled(&tree)? * (384.0 / f64::from(tree.size().width())).powi(2);
            ensure!(
                (area / covered - 1.0).abs() < 0.005,
                "{name}: {area} of {covered} px"
            );
        }
    }
    Ok(())
}

/// Area that a tree of filled paths covers, px², counted on a drawing of 2,000 px.
fn filled(tree: &usvg::Tree) -> Result<f64> {
    use usvg::tiny_skia_path::Transform;
    let scale = 2000.0 / tree.size().width();
    let mut map = tiny_skia::Pixmap::new(2000, 2000).context("a picture")?;
    fn paint(group: &usvg::Group, scale: f32, map: &mut tiny_skia::Pixmap) {
        for node in group.children() {
            match node {
                usvg::Node::Group(g) => paint(g, scale, map),
                usvg::Node::Path(p) => {
                    let place = p
                        .abs_transform()
                        .post_concat(Transform::from_scale(scale, scale));
                    let black = tiny_skia::Paint {
                        anti_alias: true,
                        ..tiny_skia::Paint::default()
                    };
                    map.fill_path(p.data(), &black, tiny_skia::FillRule::EvenOdd, place, None);
                }
                _ => {}
            }
        }
    }
    paint(tree.root(), scale, &mut map);
    let covered: f64 = map
        .pixels()
        .iter()
        .map(|p| f64::from(p.alpha()) / 255.0)
        .sum();
    Ok(covered / f64::from(scale).powi(2))
}
