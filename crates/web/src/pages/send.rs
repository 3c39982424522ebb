//! Files to take away: the cut file, a picture of it, the original.

use std::sync::Arc;

use actix_web::http::header::{ContentDisposition, DispositionParam, DispositionType};
use actix_web::{HttpResponse, get, web};
use inky_core::build;
use inky_core::shapes::Design;
use inky_formats::{png, svg};
use inky_store::JobId;
use serde::Deserialize;

use crate::Shop;
use crate::error::WebError;
use crate::pages::saving;
use crate::workshop::{Outcome, Wanted};

#[derive(Deserialize)]
struct Drawn {
    #[serde(default)]
    style: String,
}

#[derive(Deserialize)]
struct Density {
    #[serde(default)]
    ppi: Option<f64>,
}

/// Pixels per inch of a picture, unless asked otherwise.
const PPI: f64 = 150.0;

fn download(name: &str, ending: &str, media_type: &str, body: Vec<u8>) -> HttpResponse {
    let plain: String = name
        .chars()
        .map(|c| {
            if c.is_ascii_alphanumeric() {
                c.to_ascii_lowercase()
            } else {
                '-'
            }
        })
        .collect();
    let plain = plain
        .split('-')
        .filter(|p| !p.is_empty())
        .collect::<Vec<_>>()
        .join("-");
    let name = if plain.is_empty() {
        "job".to_owned()
    } else {
        plain
    };
    let disposition = ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![DispositionParam::Filename(format!("{name}.{ending}"))],
    };
    HttpResponse::Ok()
        .content_type(media_type)
        .insert_header(disposition)
        .body(body)
}

async fn current(shop: &web::Data<Shop>, id: JobId) -> Result<(String, Arc<Outcome>), WebError> {
    let store = shop.store.clone();
    let (title, recipe) = web::block(move || -> Result<_, WebError> {
        Ok((store.job(id)?.details.title, saving::recipe(&store, id)?))
    })
    .await??;
    Ok((title, shop.workshop.trace(id, recipe, Wanted::Kept).await?))
}

/// What the machine is sent: layers as they are built.
fn as_cut(outcome: &Outcome) -> Design {
    build::as_cut(&outcome.design, &outcome.checked().built)
}

#[get("/jobs/{id}/cut.svg")]
async fn cut_svg(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    drawn: web::Query<Drawn>,
) -> Result<HttpResponse, WebError> {
    let (title, outcome) = current(&shop, *id).await?;
    let style = if drawn.style == "lines" {
        svg::Style::CutLines
    } else {
        svg::Style::Filled
    };
    let name = title.clone();
    let body = shop
        .workshop
        .run(move |_| Ok(svg::write(&as_cut(&outcome), &title, style)))
        .await?;
    Ok(download(&name, "svg", "image/svg+xml", body.into_bytes()))
}

#[get("/jobs/{id}/cut.png")]
async fn cut_png(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    density: web::Query<Density>,
) -> Result<HttpResponse, WebError> {
    let (title, outcome) = current(&shop, *id).await?;
    let ppi = density.ppi.unwrap_or(PPI);
    if !(10.0..=2400.0).contains(&ppi) {
        return Err(WebError::Field {
            field: "ppi",
            message: "choose between 10 and 2400 pixels per inch".to_owned(),
        });
    }
    let body = shop
        .workshop
        .run(move |_| Ok(png::write_design(&as_cut(&outcome), ppi)?))
        .await?;
    Ok(download(&title, "png", "image/png", body))
}

#[get("/jobs/{id}/recipe.json")]
async fn saved_recipe(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
) -> Result<HttpResponse, WebError> {
    let (title, recipe) = web::block(move || -> Result<_, WebError> {
        let recipe = saving::recipe(&shop.store, *id)?;
        Ok((shop.store.job(*id)?.details.title, recipe))
    })
    .await??;
    let body = serde_json::to_vec_pretty(&recipe)?;
    Ok(download(&title, "json", "application/json", body))
}

#[get("/jobs/{id}/original")]
async fn original(shop: web::Data<Shop>, id: web::Path<JobId>) -> Result<HttpResponse, WebError> {
    let (name, original) = web::block(move || -> Result<_, WebError> {
        Ok((shop.store.job(*id)?.file_name, shop.store.original(*id)?))
    })
    .await??;
    let (stem, ending) = name.rsplit_once('.').unwrap_or((&name, "bin"));
    Ok(download(
        stem,
        ending,
        "application/octet-stream",
        original.bytes,
    ))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(cut_svg)
        .service(cut_png)
        .service(saved_recipe)
        .service(original);
}
