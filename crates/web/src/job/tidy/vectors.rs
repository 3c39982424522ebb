//! Vector files: a job of their own, or brought into the drawing of one.

use std::ops::RangeInclusive;

use actix_multipart::form::MultipartForm;
use actix_multipart::form::tempfile::TempFile;
use actix_multipart::form::text::Text;
use actix_web::{HttpResponse, post, web};
use inky_core::inks::{InkName, Rgb, Solid};
use inky_core::limits;
use inky_core::shapes::Design;
use inky_core::stop::Stop;
use inky_core::tidy::{Drawing, DrawingData, Edit, Part, PathData, Pigment, Tidy};
use inky_core::units::Unit;
use inky_formats::vector::{self, Asked, VectorFile};
use inky_store::{JobId, Store};
use kurbo::Affine;

use crate::door::Person;
use crate::error::{WebError, wrong};
use crate::job::request::JobRequest;
use crate::job::saving::{self, keep_traced};
use crate::job::tidy::routes::do_edit;
use crate::text;
use crate::typed::mm;
use crate::workshop::Stages;

/// What each colour of a file is drawn with: colours that the artwork has get its inks, each ink one.
fn pigments(file: &VectorFile, solid: &Solid, design: &Design) -> Vec<(Rgb, Pigment)> {
    let mut given: Vec<(Rgb, Pigment)> = Vec::new();
    for part in &file.parts {
        let colour = part.colour;
        if given.iter().any(|g| g.0 == colour) {
            continue;
        }
        let ink = solid.ink_of(colour).filter(|&n| {
            let ink = design.inks.get(n);
            ink.is_some_and(|ink| ink.part_of.is_none() && !ink.clear)
        });
        // Two layers of one colour differ by a shade, and stay apart.
        let free = ink.map(|n| Pigment::Ink(n as u8));
        let free = free.filter(|ink| given.iter().all(|g| g.1 != *ink));
        given.push((colour, free.unwrap_or(Pigment::Colour(colour))));
    }
    given
}

/// The layers' names as those of their inks.
fn names(file: &VectorFile, pigments: &[(Rgb, Pigment)], design: &Design) -> Vec<InkName> {
    let layers = file.layers();
    let named = |&(colour, pigment): &(Rgb, Pigment)| {
        let (_, name) = layers.iter().find(|layer| layer.0 == colour)?;
        let name: String = name.chars().filter(|c| !c.is_control()).take(40).collect();
        let colour = match pigment {
            Pigment::Ink(n) => design.inks.get(usize::from(n))?.colour,
            Pigment::Colour(colour) => colour,
        };
        (!name.trim().is_empty()).then_some((pigment, InkName { colour, name }))
    };
    let mut all: Vec<_> = pigments.iter().filter_map(named).collect();
    // A name given later counts, and those of the artwork's inks are for colours near them too.
    all.sort_by_key(|(pigment, _)| matches!(pigment, Pigment::Ink(_)));
    all.into_iter().map(|(_, name)| name).collect()
}

/// Its parts at a scale.
fn parts(file: &VectorFile, scale: f64, pigments: &[(Rgb, Pigment)]) -> Vec<Part> {
    let map = Affine::scale(scale);
    let part = |part: &vector::VectorPart| {
        let pigment = pigments.iter().find(|p| p.0 == part.colour);
        let moved = |path: &PathData| {
            let segments = path.segments().ok()?;
            let segments: Vec<_> = segments.iter().flat_map(|s| s.moved(map)).collect();
            Some(PathData::of(&segments, path.closed))
        };
        Part {
            pigment: pigment.map_or(Pigment::Colour(part.colour), |p| p.1),
            pen: part.pen.map(|pen| pen * scale),
            paths: part.paths.iter().filter_map(moved).collect(),
            text: None,
        }
    };
    file.parts.iter().map(part).collect()
}

