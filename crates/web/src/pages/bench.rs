//! What the bench draws: artwork, solid picture and outlines of one result.

use actix_web::{HttpResponse, get, web};
use inky_core::segment::Segment;
use inky_core::shapes::Ring;
use inky_formats::{png, svg};
use inky_store::JobId;
use serde::Serialize;

use crate::Shop;
use crate::error::WebError;

/// A result never changes under its key.
const FOR_EVER: (&str, &str) = ("Cache-Control", "private, max-age=31536000, immutable");

#[derive(Serialize)]
struct Outlines {
    inks: Vec<BenchInk>,
    shapes: Vec<BenchShape>,
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
    /// x, y of every node, mm, one after another.
    nodes: Vec<f32>,
    /// x, y of node and handle, mm, for every handle.
    handles: Vec<f32>,
    /// How far the segment that starts at each node lies off the artwork's edge, mm.
    strayed: Vec<f32>,
}

fn nodes<'a>(rings: impl Iterator<Item = &'a Ring>) -> (Vec<f32>, Vec<f32>) {
    let (mut nodes, mut handles) = (Vec::new(), Vec::new());
    for segment in rings.flat_map(Ring::segments) {
        let p = segment.start();
        nodes.extend([p.x as f32, p.y as f32]);
        if let Segment::Cubic(c) = segment {
            for (node, handle) in [(c.p0, c.p1), (c.p3, c.p2)] {
                handles.extend([node.x, node.y, handle.x, handle.y].map(|v| v as f32));
            }
        }
    }
    (nodes, handles)
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
    Ok(HttpResponse::Ok()
        .content_type("image/png")
        .insert_header(FOR_EVER)
        .body(bytes))
}

#[get("/jobs/{id}/results/{key}/solid.png")]
async fn solid(
    shop: web::Data<Shop>,
    path: web::Path<(JobId, String)>,
) -> Result<HttpResponse, WebError> {
    let outcome = shop.workshop.kept(path.into_inner().1).await?;
    let bytes = shop
        .workshop
        .run(move |_| Ok(png::write_solid(&outcome.solid, &outcome.bounded.labels)?))
        .await?;
    Ok(HttpResponse::Ok()
        .content_type("image/png")
        .insert_header(FOR_EVER)
        .body(bytes))
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
            let shapes = design
                .shapes
                .iter()
                .map(|shape| {
                    let (nodes, handles) = nodes(shape.rings());
                    BenchShape {
                        ink: shape.ink.0,
                        outer: svg::path_data(std::iter::once(&shape.outer)),
                        holes: shape
                            .holes
                            .iter()
                            .map(|h| svg::path_data(std::iter::once(h)))
                            .collect(),
                        nodes,
                        handles,
                        strayed: shape.rings().flat_map(Ring::strayed).copied().collect(),
                    }
                })
                .collect();
            let inks = design
                .inks
                .iter()
                .map(|i| BenchInk {
                    letter: i.letter.clone(),
                    colour: i.colour.to_string(),
                })
                .collect();
            Ok(serde_json::to_string(&Outlines { inks, shapes })?)
        })
        .await?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header(FOR_EVER)
        .body(body))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(artwork).service(solid).service(outlines);
}
