//! The guide's own addresses.

use actix_web::{HttpResponse, get, web};
use askama::Template;
use askama_web::WebTemplate;
use rust_embed::RustEmbed;
use serde::Deserialize;

use crate::error::WebError;
use crate::guide::pages::{PAGES, Page, around, found};
use crate::reader::Reader;

/// Pictures of the program, as in the README.
#[derive(RustEmbed)]
#[folder = "$CARGO_MANIFEST_DIR/../../docs/screenshots"]
struct Pictures;

#[derive(Template, WebTemplate)]
#[template(path = "guide/page.html")]
struct GuidePage {
    unit: &'static str,
    pages: &'static [Page],
    /// The one that is open.
    open: Option<&'static Page>,
    words: String,
    /// What a search found: slug, title, words around it.
    hits: Vec<(String, String, String)>,
}

#[derive(Deserialize)]
struct Search {
    #[serde(default)]
    q: String,
}

#[get("/guide")]
async fn contents(search: web::Query<Search>, reader: Reader) -> GuidePage {
    let words = search.into_inner().q;
    let first = words.split_whitespace().next().unwrap_or_default();
    let wanted = first.to_lowercase();
    let hits = if words.trim().is_empty() {
        Vec::new()
    } else {
        let hit = |p: &Page| (p.slug.clone(), p.title.clone(), around(&p.words, &wanted));
        found(&words).into_iter().map(hit).collect()
    };
    GuidePage {
        unit: reader.0.symbol(),
        pages: &PAGES,
        open: None,
        words,
        hits,
    }
}

#[get("/guide/{page}")]
async fn one(path: web::Path<String>, reader: Reader) -> Result<GuidePage, WebError> {
    let open = PAGES.iter().find(|page| page.slug == *path);
    Ok(GuidePage {
        unit: reader.0.symbol(),
        pages: &PAGES,
        open: Some(open.ok_or(WebError::NoPage)?),
        words: String::new(),
        hits: Vec::new(),
    })
}

#[get("/guide/pictures/{name}")]
async fn picture(name: web::Path<String>) -> Result<HttpResponse, WebError> {
    let picture = Pictures::get(&name).ok_or(WebError::NoPage)?;
    Ok(HttpResponse::Ok()
        .content_type("image/png")
        .insert_header(("Cache-Control", "private, max-age=86400"))
        .body(picture.data.into_owned()))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(contents).service(picture).service(one);
}
