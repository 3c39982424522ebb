//! The placing chart: where each stone lies, by size, and the list of them.
//!
//! ```text
//!   title
//!   ╭ ● ● ╮      outlines thin, stones at their places, each size in its own tint
//!   ╰ ● • ╯
//!   ● SS16 crystal   120   7.20   5.7 g
//!   ● SS6             34          0.2 g
//! ```

use inky_core::shapes::Ring;
use inky_core::stones::{Counted, size_name};
use inky_core::units::Unit;
use kurbo::{Affine, Circle};

use super::paper::{BOLD, MARGIN, PLAIN, Page};
use super::{POINTS_PER_MM, Paper, follow};

/// Space for the list below the drawing, mm; and for each of its lines.
const LIST: f64 = 30.0;
const ROW: f64 = 6.5;
/// Tints of sizes, the greatest first.
const TINTS: [[f32; 3]; 6] = [
    [0.16, 0.43, 0.47],
    [0.64, 0.25, 0.18],
    [0.85, 0.62, 0.20],
    [0.34, 0.36, 0.48],
    [0.25, 0.49, 0.27],
    [0.47, 0.35, 0.59],
];

/// What a chart shows.
#[derive(Clone, Copy, Debug)]
pub struct Chart<'a> {
    /// Title of the job.
    pub title: &'a str,
    /// Width and height of the design, mm.
    pub size: [f64; 2],
    /// Its outlines, mm, y down.
    pub outlines: &'a [&'a Ring],
    /// The stones at their places, mm.
    pub stones: &'a [Circle],
    /// The list of them.
    pub list: &'a [Counted],
}

/// Writes the chart on one sheet of office paper.
#[must_use]
pub fn write(chart: &Chart<'_>, unit: Unit) -> Vec<u8> {
    let mut page = Page::new(Paper::usual(unit));
    page.line((BOLD, 20.0), chart.title);
    page.line((PLAIN, 11.0), "Where the stones lie");
    page.down += 6.0;
    let list = LIST + ROW * chart.list.len() as f64;
    let room = [
        page.size[0] - 2.0 * MARGIN,
        page.size[1] - page.down - list - MARGIN,
    ];
    let [w, h] = chart.size.map(|side| side.max(1e-3));
    let scale = (room[0] / w).min(room[1] / h).min(1.0);
    let points = scale * POINTS_PER_MM;
    let top = (page.size[1] - page.down) * POINTS_PER_MM;
    let up = Affine::new([points, 0.0, 0.0, -points, MARGIN * POINTS_PER_MM, top]);
    page.content.set_stroke_gray(0.6).set_line_width(0.5);
    for ring in chart.outlines {
        follow(&mut page.content, &ring.path(), up);
        page.content.stroke();
    }
    for stone in chart.stones {
        let nearest = chart.list.iter().enumerate().min_by(|a, b| {
            let off = |c: &Counted| (c.size.across - 2.0 * stone.radius).abs();
            off(a.1).total_cmp(&off(b.1))
        });
        tint(&mut page, nearest.map_or(0, |(n, _)| n));
        let ring = Ring::circle(stone.center, stone.radius);
        if let Some(ring) = ring {
            follow(&mut page.content, &ring.path(), up);
            page.content.fill_nonzero();
        }
    }
    page.content.set_fill_gray(0.0);
    page.down += h * scale + 4.0;
    let told = match scale {
        s if s > 0.999 => "Drawn at its true size.".to_owned(),
        s => format!("Drawn at {:.0} % of its size.", s * 100.0),
    };
    page.line((PLAIN, 9.0), &told);
    page.rule();
    for (n, line) in chart.list.iter().enumerate() {
        row(&mut page, n, line);
    }
    page.rule();
    page.down += ROW - 2.0;
    let count: usize = chart.list.iter().map(|l| l.count).sum();
    let grams: f64 = chart.list.iter().map(|l| l.grams).sum();
    columns(
        &mut page,
        BOLD,
        [
            "all",
            "",
            &count.to_string(),
            &cost(&chart.list.iter().map(|l| l.cost).collect::<Vec<_>>()),
            &format!("about {grams:.1} g"),
        ],
    );
    page.done(chart.title)
}

/// What all cost, where each has a price.
fn cost(costs: &[Option<f64>]) -> String {
    let all: Option<f64> = costs.iter().copied().sum();
    all.map_or_else(String::new, |all| format!("{all:.2}"))
}

fn tint(page: &mut Page, n: usize) {
    let [r, g, b] = TINTS[n % TINTS.len()];
    page.content.set_fill_rgb(r, g, b);
}

fn row(page: &mut Page, n: usize, line: &Counted) {
    page.down += ROW;
    tint(page, n);
    let y = (page.size[1] - page.down) * POINTS_PER_MM;
    page.content
        .rect((MARGIN * POINTS_PER_MM) as f32, y as f32 - 1.0, 9.0, 9.0)
        .fill_nonzero();
    page.content.set_fill_gray(0.0);
    columns(
        page,
        PLAIN,
        [
            &size_name(line.size.across),
            &line.size.colour,
            &line.count.to_string(),
            &cost(&[line.cost]),
            &format!("about {:.1} g", line.grams),
        ],
    );
}

fn columns(page: &mut Page, face: &[u8], words: [&str; 5]) {
    for (x, text) in [8.0, 34.0, 92.0, 116.0, 142.0].into_iter().zip(words) {
        let down = page.down;
        page.words((MARGIN + x, down), (face, 10.0), text);
    }
}
