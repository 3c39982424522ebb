//! Style, scripts, fonts and icons, built into the program.

use actix_web::http::header::{CACHE_CONTROL, ETAG, IF_NONE_MATCH};
use actix_web::{HttpRequest, HttpResponse, get, web};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "$CARGO_MANIFEST_DIR/static"]
struct Static;

#[get("/static/{path:.*}")]
pub(crate) async fn file(request: HttpRequest, path: web::Path<String>) -> HttpResponse {
    let Some(file) = Static::get(&path) else {
        return HttpResponse::NotFound()
            .content_type("text/plain")
            .body("no such file");
    };
    let tag = file
        .metadata
        .sha256_hash()
        .iter()
        .take(12)
        .map(|b| format!("{b:02x}"))
        .collect::<String>();
    let tag = format!("\"{tag}\"");
    let known = request
        .headers()
        .get(IF_NONE_MATCH)
        .is_some_and(|v| v.as_bytes() == tag.as_bytes());
    let mut answer = if known {
        HttpResponse::NotModified()
    } else {
        HttpResponse::Ok()
    };
    answer
        .insert_header((ETAG, tag))
        .insert_header((CACHE_CONTROL, "no-cache"));
    if known {
        return answer.finish();
    }
    answer
        .content_type(file.metadata.mimetype())
        .body(file.data.into_owned())
}
