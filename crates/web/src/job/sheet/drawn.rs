//! Sheets as the bench draws them, and the run-through as it is played.

use actix_web::{HttpResponse, get, web};
use inky_core::cutting::CutLayer;
use inky_core::inks::Rgb;
use inky_core::plan::{Course, PathKey, PlannedPath, motion::Motion};
use inky_core::sheet::piece::Spot;
use inky_core::sheet::{Item, Sheet};
use inky_formats::{offcut, svg};
use serde::Serialize;

use crate::error::WebError;
use crate::job::kept::Kept;
use crate::job::sheet::print;
use crate::workshop::OnSheet;

#[derive(Serialize)]
struct PieceLayer {
    paint: String,
    operation: &'static str,
    shapes: String,
    lines: String,
}

#[derive(Serialize)]
struct PieceDrawn {
    size: [f64; 2],
    layers: Vec<PieceLayer>,
}

#[derive(Serialize)]
struct ItemDrawn {
    piece: usize,
    spot: Spot,
    /// From the piece to the stock: the six figures of an affine map.
    map: [f64; 6],
    job: String,
    owner: String,
    wrong: bool,
    /// Whether hands can move it.
    moves: bool,
    /// Number among all items.
    n: usize,
}

#[derive(Serialize)]
struct SheetDrawn {
    name: String,
    width: f64,
    /// How much of its length is shown, mm.
    length: f64,
    margin: f64,
    goes_on: bool,
    used: f64,
    gap: f64,
    pieces: Vec<PieceDrawn>,
    items: Vec<ItemDrawn>,
    boxes: Vec<[f64; 4]>,
    relief: Vec<[f64; 4]>,
    /// Of stock that is no rectangle: its outline and holes as SVG path data.
    outline: Option<String>,
    /// Where its picture is fetched.
    picture: Option<String>,
    /// The page, where the artwork itself is printed.
    page: Option<print::Page>,
}

/// More of a roll than this beyond what lies on it is not shown, mm.
const SHOWN: f64 = 40.0;

/// How a layer looks: the colour in stock, else its ink's own.
fn paint(layer: &CutLayer) -> Rgb {
    let mut stocked = layer.material.colours.iter();
    let stock_colour = stocked.find(|c| Some(&c.name) == layer.stock_colour.as_ref());
    stock_colour.map_or(layer.colour, |c| c.colour)
}

fn drawn(on: &OnSheet) -> SheetDrawn {
    let (sheet, gap): (&Sheet, f64) = (&on.sheet, on.gap());
    let starts: Vec<usize> = sheet
        .sources
        .iter()
        .scan(0, |sum, s| {
            Some(std::mem::replace(sum, *sum + s.parts.len()))
        })
        .collect();
    let pieces = sheet.sources.iter().flat_map(|s| &s.parts);
    let pieces = pieces.map(|p| PieceDrawn {
        size: p.size,
        layers: p
            .layers
            .iter()
            .map(|l| PieceLayer {
                paint: paint(l).to_string(),
                operation: l.operation.word(),
                shapes: svg::path_data(l.rings()),
                lines: l
                    .lines
                    .iter()
                    .map(|line| svg::segments_data(&line.segments, line.closed))
                    .collect(),
            })
            .collect(),
    });
    let bad = |n: usize| {
        sheet.outside.contains(&n) || sheet.clashes.iter().any(|&(a, b)| a == n || b == n)
    };
    let item = |(n, i): (usize, &Item)| {
        let spot = i.spot?;
        let source = &sheet.sources[i.source];
        Some(ItemDrawn {
            piece: starts[i.source] + i.part,
            spot,
            map: sheet.piece(i).to(spot).as_coeffs(),
            job: source.job.clone(),
            owner: source.owner.clone(),
            wrong: bad(n),
            moves: Some(i.source) != sheet.trial,
            n,
        })
    };
    let shape = sheet.stock.shape.as_ref();
    let shown = (sheet.left.used_length + SHOWN).max(sheet.stock.width * 0.3);
    let corners = |b: kurbo::Rect| [b.x0, b.y0, b.x1, b.y1];
    SheetDrawn {
        name: sheet.name.clone(),
        width: sheet.stock.width,
        length: sheet.stock.reach().min(shown),
        margin: sheet.stock.margin,
        goes_on: sheet.stock.reach() > shown,
        used: sheet.left.used_length,
        gap,
        pieces: pieces.collect(),
        items: sheet.items.iter().enumerate().filter_map(item).collect(),
        boxes: sheet.boxes.iter().map(|b| corners(*b)).collect(),
        outline: shape.map(offcut::outline),
        page: on.printed.as_ref().map(print::drawn),
        picture: shape.and_then(|s| Some(format!("/offcuts/{}/picture", s.picture?))),
        relief: sheet
            .relief
            .iter()
            .map(|l| [l.p0.x, l.p0.y, l.p1.x, l.p1.y])
            .collect(),
    }
}

