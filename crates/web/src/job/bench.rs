//! What the bench draws: artwork, solid picture, outlines and what they missed, of one result.

use actix_web::{HttpResponse, get, web};
use inky_core::agreement::{Disagreement, Missed};
use inky_core::centre::Stroke;
use inky_core::clean;
use inky_core::inks::Rgb;
use inky_core::segment::Segment;
use inky_core::shapes::{DesignInk, Ring, Shape};
use inky_core::stop::Stop;
use inky_formats::{png, svg};
use inky_store::JobId;
use kurbo::Point;
use serde::Serialize;

use crate::Shop;
use crate::door::Person;
use crate::error::WebError;
use crate::job::kept::{self, Kept};
use crate::workshop::Outcome;

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

impl Outlines {
    fn of(outcome: &Outcome) -> Self {
        let design = &outcome.design;
        let ink = |i: &DesignInk| BenchInk {
            letter: i.letter.clone(),
            colour: i.paint.to_string(),
        };
        let agreement = outcome.agreement.as_ref();
        Self {
            inks: design.inks.iter().map(ink).collect(),
            shapes: design.shapes.iter().map(BenchShape::of).collect(),
            strokes: design.strokes.iter().map(BenchStroke::of).collect(),
            missed: agreement.map(|a| a.places.iter().map(BenchPlace::of).collect()),
        }
    }
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
    person: Person,
) -> Result<HttpResponse, WebError> {
    let job = path.0;
    let draw = shop.workshop.run(&person, move |stages| {
        let arrived = stages.artwork(job)?;
        Ok(png::write_picture(&arrived.artwork.picture)?)
    });
    Ok(kept::answer("image/png", draw.await?))
}

#[get("/jobs/{id}/results/{key}/cleaned.png")]
async fn cleaned(kept: Kept) -> Result<HttpResponse, WebError> {
    let draw = |outcome: &Outcome| Ok(png::write_picture(&outcome.cleaned.picture)?);
    kept.png(draw).await
}

/// The artwork as it came, where it lies since it was squared up.
#[get("/jobs/{id}/results/{key}/squared.png")]
async fn squared(kept: Kept) -> Result<HttpResponse, WebError> {
    let draw = |outcome: &Outcome| {
        let original = &outcome.arrived.artwork.picture;
        let placed = clean::placed(original, &outcome.cleaned.frame, &Stop::new())?;
        Ok(png::write_picture(&placed)?)
    };
    kept.png(draw).await
}

#[get("/jobs/{id}/results/{key}/solid.png")]
async fn solid(kept: Kept) -> Result<HttpResponse, WebError> {
    kept.png(|outcome| {
        let paints: Vec<Rgb> = outcome.design.inks.iter().map(|ink| ink.paint).collect();
        let labels = &outcome.bounded.labels;
        Ok(png::write_solid(&outcome.solid, labels, &paints)?)
    })
    .await
}

#[get("/jobs/{id}/results/{key}/missed.png")]
async fn missed(kept: Kept) -> Result<HttpResponse, WebError> {
    kept.png(|outcome| {
        let agreement = outcome.agreement.as_ref().ok_or(WebError::Gone)?;
        Ok(png::write_missed(&agreement.missed)?)
    })
    .await
}

#[get("/jobs/{id}/results/{key}/outlines.json")]
async fn outlines(kept: Kept) -> Result<HttpResponse, WebError> {
    kept.json(Outlines::of).await
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(artwork)
        .service(cleaned)
        .service(squared)
        .service(solid)
        .service(missed)
        .service(outlines);
}
