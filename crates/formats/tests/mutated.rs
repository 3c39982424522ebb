//! Files changed at random: whatever they have become, the answer is a file read or words, never a panic,
//! and what is read has figures.
//!
//!   INKY_MUTATIONS=100000 cargo test --release -p inky-formats --test all mutated

#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use std::path::Path;

use inky_formats::{picture, vector};

use crate::random::{mutated, panicked, runs};

/// The samples whose names end so.
fn samples(folders: &[&str], endings: &[&str]) -> Vec<Vec<u8>> {
    let tests = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests");
    let mut all = Vec::new();
    for folder in folders {
        let entries = std::fs::read_dir(tests.join(folder)).unwrap();
        all.extend(entries.map(|entry| entry.unwrap().path()));
    }
    let wanted = |path: &&std::path::PathBuf| {
        let ending = path.extension().and_then(|e| e.to_str());
        endings.contains(&ending.unwrap_or_default())
    };
    // In the same order everywhere.
    all.sort();
    let read = |path: &std::path::PathBuf| std::fs::read(path).unwrap();
    let all: Vec<Vec<u8>> = all.iter().filter(wanted).map(read).collect();
    assert!(all.len() > 3);
    all
}

fn answers(samples: &[Vec<u8>], few: u64) {
    let failed = panicked(runs(few), |seed| {
        let bytes = mutated(seed, samples);
        let Ok(file) = vector::read(&bytes) else {
            return;
        };
        assert!(file.size.iter().all(|side| side.is_finite()));
        for part in &file.parts {
            for path in &part.paths {
                for segment in path.segments().into_iter().flatten() {
                    let bounds = segment.bounds();
                    assert!(bounds.is_finite(), "{bounds:?}");
                }
            }
        }
    });
    assert!(failed.is_empty(), "seeds {failed:?}");
}

#[test]
fn svg_is_read_or_refused() {
    answers(&samples(&["kinds", "files"], &["svg", "svgz"]), 20_000);
}

#[test]
fn dxf_is_read_or_refused() {
    answers(&samples(&["kinds", "files"], &["dxf"]), 20_000);
}

#[test]
fn hpgl_is_read_or_refused() {
    answers(&samples(&["kinds"], &["plt"]), 50_000);
}

#[test]
fn g_code_is_read_or_refused() {
    answers(&samples(&["kinds"], &["nc"]), 20_000);
}

#[test]
fn pictures_are_read_or_refused() {
    let mut all = samples(&["files"], &["jpg"]);
    let drawn = image::RgbaImage::from_fn(40, 30, |x, y| {
        image::Rgba([x as u8 * 6, y as u8 * 8, 90, if x > y { 255 } else { 100 }])
    });
    let drawn = image::DynamicImage::from(drawn);
    use image::ImageFormat::{Bmp, Gif, Jpeg, Png, Tiff, WebP};
    for format in [Png, Tiff, Bmp, Gif, WebP, Jpeg] {
        let mut file = std::io::Cursor::new(Vec::new());
        let plain = image::DynamicImage::from(drawn.to_rgb8());
        let kind = if format == Jpeg { &plain } else { &drawn };
        kind.write_to(&mut file, format).unwrap();
        all.push(file.into_inner());
    }
    let failed = panicked(runs(2000), |seed| {
        let bytes = mutated(seed, &all);
        if let Ok(artwork) = picture::read(&bytes) {
            let (w, h) = (artwork.picture.width(), artwork.picture.height());
            let pixels = u64::from(w) * u64::from(h);
            assert_eq!(artwork.picture.pixels().len() as u64, pixels);
        }
    });
    assert!(failed.is_empty(), "seeds {failed:?}");
}