#[get("/jobs/{id}/sheets/{key}/{n}.json")]
async fn sheet_json(kept: Kept) -> Result<HttpResponse, WebError> {
    kept.sheet_json(drawn).await
}

#[derive(Serialize)]
struct StepDrawn {
    key: PathKey,
    layer: usize,
    operation: &'static str,
    /// x and y of each place, mm, and when it is passed, s from the step's beginning.
    points: Vec<[f32; 3]>,
    /// For rows: where the tool is on, pairs of places.
    rows: bool,
    /// When the way to it and when it itself begins, and when it ends, s.
    times: [f64; 3],
    length: f64,
}

#[derive(Serialize)]
struct PlanDrawn {
    home: [f64; 2],
    steps: Vec<StepDrawn>,
    layers: Vec<(String, String)>,
    seconds: f64,
    cut: f64,
    travel: f64,
}

/// Points along a path err by at most this when it is played, mm.
const PLAYED: f64 = 0.05;

/// Where the tool is when, in one pass; more passes take as much longer.
fn played(step: &PlannedPath, speed: f64, motion: &Motion) -> Vec<[f32; 3]> {
    let place = |x: f64, y: f64, t: f64| [x as f32, y as f32, t as f32];
    match &step.course {
        Course::Line(_) => {
            let points = step.points(PLAYED);
            let times = motion.times(&points, speed);
            let stretch = stretch(times.last().copied().unwrap_or(0.0), step.seconds);
            let both = points.iter().zip(times);
            both.map(|(p, t)| place(p.x, p.y, t * stretch)).collect()
        }
        Course::Rows(rows) => {
            let spans = rows.iter().enumerate().flat_map(|(n, row)| {
                let mut burnt: Vec<[f64; 3]> =
                    row.spans.iter().map(|s| [s[0], s[1], row.y]).collect();
                if n % 2 == 1 {
                    burnt.reverse();
                    burnt.iter_mut().for_each(|s| s.swap(0, 1));
                }
                burnt
            });
            let spans: Vec<[f64; 3]> = spans.collect();
            let long: f64 = spans.iter().map(|s| (s[1] - s[0]).abs()).sum();
            let mut now = 0.0;
            let mut points = Vec::with_capacity(spans.len() * 2);
            for [from, to, y] in spans {
                points.push(place(from, y, now));
                now += (to - from).abs() / long.max(1e-9) * step.seconds;
                points.push(place(to, y, now));
            }
            points
        }
    }
}

/// Places of a page on the stock that it is of.
fn moved(mut points: Vec<[f32; 3]>, by: kurbo::Vec2) -> Vec<[f32; 3]> {
    for p in &mut points {
        (p[0], p[1]) = (p[0] + by.x as f32, p[1] + by.y as f32);
    }
    points
}

fn stretch(once: f64, all: f64) -> f64 {
    if once > 0.0 { all / once } else { 1.0 }
}

fn plan_drawn(on: &OnSheet) -> PlanDrawn {
    let (cutting, plan) = on.planned();
    let off = on.on_stock();
    let mut now = 0.0;
    let mut steps = Vec::with_capacity(plan.steps.len());
    for step in &plan.steps {
        let motion = Motion::of(cutting.layers[step.key.layer].material.tool);
        let begins = now + step.travel_seconds;
        let ends = begins + step.seconds;
        steps.push(StepDrawn {
            key: step.key,
            layer: step.key.layer,
            operation: step.operation.word(),
            points: moved(played(step, step.speed, &motion), off),
            rows: matches!(step.course, Course::Rows(_)),
            times: [now, begins, ends],
            length: step.length,
        });
        now = ends;
    }
    let layers = cutting.layers.iter();
    PlanDrawn {
        home: [plan.home.x + off.x, plan.home.y + off.y],
        steps,
        layers: layers
            .map(|l| (l.name.clone(), l.colour.to_string()))
            .collect(),
        seconds: plan.seconds(),
        cut: plan.length(),
        travel: plan.travel(),
    }
}

#[get("/jobs/{id}/sheets/{key}/{n}/plan.json")]
async fn plan_json(kept: Kept) -> Result<HttpResponse, WebError> {
    kept.sheet_json(plan_drawn).await
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(sheet_json).service(plan_json);
}
