//! The unit a person reads in, kept in a cookie.

use actix_web::cookie::{Cookie, SameSite, time::Duration};
use actix_web::dev::Payload;
use actix_web::{FromRequest, HttpRequest, HttpResponse, get, post, web};
use inky_core::units::Unit;
use serde::Deserialize;

use crate::error::WebError;
use crate::typed::mm;

const NAME: &str = "units";

/// The reader's unit, millimetres unless chosen otherwise.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Reader(pub(crate) Unit);

impl FromRequest for Reader {
    type Error = actix_web::Error;
    type Future = std::future::Ready<Result<Self, Self::Error>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let inches = request.cookie(NAME).is_some_and(|c| c.value() == "in");
        std::future::ready(Ok(Self(if inches { Unit::In } else { Unit::Mm })))
    }
}

#[derive(Deserialize)]
struct To {
    to: Unit,
}

#[post("/units")]
async fn choose(to: web::Query<To>) -> HttpResponse {
    let cookie = Cookie::build(NAME, to.to.symbol())
        .path("/")
        .http_only(true)
        .same_site(SameSite::Lax)
        .max_age(Duration::days(365))
        .finish();
    HttpResponse::NoContent()
        .cookie(cookie)
        .insert_header(("HX-Refresh", "true"))
        .finish()
}

#[derive(Deserialize)]
struct Typed {
    text: String,
}

/// A length that a script was given by hand, in mm: it understands what every form does.
#[get("/length")]
async fn length(typed: web::Query<Typed>, reader: Reader) -> Result<HttpResponse, WebError> {
    let mm = mm("notice", &typed.text, reader.0)?;
    Ok(HttpResponse::Ok().json(serde_json::json!({ "mm": mm })))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(choose).service(length);
}
