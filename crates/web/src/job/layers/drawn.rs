//! What the bench draws of layers: parts, lines, what reaches under others, and the stock.

use actix_web::{HttpResponse, get, web};
use inky_core::check;
use inky_core::overlay::Rings;
use inky_core::shapes::Shape;
use inky_formats::{offcut, svg};
use serde::Serialize;

use crate::error::WebError;
use crate::job::kept::Kept;
use crate::workshop::Outcome;

#[derive(Serialize)]
struct BenchLayer {
    letter: String,
    name: String,
    paint: String,
    show: bool,
    cut: bool,
    operation: &'static str,
    /// What lies in hand, filled by the even-odd rule.
    parts: String,
    /// What the tool follows, where it is not the edge of the parts.
    lines: Option<String>,
    strokes: Vec<(String, f64)>,
    under: String,
    marks: String,
    islands: String,
    sheet: bool,
}

#[derive(Serialize)]
struct BenchStock {
    width: f64,
    length: f64,
    margin: f64,
    /// Whether it goes on for longer than is shown.
    goes_on: bool,
    /// From the design to the stock: the six figures of an affine map.
    map: [f64; 6],
    /// How far along the stock is used, mm, and what is left of it, in mm and mm².
    used: f64,
    left: Option<f64>,
    left_area: Option<f64>,
    beside: f64,
    /// Of stock that is no rectangle: its outline and holes as SVG path data.
    outline: Option<String>,
}

#[derive(Serialize)]
struct Bench {
    layers: Vec<BenchLayer>,
    bounds: [f64; 4],
    mirrored: bool,
    stock: Option<BenchStock>,
    bridges: Vec<[f64; 5]>,
}

/// More of a roll than this beyond the design is not shown, mm.
const SHOWN: f64 = 60.0;

fn bench(outcome: &Outcome) -> Bench {
    let built = &outcome.checked().built;
    let layers = built.layers.iter().map(|l| BenchLayer {
        letter: l.letter.clone(),
        name: l.stock_colour.clone().unwrap_or_default(),
        paint: l.paint.to_string(),
        show: l.show,
        cut: l.cut,
        operation: l.operation.word(),
        parts: svg::path_data(l.rings()),
        lines: l
            .moved_lines
            .as_ref()
            .map(|all| svg::path_data(all.iter().flat_map(Shape::rings))),
        strokes: l
            .strokes
            .iter()
            .map(|s| (svg::stroke_data(s), s.width.mean))
            .collect(),
        under: svg::path_data(l.under.iter().flat_map(Rings::all)),
        marks: svg::path_data(l.registration.iter()),
        islands: svg::path_data(l.islands.iter().flat_map(|&n| l.shapes[n].rings())),
        sheet: l.sheet,
    });
    let b = built.bounds;
    let stock = outcome.layers.stock().map(|stock| {
        let place = check::place(built, &outcome.layers, &stock);
        let left = stock.left(check::box_on_stock(built, &outcome.layers, &stock));
        let used = match stock.shape {
            Some(_) => stock.length,
            None => (place[1] + b.height() + SHOWN).max(SHOWN),
        };
        BenchStock {
            width: stock.width,
            length: stock.reach().min(used.max(stock.width * 0.3)),
            margin: stock.margin,
            goes_on: stock.reach() > used.max(stock.width * 0.3),
            map: built.on_stock(place).as_coeffs(),
            used: left.used_length,
            left: left.length,
            left_area: left.area,
            beside: left.beside,
            outline: stock.shape.as_ref().map(offcut::outline),
        }
    });
    let size = outcome.design.size;
    let (w, h) = (size.width.get(), size.height.get());
    Bench {
        layers: layers.collect(),
        bounds: [b.x0, b.y0, b.x1, b.y1],
        mirrored: built.mirrored,
        stock,
        bridges: outcome
            .layers
            .bridges
            .iter()
            .map(|s| {
                [
                    s.from[0] * w,
                    s.from[1] * h,
                    s.to[0] * w,
                    s.to[1] * h,
                    s.width,
                ]
            })
            .collect(),
    }
}

#[get("/jobs/{id}/results/{key}/layers.json")]
async fn drawn(kept: Kept) -> Result<HttpResponse, WebError> {
    kept.json(bench).await
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(drawn);
}
