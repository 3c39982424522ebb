//! The customer's proof: the design in its colours, with its measures, on one sheet of office paper.
//!
//! ```text
//!   title, client
//!   ┌───────────┐ ┬        drawn to fit, at a scale that is told; the measures are those of the
//!   │  design   │ │ 104 mm finished piece
//!   └───────────┘ ┴
//!   ├── 150 mm ─┤
//!   colours: swatch, letter, name, material, size
//!   price, on wish                                       approved: ______
//! ```

use inky_core::cutting::Cutting;
use inky_core::units::Unit;
use kurbo::{Affine, BezPath};

use super::paper::{BOLD, MARGIN, PLAIN, Page};
use super::{POINTS_PER_MM, Paper, follow};

/// Space for words below the drawing, mm.
const WORDS: f64 = 95.0;
/// Space for the measures at the right of and below the drawing, mm.
const MEASURES: f64 = 24.0;
/// Rows of colours that fit.
const ROWS: usize = 9;

/// What a proof says beside the design.
#[derive(Clone, Copy, Debug, Default)]
pub struct Words<'a> {
    /// Title of the job.
    pub title: &'a str,
    /// For whom.
    pub client: &'a str,
    /// The price with its currency, as it is to be read; empty for none.
    pub price: &'a str,
}

/// Writes the proof of a design.
#[must_use]
pub fn write(cutting: &Cutting, words: Words<'_>, unit: Unit) -> Vec<u8> {
    let mut page = Page::new(Paper::usual(unit));
    page.line((BOLD, 20.0), words.title);
    page.line((PLAIN, 11.0), words.client);
    page.down += 6.0;
    let room = [
        page.size[0] - 2.0 * MARGIN - MEASURES,
        page.size[1] - page.down - WORDS - MEASURES,
    ];
    let [w, h] = cutting.size.map(|side| side.max(1e-3));
    let scale = (room[0] / w).min(room[1] / h).min(1.0);
    let (left, top) = (MARGIN, page.down);
    let points = scale * POINTS_PER_MM;
    let up = Affine::new([
        points,
        0.0,
        0.0,
        -points,
        left * POINTS_PER_MM,
        (page.size[1] - top) * POINTS_PER_MM,
    ]);
    drawing(&mut page, cutting, up);
    measures(&mut page, (left, top), [w * scale, h * scale], [w, h], unit);
    page.down = top + h * scale + MEASURES;
    let told = match scale {
        s if s > 0.999 => "Drawn at its true size.".to_owned(),
        s => format!("Drawn at {:.0} % of its size.", s * 100.0),
    };
    page.line((PLAIN, 9.0), &told);
    page.rule();
    colours(&mut page, cutting, unit);
    let foot = page.size[1] - 22.0;
    if !words.price.is_empty() {
        let price = format!("Price: {}", words.price);
        page.words((MARGIN, foot - 9.0), (BOLD, 12.0), &price);
    }
    page.words((MARGIN, foot), (PLAIN, 10.0), "Approved:");
    page.words((page.size[0] / 2.0, foot), (PLAIN, 10.0), "Date:");
    page.down = foot;
    page.rule();
    page.done(words.title)
}

fn drawing(page: &mut Page, cutting: &Cutting, up: Affine) {
    let colour = |rgb: [u8; 3]| rgb.map(|v| f32::from(v) / 255.0);
    for layer in &cutting.layers {
        let [r, g, b] = colour(layer.colour.0);
        page.content.set_fill_rgb(r, g, b).set_stroke_rgb(r, g, b);
        for shape in &layer.shapes {
            let path: BezPath = shape
                .all()
                .flat_map(|ring| ring.path().into_iter())
                .collect();
            follow(&mut page.content, &path, up);
            page.content.fill_even_odd();
        }
        for line in &layer.lines {
            let width = line.width * up.as_coeffs()[0];
            page.content.set_line_width(width as f32);
            follow(&mut page.content, &line.path(), up);
            page.content.stroke();
        }
    }
}

/// Dimension lines at the right and below.
fn measures(
    page: &mut Page,
    (left, top): (f64, f64),
    drawn: [f64; 2],
    true_size: [f64; 2],
    unit: Unit,
) {
    let (right, low) = (left + drawn[0], top + drawn[1]);
    let text = true_size.map(|side| length(side, unit));
    let (aside, below) = (right + 6.0, low + 6.0);
    let place = |x: f64, down: f64| {
        let y = page.size[1] - down;
        ((x * POINTS_PER_MM) as f32, (y * POINTS_PER_MM) as f32)
    };
    let strokes = [
        [place(left, below), place(right, below)],
        [place(left, below - 1.5), place(left, below + 1.5)],
        [place(right, below - 1.5), place(right, below + 1.5)],
        [place(aside, top), place(aside, low)],
        [place(aside - 1.5, top), place(aside + 1.5, top)],
        [place(aside - 1.5, low), place(aside + 1.5, low)],
    ];
    page.content.set_stroke_gray(0.2).set_line_width(0.5);
    for [a, b] in strokes {
        page.content.move_to(a.0, a.1).line_to(b.0, b.1).stroke();
    }
    page.content.set_fill_gray(0.0);
    let middle = left + drawn[0] / 2.0 - 8.0;
    page.words((middle, below + 5.0), (PLAIN, 10.0), &text[0]);
    page.words((aside + 2.5, top + drawn[1] / 2.0), (PLAIN, 10.0), &text[1]);
}

fn colours(page: &mut Page, cutting: &Cutting, unit: Unit) {
    for layer in cutting.layers.iter().take(ROWS) {
        let [r, g, b] = layer.colour.0.map(|v| f32::from(v) / 255.0);
        page.down += 6.5;
        let y = (page.size[1] - page.down) * POINTS_PER_MM;
        page.content.set_fill_rgb(r, g, b).set_stroke_gray(0.6);
        page.content
            .rect((MARGIN * POINTS_PER_MM) as f32, y as f32 - 2.0, 14.0, 11.0)
            .fill_nonzero_and_stroke();
        page.content.set_fill_gray(0.0);
        let size = layer.bounds().unwrap_or_default();
        let name = layer.stock_colour.clone();
        let name = name.unwrap_or_else(|| layer.colour.to_string());
        let words = [
            (MARGIN + 8.0, layer.letter.clone()),
            (MARGIN + 16.0, name),
            (MARGIN + 70.0, layer.material.name.clone()),
            (
                MARGIN + 120.0,
                format!(
                    "{} × {}",
                    length(size.width(), unit),
                    length(size.height(), unit)
                ),
            ),
        ];
        for (x, text) in words {
            page.words((x, page.down), (PLAIN, 10.0), &text);
        }
    }
    let more = cutting.layers.len().saturating_sub(ROWS);
    if more > 0 {
        page.line((PLAIN, 9.0), &format!("and {more} more colours"));
    }
}

fn length(mm: f64, unit: Unit) -> String {
    match unit {
        Unit::Mm => format!("{mm:.1} mm"),
        Unit::In => format!("{:.2} in", mm / Unit::In.in_mm()),
    }
}
