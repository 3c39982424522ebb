//! The Materials page: the shop's list, one material open at a time, kept as it is typed.

use actix_multipart::form::MultipartForm;
use actix_multipart::form::tempfile::TempFile;
use actix_web::http::header::{ContentDisposition, DispositionParam, DispositionType};
use actix_web::{HttpResponse, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::material::Material;
use inky_core::units::Unit;
use inky_store::MaterialId;

use crate::Shop;
use crate::error::{WebError, wrong};
use crate::materials::asked::{self, Refused};
use crate::materials::offcut::with_unkept;
use crate::materials::shown::{MaterialCard, MaterialSheet, card, sheet};
use crate::materials::stocked::{self, Listed, free_name};
use crate::materials::to_material;
use crate::reader::Reader;

#[derive(Template, WebTemplate)]
#[template(path = "materials/page.html")]
struct MaterialsPage {
    cards: Vec<MaterialCard>,
    open: Option<MaterialSheet>,
    unit: &'static str,
    swap: bool,
}

/// What changes when a material was typed into: its card in the list, and its problem line.
#[derive(Template, WebTemplate)]
#[template(path = "materials/_changed.html")]
struct Kept {
    cards: Vec<MaterialCard>,
    open: Option<MaterialSheet>,
    swap: bool,
}

fn page(all: &[Listed], open: Option<MaterialId>, unit: Unit) -> MaterialsPage {
    let found = all.iter().find(|m| Some(m.id) == open);
    MaterialsPage {
        cards: all.iter().map(|m| card(m, open, unit)).collect(),
        open: found.map(|m| sheet(m, &[], unit)),
        unit: unit.symbol(),
        swap: false,
    }
}

async fn list(shop: &web::Data<Shop>) -> Result<Vec<Listed>, WebError> {
    let store = shop.store.clone();
    web::block(move || with_unkept(&store)).await?
}

#[get("/materials")]
async fn first(shop: web::Data<Shop>, reader: Reader) -> Result<MaterialsPage, WebError> {
    let all = list(&shop).await?;
    let open = all.iter().find(|m| !m.retired).map(|m| m.id);
    Ok(page(&all, open, reader.0))
}

#[get("/materials/{id}")]
async fn one(
    shop: web::Data<Shop>,
    id: web::Path<MaterialId>,
    reader: Reader,
) -> Result<MaterialsPage, WebError> {
    let all = list(&shop).await?;
    if all.iter().all(|m| m.id != *id) {
        return Err(WebError::NoPage);
    }
    Ok(page(&all, Some(*id), reader.0))
}

/// Figures, colours and stocks as they stand in the form; what cannot be used is told beside its field and leaves
/// the rest to be kept.
#[post("/materials/{id}")]
async fn change(
    shop: web::Data<Shop>,
    id: web::Path<MaterialId>,
    form: web::Form<Vec<(String, String)>>,
    reader: Reader,
) -> Result<Kept, WebError> {
    let (id, unit) = (*id, reader.0);
    let store = shop.store.clone();
    web::block(move || {
        let old = stocked::one(&store, id)?;
        let (mut material, mut refused) = asked::read(&form, &old.material, unit);
        let all = stocked::all(&store)?;
        let taken = |name: &str| all.iter().any(|m| m.id != id && m.material.name == name);
        if taken(&material.name) {
            let typed = std::mem::replace(&mut material.name, old.material.name);
            let why =
                format!("there is a material called {typed} already; give this one another name");
            refused.push(Refused::of("name", typed, why));
        }
        store.change_material(id, &serde_json::to_string(&material)?)?;
        let all = with_unkept(&store)?;
        let found = all.iter().find(|m| m.id == id);
        Ok(Kept {
            cards: all.iter().map(|m| card(m, Some(id), unit)).collect(),
            open: found.map(|m| sheet(m, &refused, unit)),
            swap: true,
        })
    })
    .await?
}

/// Another one with the same figures, to be changed.
#[post("/materials/{id}/copy")]
async fn copy(shop: web::Data<Shop>, id: web::Path<MaterialId>) -> Result<HttpResponse, WebError> {
    let made = web::block(move || -> Result<_, WebError> {
        let all = stocked::all(&shop.store)?;
        let mut material = stocked::one(&shop.store, *id)?.material;
        material.name = free_name(&all, &format!("{} copy", material.name));
        Ok(shop
            .store
            .add_materials(&[serde_json::to_string(&material)?])?)
    })
    .await??;
    made.map(to_material).ok_or(WebError::NoPage)
}

/// A new one, with the figures of the first to begin with.
#[post("/materials/new")]
async fn add(shop: web::Data<Shop>) -> Result<HttpResponse, WebError> {
    let made = web::block(move || -> Result<_, WebError> {
        let all = stocked::all(&shop.store)?;
        let begin = inky_core::material::presets().swap_remove(0);
        let material = Material {
            name: free_name(&all, "New material"),
            colours: Vec::new(),
            ..begin
        };
        Ok(shop
            .store
            .add_materials(&[serde_json::to_string(&material)?])?)
    })
    .await??;
    made.map(to_material).ok_or(WebError::NoPage)
}

/// No longer offered, or offered again; jobs that use it keep it.
#[post("/materials/{id}/retire")]
async fn retire(
    shop: web::Data<Shop>,
    id: web::Path<MaterialId>,
) -> Result<HttpResponse, WebError> {
    let number = *id;
    let done = web::block(move || shop.store.retire_material(number)).await??;
    done.map(|_| to_material(number)).ok_or(WebError::NoPage)
}

#[get("/materials.json")]
async fn export(shop: web::Data<Shop>) -> Result<HttpResponse, WebError> {
    let all = list(&shop).await?;
    let kept: Vec<&Material> = all
        .iter()
        .filter(|m| !m.retired)
        .map(|m| &m.material)
        .collect();
    let disposition = ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![DispositionParam::Filename("materials.json".to_owned())],
    };
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header(disposition)
        .body(serde_json::to_vec_pretty(&kept)?))
}

