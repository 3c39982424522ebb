//! A better copy of the artwork in place of the one a job has, its recipe kept.

use std::sync::Arc;

use actix_multipart::form::MultipartForm;
use actix_multipart::form::tempfile::TempFile;
use actix_multipart::form::text::Text;
use actix_web::{HttpResponse, post, web};
use inky_core::clean::Step;
use inky_core::recipe::Recipe;
use inky_formats::picture;
use inky_store::{Edits, JobId, NewStep};
use kurbo::{Affine, Point};

use crate::Shop;
use crate::door::Person;
use crate::error::WebError;
use crate::job::now::Now;
use crate::job::saving;

#[derive(MultipartForm)]
struct Upload {
    #[multipart(limit = "65 MiB")]
    file: TempFile,
    revision: Text<i64>,
}

/// How far the proportions of two copies may differ, as a part.
const SAME_SHAPE: f64 = 0.02;

/// The recipe for another copy of the artwork: every place where it was, the width kept.
fn moved(recipe: &Recipe, from: (u32, u32), to: (u32, u32)) -> Recipe {
    let k = |a: u32, b: u32| f64::from(b) / f64::from(a);
    let by = Affine::scale_non_uniform(k(from.0, to.0), k(from.1, to.1));
    let step = |s: &Step| Step {
        on: s.on,
        action: s.action.moved(|p| by * p),
    };
    // Another copy is traced anew; edits of the one before are set aside.
    let mut moved = Recipe {
        tidy: None,
        ..recipe.clone()
    };
    moved.clean = recipe.clean.iter().map(step).collect();
    for at in &mut moved.inks.enclosed {
        let p = by * Point::new(at[0], at[1]);
        *at = [p.x, p.y];
    }
    let frame = moved.frame(to);
    if moved.size.locked {
        let width = moved.size.width;
        moved.size = moved.size.with_width(width, frame.width, frame.height);
    }
    moved
}

#[post("/jobs/{id}/replace")]
async fn replace(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    form: MultipartForm<Upload>,
    person: Person,
) -> Result<HttpResponse, WebError> {
    let (store, job, form) = (shop.store.clone(), *id, form.into_inner());
    let by = Arc::clone(&person.name);
    shop.workshop
        .arrive(&person, move |_, stop| {
            let bytes = std::fs::read(form.file.file.path())
                .map_err(|e| WebError::Internal(e.to_string()))?;
            let picture = picture::read_until(&bytes, stop).map_err(|e| WebError::Field {
                field: "replace",
                message: e.to_string(),
            })?;
            let now = Now::load(&store, job)?;
            let old = (now.job.width_px, now.job.height_px);
            let new = (picture.picture.width(), picture.picture.height());
            let shape = |(w, h): (u32, u32)| f64::from(w) / f64::from(h);
            if (shape(new) / shape(old) - 1.0).abs() > SAME_SHAPE {
                return Err(WebError::Field {
                    field: "replace",
                    message: format!(
                        "this picture is {} × {} px, of another shape than the {} × {} px before; \
                         bring it in as a job of its own",
                        new.0, new.1, old.0, old.1
                    ),
                });
            }
            let recipe = saving::stored(&moved(&now.recipe, old, new))?;
            let step = NewStep {
                name: "Artwork replaced",
                recipe: &recipe,
                by: &by,
            };
            let edits = match now.recipe.tidy {
                Some(_) => Edits::SetAside,
                None => Edits::Same,
            };
            let revision = form.revision.into_inner();
            Ok(store.replace_original(job, revision, (&bytes, new), step, edits)?)
        })
        .await?;
    Ok(HttpResponse::NoContent()
        .insert_header(("HX-Redirect", format!("/jobs/{job}/artwork")))
        .finish())
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(replace);
}
