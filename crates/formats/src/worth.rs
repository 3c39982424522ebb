//! What an artwork is worth, as JSON for scripts.

use inky_core::size::Size;
use inky_core::worth::Worth;
use serde::Serialize;

#[derive(Serialize)]
struct Inspection {
    size_px: [u32; 2],
    size_mm: [f64; 2],
    ppi: f64,
    flat_colours: usize,
    flat_share: f64,
    contrast: f64,
    noise: f64,
    jpeg_quality: Option<f64>,
    blocks: f64,
    paper_unevenness: f64,
    shading: f64,
    dithered: bool,
    enlarged: Option<Enlargement>,
    photograph: bool,
    smallest_detail_mm: f64,
    verdict: &'static str,
    advice: Vec<String>,
}

/// How a picture was blown up before it came.
#[derive(Serialize)]
struct Enlargement {
    times: f64,
    smooth: bool,
}

/// The figures at a finished size as indented JSON.
///
/// # Errors
/// When a figure cannot be written as JSON.
pub fn write(worth: &Worth, size: Size) -> Result<String, serde_json::Error> {
    let rounded = |v: f64, k: f64| (v * k).round() / k;
    let inspection = Inspection {
        size_px: [worth.size_px.0, worth.size_px.1],
        size_mm: [size.width.get(), size.height.get()],
        ppi: rounded(worth.ppi(size), 100.0),
        flat_colours: worth.flat_colours,
        flat_share: rounded(worth.flat_share, 1e4),
        contrast: rounded(worth.contrast, 1e4),
        noise: rounded(worth.noise, 100.0),
        jpeg_quality: worth.jpeg_quality,
        blocks: rounded(worth.blocks, 1e3),
        paper_unevenness: rounded(worth.unevenness, 1e4),
        shading: rounded(worth.shading, 1e3),
        dithered: worth.dithered,
        enlarged: worth.enlarged.map(|how| Enlargement {
            times: rounded(how.factor, 100.0),
            smooth: how.smooth,
        }),
        photograph: worth.photograph,
        smallest_detail_mm: rounded(worth.smallest_detail(size), 1e4),
        verdict: worth.verdict(size).word(),
        advice: worth.advice(size).into_iter().map(|a| a.text).collect(),
    };
    serde_json::to_string_pretty(&inspection)
}