#[derive(MultipartForm)]
struct Upload {
    #[multipart(limit = "4 MiB")]
    file: TempFile,
}

/// Greatest number of materials brought in at once.
const MOST: usize = 500;

/// Adds the materials of a list; all or none. Those whose names are taken get a number behind.
#[post("/materials/import")]
async fn import(
    shop: web::Data<Shop>,
    upload: MultipartForm<Upload>,
) -> Result<HttpResponse, WebError> {
    let made =
        web::block(move || -> Result<_, WebError> {
            let bytes = std::fs::read(upload.file.file.path())
                .map_err(|e| WebError::Internal(e.to_string()))?;
            let new: Vec<Material> = serde_json::from_slice(&bytes).map_err(|e| {
            wrong("material", format!(
                "this is no list of materials ({e}); choose a file saved from a Materials page"
            ))
        })?;
            if new.is_empty() || new.len() > MOST {
                return Err(wrong(
                    "material",
                    format!(
                        "a list holds between 1 and {MOST} materials; this one has {}",
                        new.len()
                    ),
                ));
            }
            let mut all = stocked::all(&shop.store)?;
            let mut bodies = Vec::new();
            for mut material in new {
                material
                    .check()
                    .map_err(|e| wrong("material", format!("{}: {e}", material.name)))?;
                material.name = free_name(&all, material.name.trim());
                // Pictures stay where they were taken.
                let shapes = material.stocks.iter_mut().filter_map(|s| s.shape.as_mut());
                shapes.for_each(|shape| shape.picture = None);
                bodies.push(serde_json::to_string(&material)?);
                all.push(Listed {
                    id: 0,
                    retired: false,
                    unkept: Vec::new(),
                    material,
                });
            }
            Ok(shop.store.add_materials(&bodies)?)
        })
        .await??;
    made.map(to_material).ok_or(WebError::NoPage)
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    crate::materials::trials::routes(config);
    crate::materials::offcut::routes::routes(config);
    config
        .service(export)
        .service(import)
        .service(add)
        .service(first)
        .service(copy)
        .service(retire)
        .service(change)
        .service(one);
}
