//! Requests about odd pieces of stock: a photograph comes in, is looked at, and its piece is kept.

use actix_multipart::form::MultipartForm;
use actix_multipart::form::tempfile::TempFile;
use actix_multipart::form::text::Text;
use actix_web::{HttpResponse, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_demo::plate;
use inky_formats::{offcut, picture};
use inky_store::{MaterialId, OffcutId};

use super::asked::{Change, keep};
use super::piece::{Piece, one};
use super::shown::{Shown, shown};
use crate::Shop;
use crate::error::WebError;
use crate::materials::{stocked, to, to_material};
use crate::reader::Reader;

#[derive(Template, WebTemplate)]
#[template(path = "materials/offcut/page.html")]
struct OffcutPage {
    piece: Shown,
    material_name: String,
    unit: &'static str,
}

#[derive(MultipartForm)]
struct Upload {
    #[multipart(limit = "65 MiB")]
    file: TempFile,
    paper: Text<String>,
}

/// A photograph of a piece; what is not found in it is pointed at on its page.
#[post("/materials/{id}/offcuts")]
async fn arrive(
    shop: web::Data<Shop>,
    id: web::Path<MaterialId>,
    upload: MultipartForm<Upload>,
) -> Result<HttpResponse, WebError> {
    let made = web::block(move || -> Result<_, WebError> {
        let bytes = std::fs::read(upload.file.file.path())
            .map_err(|e| WebError::Internal(e.to_string()))?;
        let file = upload.file.file_name.as_deref().unwrap_or("Offcut");
        add(&shop, *id, (file, &upload.paper.0), &bytes)
    })
    .await??;
    Ok(to(format!("/offcuts/{made}")))
}

/// The sample photograph, for who has none at hand.
#[post("/materials/{id}/offcuts/sample")]
async fn sample(
    shop: web::Data<Shop>,
    id: web::Path<MaterialId>,
) -> Result<HttpResponse, WebError> {
    let made = web::block(move || add(&shop, *id, (plate::FILE_NAME, "A4"), &plate::file()));
    Ok(to(format!("/offcuts/{}", made.await??)))
}

fn add(
    shop: &Shop,
    material: MaterialId,
    (file, paper): (&str, &str),
    bytes: &[u8],
) -> Result<OffcutId, WebError> {
    stocked::one(&shop.store, material)?;
    let (piece, picture) = Piece::of(material, file, paper, bytes)?;
    let body = serde_json::to_string(&piece)?;
    Ok(shop.store.add_offcut(&body, bytes, &picture)?)
}

#[get("/offcuts/{id}")]
async fn page(
    shop: web::Data<Shop>,
    id: web::Path<OffcutId>,
    reader: Reader,
) -> Result<OffcutPage, WebError> {
    web::block(move || {
        let piece = one(&shop.store, *id)?;
        Ok(OffcutPage {
            material_name: stocked::one(&shop.store, piece.material)?.material.name,
            piece: shown(*id, &piece, reader.0),
            unit: reader.0.symbol(),
        })
    })
    .await?
}

#[post("/offcuts/{id}")]
async fn change(
    shop: web::Data<Shop>,
    id: web::Path<OffcutId>,
    form: web::Form<Change>,
    reader: Reader,
) -> Result<Shown, WebError> {
    web::block(move || {
        let piece = form.into_inner().apply(&shop.store, *id, reader.0)?;
        Ok(shown(*id, &piece, reader.0).swapped())
    })
    .await?
}

/// Puts it among the stock of its material.
#[post("/offcuts/{id}/keep")]
async fn keep_it(shop: web::Data<Shop>, id: web::Path<OffcutId>) -> Result<HttpResponse, WebError> {
    let piece = web::block(move || keep(&shop.store, *id)).await??;
    Ok(to_material(piece.material))
}

/// Forgets it; one that is among the stock stays there.
#[post("/offcuts/{id}/drop")]
async fn drop_it(shop: web::Data<Shop>, id: web::Path<OffcutId>) -> Result<HttpResponse, WebError> {
    let material = web::block(move || -> Result<_, WebError> {
        let piece = one(&shop.store, *id)?;
        if !piece.kept {
            shop.store.forget_offcut(*id)?;
        }
        Ok(piece.material)
    })
    .await??;
    Ok(to_material(material))
}

fn jpeg(bytes: Vec<u8>) -> HttpResponse {
    HttpResponse::Ok()
        .content_type("image/jpeg")
        .insert_header(("Cache-Control", "private, no-cache"))
        .body(bytes)
}

/// Pixels of a photograph that a page shows.
const SHOWN: u64 = 1_500_000;

/// The photograph, turned as its file says, in a size for the page.
#[get("/offcuts/{id}/photograph")]
async fn photograph(
    shop: web::Data<Shop>,
    id: web::Path<OffcutId>,
) -> Result<HttpResponse, WebError> {
    let bytes = web::block(move || -> Result<_, WebError> {
        let file = shop.store.offcut_photograph(*id)?;
        let file = file.filter(|f| !f.is_empty()).ok_or(WebError::NoPage)?;
        let artwork = picture::read(&file)?;
        let small = artwork.picture.reduced(SHOWN);
        offcut::photograph(&small).map_err(|e| WebError::Internal(e.to_string()))
    })
    .await??;
    Ok(jpeg(bytes))
}

/// The piece as if seen from straight above; it fills the box of its outline.
#[get("/offcuts/{id}/picture")]
async fn its_picture(
    shop: web::Data<Shop>,
    id: web::Path<OffcutId>,
) -> Result<HttpResponse, WebError> {
    let found = web::block(move || shop.store.offcut_picture(*id)).await??;
    let bytes = found.filter(|f| !f.is_empty()).ok_or(WebError::NoPage)?;
    Ok(jpeg(bytes))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(arrive)
        .service(sample)
        .service(photograph)
        .service(its_picture)
        .service(keep_it)
        .service(drop_it)
        .service(change)
        .service(page);
}
