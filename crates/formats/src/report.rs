//! The report of a trace, JSON for scripts: lengths mm, areas mm², y down from the top left.

use inky_core::agreement::Agreement;
use inky_core::shapes::{Design, Deviation, SegmentCount};
use serde::Serialize;

/// Milliseconds each stage took.
#[derive(Clone, Copy, Debug, Default, Serialize)]
pub struct StageMs {
    /// Reading the file.
    pub decode: f64,
    /// Cleaning steps.
    pub clean: f64,
    /// Finding inks, labelling pixels.
    pub inks: f64,
    /// The planar map.
    pub boundary: f64,
    /// Curves, rings and shapes.
    pub fit: f64,
    /// Writing the result.
    pub write: f64,
    /// From file to file.
    pub total: f64,
}

#[derive(Serialize)]
struct InkLine {
    letter: Option<String>,
    colour: String,
    share: f64,
    kept: bool,
}

#[derive(Serialize)]
struct LeftOutLine {
    parts: usize,
    largest_mm2: f64,
}

#[derive(Serialize)]
struct EdgeOffLine {
    mean: f64,
    p95: f64,
    /// How far grain may have moved what was measured, on average.
    uncertain: f64,
}

#[derive(Serialize)]
struct Report {
    version: &'static str,
    size_mm: [f64; 2],
    size_px: [u32; 2],
    inks: Vec<InkLine>,
    shapes: usize,
    rings: usize,
    strokes: usize,
    nodes: usize,
    segments: SegmentCount,
    deviation_mm: Deviation,
    /// Part of the picture's ink that the outlines painted again agree with, where it is known.
    agreement: Option<f64>,
    /// How far outlines lie from the picture's own edges, where it is known.
    edge_off_mm: Option<EdgeOffLine>,
    left_out: Option<LeftOutLine>,
    smallest_part_mm2: Option<f64>,
    cut_length_mm: f64,
    ms: StageMs,
}

/// The report as indented JSON.
///
/// # Errors
/// When a figure cannot be written as JSON.
pub fn write(
    design: &Design,
    agreement: Option<&Agreement>,
    size_px: (u32, u32),
    ms: StageMs,
) -> Result<String, serde_json::Error> {
    let f = &design.figures;
    let report = Report {
        version: env!("CARGO_PKG_VERSION"),
        size_mm: [design.size.width.get(), design.size.height.get()],
        size_px: [size_px.0, size_px.1],
        inks: design
            .inks
            .iter()
            .map(|ink| InkLine {
                letter: ink.letter.clone(),
                colour: ink.paint.to_string(),
                share: ink.share,
                kept: ink.is_cut(),
            })
            .collect(),
        shapes: f.shapes,
        rings: f.rings,
        strokes: f.strokes,
        nodes: f.nodes,
        segments: f.segments,
        deviation_mm: f.deviation,
        agreement: agreement.map(|a| (a.share * 1e4).round() / 1e4),
        edge_off_mm: agreement.map(|a| EdgeOffLine {
            mean: a.edge.mean,
            p95: a.edge.most,
            uncertain: a.edge.uncertain,
        }),
        left_out: agreement.map(|a| LeftOutLine {
            parts: a.left_out.parts,
            largest_mm2: a.left_out.largest,
        }),
        smallest_part_mm2: f.smallest_part,
        cut_length_mm: f.cut_length,
        ms,
    };
    serde_json::to_string_pretty(&report)
}