/// Gives a job of a vector file the file's own outlines in the place of traced ones.
pub(crate) fn take_outlines(
    store: &Store,
    stages: &Stages,
    (job, person): (JobId, &Person),
    file: &VectorFile,
    stop: &Stop,
) -> Result<(), WebError> {
    let recipe = saving::recipe(store, job)?;
    let traced = stages.outcome(job, &recipe, false, stop)?;
    let empty = Drawing {
        items: Vec::new(),
        added_inks: Vec::new(),
        artwork_inks: traced.design.inks.len(),
        next: 0,
    };
    let scale = recipe.size.width.get() / file.size[0].max(0.1);
    let pigments = pigments(file, &traced.solid, &traced.design);
    let add = Edit::Add {
        parts: parts(file, scale, &pigments),
        name: String::new(),
    };
    let drawing = empty.after(&add)?.drawing;
    let mut brought_in = recipe.clone();
    brought_in.inks.names = names(file, &pigments, &traced.design);
    brought_in.tidy = Some(Tidy {
        traced_at: recipe.size,
        switched: Vec::new(),
        kept: Some(keep_traced(store, &DrawingData::of(&drawing))?),
        edits: Vec::new(),
    });
    let revision = store.job(job)?.revision;
    let name = format!("Outlines of the {} file", file.format);
    saving::add_step(
        store,
        (job, revision),
        (&name, person),
        (&recipe, &brought_in),
    )
}

fn read(bytes: &[u8], stop: &Stop) -> Result<VectorFile, WebError> {
    let asked = Asked {
        stop: stop.clone(),
        ..Asked::default()
    };
    vector::read_as(bytes, &asked).map_err(|e| wrong("vector", e))
}

#[derive(MultipartForm)]
struct Upload {
    #[multipart(limit = "65 MiB")]
    file: TempFile,
    revision: Text<i64>,
    /// Typed width; empty takes the size that the file states.
    width: Option<Text<String>>,
}

/// How wide a file is brought in, mm.
const WIDTHS: RangeInclusive<f64> = 0.01..=20_000.0;

fn scale_of(file: &VectorFile, width: &str, unit: Unit) -> Result<f64, WebError> {
    if width.trim().is_empty() {
        let Some(taken) = file.taken_for else {
            return Ok(1.0);
        };
        let [w, h] = file.size.map(|mm| text::side(mm, unit));
        let symbol = unit.symbol();
        return Err(wrong(
            "vector",
            format!(
                "the file does not say how large it is; in {taken} it would be {w} × {h} {symbol}; type its width"
            ),
        ));
    }
    let wide = mm("vector", width, unit)?;
    match limits::within("a width", wide, &WIDTHS, "mm") {
        Ok(()) => Ok(wide / file.size[0].max(1e-6)),
        Err(figure) => Err(WebError::Figure {
            field: "vector",
            figure,
        }),
    }
}

/// Brings the outlines of a file into the drawing of a job.
#[post("/jobs/{id}/vector")]
async fn bring_in(
    asked: JobRequest,
    form: MultipartForm<Upload>,
) -> Result<HttpResponse, WebError> {
    let form = form.into_inner();
    let name = form
        .file
        .file_name
        .clone()
        .unwrap_or_else(|| "File".to_owned());
    let width = form
        .width
        .as_ref()
        .map_or_else(String::new, |w| w.0.clone());
    let (store, job, unit) = (asked.shop.store.clone(), asked.id, asked.unit);
    let workshop = &asked.shop.workshop;
    let edit = workshop
        .arrive(&asked.person, move |stages, stop| {
            let bytes = std::fs::read(form.file.file.path())
                .map_err(|e| WebError::Internal(e.to_string()))?;
            let file = read(&bytes, stop)?;
            let scale = scale_of(&file, &width, unit)?;
            let recipe = saving::recipe(&store, job)?;
            let now = stages.outcome(job, &recipe, false, stop)?;
            let left_out = file.report();
            let told = if left_out.is_empty() {
                String::new()
            } else {
                format!(" (left out or changed: {left_out})")
            };
            let name: String = name.chars().filter(|c| !c.is_control()).take(60).collect();
            Ok(Edit::Add {
                parts: parts(&file, scale, &pigments(&file, &now.solid, &now.design)),
                name: format!("{name} brought in{told}"),
            })
        })
        .await?;
    do_edit(&asked, form.revision.into_inner(), edit).await
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(bring_in);
}
