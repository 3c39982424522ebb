//! Icons that are not ours, through the page and the command line.

use std::path::PathBuf;

use crate::support::run::{inky, text};
use crate::support::{Server, new_job};
use anyhow::{Context, Result, ensure};
use reqwest::StatusCode;
use tempfile::TempDir;

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
            "--force",
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
