//! What the bench draws: artwork, solid picture, outlines and what they missed, of one result.

use actix_web::body::MessageBody;
use actix_web::{HttpResponse, get, web};
use inky_core::agreement::{Disagreement, Missed};
use inky_core::centre::Stroke;
use inky_core::inks::Rgb;
use inky_core::segment::Segment;
use inky_core::shapes::{Ring, Shape};
use inky_formats::{png, svg};
use inky_store::JobId;
use kurbo::Point;
use serde::Serialize;

use crate::Shop;
use crate::error::WebError;

/// A result never changes under its key.
const FOR_EVER: (&str, &str) = ("Cache-Control", "private, max-age=31536000, immutable");

/// What belongs to a result.
fn kept(content: &'static str, body: impl MessageBody + 'static) -> HttpResponse {
    HttpResponse::Ok()
        .content_type(content)
        .insert_header(FOR_EVER)
        .body(body)
}

/// Figures of a result, JSON.
pub(crate) fn kept_json(body: String) -> HttpResponse {
    kept("application/json", body)
}

#[derive(Serialize)]
struct Outlines {
    inks: Vec<BenchInk>,
    shapes: Vec<BenchShape>,
    strokes: Vec<BenchStroke>,
    /// Where outlines and artwork disagree; `None` where it is not known.
    missed: Option<Vec<BenchPlace>>,
}

#[derive(Serialize)]
struct BenchPlace {
    /// Middle, mm.
    at: [f32; 2],
    /// Ink that differs, mm².
    area: f64,
    /// Lost ink, or invented.
    lost: bool,
    /// Whether nothing was outlined there.
    whole: bool,
}

impl BenchPlace {
    fn of(place: &Disagreement) -> Self {
        Self {
            at: [place.at.x as f32, place.at.y as f32],
            area: place.area,
            lost: place.missed == Missed::Lost,
            whole: place.whole,
        }
    }
}

#[derive(Serialize)]
struct BenchInk {
    letter: Option<String>,
    colour: String,
}

#[derive(Serialize)]
struct BenchShape {
    ink: u8,
    outer: String,
    holes: Vec<String>,
    #[serde(flatten)]
    wire: Wire,
}

#[derive(Serialize)]
struct BenchStroke {
    ink: u8,
    path: String,
    /// Width of the drawn line, mm.
    pen: f64,
    #[serde(flatten)]
    wire: Wire,
}

/// What the wireframe shows of an outline or a stroke.
#[derive(Default, Serialize)]
struct Wire {
    /// x, y of every node, mm, one after another.
    nodes: Vec<f32>,
    /// x, y of node and handle, mm, for every handle.
    handles: Vec<f32>,
    /// How far the segment that starts at each node lies off the artwork's edge, mm.
    strayed: Vec<f32>,
}

impl Wire {
    fn add(&mut self, segments: &[Segment], strayed: &[f32]) {
        for segment in segments {
            self.node(segment.start());
            if let Segment::Cubic(c) = segment {
                for (node, handle) in [(c.p0, c.p1), (c.p3, c.p2)] {
                    let ends = [node.x, node.y, handle.x, handle.y];
                    self.handles.extend(ends.map(|v| v as f32));
                }
            }
        }
        self.strayed.extend(strayed);
    }

    fn node(&mut self, p: Point) {
        self.nodes.extend([p.x as f32, p.y as f32]);
    }
}

impl BenchShape {
    fn of(shape: &Shape) -> Self {
        let data = |ring: &Ring| svg::path_data(std::iter::once(ring));
        let mut wire = Wire::default();
        for ring in shape.rings() {
            wire.add(ring.segments(), ring.strayed());
        }
        Self {
            ink: shape.ink.0,
            outer: data(&shape.outer),
            holes: shape.holes.iter().map(data).collect(),
            wire,
        }
    }
}

impl BenchStroke {
    fn of(stroke: &Stroke) -> Self {
        let mut wire = Wire::default();
        wire.add(&stroke.segments, &stroke.strayed);
        if let Some(last) = stroke.segments.last().filter(|_| !stroke.closed) {
            wire.node(last.end());
        }
        Self {
            ink: stroke.ink.0,
            path: svg::stroke_data(stroke),
            pen: stroke.width.mean,
            wire,
        }
    }
}

#[get("/jobs/{id}/artwork/{sha}.png")]
async fn artwork(
    shop: web::Data<Shop>,
    path: web::Path<(JobId, String)>,
) -> Result<HttpResponse, WebError> {
    let arrived = shop.workshop.artwork(path.0).await?;
    let bytes = shop
        .workshop
        .run(move |_| Ok(png::write_picture(&arrived.artwork.picture)?))
        .await?;
    Ok(kept("image/png", bytes))
}

#[get("/jobs/{id}/results/{key}/cleaned.png")]
async fn cleaned(
    shop: web::Data<Shop>,
    path: web::Path<(JobId, String)>,
) -> Result<HttpResponse, WebError> {
    let outcome = shop.workshop.kept(path.into_inner().1).await?;
    let bytes = shop
        .workshop
        .run(move |_| Ok(png::write_picture(&outcome.cleaned.picture)?))
        .await?;
    Ok(kept("image/png", bytes))
}

#[get("/jobs/{id}/results/{key}/solid.png")]
async fn solid(
    shop: web::Data<Shop>,
    path: web::Path<(JobId, String)>,
) -> Result<HttpResponse, WebError> {
    let outcome = shop.workshop.kept(path.into_inner().1).await?;
    let bytes = shop
        .workshop
        .run(move |_| {
            let paints: Vec<Rgb> = outcome.design.inks.iter().map(|ink| ink.paint).collect();
            let labels = &outcome.bounded.labels;
            Ok(png::write_solid(&outcome.solid, labels, &paints)?)
        })
        .await?;
    Ok(kept("image/png", bytes))
}

#[get("/jobs/{id}/results/{key}/missed.png")]
async fn missed(
    shop: web::Data<Shop>,
    path: web::Path<(JobId, String)>,
) -> Result<HttpResponse, WebError> {
    let outcome = shop.workshop.kept(path.into_inner().1).await?;
    let bytes = shop
        .workshop
        .run(move |_| {
            let agreement = outcome.agreement.as_ref().ok_or(WebError::Gone)?;
            Ok(png::write_missed(&agreement.missed)?)
        })
        .await?;
    Ok(kept("image/png", bytes))
}

#[get("/jobs/{id}/results/{key}/outlines.json")]
async fn outlines(
    shop: web::Data<Shop>,
    path: web::Path<(JobId, String)>,
) -> Result<HttpResponse, WebError> {
    let outcome = shop.workshop.kept(path.into_inner().1).await?;
    let body = shop
        .workshop
        .run(move |_| {
            let design = &outcome.design;
            let shapes = design.shapes.iter().map(BenchShape::of).collect();
            let strokes = design.strokes.iter().map(BenchStroke::of).collect();
            let inks = design
                .inks
                .iter()
                .map(|i| BenchInk {
                    letter: i.letter.clone(),
                    colour: i.paint.to_string(),
                })
                .collect();
            let agreement = outcome.agreement.as_ref();
            let places = agreement.map(|a| a.places.iter().map(BenchPlace::of).collect());
            Ok(serde_json::to_string(&Outlines {
                inks,
                shapes,
                strokes,
                missed: places,
            })?)
        })
        .await?;
    Ok(kept_json(body))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(artwork)
        .service(cleaned)
        .service(solid)
        .service(missed)
        .service(outlines);
}
